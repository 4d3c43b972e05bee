"""The whole plan as a line of steps by stage, the step one stands in, and the clock."""

from __future__ import annotations

import time
from collections import Counter

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from maglia.app.assistive import describe
from maglia.app.session.builds import MOST_SECONDS, Builds
from maglia.app.theme import Theme, font, scaled

SHORT = {"ready": "ready", "unit": "units", "sub": "parts", "row": "rows", "attach": "hang",
         "close": "close", "try": "try"}  # fmt: skip
SIDE, GAP, GROUP_GAP = 13.0, 10.0, 18.0


class PlanLine(QWidget):
    """Squares for steps, diamonds for looks, rings for waits; filled when they are done, half while
    they are begun. Signal `wanted(int)`: a step that was pointed at."""

    wanted = Signal(int)

    def __init__(self, builds: Builds, theme: Theme) -> None:
        super().__init__()
        self.builds, self.theme = builds, theme
        self.setAccessibleName("The plan")
        self.setFixedHeight(scaled(54))
        self._boxes: list[QRectF] = []
        self._shares: list[float] = []
        builds.changed.connect(self.on_changed)

    def sizeHint(self) -> QSize:
        return QSize(900, scaled(54))

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.setFixedHeight(scaled(54))
        self.update()

    def on_changed(self) -> None:
        sheet = self.builds.sheet
        if sheet is not None:
            every, finished = Counter[int](), Counter[int]()
            for turn in self.builds.turns:
                every[turn.step] += 1
                finished[turn.step] += self.builds.is_done(turn)
            self._shares = [finished[k] / every[k] for k in range(len(sheet.steps))]
            done = self._shares.count(1.0)
            describe(self, f"{done} of {len(sheet.steps)} steps are done")
        self.update()

    @property
    def elapsed(self) -> float:
        """Seconds of work so far, those of this turn with them."""
        now = min(time.monotonic() - self.builds.since, MOST_SECONDS)
        return self.builds.seconds + now

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), self.theme.colour("paper"))
        painter.setPen(self.theme.colour("paper_edge"))
        painter.drawLine(0, 0, self.width(), 0)
        sheet = self.builds.sheet
        if sheet is None:
            return
        clock = self._clock(painter)
        self._lay(self.width() - clock - 30)
        turn = self.builds.turn
        stage = ""
        for number, (step, box) in enumerate(zip(sheet.steps, self._boxes, strict=True)):
            if step.stage != stage:
                stage = step.stage
                painter.setPen(self.theme.colour("quiet"))
                painter.setFont(font(12))
                painter.drawText(QPointF(box.left(), scaled(17)), SHORT[stage])
            self._mark(painter, box, step.verb, self._shares[number])
            if turn is not None and turn.step == number:
                painter.setPen(QPen(self.theme.colour("fold"), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(box.adjusted(-4, -4, 4, 4), 5, 5)

    def _lay(self, room: float) -> None:
        """Where each step stands; closer together where there are many."""
        sheet = self.builds.sheet
        assert sheet is not None
        stages = len({step.stage for step in sheet.steps})
        free = room - 14 - stages * GROUP_GAP
        pitch = min(SIDE + GAP, max(free / max(len(sheet.steps), 1), 3.0))
        side = min(SIDE, max(pitch - 2.0, 2.0))
        self._boxes, x, stage = [], 14.0, ""
        labels: dict[str, float] = {}
        for step in sheet.steps:
            if step.stage != stage:
                if stage:
                    x = max(x + GROUP_GAP, labels[stage] + scaled(44))
                stage = step.stage
                labels[stage] = x
            self._boxes.append(QRectF(x, scaled(26), side, side))
            x += pitch

    def _mark(self, painter: QPainter, box: QRectF, verb: str, share: float) -> None:
        ink = self.theme.colour("good" if share else "quiet")
        painter.setPen(QPen(ink, 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if verb in ("look", "measure"):
            middle, half = box.center(), box.width() / 2 + 1
            corners = ((0.0, -half), (half, 0.0), (0.0, half), (-half, 0.0))
            diamond = QPolygonF([middle + QPointF(*corner) for corner in corners])
            if share == 1.0:
                painter.setBrush(ink)
            painter.drawPolygon(diamond)
            return
        if verb == "wait":
            if share == 1.0:
                painter.setBrush(ink)
            painter.drawEllipse(box)
            return
        painter.drawRect(box)
        if share:
            filled = QRectF(box.left(), box.bottom() - box.height() * share, box.width(),
                            box.height() * share)  # fmt: skip
            painter.fillRect(filled, ink)

    def _clock(self, painter: QPainter) -> float:
        """The clock at the right end. Returns the room it takes."""
        sheet = self.builds.sheet
        assert sheet is not None
        words = f"{_clock(self.elapsed)} of about {_clock(sheet.minutes * 60)}"
        painter.setFont(font(15))
        painter.setPen(self.theme.colour("ink"))
        wide = painter.fontMetrics().horizontalAdvance(words)
        painter.drawText(QPointF(self.width() - wide - 16, 37), words)
        return float(wide)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        for number, box in enumerate(self._boxes):
            if box.adjusted(-3, -20, 3, 12).contains(at):
                self.wanted.emit(number)
                return


def _clock(seconds: float) -> str:
    """Hours and minutes: “0:14”."""
    minutes = int(seconds // 60)
    return f"{minutes // 60}:{minutes % 60:02d}"
