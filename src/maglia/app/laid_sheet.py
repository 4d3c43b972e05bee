"""The piece laid flat at its true size, to lay the real one on: tiled over as many pages as it
takes, with marks to put them together by.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from maglia.app.painting.small import draw_small, extent_mm
from maglia.app.painting.straight import paint_letters
from maglia.app.paper import FOLD, PX_PER_MM, QUIET, Block, Blocks, together, words
from maglia.app.theme import THEMES, font
from maglia.core.piece.piece import Form, Piece
from maglia.core.report import Findings, evaluate
from maglia.core.values.record import DomainError

TITLE = "Laid out, true size"
TILE_HIGH_MM, OVERLAP_MM, MARK_MM = 205.0, 8.0, 6.0
"""How much of a page a tile takes, on A4 as on Letter, and how far two share what they show."""


def laid_flat(piece: Piece) -> Findings:
    """The piece on the mat. Raises DomainError if it cannot be laid."""
    found = evaluate(replace(piece, form=Form(kind="mat")))
    if found.hung is None or not len(found.hung.solution.positions):
        raise DomainError(f"“{piece.name}” cannot be laid out: mend what its checks say first")
    return found


def blocks_of(found: Findings) -> Blocks:
    """The sheet as blocks of a page, one tile to each."""
    return lambda wide: _tiles(found, wide)


def _tiles(found: Findings, width: float) -> Iterator[Block]:
    assert found.hung is not None
    own, room = extent_mm(found.hung), QRectF(0, 0, width / PX_PER_MM, TILE_HIGH_MM)
    across, down = room.width() - OVERLAP_MM, room.height() - OVERLAP_MM
    columns = max(1, math.ceil((own.width() - OVERLAP_MM) / across))
    rows = max(1, math.ceil((own.height() - OVERLAP_MM) / down))
    for row in range(rows):
        for column in range(columns):
            at = own.topLeft() + QPointF(column * across, row * down)
            said = found.assembly.piece.name
            if rows * columns > 1:
                said += f" · row {row + 1} of {rows}, column {column + 1} of {columns}"
            more = (column > 0, column + 1 < columns, row > 0, row + 1 < rows)
            high = min(own.bottom() - at.y(), room.height())
            yield together(words(said, font(13), width), _tile(found, at, room.width(), high, more))


def _tile(
    found: Findings, at: QPointF, wide: float, high: float, more: tuple[bool, bool, bool, bool]
) -> Block:
    """What lies in one window, mm; where it goes on, marks stand on the line that both share."""
    assert found.hung is not None
    own = extent_mm(found.hung)

    def draw(painter: QPainter) -> None:
        painter.save()
        painter.setClipRect(QRectF(0, 0, wide * PX_PER_MM, high * PX_PER_MM))
        painter.translate(-(at.x() - own.x()) * PX_PER_MM, -(at.y() - own.y()) * PX_PER_MM)
        box = QRectF(0, 0, own.width() * PX_PER_MM, own.height() * PX_PER_MM)
        draw_small(painter, found, box, px_per_mm=PX_PER_MM, as_one=True)
        paint_letters(painter, found, box, PX_PER_MM, THEMES["felt"])
        painter.restore()
        painter.scale(PX_PER_MM, PX_PER_MM)
        _marks(painter, wide, high, more)

    return Block((high + 3) * PX_PER_MM, draw)


def _marks(
    painter: QPainter, wide: float, high: float, more: tuple[bool, bool, bool, bool]
) -> None:
    left, right, above, below = more
    painter.setPen(QPen(QColor(FOLD), 0.25))
    half = OVERLAP_MM / 2
    for goes_on, x in ((left, half), (right, wide - half)):
        for y in (0.0, high - MARK_MM) if goes_on else ():
            painter.drawLine(QPointF(x, y), QPointF(x, y + MARK_MM))
            painter.drawLine(QPointF(x - 2, y + MARK_MM / 2), QPointF(x + 2, y + MARK_MM / 2))
    for goes_on, y in ((above, half), (below, high - half)):
        for x in (0.0, wide - MARK_MM) if goes_on else ():
            painter.drawLine(QPointF(x, y), QPointF(x + MARK_MM, y))
            painter.drawLine(QPointF(x + MARK_MM / 2, y - 2), QPointF(x + MARK_MM / 2, y + 2))
    painter.setPen(QPen(QColor(QUIET), 0.2, Qt.PenStyle.DashLine))
    for goes_on, x in ((left, half), (right, wide - half)):
        if goes_on:
            painter.drawLine(QPointF(x, MARK_MM), QPointF(x, high - MARK_MM))
    for goes_on, y in ((above, half), (below, high - half)):
        if goes_on:
            painter.drawLine(QPointF(MARK_MM, y), QPointF(wide - MARK_MM, y))
