"""The form: the piece as it hangs, drawn part by part, with its falls as dimension lines."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QWidget

from maglia.bench.painting.members import draw_connector, draw_member
from maglia.bench.session import Session
from maglia.bench.theme import Theme, font
from maglia.core.assembly import Member, member_name
from maglia.core.parts import Connector
from maglia.core.report import Findings

MARGIN = 26
NEAR_PX = 9.0


class FormView(QWidget):
    """Shows the last results that came; listens to `Session.found` and `moved`."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.pointed: Member | None = None
        self.setMouseTracking(True)
        self.setMinimumSize(QSize(360, 220))
        self.setAccessibleName("The form: the piece as it hangs")
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        for signal in (session.found, session.moved, session.reshown, session.changed):
            signal.connect(self.update)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    # --- the view of the board -----------------------------------------------------------------

    def _extent(self, found: Findings) -> QRectF:
        hung = found.hung
        assert hung is not None
        low, high = hung.solution.positions.min(axis=0), hung.solution.positions.max(axis=0)
        box = QRectF(float(low[0]), -float(high[-1]), float(high[0] - low[0]), 0)
        box.setHeight(max(float(high[-1] - low[-1]), 10.0))
        return box.adjusted(-34, -10, 34, 12)

    def view(self) -> QTransform | None:
        """Millimetres (y down) to widget pixels."""
        found = self.session.findings
        if found is None or found.hung is None or found.hung.state != "converged":
            return None
        box = self._extent(found)
        scale = min((self.width() - 2 * MARGIN) / box.width(), (self.height() - 20) / box.height())
        scale = min(scale, 9.0)
        view = QTransform()
        view.translate(self.width() / 2, self.height() / 2)
        view.scale(scale, scale)
        view.translate(-box.center().x(), -box.center().y())
        return view

    # --- painting ------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), self.theme.colour("mat"))
        found, view = self.session.findings, self.view()
        if found is None or view is None:
            self._paint_nothing(painter)
            return
        self._paint_board(painter, view, found)
        painter.save()
        painter.setTransform(view)
        self._paint_piece(painter, found)
        painter.restore()
        self._paint_falls(painter, view, found)
        self._paint_pointed(painter)

    def _paint_nothing(self, painter: QPainter) -> None:
        found = self.session.findings
        words = "The piece hangs here."
        if found is not None and found.hung is not None:
            words = f"It cannot hang: {found.hung.solution.cause}."
        elif not self.session.assembly.members:
            words = "An empty board. The piece will hang here, link by link."
        painter.setPen(self.theme.colour("ink"))
        painter.setFont(font(15))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)

    def _paint_board(self, painter: QPainter, view: QTransform, found: Findings) -> None:
        """The pins, and the line through them from which falls are measured."""
        assert found.hung is not None
        network = found.hung.network
        pins = [view.map(QPointF(float(p[0]), -float(p[-1]))) for p in network.start[network.fixed]]
        painter.setPen(QPen(self.theme.colour("ink", 90), 1, Qt.PenStyle.DotLine))
        y = view.map(QPointF(0, 0)).y()
        painter.drawLine(QPointF(MARGIN, y), QPointF(self.width() - MARGIN, y))
        fold = view.map(QPointF(0, 0)).x()
        painter.setPen(QPen(self.theme.colour("fold", 150), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(fold, 8), QPointF(fold, self.height() - 8))
        painter.setPen(Qt.PenStyle.NoPen)
        for pin in pins:
            painter.setBrush(self.theme.colour("ink", 60))
            painter.drawEllipse(pin + QPointF(1.5, 2), 5, 5)
            painter.setBrush(self.theme.colour("fold"))
            painter.drawEllipse(pin, 4.5, 4.5)
            painter.setBrush(self.theme.colour("paper", 170))
            painter.drawEllipse(pin - QPointF(1.3, 1.3), 1.4, 1.4)

    def _paint_piece(self, painter: QPainter, found: Findings) -> None:
        chosen = {m.id for m in self.session.members_at(self.session.spot)}
        lit = [m for m in found.assembly.members if m.id in chosen]
        if found.assembly is self.session.assembly or len(lit) == len(chosen):
            self._paint_glow(painter, found, lit)
        for member in found.assembly.members:
            self._paint_member(painter, found, member)

    def _paint_glow(self, painter: QPainter, found: Findings, lit: list[Member]) -> None:
        for member in lit:
            points = self._points(found, member)
            pen = QPen(self.theme.colour("chosen", 150), 6.5)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawPolyline([QPointF(*p) for p in points])

    def _points(self, found: Findings, member: Member) -> list[tuple[float, float]]:
        assert found.hung is not None
        return [(float(p[0]), -float(p[-1])) for p in found.hung.points_of(member.id)]

    def _paint_member(self, painter: QPainter, found: Findings, member: Member) -> None:
        assert found.hung is not None
        thing = found.assembly.thing(member)
        if isinstance(thing, Connector):
            body = found.hung.bodies[member.id]
            flipped = body.local * (1, -1)
            points = np.array(self._points(found, member))
            ones = np.c_[flipped, np.ones(len(flipped))]
            fit, *_ = np.linalg.lstsq(ones, points, rcond=None)
            mirror = -1.0 if member.side == "left" else 1.0
            (a, b), (c, d), (e, f) = fit
            if np.linalg.matrix_rank(flipped - flipped.mean(axis=0)) < 2:
                c, d = -b, a  # in line: the other axis stands square to it
            frame = QTransform(mirror * a, mirror * b, c, d, e, f)
            draw_connector(painter, thing, frame)
            return
        draw_member(painter, found.assembly, member, self._points(found, member))

    def _paint_falls(self, painter: QPainter, view: QTransform, found: Findings) -> None:
        """Dimension lines: the fall of every strand, and of the lowest drop."""
        falls = found.readings.falls_mm
        kinds = {run.name: run.kind for run in found.assembly.runs}
        shown = [name for name in falls if kinds[name] == "strand"]
        drops = [name for name in falls if kinds[name] == "drop"]
        if drops:
            shown.append(max(drops, key=falls.__getitem__))
        hung = found.hung
        assert hung is not None
        right = view.map(QPointF(float(hung.solution.positions[:, 0].max()), 0)).x()
        painter.setFont(font(12))
        for k, name in enumerate(shown):
            x = min(right + 26 + 30 * k, self.width() - 14.0 - 30 * (len(shown) - 1 - k))
            top, low = view.map(QPointF(0, 0)).y(), view.map(QPointF(0, falls[name])).y()
            painter.setPen(QPen(self.theme.colour("ink"), 1))
            painter.drawLine(QPointF(x, top), QPointF(x, low))
            for y in (top, low):
                painter.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
            painter.setPen(QPen(self.theme.colour("ink", 70), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(view.map(QPointF(0, 0)).x(), low), QPointF(x - 6, low))
            self._paint_label(
                painter, QPointF(x, (top + low) / 2), f"{name}  {self.session.length(falls[name])}"
            )

    def _paint_label(self, painter: QPainter, at: QPointF, words: str) -> None:
        """A label turned along its dimension line, on a patch of mat."""
        painter.save()
        painter.translate(at)
        painter.rotate(-90)
        box = painter.fontMetrics().boundingRect(words).adjusted(-5, -1, 5, 1)
        box.moveCenter(QPointF(0, 0).toPoint())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("mat"))
        painter.drawRect(box)
        painter.setPen(self.theme.colour("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        painter.restore()

    def _paint_pointed(self, painter: QPainter) -> None:
        if self.pointed is None:
            return
        assembly = self.session.assembly
        letter = assembly.letters.get(self.pointed.ref, "")
        words = f"{letter}  {assembly.things[self.pointed.ref].name} · {member_name(self.pointed)}"
        painter.setFont(font(12))
        box = QRectF(painter.fontMetrics().boundingRect(words)).adjusted(-8, -4, 8, 4)
        box.moveTo(12, 10)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("paper", 225))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(self.theme.colour("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words.strip())

    # --- pointing ------------------------------------------------------------------------------

    def member_under(self, place: QPointF) -> Member | None:
        """The member nearest to a point of the widget, if it is near."""
        found, view = self.session.findings, self.view()
        if found is None or found.hung is None or view is None:
            return None
        inverse, ok = view.inverted()
        at = inverse.map(place)
        reach = NEAR_PX / view.m11()
        best: tuple[float, Member | None] = (reach, None)
        for member in found.assembly.members:
            points = np.array(self._points(found, member))
            distance = _distance(points, (at.x(), at.y()))
            if ok and distance < best[0]:
                best = (distance, member)
        return best[1]

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        pointed = self.member_under(event.position())
        if pointed != self.pointed:
            self.pointed = pointed
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        member = self.member_under(event.position())
        if member is not None:
            self.session.go_to_member(member)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()  # the window hands keys to the half-rule


def _distance(points: np.ndarray, at: tuple[float, float]) -> float:
    """Distance of a point from a polyline."""
    a, d = points[:-1], np.diff(points, axis=0)
    square = np.maximum((d**2).sum(axis=1), 1e-12)
    t = np.clip(((np.array(at) - a) * d).sum(axis=1) / square, 0, 1)
    return float(np.linalg.norm(a + t[:, None] * d - at, axis=1).min())
