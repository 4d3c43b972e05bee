"""Every action of Count, declared once: menus, the guide and tests read it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from maglia.app.desk import Desk
from maglia.app.rooms.room import Action, Offered, Room, actions_of

if TYPE_CHECKING:
    from maglia.app.rooms.count.count import CountRoom

_action = actions_of("count", "Count")


def made(desk: Desk, offers: Callable[[str], list[Offered]]) -> CountRoom:
    from maglia.app.rooms.count.count import CountRoom  # not before it is entered

    return CountRoom(desk, offers)


ACTIONS: tuple[Action[CountRoom], ...] = (
    _action("add", "Another piece…", "A", "new", lambda c: c.open_add()),
    _action("open-piece", "The piece on the bench", "B", "inward", lambda c: c.add_open()),
    _action("out", "Out of the day", "Del", "out", lambda c: c.take_out()),
    _action("again", "Count anew", "R", "again", lambda c: c.day.plan()),
    _action("lay-out", "Lay the day out: reserve it in the stock", "L", "pin",
            lambda c: c.day.lay_out()),
    _action("give-up", "Give it up again", "G", "undo", lambda c: c.day.give_up()),
    _action("days", "Another day that is laid out", "D", "history", lambda c: c.day.show_next()),
    _action("to-bench", "The chosen piece onto the bench", "Shift+B", "outward",
            lambda c: c.to_bench()),
    _action("left", "What could be made of what is left", "W", "collection",
            lambda c: c.look_for_more()),
    _action("save-set", "Save the day as a set…", "S", "save", lambda c: c.save_set()),
    _action("open-set", "A set…", "O", "open", lambda c: c.open_set()),
    _action("csv", "Cuts as CSV…", "E", "list", lambda c: c.export()),
    _action("kits", "Kit labels as PDF or SVG…", "K", "table", lambda c: c.on_paper(first=3)),
    _action("print", "On paper, as PDF or SVG…", "P", "picture", lambda c: c.on_paper()),
    _action("printer", "Print…", "Ctrl+P", "picture", lambda c: c.on_paper(printed=True)),
)  # fmt: skip

COUNT_KEYS: tuple[tuple[str, str], ...] = (
    ("+ −", "one more or fewer of the piece the cursor is on (Shift: five)"),
    ("A", "another piece: letters narrow the list, Enter takes it"),
    ("Esc", "what is found so far is enough; or leave a line"),
    ("Tab", "to what it takes, and back"),
)

COUNT: Room[CountRoom] = Room("count", "Count", "Ctrl+3", made, ACTIONS)
