"""Every action of the Tray, declared once: menus, its line, the guide and tests read it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from maglia.app.desk import Desk
from maglia.app.rooms.room import Action, Offered, Room

if TYPE_CHECKING:
    from maglia.app.rooms.tray.tray import TrayRoom

Command = Callable[[Any], object]


def _action(
    name: str, words: str, keys: str, icon: str, menu: str, command: Command
) -> Action[TrayRoom]:
    return Action(f"tray-{name}", words, keys, icon, "tray", menu, command)


def made(desk: Desk, offers: Callable[[str], list[Offered]]) -> TrayRoom:
    from maglia.app.rooms.tray.tray import TrayRoom  # not before it is entered

    return TrayRoom(desk, offers)


ACTIONS: tuple[Action[TrayRoom], ...] = (
    _action("new", "New part, unit or wearer…", "N", "new", "Tray", lambda t: t.new.open()),
    _action("narrow", "Narrow the tray", "/", "list", "Tray", lambda t: t.line.setFocus()),
    _action("shelf", "Take the shelf of common sizes", "S", "collection", "Tray",
            lambda t: t.take_shelf()),
    _action("import", "Import a supplier's list…", "I", "open", "Tray",
            lambda t: t.choose_list()),
    _action("export", "Parts as CSV…", "E", "save", "Tray", lambda t: t.export()),
    _action("again", "Once more, to be changed", "D", "again", "Tray", lambda t: t.once_more()),
    _action("out", "Take out of the tray", "Del", "out", "Tray", lambda t: t.take_out()),
    _action("stock", "What changed on the bench", "B", "list", "Tray",
            lambda t: t.sheet.lies.line.setFocus()),
    _action("back", "Take the latest stock event back", "Backspace", "undo", "Tray",
            lambda t: t.sheet.lies.take_back()),
    _action("dress", "The piece for this wearer", "W", "wearer", "Tray", lambda t: t.dress()),
    _action("holes", "Move holes and corners", "H", "form", "Tray",
            lambda t: t.sheet.drawing.setFocus()),
    _action("reading", "Take the instrument's reading", "F8", "rule", "Tray",
            lambda t: t.instruments.take()),
    _action("instruments", "Instruments…", "F7", "rule", "Tray",
            lambda t: t.instruments.open()),
    _action("larger", "Larger", "Ctrl++", "closer", "Show", lambda t: t.tiles.zoom(1)),
    _action("smaller", "Smaller", "Ctrl+-", "further", "Show", lambda t: t.tiles.zoom(-1)),
    _action("rules", "Your rules, minutes and rates…", "R", "checks", "Tray",
            lambda t: t.open_rules()),
)  # fmt: skip

TRAY_KEYS: tuple[tuple[str, str], ...] = (
    ("← → ↑ ↓", "walk from part to part"),
    ("Enter", "to the sheet: the first figure that is not known; Tab to the next"),
    ("Enter in a figure", "takes it; in any unit, ? for not known, “32 links 104 mm” for a pitch"),
    ("Esc", "back to the parts, and everything is shown again"),
)

TRAY: Room[TrayRoom] = Room("tray", "Tray", "Ctrl+1", made, ACTIONS)
