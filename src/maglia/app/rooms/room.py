"""What a room and an action are to the rest of the window: data."""

from collections.abc import Callable
from typing import Any, Generic, TypeVar

from PySide6.QtWidgets import QWidget

from maglia.app.desk import Desk
from maglia.core.values.record import Value

Where = TypeVar("Where")


class Action(Value, Generic[Where], frozen=True):
    """id, words, shortcut, the name of its icon, the room it is at home in (none: every room), what
    it does there, and when it can be done; `menu` groups it."""

    id: str
    words: str
    keys: str
    icon: str
    room: str
    menu: str
    do: Callable[[Where], object]
    enabled: Callable[[Where], bool] = lambda _: True


class RoomWidget(QWidget):
    """What fills a room. The shell calls `enter` when it is shown."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk

    def can_step(self, by: int) -> bool:
        return self.desk.session.history.can_step(by)

    @property
    def greeting(self) -> str:
        """What its first keys are, said when it is shown."""
        return ""

    def close_down(self) -> None:
        """The window closes: let go of what is held."""

    def step(self, by: int) -> None:
        """Undo (−1) or redo (+1): of the piece, unless the room has a history of its own."""
        self.desk.session.step(by)

    def enter(self) -> None:
        """Take the keys."""

    def escape(self) -> None:
        """Escape was pressed and nothing that has the keys took it."""

    def leave_line(self) -> None:
        """Close whatever line or panel is open: an action was chosen in it."""


Declared = Callable[[str, str, str, str, Callable[[Any], object]], Action[Any]]
"""An action by name, words, shortcut, icon and what it does."""


def actions_of(room: str, menu: str) -> Declared:
    """Declares the actions of a room that says itself, by `may`, when each can be done."""

    def declare(
        name: str, words: str, keys: str, icon: str, do: Callable[[Any], object]
    ) -> Action[Any]:
        return Action(f"{room}-{name}", words, keys, icon, room, menu, do, lambda c: c.may(name))

    return declare


Made = TypeVar("Made", bound=RoomWidget)
Offered = tuple[str, str, Callable[[], object]]
"""An action as a line offers it: words, keys, and what it does."""


class Room(Value, Generic[Made], frozen=True):
    """One room of the window: id, words, shortcut, what fills it, and its own actions. `offers`
    gives the actions that fit a text, for its insert line."""

    id: str
    words: str
    key: str
    make: Callable[[Desk, Callable[[str], list[Offered]]], Made]
    actions: tuple[Action[Made], ...]
