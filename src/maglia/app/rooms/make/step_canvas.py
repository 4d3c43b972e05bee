"""The picture of the step: the parts in hand, large; at a look the row at true size; or the whole
piece with its letters.
"""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from maglia.app.assistive import describe
from maglia.app.painting.in_hand import paint_in_hand
from maglia.app.painting.small import draw_small
from maglia.app.painting.straight import paint_layout, paint_true
from maglia.app.pictures import Pictures
from maglia.app.session.builds import Builds
from maglia.app.settings import Settings
from maglia.app.theme import Theme, font
from maglia.core.assembly.assembly import Path
from maglia.core.joining.step import Step
from maglia.core.values.measures import format_length

if TYPE_CHECKING:
    from maglia.app.jobs import Jobs
    from maglia.core.report import Findings

CHECK_MM = 50.0
"""The bar that is held against a rule."""
DONE = "Everything is done."


class StepCanvas(QWidget):
    """Draws on the mat what the build shows."""

    def __init__(self, builds: Builds, jobs: Jobs, settings: Settings, theme: Theme) -> None:
        super().__init__()
        self.builds, self.settings, self.theme = builds, settings, theme
        self.layout_shown = False
        self.hung: Findings | None = None
        self.pictures = Pictures(jobs, "build", self)
        self.pictures.hung.connect(self.on_hung)
        self._asked = ""
        self.setAccessibleName("The parts in hand")
        self.setMinimumSize(320, 260)
        builds.changed.connect(self.on_changed)

    def sizeHint(self) -> QSize:
        return QSize(760, 560)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    @property
    def px_per_mm(self) -> float:
        """How many pixels a millimetre takes on this screen, as the maker has set it or the screen
        says."""
        own = float(self.settings["px_per_mm"])
        return own or self.logicalDpiX() / 25.4

    def scale_by(self, times: float) -> None:
        """Make the check bar longer or shorter, until a rule says 50 mm."""
        self.settings["px_per_mm"] = round(self.px_per_mm * times, 3)
        self.update()

    def toggle_layout(self) -> None:
        self.layout_shown = not self.layout_shown
        self.update()

    def on_changed(self) -> None:
        build = self.builds.build
        if build is not None:
            key = f"{build.id} {hash(repr(build.piece))}"
            if key != self._asked:
                self._asked, self.hung = key, None
                piece = build.piece
                self.pictures.ask([(key, lambda: piece)])
        self.layout_shown = False
        step = self.builds.step
        describe(self, step.says if step is not None else DONE)
        self.update()

    def on_hung(self, key: str, found: object) -> None:
        if key == self._asked:
            self.hung = found  # type: ignore[assignment]
            self.update()

    # --- drawing ------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        room = QRectF(self.rect())
        painter.fillRect(room, self.theme.colour("mat"))
        builds = self.builds
        if builds.build is None or builds.sheet is None:
            return
        if self.layout_shown or builds.undos:
            self._whole(painter, room, letters=True)
            return
        step, turn = builds.step, builds.turn
        if step is None or turn is None:
            self._whole(painter, room.adjusted(30, 30, -30, -30))
            return
        closing = turn.closings[0] if turn.closings else None
        if step.verb in ("look", "measure"):
            self._look(painter, step, room)
        elif step.verb == "wait":
            self._wait(painter, room)
        else:
            paint_in_hand(painter, builds.sheet, step, closing, room.adjusted(16, 16, -16, -16),
                          self.theme)  # fmt: skip

    def _whole(self, painter: QPainter, room: QRectF, *, letters: bool = False) -> None:
        if self.hung is None:
            painter.setPen(self.theme.colour("quiet"))
            painter.setFont(font(15))
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter, "It is being hung …")
        elif letters:
            paint_layout(painter, self.hung, room, self.theme)
        else:
            draw_small(painter, self.hung, room)

    def _look(self, painter: QPainter, step: Step, room: QRectF) -> None:
        """The row at true size with a bar to check the screen by; or all of it as it hangs."""
        path = self._path_of(step)
        if path is None:
            self._whole(painter, room.adjusted(30, 30, -30, -30))
            return
        assert self.builds.sheet is not None
        inner = room.adjusted(20, 40, -20, -90)
        scale = paint_true(painter, self.builds.sheet.assembly, path, inner, self.px_per_mm)
        self._check_bar(painter, room, scale)

    def _check_bar(self, painter: QPainter, room: QRectF, scale: float) -> None:
        true = abs(scale - self.px_per_mm) < 1e-6
        wide = CHECK_MM * scale
        y, x = room.bottom() - 42, room.left() + 24
        painter.setPen(QPen(self.theme.colour("ink"), 2))
        painter.drawLine(QPointF(x, y), QPointF(x + wide, y))
        for at in (x, x + wide):
            painter.drawLine(QPointF(at, y - 7), QPointF(at, y + 7))
        painter.setFont(font(14))
        share = scale / self.px_per_mm
        words = ("true size, if a rule says so: Ctrl + and Ctrl − set it" if true
                 else f"drawn at {share:.2f} of true size, so that it fits")  # fmt: skip
        words = f"{format_length(CHECK_MM, self.builds.unit, with_unit=True)} · {words}"
        painter.drawText(QPointF(x, y + 26), words)

    def _path_of(self, step: Step) -> Path | None:
        """The strand that a look is about; None for all of it."""
        if not step.id.startswith("look/") or step.id.startswith("look/all"):
            return None
        assert self.builds.sheet is not None
        a = self.builds.sheet.assembly
        run = a.members[step.in_hand[0]].run if step.in_hand else ""
        return next((path for path in a.paths if path.run == run), None)

    def _wait(self, painter: QPainter, room: QRectF) -> None:
        """A ring that fills as the time goes by."""
        turn = self.builds.turn
        until = self.builds.until(turn.step) if turn is not None else None
        step = self.builds.step
        if until is None or step is None:
            return
        left = max((until - datetime.now()).total_seconds(), 0.0)
        share = 1.0 - min(left / max(step.waits_min * 60, 1.0), 1.0)
        side = min(room.width(), room.height()) * 0.4
        box = QRectF(room.center().x() - side / 2, room.center().y() - side / 2, side, side)
        painter.setPen(QPen(self.theme.colour("mat_deep"), 14))
        painter.drawEllipse(box)
        solid, flat = Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap
        painter.setPen(QPen(self.theme.colour("good"), 14, solid, flat))
        painter.drawArc(box, 90 * 16, round(-share * 360 * 16))
        painter.setPen(self.theme.colour("ink"))
        painter.setFont(font(40, bold=True))
        minutes, seconds = divmod(round(left), 60)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{minutes}:{seconds:02d}")
