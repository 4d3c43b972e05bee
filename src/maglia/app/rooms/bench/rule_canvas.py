"""The drawing of the half-rule: ruler, fold, lanes, parts to scale, cursor. No keys here."""

from PySide6.QtCore import QLineF, QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPixmap, QTransform, QWheelEvent
from PySide6.QtWidgets import QWidget

from maglia.app.assistive import describe
from maglia.app.painting.marks import paint_fit_mark, paint_pin, paint_tag
from maglia.app.painting.members import draw_connector, draw_member
from maglia.app.painting.ruler import Ruler, names_width, paint_ruler, ruler_height
from maglia.app.painting.weaves import is_drawn
from maglia.app.rooms.bench.fresh import fresh_members
from maglia.app.rooms.bench.rule_layout import Laid, RuleLayout, lay_out
from maglia.app.session.session import Session
from maglia.app.theme import Theme, font
from maglia.core.assembly.assembly import Assembly
from maglia.core.edits.spots import WHOLE, Spot, item_of, words_at
from maglia.core.parts.parts import Connector
from maglia.core.piece.items import ChainItem, StrungItem
from maglia.core.sheets.as_worn import bangle_of
from maglia.core.values.measures import MM_PER

MARGIN_MM = 12.0
"""How far beyond its points a part may reach."""
ROW_MM = 40.0
"""How far a row of a weave reaches beyond its first ring."""
LEAST_SHARE = 0.72
"""A piece with many lanes is not drawn smaller than this share of the width; it scrolls."""


class RuleCanvas(QWidget):
    """Draws the session's piece along the ruler and keeps the cursor in sight."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.zoom = 1.0
        self.folds_hanging = False
        self.moved_by = QPointF(0, 0)
        self.rule = RuleLayout()
        self.trial: Assembly | None = None
        """What a phrase would make of the piece, shown while it is written."""
        self._fresh: frozenset[int] = frozenset()
        self._picture: QPixmap | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(QSize(360, 150))
        self.setAccessibleName("The half-rule: one half of the piece, from the fold outward")
        session.changed.connect(self.on_changed)
        session.moved.connect(self.on_moved)
        session.reshown.connect(self._renew)
        session.found.connect(self.on_found)
        self.on_changed()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self._renew()

    def on_changed(self) -> None:
        self.trial, self._fresh = None, frozenset()
        self._lay_out()
        self._renew()
        self._describe()

    def on_found(self) -> None:
        """Only what fits leave over is new on the rule."""
        if self.session.piece.fits:
            self._renew()

    def _lay_out(self) -> None:
        spot = self.session.spot
        kept = (spot.owner if spot else "") if self.folds_hanging else None
        self.rule = lay_out(self.shown, kept)

    @property
    def shown(self) -> Assembly:
        """What is drawn: the piece, or what it would be."""
        return self.trial or self.session.assembly

    def show_trial(self, assembly: Assembly | None) -> None:
        """Draw what a phrase would make of the piece, what is new in it marked; None: the piece."""
        if assembly is None and self.trial is None:
            return
        self.trial = assembly
        self._fresh = fresh_members(self.session.assembly, assembly) if assembly else frozenset()
        self._lay_out()
        self._renew()

    def toggle_hanging(self) -> None:
        """Fold away what hangs, but for what the cursor is on; or show it all again."""
        self.folds_hanging = not self.folds_hanging
        self.on_changed()

    def on_moved(self) -> None:
        if self.folds_hanging:
            self._lay_out()
            self._renew()
        self._keep_in_sight()
        self.update()
        self._describe()

    def _renew(self) -> None:
        self._picture = None
        self.update()

    def _describe(self) -> None:
        """Say what the cursor stands on, to those who do not see it."""
        spot = self.session.spot
        words = "empty"
        if spot is not None:
            words = f"{spot.owner}, {self._tag_words(spot)}"
            order = self.spots_of(spot.owner)
            if spot in order:
                words += f"; {order.index(spot) + 1} of {len(order)} along the run"
        describe(self, words)

    def spots_of(self, owner: str) -> list[Spot]:
        """Every item of a run or row in order outward."""
        own = (spot for spot, members in self.session.by_spot.items() if members)
        return sorted((spot for spot in own if spot.owner == owner), key=lambda spot: spot.path)

    def numbered_at(self, spot: Spot | None) -> int | None:
        """How many links or beads there are to walk along at a spot; None if there are none."""
        if spot is None or spot.path == WHOLE:
            return None
        item = item_of(self.session.piece, spot)
        if isinstance(item, StrungItem):
            return len(item.beads)
        return item.links if isinstance(item, ChainItem) else None

    # --- scale --------------------------------------------------------------------------------

    def scale(self) -> float:
        """Pixels per millimetre: the whole half fits, times the zoom."""
        room = self.width() - names_width() - 30
        across = max(self.rule.width - self.rule.left, 40.0)
        down = max(self.rule.height, 20.0)
        by_width = room / across
        by_height = (self.height() - ruler_height() - 20) / down
        high = bangle_of(self.session.assembly) is not None  # it is as high as it is wide
        least = LEAST_SHARE * by_width if self.rule.lanes and not high else 0.0
        return min(by_width, max(by_height, least), 7.0) * self.zoom

    def origin(self) -> QPointF:
        """Where the fold meets the top of the first lane, in pixels."""
        left = -self.rule.left * self.scale()
        return QPointF(names_width() + 8 + left, ruler_height() + 8) - self.moved_by

    def zoom_by(self, factor: float) -> None:
        """Nearer or further; what the cursor is on stays where it is on the screen."""
        box, origin, scale = self._cursor_box(), self.origin(), self.scale()
        off = (box.center() if box else origin) - origin
        self.zoom = min(max(self.zoom * factor, 1.0), 20.0)
        self.moved_by += self.origin() - origin + off * (self.scale() / scale - 1)
        self._clamp_scroll()
        self._renew()
        self._keep_in_sight()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(1.2 ** (event.angleDelta().y() / 120))
            return
        delta = event.angleDelta()
        sideways = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        across = delta.y() if sideways else delta.x()
        self.scroll_by(-across * 0.33, 0.0 if sideways else -delta.y() * 0.33)

    def scroll_by(self, x: float, y: float) -> None:
        """Move what is shown by so many pixels; sideways only the strip that comes into sight is
        painted."""
        before = self.moved_by
        self.moved_by = before + QPointF(x, y)
        self._clamp_scroll()
        moved = before - self.moved_by
        if self._picture is None or moved.y() != 0 or abs(moved.x()) > self.width() / 2:
            self._renew()
        elif moved.x() != 0:
            self._shift(moved.x())

    def _shift(self, by: float) -> None:
        picture = self._picture
        assert picture is not None
        ratio, lanes = picture.devicePixelRatio(), self._beside_names()
        whole = QRect(picture.rect())
        whole.setLeft(round(lanes.left() * ratio))
        picture.scroll(round(by * ratio), 0, whole)
        fresh = QRectF(lanes)
        if by < 0:
            fresh.setLeft(lanes.right() + by)
        else:
            fresh.setRight(lanes.left() + by)
        self._paint_region(picture, fresh)
        self.update()

    def _beside_names(self) -> QRectF:
        return QRectF(names_width(), 0, self.width() - names_width(), self.height())

    def _clamp_scroll(self) -> None:
        """Keep to what there is, in whole pixels of the screen."""
        room_x = (self.rule.width - self.rule.left) * self.scale() - (
            self.width() - names_width() - 30
        )
        room_y = self.rule.height * self.scale() - (self.height() - ruler_height() - 20)
        ratio = self.devicePixelRatio()
        x = round(min(max(self.moved_by.x(), 0.0), max(room_x, 0.0)) * ratio) / ratio
        self.moved_by = QPointF(x, min(max(self.moved_by.y(), 0.0), max(room_y, 0.0)))

    def _keep_in_sight(self) -> None:
        box = self._cursor_box()
        if box is None:
            return
        view = QRectF(names_width(), ruler_height(), self.width() - names_width(), self.height())
        shift = QPointF(0, 0)
        if box.right() > view.right() - 20:
            shift.setX(box.right() - view.right() + 40)
        if box.left() - shift.x() < view.left() + 10:
            shift.setX(box.left() - view.left() - 20)
        if box.bottom() + 24 > view.height() - 6:
            shift.setY(box.bottom() + 30 - view.height())
        if box.top() - shift.y() < view.top() + 8:
            shift.setY(box.top() - view.top() - 14)
        if not shift.isNull():
            self.scroll_by(shift.x(), shift.y())

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
        self._paint_fold(painter)
        if self.trial is None:
            self._paint_cursor(painter)
        else:
            self._paint_fresh(painter)
        if not self.shown.members:
            self._paint_empty(painter)

    def _drawn(self) -> QPixmap:
        """Everything that does not move with the cursor."""
        ratio = self.devicePixelRatio()
        picture = QPixmap(self.size() * ratio)
        picture.setDevicePixelRatio(ratio)
        self._paint_region(picture, self._beside_names())
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_names(painter)
        painter.end()
        return picture

    def _paint_region(self, picture: QPixmap, region: QRectF) -> None:
        painter = QPainter(picture)
        painter.setClipRect(region)
        painter.fillRect(region, self.theme.colour("mat_deep"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        origin, scale = self.origin(), self.scale()
        painter.save()
        edge = names_width() if self.rule.unfolded else max(origin.x() - 2, names_width())
        for hanging, left in ((False, edge), (True, names_width())):
            lanes = QRectF(left, ruler_height(), self.width(), self.height())
            painter.setClipRect(lanes & region)
            painter.save()
            painter.translate(origin)
            painter.scale(scale, scale)
            if not hanging:
                self._paint_lanes(painter)
            else:
                painter.setPen(QPen(self.theme.colour("ink", 110), 0.3))
                painter.drawLines([QLineF(QPointF(*a), QPointF(*b)) for a, b in self.rule.beside])
            for laid in self.rule.laid:
                if laid.hangs == hanging:
                    self._paint_laid(painter, laid, region, origin, scale)
            painter.restore()
        painter.restore()
        self._paint_marks(painter)
        painter.end()

    def _paint_lanes(self, painter: QPainter) -> None:
        painter.setPen(QPen(self.theme.colour("ink", 45), 0.25))
        for lane in self.rule.lanes:
            painter.drawLine(QPointF(lane.start, lane.y), QPointF(lane.end, lane.y))
        painter.setPen(QPen(self.theme.colour("fold", 160), 0.35, Qt.PenStyle.DashLine))
        for a, b in self.rule.joins:
            painter.drawLine(QPointF(*a), QPointF(*b))

    def _paint_laid(
        self, painter: QPainter, laid: Laid, region: QRectF, origin: QPointF, scale: float
    ) -> None:
        if not is_drawn(laid.member):
            return
        assembly = self.shown
        thing = assembly.thing(laid.member)
        if isinstance(thing, Connector):
            self._paint_connector(painter, laid, thing, assembly)
            return
        start, stop = self._in_sight(laid, region, origin, scale)
        if stop - start > 1:
            draw_member(painter, assembly, laid.member, laid.points[start:stop], start)

    def _in_sight(
        self, laid: Laid, region: QRectF, origin: QPointF, scale: float
    ) -> tuple[int, int]:
        """Which of a member's points lie within a region: of a long chain most may not."""
        start, near, far = (origin.y(), region.top(), region.bottom()) if laid.hangs else (
            origin.x(), region.left(), region.right())  # fmt: skip
        margin = MARGIN_MM if laid.member.woven is None else ROW_MM
        return laid.between((near - start) / scale - margin, (far - start) / scale + margin)

    def _paint_connector(
        self, painter: QPainter, laid: Laid, thing: Connector, assembly: Assembly
    ) -> None:
        at = next(
            (self.rule.at[(laid.member.id, hole.name)], hole)
            for hole in thing.holes
            if (laid.member.id, hole.name) in self.rule.at
        )
        (x, y), hole = at
        frame = QTransform.fromTranslate(x - hole.x_mm, y + hole.y_mm)
        draw_connector(painter, assembly, laid.member, frame)

    def _paint_marks(self, painter: QPainter) -> None:
        """On what a fit sets a small gauge, with what is left over; on what is pinned, a pin."""
        found = self.session.findings
        if found is None or self.trial is not None:
            return
        stands = {one.fit.name: one for one in found.fits}
        for spot, name in self.session.fitted_spots():
            box = self._box_of(spot)
            stand = stands.get(name)
            if box is None or stand is None:
                continue
            x, y = max(box.left() + 9, self.origin().x() + 9), box.top() - 6
            own = next((r for r in stand.residuals if r.run == spot.owner), None)
            own = own or (stand.residuals[0] if stand.residuals else None)
            met = own.met if own else stand.met
            paint_fit_mark(painter, x, y, self.theme, met=met, locked=stand.fit.locked)
            if own is not None and own.unit == "mm" and abs(own.off) >= 0.05:
                painter.setFont(font(11))
                painter.setPen(self.theme.colour("ink"))
                digits = ".1f" if self.session.unit == "mm" else ".2f"
                left = own.off / MM_PER[self.session.unit]
                painter.drawText(QPointF(x + 10, y + 3), f"{left:+{digits}}")
        for spot in self.session.pinned_spots():
            box = self._box_of(spot)
            if box is not None:
                paint_pin(
                    painter, max(box.left(), self.origin().x()) + 24, box.top() - 3, self.theme
                )

    def _paint_fold(self, painter: QPainter) -> None:
        """The fold: a stitched line in madder red, at the edge when it is scrolled away."""
        x = max(self.origin().x(), names_width() + 1.0)
        pen = QPen(self.theme.colour("fold"), 1.6)
        pen.setDashPattern([4, 3])
        painter.setPen(pen)
        painter.drawLine(QPointF(x, ruler_height() - 6), QPointF(x, self.height()))

    def _paint_names(self, painter: QPainter) -> None:
        painter.fillRect(QRectF(0, 0, names_width(), self.height()), self.theme.colour("paper"))
        painter.setFont(font(12))
        metrics = painter.fontMetrics()
        spot = self.session.spot
        for lane in self.rule.lanes:
            y = self.origin().y() + lane.y * self.scale()
            own = spot is not None and spot.owner == lane.name
            painter.setPen(self.theme.colour("ink" if own else "quiet"))
            words = metrics.elidedText(lane.name, Qt.TextElideMode.ElideRight, names_width() - 16)
            painter.drawText(
                QRectF(8, y - 10, names_width() - 12, 20), Qt.AlignmentFlag.AlignVCenter, words
            )

    def _paint_ruler(self, painter: QPainter) -> None:
        ruler = Ruler(self.origin().x(), self.scale(), self.rule.left, self.width())
        paint_ruler(painter, ruler, self.session.unit, self.theme)

    def _paint_cursor(self, painter: QPainter) -> None:
        """A soft frame round what the cursor is on, its count on a small tag beside it."""
        box = self._cursor_box()
        if box is None:
            return
        painter.setClipRect(QRectF(names_width(), ruler_height(), self.width(), self.height()))
        self._paint_selection(painter)
        focus = self.hasFocus() or any(w.hasFocus() for w in self.findChildren(QWidget))
        painter.setPen(QPen(self.theme.colour("chosen", 255 if focus else 130), 2))
        painter.setBrush(self.theme.colour("chosen", 28))
        painter.drawRoundedRect(box.adjusted(-3, -3, 3, 3), 5, 5)
        self._paint_mark(painter)
        if self.session.spot is not None:
            room = QRectF(self._beside_names())
            room.setTop(ruler_height())
            paint_tag(painter, self._tag_words(self.session.spot), box, room, self.theme)

    def _paint_mark(self, painter: QPainter) -> None:
        """The link within a chain where something can be hung: a small wedge under it."""
        place = self.mark_place()
        if place is None:
            return
        x, y = place.x(), place.y()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("fold"))
        painter.drawPolygon([QPointF(x, y - 6), QPointF(x - 4, y - 13), QPointF(x + 4, y - 13)])

    def _tag_words(self, spot: Spot) -> str:
        words = words_at(self.session.piece, spot)
        length = self._length_at(spot) if spot.path != WHOLE else None
        if length is not None:
            words += f" · {self.session.length(length)}"
        if self.session.cursor.mark and self.numbered_at(spot):
            strung = isinstance(item_of(self.session.piece, spot), StrungItem)
            words += f" · at {'bead' if strung else 'link'} {self.session.cursor.mark}"
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
        room = QRectF(
            names_width(), ruler_height(), self.width() - names_width(), self.height() - 30
        )
        words = "Press Enter and name what lies on the fold: a chain, a ring, a bead link."
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter, words)

    def _cursor_box(self) -> QRectF | None:
        return self._box_of(self.session.spot)

    def _paint_fresh(self, painter: QPainter) -> None:
        """A soft frame round everything that a phrase would add."""
        painter.setClipRect(QRectF(names_width(), ruler_height(), self.width(), self.height()))
        pen = QPen(self.theme.colour("chosen"), 1.5)
        pen.setDashPattern([3, 3])
        painter.setPen(pen)
        painter.setBrush(self.theme.colour("chosen", 26))
        origin, scale = self.origin(), self.scale()
        for laid in self.rule.laid:
            if laid.member.id in self._fresh:
                left, top, right, bottom = laid.box
                box = QRectF(left, top, right - left, bottom - top)
                shown = QRectF(origin + box.topLeft() * scale, box.size() * scale)
                painter.drawRoundedRect(shown.adjusted(-2, -2, 2, 2), 4, 4)

    def _paint_selection(self, painter: QPainter) -> None:
        """A wash over everything that is selected beside the cursor."""
        spots = self.session.cursor.selected()
        if len(spots) < 2:
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("chosen", 60))
        for spot in spots:
            box = self._box_of(spot)
            if box is not None:
                painter.drawRoundedRect(box.adjusted(-2, -2, 2, 2), 3, 3)

    def _box_of(self, spot: Spot | None) -> QRectF | None:
        """Where what is at a spot lies, in pixels."""
        chosen = {m.id for m in self.session.members_at(spot)}
        box: QRectF | None = None
        for laid in self.rule.laid:
            if laid.member.id in chosen:
                left, top, right, bottom = laid.box
                if not laid.hangs and left < 0 and not self.rule.unfolded:
                    left = 0.0
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
        if self.numbered_at(self.session.spot) is None or not members:
            return None
        member = next((m for m in members if m.side != "left"), members[0])
        link = self.session.cursor.mark
        if member.side == "fold" and member.item == 0:
            half, odd = divmod(member.links, 2)
            link = half + link + (1 if odd else 0)
        at = self.rule.at.get((member.id, max(min(link, member.links), 1)))
        return None if at is None else self.origin() + QPointF(*at) * self.scale()


def _apart(one: QRectF, other: QRectF) -> bool:
    return not one.adjusted(-4, -4, 4, 4).intersects(other)
