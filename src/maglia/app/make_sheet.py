"""The make sheet on paper: steps with their pictures, the layout with its letters, and stretches to
cut at true size, with a bar to check the print by. One column, to be read at arm's length.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from maglia.app.painting.in_hand import paint_in_hand
from maglia.app.painting.straight import draw_straight, paint_layout, straight_box
from maglia.app.paper import (
    EDGE,
    FOLD,
    INK,
    PX_PER_MM,
    Block,
    Blocks,
    height_of,
    together,
    true_rows,
    words,
    write,
)
from maglia.app.theme import THEMES, font
from maglia.core.joining.cautions import CAUTIONS
from maglia.core.joining.step import Step
from maglia.core.joining.text import STAGE_WORDS, MakeSheet, ready_lines, working_words
from maglia.core.parts.parts import Chain
from maglia.core.sheets.count import copies_of
from maglia.core.sheets.cutting import cut_list
from maglia.core.values.measures import LengthUnit, format_length

if TYPE_CHECKING:
    from maglia.core.assembly.assembly import Path as Path_
    from maglia.core.report import Findings

PICTURE = 220.0
PAPER = THEMES["felt"]


def save(
    sheet: MakeSheet, path: Path, hung: Findings | None, unit: LengthUnit,
    differs: Sequence[str] = (),
) -> None:  # fmt: skip
    """Write the make sheet as PDF (A4, or Letter for `.letter.pdf`) or SVG. Raises DomainError if
    it cannot be written."""
    write(path, sheet.assembly.piece.name, unit, blocks_of(sheet, hung, unit, differs))


def blocks_of(
    sheet: MakeSheet, hung: Findings | None, unit: LengthUnit, differs: Sequence[str] = ()
) -> Blocks:
    """The make sheet as blocks of a page; `differs` is what the piece has otherwise by now."""
    return lambda wide: _blocks(sheet, hung, unit, differs, wide)


# --- blocks ---------------------------------------------------------------------------------------


def _blocks(
    sheet: MakeSheet, hung: Findings | None, unit: LengthUnit, differs: Sequence[str], width: float
) -> Iterator[Block]:
    yield words(sheet.assembly.piece.name, font(26, bold=True), width)
    if differs:
        yield words(f"! as this build is made; the piece has by now: {'; '.join(differs)}",
                    font(15, bold=True), width)  # fmt: skip
    yield words(f"how it is made · {working_words(sheet.plan.working)} · about "
                 f"{round(sheet.minutes)} minutes of work", font(14), width)  # fmt: skip
    for culprit in sheet.culprits:
        yield words(f"! Cannot be joined: {culprit.says}", font(15, bold=True), width)
    if hung is not None:
        room = QRectF(0, 0, width, width * 0.62)
        yield Block(room.height() + 8, lambda p: paint_layout(p, hung, room, PAPER))
    yield words("What lies ready", font(18, bold=True), width, above=10)
    for line in ready_lines(sheet, unit):
        yield words(line, font(14), width)
    stage = ""
    for number, step in enumerate(sheet.steps, 1):
        if step.stage == "ready":
            continue
        if step.stage != stage:
            stage = step.stage
            yield words(STAGE_WORDS[stage], font(18, bold=True), width, above=12)
        yield _step(sheet, number, step, width)
    yield from true_size(sheet, unit, width)
    yield from laid_out(sheet, width)


def _step(sheet: MakeSheet, number: int, step: Step, width: float) -> Block:
    """A step: its number, its words, and at the right its picture if something is in hand."""
    pictured = bool(step.closings) or step.verb in ("make", "string")
    column = width - (PICTURE + 16 if pictured else 0) - 40
    face, small = font(16), font(13)
    said = step.says + (f" × {step.count}" if step.count > 1 and step.closings else "")
    lines = [(said, face)]
    tail = " · ".join(filter(None, (step.where, step.mirror)))
    lines += [(tail, small)] if tail else []
    lines += [(f"{k}. {how}", small) for k, how in enumerate(step.how, 1)]
    lines += [(up, small) for up in step.up]
    lines += [(f"! {CAUTIONS[caution]}", small) for caution in step.cautions]
    heights = [height_of(text, own, column) + 4 for text, own in lines]
    height = max(sum(heights) + 14, PICTURE * 0.72 if pictured else 0)

    def draw(painter: QPainter) -> None:
        painter.setPen(QPen(QColor(EDGE), 0.6))
        painter.drawLine(0, 2, round(width), 2)
        painter.setPen(QColor(INK))
        painter.setFont(font(16, bold=True))
        painter.drawText(QRectF(0, 8, 36, 24), Qt.AlignmentFlag.AlignLeft, str(number))
        y = 8.0
        for (text, own), high in zip(lines, heights, strict=True):
            painter.setFont(own)
            painter.setPen(QColor(INK))
            painter.drawText(QRectF(40, y, column, high), Qt.TextFlag.TextWordWrap, text)
            y += high
        if pictured:
            room = QRectF(width - PICTURE, 6, PICTURE, height - 8)
            painter.save()
            painter.setClipRect(room)
            first = step.closings[0] if step.closings else None
            paint_in_hand(painter, sheet, step, first, room, PAPER, room_for_labels=26.0)
            painter.restore()

    return Block(height, draw)


def true_size(sheet: MakeSheet, unit: LengthUnit, width: float) -> Iterator[Block]:
    """Every stretch to cut at true size, folded into rows where it is longer than the paper."""
    cuts = cut_list(sheet.assembly, copies_of(sheet.assembly.piece))
    if not cuts:
        return
    yield words("Cut lengths, true size: lay the chain on", font(18, bold=True), width, above=14)
    for cut in cuts:
        chain = sheet.assembly.things[cut.chain]
        if not isinstance(chain, Chain) or cut.length_mm is None:
            continue
        letter = sheet.assembly.letters.get(cut.chain, "")
        said = (f"{letter}  {cut.count} × {cut.words} of {chain.name}, "
                 f"{format_length(cut.length_mm, unit, with_unit=True)}")  # fmt: skip
        first, *rest = true_rows(chain, cut.links, width, cut.first_phase)
        yield together(words(said, font(13), width), first)
        yield from rest


def laid_out(sheet: MakeSheet, width: float) -> Iterator[Block]:
    """Every strand straight at its true size, to lay the real one against; where it is longer than
    the paper it goes on below, from the red mark."""
    a = sheet.assembly
    seen: set[tuple[str, float]] = set()
    for path in a.paths:
        key = (path.run, round(path.length_mm or 0.0, 1))
        if path.length_mm is None or path.side == "left" or key in seen:
            continue  # the left is the right turned over
        seen.add(key)
        if len(seen) == 1:
            yield words("Laid out, true size", font(18, bold=True), width, above=14)
        box, room = straight_box(a, path), width / PX_PER_MM
        starts = [box.left() + k * room for k in range(math.ceil(box.width() / room))]
        first, *rest = (_window(sheet, path, start, min(room, box.right() - start), box)
                        for start in starts)  # fmt: skip
        yield together(words(a.run_words(path.run), font(13), width), first)
        yield from rest


def _window(sheet: MakeSheet, path: Path_, start: float, wide: float, box: QRectF) -> Block:
    def draw(painter: QPainter) -> None:
        painter.scale(PX_PER_MM, PX_PER_MM)
        painter.setClipRect(QRectF(0, 0, wide, box.height() + 1))
        painter.translate(-start, -box.top() + 0.5)
        draw_straight(painter, sheet.assembly, path)
        painter.setPen(QPen(QColor(FOLD), 0.25))
        for x in (start, start + wide):
            if box.left() + 0.1 < x < box.right() - 0.1:
                painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))

    return Block((box.height() + 2) * PX_PER_MM, draw)
