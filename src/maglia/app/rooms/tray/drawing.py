"""A part drawn large with its dimension lines; the figures on them are what one types over. Holes
and corners of a connector are moved with the arrows or the mouse.
"""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from maglia.app.own_keys import is_plain_key
from maglia.app.painting.whole import draw_whole, whole_box
from maglia.app.rooms.tray.dims import Dim, dims_of
from maglia.app.size_box import SizeBox
from maglia.app.theme import Theme, font
from maglia.core.parts.parts import Connector, Part
from maglia.core.parts.units import Thing, Things

BOX = QSize(70, 26)
LEVEL_PX, COLUMN_PX, TOP_PX, MARGIN_PX = 34, 92, 34, 14
MOST_PX_PER_MM = 26.0
STEP_MM, FINE_MM = 0.5, 0.1


class _Laid(NamedTuple):
    """Where everything stands, px: the drawing's room, its scale and origin, and every line."""

    scale: float
    origin: QPointF
    groups: dict[str, QRectF]

    def at(self, x: float, y: float) -> QPointF:
        return self.origin + QPointF(x, y) * self.scale


class Drawing(QWidget):
    """Signals: `moved(int, float, float)` the handle of that number is moved to x, y (mm, y up) ·
    `picked(int)` another handle is current · `added()` and `taken_out(int)` a handle.
    """

    moved = Signal(int, float, float)
    picked = Signal(int)
    added = Signal()
    taken_out = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.thing: Thing | None = None
        self.things: Things = {}
        self.boxes: dict[str, SizeBox] = {}
        self.dims: tuple[Dim, ...] = ()
        self.corners = False
        """Whether the corners of the outline are moved, and not its holes."""
        self.handle = 0
        self._dragged = False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(270)
        self.setAccessibleName("Drawing")

    def show_thing(self, thing: Thing | None, things: Things, boxes: dict[str, SizeBox]) -> None:
        """Draw a thing; `boxes` are the figures that stand on its lines, by field."""
        if thing is None or self.thing is None or thing.id != self.thing.id:
            self.handle = 0
        self.thing, self.things, self.boxes = thing, things, boxes
        self.dims = () if not isinstance(thing, Part) else dims_of(thing)
        for box in boxes.values():
            box.setParent(self)
            box.setFixedSize(BOX)
            box.show()
        self.setFocusPolicy(
            Qt.FocusPolicy.StrongFocus if self.handles() else Qt.FocusPolicy.NoFocus
        )
        self.handle = min(self.handle, max(len(self.handles()) - 1, 0))
        self._place()
        self.update()

    def handles(self) -> list[tuple[str, float, float]]:
        """Name and place of each hole, or corner, mm from the middle, y up."""
        part = self.thing
        if not isinstance(part, Connector):
            return []
        if self.corners:
            return [(f"corner {k}", x, y) for k, (x, y) in enumerate(part.points_mm, 1)]
        return [(hole.name, hole.x_mm, hole.y_mm) for hole in part.holes]

    # --- placing ------------------------------------------------------------------------------

    def _lines(self, way: str) -> list[Dim]:
        return [dim for dim in self.dims if dim.way == way and dim.field in self.boxes]

    def _laid(self) -> _Laid | None:
        thing = self.thing
        if thing is None:
            return None
        across, down = self._lines("across"), self._lines("down")
        points = self._lines("point")
        room = QRectF(self.rect()).adjusted(
            MARGIN_PX,
            MARGIN_PX + (TOP_PX if points else 0),
            -MARGIN_PX - COLUMN_PX * bool(down),
            -MARGIN_PX - LEVEL_PX * len(across),
        )
        box = whole_box(thing, self.things)
        scale = min(room.width() / box.width(), room.height() / box.height(), MOST_PX_PER_MM)
        scale *= 0.94
        origin = room.center() - box.center() * scale
        drawn = QRectF(origin + box.topLeft() * scale, box.size() * scale)
        laid = _Laid(scale, origin, {})
        for k, dim in enumerate(across):
            y = room.bottom() + (k + 0.5) * LEVEL_PX
            laid.groups[dim.field] = self._group_across(dim, laid, y)
        for k, dim in enumerate(down):
            apart = BOX.height() + 24
            y = drawn.center().y() + (k - (len(down) - 1) / 2) * apart
            x = float(self.width() - MARGIN_PX - COLUMN_PX + 20)
            laid.groups[dim.field] = QRectF(x, y - BOX.height() / 2, *BOX.toTuple())
        share = (self.width() - 2 * MARGIN_PX) / max(len(points), 1)
        for k, dim in enumerate(points):
            anchor = laid.at(dim.a, dim.b)
            ideal = anchor.x() - BOX.width() / 2 if len(points) == 1 else MARGIN_PX + k * share + 44
            left = min(max(ideal, MARGIN_PX + 44), self.width() - MARGIN_PX - BOX.width())
            laid.groups[dim.field] = QRectF(left, MARGIN_PX - 6, *BOX.toTuple())
        return laid

    def _label_px(self, dim: Dim) -> int:
        return self.fontMetrics().horizontalAdvance(dim.label)

    def _group_across(self, dim: Dim, laid: _Laid, y: float) -> QRectF:
        """On its line if that is long enough, else beside it."""
        x1, x2 = laid.at(dim.a, 0).x(), laid.at(dim.b, 0).x()
        whole = BOX.width() + 8 + self._label_px(dim)
        left = (x1 + x2) / 2 - BOX.width() / 2 if x2 - x1 > whole + 40 else x2 + 12
        left = min(max(left, 4.0), self.width() - whole - 4.0)
        return QRectF(left, y - BOX.height() / 2, *BOX.toTuple())

    def _place(self) -> None:
        laid = self._laid()
        if laid is not None:
            for field, group in laid.groups.items():
                self.boxes[field].move(group.topLeft().toPoint())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    # --- painting -----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("board"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
        laid = self._laid()
        if laid is None or self.thing is None:
            return
        painter.save()
        painter.translate(laid.origin)
        painter.scale(laid.scale, laid.scale)
        draw_whole(painter, self.thing, self.things)
        painter.restore()
        painter.setFont(font(11))
        for dim in self.dims:
            if dim.field in laid.groups:
                self._paint_dim(painter, dim, laid)
        self._paint_handles(painter, laid)

    def _paint_dim(self, painter: QPainter, dim: Dim, laid: _Laid) -> None:
        group = laid.groups[dim.field]
        line = QPen(self.theme.colour("ink", 170), 1)
        thin = QPen(self.theme.colour("ink", 80), 1)
        box = whole_box(self.thing, self.things) if self.thing else QRectF()
        label = QRectF(group.right() + 6, group.top(), 160, group.height())
        if dim.way == "across":
            y, low = group.center().y(), laid.at(0, box.bottom()).y()
            x1, x2 = laid.at(dim.a, 0).x(), laid.at(dim.b, 0).x()
            painter.setPen(thin)
            for x in (x1, x2):
                painter.drawLine(QPointF(x, min(low, y)), QPointF(x, y + 4))
            painter.setPen(line)
            painter.drawLine(QPointF(x1, y), QPointF(x2, y))
            _tick(painter, QPointF(x1, y), QPointF(x2, y))
        elif dim.way == "down":
            x, right = group.left() - 12, laid.at(box.right(), 0).x()
            y1, y2 = laid.at(0, dim.a).y(), laid.at(0, dim.b).y()
            painter.setPen(thin)
            for y in (y1, y2):
                painter.drawLine(QPointF(min(right, x), y), QPointF(x + 4, y))
            painter.setPen(line)
            painter.drawLine(QPointF(x, y1), QPointF(x, y2))
            _tick(painter, QPointF(x, y1), QPointF(x, y2))
            label = QRectF(group.left(), group.bottom() + 1, 90, 14)
        else:
            anchor = laid.at(dim.a, dim.b)
            painter.setPen(line)
            painter.drawLine(QPointF(group.center().x(), group.bottom()), anchor)
            painter.setBrush(self.theme.colour("ink"))
            painter.drawEllipse(anchor, 2, 2)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            words = self._label_px(dim)
            label = QRectF(group.left() - words - 8, group.top(), words + 4, group.height())
        painter.setPen(self.theme.colour("ink"))
        painter.drawText(label, Qt.AlignmentFlag.AlignVCenter.value, dim.label)

    def _paint_handles(self, painter: QPainter, laid: _Laid) -> None:
        handles = self.handles()
        if self.corners and len(handles) > 1:
            painter.setPen(QPen(self.theme.colour("fold"), 1))
            painter.drawPolygon(QPolygonF([laid.at(x, -y) for _, x, y in handles]))
        for k, (name, x, y) in enumerate(handles):
            at = laid.at(x, -y)
            current = k == self.handle
            painter.setPen(QPen(self.theme.colour("fold"), 2.0 if current else 1.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if current:
                painter.drawEllipse(at, 8, 8)
                if self.hasFocus():
                    painter.drawEllipse(at, 11, 11)
            painter.setFont(font(11, bold=current))
            painter.setPen(self.theme.colour("ink"))
            words = name if not self.corners else str(k + 1)
            painter.drawText(at + QPointF(12, -11), words)

    # --- handles by keys and mouse ------------------------------------------------------------

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def pick(self, handle: int) -> None:
        handles = self.handles()
        if not handles:
            return
        self.handle = handle % len(handles)
        name, x, y = handles[self.handle]
        self.setAccessibleDescription(f"{name} at {x:g}, {y:g} mm")
        self.picked.emit(self.handle)
        self.update()

    def event(self, event: QEvent) -> bool:
        """Its keys come before the room's."""
        if is_plain_key(event, Qt.Key.Key_Delete, Qt.Key.Key_Insert):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = Qt.Key
        by = {keys.Key_Left: (-1, 0), keys.Key_Right: (1, 0), keys.Key_Up: (0, 1),
              keys.Key_Down: (0, -1)}.get(keys(event.key()))  # fmt: skip
        handles = self.handles()
        if by is not None and handles:
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            step = FINE_MM if fine else STEP_MM
            _, x, y = handles[self.handle]
            self.moved.emit(self.handle, round(x + by[0] * step, 3), round(y + by[1] * step, 3))
        elif event.key() == keys.Key_Space:
            self.pick(self.handle + 1)
        elif event.key() in (keys.Key_Plus, keys.Key_Insert):
            self.added.emit()
        elif event.key() in (keys.Key_Minus, keys.Key_Delete) and handles:
            self.taken_out.emit(self.handle)
        elif event.key() == keys.Key_O and isinstance(self.thing, Connector):
            self.show_corners(not self.corners)
        else:
            event.ignore()

    def show_corners(self, corners: bool) -> None:
        """Move the corners of the outline, or the holes."""
        self.corners, self.handle = corners, 0
        self.pick(0)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        laid = self._laid()
        if laid is None:
            return
        near = [
            ((laid.at(x, -y) - event.position()).manhattanLength(), k)
            for k, (_, x, y) in enumerate(self.handles())
        ]
        if near and min(near)[0] < 22:
            self.setFocus()
            self.pick(min(near)[1])
            self._dragged = True

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        laid = self._laid()
        if self._dragged and laid is not None:
            at = event.position() - laid.origin
            step = FINE_MM * laid.scale
            x, y = round(at.x() / step) * FINE_MM, round(-at.y() / step) * FINE_MM
            self.moved.emit(self.handle, round(x, 3), round(y, 3))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._dragged = False


def _tick(painter: QPainter, *ends: QPointF) -> None:
    """Slanted strokes at the ends of a dimension line."""
    for end in ends:
        painter.drawLine(end + QPointF(-3, 3), end + QPointF(3, -3))
