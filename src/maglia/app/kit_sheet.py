"""Kit labels, to be cut apart: a bag for each copy of each piece, for each step, or for each
part.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal, NamedTuple

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from maglia.app.paper import INK, QUIET, Block, Blocks, height_of
from maglia.app.theme import font
from maglia.core.cutting.day import STEP_MM, Making, Stretch, stretches_of
from maglia.core.joining.bags import bags_by_step
from maglia.core.joining.needs import needs_of
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.text import make_sheet
from maglia.core.parts.parts import Chain
from maglia.core.parts.units import Thing
from maglia.core.sheets.cutting import stretch_words
from maglia.core.values.measures import LengthUnit, format_length

PAD = 12.0

TITLE = "Kit labels"
Bags = Literal["copy", "step", "part"]


class Label(NamedTuple):
    """The slip of one bag."""

    name: str
    inside: str


def blocks_of(day: Sequence[Making], unit: LengthUnit, bags: Bags = "copy") -> Blocks:
    """The sheet as blocks of a page."""
    return lambda wide: (_label(label, wide) for label in labels_of(day, unit, bags))


def labels_of(day: Sequence[Making], unit: LengthUnit, bags: Bags) -> Iterator[Label]:
    """The slips of a day in order."""
    if bags == "part":
        yield from _by_part(day, unit)
        return
    for making in day:
        if bags == "step":
            yield from _by_step(making)
            continue
        inside = " · ".join(contents_of(making, unit))
        for number in range(1, making.copies + 1):
            yield Label(f"{making.name}{_of(number, making.copies)}", inside)


def _of(number: int, copies: int) -> str:
    return f"  {number} of {copies}" if copies > 1 else ""


def _by_part(day: Sequence[Making], unit: LengthUnit) -> Iterator[Label]:
    """A bag for each part with what every piece takes of it."""
    found: dict[str, list[str]] = {}
    for making in day:
        things = making.assembly.things
        for ref, stretches in stretches_of(making).items():
            said = [f"{n} × {_stretch(things[ref], one, unit)}" for one, n in stretches.items()]
            found.setdefault(things[ref].name, []).append(f"{making.name}: {', '.join(said)}")
        for need in needs_of([making], {}):
            if not need.is_made:
                found.setdefault(need.thing.name, []).append(f"{making.name}: {need.count}")
    for name, inside in found.items():
        yield Label(name, " · ".join(inside))


def _by_step(making: Making) -> Iterator[Label]:
    """A bag for each step with what comes into the hands there first, of all copies."""
    assembly = making.assembly
    sheet = make_sheet(assembly, joining_plan(assembly))
    for bag in bags_by_step(sheet):
        inside = " · ".join(f"{n * making.copies} × {name}" for name, n in bag.inside.items())
        yield Label(f"{making.name}, step {bag.number}: {bag.step.says}", inside)


def contents_of(making: Making, unit: LengthUnit) -> list[str]:
    """What goes into the bag of one: what is cut, then parts by the piece."""
    one, found = Making(making.assembly), []
    things = making.assembly.things
    for ref, stretches in stretches_of(one).items():
        part = things[ref]
        for stretch, number in stretches.items():
            found.append(f"{number} × {_stretch(part, stretch, unit)} of {part.name}")
    found += [f"{need.count} × {need.thing.name}" for need in needs_of([one], {})
              if not need.is_made]  # fmt: skip
    return found


def _stretch(part: Thing, stretch: Stretch, unit: LengthUnit) -> str:
    long = format_length(stretch.amount * STEP_MM, unit, with_unit=True)
    return stretch_words(*stretch) if isinstance(part, Chain) else long


def _label(label: Label, width: float) -> Block:
    small, bold = font(13), font(17, bold=True)
    high = height_of(label.inside, small, width - 2 * PAD)
    head = height_of(label.name, bold, width - 2 * PAD)
    whole = high + head + 32

    def draw(painter: QPainter) -> None:
        painter.setPen(QPen(QColor(QUIET), 0.8, Qt.PenStyle.DashLine))
        painter.drawRect(QRectF(0, 0, width, whole - 8))
        painter.setPen(QColor(INK))
        for face, y, tall, said in ((bold, 8, head, label.name), (small, head + 12, high + 6,
                                                                 label.inside)):  # fmt: skip
            painter.setFont(face)
            painter.drawText(QRectF(PAD, y, width - 2 * PAD, tall), Qt.TextFlag.TextWordWrap, said)

    return Block(whole, draw)
