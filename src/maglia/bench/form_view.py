"""The form: the piece as it hangs: pointing at it, turning it, its last state as a ghost."""

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QKeyEvent, QMouseEvent

from maglia.bench.form_canvas import NEAR_PX, FormCanvas
from maglia.bench.painting.body import is_hidden
from maglia.bench.session import Session
from maglia.bench.theme import Theme
from maglia.core.assembly import Member
from maglia.core.report import Findings


class FormView(FormCanvas):
    """Shows the last results that came; listens to `Session.found`."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        session.found.connect(self.on_found)
        self.on_found()

    def on_found(self) -> None:
        """New results: the last ones become the ghost; what the body hides is found again."""
        found = self.session.findings
        if found is not self._before:
            self.ghost, self._before = self._before, found
            if self.ghost is not None:
                self._earlier = {
                    (m.run, m.side, m.item, m.number, m.ref): m.id
                    for m in self.ghost.assembly.members
                }
            if self.moves and self._earlier and self.isVisible():
                self._settling.start()
        self._hidden = self._behind(found) if found else set()
        self._seen.clear()
        self.update()

    def turn(self) -> None:
        """From the front to the side and back."""
        self.from_side = not self.from_side
        self.on_found()

    def toggle_motion(self) -> None:
        self.moves = not self.moves
        self.session.said.emit(f"The piece {'settles' if self.moves else 'stands at once'}.")

    def toggle_ghost(self) -> None:
        self.shows_ghost = not self.shows_ghost
        self.update()

    def _behind(self, found: Findings) -> set[int]:
        hung = found.hung
        if hung is None or hung.form is None or hung.form.kind != "bust":
            return set()
        if hung.state != "converged":
            return set()
        middles = np.array([hung.points_of(m.id).mean(axis=0) for m in found.assembly.members])
        hidden = is_hidden(hung.form.body, middles, side=self.from_side)
        return {m.id for m, gone in zip(found.assembly.members, hidden, strict=True)
                if gone and not m.links}  # fmt: skip

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
