"""The command line: the same core without a window, and the way into the window.

Only `demo` and `open` import Qt, and only when they run.
"""

import contextlib
import json
import os
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import click

from maglia import __version__
from maglia.cli_count import buy, count
from maglia.cli_desktop import bundle, demo_words, desktop, picture, sheet, thumbnail
from maglia.cli_log import log
from maglia.cli_workshop import workshop_group
from maglia.core.values.record import DomainError
from maglia.memory import settle

if TYPE_CHECKING:
    from maglia.core.piece.piece import Piece
    from maglia.core.workshop.tray import Tray


class _Commands(click.Group):
    """Turns domain errors into one clear line and exit status 2; a file alone is opened."""

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        if args and args[0] not in self.commands and not args[0].startswith("-"):
            known = Path(args[0]).suffix.lower() in (".maglia", ".json", ".maglia-bundle")
            if known or Path(args[0]).is_file():
                args = ["open", *args]
        return super().parse_args(ctx, args)

    def invoke(self, ctx: click.Context) -> object:
        try:
            return super().invoke(ctx)
        except DomainError as error:
            click.echo(f"maglia: {error}", err=True)
            ctx.exit(2)


@click.group(cls=_Commands)
@click.version_option(__version__, prog_name="maglia")
@click.pass_context
def main(ctx: click.Context) -> None:
    """Maglia: design, count and hang findings-and-chain jewellery."""
    ctx.obj = _piece


def _window_options(command: click.decorators.FC) -> click.decorators.FC:
    for option in (
        click.option("--theme", type=click.Choice(["felt", "slate"]), help="Light or dark mat."),
        click.option("--room", default="bench", show_default=True, help="Room to show."),
        click.option("--size", default="1280x800", show_default=True, help="Window size."),
        click.option("--shot", type=click.Path(path_type=Path), help="Save a PNG and leave."),
        click.option("--workshop", type=click.Path(path_type=Path), help="Another workshop FILE."),
    ):
        command = option(command)
    return command


@main.command()
@click.argument("name", required=False, shell_complete=demo_words)
@click.option("--list", "listing", is_flag=True, help="Name the pieces of the demo and leave.")
@click.option("--fresh", is_flag=True, help="Begin the demo's copy of the workshop anew.")
@_window_options
def demo(
    name: str | None,
    listing: bool,
    shot: Path | None,
    size: str,
    room: str,
    theme: str | None,
    workshop: Path | None,
    fresh: bool,
) -> None:
    """Open the demo workshop, or one of its pieces by NAME."""
    from maglia.demo import demo_names, demo_path

    if listing:
        click.echo("\n".join(demo_names()))
        return
    _open_window(demo_path(name), shot, size, room, theme, workshop, demo=True, fresh=fresh)


@main.command(name="open")
@click.argument("file", type=click.Path(path_type=Path), required=False)
@_window_options
def open_file(
    file: Path | None,
    shot: Path | None,
    size: str,
    room: str,
    theme: str | None,
    workshop: Path | None,
) -> None:
    """Open a piece FILE (or a demo piece by name) in the window, or the last one."""
    from maglia.demo import demo_named

    demo = demo_named(file) if file else None
    _open_window(demo or file, shot, size, room, theme, workshop, demo=demo is not None)


def _open_window(
    path: Path | None,
    shot: Path | None,
    size: str,
    room: str,
    theme: str | None,
    workshop: Path | None,
    *,
    demo: bool = False,
    fresh: bool = False,
) -> None:
    try:
        width, height = (int(part) for part in size.lower().split("x"))
    except ValueError:
        raise DomainError(f"--size {size}: write width x height, such as 1280x800") from None
    settle()
    from maglia.app.start import Wishes, run_window

    status = run_window(Wishes(path, demo, shot, (width, height), room, theme, workshop, fresh))
    if shot is not None:
        sys.exit(status)
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(status)  # at once: an answer still being worked out is not waited for


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--json", "as_data", is_flag=True, help="Write JSON (docs/report.md).")
@click.option("--unit", type=click.Choice(["mm", "cm", "in"]), default="mm", show_default=True)
def report(file: Path, as_data: bool, unit: str) -> None:
    """Measure, count, hang and check the piece in FILE (a file or a demo piece)."""
    from maglia.core.assembly.expand import expand

    piece = _piece(file)
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
@click.option("--json", "as_data", is_flag=True, help="Write JSON (docs/plan.md).")
@click.option("--school", type=click.Choice(["flat", "carrier"]), help="Laid flat, or hung on.")
@click.option("--habit", "habits", multiple=True, help="Such as links=each, loops=looper.")
@click.option("--unit", type=click.Choice(["mm", "cm", "in"]), default="mm", show_default=True)
def plan(file: Path, as_data: bool, school: str | None, habits: tuple[str, ...], unit: str) -> None:
    """Plan how the piece in FILE (a file or a demo piece) is made, step by step."""
    from maglia.core.assembly.expand import expand
    from maglia.core.joining.plan import joining_plan
    from maglia.core.joining.text import as_json, as_text, make_sheet
    from maglia.core.joining.ways import USUAL, with_habit

    working = USUAL
    for said in (*([f"order={school}"] if school else ()), *habits):
        working = with_habit(working, said)
    try:
        assembly = expand(_piece(file))
    except DomainError as fault:
        raise DomainError(f"{file.name}: {fault}") from None
    made = joining_plan(assembly, working)
    sheet = make_sheet(assembly, made, unit, both=not as_data)  # type: ignore[arg-type]
    if as_data:
        click.echo(json.dumps(as_json(sheet), indent=1, ensure_ascii=False))
    else:
        click.echo(as_text(sheet, unit), nl=False)  # type: ignore[arg-type]


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--wish", "wishes", multiple=True, help="What you want: “tiers first 40 gaps 25”.")
@click.option("--out", type=click.Path(path_type=Path), help="Save the piece with its fits here.")
@click.option("--json", "as_data", is_flag=True, help="Write JSON (docs/fits.md).")
@click.option("--unit", type=click.Choice(["mm", "cm", "in"]), default="mm", show_default=True)
@click.option("--list", "listing", is_flag=True, help="List every form of a wish and leave.")
def fit(
    file: Path, wishes: tuple[str, ...], out: Path | None, as_data: bool, unit: str, listing: bool
) -> None:
    """Solve the fits of the piece in FILE (a file or a demo piece), and any further WISH."""
    from maglia.core.fit.wishes import FORMS, read_fit, with_fit

    if listing:
        click.echo("\n".join(f"{form:<30} {what}" for form, what in FORMS))
        return
    from maglia.core.fit.look import Trials
    from maglia.core.fit.solve import differences, solve
    from maglia.core.fit.text import fitted_json, fitted_lines
    from maglia.files.piece_json import write_piece

    given = piece = _piece(file)
    for wish in wishes:
        piece = with_fit(piece, read_fit(wish, piece, unit))  # type: ignore[arg-type]
    solved = solve(piece, Trials(progress=_progress("hung")))
    if out is not None:
        write_piece(solved.piece, out)
    changed = differences(given, solved.piece)
    if as_data:
        fits = [fitted_json(one) for one in solved.fitted]
        click.echo(json.dumps({"changed": changed, "fits": fits}, indent=1, ensure_ascii=False))
        return
    lines = [line for one in solved.fitted for line in fitted_lines(one)]
    lines += ["changed: " + "; ".join(changed) if changed else "nothing to change"]
    click.echo("\n".join(lines if solved.fitted else ["this piece has no fits; give a --wish"]))


@main.command()
@click.argument("script", type=click.Path(path_type=Path))
@click.option("--out", required=True, type=click.Path(path_type=Path), help="The piece FILE made.")
@click.option(
    "--workshop",
    "own",
    type=click.Path(path_type=Path),
    help="Name parts of this workshop FILE and keep new ones in it; begun if missing.",
)
@click.option("--onto", type=click.Path(path_type=Path), help="Go on with a piece FILE or a demo.")
def write(script: Path, out: Path, own: Path | None, onto: Path | None) -> None:
    """Make a piece from the phrases in SCRIPT, one a line, and write it to --out (docs/phrases.md).

    What is refused is named with its line; then nothing is written.
    """
    from maglia.core.workshop.tray import Tray
    from maglia.files import disk
    from maglia.files.piece_json import write_piece
    from maglia.phrases.script import write as written

    text = disk.read_text(script)
    begun = _piece(onto) if onto else None
    held = _tray_of(own) if own is not None and own.exists() else Tray()
    try:
        made = written(text, held, begun)
    except DomainError as fault:
        raise DomainError(f"{disk.shown(script)}: {fault}") from None
    if own is None:
        write_piece(made.bench, out)
        if made.lies:
            names = ", ".join(dict.fromkeys(part.name for part, _ in made.lies))
            click.echo(f"maglia: what lies there of {names} is kept in a workshop alone: give "
                       "--workshop FILE to keep it", err=True)  # fmt: skip
        return
    from maglia.files.workshop import contents, stock
    from maglia.files.workshop.store import open_workshop

    with contextlib.closing(open_workshop(own)) as workshop, workshop.changing():
        contents.change(workshop, [contents.added(record) for record in made.keeps])
        stock.do_all(workshop, made.lies, time.strftime("%Y-%m-%dT%H:%M:%S"))
        write_piece(made.piece, out)


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
def phrases(file: Path) -> None:
    """Show the piece in FILE (a file or a demo piece) as the phrases that make it."""
    from maglia.phrases.told import told

    try:
        said = told(_piece(file))
    except DomainError as fault:
        raise DomainError(f"{file.name}: no phrase says {fault}") from None
    click.echo("\n".join(said))


def _tray_of(path: Path) -> "Tray":
    """What a workshop holds, only looked at."""
    from maglia.core.workshop.tray import Tray
    from maglia.files.workshop import contents
    from maglia.files.workshop.store import open_workshop

    with contextlib.closing(open_workshop(path, make=False)) as held:
        parts, units, wearers = (contents.kept(held, sort) for sort in ("part", "unit", "wearer"))
    return Tray(parts=tuple(parts.values()), units=tuple(units.values()),
                wearers=tuple(wearers.values()))  # fmt: skip


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--wearers", type=click.Path(path_type=Path), help="CSV of role and girths in mm.")
@click.option("--csv", "out", type=click.Path(path_type=Path), help="Write the table to this file.")
def regrade(file: Path, wearers: Path | None, out: Path | None) -> None:
    """Solve the piece in FILE (a file or a demo piece) for every wearer, as one table."""
    from maglia.core.fit.look import Trials
    from maglia.core.fit.regrade import regraded
    from maglia.demo import demo_wearers
    from maglia.files.disk import write_atomically
    from maglia.files.tables import columns, read_wearers, regrade_csv, regrade_table

    people = read_wearers(wearers) if wearers else demo_wearers()
    graded = regraded(_piece(file), people, Trials(progress=_progress("hung")))
    if out is not None:
        write_atomically(out, regrade_csv(graded))
    click.echo(columns(regrade_table(graded)))


def _piece(file: Path) -> "Piece":
    """The piece in a file, or the demo piece of that name."""
    from maglia.demo import demo_named
    from maglia.files.piece_json import read_piece

    settle()
    return read_piece(demo_named(file) or file)


def _progress(verb: str) -> Callable[[int], None]:
    """Tells, on a terminal, how far work of more than half a second has come."""
    began = time.monotonic()

    def told(count: int) -> None:
        if sys.stderr.isatty() and time.monotonic() - began > 0.5:
            click.echo(f"\r{verb} {count} times (Ctrl+C stops) ", nl=False, err=True)

    return told


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--out", type=click.Path(path_type=Path), help="Write the answer to this file.")
@click.option("--json", "as_data", is_flag=True, help="Write the answer to standard output.")
def network(file: Path, out: Path | None, as_data: bool) -> None:
    """Solve the network in FILE (docs/network.md). Exit status 3 if it finds no rest."""
    from maglia.core.hang.solve import solve
    from maglia.files.disk import write_atomically
    from maglia.files.network_json import answer, read_named

    net, ids = read_named(file)
    began = time.perf_counter()
    solution = solve(net)
    found = answer(solution, time.perf_counter() - began, net, ids)
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
    from maglia.core.piece.piece import Form

    try:
        pairs = [tuple(float(part) for part in chain.split(":")) for chain in chains]
        measured = tuple(Measured(length, fall) for length, fall in pairs)
    except (ValueError, TypeError):
        raise DomainError("write each chain as its length and its fall, such as 450:22") from None
    if not 50 <= neck <= 1000:
        raise DomainError(f"--neck {neck:g}: a neck is 50 to 1000 mm round")
    for one in measured:
        if not 50 <= one.length_mm <= 3000 or not -300 <= one.fall_mm <= 1500:
            raise DomainError(
                f"--chain {one.length_mm:g}:{one.fall_mm:g}: a chain is 50 to 3000 mm long and "
                "falls -300 to 1500 mm"
            )
    form = calibrated(neck, Form(kind="bust", posture=posture), measured[:2])  # type: ignore[arg-type]
    found = {"neck_shift_mm": form.neck_shift_mm, "chest_shift_mm": form.chest_shift_mm}
    click.echo(json.dumps({"kind": "bust", "posture": posture, **found}))


for command in (count, buy, log, workshop_group, desktop, bundle, sheet, picture, thumbnail):
    main.add_command(command)


@main.command()
def schema() -> None:
    """Print the JSON Schema of piece files."""
    from maglia.files.piece_json import schema as piece_schema

    click.echo(json.dumps(piece_schema(), indent=1, ensure_ascii=False))
