"""Trying by eye: the piece with one fewer and one more at the cursor, hung beside the present one.

− takes the one with fewer, + the one with more; Escape leaves it as it is.
"""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from maglia.app.painting.small import draw_small, scale_to
from maglia.app.panel import Panel
from maglia.app.pictures import Pictures
from maglia.app.plain_text import Label
from maglia.app.rooms.bench.form_canvas import cannot_hang
from maglia.app.session.session import Session
from maglia.app.theme import Theme, font
from maglia.core.edits.edit import needs_link_on_fold, set_count
from maglia.core.edits.spots import Edited, Spot, count_at
from maglia.core.parts.parts import Connector
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.core.report import Findings

HIGH, WORDS_PX = 226, 62
SIDES = ("fewer", "now", "more")
MOST_FRAMES = 2


class _Trial(QWidget):
    """One of the three: how it hangs, and its figures. Signal `pressed()`."""

    pressed = Signal()

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.found: Findings | None = None
        self.words, self.figures = "", ""
        self.scale: float | None = None
        self.setFixedHeight(HIGH)

    def sizeHint(self) -> QSize:
        return QSize(280, HIGH)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.theme.colour("mat"))
        if self.found is not None:
            box = QRectF(self.rect()).adjusted(4, 4, -4, -WORDS_PX)
            draw_small(painter, self.found, box, px_per_mm=self.scale)
        painter.setPen(QPen(self.theme.colour("ink")))
        centred = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
        row = QRectF(6, self.height() - WORDS_PX + 4, self.width() - 12, 18)
        painter.setFont(font(12, bold=True))
        painter.drawText(row, centred, self.words)
        painter.setFont(font(12))
        row = QRectF(row.left(), row.bottom(), row.width(), WORDS_PX - 22)
        painter.drawText(row, centred | Qt.TextFlag.TextWordWrap, self.figures)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.pressed.emit()


class EyePanel(Panel):
    """Listens to nothing: it is about the piece as it was opened on."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session = session
        self.setAccessibleName("One fewer, as it is, one more")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.edits: dict[str, Edited] = {}
        self.trials = {side: _Trial(session, theme) for side in SIDES}
        self.pictures = Pictures(session.evaluation.jobs, "eye", self, board=False)
        self.pictures.hung.connect(self.on_hung)
        hint = Label("− takes the one with fewer · + the one with more · Esc leaves it as it is")
        hint.setObjectName("quiet")
        row = QHBoxLayout()
        for side, trial in self.trials.items():
            trial.pressed.connect(partial(self.take, side))
            row.addWidget(trial, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 8)
        column.addLayout(row)
        column.addWidget(hint)
        self.watch(self)

    def set_theme(self, theme: Theme) -> None:
        for trial in self.trials.values():
            trial.theme = theme
            trial.update()

    def open(self) -> None:
        """Hang the piece with one fewer and one more at the cursor. Raises DomainError where there
        is nothing to count."""
        spot = self.session.spot
        if spot is None:
            raise DomainError("an empty bench: there is nothing to try yet")
        piece = self.session.piece
        now, of = count_at(piece, spot)
        step = 2 if needs_link_on_fold(piece, spot) else 1
        self.edits = {}
        for side, count in zip(SIDES, (now - step, now, now + step), strict=True):
            trial = self.trials[side]
            trial.found, trial.figures = None, "hanging …"
            trial.words = f"{count} {of}" + (", as it is" if side == "now" else "")
            try:
                self.edits[side] = set_count(piece, spot, count)
            except DomainError as fault:
                trial.words, trial.figures = f"{count} {of}", str(fault)
        self.pictures.known.clear()
        self.show()
        self.setFocus()
        made = {side: edited.piece for side, edited in self.edits.items()}
        self.pictures.ask([(side, partial(_unwished, one)) for side, one in made.items()])

    def on_hung(self, side: str, found: Findings) -> None:
        trial = self.trials[side]
        if found.hung is None or cannot_hang(found):
            cause = found.hung.solution.cause if found.hung else "there is nothing to hang"
            trial.figures = f"it cannot hang: {cause}"
            trial.update()
            return
        trial.found, trial.figures = found, self._figures(found)
        known = [one.found for one in self.trials.values() if one.found is not None]
        box = QRectF(trial.rect()).adjusted(4, 4, -4, -WORDS_PX)
        scale = min(scale_to(one, box) for one in known)
        for one in self.trials.values():
            one.scale = scale
            one.update()
        words = "; ".join(f"{one.words}: {one.figures}" for one in self.trials.values())
        self.setAccessibleDescription(words)

    def _figures(self, found: Findings) -> str:
        """Closed length, the fall of the cursor's run or the lowest, air to frames."""
        session, said = self.session, []
        if found.closed_length_mm is not None:
            said.append(f"closed {session.length(found.closed_length_mm)}")
        falls = found.readings.falls_mm
        spot: Spot | None = session.spot
        own = spot.owner if spot is not None and spot.owner in falls else None
        name = own or max(falls, key=falls.__getitem__, default="")
        if name:
            said.append(f"{found.assembly.run_words(name)} falls {session.length(falls[name])}")
        said += [f"{mm:.1f} from {frame}" for frame, mm in frames_near(found, own or name)]
        return " · ".join(said) or "it has no figures"

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        keys = {Qt.Key.Key_Minus: "fewer", Qt.Key.Key_Underscore: "fewer", Qt.Key.Key_Left: "fewer",
                Qt.Key.Key_Plus: "more", Qt.Key.Key_Equal: "more", Qt.Key.Key_Right: "more",
                Qt.Key.Key_Return: "now", Qt.Key.Key_Enter: "now"}  # fmt: skip
        side = keys.get(Qt.Key(event.key()))
        if side is None:
            return False
        self.take(side)
        return True

    def take(self, side: str) -> None:
        """Take one of the three; the present one stays without an edit."""
        edited = self.edits.get(side)
        self.leave()
        if edited is not None and side != "now":
            self.session.apply(edited)

    def leave(self) -> None:
        self.pictures.stop()
        super().leave()


def _unwished(piece: Piece) -> Piece:
    """A piece as it is counted: its wishes would turn the count back."""
    return replace(piece, fits=())


def frames_near(found: Findings, drop: str) -> list[tuple[str, float]]:
    """Least air from what hangs at the end of a drop to the connectors it hangs within, mm."""
    from maglia.core.fit.clearance import clearances_mm
    from maglia.core.fit.look import Look

    if found.hung is None:
        return []
    try:
        rooms = clearances_mm(Look(found.assembly, found.hung), drop)
    except DomainError:
        return []
    nearest: dict[str, float] = {}
    for member, mm in rooms:
        thing = found.assembly.thing(member)
        if isinstance(thing, Connector):
            nearest[thing.name] = min(mm, nearest.get(thing.name, mm))
    return sorted(nearest.items(), key=lambda one: one[1])[:MOST_FRAMES]
