"""`maglia count` and `maglia buy`: what a day's work takes, without a window."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

import click

from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.core.cutting.day import Cutting, Making
    from maglia.core.cutting.lengths import Length, Stuff
    from maglia.core.parts.parts import Part
    from maglia.core.piece.piece import Piece
    from maglia.core.values.rules import Rules
    from maglia.core.workshop.lying import Lying


def _day_options(command: click.decorators.FC) -> click.decorators.FC:
    for option in (
        click.option("--unit", type=click.Choice(["mm", "cm", "in"]), default="mm",
                     show_default=True),
        click.option("--seconds", type=click.FloatRange(0.1, 3600), default=20.0,
                     show_default=True, help="How long a chain may be worked at."),
        click.option("--keep", "keep_mm", type=click.FloatRange(0, 10_000), default=30.0,
                     show_default=True, help="Off-cuts from so many mm are kept."),
        click.option("--workshop", type=click.Path(path_type=Path),
                     help="A workshop FILE, else your own."),
        click.option("--sold", type=click.Path(path_type=Path),
                     help="CSV of lengths as they are sold."),
        click.option("--lots", type=click.Path(path_type=Path),
                     help="CSV of lengths on the bench."),
        click.option("--copies", type=click.IntRange(1, 1000), default=1, show_default=True,
                     help="How many of each."),
        click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path)),
    ):  # fmt: skip
        command = option(command)
    return command


class _Counted(NamedTuple):
    """A day with its cuts, and what lies in the workshop."""

    day: list[Making]
    cuttings: dict[str, Cutting]
    bags: dict[str, int]
    rules: Rules
    parts: tuple[Part, ...]


@click.command()
@_day_options
@click.option("--json", "as_data", is_flag=True, help="Write JSON (docs/count.md).")
@click.option("--csv", "table", type=click.Path(path_type=Path), help="Write the cuts as a table.")
@click.option("--pdf", "sheet", type=click.Path(path_type=Path),
              help="Write a true-size sheet (.pdf, .letter.pdf or .svg).")  # fmt: skip
@click.pass_obj
def count(
    piece_of: Callable[[Path], Piece], /, as_data: bool, table: Path | None, sheet: Path | None,
    unit: str, **asked: Any,
) -> None:  # fmt: skip
    """Count and cut the pieces in FILES (files, sets or demo pieces) as one day."""
    from maglia.core.cutting import text

    found = _counted(piece_of, **asked)
    if table is not None:
        from maglia.files.disk import write_table

        write_table(table, text.rows_of(found.cuttings))
    if sheet is not None:
        from maglia.app.cut_sheet import save
        from maglia.app.offscreen import offscreen

        with offscreen():
            save(found.cuttings, sheet, unit)  # type: ignore[arg-type]
    if as_data:
        click.echo(json.dumps(text.as_json(found.day, found.cuttings), indent=1,
                              ensure_ascii=False))  # fmt: skip
    elif table is None and sheet is None:
        click.echo(text.as_text(found.day, found.cuttings, unit), nl=False)  # type: ignore[arg-type]


@click.command()
@_day_options
@click.option("--json", "as_data", is_flag=True, help="Write JSON (docs/count.md).")
@click.pass_obj
def buy(piece_of: Callable[[Path], Piece], /, as_data: bool, unit: str, **asked: Any) -> None:
    """What must be bought to make the pieces in FILES, and what they cost."""
    from maglia.core.joining.cost import cost_lines, cost_of, money, short_words, to_buy
    from maglia.core.joining.needs import needs_of

    del unit  # prices and numbers alone
    found = _counted(piece_of, **asked)
    needs = needs_of(found.day, found.bags)
    short = to_buy(needs, found.cuttings, found.rules, found.parts, found.bags)
    cost = cost_of(found.day, needs, found.cuttings, found.rules)
    if as_data:
        click.echo(json.dumps({
            "buy": [{"part": one.part.id, "name": one.part.name, "buy": one.buy,
                     "spares": one.spares, "pack": one.pack, "packs": one.packs,
                     "stretches_mm": list(one.stretches_mm), "lengths": one.lengths,
                     "length_mm": round(one.length_mm, 1),
                     "instead": list(one.instead)}
                    for one in short],
            "cost": {words.lower(): money(amount) for words, amount, _ in cost_lines(cost)},
            "currency": cost.currency,
            "unpriced": list(cost.unpriced),
        }, indent=1, ensure_ascii=False))  # fmt: skip
        return
    lines = ["TO BUY", *(f"  {short_words(one)}" for one in short)]
    lines += [] if short else ["  nothing: everything lies there"]
    lines += ["", "COST AND PRICE"]
    lines += [f"  {words:<14}{money(amount, cost.currency):>10}   {why}"
              for words, amount, why in cost_lines(cost)]  # fmt: skip
    lines += [f"  ! no price: {', '.join(cost.unpriced)}"] if cost.unpriced else []
    click.echo("\n".join(lines))


def _counted(
    piece_of: Callable[[Path], Piece], files: tuple[Path, ...], copies: int, lots: Path | None,
    sold: Path | None, workshop: Path | None, keep_mm: float, seconds: float,
) -> _Counted:  # fmt: skip
    from maglia.core.cutting.day import cuttings, sold_in, stuff_of, wants_of

    day = _day(piece_of, files, copies)
    parts, _ = wants_of(day)
    stuff = {ref: own for ref, part in parts.items() if (own := stuff_of(part, keep_mm))}
    lying, rules, kept = _own(workshop)
    there = _read(lots, parts, stuff) if lots else _lots(lying, parts, stuff)
    bought = {} if sold else sold_in(parts, {part.id: part for part in kept})
    for ref, found in (_read(sold, parts, stuff) if sold else {}).items():
        if len(found) > 1:
            raise DomainError(f"{sold}: {parts[ref].name} is sold in one length, and "
                              f"{len(found)} are given")  # fmt: skip
        bought[ref] = found[0].links
    done = dict(cuttings(day, there, bought, keep_mm, seconds))
    return _Counted(day, done, {ref: own.bag for ref, own in lying.items()}, rules, kept)


def _day(piece_of: Callable[[Path], Piece], files: tuple[Path, ...], copies: int) -> list[Making]:
    from maglia.core.assembly.expand import expand
    from maglia.core.cutting.day import Making
    from maglia.files.set_json import is_set, read_set

    day = []
    for file in files:
        if file.exists() and is_set(file):
            for entry in read_set(file).entries:
                day.append(Making(expand(entry.piece), copies * entry.copies))
            continue
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


def _own(workshop: Path | None) -> tuple[dict[str, Lying], Rules, tuple[Part, ...]]:
    """What lies in a workshop, its rules and parts; nothing and the usual ones without it."""
    from maglia.core.values.rules import DEFAULT_RULES
    from maglia.files.workshop import contents, stock
    from maglia.files.workshop.place import workshop_path
    from maglia.files.workshop.store import open_workshop

    path = workshop or workshop_path()
    if workshop is None and not path.exists():
        return {}, DEFAULT_RULES, ()
    with contextlib.closing(open_workshop(path, make=False)) as held:
        parts = tuple(contents.kept(held, "part").values())
        return stock.lying(held), contents.rules(held), parts


def _lots(
    lying: dict[str, Lying], parts: dict[str, Part], stuff: dict[str, Stuff]
) -> dict[str, list[Length]]:
    """The lengths that lie there of what is cut."""
    from maglia.core.cutting.day import lengths_in

    return {ref: lengths_in(parts[ref], lying[ref]) for ref in stuff if ref in lying}
