"""The half-rule: one half of the piece to scale along a ruler, from the fold to the closure.

Where the maker works: arrows walk, + and − change counts, digits write a count or a length.
"""

from collections.abc import Callable
from functools import partial
from math import ceil

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QTransform
from PySide6.QtWidgets import QLineEdit, QWidget

from maglia.bench.painting.members import draw_connector, draw_member
from maglia.bench.rule_layout import Laid, RuleLayout, lay_out
from maglia.bench.session import Session
from maglia.bench.theme import Theme, font
from maglia.core.assembly import Assembly
from maglia.core.edit import (
    WHOLE,
    Edited,
    Spot,
    count_at,
    first_spot,
    item_of,
    set_count,
    words_at,
)
from maglia.core.measures import Links, format_length, parse_length
from maglia.core.parts import Chain, Connector
from maglia.core.piece import ChainItem
from maglia.core.record import DomainError

NAMES_WIDTH = 92
RULER_HEIGHT = 24
STEPS_MM = (1, 2, 5, 10, 20, 50, 100)
STEPS_IN = (1 / 8, 1 / 4, 1 / 2, 1, 2, 4)


class RuleView(QWidget):
    """The score of the piece. Signal `insert_wanted()`: the maker asked for the insert line."""

    insert_wanted = Signal()

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.zoom = 1.0
        self.moved_by = QPointF(0, 0)
        self.rule = RuleLayout()
        self._picture: QPixmap | None = None
        self.entry = QLineEdit(self)
        self.entry.setAccessibleName("Count or length under the cursor")
        self.entry.hide()
        self.entry.installEventFilter(self)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(QSize(360, 150))
        self.setAccessibleName("The half-rule: one half of the piece, from the fold outward")
        session.changed.connect(self.on_changed)
        session.moved.connect(self.on_moved)
        session.reshown.connect(self.update)
        self.on_changed()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self._renew()

    def on_changed(self) -> None:
        self.rule = lay_out(self.session.assembly)
        self._renew()
        self._describe()

    def on_moved(self) -> None:
        self._keep_in_sight()
        self.update()
        self._describe()

    def _renew(self) -> None:
        self._picture = None
        self.update()

    def _describe(self) -> None:
        spot = self.session.spot
        words = "empty"
        if spot is not None:
            words = f"{spot.owner}, {words_at(self.session.piece, spot)}"
        self.setAccessibleDescription(words)

    def _chain_at(self, spot: Spot | None) -> ChainItem | None:
        if spot is None or spot.path == WHOLE:
            return None
        item = item_of(self.session.piece, spot)
        return item if isinstance(item, ChainItem) else None

    # --- scale --------------------------------------------------------------------------------

    def scale(self) -> float:
        """Pixels per millimetre: the whole half fits, times the zoom."""
        room = self.width() - NAMES_WIDTH - 30
        across = max(self.rule.width - self.rule.left, 40.0)
        down = max(self.rule.height, 20.0)
        return min(room / across, (self.height() - RULER_HEIGHT - 16) / down, 7.0) * self.zoom

    def origin(self) -> QPointF:
        """Where the fold meets the top of the first lane, in pixels."""
        left = -self.rule.left * self.scale()
        return QPointF(NAMES_WIDTH + 8 + left, RULER_HEIGHT + 8) - self.moved_by

    def zoom_by(self, factor: float) -> None:
        self.zoom = min(max(self.zoom * factor, 1.0), 20.0)
        self._clamp_scroll()
        self._renew()

    def _clamp_scroll(self) -> None:
        room_x = (self.rule.width - self.rule.left) * self.scale() - (
            self.width() - NAMES_WIDTH - 40
        )
        room_y = self.rule.height * self.scale() - (self.height() - RULER_HEIGHT - 20)
        x = min(max(self.moved_by.x(), 0.0), max(room_x, 0.0))
        self.moved_by = QPointF(x, min(max(self.moved_by.y(), 0.0), max(room_y, 0.0)))

    def _keep_in_sight(self) -> None:
        box = self._cursor_box()
        if box is None:
            return
        view = QRectF(NAMES_WIDTH, RULER_HEIGHT, self.width() - NAMES_WIDTH, self.height())
        shift = QPointF(0, 0)
        if box.right() > view.right() - 20:
            shift.setX(box.right() - view.right() + 40)
        if box.left() - shift.x() < view.left() + 10:
            shift.setX(box.left() - view.left() - 20)
        if not shift.isNull():
            self.moved_by += shift
            self._clamp_scroll()
            self._renew()

    # --- painting -----------------------------------------------------------------------------

    def resizeEvent(self, event: object) -> None:
        self._clamp_scroll()
        self._renew()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._picture is None or self._picture.devicePixelRatio() != self.devicePixelRatio():
            self._picture = self._drawn()
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_ruler(painter)
        self._paint_cursor(painter)
        if not self.session.assembly.members:
            self._paint_empty(painter)

    def _drawn(self) -> QPixmap:
        """Everything that does not move with the cursor."""
        ratio = self.devicePixelRatio()
        picture = QPixmap(self.size() * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(self.theme.colour("mat_deep"))
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        origin, scale = self.origin(), self.scale()
        painter.save()
        painter.setClipRect(QRectF(NAMES_WIDTH, RULER_HEIGHT, self.width(), self.height()))
        painter.translate(origin)
        painter.scale(scale, scale)
        self._paint_lanes(painter)
        for laid in sorted(self.rule.laid, key=lambda one: one.hangs):
            self._paint_laid(painter, laid)
        painter.restore()
        self._paint_fold(painter)
        self._paint_names(painter)
        painter.end()
        return picture

    def _paint_lanes(self, painter: QPainter) -> None:
        painter.setPen(QPen(self.theme.colour("ink", 45), 0.25))
        for lane in self.rule.lanes:
            painter.drawLine(QPointF(lane.start, lane.y), QPointF(lane.end, lane.y))
        painter.setPen(QPen(self.theme.colour("fold", 160), 0.35, Qt.PenStyle.DashLine))
        for a, b in self.rule.joins:
            painter.drawLine(QPointF(*a), QPointF(*b))

    def _paint_laid(self, painter: QPainter, laid: Laid) -> None:
        assembly = self.session.assembly
        thing = assembly.thing(laid.member)
        if isinstance(thing, Connector):
            self._paint_connector(painter, laid, thing, assembly)
            return
        draw_member(painter, assembly, laid.member, laid.points)

    def _paint_connector(
        self, painter: QPainter, laid: Laid, thing: Connector, assembly: Assembly
    ) -> None:
        at = next(
            (self.rule.at[(laid.member.id, hole.name)], hole)
            for hole in thing.holes
            if (laid.member.id, hole.name) in self.rule.at
        )
        (x, y), hole = at
        draw_connector(painter, thing, QTransform.fromTranslate(x - hole.x_mm, y + hole.y_mm))

    def _paint_fold(self, painter: QPainter) -> None:
        """The fold: a stitched line in madder red."""
        x = self.origin().x()
        if x < NAMES_WIDTH:
            return
        pen = QPen(self.theme.colour("fold"), 1.6)
        pen.setDashPattern([4, 3])
        painter.setPen(pen)
        painter.drawLine(QPointF(x, RULER_HEIGHT - 6), QPointF(x, self.height()))

    def _paint_names(self, painter: QPainter) -> None:
        painter.fillRect(QRectF(0, 0, NAMES_WIDTH, self.height()), self.theme.colour("paper"))
        painter.setFont(font(12))
        metrics = painter.fontMetrics()
        spot = self.session.spot
        for lane in self.rule.lanes:
            y = self.origin().y() + lane.y * self.scale()
            own = spot is not None and spot.owner == lane.name
            painter.setPen(self.theme.colour("ink" if own else "quiet"))
            words = metrics.elidedText(lane.name, Qt.TextElideMode.ElideRight, NAMES_WIDTH - 16)
            painter.drawText(
                QRectF(8, y - 10, NAMES_WIDTH - 12, 20), Qt.AlignmentFlag.AlignVCenter, words
            )

    def _paint_ruler(self, painter: QPainter) -> None:
        strip = QRectF(0, 0, self.width(), RULER_HEIGHT)
        painter.fillRect(strip, self.theme.colour("paper"))
        painter.setPen(QPen(self.theme.colour("paper_edge"), 1))
        painter.drawLine(strip.bottomLeft(), strip.bottomRight())
        painter.setFont(font(11))
        painter.setPen(self.theme.colour("fold"))
        painter.drawText(QRectF(8, 0, 60, RULER_HEIGHT), Qt.AlignmentFlag.AlignVCenter, "fold")
        inches = self.session.unit == "in"
        unit_mm = {"mm": 1.0, "cm": 10.0, "in": 25.4}[self.session.unit]
        steps = STEPS_IN if inches else tuple(s / (10 if unit_mm == 10 else 1) for s in STEPS_MM)
        step = next((s for s in steps if s * unit_mm * self.scale() >= 46), steps[-1])
        self._paint_ticks(painter, step, unit_mm)
        painter.setPen(self.theme.colour("quiet"))
        corner = QRectF(self.width() - 40, 0, 34, RULER_HEIGHT)
        painter.fillRect(corner, self.theme.colour("paper"))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(corner, flags, self.session.unit)

    def _paint_ticks(self, painter: QPainter, step: float, unit_mm: float) -> None:
        origin, scale = self.origin().x(), self.scale()
        first = ceil(self.rule.left / (step * unit_mm))
        last = int((self.width() - origin) / (step * unit_mm * scale)) + 1
        for k in range(first * 2, last * 2 + 1):
            x = origin + k / 2 * step * unit_mm * scale
            if not NAMES_WIDTH <= x <= self.width() - 44:
                continue
            painter.setPen(QPen(self.theme.colour("quiet"), 1))
            tall = 7 if k % 2 == 0 else 4
            painter.drawLine(QPointF(x, RULER_HEIGHT - tall), QPointF(x, RULER_HEIGHT))
            if k % 2 == 0:
                value = abs(k / 2 * step)
                words = f"{value:g}" if unit_mm != 25.4 else _fraction(value)
                box = QRectF(x - 24, 0, 48, RULER_HEIGHT - 7)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_cursor(self, painter: QPainter) -> None:
        """A soft frame round what the cursor is on, its count on a small tag beside it."""
        box = self._cursor_box()
        if box is None:
            return
        painter.setClipRect(QRectF(NAMES_WIDTH, RULER_HEIGHT, self.width(), self.height()))
        focus = self.hasFocus() or self.entry.hasFocus()
        painter.setPen(QPen(self.theme.colour("chosen", 255 if focus else 130), 2))
        painter.setBrush(self.theme.colour("chosen", 28))
        painter.drawRoundedRect(box.adjusted(-3, -3, 3, 3), 5, 5)
        self._paint_mark(painter)
        self._paint_tag(painter, box)

    def _paint_mark(self, painter: QPainter) -> None:
        """The link within a chain where something can be hung: a small wedge under it."""
        place = self.mark_place()
        if place is None:
            return
        x, y = place.x(), place.y()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("fold"))
        painter.drawPolygon([QPointF(x, y - 6), QPointF(x - 4, y - 13), QPointF(x + 4, y - 13)])

    def _paint_tag(self, painter: QPainter, box: QRectF) -> None:
        spot = self.session.spot
        if spot is None:
            return
        words = self._tag_words(spot)
        painter.setFont(font(12, bold=True))
        tag = QRectF(painter.fontMetrics().boundingRect(words)).adjusted(-7, -2, 7, 2)
        tag.moveTopLeft(QPointF(max(box.left() - 3, NAMES_WIDTH + 6), box.bottom() + 6))
        if tag.right() > self.width() - 6:
            tag.moveRight(self.width() - 6)
        if tag.bottom() > self.height() - 2:
            tag.moveBottom(box.top() - 6)
        if tag.top() < RULER_HEIGHT:
            tag.moveTopLeft(QPointF(box.right() + 8, box.center().y() - 10))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("chosen"))
        painter.drawRoundedRect(tag, 4, 4)
        painter.setPen(self.theme.colour("paper"))
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, words)

    def _tag_words(self, spot: Spot) -> str:
        words = words_at(self.session.piece, spot)
        length = self._length_at(spot) if spot.path != WHOLE else None
        if length is not None:
            words += f" · {self.session.length(length)}"
        if self.session.mark and self._chain_at(spot):
            words += f" · at link {self.session.mark}"
        return words

    def _length_at(self, spot: Spot) -> float | None:
        members = {m.id for m in self.session.members_at(spot) if m.side != "left"}
        for path in self.session.assembly.paths:
            spans = [s.span_mm for s in path.stations if members & set(s.members)]
            if spans:
                return None if None in spans else sum(s or 0.0 for s in spans)
        return None

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setFont(font(14))
        painter.setPen(self.theme.colour("ink"))
        room = QRectF(NAMES_WIDTH, RULER_HEIGHT, self.width() - NAMES_WIDTH, self.height() - 30)
        words = "Press Enter and name what lies on the fold: a chain, a ring, a bead link."
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter, words)

    def _cursor_box(self) -> QRectF | None:
        chosen = {m.id for m in self.session.members_at(self.session.spot)}
        box: QRectF | None = None
        for laid in self.rule.laid:
            if laid.member.id in chosen:
                left, top, right, bottom = laid.box
                if not laid.hangs and laid.member.side != "whole" and left < 0:
                    left = 0.0 if self.rule.left == 0 else left
                own = QRectF(left, top, right - left, bottom - top)
                if box is None or laid.hangs is False or not _apart(box, own):
                    box = own if box is None else box.united(own)
        if box is None:
            return None
        origin, scale = self.origin(), self.scale()
        return QRectF(origin + box.topLeft() * scale, box.size() * scale)

    def mark_place(self) -> QPointF | None:
        """Where the marked link lies, in pixels."""
        members = self.session.members_at(self.session.spot)
        if self._chain_at(self.session.spot) is None or not members:
            return None
        member = next((m for m in members if m.side != "left"), members[0])
        link = self.session.mark
        if member.side == "fold" and member.item == 0:
            half, odd = divmod(member.links, 2)
            link = half + link + (1 if odd else 0)
        at = self.rule.at.get((member.id, max(min(link, member.links), 1)))
        return None if at is None else self.origin() + QPointF(*at) * self.scale()

    # --- keys ---------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        five = 5 if shift else 1
        key = event.key()
        walk = self.mark_by if control else self.walk
        handled: dict[int, Callable[[], object]] = {
            Qt.Key.Key_Right: partial(walk, five if control else 1),
            Qt.Key.Key_Left: partial(walk, -(five if control else 1)),
            Qt.Key.Key_Down: partial(self.change_lane, 1),
            Qt.Key.Key_Up: partial(self.change_lane, -1),
            Qt.Key.Key_Plus: partial(self.count_by, five),
            Qt.Key.Key_Equal: partial(self.count_by, five),
            Qt.Key.Key_Asterisk: partial(self.count_by, 5),
            Qt.Key.Key_Minus: partial(self.count_by, -five),
            Qt.Key.Key_Underscore: partial(self.count_by, -5),
            Qt.Key.Key_Return: self.insert_wanted.emit,
            Qt.Key.Key_Enter: self.insert_wanted.emit,
            Qt.Key.Key_Home: partial(self.walk, -1000),
            Qt.Key.Key_End: partial(self.walk, 1000),
        }
        if key in handled:
            handled[key]()
        elif event.text() and (event.text().isdigit() or event.text() in ".,"):
            self.start_entry(event.text())
        else:
            super().keyPressEvent(event)

    def order(self) -> list[Spot]:
        """Every item of the current run in order outward."""
        spot = self.session.spot
        if spot is None:
            return []
        return self._spots_of(spot.owner)

    def _spots_of(self, owner: str) -> list[Spot]:
        seen: dict[Spot, None] = {}
        for members_spot, members in self.session._by_spot.items():
            if members_spot.owner == owner and members:
                seen[members_spot] = None
        return sorted(seen, key=lambda spot: spot.path)

    def walk(self, by: int) -> None:
        """Move the cursor along its run."""
        order, spot = self.order(), self.session.spot
        if order and spot in order:
            self.session.go(order[min(max(order.index(spot) + by, 0), len(order) - 1)])

    def change_lane(self, by: int) -> None:
        """Move to the run above or below, in the order they are drawn."""
        owners = list(dict.fromkeys(spot.owner for spot in self.session._by_spot))
        spot = self.session.spot
        if spot is None or spot.owner not in owners:
            return
        at = min(max(owners.index(spot.owner) + by, 0), len(owners) - 1)
        if owners[at] != spot.owner:
            self.session.go(first_spot(self.session.piece, owners[at]))

    def mark_by(self, by: int) -> None:
        """Move the mark along the links of the chain under the cursor."""
        spot = self.session.spot
        item = self._chain_at(spot)
        if spot is not None and item is not None:
            central = spot.path == (-1,)
            top = item.links // 2 if central else item.links
            low = 0 if central and item.links % 2 else 1
            self.session.go(spot, min(max(self.session.mark + by, low), top))

    def count_by(self, by: int) -> None:
        """Change the count under the cursor."""
        spot = self.session.spot
        if spot is not None:
            self.session.attempt(lambda: self._counted(spot, by))

    def _counted(self, spot: Spot, by: int) -> Edited:
        return set_count(self.session.piece, spot, count_at(self.session.piece, spot)[0] + by)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Enter takes what is written, Escape leaves it; neither reaches the rule."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take_entry()
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.close_entry()
                return True
        return False

    def start_entry(self, text: str) -> None:
        """Let the maker write a count or a length onto what the cursor is on."""
        box = self._cursor_box()
        if box is None:
            return
        self.entry.setText(text)
        self.entry.setFixedWidth(130)
        x = min(max(box.left(), NAMES_WIDTH), self.width() - 140)
        y = min(box.bottom() + 4, self.height() - 32)
        self.entry.move(round(x), round(max(y, RULER_HEIGHT)))
        self.entry.show()
        self.entry.setFocus()
        self.entry.deselect()

    def close_entry(self) -> None:
        self.entry.hide()
        self.setFocus()

    def _take_entry(self) -> None:
        spot = self.session.spot
        text = self.entry.text()
        if spot is not None and self.session.attempt(lambda: self._written(spot, text)):
            self.close_entry()

    def _written(self, spot: Spot, text: str) -> Edited:
        """A plain number on chain is a length unless links are said; elsewhere it is a count."""
        item = self._chain_at(spot)
        amount = parse_length(text, self.session.unit)
        if isinstance(amount, Links):
            return set_count(self.session.piece, spot, amount.count)
        if item is None:
            if not text.strip().isdigit():
                words = count_at(self.session.piece, spot)[1]
                raise DomainError(f"“{text}”: {words} are counted; write a whole number")
            return set_count(self.session.piece, spot, int(text))
        chain = self.session.assembly.things[item.part]
        if not isinstance(chain, Chain) or not chain.pitches_mm:
            raise DomainError(f"the pitch of “{chain.name}” is not known; write links instead")
        links = max(1, round(amount.mm / (sum(chain.pitches_mm) / len(chain.pitches_mm))))
        return set_count(self.session.piece, spot, links)

    # --- mouse --------------------------------------------------------------------------------

    def laid_under(self, place: QPointF) -> Laid | None:
        at = (place - self.origin()) * (1 / self.scale())
        for laid in sorted(self.rule.laid, key=lambda one: not one.hangs):
            left, top, right, bottom = laid.box
            if left - 0.5 <= at.x() <= right + 0.5 and top - 0.5 <= at.y() <= bottom + 0.5:
                return laid
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        laid = self.laid_under(event.position())
        if laid is not None:
            self.session.go_to_member(laid.member)

    def focusInEvent(self, event: object) -> None:
        self.update()

    def focusOutEvent(self, event: object) -> None:
        self.update()


def _apart(one: QRectF, other: QRectF) -> bool:
    return not one.adjusted(-4, -4, 4, 4).intersects(other)


def _fraction(value: float) -> str:
    return format_length(value * 25.4, "in").removesuffix("″")
