"""The command line: the same core without a window, and the way into the window.

Only `demo` and `open` import Qt, and only when they run.
"""

import json
import sys
import time
from pathlib import Path

import click

from maglia import __version__
from maglia.core.record import DomainError
from maglia.memory import settle


class _Commands(click.Group):
    """Turns domain errors into one clear line and exit status 2."""

    def invoke(self, ctx: click.Context) -> object:
        try:
            return super().invoke(ctx)
        except DomainError as error:
            click.echo(f"maglia: {error}", err=True)
            ctx.exit(2)


@click.group(cls=_Commands)
@click.version_option(__version__, prog_name="maglia")
def main() -> None:
    """Maglia: design, count and hang findings-and-chain jewellery."""


def _window_options(command: click.decorators.FC) -> click.decorators.FC:
    for option in (
        click.option("--theme", type=click.Choice(["felt", "slate"]), help="Light or dark mat."),
        click.option("--room", default="bench", show_default=True, help="Room to show."),
        click.option("--size", default="1280x800", show_default=True, help="Window size."),
        click.option("--shot", type=click.Path(path_type=Path), help="Save a PNG and leave."),
    ):
        command = option(command)
    return command


@main.command()
@click.argument("name", required=False)
@click.option("--list", "listing", is_flag=True, help="Name the pieces of the demo and leave.")
@_window_options
def demo(
    name: str | None, listing: bool, shot: Path | None, size: str, room: str, theme: str | None
) -> None:
    """Open the demo workshop, or one of its pieces by NAME."""
    from maglia.demo import demo_names, demo_path

    if listing:
        click.echo("\n".join(demo_names()))
        return
    _open_window(demo_path(name), shot, size, room, theme, demo=True)


@main.command(name="open")
@click.argument("file", type=click.Path(path_type=Path))
@_window_options
def open_file(file: Path, shot: Path | None, size: str, room: str, theme: str | None) -> None:
    """Open a piece FILE in the window."""
    _open_window(file, shot, size, room, theme)


def _open_window(
    path: Path, shot: Path | None, size: str, room: str, theme: str | None, *, demo: bool = False
) -> None:
    try:
        width, height = (int(part) for part in size.lower().split("x"))
    except ValueError:
        raise DomainError(f"--size {size}: write width x height, such as 1280x800") from None
    from maglia.bench.start import Wishes, run_window

    wishes = Wishes(path, demo, shot, (width, height), room, theme)
    sys.exit(run_window(wishes))


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--json", "as_data", is_flag=True, help="Write JSON (docs/report.md).")
@click.option("--unit", type=click.Choice(["mm", "cm", "in"]), default="mm", show_default=True)
def report(file: Path, as_data: bool, unit: str) -> None:
    """Measure, count, hang and check the piece in FILE."""
    from maglia.core.expand import expand
    from maglia.files.piece_json import read_piece

    piece = read_piece(file)
    try:
        expand(piece)  # what cannot be built is said before the numerics are even loaded
        from maglia.core.report import as_json, as_text, evaluate

        settle()
        found = evaluate(piece)
    except DomainError as fault:
        raise DomainError(f"{file.name}: {fault}") from None
    if as_data:
        click.echo(json.dumps(as_json(found), indent=1, ensure_ascii=False))
    else:
        click.echo(as_text(found, unit), nl=False)  # type: ignore[arg-type]


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--out", type=click.Path(path_type=Path), help="Write the answer to this file.")
@click.option("--json", "as_data", is_flag=True, help="Write the answer to standard output.")
def network(file: Path, out: Path | None, as_data: bool) -> None:
    """Solve the network in FILE (docs/network.md). Exit status 3 if it finds no rest."""
    from maglia.core.hang.solve import solve
    from maglia.files.network_json import answer, read_network
    from maglia.files.piece_json import write_atomically

    net = read_network(file)
    began = time.perf_counter()
    solution = solve(net)
    found = answer(solution, time.perf_counter() - began)
    text = json.dumps(found)
    if out is not None:
        write_atomically(out, text + "\n")
    if as_data:
        click.echo(text)
    else:
        cause = f": {solution.cause}" if solution.cause else ""
        seconds = found["seconds"]
        click.echo(f"{solution.state}{cause} ({solution.iterations} steps, {seconds:.3f} s)")
    sys.exit(0 if solution.state == "converged" else 3)


@main.command()
@click.option("--neck", type=float, required=True, help="Neck girth of the display bust, mm.")
@click.option("--chain", "chains", multiple=True, required=True, help="LENGTH:FALL in mm.")
@click.option("--posture", type=click.Choice(["upright", "easy", "sloping"]), default="easy")
def calibrate(neck: float, chains: tuple[str, ...], posture: str) -> None:
    """Fit the bust to your own: closed lengths of plain chains and how far they fell."""
    from maglia.core.hang.calibrate import Measured, calibrated
    from maglia.core.piece import Form

    try:
        pairs = [tuple(float(part) for part in chain.split(":")) for chain in chains]
        measured = tuple(Measured(length, fall) for length, fall in pairs)
    except (ValueError, TypeError):
        raise DomainError("write each chain as its length and its fall, such as 450:22") from None
    form = calibrated(neck, Form(kind="bust", posture=posture), measured[:2])  # type: ignore[arg-type]
    found = {"neck_shift_mm": form.neck_shift_mm, "chest_shift_mm": form.chest_shift_mm}
    click.echo(json.dumps({"kind": "bust", "posture": posture, **found}))


@main.command()
def schema() -> None:
    """Print the JSON Schema of piece files."""
    from maglia.files.piece_json import schema as piece_schema

    click.echo(json.dumps(piece_schema(), indent=1, ensure_ascii=False))
