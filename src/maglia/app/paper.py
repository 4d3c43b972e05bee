"""Pages of paper: blocks below each other, written as PDF (A4 or Letter) or as SVG, with a bar of
100 mm on every page to check the print by.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QIODevice, QMarginsF, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QFont,
    QFontMetricsF,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QPen,
)

from maglia.app.drawn_file import write_drawn
from maglia.app.painting.members import draw_links
from maglia.app.theme import at_own_size, font
from maglia.core.parts.parts import Chain, chain_length_mm
from maglia.core.values.measures import LengthUnit, format_length
from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from PySide6.QtPrintSupport import QPrinter
    from PySide6.QtWidgets import QWidget

PX_PER_MM = 96 / 25.4
"""Pages are drawn in CSS pixels."""
DOTS = 300
MARGIN_MM, CHECK_MM, FOOT = 14.0, 100.0, 34.0
PAPERS = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}
INK, QUIET, EDGE, FOLD = "#17211c", "#5c665d", "#d9d4c5", "#9c2a3c"


class Block(NamedTuple):
    """Something that stays together on a page: how high it is, and how it is drawn at its top."""

    height: float
    draw: Callable[[QPainter], object]


Blocks = Callable[[float], Iterable[Block]]
"""What stands on paper, made for a width, px."""


class Pages:
    """Blocks below each other on pages of one size, mm within the margins; drawn in px."""

    def __init__(
        self, size_mm: tuple[float, float], title: str, unit: LengthUnit, blocks: Blocks
    ) -> None:
        self.title, self.unit = title, unit
        self.width, self.height = (mm * PX_PER_MM for mm in size_mm)
        self.pages: list[list[tuple[float, Block]]] = [[]]
        self._at = 0.0
        for block in blocks(self.width):
            self._add(block)

    def _add(self, block: Block) -> None:
        if self._at + block.height > self.height - FOOT and self.pages[-1]:
            self.pages.append([])
            self._at = 0.0
        self.pages[-1].append((self._at, block))
        self._at += block.height

    def draw(self, painter: QPainter, number: int) -> None:
        """One page with its foot: the check bar, and which page it is."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for top, block in self.pages[number]:
            painter.save()
            painter.translate(0, top)
            block.draw(painter)
            painter.restore()
        painter.save()
        painter.translate(0, self.height - 22)
        draw_check_bar(painter, self.unit)
        painter.setFont(font(11))
        painter.setPen(QColor(QUIET))
        words = f"{self.title} · page {number + 1} of {len(self.pages)}"
        painter.drawText(QRectF(0, 2, self.width, 18), Qt.AlignmentFlag.AlignRight, words)
        painter.restore()


def paper_of(path: Path) -> str:
    """Letter for `.letter.pdf` and `.letter.svg`, else A4."""
    return "Letter" if ".letter." in path.name.lower() else "A4"


@at_own_size()
def write(path: Path, title: str, unit: LengthUnit, blocks: Blocks) -> None:
    """Write blocks as PDF or SVG. Raises DomainError if it cannot be written."""
    wide, high = PAPERS[paper_of(path)]
    pages = Pages((wide - 2 * MARGIN_MM, high - 2 * MARGIN_MM), title, unit, blocks)
    (_write_svg if path.suffix.lower() == ".svg" else _write_pdf)(pages, path)


def preview(parent: QWidget, title: str, unit: LengthUnit, blocks: Blocks) -> None:
    """Show the pages as they would be printed; the desktop's own dialog prints them."""
    from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog

    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    margins = QMarginsF(MARGIN_MM, MARGIN_MM, MARGIN_MM, MARGIN_MM)
    printer.setPageMargins(margins, QPageLayout.Unit.Millimeter)
    printer.setDocName(title)
    dialog = QPrintPreviewDialog(printer, parent)
    dialog.setWindowTitle(title)
    dialog.paintRequested.connect(lambda asked: print_on(asked, title, unit, blocks))
    dialog.exec()
    dialog.deleteLater()


@at_own_size()
def print_on(printer: QPrinter, title: str, unit: LengthUnit, blocks: Blocks) -> int:
    """Draw the pages on a printer at their true size. Returns how many."""
    room = printer.pageLayout().paintRect(QPageLayout.Unit.Millimeter)
    pages = Pages((room.width(), room.height()), title, unit, blocks)
    painter = QPainter()
    if not painter.begin(printer):
        raise DomainError("the printer does not answer: choose another one")
    scale = printer.resolution() / 96
    painter.scale(scale, scale)
    for number in range(len(pages.pages)):
        if number:
            printer.newPage()
        pages.draw(painter, number)
    painter.end()
    return len(pages.pages)


def _write_pdf(pages: Pages, path: Path) -> None:
    write_drawn(path, partial(_draw_pdf, pages, paper_of(path)))


def _draw_pdf(pages: Pages, paper: str, out: QIODevice) -> bool:
    writer = QPdfWriter(out)
    writer.setResolution(DOTS)
    size = QPageSize.PageSizeId.Letter if paper == "Letter" else QPageSize.PageSizeId.A4
    margins = QMarginsF(MARGIN_MM, MARGIN_MM, MARGIN_MM, MARGIN_MM)
    writer.setPageLayout(QPageLayout(QPageSize(size), QPageLayout.Orientation.Portrait, margins,
                                     QPageLayout.Unit.Millimeter))  # fmt: skip
    writer.setTitle(pages.title)
    writer.setCreator("Maglia")
    painter = QPainter()
    if not painter.begin(writer):
        return False
    painter.scale(DOTS / 96, DOTS / 96)
    for number in range(len(pages.pages)):
        if number:
            writer.newPage()
        pages.draw(painter, number)
    return painter.end()


def _write_svg(pages: Pages, path: Path) -> None:
    """All pages below each other, in one drawing in true millimetres."""
    write_drawn(path, partial(_draw_svg, pages))


def _draw_svg(pages: Pages, out: QIODevice) -> bool:
    from PySide6.QtSvg import QSvgGenerator

    generator = QSvgGenerator()
    generator.setOutputDevice(out)
    generator.setResolution(96)
    high = (pages.height + 40) * len(pages.pages)
    generator.setSize(QSize(round(pages.width), round(high)))
    generator.setViewBox(QRectF(0, 0, round(pages.width), round(high)))
    generator.setTitle(pages.title)
    painter = QPainter()
    if not painter.begin(generator):
        return False
    for number in range(len(pages.pages)):
        painter.save()
        painter.translate(0, number * (pages.height + 40))
        pages.draw(painter, number)
        painter.restore()
    return painter.end()


# --- blocks ---------------------------------------------------------------------------------------


def words(text: str, face: QFont, width: float, *, above: float = 4.0) -> Block:
    """A paragraph."""
    high = height_of(text, face, width)

    def draw(painter: QPainter) -> None:
        painter.setFont(face)
        painter.setPen(QColor(INK))
        painter.drawText(QRectF(0, above, width, high + 4), Qt.TextFlag.TextWordWrap, text)

    return Block(high + above + 2, draw)


def together(*blocks: Block) -> Block:
    """Blocks that stay on one page."""

    def draw(painter: QPainter) -> None:
        for block in blocks:
            painter.save()
            block.draw(painter)
            painter.restore()
            painter.translate(0, block.height)

    return Block(sum(block.height for block in blocks), draw)


def height_of(text: str, face: QFont, width: float) -> float:
    """How high a text is in a column."""
    box = QFontMetricsF(face).boundingRect(QRectF(0, 0, width, 1e6), Qt.TextFlag.TextWordWrap, text)
    return float(box.height())


def draw_check_bar(painter: QPainter, unit: LengthUnit) -> None:
    """A bar of 100 mm; a print that is not true to size is seen by it."""
    wide, line = CHECK_MM * PX_PER_MM, 1.2
    ink = QColor(INK)
    for box in (QRectF(0, 10, wide, line), QRectF(0, 4, line, 13),
                QRectF(wide - line, 4, line, 13)):  # fmt: skip
        painter.fillRect(box, ink)
    painter.setPen(ink)
    painter.setFont(font(11))
    said = f"{format_length(CHECK_MM, unit, with_unit=True)}: check it with a rule"
    painter.drawText(QRectF(wide + 8, 2, 220, 18), 0, said)


def true_rows(chain: Chain, links: int, width: float, first_phase: int = 0) -> Iterator[Block]:
    """A stretch at its true size to lay chain on, in rows where it is longer than the paper; what
    goes on in the next row ends in a red line."""
    room_mm = width / PX_PER_MM - 6
    half = (chain.inner_width_mm or 2.0) / 2 + (chain.wire_mm or 0.6)
    first = 1
    while first <= links:
        points = [(0.0, 0.0)]
        k = first
        while k <= links:
            step = chain_length_mm(chain, 1, k + first_phase) or 1.0
            if points[-1][0] + step > room_mm and len(points) > 1:
                break
            points.append((points[-1][0] + step, 0.0))
            k += 1
        yield _true_row(chain, points, first - 1 + first_phase, half, goes_on=k <= links)
        first = k


def _true_row(
    chain: Chain, points: list[tuple[float, float]], before: int, half: float, *, goes_on: bool
) -> Block:
    def draw(painter: QPainter) -> None:
        painter.scale(PX_PER_MM, PX_PER_MM)
        painter.translate(2.0, half + 1.0)
        draw_links(painter, chain, points, before)
        if goes_on:
            painter.setPen(QPen(QColor(FOLD), 0.3))
            x = points[-1][0] + 1.5
            painter.drawLine(QPointF(x, -half), QPointF(x, half))

    return Block((2 * half + 2.5) * PX_PER_MM, draw)
