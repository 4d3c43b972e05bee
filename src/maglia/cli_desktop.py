"""`maglia desktop`: at home on the desktop of the user, and away again; and what manual and shells
say, from the commands themselves.
"""

from __future__ import annotations

import os
import signal
import textwrap
import time
from collections.abc import Iterator
from pathlib import Path

import click
from click.shell_completion import get_completion_class

from maglia import __version__
from maglia.core.values.record import DomainError
from maglia.files import disk

SHELLS = {
    "bash": "bash-completion/completions/maglia",
    "zsh": "zsh/site-functions/_maglia",
    "fish": "fish/vendor_completions.d/maglia.fish",
}
"""Where each shell looks for words of programs, from the user's folder for data on."""
SMALL_CPU_S = 5.0
"""What a small picture may take of the processor."""
MANUAL = "man/man1/maglia.1"
RELEASED = "2026-11-27"


@click.group()
def desktop() -> None:
    """Put Maglia into your desktop's menu, or take it out."""


@desktop.command()
@click.pass_context
def install(ctx: click.Context) -> None:
    """Menu entry, icons, type of piece files, small pictures, manual page, words for the shell:
    all in your own folders."""
    from maglia.desktop.install import data_folder, install, own_command, placed

    data, command = data_folder(), own_command()
    done = install(data, placed(command, _texts(ctx)))
    click.echo(f"{len(done)} files put into {data}. Pieces (.maglia) open with:")
    click.echo(f"  {' '.join(command)} open FILE")
    click.echo("`maglia desktop remove` takes them out again.")


@desktop.command()
@click.pass_context
def remove(ctx: click.Context) -> None:
    """Take out what `maglia desktop install` put in. Pieces and workshop stay."""
    from maglia.desktop.install import data_folder, own_command, placed, remove

    done = remove(data_folder(), placed(own_command(), _texts(ctx)))
    click.echo(f"{len(done)} files taken out of {data_folder()}.")


@desktop.command()
@click.argument("shell", type=click.Choice([*SHELLS]))
@click.pass_context
def words(ctx: click.Context, shell: str) -> None:
    """Print what lets a SHELL complete Maglia's commands, files and demo pieces."""
    click.echo(_completion(ctx, shell), nl=False)


@desktop.command()
@click.pass_context
def manual(ctx: click.Context) -> None:
    """Print the manual page."""
    click.echo(manual_page(_root(ctx)), nl=False)


def _texts(ctx: click.Context) -> dict[str, str]:
    shells = {place: _completion(ctx, shell) for shell, place in SHELLS.items()}
    return {MANUAL: manual_page(_root(ctx)), **shells}


def _root(ctx: click.Context) -> click.Group:
    command = ctx.find_root().command
    assert isinstance(command, click.Group)
    return command


def _completion(ctx: click.Context, shell: str) -> str:
    kind = get_completion_class(shell)
    assert kind is not None
    made = kind(_root(ctx), {}, "maglia", "_MAGLIA_COMPLETE")
    return made.source_template % made.source_vars()


def manual_page(main: click.Group) -> str:
    """The manual page in the old typesetting language of manuals (mdoc's elder, man)."""
    return "\n".join(_manual(main)) + "\n"


def _manual(main: click.Group) -> Iterator[str]:
    yield f'.TH MAGLIA 1 "{RELEASED}" "Maglia {__version__}" "User commands"'
    yield from (".SH NAME", "maglia \\- design, count, hang and make chain jewellery")
    yield from (".SH SYNOPSIS", ".B maglia", "[\\fIFILE\\fR | \\fICOMMAND\\fR ...]")
    yield ".SH DESCRIPTION"
    yield _plain(
        "Maglia is for one person at one bench, the assembler of findings-and-chain jewellery. "
        "With a piece file it opens the window on it; every other word is a command."
    )
    yield ".SH COMMANDS"
    yield from _commands(main, "maglia", click.Context(main, info_name="maglia"))
    yield ".SH FILES"
    for place, about in (
        ("~/.local/share/maglia/workshop.sqlite", "parts, wearers, rules, stock and builds"),
        ("~/.config/maglia/settings.json", "theme, units, text size and habits"),
        ("~/.local/state/maglia/kept", "work that is not saved yet"),
    ):
        yield from (".TP", f".I {_plain(place)}", _plain(about))
    yield ".SH EXIT STATUS"
    yield _plain(
        "0: done. 2: not done; the line on standard error says what, where and what to do. "
        "3: a network without rest shape."
    )


def _commands(group: click.Group, name: str, ctx: click.Context) -> Iterator[str]:
    for word in group.list_commands(ctx):
        command = group.get_command(ctx, word)
        if command is None or command.hidden:
            continue
        whole, inner = f"{name} {word}", click.Context(command, info_name=word, parent=ctx)
        if isinstance(command, click.Group):
            yield from _commands(command, whole, inner)
            continue
        yield from (".TP", f".B {_plain(whole)}")
        pieces = [piece for piece in command.collect_usage_pieces(inner) if piece != "[OPTIONS]"]
        yield _plain(f"{' '.join(pieces)}. {command.help or ''}".lstrip(". "))
        for own in command.params:
            record = own.get_help_record(inner) if isinstance(own, click.Option) else None
            if record is not None and record[0] != "--help":
                yield from (".RS", ".TP", f".B {_plain(record[0])}", _plain(record[1]), ".RE")


def _plain(text: str) -> str:
    """Text with nothing in it that the typesetting language would read as its own."""
    lines = textwrap.wrap(" ".join(text.split()), 76, break_on_hyphens=False) or [""]
    safe = (line.replace("\\", "\\e").replace("-", "\\-").replace("'", "\\(aq") for line in lines)
    return "\n".join(f"\\&{line}" if line.startswith(".") else line for line in safe)


def demo_words(ctx: click.Context, param: click.Parameter, begun: str) -> list[str]:
    """Demo pieces that begin like that, for shells."""
    from maglia.demo import demo_names

    return [name for name in demo_names() if name.startswith(begun)]


@click.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--size", type=click.IntRange(16, 2048), default=256, show_default=True)
def thumbnail(file: Path, out: Path, size: int) -> None:
    """Draw the piece in FILE small, to fit SIZE x SIZE pixels, as PNG: for file managers, so within
    a few seconds or not at all."""
    from maglia.app.offscreen import offscreen
    from maglia.core.hang.solution import Cancelled
    from maglia.core.report import evaluate
    from maglia.files.piece_json import read_piece

    end = time.process_time() + SMALL_CPU_S
    signal.setitimer(signal.ITIMER_PROF, 2 * SMALL_CPU_S)  # what does not heed `end` ends by this
    try:
        found = evaluate(read_piece(file), lambda: time.process_time() > end)
        with offscreen():
            from maglia.app.still_picture import save_small

            save_small(found, out, size)
    except Cancelled:
        raise DomainError(f"{disk.shown(file)} takes too long to be drawn small") from None
    finally:
        signal.setitimer(signal.ITIMER_PROF, 0)


@click.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--ground", type=click.Choice(["none", "mat"]), default="none", show_default=True)
@click.option("--width", type=click.IntRange(16, 10_000), help="Pixels; else at true size.")
@click.option("--dpi", type=click.FloatRange(20, 2400), default=300.0, show_default=True,
              help="Dots an inch, for true size.")  # fmt: skip
@click.pass_context
def picture(
    ctx: click.Context, file: Path, out: Path, ground: str, width: int | None, dpi: float
) -> None:
    """Draw the piece in FILE (a file or a demo piece) as it hangs, as PNG or SVG: on a transparent
    ground, at true size."""
    from maglia.app.offscreen import offscreen
    from maglia.core.report import evaluate

    found = evaluate(ctx.find_object(object)(file))  # type: ignore[operator]
    with offscreen():
        from maglia.app.still_picture import save_picture

        size = save_picture(found, out, mat=ground == "mat", width=width, dpi=dpi)
    click.echo(f"{os.fspath(out)}: {size}")


@click.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--kit", is_flag=True, help="For who puts it together, not for who wears it.")
@click.option("--unit", type=click.Choice(["mm", "cm", "in"]), default="mm", show_default=True)
@click.pass_context
def sheet(ctx: click.Context, file: Path, out: Path, kit: bool, unit: str) -> None:
    """Write a sheet of the piece in FILE (a file or a demo piece) as PDF or SVG: picture, sizes,
    what it is made of, care; or the kit, part by part."""
    from maglia.app.offscreen import offscreen
    from maglia.core.report import evaluate

    found = evaluate(ctx.find_object(object)(file))  # type: ignore[operator]
    with offscreen():
        from maglia.app.customer_sheet import save_customer, save_kit

        (save_kit if kit else save_customer)(found, out, unit)  # type: ignore[arg-type]
    click.echo(f"{os.fspath(out)} is written")


@click.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--workshop", type=click.Path(path_type=Path), help="A workshop FILE, else your own.")
@click.pass_context
def bundle(ctx: click.Context, file: Path, out: Path, workshop: Path | None) -> None:
    """Write the piece in FILE with its builds and photographs to OUT, to be opened elsewhere."""
    from maglia.files.workshop.bundle import gathered, write_bundle
    from maglia.files.workshop.place import workshop_path
    from maglia.files.workshop.store import open_workshop

    own = workshop or workshop_path()
    store = open_workshop(own, make=False) if workshop is not None or own.exists() else None
    made = gathered(ctx.find_object(object)(file), store)  # type: ignore[operator]
    write_bundle(out, made)
    click.echo(
        f"{os.fspath(out)}: the piece, {len(made.builds)} builds, {len(made.photographs)} "
        "photographs"
    )
    for lost in made.missing:
        click.echo(f"not in it, since it cannot be read: {lost}", err=True)
