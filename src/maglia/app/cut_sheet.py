"""The day's cuts on paper: every stretch at its true size to lay chain against, and where it is cut
from.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from pathlib import Path

from maglia.app.paper import Block, Blocks, together, true_rows, words, write
from maglia.app.theme import font
from maglia.core.cutting.day import Cutting, Stretch, words_of
from maglia.core.cutting.text import bar_head, stretch_said, wanted_of
from maglia.core.joining.cautions import CAUTIONS
from maglia.core.parts.parts import Chain
from maglia.core.values.measures import LengthUnit

TITLE = "Cuts of the day"


def save(cuttings: Mapping[str, Cutting], path: Path, unit: LengthUnit) -> None:
    """Write the sheet as PDF (A4, or Letter for `.letter.pdf`) or SVG. Raises DomainError."""
    write(path, TITLE, unit, blocks_of(cuttings, unit))


def blocks_of(cuttings: Mapping[str, Cutting], unit: LengthUnit) -> Blocks:
    """The sheet as blocks of a page."""
    return lambda wide: _blocks(cuttings, unit, wide)


def _blocks(cuttings: Mapping[str, Cutting], unit: LengthUnit, width: float) -> Iterator[Block]:
    yield words("Cuts of the day", font(26, bold=True), width)
    yield words(f"! {CAUTIONS['cutting']}", font(14), width)
    for cutting in cuttings.values():
        yield words(cutting.part.name, font(18, bold=True), width, above=14)
        yield words(words_of(cutting), font(14), width)
        for bar in cutting.bars:
            many = Counter(piece.stretch for piece in bar.pieces)
            cuts = ", ".join(f"{n} × {stretch_said(cutting, stretch, unit)}"
                             for stretch, n in many.items())  # fmt: skip
            yield words(f"{bar_head(cutting, bar, unit)}: {cuts}", font(14), width)
        for amount, n in Counter(cutting.missing).items():
            yield words(f"! missing: {n} × {stretch_said(cutting, Stretch(amount), unit)}",
                        font(14, bold=True), width)  # fmt: skip
        if isinstance(cutting.part, Chain):
            for stretch in sorted(wanted_of(cutting), key=lambda own: (-own[0], own[1])):
                said = f"true size: {stretch_said(cutting, stretch, unit)}"
                first, *rest = true_rows(cutting.part, stretch.amount, width, stretch.first_phase)
                yield together(words(said, font(12), width), first)
                yield from rest
