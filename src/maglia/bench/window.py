"""The window: puts the rooms, views and actions together. It composes; the session works."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QCloseEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMainWindow,
    QMenu,
    QMessageBox,
    QSplitter,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from maglia.bench.actions import ACTIONS, RULE_KEYS, Action
from maglia.bench.form_view import FormView
from maglia.bench.insert_line import InsertLine
from maglia.bench.letters import Letters
from maglia.bench.regrade_table import RegradeTable
from maglia.bench.rule_view import RuleView
from maglia.bench.session import Session
from maglia.bench.side_panel import SidePanel
from maglia.bench.theme import THEMES, Theme, apply_theme
from maglia.core.checks import Check
from maglia.core.edit import Edited, Spot, delete, set_count, spot_of
from maglia.core.fit.hold import toggled_pin
from maglia.core.fit.lever import where
from maglia.core.fit.words import written
from maglia.core.piece import Piece, Wearer
from maglia.core.record import DomainError
from maglia.demo import demo_path
from maglia.files.piece_json import write_atomically
from maglia.files.tables import counts_csv, cut_list_csv

FILES = "Maglia pieces (*.json)"


class Window(QMainWindow):
    """The Bench: form above, half-rule below, readings and checks at the right."""

    session: Session
    form: FormView
    rule: RuleView
    side: SidePanel

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.form = FormView(session, theme)
        self.rule = RuleView(session, theme)
        self.letters = Letters(session, theme)
        self.side = SidePanel(session, theme)
        self.insert = InsertLine(session, self._offered_actions)
        self.insert.hide()
        self.setCentralWidget(self._composed())
        self._add_actions()
        self.form.keys = self.rule
        self.rule.insert_wanted.connect(lambda: self.insert.open())
        self.insert.closed.connect(self.rule.setFocus)
        self.side.fits.change_wanted.connect(self.change_fit)
        self.side.checks.visit_wanted.connect(self.visit)
        self.side.checks.repair_wanted.connect(self.repair)
        for signal in (session.changed, session.reshown):
            signal.connect(self.on_changed)
        session.said.connect(self.message.setText)
        self.on_changed()
        self.rule.setFocus()

    # --- composing ----------------------------------------------------------------------------

    def _composed(self) -> QWidget:
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.form)
        below = QWidget()
        stack = QVBoxLayout(below)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(0)
        stack.addWidget(self.letters)
        stack.addWidget(self.rule, 1)
        split.addWidget(below)
        split.setStretchFactor(0, 3)
        split.setStretchFactor(1, 2)
        split.setSizes([430, 330])
        split.setHandleWidth(1)
        column.addWidget(split, 1)
        column.addWidget(self.insert)
        across = QSplitter(Qt.Orientation.Horizontal)
        across.addWidget(left)
        across.addWidget(self.side)
        across.setStretchFactor(0, 1)
        across.setSizes([980, 300])
        across.setHandleWidth(1)
        whole = QWidget()
        rows = QVBoxLayout(whole)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        rows.addWidget(self._top())
        rows.addWidget(across, 1)
        rows.addWidget(self._bottom())
        return whole

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
        self.units = self._menu_button("Display unit")
        self.more = self._menu_button("Menu")
        self.more.setText("Menu ▾")
        row.addWidget(room)
        row.addStretch(1)
        row.addWidget(self.name)
        row.addStretch(1)
        for button in (self.wearer, self.units, self.more):
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
            self.wearer.menu().addAction(wearer.role, partial(self.dress, wearer))
        for unit in ("mm", "cm", "in"):
            self.units.menu().addAction(unit, partial(self.session.show_in, unit))

    def _offered_actions(self, text: str) -> list[tuple[str, str, Callable[[], object]]]:
        words = text.lower().split()
        return [
            (a.words, a.keys, partial(self._do_and_stay, a))
            for a in ACTIONS
            if words and all(w in a.words.lower() for w in words)
        ]

    def _do_and_stay(self, action: Action) -> bool:
        self.do(action)
        return True

    def do(self, action: Action) -> None:
        """Run one action; what cannot be done is said in the message line."""
        try:
            action.do(self)
        except DomainError as fault:
            self.session.said.emit(f"Not done: {fault}.")

    # --- what the session tells ---------------------------------------------------------------

    def on_changed(self) -> None:
        edited = " · edited" if self.session.edited else ""
        self.name.setText(self.session.piece.name + edited)
        self.setWindowTitle(f"{self.session.piece.name}{edited} — Maglia")
        self.wearer.setText(f"{self.session.piece.wearer.role} ▾")
        self.units.setText(f"{self.session.unit} ▾")

    # --- actions ------------------------------------------------------------------------------

    def new_piece(self) -> None:
        if self._may_leave():
            self.session.start_new()
            self.rule.setFocus()
            self.session.said.emit("An empty bench. Enter puts in the first part.")

    def choose_and_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a piece", "", FILES)
        if name and self._may_leave():
            self.session.open(Path(name))

    def open_demo(self) -> None:
        if self._may_leave():
            self.session.open(demo_path(), as_copy=True)

    def save(self) -> bool:
        return self.save_as() if self.session.path is None else self._save_to(self.session.path)

    def save_as(self) -> bool:
        suggested = f"{self.session.piece.name}.json"
        name, _ = QFileDialog.getSaveFileName(self, "Save the piece", suggested, FILES)
        return self._save_to(Path(name)) if name else False

    def _save_to(self, path: Path) -> bool:
        self.session.save(path)
        return True

    def export(self, what: str) -> None:
        """Write the cut list or the count as CSV."""
        found = self.session.findings
        if found is None:
            raise DomainError("there is nothing to write yet")
        suggested = f"{self.session.piece.name} {what}.csv"
        name, _ = QFileDialog.getSaveFileName(self, "Save the list", suggested, "Lists (*.csv)")
        if name:
            write_atomically(Path(name), {"cuts": cut_list_csv, "counts": counts_csv}[what](found))
            self.session.said.emit(f"Saved as {Path(name).name}.")

    def delete(self) -> None:
        spot = self.session.spot
        if spot is not None:
            self.session.attempt(lambda: delete(self.session.piece, spot))

    def rename(self) -> None:
        name, taken = QInputDialog.getText(
            self, "Name the piece", "Name", text=self.session.piece.name
        )
        if taken and name.strip():
            piece = replace(self.session.piece, name=name.strip()[:120])
            self.session.apply(Edited(piece, f"named {name.strip()[:120]}"))

    def dress(self, wearer: Wearer) -> None:
        piece = replace(self.session.piece, wearer=wearer)
        self.session.apply(Edited(piece, f"for {wearer.role}"))

    def regrade(self) -> None:
        """The piece for every wearer of the tray, as a table in a window of its own."""
        if not self.session.piece.runs and not self.session.piece.rows:
            raise DomainError("there is nothing to regrade yet")
        table = RegradeTable(self.session.piece, self.session.tray.wearers, self)
        table.taken.connect(self._take_graded)
        table.show()

    def _take_graded(self, piece: Piece) -> None:
        self.session.apply(Edited(piece, f"for {piece.wearer.role}"))

    def next_unit(self) -> None:
        order = ("mm", "cm", "in")
        self.session.show_in(order[(order.index(self.session.unit) + 1) % 3])  # type: ignore[arg-type]

    def next_form(self) -> None:
        """Hang the piece on the next kind of form."""
        order = ("bust", "wrist", "ankle", "ear", "board")
        form = self.session.piece.form
        kind = order[(order.index(form.kind) + 1) % len(order)]
        piece = replace(self.session.piece, form=replace(form, kind=kind))  # type: ignore[arg-type]
        self.session.apply(Edited(piece, f"hung on the {kind}"))

    def next_posture(self) -> None:
        """The bust's next posture, or the board's next neckline."""
        form = self.session.piece.form
        field, order = ("posture", ("upright", "easy", "sloping"))
        if form.kind == "board":
            field, order = ("neckline", ("straight", "round", "vee"))
        elif form.kind != "bust":
            raise DomainError(f"a {form.kind} has one shape; bust and board have several")
        following = order[(order.index(getattr(form, field)) + 1) % 3]
        changed = replace(form, **{field: following})  # type: ignore[arg-type]
        piece = replace(self.session.piece, form=changed)
        self.session.apply(Edited(piece, f"{field}: {following}"))

    def next_theme(self) -> None:
        self.set_theme(THEMES["slate" if self.theme.name == "felt" else "felt"])

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, theme)
        for view in (self.form, self.rule, self.letters, self.side):
            view.set_theme(theme)

    def show_keys(self) -> None:
        lines = [f"<tr><td><b>{k}</b>&nbsp;&nbsp;</td><td>{w}</td></tr>" for k, w in RULE_KEYS]
        lines += [
            f"<tr><td><b>{a.keys}</b>&nbsp;&nbsp;</td><td>{a.words}</td></tr>" for a in ACTIONS
        ]
        box = QMessageBox(self)
        box.setWindowTitle("All keys")
        box.setText(f"<table>{''.join(lines)}</table>")
        box.exec()

    def change_fit(self, name: str) -> None:
        """Write the wish of a fit anew in the insert line."""
        fit = next((f for f in self.session.piece.fits if f.name == name), None)
        if fit is not None:
            self.insert.open(written(fit))

    def toggle_pin(self) -> None:
        """Keep the count under the cursor from every fit, or give it free."""
        spot = self.session.spot
        if spot is None or not spot.path:
            raise DomainError("there is no count under the cursor to pin")
        piece = toggled_pin(self.session.piece, spot)
        pinned = len(piece.pinned) > len(self.session.piece.pinned)
        self.session.apply(Edited(piece, f"{where(spot)} {'pinned' if pinned else 'free'}", spot))

    def visit(self, check: Check) -> None:
        """Go to what a check is about."""
        if check.run is not None:
            spot = spot_of(self.session.piece, check.run, check.item)
            if spot is not None:
                self.session.go(spot)

    def repair(self, check: Check) -> None:
        """Do the first repair a check offers."""
        if not check.repairs:
            self.session.said.emit("This one is repaired by hand: see what it says.")
            return
        first = check.repairs[0]
        spot = spot_of(self.session.piece, first.run, first.item)
        if isinstance(spot, Spot):
            self.session.attempt(lambda: set_count(self.session.piece, spot, first.count))

    def _may_leave(self) -> bool:
        """Ask before edits would be lost."""
        if not self.session.edited:
            return True
        ask = QMessageBox(self)
        ask.setText(f"“{self.session.piece.name}” has edits that are not saved.")
        buttons = QMessageBox.StandardButton
        ask.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
        answer = ask.exec()
        if answer == buttons.Save:
            return self.save()
        return bool(answer == buttons.Discard)

    # --- Qt -----------------------------------------------------------------------------------

    def closeEvent(self, event: QCloseEvent) -> None:
        if self._may_leave():
            self.session.finish()
            event.accept()
        else:
            event.ignore()
