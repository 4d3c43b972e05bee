"""What every room and action works with: the session, the settings, the theme, and the window that
dialogs stand over. It knows no room.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import QObject, QStandardPaths, Qt, Signal
from PySide6.QtWidgets import QApplication, QWidget

from maglia.app.plain_text import button
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.app.theme import THEMES, Theme, apply_theme, desktop_theme, set_text_scale
from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.app.keeper import Keeper

T = TypeVar("T")


class Desk(QObject):
    """Signals: `dressed(Theme)` the theme is another one · `begin_wanted(str)` the short question
    a new piece starts from, shown from its first line, from the demo collection on ("demo") or from
    the pieces opened last ("recent") · `guide_wanted(str)` a page of the guide · `step_wanted(int)`
    undo (−1) or redo (+1), of whatever the room shows · `room_wanted(str)` · `piece_wanted(str)`
    the piece of a file, or of the demo by its name, is to be opened · `settled(str)` one of the
    settings is otherwise."""

    dressed = Signal(object)
    begin_wanted = Signal(str)
    guide_wanted = Signal(str)
    step_wanted = Signal(int)
    piece_wanted = Signal(str)
    settled = Signal(str)
    room_wanted = Signal(str)

    def __init__(
        self, session: Session, theme: Theme, settings: Settings, keeper: Keeper | None = None
    ) -> None:
        super().__init__()
        self.session, self.theme, self.settings, self.keeper = session, theme, settings, keeper
        self.window: QWidget | None = None
        self.may_begin: Callable[[], bool] = lambda: True
        """Whether another piece may take the place of this one: what is not saved is asked for."""
        self.can_step: Callable[[int], bool] = lambda by: session.history.can_step(by)
        """Whether what the room shows has something to undo (−1) or redo (+1)."""
        settings.faulty = self.say

    def say(self, words: str) -> None:
        self.session.said.emit(words)

    def attempt(self, command: Callable[..., object], *arguments: object) -> None:
        """Do something that may be refused; the reason is said. What finds the workshop's file held
        by another window follows when it is free."""
        try:
            self.session.workshop.when_free(partial(command, *arguments))
        except DomainError as fault:
            self.say(f"Not done: {fault}.")

    def begin(self, lane: str, work: Callable[[], T], told: Callable[[T], object]) -> None:
        """Do what takes its time beside the window, which is told what came of it; a refusal is
        said."""

        def failed(fault: Exception) -> None:
            if not isinstance(fault, DomainError):
                raise fault
            self.say(f"Not done: {fault}.")

        def heard(value: object) -> None:
            self.attempt(told, value)

        self.session.jobs.begin(lane, lambda _: work(), heard, failed)

    @property
    def folder(self) -> str:
        """Where a dialog begins: beside the piece that is open or was last, else with documents."""
        last = self.session.path or self.settings["last_piece"]
        if last and Path(last).parent.is_dir():
            return str(Path(last).parent)
        where = QStandardPaths.StandardLocation.DocumentsLocation
        return QStandardPaths.writableLocation(where)

    def place_for(self, name: str) -> str:
        """What a dialog suggests to save as: a plain name in that folder."""
        return str(Path(self.folder, re.sub(r"[/\\\0]", "-", name)[:120]))

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, theme)
        self.dressed.emit(theme)

    def put(self, key: str, value: object) -> None:
        """Set something of the settings otherwise; it acts at once."""
        self.settings[key] = value
        if key == "theme":
            self.set_theme(THEMES[str(value) or desktop_theme()])
        elif key == "text":
            set_text_scale(self.settings["text"] / 100)
            self.set_theme(self.theme)
        elif key == "unit":
            self.session.show_in(self.settings["unit"])
        elif key == "wire_unit":
            self.session.show_wire_in(self.settings["wire_unit"])
        self.settled.emit(key)

    def ask(self, words: str, *answers: str) -> int:
        """A question that must be answered before anything goes on: which answer was chosen. The
        last one is also what Escape does."""
        from PySide6.QtWidgets import QMessageBox  # not before there is a question: 3 ms

        ask = QMessageBox(self.window)
        ask.setTextFormat(Qt.TextFormat.PlainText)
        ask.setText(words)
        roles = QMessageBox.ButtonRole
        last = len(answers) - 1
        buttons = [
            ask.addButton(button(answer), roles.RejectRole if k == last else roles.AcceptRole)
            for k, answer in enumerate(answers)
        ]
        ask.setDefaultButton(buttons[0])
        ask.setEscapeButton(buttons[-1])
        ask.exec()
        chosen = ask.clickedButton()
        return next((k for k, own in enumerate(buttons) if own is chosen), last)

    def may_leave(self, save: Callable[[], bool]) -> bool:
        """Ask before edits would be lost; `save` saves them if that is wanted."""
        if not self.session.edited:
            return True
        name = self.session.piece.name
        answer = self.ask(
            f"“{name}” has edits that are not saved.", "Save", "Give the edits up", "Stay"
        )
        return save() if answer == 0 else answer == 1
