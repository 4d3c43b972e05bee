"""Kit labels: for each copy of each piece a slip with what goes into its bag, to be cut apart."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from maglia.app.paper import INK, QUIET, Block, Blocks, height_of, write
from maglia.app.theme import font
from maglia.core.cutting.day import STEP_MM, Making, stretches_of
from maglia.core.joining.needs import needs_of
from maglia.core.parts.parts import Chain
from maglia.core.sheets.cutting import stretch_words
from maglia.core.values.measures import LengthUnit, format_length

PAD = 12.0

TITLE = "Kit labels"


def save(day: Sequence[Making], path: Path, unit: LengthUnit) -> None:
    """Write a label for every copy as PDF (A4, or Letter for `.letter.pdf`) or SVG. Raises
    DomainError."""
    write(path, TITLE, unit, blocks_of(day, unit))


def blocks_of(day: Sequence[Making], unit: LengthUnit) -> Blocks:
    """The sheet as blocks of a page."""
    return lambda wide: _labels(day, unit, wide)


def contents_of(making: Making, unit: LengthUnit) -> list[str]:
    """What goes into the bag of one: what is cut, then parts by the piece."""
    one, found = Making(making.assembly), []
    things = making.assembly.things
    for ref, stretches in stretches_of(one).items():
        part = things[ref]
        for stretch, number in stretches.items():
            long = format_length(stretch.amount * STEP_MM, unit, with_unit=True)
            what = stretch_words(*stretch) if isinstance(part, Chain) else long
            found.append(f"{number} × {what} of {part.name}")
    found += [f"{need.count} × {need.thing.name}" for need in needs_of([one], {})
              if not need.is_made]  # fmt: skip
    return found


def _labels(day: Sequence[Making], unit: LengthUnit, width: float) -> Iterator[Block]:
    for making in day:
        inside = " · ".join(contents_of(making, unit))
        for number in range(1, making.copies + 1):
            yield _label(making, number, inside, width)


def _label(making: Making, number: int, inside: str, width: float) -> Block:
    small = font(13)
    high = height_of(inside, small, width - 2 * PAD)
    name = making.name + (f"  {number} of {making.copies}" if making.copies > 1 else "")
    whole = high + 56

    def draw(painter: QPainter) -> None:
        painter.setPen(QPen(QColor(QUIET), 0.8, Qt.PenStyle.DashLine))
        painter.drawRect(QRectF(0, 0, width, whole - 8))
        painter.setPen(QColor(INK))
        painter.setFont(font(17, bold=True))
        painter.drawText(QRectF(PAD, 8, width - 2 * PAD, 24), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(small)
        painter.drawText(QRectF(PAD, 36, width - 2 * PAD, high + 6), Qt.TextFlag.TextWordWrap,
                         inside)  # fmt: skip

    return Block(whole, draw)
