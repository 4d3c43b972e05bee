"""The window round the rooms: it switches them, and does nothing else.

Its top line has the rooms, the piece, wearer, ways and units, and the menu of all actions; its
bottom line says what happened.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import (
    QAction,
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QKeySequence,
)
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from maglia.app import dropped, piece_commands
from maglia.app.assistive import describe
from maglia.app.banner import Banner
from maglia.app.desk import Desk
from maglia.app.house import ACTIONS, BESIDE, ROOMS
from maglia.app.icon import icon
from maglia.app.message_line import MessageLine
from maglia.app.plain_text import Label, button, tip, title
from maglia.app.rooms.room import Action, Offered, Room, RoomWidget
from maglia.app.stale_line import StaleLine
from maglia.files.kept import Kept, KeptFile


class Shell(QMainWindow):
    """Rooms are made when they are first shown."""

    def __init__(self, desk: Desk, room: str = "bench") -> None:
        super().__init__()
        self.desk, self.session = desk, desk.session
        desk.may_begin = partial(piece_commands.may_leave, desk)
        desk.setParent(self)
        desk.session.setParent(self)
        desk.window = self
        self.made: dict[str, RoomWidget] = {}
        self.last_room = room
        """Where to go back to from what stands beside the rooms."""
        self.buttons: dict[str, QToolButton] = {}
        self._menus: dict[str, QMenu] = {}
        self._dressing: list[tuple[QAction, str]] = []
        self.banner = Banner()
        self.stale = StaleLine(desk.session)
        self.stack = QStackedWidget()
        self._compose()
        self._add_actions(ACTIONS, self, desk)
        self._connect()
        self.setAcceptDrops(True)
        self.show_room(room)
        self.on_changed()

    @property
    def room(self) -> RoomWidget:
        """What fills the room that is shown."""
        widget = self.stack.currentWidget()
        assert isinstance(widget, RoomWidget)
        return widget

    def show_room(self, name: str) -> None:
        """Show a room by its name; without one, the room that was shown last."""
        room = next(one for one in (*ROOMS, *BESIDE) if one.id == (name or self.last_room))
        name = room.id
        if room in ROOMS:
            self.last_room = name
        if name not in self.made:
            widget = self.made[name] = room.make(self.desk, self.offered)
            self.stack.addWidget(widget)
            self._add_actions(room.actions, widget, widget)
        self.stack.setCurrentWidget(self.made[name])
        for own, made in self.buttons.items():
            made.setChecked(own == name)
        self.made[name].enter()
        self.session.said.emit(self.made[name].greeting)

    # --- composing ----------------------------------------------------------------------------

    def _compose(self) -> None:
        self.banner.hide()
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for widget in (self._top(), self.banner, self.stale, self.stack, self._bottom()):
            column.addWidget(widget, 1 if widget is self.stack else 0)
        self.setCentralWidget(whole)

    def _top(self) -> QWidget:
        bar = QWidget()
        bar.setObjectName("rooms")
        row = QHBoxLayout(bar)
        row.setContentsMargins(10, 5, 10, 5)
        for room in ROOMS:
            row.addWidget(self._room_button(room))
        self.name = Label()
        self.name.setObjectName("pieceName")
        self.wearer = self._menu_button("Wearer")
        self.ways = self._menu_button("Way to wear it")
        self.units = self._menu_button("Display unit")
        self.more = self._menu_button("Menu")
        self.more.setText("Menu ▾")
        row.addStretch(1)
        row.addWidget(self.name)
        row.addStretch(1)
        for made in (self.wearer, self.ways, self.units, self.more):
            row.addWidget(made)
        return bar

    def _room_button(self, room: Room[Any]) -> QToolButton:
        made = self.buttons[room.id] = QToolButton()
        made.setText(room.words)
        made.setToolTip(tip(f"{room.words}  {room.key}"))
        made.setCheckable(True)
        made.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        made.clicked.connect(partial(self.show_room, room.id))
        shortcut = QAction(room.words, self)
        shortcut.setShortcut(QKeySequence(room.key))
        shortcut.triggered.connect(partial(self.show_room, room.id))
        self.addAction(shortcut)
        return made

    def _menu_button(self, name: str) -> QToolButton:
        made = QToolButton()
        made.setAccessibleName(name)
        made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        made.setMenu(QMenu(made))
        return made

    def _bottom(self) -> QWidget:
        bar = QWidget()
        bar.setObjectName("panel")
        bar.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(bar)
        row.setContentsMargins(12, 4, 12, 4)
        self.message = MessageLine()
        row.addWidget(self.message, 1)
        return bar

    def _add_actions(self, actions: tuple[Action[Any], ...], at: QWidget, where: object) -> None:
        """Actions of a room work while it is shown; those of the house everywhere. What stands in a
        menu is another thing than the key: it is greyed where it cannot be done, and a key says
        why; and keys of rooms that are not shown would be heard where a menu's button is."""
        for action in actions:
            keys = QKeySequence(action.keys)
            key = QAction(action.words, at)
            key.setShortcut(keys)
            if at is not self:
                key.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            key.triggered.connect(partial(self.do, action, where))
            at.addAction(key)
            if action.menu not in self._menus:
                menu = self._menus[action.menu] = self.more.menu().addMenu(action.menu)
                menu.aboutToShow.connect(self._dress_menu)
            said = keys.toString(QKeySequence.SequenceFormat.NativeText)
            made = self._menus[action.menu].addAction(f"{button(action.words)}\t{said}")
            made.setObjectName(action.id)
            made.triggered.connect(partial(self.do, action, where))
            self._dressing.append((made, action.icon))

    def _dress_menu(self) -> None:
        """Icons are drawn, and what cannot be done is greyed, when a menu is first wanted."""
        for made, name in self._dressing:
            if made.icon().isNull():
                made.setIcon(icon(name, self.desk.theme))
        for action, where in self._all_actions():
            self._menu_action(action.id).setEnabled(action.enabled(where))

    def _menu_action(self, name: str) -> QAction:
        return next(made for made, _ in self._dressing if made.objectName() == name)

    def _connect(self) -> None:
        desk, session = self.desk, self.session
        self.wearer.menu().aboutToShow.connect(self._fill_wearers)
        for unit in piece_commands.UNITS:
            self.units.menu().addAction(unit, partial(piece_commands.show_in, desk, unit))
        for signal in (session.changed, session.reshown):
            signal.connect(self.on_changed)
        session.said.connect(self.on_said)
        desk.dressed.connect(self.on_dressed)
        desk.guide_wanted.connect(self.show_guide)
        desk.step_wanted.connect(lambda by: self.desk.attempt(self.room.step, by))
        desk.can_step = lambda by: self.room.can_step(by)
        desk.piece_wanted.connect(self.open_place)
        desk.room_wanted.connect(self.show_room)

    def _fill_wearers(self) -> None:
        menu = self.wearer.menu()
        menu.clear()
        for wearer in self.session.tray.wearers:
            menu.addAction(button(wearer.role), partial(piece_commands.dress, self.desk, wearer))

    def open_place(self, place: str) -> None:
        self.show_room("bench")  # first: what is said of the piece stays to be read
        self.desk.attempt(piece_commands.open_place, self.desk, place)

    # --- actions ------------------------------------------------------------------------------

    def _all_actions(self) -> Iterator[tuple[Action[Any], object]]:
        """Every action that can be done now, with what it is done to."""
        yield from ((action, self.desk) for action in ACTIONS)
        for room in ROOMS:
            if room.id in self.made:
                yield from ((action, self.made[room.id]) for action in room.actions)

    def offered(self, text: str) -> list[Offered]:
        """Actions whose words begin like a text, for a room's own line."""
        words = text.lower().split()
        return [
            (action.words, action.keys, partial(self._do_and_stay, action, where))
            for action, where in self._all_actions()
            if words and all(word in action.words.lower() for word in words)
        ]

    def _do_and_stay(self, action: Action[Any], where: object) -> bool:
        self.room.leave_line()
        self.do(action, where)
        return False

    def do(self, action: Action[Any], where: object) -> None:
        """Run one action; what cannot be done is said in the message line."""
        self.desk.attempt(action.do, where)

    def show_guide(self, place: str) -> None:
        """The guide at a page, in the window that stands already, if one does."""
        from maglia.app.guide import Guide

        guide = next(iter(self.findChildren(Guide)), None)
        if guide is None:
            guide = Guide(self.desk.theme, self.session.jobs, self)
            self.desk.dressed.connect(guide.set_theme)
        guide.show()
        guide.activateWindow()
        guide.go(place)  # once it has its size: a heading comes to the top

    # --- work that was cut off ----------------------------------------------------------------

    def offer(self, found: Sequence[tuple[KeptFile, Kept]]) -> None:
        """Offer work that was cut off, one after the other. What is not answered stays on disk."""
        if not found:
            return
        (file, kept), *rest = found
        self.banner.ask(
            f"Work on “{kept.piece.name}” of {kept.clock} was cut off before it was saved.",
            ("Take it up", partial(self._take_up, file, kept, rest)),
            ("Give it up", partial(self._give_up, file, rest)),
            ("Later", partial(self._answered, rest)),
        )

    def _take_up(self, file: KeptFile, kept: Kept, rest: Sequence[tuple[KeptFile, Kept]]) -> None:
        keeper = self.desk.keeper
        if not piece_commands.may_leave(self.desk):
            self.offer([(file, kept), *rest])
            return
        self.session.take_up(kept)
        if keeper is None or keeper.keep():  # the old copy goes when there is a new one
            file.forget()
        self.session.said.emit(f"“{kept.piece.name}” as it was. Save it with Ctrl+S.")
        self._answered(rest)

    def _give_up(self, file: KeptFile, rest: Sequence[tuple[KeptFile, Kept]]) -> None:
        file.forget()
        self._answered(rest)

    def _answered(self, rest: Sequence[tuple[KeptFile, Kept]]) -> None:
        self.room.enter()
        self.offer(rest)

    # --- what the session tells ---------------------------------------------------------------

    def on_said(self, words: str) -> None:
        """The message line; whoever does not see it hears it."""
        self.message.say(words)
        describe(self.message, words)

    def on_changed(self) -> None:
        piece = self.session.piece
        edited = " · edited" if self.session.edited else ""
        self.name.setText(piece.name + edited)
        self.setWindowTitle(title(f"{piece.name}{edited} — Maglia"))
        self.wearer.setText(button(f"{piece.wearer.role} ▾"))
        self.units.setText(f"{self.session.unit} ▾")
        self.ways.setVisible(bool(piece.ways))
        names = ["the whole piece", *(way.name for way in piece.ways)]
        self.ways.setText(button(f"{names[self.session.way]} ▾"))
        self.ways.menu().clear()
        for k, name in enumerate(names):
            self.ways.menu().addAction(button(name), partial(self.session.show_way, k))

    def on_dressed(self) -> None:
        for made, name in self._dressing:
            if not made.icon().isNull():
                made.setIcon(icon(name, self.desk.theme))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.room.escape()
        else:
            super().keyPressEvent(event)

    # --- what falls on the window -----------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dropped.files_in(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        event.acceptProposedAction()
        paths = dropped.files_in(event.mimeData())
        QTimer.singleShot(0, self, partial(self.desk.attempt, dropped.take, self, paths))

    def closeEvent(self, event: QCloseEvent) -> None:
        if piece_commands.may_leave(self.desk):
            if self.desk.keeper is not None:
                self.desk.keeper.forget()
            self._close_down()
            event.accept()
        else:
            event.ignore()

    def go(self) -> None:
        """Told to go, without asking: what is not saved is kept, and offered at the next start."""
        if self.desk.keeper is not None and self.session.edited:
            self.desk.keeper.keep()
        self._close_down()
        QApplication.exit()

    def _close_down(self) -> None:
        for room in self.made.values():
            room.close_down()
        self.session.finish()
