"""The drawing of the form: body or board, the piece part by part, falls as dimension lines."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import (
    QAbstractAnimation,
    QEasingCurve,
    QPointF,
    QRectF,
    QSize,
    Qt,
    QVariantAnimation,
)
from PySide6.QtGui import (
    QBrush,
    QLinearGradient,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QRadialGradient,
    QTransform,
)
from PySide6.QtWidgets import QWidget

from maglia.app.assistive import describe
from maglia.app.painting.members import below_thread_mm, draw_connector, draw_member, hides
from maglia.app.painting.small import draw_small, hung_frame
from maglia.app.painting.weaves import is_drawn
from maglia.app.rooms.bench.dimensions import Dimension, dimensions_of, paint_dimension
from maglia.app.session.session import Session
from maglia.app.theme import Theme, font
from maglia.core.assembly.assembly import Member, member_name
from maglia.core.edits.spots import words_at
from maglia.core.parts.parts import Connector

if TYPE_CHECKING:
    import numpy as np

    from maglia.core.hang.fanned import Turns
    from maglia.core.hang.forms import FormBody
    from maglia.core.hang.hung import Hung
    from maglia.core.report import Findings

MARGIN = 26
NEAR_PX = 9.0
SETTLE_MS = 180
LOUPE_PX, LOUPE_TIMES = 92.0, 3.5
PAIR_GAP_MM = 22.0
SETTLING = QAbstractAnimation.State.Running


class FormCanvas(QWidget):
    """Draws the last results that came, on their way to rest while the piece settles."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.pointed: Member | None = None
        self.instead: Findings | None = None
        """The piece on the board, where it cannot hang on its wearer."""
        self.pulled: tuple[Dimension, float] | None = None
        self.zoom, self.shift = 1.0, QPointF(0, 0)
        self.from_side = False
        self.ghost: Findings | None = None
        self.shows_ghost = False
        self.shows_loupe = False
        self.here = QPointF(0, 0)
        self._before: Findings | None = None
        self._fanned: dict[int, tuple[Hung, Turns]] = {}
        self._turns = 1
        self._earlier: dict[tuple[str, str, int, int, str], int] = {}
        self.setMouseTracking(True)
        self.setMinimumSize(QSize(360, 220))
        self.setAccessibleName("The form: the piece as it hangs")
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.moves = True
        self._settling = QVariantAnimation(self)
        self._settling.setDuration(SETTLE_MS)
        self._settling.setStartValue(0.0)
        self._settling.setEndValue(1.0)
        self._settling.setEasingCurve(QEasingCurve.Type.OutCubic)
        self._settling.valueChanged.connect(lambda _: self.update())
        self._hidden: set[int] = set()
        self._seen: dict[tuple[int, int, bool], list[tuple[int, int]]] = {}
        for signal in (session.moved, session.reshown):  # a changed piece is drawn when it hangs
            signal.connect(self.update)
            signal.connect(self.describe)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def describe(self) -> None:
        """Say how it hangs and what lights up, to those who do not see it."""
        found, spot = self.session.findings, self.session.spot
        words = ["not hung yet"]
        if found is not None and found.hung is not None:
            words = ["hangs at rest" if found.hung.state == "converged" else found.hung.state]
            falls = found.readings.falls_mm.items()
            called = found.assembly.run_words
            words += [f"fall of {called(run)} {self.session.length(mm)}" for run, mm in falls]
        if spot is not None:
            words.insert(0, f"{spot.owner}, {words_at(self.session.piece, spot)}")
        describe(self, "; ".join(words))

    # --- the view of the board -----------------------------------------------------------------

    def _extent(self, found: Findings) -> QRectF:
        hung = found.hung
        assert hung is not None
        across = 1 if self._turned(found) else 0
        low, high = hung.solution.positions.min(axis=0), hung.solution.positions.max(axis=0)
        top = float(high[-1])
        left, right = float(low[across]), float(high[across])
        if hung.form is not None and hung.form.kind == "bust":
            top, left, right = max(top, 60.0), min(left, -105.0), max(right, 105.0)
        elif hung.form is not None:
            size = 1.5 * hung.form.top_z
            top, left, right = max(top, size), min(left, -size), max(right, size)
        if found.assembly.piece.pair:
            right = self._mirror_axis(found) * 2 - left
        strung = (m for m in found.assembly.members if m.strung is not None)
        below = max((below_thread_mm(found.assembly, m) for m in strung), default=0.0)
        box = QRectF(left, -top, right - left, max(top - float(low[-1]) + below, 10.0))
        return box.adjusted(-34, -10, 34, 12)

    def _mirror_axis(self, found: Findings) -> float:
        """Where a mirror stands between the two earrings of a pair, mm."""
        assert found.hung is not None
        turned = (x for index in self._fan(found)
                  for x, _ in self._points(found, found.assembly.members[index]))  # fmt: skip
        outermost = float(found.hung.solution.positions[:, 0].max())
        return max((outermost, *turned)) + PAIR_GAP_MM / 2

    def _turned(self, found: Findings) -> bool:
        return self.from_side and found.hung is not None and found.hung.form is not None

    def view(self) -> QTransform | None:
        """Millimetres (y down) to widget pixels."""
        found = self.session.findings
        if found is None or found.hung is None or found.hung.state != "converged":
            return None
        box = self._extent(found)
        scale = min((self.width() - 2 * MARGIN) / box.width(), (self.height() - 20) / box.height())
        scale = min(scale, 9.0)
        view = QTransform()
        view.translate(self.width() / 2 + self.shift.x(), self.height() / 2 + self.shift.y())
        view.scale(scale * self.zoom, scale * self.zoom)
        view.translate(-box.center().x(), -box.center().y())
        return view

    # --- painting ------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        self.draw(painter)
        view, found = self.view(), self.session.findings
        if self.shows_loupe and view is not None and found is not None:
            self._paint_loupe(painter, view, found)

    def draw(self, painter: QPainter) -> None:
        """The whole picture, on the widget or on paper."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), self.theme.colour("mat"))
        found, view = self.session.findings, self.view()
        if found is None or view is None:
            self._paint_nothing(painter)
            return
        self._paint_form(painter, view, found)
        painter.save()
        painter.setTransform(view)
        if self.shows_ghost and self.ghost is not None:
            painter.setOpacity(0.28)
            self._paint_members(painter, self.ghost)
            painter.setOpacity(1.0)
        self._paint_piece(painter, found)
        self._paint_flat_marks(painter, found)
        painter.restore()
        self._paint_dimensions(painter)
        self._paint_pointed(painter)

    def _paint_loupe(self, painter: QPainter, view: QTransform, found: Findings) -> None:
        """A round glass under the pointer (or over what the cursor is on), four times nearer."""
        at = self.here if self.underMouse() else self._chosen_place(view, found)
        glass = QPainterPath()
        glass.addEllipse(at, LOUPE_PX, LOUPE_PX)
        nearer = QTransform(view)
        inverse, _ = view.inverted()
        there = inverse.map(at)
        nearer.translate(there.x(), there.y())
        nearer.scale(LOUPE_TIMES, LOUPE_TIMES)
        nearer.translate(-there.x(), -there.y())
        painter.save()
        painter.setClipPath(glass)
        painter.fillPath(glass, self.theme.colour("mat_deep"))
        self._paint_form(painter, nearer, found)
        painter.setTransform(nearer, combine=False)
        self._paint_piece(painter, found)
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self.theme.colour("ink", 160), 2))
        painter.drawEllipse(at, LOUPE_PX, LOUPE_PX)

    def _chosen_place(self, view: QTransform, found: Findings) -> QPointF:
        members = self.session.members_at(self.session.spot)
        known = [m for m in members if found.hung and m.id in found.hung.drawn and m.side != "left"]
        if not known or found.assembly.piece is not self.session.assembly.piece:
            return QPointF(self.width() / 2, self.height() / 2)
        points = self._points(found, known[0])
        return view.map(QPointF(*points[len(points) // 2]))

    def _paint_nothing(self, painter: QPainter) -> None:
        found = self.session.findings
        words = "The piece hangs here."
        if found is not None and found.hung is not None:
            words = f"It cannot hang: {found.hung.solution.cause}."
            if self.instead is not None and cannot_hang(found):
                self._paint_instead(painter, self.instead, found)
                return
        elif not self.session.assembly.members:
            words = "An empty board. The piece will hang here, link by link."
        painter.setPen(self.theme.colour("ink"))
        painter.setFont(font(15))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)

    def _paint_instead(self, painter: QPainter, board: Findings, found: Findings) -> None:
        """The piece on the board, since its wearer cannot wear it, with the way to mend that."""
        assert found.hung is not None
        box = QRectF(self.rect()).adjusted(MARGIN, 64, -MARGIN, -MARGIN)
        draw_small(painter, board, box)
        wearer = found.assembly.piece.wearer.role
        stop = next((c for c in found.checks if c.code.startswith("hang-") and c.repair), None)
        words = [f"It cannot hang on {wearer}: {found.hung.solution.cause}. It hangs on the board."]
        if stop is not None:
            words.append(f"Ctrl+K, then R: {stop.repair}")
        painter.setPen(self.theme.colour("ink"))
        for k, line in enumerate(words):
            painter.setFont(font(13, bold=k == 0))
            row = QRectF(0, 14 + 22 * k, self.width(), 22)
            painter.drawText(row, Qt.AlignmentFlag.AlignCenter, line)

    def _paint_form(self, painter: QPainter, view: QTransform, found: Findings) -> None:
        """The body the piece lies on, or the pins of the board; and the fold."""
        hung = found.hung
        assert hung is not None
        if hung.form is None:
            self._paint_board(painter, view, found)
            return
        if hung.form.kind != "bust":
            self._paint_limb(painter, view, hung.form)
            return
        from maglia.app.painting.body import BOX, shaded

        image = shaded(hung.form.body, self._turned(found), self.theme.board)
        painter.save()
        painter.setTransform(view)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(QPointF(*BOX[:2]), QPointF(*BOX[2:])), image)
        painter.restore()
        if not self.from_side:
            self._paint_fold(painter, view)

    def _paint_limb(self, painter: QPainter, view: QTransform, form: FormBody) -> None:
        """A wrist or ankle: its round section from the front, its length from the side."""
        radius = form.top_z
        middle, scale = view.map(QPointF(0, 0)), view.m11()
        light, dark = self.theme.colour("board").lighter(108), self.theme.colour("mat_deep")
        painter.setPen(Qt.PenStyle.NoPen)
        if self.from_side:
            shade = QLinearGradient(QPointF(0, middle.y() - radius * scale), QPointF(
                0, middle.y() + radius * scale))  # fmt: skip
            shade.setColorAt(0.25, light)
            shade.setColorAt(1.0, dark)
            painter.setBrush(QBrush(shade))
            high = radius * scale
            painter.drawRect(QRectF(0, middle.y() - high, self.width(), 2 * high))
            return
        size = radius * scale
        round_shade = QRadialGradient(
            middle - QPointF(0.3, 0.4) * radius * scale, radius * scale * 1.5
        )
        round_shade.setColorAt(0.0, light)
        round_shade.setColorAt(1.0, dark)
        painter.setBrush(QBrush(round_shade))
        painter.drawEllipse(middle, size, size)
        self._paint_fold(painter, view)

    def _paint_fold(self, painter: QPainter, view: QTransform) -> None:
        fold = view.map(QPointF(0, 0)).x()
        painter.setPen(QPen(self.theme.colour("fold", 150), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(fold, 8), QPointF(fold, self.height() - 8))

    def _paint_flat_marks(self, painter: QPainter, found: Findings) -> None:
        """A ring of ochre round whatever does not lie flat."""
        import numpy as np

        painter.setBrush(Qt.BrushStyle.NoBrush)
        for mark in found.flat.marks:
            x, y = self._flat(np.array(mark.at), found)
            painter.setPen(QPen(self.theme.colour("attention"), 0.7, Qt.PenStyle.DotLine))
            painter.drawEllipse(QPointF(x, y), 6.0, 6.0)

    def _flat(self, point: np.ndarray, found: Findings) -> tuple[float, float]:
        return float(point[1 if self._turned(found) else 0]), -float(point[-1])

    def _paint_board(self, painter: QPainter, view: QTransform, found: Findings) -> None:
        """The pins, and the line through them from which falls are measured; the mat has none."""
        assert found.hung is not None
        if found.assembly.piece.form.kind == "mat":
            return
        network = found.hung.network
        pins = [view.map(QPointF(float(p[0]), -float(p[-1]))) for p in network.start[network.fixed]]
        painter.setPen(QPen(self.theme.colour("ink", 90), 1, Qt.PenStyle.DotLine))
        y = view.map(QPointF(0, 0)).y()
        painter.drawLine(QPointF(MARGIN, y), QPointF(self.width() - MARGIN, y))
        self._paint_fold(painter, view)
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
        if found.assembly.piece is self.session.assembly.piece or len(lit) == len(chosen):
            self._paint_glow(painter, found, lit)
        self._paint_members(painter, found)
        if found.assembly.piece.pair:  # the second is the mirror of the first
            painter.save()
            painter.translate(2 * self._mirror_axis(found), 0)
            painter.scale(-1, 1)
            self._paint_members(painter, found)
            painter.restore()

    def _paint_members(self, painter: QPainter, found: Findings) -> None:
        """Everything in sight, what is further back first."""
        members = [m for m in found.assembly.members if is_drawn(m)]
        if found.hung is not None and found.hung.form is not None:
            away = 0 if self._turned(found) else 1
            hung = found.hung
            members.sort(key=lambda m: round(float(hung.points_of(m.id)[:, away].mean()), 1))
        members.sort(key=lambda m: hides(found.assembly, m))
        for member in members:
            if member.id not in self._hidden or found is not self._before:
                self._paint_member(painter, found, member)

    def _paint_glow(self, painter: QPainter, found: Findings, lit: list[Member]) -> None:
        for member in lit:
            if member.id in self._hidden:
                continue
            wide = 6.5 if member.woven is None else 2.0  # a strip is many rings
            pen = QPen(self.theme.colour("chosen", 150), wide)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            points = self._points(found, member)
            for start, stop in self._stretches(found, member):
                painter.drawPolyline([QPointF(*p) for p in points[start:stop]])

    def _points(self, found: Findings, member: Member) -> list[tuple[float, float]]:
        assert found.hung is not None
        points = self._on_the_way(found, member, found.hung.points_of(member.id))
        turns = self._fan(found).get(member.id)
        if turns and not self._turned(found):
            from maglia.core.hang.fanned import turned_points

            points = turned_points(points, turns)
        return [self._flat(p, found) for p in points]

    def _fan(self, found: Findings) -> Turns:
        """How twins that hang from one place are turned apart, worked out once a result."""
        key = id(found.hung)
        if key not in self._fanned:
            from maglia.core.hang.fanned import fanned

            assert found.hung is not None
            if len(self._fanned) > 1:  # the last results and its ghost
                self._fanned.clear()
            self._fanned[key] = (found.hung, fanned(found.assembly, found.hung))
        return self._fanned[key][1]

    def _on_the_way(self, found: Findings, member: Member, points: np.ndarray) -> np.ndarray:
        """Between where a member was and where it comes to rest, while the piece settles."""
        import numpy as np

        if found is not self._before or self._settling.state() != SETTLING or self.ghost is None:
            return points
        old = self.ghost.hung
        known = self._earlier.get((member.run, member.side, member.item, member.number, member.ref))
        if old is None or known is None or known not in old.drawn:
            return points
        there = old.points_of(known)
        if there.shape[1] != points.shape[1]:
            return points
        if len(there) != len(points):  # a link more or less: along the same line
            at = np.linspace(0, len(there) - 1, len(points))
            grid = np.arange(len(there))
            there = np.column_stack([np.interp(at, grid, column) for column in there.T])
        share = float(self._settling.currentValue())
        return np.asarray(there + share * (points - there))

    def _paint_member(self, painter: QPainter, found: Findings, member: Member) -> None:
        assert found.hung is not None
        thing = found.assembly.thing(member)
        if isinstance(thing, Connector):
            frame = hung_frame(found.hung, member, self._points(found, member))
            draw_connector(painter, found.assembly, member, frame)
            return
        line = self._points(found, member)
        for start, stop in self._stretches(found, member):
            draw_member(painter, found.assembly, member, line[start:stop], start, worn=True)

    def _stretches(self, found: Findings, member: Member) -> list[tuple[int, int]]:
        """The parts of a member that the body does not hide, as ranges of its points."""
        hung = found.hung
        assert hung is not None
        if not member.links or hung.form is None or hung.form.kind != "bust":
            return [(0, len(hung.drawn[member.id]))]
        key = (id(hung), member.id, self.from_side)
        if key not in self._seen:
            from maglia.app.painting.body import is_hidden

            gone = is_hidden(hung.form.body, hung.points_of(member.id), side=self.from_side)
            self._seen[key] = in_sight(gone)
        return self._seen[key]

    def dimensions(self) -> list[Dimension]:
        """The dimension lines of the last results, in pixels."""
        found, view = self.session.findings, self.view()
        if found is None or view is None or found.hung is None:
            return []
        mirror = self._mirror_axis(found) if found.assembly.piece.pair else None
        chosen = self.session.spot.owner if self.session.spot else ""
        return dimensions_of(
            found, view, self.width(), turned=self._turned(found), mirror=mirror, chosen=chosen
        )

    def _paint_dimensions(self, painter: QPainter) -> None:
        painter.setFont(font(12))
        for one in self.dimensions():
            pulled = self.pulled is not None and self.pulled[0].key == one.key
            mm = self.pulled[1] if pulled and self.pulled else one.mm
            shown = one.at(mm) if pulled else one
            words = f"{one.words}  {self.session.length(mm)}"
            paint_dimension(painter, shown, words, self.theme, self.height(), pulled=pulled)

    def _paint_pointed(self, painter: QPainter) -> None:
        found, own = self.session.findings, self.pointed
        if own is None or found is None or own not in found.assembly.members[own.id : own.id + 1]:
            return  # of a piece that was shown before
        assembly = found.assembly
        letter = assembly.letters.get(own.ref, "")
        words = f"{letter}  {assembly.thing(own).name} · {member_name(own)}"
        painter.setFont(font(12))
        box = QRectF(painter.fontMetrics().boundingRect(words)).adjusted(-8, -4, 8, 4)
        box.moveTo(12, 10)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("paper", 225))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(self.theme.colour("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words.strip())


def in_sight(gone: np.ndarray) -> list[tuple[int, int]]:
    """Ranges of points that are not gone, of two or more."""
    import numpy as np

    edges = np.flatnonzero(np.diff(np.r_[1, gone.astype(int), 1]))
    pairs = zip(edges[::2], edges[1::2], strict=True)
    return [(int(a), int(b)) for a, b in pairs if b - a > 1]


def cannot_hang(found: Findings) -> bool:
    """Whether a piece finds no rest on its wearer."""
    hung = found.hung
    on_body = found.assembly.piece.form.kind in ("bust", "wrist", "ankle")
    return hung is not None and on_body and hung.solution.state != "converged"
