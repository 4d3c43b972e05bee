"""The window: puts rooms, views and actions together. It composes; commands and session work."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property, partial
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QAction, QCloseEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QMessageBox,
    QSplitter,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from maglia.bench import commands
from maglia.bench.actions import ACTIONS, Action
from maglia.bench.banner import Banner
from maglia.bench.form_view import FormView
from maglia.bench.keeper import Keeper, Kept
from maglia.bench.letters import Letters
from maglia.bench.panel import Panel
from maglia.bench.rule_view import RuleView
from maglia.bench.session import Session
from maglia.bench.settings import Settings
from maglia.bench.side_panel import SidePanel
from maglia.bench.theme import Theme, apply_theme
from maglia.core.edit import spot_of
from maglia.core.record import DomainError

if TYPE_CHECKING:
    from maglia.bench.history_strip import HistoryStrip
    from maglia.bench.insert_line import InsertLine
    from maglia.bench.start_panel import StartPanel
    from maglia.core.checks import Check


Opened = TypeVar("Opened", bound=Panel)


class Window(QMainWindow):
    """The Bench: form above, half-rule below, readings and checks at the right. Panels that open
    below the form are made when they are first opened.

    Signals: `dressed(Theme)` the theme is another one.
    """

    dressed = Signal(object)
    session: Session
    form: FormView
    rule: RuleView
    side: SidePanel

    def __init__(
        self,
        session: Session,
        theme: Theme,
        settings: Settings | None = None,
        keeper: Keeper | None = None,
    ) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        session.setParent(self)
        self.settings, self.keeper = settings or Settings(), keeper
        self.form = FormView(session, theme)
        self.rule = RuleView(session, theme)
        self.letters = Letters(session, theme)
        self.side = SidePanel(session, theme)
        self.banner = Banner()
        self.setCentralWidget(self._composed())
        self._add_actions()
        self._connect()
        self.on_changed()
        self.rule.setFocus()

    # --- composing ----------------------------------------------------------------------------

    def _composed(self) -> QWidget:
        self.desk = self._desk()
        self.left = _column(self.desk, stretched=self.desk)
        self.banner.hide()
        across = QSplitter(Qt.Orientation.Horizontal)
        across.addWidget(self.left)
        across.addWidget(self.side)
        across.setStretchFactor(0, 1)
        across.setSizes([980, 300])
        across.setHandleWidth(1)
        return _column(self._top(), self.banner, across, self._bottom(), stretched=across)

    @cached_property
    def start(self) -> StartPanel:
        """The short question a new piece starts from; it takes the place of the desk."""
        from maglia.bench.start_panel import StartPanel

        panel = StartPanel(self.session, self.theme)
        panel.chosen.connect(partial(commands.start_with, self))
        panel.demo_wanted.connect(partial(commands.open_demo, self))
        self.dressed.connect(panel.set_theme)
        return self._opened_below(panel, stretch=1)

    @cached_property
    def history(self) -> HistoryStrip:
        from maglia.bench.history_strip import HistoryStrip

        panel = HistoryStrip(self.session)
        panel.compared.connect(self.form.compare)
        return self._opened_below(panel)

    @cached_property
    def insert(self) -> InsertLine:
        from maglia.bench.insert_line import InsertLine

        panel = InsertLine(self.session, self._offered_actions, self.settings)
        return self._opened_below(panel)

    def _opened_below(self, panel: Opened, stretch: int = 0) -> Opened:
        column = self.left.layout()
        assert isinstance(column, QVBoxLayout)
        panel.hide()
        column.addWidget(panel, stretch)
        panel.closed.connect(self.to_the_rule)
        return panel

    def _desk(self) -> QWidget:
        """The form over the letters and the half-rule."""
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.form)
        split.addWidget(_column(self.letters, self.rule, stretched=self.rule))
        split.setStretchFactor(0, 3)
        split.setStretchFactor(1, 2)
        split.setSizes([430, 330])
        split.setHandleWidth(1)
        return split

    def _top(self) -> QWidget:
        bar = QWidget()
        bar.setObjectName("rooms")
        row = QHBoxLayout(bar)
        row.setContentsMargins(10, 5, 10, 5)
        room = QToolButton()
        room.setText("Bench")
        room.setCheckable(True)
        room.setChecked(True)
        room.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.name = QLabel()
        self.name.setObjectName("pieceName")
        self.wearer = self._menu_button("Wearer")
        self.ways = self._menu_button("Way to wear it")
        self.units = self._menu_button("Display unit")
        self.more = self._menu_button("Menu")
        self.more.setText("Menu ▾")
        row.addWidget(room)
        row.addStretch(1)
        row.addWidget(self.name)
        row.addStretch(1)
        for button in (self.wearer, self.ways, self.units, self.more):
            row.addWidget(button)
        return bar

    def _menu_button(self, name: str) -> QToolButton:
        button = QToolButton()
        button.setAccessibleName(name)
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.setMenu(QMenu(button))
        return button

    def _bottom(self) -> QWidget:
        bar = QWidget()
        bar.setObjectName("panel")
        bar.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(bar)
        row.setContentsMargins(12, 4, 12, 4)
        self.message = QLabel("Enter puts in · + − change · F1 shows every key")
        self.message.setObjectName("message")
        self.message.setAccessibleName("Message")
        row.addWidget(self.message, 1)
        return bar

    def _add_actions(self) -> None:
        menus: dict[str, QMenu] = {}
        for action in ACTIONS:
            made = QAction(action.words, self)
            made.setShortcut(QKeySequence(action.keys))
            made.triggered.connect(partial(self.do, action))
            self.addAction(made)
            if action.menu not in menus:
                menus[action.menu] = self.more.menu().addMenu(action.menu)
            menus[action.menu].addAction(made)
        for wearer in self.session.tray.wearers:
            self.wearer.menu().addAction(wearer.role, partial(commands.dress, self, wearer))
        for unit in ("mm", "cm", "in"):
            self.units.menu().addAction(unit, partial(commands.show_in, self, unit))

    def _connect(self) -> None:
        session, checks = self.session, self.side.checks
        self.form.keys = self.rule
        self.rule.insert_wanted.connect(lambda: self.insert.open())
        for view in (self.form, self.rule, self.letters, self.side):
            self.dressed.connect(view.set_theme)
        self.side.fits.change_wanted.connect(self.change_fit)
        checks.visit_wanted.connect(self.visit)
        checks.repair_wanted.connect(lambda check: self._try(commands.repair, check))
        checks.accept_wanted.connect(lambda check: self._try(commands.accept, check))
        for signal in (session.changed, session.reshown):
            signal.connect(self.on_changed)
        session.said.connect(self.message.setText)

    # --- actions ------------------------------------------------------------------------------

    def _offered_actions(self, text: str) -> list[tuple[str, str, Callable[[], object]]]:
        words = text.lower().split()
        return [
            (a.words, a.keys, partial(self._do_and_stay, a))
            for a in ACTIONS
            if words and all(w in a.words.lower() for w in words)
        ]

    def _do_and_stay(self, action: Action) -> bool:
        self.insert.leave()
        self.do(action)
        return False

    def do(self, action: Action) -> None:
        """Run one action; what cannot be done is said in the message line."""
        self._try(lambda w: action.do(w))

    def _try(self, command: Callable[..., object], *arguments: object) -> None:
        try:
            command(self, *arguments)
        except DomainError as fault:
            self.session.said.emit(f"Not done: {fault}.")

    def to_the_rule(self) -> None:
        self.desk.show()
        self.rule.setFocus()
        if not self.session.piece.runs and not self.session.piece.rows:
            self.session.said.emit("An empty bench. Enter puts in the first part.")

    def begin(self, *, collection: bool = False) -> None:
        """Ask the short question a new piece starts from."""
        self.desk.hide()
        self.start.open(collection=collection)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, theme)
        self.dressed.emit(theme)

    def change_fit(self, name: str) -> None:
        """Write the wish of a fit anew in the insert line."""
        from maglia.core.fit.words import written

        fit = next((f for f in self.session.piece.fits if f.name == name), None)
        if fit is not None:
            self.insert.open(written(fit))

    def visit(self, check: Check) -> None:
        """Go to what a check is about."""
        if check.run is not None:
            spot = spot_of(self.session.piece, check.run, check.item)
            if spot is not None:
                self.session.go(spot)

    def offer(self, kept: Kept) -> None:
        """Offer work that was cut off; until it is answered nothing overwrites it."""
        if self.keeper is not None:
            self.keeper.waits = True
        self.banner.ask(
            f"Work on “{kept.piece.name}” of {kept.clock} was cut off before it was saved.",
            ("Take it up", partial(self._take_up, kept)),
            ("Leave it", self._leave_kept),
        )

    def _take_up(self, kept: Kept) -> None:
        if self.keeper is not None:
            self.keeper.waits = False
        self.session.take_up(kept.piece, kept.path)
        self.session.said.emit(f"“{kept.piece.name}” as it was. Save it with Ctrl+S.")
        self.rule.setFocus()

    def _leave_kept(self) -> None:
        if self.keeper is not None:
            self.keeper.waits = False
            self.keeper.on_changed()
        self.rule.setFocus()

    # --- what the session tells ---------------------------------------------------------------

    def on_changed(self) -> None:
        piece = self.session.piece
        edited = " · edited" if self.session.edited else ""
        self.name.setText(piece.name + edited)
        self.setWindowTitle(f"{piece.name}{edited} — Maglia")
        self.wearer.setText(f"{piece.wearer.role} ▾")
        self.units.setText(f"{self.session.unit} ▾")
        self.ways.setVisible(bool(piece.ways))
        names = ["the whole piece", *(way.name for way in piece.ways)]
        self.ways.setText(f"{names[self.session.way]} ▾")
        self.ways.menu().clear()
        for k, name in enumerate(names):
            self.ways.menu().addAction(name, partial(self.session.show_way, k))

    def may_leave(self) -> bool:
        """Ask before edits would be lost."""
        if not self.session.edited:
            return True
        ask = QMessageBox(self)
        ask.setText(f"“{self.session.piece.name}” has edits that are not saved.")
        buttons = QMessageBox.StandardButton
        ask.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
        answer = ask.exec()
        if answer == buttons.Save:
            return commands.save(self)
        return bool(answer == buttons.Discard)

    # --- Qt -----------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.session.stop_solving()
            self.rule.setFocus()
        else:
            super().keyPressEvent(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.may_leave():
            if self.keeper is not None:
                self.keeper.leave()
            self.session.finish()
            event.accept()
        else:
            event.ignore()


def _column(*widgets: QWidget, stretched: QWidget) -> QWidget:
    """Widgets one below the other without gaps; one of them takes the room."""
    whole = QWidget()
    column = QVBoxLayout(whole)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(0)
    for widget in widgets:
        column.addWidget(widget, 1 if widget is stretched else 0)
    return whole
