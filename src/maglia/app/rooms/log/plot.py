"""Predicted against measured: every build a point, zero and the interval as a band."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QVBoxLayout, QWidget

from maglia.app.assistive import describe
from maglia.app.plain_text import Label
from maglia.app.theme import Theme, font

if TYPE_CHECKING:
    from maglia.core.log.concerns import Concern


class ConcernPlot(QWidget):
    """Made when there is first something to show."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.concern: Concern | None = None
        self.plot: Any = None
        self.setAccessibleName("Predicted against measured")
        self.setMinimumHeight(180)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(0)
        self._later.timeout.connect(self._draw_it)
        self.empty = Label("Nothing measured yet: M in Make keeps what comes out.")
        self.empty.setObjectName("quiet")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(8, 8, 8, 8)
        self.column.addWidget(self.empty)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.show_concern(self.concern)

    def show_concern(self, concern: Concern | None) -> None:
        """Draw one; nothing if there is none."""
        self.concern = concern
        self.empty.setVisible(concern is None)
        if self.plot is not None:
            self.plot.setVisible(concern is not None)
        if concern is None:
            return
        self._later.start()
        describe(self, f"{concern.name}: {concern.words} {concern.apart_words}".strip())

    def _draw_it(self) -> None:
        if self.concern is None:
            return
        if self.plot is None:
            self._compose()
        self._draw(self.concern)

    def _compose(self) -> None:
        import pyqtgraph  # takes a while: the room is there first

        self.plot = pyqtgraph.PlotWidget()
        self.plot.setMenuEnabled(False)
        self.plot.hideButtons()
        self.plot.setMouseEnabled(False, False)
        self.plot.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        for side in ("left", "bottom"):  # before they have labels: millimetres stay millimetres
            self.plot.getPlotItem().getAxis(side).enableAutoSIPrefix(False)
        self.column.addWidget(self.plot)

    def _draw(self, concern: Concern) -> None:
        import pyqtgraph

        ink, quiet = self.theme.colour("ink"), self.theme.colour("quiet")
        self.plot.setBackground(self.theme.colour("paper"))
        item = self.plot.getPlotItem()
        item.clear()
        for side in ("left", "bottom"):
            axis = item.getAxis(side)
            axis.setPen(quiet)
            axis.setTextPen(quiet)
            axis.setStyle(tickFont=font(12))
            axis.label.setFont(font(13))
        of = "minutes for one" if concern.unit == "min" else "longer than computed, mm"
        item.setLabel("left", of, color=ink.name())
        item.setLabel("bottom", "builds, in their order", color=ink.name())
        base = concern.points[0].planned if concern.unit == "min" else 0.0
        item.addItem(pyqtgraph.InfiniteLine(base, angle=0, pen=pyqtgraph.mkPen(quiet, width=1)))
        found = concern.estimate
        if found is not None:
            band = pyqtgraph.LinearRegionItem(
                (found.low, found.high), orientation="horizontal", movable=False,
                brush=self.theme.colour("good", 60), pen=pyqtgraph.mkPen(None),
            )  # fmt: skip
            item.addItem(band)
            middle = pyqtgraph.mkPen(self.theme.colour("good"), width=2)
            item.addItem(pyqtgraph.InfiniteLine(found.value, angle=0, pen=middle))
        apart = set(found.apart) if found is not None else set()
        for kept, sign, name in ((False, "o", "good"), (True, "x", "attention")):
            at = [k for k in range(len(concern.points)) if (k in apart) is kept]
            colour = self.theme.colour(name)
            item.addItem(pyqtgraph.ScatterPlotItem(
                [k + 1 for k in at], [concern.points[k].off for k in at], symbol=sign,
                size=12 if kept else 8, pen=pyqtgraph.mkPen(colour, width=2),
                brush=self.theme.colour(name, 120),
            ))  # fmt: skip
        for k in apart:
            label = pyqtgraph.TextItem(f"build {concern.points[k].build}", color=ink,
                                       anchor=(0.5, 1.2))  # fmt: skip
            label.setPos(k + 1, concern.points[k].off)
            item.addItem(label)
        item.enableAutoRange()
