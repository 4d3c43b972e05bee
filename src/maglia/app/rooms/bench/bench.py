"""The Bench put together: form above, letters and half-rule below, readings at the right, and the
lines that open between them. It composes; commands and session work.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property, partial
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout

from maglia.app.desk import Desk
from maglia.app.panel import Panel, column_of
from maglia.app.rooms.bench.form_view import FormView
from maglia.app.rooms.bench.letters import Letters
from maglia.app.rooms.bench.rule_view import RuleView
from maglia.app.rooms.bench.side_panel import SidePanel
from maglia.app.rooms.room import Offered, RoomWidget
from maglia.app.theme import animates
from maglia.core.piece.piece import Piece

if TYPE_CHECKING:
    from maglia.app.rooms.bench.eye_panel import EyePanel
    from maglia.app.rooms.bench.history_strip import HistoryStrip
    from maglia.app.rooms.bench.insert_line import InsertLine
    from maglia.app.rooms.bench.name_line import NameLine
    from maglia.app.rooms.bench.start_panel import StartPanel
    from maglia.app.rooms.bench.uses_list import UsesList

Opened = TypeVar("Opened", bound=Panel)


class Bench(RoomWidget):
    """Panels that open below the form are made when they are first opened.

    Signals: `visit_wanted(Check)`, `repair_wanted(Check)`, `accept_wanted(Check)`,
    `each_wanted(wearers)`: the piece for each of them.
    """

    visit_wanted = Signal(object)
    repair_wanted = Signal(object)
    accept_wanted = Signal(object)
    each_wanted = Signal(object)

    def __init__(self, desk: Desk, offers: Callable[[str], list[Offered]]) -> None:
        super().__init__(desk)
        self.session, self.offers = desk.session, offers
        session, theme = desk.session, desk.theme
        self.form = FormView(session, theme)
        self.form.moves = desk.settings["motion"] and animates()
        self.rule = RuleView(session, theme)
        self.letters = Letters(session, theme)
        self.side = SidePanel(session, theme)
        self._compose()
        self._connect()

    def _compose(self) -> None:
        self.view = QSplitter(Qt.Orientation.Vertical)
        self.view.addWidget(self.form)
        self.view.addWidget(column_of(self.letters, self.rule, stretched=self.rule))
        self.view.setStretchFactor(0, 3)
        self.view.setStretchFactor(1, 2)
        self.view.setSizes([430, 330])
        self.view.setHandleWidth(1)
        self.left = column_of(self.view, stretched=self.view)
        across = QSplitter(Qt.Orientation.Horizontal)
        across.addWidget(self.left)
        across.addWidget(self.side)
        across.setStretchFactor(0, 1)
        across.setSizes([980, 300])
        across.setHandleWidth(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(across)

    def _connect(self) -> None:
        self.form.keys = self.rule
        self.rule.insert_wanted.connect(lambda: self.insert.open())
        for view in (self.form, self.rule, self.letters, self.side):
            self.desk.dressed.connect(view.set_theme)
        self.desk.begin_wanted.connect(self.begin)
        self.desk.settled.connect(self.on_settled)
        self.side.fits.change_wanted.connect(self.change_fit)
        checks = self.side.checks
        checks.why_wanted.connect(self.desk.guide_wanted)
        self.side.readings.why_wanted.connect(self.desk.guide_wanted)
        checks.visit_wanted.connect(self.visit_wanted)
        checks.repair_wanted.connect(self.repair_wanted)
        checks.accept_wanted.connect(self.accept_wanted)

    @cached_property
    def start(self) -> StartPanel:
        """The short question a new piece starts from; it takes the place of form and rule."""
        from maglia.app.rooms.bench.start_panel import StartPanel

        panel = StartPanel(self.session, self.desk.theme)
        panel.chosen.connect(self.start_with)
        panel.piece_wanted.connect(self.desk.piece_wanted)
        self.desk.dressed.connect(panel.set_theme)
        return self._opened_below(panel, stretch=1)

    @cached_property
    def history(self) -> HistoryStrip:
        from maglia.app.rooms.bench.history_strip import HistoryStrip

        panel = HistoryStrip(self.session)
        panel.compared.connect(self.form.compare)
        return self._opened_below(panel)

    @cached_property
    def insert(self) -> InsertLine:
        from maglia.app.rooms.bench.insert_line import InsertLine

        desk = self.desk
        panel = InsertLine(self.session, self.offers, desk.settings, desk.theme,
                           lambda: desk.may_begin())  # fmt: skip
        self.desk.dressed.connect(panel.set_theme)
        panel.tried.connect(self.rule.show_trial)
        self.rule.pointed.connect(panel.point_at)
        panel.each_wanted.connect(self.each_wanted)
        panel.asking.connect(partial(setattr, self.rule, "asks_place"))
        return self._opened_below(panel)

    @cached_property
    def naming(self) -> NameLine:
        from maglia.app.rooms.bench.name_line import NameLine

        return self._opened_below(NameLine(self.session))

    @cached_property
    def eye(self) -> EyePanel:
        """One fewer and one more at the cursor, beside the piece as it is."""
        from maglia.app.rooms.bench.eye_panel import EyePanel

        panel = EyePanel(self.session, self.desk.theme)
        self.desk.dressed.connect(panel.set_theme)
        return self._opened_below(panel)

    @cached_property
    def uses(self) -> UsesList:
        from maglia.app.rooms.bench.uses_list import UsesList

        return self._opened_below(UsesList(self.session))

    def _opened_below(self, panel: Opened, stretch: int = 0) -> Opened:
        column = self.left.layout()
        assert isinstance(column, QVBoxLayout)
        panel.hide()
        column.addWidget(panel, stretch)
        panel.closed.connect(self.enter)
        return panel

    def enter(self) -> None:
        """Back to the half-rule, from a panel or another room; what was said of what was done there
        stays to be read."""
        self.view.show()
        self.rule.setFocus()

    @property
    def greeting(self) -> str:
        if not self.session.piece.owners:
            return "An empty bench. Enter puts in the first part."
        return "Enter puts in · + − change · F1 shows every key"

    def leave_line(self) -> None:
        self.insert.leave()

    def begin(self, first: str) -> None:
        """Ask the short question a new piece starts from."""
        self.view.hide()
        self.start.open(first, self.desk.settings["recent"])

    def on_settled(self, key: str) -> None:
        self.form.moves = self.desk.settings["motion"]

    def start_with(self, piece: Piece) -> None:
        if self.desk.may_begin():
            self.session.start_new(piece, f"begun: {piece.name}")
        self.rule.setFocus()

    def change_fit(self, name: str) -> None:
        """Write the wish of a fit anew in the insert line."""
        from maglia.core.fit.wishes import written

        fit = next((f for f in self.session.piece.fits if f.name == name), None)
        if fit is not None:
            self.insert.open(written(fit))

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What can be done with what is pointed at, each with its phrase."""
        from maglia.app.rooms.bench.here_menu import menu_here, point_at

        at = event.globalPos()
        if event.reason() == QContextMenuEvent.Reason.Mouse:
            point_at(self, at)
        menu_here(self).exec(at)

    def escape(self) -> None:
        """Leave the fits as they are, and take the keys back."""
        self.session.stop_solving()
        self.rule.setFocus()
