"""A piece on paper for who gets it: its picture, its sizes, what it is made of, how it is kept; and
for who puts it together from a kit: every part by letter, to be ticked off, and cuts at true size.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from maglia.app.make_sheet import laid_out, true_size
from maglia.app.painting.small import draw_small
from maglia.app.painting.straight import paint_layout
from maglia.app.paper import EDGE, INK, QUIET, Block, Blocks, height_of, words, write
from maglia.app.theme import THEMES, font
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.text import make_sheet, ready_lines
from maglia.core.parts.parts import Chain
from maglia.core.report import Findings
from maglia.core.sheets.care import care_of, materials_of
from maglia.core.values.measures import LengthUnit, format_length
from maglia.core.values.record import DomainError

PAPER = THEMES["felt"]
TICK = 13.0
LEAST_FALL_MM = 5.0
"""A choker's fall says nothing to who wears it."""


def save_customer(found: Findings, path: Path, unit: LengthUnit) -> None:
    """Write the sheet for the customer as PDF or SVG. Raises DomainError."""
    write(path, found.assembly.piece.name, unit, lambda wide: _customer(found, unit, wide))


def save_kit(found: Findings, path: Path, unit: LengthUnit) -> None:
    """Write the sheet of the kit as PDF or SVG. Raises DomainError."""
    if not found.assembly.members:
        raise DomainError("there is nothing to put together yet")
    write(path, f"{found.assembly.piece.name}, kit", unit, kit_blocks(found, unit))


def sizes_of(found: Findings, unit: LengthUnit) -> list[tuple[str, str]]:
    """What it measures, in the words of readings."""
    lines = []

    def mm(length: float) -> str:
        return format_length(length, unit, with_unit=True)

    if found.closed_length_mm is not None:
        lines.append(("Length, closed", mm(found.closed_length_mm)))
    lines += [
        (f"Worn as {worn.name}", mm(worn.closed_length_mm))
        for worn in found.ways
        if worn.closed_length_mm is not None
    ]
    kinds = {run.name: run.kind for run in found.assembly.runs}
    called = found.assembly.run_words
    lines += [
        (f"Falls, {called(name)}", mm(fall))
        for name, fall in found.readings.falls_mm.items()
        if kinds[name] == "strand" and fall > LEAST_FALL_MM
    ]
    pair = found.assembly.piece.pair
    each = ", each" if pair else ""
    lines.append(("Weight", f"{found.balance.sure}{found.balance.total_g:.1f} g{each}"))
    return lines


def _customer(found: Findings, unit: LengthUnit, width: float) -> Iterator[Block]:
    piece = found.assembly.piece
    yield words(piece.name, font(28, bold=True), width)
    if piece.note:
        yield words(piece.note, font(14), width)
    if found.hung is not None and found.hung.solution.state == "converged":
        room = QRectF(0, 0, width, width * 0.6)

        def draw(painter: QPainter) -> None:
            painter.fillRect(room, PAPER.colour("mat"))
            draw_small(painter, found, room.adjusted(14, 14, -14, -14))

        yield Block(room.height() + 10, draw)
    yield words("Sizes", font(17, bold=True), width, above=8)
    for name, value in sizes_of(found, unit):
        yield _pair(name, value, width)
    made = ", ".join(materials_of(found.assembly))
    if made:
        yield words("Made of", font(17, bold=True), width, above=12)
        yield words(f"{made[0].upper()}{made[1:]}.", font(14), width)
    yield words("How to keep it", font(17, bold=True), width, above=12)
    for line in care_of(found.assembly):
        yield words(f"· {line}", font(14), width)
    yield words("These figures are no test certificate.", font(11), width, above=14)


def kit_blocks(found: Findings, unit: LengthUnit) -> Blocks:
    """The sheet of a kit as blocks of a page."""
    return lambda wide: _kit(found, unit, wide)


def _kit(found: Findings, unit: LengthUnit, width: float) -> Iterator[Block]:
    sheet = make_sheet(found.assembly, joining_plan(found.assembly), unit, both=True)
    yield words(f"{found.assembly.piece.name}: what is in the bag", font(24, bold=True), width)
    room = QRectF(0, 0, width, width * 0.55)
    yield Block(room.height() + 8, lambda p: paint_layout(p, found, room, PAPER))
    yield words("Tick off", font(17, bold=True), width, above=8)
    for line in found.counts:
        long = format_length(line.length_mm, unit, with_unit=True) if line.length_mm else ""
        links = " links of" if isinstance(found.assembly.things.get(line.id), Chain) else " ×"
        amount = f"{line.count}{links}" if line.count else long
        yield _tick(line.letter, f"{amount} {line.name}".strip(), width)
    ready = ready_lines(sheet, unit)
    if ready:
        yield words("Made ready from it", font(17, bold=True), width, above=12)
        for said in ready:
            yield _tick("", said, width)
    yield from true_size(sheet, unit, width)
    yield from laid_out(sheet, width)


def _pair(name: str, value: str, width: float) -> Block:
    face = font(14)
    high = height_of(name, face, width / 2) + 6

    def draw(painter: QPainter) -> None:
        painter.setFont(face)
        painter.setPen(QColor(QUIET))
        painter.drawText(QRectF(0, 0, width / 2, high), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(QColor(INK))
        painter.drawText(
            QRectF(width / 2, 0, width / 2, high), Qt.AlignmentFlag.AlignVCenter, value
        )
        painter.setPen(QPen(QColor(EDGE), 0.6))
        painter.drawLine(0, round(high), round(width), round(high))

    return Block(high + 1, draw)


def _tick(letter: str, text: str, width: float) -> Block:
    face = font(14)
    left = TICK + 40
    high = max(height_of(text, face, width - left) + 6, TICK + 6)

    def draw(painter: QPainter) -> None:
        painter.setPen(QPen(QColor(INK), 0.9))
        painter.drawRect(QRectF(1, 4, TICK, TICK))
        painter.setFont(font(14, bold=True))
        painter.drawText(QRectF(TICK + 12, 2, 26, high), Qt.AlignmentFlag.AlignLeft, letter)
        painter.setFont(face)
        painter.drawText(QRectF(left, 2, width - left, high), Qt.TextFlag.TextWordWrap, text)

    return Block(high, draw)
