"""Every action of Make, declared once: menus, the guide and tests read it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from maglia.app.desk import Desk
from maglia.app.rooms.room import Action, Offered, Room, actions_of

if TYPE_CHECKING:
    from maglia.app.rooms.make.make import MakeRoom

_action = actions_of("make", "Make")


def made(desk: Desk, offers: Callable[[str], list[Offered]]) -> MakeRoom:
    from maglia.app.rooms.make.make import MakeRoom  # not before it is entered

    return MakeRoom(desk, offers)


ACTIONS: tuple[Action[MakeRoom], ...] = (
    _action("done", "Done", "Space", "checks", lambda m: m.done()),
    _action("all", "All that is left of the step is done", "Shift+Space", "checks",
            lambda m: m.done(whole_step=True)),
    _action("back", "Back: it is not done after all", "Backspace", "undo", lambda m: m.back()),
    _action("changed", "Changed on the mat…", "C", "replace", lambda m: m.said.open_change()),
    _action("note", "A note…", "N", "name", lambda m: m.said.open_note()),
    _action("measure", "What it measures…", "M", "rule", lambda m: m.said.open_measure()),
    _action("spoilt", "A part is spoilt…", "S", "out", lambda m: m.said.open_spoilt()),
    _action("layout", "Layout with every letter", "L", "form", lambda m: m.canvas.toggle_layout()),
    _action("school", "Other school: laid flat, on the carrier", "F", "turn",
            lambda m: m.next_school()),
    _action("habit", "How you work…", "H", "list", lambda m: m.open_habits()),
    _action("here", "To where the work is", "Home", "rule", lambda m: m.go_on()),
    _action("bench", "Make it as it is on the bench now", "U", "inward",
            lambda m: m.take_from_bench()),
    _action("builds", "All that is in the making", "B", "collection", lambda m: m.put_aside()),
    _action("give-up", "Give the build up", "Ctrl+Del", "stop", lambda m: m.give_up()),
    _action("sheet", "Make sheet as PDF or SVG…", "P", "picture", lambda m: m.save_sheet()),
    _action("printer", "Print the make sheet…", "Ctrl+P", "picture",
            lambda m: m.print_sheet()),
    _action("larger", "Larger words, longer check bar", "Ctrl++", "closer", lambda m: m.zoom(1)),
    _action("smaller", "Smaller words, shorter check bar", "Ctrl+-", "further",
            lambda m: m.zoom(-1)),
)  # fmt: skip

MAKE_KEYS: tuple[tuple[str, str], ...] = (
    ("Space, Page Down, a pedal", "done"),
    ("Backspace, Page Up", "back"),
    ("← →", "look at the steps before and after; nothing is done"),
    ("Home", "to where the work is"),
    ("Esc", "leave a line; then all that is in the making"),
)

MAKE: Room[MakeRoom] = Room("make", "Make", "Ctrl+4", made, ACTIONS)
