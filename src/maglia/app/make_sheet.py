"""The make sheet on paper: steps with their pictures, the layout with its letters, and stretches to
cut at true size, with a bar to check the print by. One column, to be read at arm's length.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QMarginsF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QPageLayout, QPageSize, QPainter, QPdfWriter, QPen

from maglia.app.painting.in_hand import paint_in_hand
from maglia.app.painting.members import draw_links
from maglia.app.painting.straight import paint_layout
from maglia.app.theme import THEMES, font
from maglia.core.joining.cautions import CAUTIONS
from maglia.core.joining.step import Step
from maglia.core.joining.text import STAGE_WORDS, MakeSheet, ready_lines, working_words
from maglia.core.parts.parts import Chain, chain_length_mm
from maglia.core.sheets.count import copies_of
from maglia.core.sheets.cutting import cut_list
from maglia.core.values.measures import LengthUnit, format_length, format_links
from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.core.report import Findings

PX_PER_MM = 96 / 25.4
"""Pages are drawn in CSS pixels."""
MARGIN_MM, CHECK_MM = 14.0, 100.0
PAPERS = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}
PICTURE = 220.0
PAPER = THEMES["felt"]


class _Block(NamedTuple):
    """Something that stays together on a page: how high it is, and how it is drawn at its top."""

    height: float
    draw: object


class _Pages:
    """Lays blocks below each other onto pages of one size, px."""

    def __init__(self, width: float, height: float) -> None:
        self.width, self.height = width, height
        self.pages: list[list[tuple[float, _Block]]] = [[]]
        self._at = 0.0

    def add(self, block: _Block) -> None:
        if self._at + block.height > self.height and self.pages[-1]:
            self.pages.append([])
            self._at = 0.0
        self.pages[-1].append((self._at, block))
        self._at += block.height


def save(sheet: MakeSheet, path: Path, hung: Findings | None, unit: LengthUnit) -> None:
    """Write the make sheet as PDF (A4, or Letter for `.letter.pdf`) or SVG. Raises DomainError if
    it cannot be written."""
    try:
        path.touch()
    except OSError as fault:
        raise DomainError(f"{path} cannot be written: {fault.strerror}") from None
    paper = "Letter" if path.name.lower().endswith(".letter.pdf") else "A4"
    wide, high = PAPERS[paper]
    width = (wide - 2 * MARGIN_MM) * PX_PER_MM
    height = (high - 2 * MARGIN_MM) * PX_PER_MM
    pages = _Pages(width, height)
    for block in _blocks(sheet, hung, unit, width):
        pages.add(block)
    if path.suffix.lower() == ".svg":
        _write_svg(pages, path, sheet.assembly.piece.name)
    else:
        _write_pdf(pages, path, paper, sheet.assembly.piece.name)


def _write_pdf(pages: _Pages, path: Path, paper: str, title: str) -> None:
    writer = QPdfWriter(str(path))
    writer.setResolution(300)
    size = QPageSize.PageSizeId.Letter if paper == "Letter" else QPageSize.PageSizeId.A4
    margins = QMarginsF(MARGIN_MM, MARGIN_MM, MARGIN_MM, MARGIN_MM)
    writer.setPageLayout(QPageLayout(QPageSize(size), QPageLayout.Orientation.Portrait, margins,
                                     QPageLayout.Unit.Millimeter))  # fmt: skip
    writer.setTitle(title)
    writer.setCreator("Maglia")
    painter = QPainter()
    if not painter.begin(writer):
        raise DomainError(f"{path} cannot be written")
    painter.scale(300 / 96, 300 / 96)
    for number in range(len(pages.pages)):
        if number:
            writer.newPage()
        _draw_page(painter, pages, number)
    painter.end()


def _write_svg(pages: _Pages, path: Path, title: str) -> None:
    """All pages below each other, in one drawing in true millimetres."""
    from PySide6.QtSvg import QSvgGenerator

    generator = QSvgGenerator()
    generator.setFileName(str(path))
    generator.setResolution(96)
    high = (pages.height + 40) * len(pages.pages)
    generator.setSize(QSize(round(pages.width), round(high)))
    generator.setViewBox(QRectF(0, 0, pages.width, high))
    generator.setTitle(title)
    painter = QPainter()
    if not painter.begin(generator):
        raise DomainError(f"{path} cannot be written")
    for number in range(len(pages.pages)):
        painter.save()
        painter.translate(0, number * (pages.height + 40))
        _draw_page(painter, pages, number)
        painter.restore()
    painter.end()


def _draw_page(painter: QPainter, pages: _Pages, number: int) -> None:
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for top, block in pages.pages[number]:
        painter.save()
        painter.translate(0, top)
        block.draw(painter)  # type: ignore[operator]
        painter.restore()
    painter.setFont(font(11))
    painter.setPen(QColor("#5c665d"))
    foot = QRectF(0, pages.height - 12, pages.width, 16)
    words = f"page {number + 1} of {len(pages.pages)}"
    painter.drawText(foot, Qt.AlignmentFlag.AlignRight, words)


# --- blocks ---------------------------------------------------------------------------------------


def _blocks(
    sheet: MakeSheet, hung: Findings | None, unit: LengthUnit, width: float
) -> Iterator[_Block]:
    yield _words(sheet.assembly.piece.name, font(26, bold=True), width)
    yield _words(f"how it is made · {working_words(sheet.plan.working)} · about "
                 f"{round(sheet.minutes)} minutes of work", font(14), width)  # fmt: skip
    for culprit in sheet.culprits:
        yield _words(f"! Cannot be joined: {culprit.says}", font(15, bold=True), width)
    if hung is not None:
        room = QRectF(0, 0, width, width * 0.62)
        yield _Block(room.height() + 8, lambda p: paint_layout(p, hung, room, PAPER))
    yield _words("What lies ready", font(18, bold=True), width, above=10)
    for line in ready_lines(sheet, unit):
        yield _words(line, font(14), width)
    stage = ""
    for number, step in enumerate(sheet.steps, 1):
        if step.stage == "ready":
            continue
        if step.stage != stage:
            stage = step.stage
            yield _words(STAGE_WORDS[stage], font(18, bold=True), width, above=12)
        yield _step(sheet, number, step, width)
    yield from _true_size(sheet, unit, width)


def _words(text: str, face: QFont, width: float, *, above: float = 4.0) -> _Block:
    height = _height(text, face, width)

    def draw(painter: QPainter) -> None:
        painter.setFont(face)
        painter.setPen(QColor("#17211c"))
        painter.drawText(QRectF(0, above, width, height + 4), Qt.TextFlag.TextWordWrap, text)

    return _Block(height + above + 2, draw)


def _height(text: str, face: QFont, width: float) -> float:
    from PySide6.QtGui import QFontMetricsF

    box = QFontMetricsF(face).boundingRect(QRectF(0, 0, width, 1e6), Qt.TextFlag.TextWordWrap, text)
    return float(box.height())


def _step(sheet: MakeSheet, number: int, step: Step, width: float) -> _Block:
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
    heights = [_height(text, own, column) + 4 for text, own in lines]
    height = max(sum(heights) + 14, PICTURE * 0.72 if pictured else 0)

    def draw(painter: QPainter) -> None:
        painter.setPen(QPen(QColor("#d9d4c5"), 0.6))
        painter.drawLine(0, 2, round(width), 2)
        painter.setPen(QColor("#17211c"))
        painter.setFont(font(16, bold=True))
        painter.drawText(QRectF(0, 8, 36, 24), Qt.AlignmentFlag.AlignLeft, str(number))
        y = 8.0
        for (text, own), high in zip(lines, heights, strict=True):
            painter.setFont(own)
            painter.setPen(QColor("#17211c"))
            painter.drawText(QRectF(40, y, column, high), Qt.TextFlag.TextWordWrap, text)
            y += high
        if pictured:
            room = QRectF(width - PICTURE, 6, PICTURE, height - 8)
            painter.save()
            painter.setClipRect(room)
            first = step.closings[0] if step.closings else None
            paint_in_hand(painter, sheet, step, first, room, PAPER, room_for_labels=26.0)
            painter.restore()

    return _Block(height, draw)


def _true_size(sheet: MakeSheet, unit: LengthUnit, width: float) -> Iterator[_Block]:
    """Every stretch to cut at true size, folded into rows where it is longer than the paper."""
    cuts = cut_list(sheet.assembly, copies_of(sheet.assembly.piece))
    if not cuts:
        return
    yield _words("Cut lengths, true size: lay the chain on", font(18, bold=True), width, above=14)
    yield _check_bar(unit)
    for cut in cuts:
        chain = sheet.assembly.things[cut.chain]
        if not isinstance(chain, Chain) or cut.length_mm is None:
            continue
        letter = sheet.assembly.letters.get(cut.chain, "")
        words = (f"{letter}  {cut.count} × {format_links(cut.links)} of {chain.name}, "
                 f"{format_length(cut.length_mm, unit, with_unit=True)}")  # fmt: skip
        yield _words(words, font(13), width)
        yield from _rows(chain, cut.links, width)


def _check_bar(unit: LengthUnit) -> _Block:
    def draw(painter: QPainter) -> None:
        wide = CHECK_MM * PX_PER_MM
        painter.setPen(QPen(QColor("#17211c"), 1.2))
        painter.drawLine(QRectF(0, 10, wide, 0).topLeft(), QRectF(0, 10, wide, 0).topRight())
        for x in (0.0, wide):
            painter.drawLine(QRectF(x, 4, 0, 12).topLeft(), QRectF(x, 4, 0, 12).bottomLeft())
        painter.setFont(font(12))
        words = f"{format_length(CHECK_MM, unit, with_unit=True)}: check it with a rule"
        painter.drawText(QRectF(wide + 8, 2, 260, 18), 0, words)

    return _Block(26, draw)


def _rows(chain: Chain, links: int, width: float) -> Iterator[_Block]:
    room_mm = width / PX_PER_MM - 6
    half = (chain.inner_width_mm or 2.0) / 2 + (chain.wire_mm or 0.6)
    first = 1
    while first <= links:
        points = [(0.0, 0.0)]
        k = first
        while k <= links:
            step = chain_length_mm(chain, 1, k) or 1.0
            if points[-1][0] + step > room_mm and len(points) > 1:
                break
            points.append((points[-1][0] + step, 0.0))
            k += 1
        goes_on, begun = k <= links, first

        def draw(painter: QPainter, points: list[tuple[float, float]] = points,
                 goes_on: bool = goes_on, begun: int = begun) -> None:  # fmt: skip
            painter.scale(PX_PER_MM, PX_PER_MM)
            painter.translate(2.0, half + 1.0)
            draw_links(painter, chain, points, begun - 1)
            if goes_on:
                painter.setPen(QPen(QColor("#9c2a3c"), 0.3))
                x = points[-1][0] + 1.5
                painter.drawLine(QRectF(x, -half, 0, 2 * half).topLeft(),
                                 QRectF(x, -half, 0, 2 * half).bottomLeft())  # fmt: skip

        yield _Block((2 * half + 2.5) * PX_PER_MM, draw)
        first = k
