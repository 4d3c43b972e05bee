"""The form: the piece as it hangs: pointing at it, turning it, its last state as a ghost."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from maglia.app.pictures import Pictures
from maglia.app.rooms.bench.dimensions import Dimension
from maglia.app.rooms.bench.form_canvas import NEAR_PX, FormCanvas, cannot_hang, in_sight
from maglia.app.session.session import Session
from maglia.app.theme import Theme
from maglia.core.assembly.assembly import Member
from maglia.core.edits.spots import Edited
from maglia.core.piece.piece import Piece
from maglia.core.piece.wishes import Fit
from maglia.core.sheets.as_worn import coil_of, turns_of

if TYPE_CHECKING:
    import numpy as np

    from maglia.core.report import Findings


class FormView(FormCanvas):
    """Shows the last results that came; listens to `Session.found`."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        self.keys: QWidget = QWidget(self)
        """Where keys go; the window sets it to the half-rule."""
        self._dragged: QPointF | None = None
        self._compares = False
        session.changed.connect(self.on_changed)
        session.found.connect(self.on_found)
        session.evaluation.compared.connect(self.on_compared)
        self.board = Pictures(session.evaluation.jobs, "board", self)
        self.board.hung.connect(self.on_board)
        self.on_found()

    def on_changed(self) -> None:
        self._compares = False

    def on_board(self, key: str, found: Findings) -> None:
        """How a piece hangs on the board that cannot hang on its wearer."""
        self.instead = found
        self.update()

    def _hang_on_board(self, found: Findings) -> None:
        piece = found.assembly.piece
        self.instead = None
        self.board.known.clear()
        unwished = replace(piece, fits=())
        self.board.ask([("board", lambda: unwished)])

    def on_found(self) -> None:
        """New results: the last ones become the ghost; what the body hides is found again."""
        found = self.session.findings
        if found is not None and found is not self._before and cannot_hang(found):
            self._hang_on_board(found)
        if found is not self._before:
            ghost, self._before = self._before, found
            self.ghost = self.ghost if self._compares else ghost
            if ghost is not None:
                self._earlier = {
                    (m.run, m.side, m.item, m.number, m.ref): m.id for m in ghost.assembly.members
                }
            asked = self.session.evaluation.piece
            if found is not None and found.assembly.piece is not asked:
                self._settling.stop()  # a newer one is on its way, as while a key is held
            elif self.moves and self._earlier and self.isVisible():
                self._settling.start()
        turns = turns_of(found.assembly) if found else 1
        if found is not None and found.hung is not None and found.hung.form is not None:
            turns = max(turns, 2 if coil_of(found.assembly) else 1)
        if turns != self._turns:  # what is wound is looked at across the arm
            self._turns, self.from_side = turns, turns > 1
        self._seen.clear()
        self._hidden = self._behind(found) if found else set()
        self.describe()
        self.update()

    def turn(self) -> None:
        """From the front to the side and back."""
        self.from_side = not self.from_side
        self.on_found()

    def toggle_motion(self) -> None:
        self.moves = not self.moves
        self.session.said.emit(f"The piece {'settles' if self.moves else 'stands at once'}.")

    def compare(self, piece: Piece) -> None:
        """Lay another state of the piece as a ghost over the present one, once it hangs."""
        self.session.evaluation.compare(piece)

    def on_compared(self, found: Findings) -> None:
        """It stays until the next change, whatever results are still on their way."""
        self.ghost, self.shows_ghost, self._compares = found, True, True
        self.update()

    def toggle_loupe(self) -> None:
        self.shows_loupe = not self.shows_loupe
        self.update()

    def toggle_ghost(self) -> None:
        self.shows_ghost = not self.shows_ghost
        self.update()

    def _behind(self, found: Findings) -> set[int]:
        """Members the body hides; of chains and strung beads the stretches it does not hide are
        noted. All points are looked at together: one look costs as much as a thousand."""
        import numpy as np

        from maglia.app.painting.body import is_hidden

        hung = found.hung
        if hung is None or hung.form is None:
            return set()
        if hung.form.kind != "bust" and not self.from_side:
            return set()
        if hung.state != "converged":
            return set()
        members = [m for m in found.assembly.members if m.id in hung.drawn]
        points = [hung.points_of(m.id) for m in members]
        looked = [
            p if m.links else p.mean(axis=0)[None] for m, p in zip(members, points, strict=True)
        ]
        hidden = is_hidden(hung.form.body, np.vstack(looked), side=self.from_side)
        gone, at = set(), 0
        for member, own in zip(members, looked, strict=True):
            mine = hidden[at : at + len(own)]
            at += len(own)
            if member.links:
                self._seen[id(hung), member.id, self.from_side] = in_sight(mine)
            elif mine[0]:
                gone.add(member.id)
        return gone

    # --- pointing ------------------------------------------------------------------------------

    def member_under(self, place: QPointF) -> Member | None:
        """The member nearest to a point of the widget, if it is near."""
        import numpy as np

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

    def dimension_under(self, place: QPointF) -> Dimension | None:
        return next((one for one in self.dimensions() if one.holds(place)), None)

    def pull_to(self, place: QPointF) -> None:
        """Draw the held dimension line to a height; nothing is solved before it is let go."""
        if self.pulled is None:
            return
        held = self.pulled[0]
        mm = round(2 * (held.mm + (place.y() - held.low) / held.scale)) / 2
        self.pulled = (held, mm)
        self.session.said.emit(f"{held.words} {self.session.length(mm)}: let go to fit it.")
        self.update()

    def let_go(self) -> None:
        """The fit behind the pulled line is solved; one undo step."""
        held, self.pulled = self.pulled, None
        self.update()
        if held is not None and held[1] != held[0].mm:
            self.session.attempt(lambda: self._fitted(*held))

    def _fitted(self, one: Dimension, mm: float) -> Edited:
        from maglia.core.fit.pull import fall_pulled, gap_pulled, sag_pulled
        from maglia.core.fit.wishes import with_fit, words

        piece, found = self.session.piece, self.session.findings
        assert found is not None
        fit: Fit
        if one.kind == "fall":
            fit = fall_pulled(piece, found.readings, one.names[0], mm)
        elif one.kind == "gap":
            upper, lower = one.names
            fit = gap_pulled(piece, found.readings, upper, lower, mm)
        else:
            fit = sag_pulled(piece, one.names[0], mm)
        return Edited(with_fit(piece, fit), f"fit {words(fit, self.session.unit)}")

    # --- nearer and further --------------------------------------------------------------------

    def zoom_at(self, place: QPointF, factor: float) -> None:
        """Zoom about a point of the widget."""
        zoom = min(max(self.zoom * factor, 1.0), 12.0)
        share = zoom / self.zoom
        middle = QPointF(self.width() / 2, self.height() / 2)
        self.shift = (self.shift + middle - place) * share + place - middle
        self.zoom = zoom
        if zoom == 1.0:
            self.shift = QPointF(0, 0)
        self.update()

    def whole(self) -> None:
        self.zoom, self.shift = 1.0, QPointF(0, 0)
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom_at(event.position(), 1.2 ** (event.angleDelta().y() / 120))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.whole()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged is not None:
            self.shift += event.position() - self._dragged
            self._dragged = event.position()
            self.update()
            return
        if self.pulled is not None:
            self.pull_to(event.position())
            return
        over = self.dimension_under(event.position())
        self.setCursor(Qt.CursorShape.SizeVerCursor if over else Qt.CursorShape.ArrowCursor)
        self.here = event.position()
        if self.shows_loupe:
            self.update()
        pointed = self.member_under(event.position())
        if pointed != self.pointed:
            self.pointed = pointed
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        one = self.dimension_under(event.position())
        if one is not None:
            self.pulled = (one, one.mm)
            self.update()
            return
        if event.button() == Qt.MouseButton.MiddleButton:
            self._dragged = event.position()
            return
        member = self.member_under(event.position())
        if member is not None:
            self.session.go_to_member(member)
        elif self.zoom > 1.0:
            self._dragged = event.position()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._dragged = None
        self.let_go()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.pulled is not None:
            self.pulled = None
            self.update()
            return
        self.keys.keyPressEvent(event)  # + − and arrows work here as on the half-rule


def _distance(points: np.ndarray, at: tuple[float, float]) -> float:
    """Distance of a point from a polyline."""
    import numpy as np

    a, d = points[:-1], np.diff(points, axis=0)
    square = np.maximum((d**2).sum(axis=1), 1e-12)
    t = np.clip(((np.array(at) - a) * d).sum(axis=1) / square, 0, 1)
    return float(np.linalg.norm(a + t[:, None] * d - at, axis=1).min())
