"""The builds on paper: each with its measures and changes, what they say together, year by year."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from maglia.app.paper import Block, together, words, write
from maglia.app.theme import font
from maglia.core.log.concerns import Concern
from maglia.core.log.text import Kept, years
from maglia.core.values.measures import LengthUnit, format_length

TITLE = "Builds"


def save(
    kept: Sequence[Kept], concerns: Sequence[Concern], path: Path, unit: LengthUnit
) -> None:  # fmt: skip
    """Write the sheet as PDF (A4, or Letter for `.letter.pdf`) or SVG. Raises DomainError."""
    write(path, TITLE, unit, lambda wide: _blocks(kept, concerns, unit, wide))


def _blocks(
    kept: Sequence[Kept], concerns: Sequence[Concern], unit: LengthUnit, width: float
) -> Iterator[Block]:  # fmt: skip
    small, bold = font(13), font(15, bold=True)

    def length(mm: float) -> str:
        return format_length(mm, unit, with_unit=True)

    yield words("Builds", font(26, bold=True), width)
    for year in years(one.entry for one in kept):
        yield words(f"{year.year}: {year.words}", small, width)
    for one in kept:
        e = one.entry
        state = " · given up" if e.given_up else "" if e.ended else " · going on"
        head = words(f"{e.at[:10]}  {e.piece}, for {e.wearer}", bold, width, above=10)
        said = [f"{e.minutes:.0f} minutes · {e.metal_g:g} g of metal · cost {e.cost or '?'}{state}"]
        said += [f"{m.name}: planned {length(m.planned_mm)}, measured {length(m.measured_mm)}"
                 for m in one.measures]  # fmt: skip
        said += [f"changed: {change}" for change in one.changes]
        yield together(head, *(words(line, small, width, above=1) for line in said))
    if concerns:
        yield words("What they say", font(18, bold=True), width, above=16)
    for concern in concerns:
        taken = f" · taken over: {concern.taken.words}" if concern.taken else ""
        says = " ".join(filter(None, (concern.words, concern.apart_words)))
        lines = [f"{concern.name}{taken}", says]
        yield together(*(words(line, small, width, above=2) for line in lines))
