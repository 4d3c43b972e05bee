"""Every action of Log, declared once: menus, the guide and tests read it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from maglia.app.desk import Desk
from maglia.app.rooms.room import Action, Offered, Room, actions_of

if TYPE_CHECKING:
    from maglia.app.rooms.log.log import LogRoom

_action = actions_of("log", "Log")


def made(desk: Desk, offers: Callable[[str], list[Offered]]) -> LogRoom:
    from maglia.app.rooms.log.log import LogRoom  # not before it is entered

    return LogRoom(desk, offers)


ACTIONS: tuple[Action[LogRoom], ...] = (
    _action("find", "Find by words", "/", "list", lambda c: c.open_find()),
    _action("as-built", "The piece as it was built", "O", "open", lambda c: c.open_piece()),
    _action("copy", "A copy for the wearer at the top", "C", "new", lambda c: c.copy_piece()),
    _action("history", "Every build of this piece, or again all", "H", "list",
            lambda c: c.show_history()),
    _action("enter", "A build made without following it…", "N", "new", lambda c: c.open_entry()),
    _action("photo", "A photograph…", "F", "picture", lambda c: c.add_photo()),
    _action("copy-photos", "Photographs copied, or left where they lie", "", "picture",
            lambda c: c.copy_photos()),
    _action("take", "Take over what it says", "T", "pin", lambda c: c.take()),
    _action("take-back", "Take it back", "B", "undo", lambda c: c.take_back()),
    _action("csv", "Builds as CSV…", "E", "list", lambda c: c.export("csv")),
    _action("json", "Builds as JSON…", "J", "list", lambda c: c.export("json")),
    _action("print", "Builds as PDF or SVG…", "P", "picture", lambda c: c.export("pdf")),
)  # fmt: skip

LOG_KEYS: tuple[tuple[str, str], ...] = (
    ("Tab", "from the builds to what they say, and back"),
    ("↑ ↓", "from build to build, or from one thing they say to the next"),
    ("Esc", "all builds again; or leave a line"),
)

LOG: Room[LogRoom] = Room("log", "Log", "Ctrl+5", made, ACTIONS)
