"""The house: its rooms, and the actions that are the same in every room. Data."""

from typing import Any

from maglia.app import piece_commands as do
from maglia.app.desk import Desk
from maglia.app.rooms.bench.actions import BENCH
from maglia.app.rooms.count.actions import COUNT
from maglia.app.rooms.log.actions import LOG
from maglia.app.rooms.make.actions import MAKE
from maglia.app.rooms.room import Action, Room
from maglia.app.rooms.settings.room import SETTINGS
from maglia.app.rooms.tray.actions import TRAY

ROOMS: tuple[Room[Any], ...] = (TRAY, BENCH, COUNT, MAKE, LOG)
"""In the order of the work."""
BESIDE: tuple[Room[Any], ...] = (SETTINGS,)
"""What takes a room's place for a while; Escape goes back to it."""


def _action(name: str, words: str, keys: str, icon: str, menu: str, command: do.Command,
            enabled: do.Asked = lambda _: True) -> Action[Desk]:  # fmt: skip
    return Action(name, words, keys, icon, "", menu, command, enabled)


ACTIONS: tuple[Action[Desk], ...] = (
    _action("new", "New piece", "Ctrl+N", "new", "Piece", do.new_piece),
    _action("demo", "The demo collection", "Ctrl+D", "collection", "Piece", do.demo_collection),
    _action("open", "Open…", "Ctrl+O", "open", "Piece", do.choose_and_open),
    _action("recent", "Recent pieces", "Ctrl+Shift+O", "history", "Piece", do.recent_pieces),
    _action("open-beside", "Open in a window of its own…", "Ctrl+Alt+O", "open", "Piece",
            do.choose_and_open_beside),
    _action("save", "Save", "Ctrl+S", "save", "Piece", do.save),
    _action("save-as", "Save as…", "Ctrl+Shift+S", "save", "Piece", do.save_as),
    _action("bundle", "Hand on: piece, builds and photographs in one file…", "Ctrl+Shift+B", "out",
            "Piece", do.save_bundle),
    _action("customer", "Sheet for the customer as PDF or SVG…", "Ctrl+Alt+P", "out", "Piece",
            do.export_customer),
    _action("kit", "Kit sheet as PDF or SVG…", "Ctrl+Alt+K", "out", "Piece", do.export_kit),
    _action("alone", "The piece alone as PNG or SVG, true size…", "Ctrl+Alt+G", "picture", "Piece",
            do.export_alone),
    _action("cuts", "Cut list as CSV…", "Ctrl+E", "list", "Piece", do.export_cuts),
    _action("counts", "Count as CSV…", "Ctrl+Shift+E", "list", "Piece", do.export_counts),
    _action("leave", "Leave", "Ctrl+Q", "leave", "Piece", do.leave),
    _action("undo", "Undo", "Ctrl+Z", "undo", "Edit", lambda d: d.step_wanted.emit(-1),
            lambda d: d.can_step(-1)),
    _action("redo", "Redo", "Ctrl+Shift+Z", "redo", "Edit", lambda d: d.step_wanted.emit(1),
            lambda d: d.can_step(1)),
    _action("take-in", "Take the piece's parts into the tray", "Ctrl+Shift+T", "inward", "Piece",
            do.take_parts_in),
    _action("take-over", "Take over what the tray holds otherwise", "Ctrl+Shift+R", "outward",
            "Piece", do.take_over, lambda d: bool(d.session.differing())),
    _action("units", "Next unit: mm, cm, inches", "Ctrl+U", "unit", "Show", do.next_unit),
    _action("wearer", "Next wearer", "Ctrl+Shift+W", "wearer", "Show", do.next_wearer),
    _action("way", "Next way to wear it", "Ctrl+Y", "way", "Show", do.next_way,
            lambda d: bool(d.session.piece.ways)),
    _action("go-back", "The workshop as it was on another day…", "Ctrl+Alt+Z", "history", "Piece",
            do.go_back),
    _action("theme", "Other theme: felt, slate", "Ctrl+T", "theme", "Show", do.next_theme),
    _action("settings", "Settings", "Ctrl+,", "checks", "Show",
            lambda d: d.room_wanted.emit("settings")),
    _action("keys", "How the bench works: the guide", "F1", "keys", "Show",
            lambda d: d.guide_wanted.emit("index")),
    _action("first-hour", "The first hour, in seven steps", "Ctrl+F1", "keys", "Show",
            lambda d: d.guide_wanted.emit("first-hour")),
    _action("every-key", "Every key", "Shift+F1", "keys", "Show",
            lambda d: d.guide_wanted.emit("keys")),
)  # fmt: skip
