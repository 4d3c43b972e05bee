"""`maglia workshop`: the whole of it as JSON, out and in; and whether it is sound."""

from __future__ import annotations

from pathlib import Path

import click

from maglia.core.values.record import DomainError
from maglia.files.workshop.place import workshop_path


@click.group(name="workshop")
def workshop_group() -> None:
    """Your workshop: parts, units, wearers, rules, stock."""


def _workshop_option(command: click.decorators.FC) -> click.decorators.FC:
    return click.option(
        "--workshop", "own", type=click.Path(path_type=Path),
        help="A workshop FILE, else your own.",
    )(command)  # fmt: skip


@workshop_group.command(name="export")
@click.argument("out", type=click.Path(path_type=Path))
@_workshop_option
def export_workshop(out: Path, own: Path | None) -> None:
    """Write the whole workshop to OUT as JSON."""
    from maglia.files.disk import write_atomically
    from maglia.files.workshop.contents import exported
    from maglia.files.workshop.store import open_workshop

    write_atomically(out, exported(open_workshop(own or workshop_path(), make=False)))


@workshop_group.command(name="import")
@click.argument("file", type=click.Path(path_type=Path))
@_workshop_option
def import_workshop(file: Path, own: Path | None) -> None:
    """Read an exported workshop into a new or empty one."""
    from maglia.files.workshop.contents import import_whole, read_whole
    from maglia.files.workshop.store import open_workshop

    whole = read_whole(file)
    import_whole(open_workshop(own or workshop_path()), whole)
    click.echo(
        f"{len(whole.parts)} parts, {len(whole.units)} units, {len(whole.wearers)} wearers, "
        f"{len(whole.events)} stock events"
    )


@workshop_group.command(name="check")
@_workshop_option
def check_workshop(own: Path | None) -> None:
    """Look whether a workshop is whole and its stock adds up. Exit status 2 if not."""
    from maglia.files.workshop import contents, stock
    from maglia.files.workshop.store import open_workshop

    found = open_workshop(own or workshop_path(), make=False)
    for sort in contents.SORTS:
        contents.kept(found, sort)
    if wrong := stock.faults(found):
        raise DomainError("the stock does not add up: " + "; ".join(wrong))
    click.echo("whole; the stock adds up")
