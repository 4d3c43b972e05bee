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
    from maglia.files.workshop.contents import write_whole
    from maglia.files.workshop.store import open_workshop

    write_whole(open_workshop(own or workshop_path(), make=False), out)


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


@workshop_group.command(name="backups")
@_workshop_option
def list_backups(own: Path | None) -> None:
    """The backups there are, the newest first."""
    from maglia.files.workshop.backups import backups_of, day_of, weekday_of

    for one in backups_of(own or workshop_path())[::-1]:
        click.echo(f"{day_of(one)}  {weekday_of(one)}  {one.name}")


@workshop_group.command(name="restore")
@click.argument("day")
@_workshop_option
def restore_workshop(day: str, own: Path | None) -> None:
    """Put the backup of DAY (2026-03-17, or Tuesday: the last one) in the place of the workshop,
    which is set aside."""
    from maglia.files.workshop.backups import backups_of, day_of, weekday_of
    from maglia.files.workshop.going_back import put_back

    path = own or workshop_path()
    found = [
        one for one in backups_of(path) if day.lower() in (day_of(one), weekday_of(one).lower())
    ]
    if not found:
        raise DomainError(f"there is no backup of “{day}”: “maglia workshop backups” lists them")
    aside = put_back(path, found[-1])
    was = f"; what was there is {aside.name} beside it" if aside else ""
    click.echo(f"{found[-1].name} is the workshop now{was}")


@workshop_group.command(name="check")
@_workshop_option
def check_workshop(own: Path | None) -> None:
    """Look whether a workshop is whole and its stock adds up. Exit status 2 if not."""
    from maglia.files.workshop import contents, log, stock
    from maglia.files.workshop.store import open_workshop

    found = open_workshop(own or workshop_path(), make=False)
    if wrong := stock.faults(found):
        raise DomainError("the stock does not add up: " + "; ".join(wrong))
    if wrong := [*contents.faults(found), *log.faults(found)]:
        raise DomainError("what cannot be read is left out: " + "; ".join(wrong))
    click.echo("whole; the stock adds up")
