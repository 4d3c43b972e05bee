"""Small marks on the half-rule: what a fit sets, what is pinned, the tag of the cursor."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from maglia.app.theme import Theme, font

PAST_MARKS = 46
"""A tag begins so far right of its box that it leaves the marks of the lane below in sight."""


def paint_fit_mark(
    painter: QPainter, x: float, y: float, theme: Theme, *, met: bool, locked: bool
) -> None:
    """A small gauge with its tick: upright if met, off to the side if not; a bar under a lock."""
    colour = theme.colour("good" if met else "attention")
    painter.setPen(QPen(colour, 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawArc(QRectF(x - 6, y - 6, 12, 12), 0, 180 * 16)
    painter.drawLine(int(x), int(y), int(x if met else x + 4), int(y - 5 if met else y - 3))
    if locked:
        painter.drawLine(int(x - 6), int(y + 4), int(x + 6), int(y + 4))


def paint_pin(painter: QPainter, x: float, y: float, theme: Theme) -> None:
    painter.setPen(QPen(theme.colour("ink"), 1.4))
    painter.drawLine(QPointF(x, y), QPointF(x + 2.5, y + 6))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("fold"))
    painter.drawEllipse(QPointF(x - 0.8, y - 1.8), 3.2, 3.2)


def paint_tag(painter: QPainter, words: str, box: QRectF, room: QRectF, theme: Theme) -> None:
    """Words on a tag below a box, or above or beside it where there is no room."""
    painter.setFont(font(12, bold=True))
    tag = QRectF(painter.fontMetrics().boundingRect(words)).adjusted(-7, -2, 7, 2)
    left = max(box.left() + PAST_MARKS, room.left() + 6)
    tag.moveTopLeft(QPointF(left, box.bottom() + 6))
    if tag.right() > room.right() - 6:
        tag.moveRight(room.right() - 6)
    if tag.bottom() > room.bottom() - 2:
        tag.moveBottom(box.top() - 6)
    if tag.top() < room.top():
        tag.moveTopLeft(QPointF(box.right() + 8, box.center().y() - 10))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("chosen"))
    painter.drawRoundedRect(tag, 4, 4)
    painter.setPen(theme.colour("paper"))
    painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, words)


def draw_person(painter: QPainter, room: QRectF, theme: Theme) -> None:
    """Somebody who wears: head, neck and shoulders in one line each."""
    high = min(room.height(), 60.0)
    x, top = room.center().x(), room.bottom() - high
    painter.setPen(QPen(theme.colour("ink", 190), 1.6, c=Qt.PenCapStyle.RoundCap))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(QPointF(x, top + high * 0.24), high * 0.17, high * 0.21)
    path = QPainterPath(QPointF(x - high * 0.45, room.bottom() - 2))
    path.cubicTo(x - high * 0.42, top + high * 0.62, x - high * 0.1, top + high * 0.72,
                 x - high * 0.09, top + high * 0.45)  # fmt: skip
    path.moveTo(x + high * 0.09, top + high * 0.45)
    path.cubicTo(x + high * 0.1, top + high * 0.72, x + high * 0.42, top + high * 0.62,
                 x + high * 0.45, room.bottom() - 2)  # fmt: skip
    painter.drawPath(path)
