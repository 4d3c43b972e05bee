"""`maglia count`: what a day's work takes, without a window."""

from __future__ import annotations

import contextlib
import csv
import io
import json
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import click

from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.core.cutting.day import Making
    from maglia.core.cutting.lengths import Length, Stuff
    from maglia.core.parts.parts import Part
    from maglia.core.piece.piece import Piece


@click.command()
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--copies", type=click.IntRange(1, 1000), default=1, show_default=True,
              help="How many of each.")  # fmt: skip
@click.option("--lots", type=click.Path(path_type=Path), help="CSV of lengths on the bench.")
@click.option("--sold", type=click.Path(path_type=Path), help="CSV of lengths as they are sold.")
@click.option("--workshop", type=click.Path(path_type=Path), help="A workshop FILE, else your own.")
@click.option("--keep", "keep_mm", type=click.FloatRange(0, 10_000), default=30.0,
              show_default=True, help="Off-cuts from so many mm are kept.")  # fmt: skip
@click.option("--seconds", type=click.FloatRange(0.1, 3600), default=20.0, show_default=True,
              help="How long a chain may be worked at.")  # fmt: skip
@click.option("--json", "as_data", is_flag=True, help="Write JSON (docs/count.md).")
@click.option("--csv", "out", type=click.Path(path_type=Path), help="Write the cuts as a table.")
@click.option("--unit", type=click.Choice(["mm", "cm", "in"]), default="mm", show_default=True)
@click.pass_obj
def count(
    piece_of: Callable[[Path], Piece], files: tuple[Path, ...], copies: int, lots: Path | None,
    sold: Path | None, workshop: Path | None, keep_mm: float, seconds: float, as_data: bool,
    out: Path | None, unit: str,
) -> None:  # fmt: skip
    """Count and cut the pieces in FILES (files or demo pieces) as one day."""
    from maglia.core.cutting import text
    from maglia.core.cutting.day import cuttings, stuff_of, wants_of

    day = _day(piece_of, files, copies)
    parts, _ = wants_of(day)
    stuff = {ref: own for ref, part in parts.items() if (own := stuff_of(part, keep_mm))}
    there = _read(lots, parts, stuff) if lots else _own(workshop, parts, stuff)
    bought = {}
    for ref, found in (_read(sold, parts, stuff) if sold else {}).items():
        if len(found) > 1:
            raise DomainError(f"{sold}: {parts[ref].name} is sold in one length, and "
                              f"{len(found)} are given")  # fmt: skip
        bought[ref] = found[0].links
    done = dict(cuttings(day, there, bought, keep_mm, seconds))
    if out is not None:
        from maglia.files.disk import write_atomically

        table = io.StringIO(newline="")
        csv.writer(table).writerows(text.rows_of(done))
        write_atomically(out, "\ufeff" + table.getvalue())
    if as_data:
        click.echo(json.dumps(text.as_json(day, done), indent=1, ensure_ascii=False))
    elif out is None:
        click.echo(text.as_text(day, done, unit), nl=False)  # type: ignore[arg-type]


def _day(piece_of: Callable[[Path], Piece], files: tuple[Path, ...], copies: int) -> list[Making]:
    from maglia.core.assembly.expand import expand
    from maglia.core.cutting.day import Making

    day = []
    for file in files:
        try:
            day.append(Making(expand(piece_of(file)), copies))
        except DomainError as fault:
            raise DomainError(f"{file.name}: {fault}") from None
    return day


def _read(path: Path, parts: dict[str, Part], stuff: dict[str, Stuff]) -> dict[str, list[Length]]:
    from maglia.files.lengths_csv import read_lengths

    found = read_lengths(path, parts, stuff)
    for passed in found.passed:
        click.echo(f"maglia: {passed}; left out", err=True)
    return found.by_part


def _own(
    workshop: Path | None, parts: dict[str, Part], stuff: dict[str, Stuff]
) -> dict[str, list[Length]]:
    """The lengths that lie in a workshop; none without one."""
    from platformdirs import user_data_path

    from maglia.core.cutting.day import amount_in
    from maglia.core.cutting.lengths import Length
    from maglia.files.workshop import stock
    from maglia.files.workshop.store import open_workshop

    path = workshop or user_data_path("maglia") / "workshop.sqlite"
    if workshop is None and not path.exists():
        return {}
    with contextlib.closing(open_workshop(path, make=False)) as held:
        lying = stock.lying(held)
    return {
        ref: [Length(lot.name, amount_in(parts[ref], lot), lot.first_phase)
              for lot in lying[ref].lots]
        for ref in stuff if ref in lying
    }  # fmt: skip
