"""Beside the form: readings as small gauges, fits, checks worst first, the cut list and rings."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from maglia.app.plain_text import Label
from maglia.app.rooms.bench.check_list import CheckList
from maglia.app.rooms.bench.fit_list import FitList
from maglia.app.rooms.bench.readings import Readings
from maglia.app.rooms.bench.ready_list import ReadyList
from maglia.app.session.session import Session
from maglia.app.theme import Theme, scaled
from maglia.app.trade_words import explained

HEADINGS = ("READINGS", "FITS", "CHECKS", "TO MAKE READY")

Part = Readings | FitList | CheckList | ReadyList


class SidePanel(QScrollArea):
    """Readings, fits, checks and lists, one below the other."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setMinimumWidth(wide_enough())
        self.readings = Readings(session, theme)
        self.fits = FitList(session, theme)
        self.checks = CheckList(session, theme)
        self.ready = ReadyList(session, theme)
        self.own = Label()
        self.own.setObjectName("quiet")
        self.own.setWordWrap(True)
        self.own.setAccessibleName("Corrections it is computed with")
        self.parts: tuple[Part, ...] = (self.readings, self.fits, self.checks, self.ready)
        for own in (self.fits, self.checks, self.ready):
            own.model_rows.explained = explained
        column = QVBoxLayout()
        column.setContentsMargins(16, 10, 14, 10)
        column.setSpacing(4)
        for k, part in enumerate(self.parts):
            heading = Label(HEADINGS[k])
            heading.setObjectName("heading")
            column.addWidget(heading)
            column.addWidget(part)
            if part is self.readings:
                column.addWidget(self.own)
            column.addSpacing(10)
        column.addStretch(1)
        inner = QWidget()
        inner.setObjectName("panel")
        inner.setLayout(column)
        self.setWidget(inner)
        for signal in (session.found, session.reshown):
            signal.connect(self.refresh)
        session.changed.connect(self.wait)
        self.refresh()

    def refresh(self) -> None:
        for part in self.parts:
            part.refresh()
        corrections = self.session.piece.corrections
        self.own.setVisible(bool(corrections))
        self.own.setText("Computed with " + ", ".join(c.words for c in corrections))

    def wait(self) -> None:
        """Results are on their way: nothing is called right or missing until they have come."""
        for part in (self.fits, self.checks):
            if not part.rows:
                part.refresh()

    def set_theme(self, theme: Theme) -> None:
        self.setMinimumWidth(wide_enough())
        for part in self.parts:
            part.set_theme(theme)


def wide_enough() -> int:
    """Larger text gets more room, as far as form and rule can spare it."""
    return min(scaled(270), 400)
