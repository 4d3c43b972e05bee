"""Every action of the Bench, declared once: menus, the insert line, the guide and tests read it."""

from functools import partial

from maglia.app.rooms.bench import commands as do
from maglia.app.rooms.bench.bench import Bench
from maglia.app.rooms.room import Action, Room


def _action(
    name: str, words: str, keys: str, icon: str, menu: str, command: do.Command
) -> Action[Bench]:
    return Action(name, words, keys, icon, "bench", menu, command)


ACTIONS: tuple[Action[Bench], ...] = (
    _action("rename", "Call it otherwise…", "F2", "name", "Edit", do.rename),
    _action("rename-piece", "Name the piece…", "Shift+F2", "name", "Piece", do.rename_piece),
    _action("regrade", "For every wearer, as a table", "Ctrl+W", "table", "Piece", do.regrade),
    _action("copy-picture", "Copy the picture", "Ctrl+Shift+P", "picture", "Piece",
            do.copy_picture),
    _action("picture", "Picture as PNG or SVG…", "Ctrl+Shift+G", "picture", "Piece",
            do.save_picture),
    _action("history", "History", "Ctrl+H", "history", "Edit", lambda b: b.history.open()),
    _action("cut", "Cut", "Ctrl+X", "cut", "Edit", do.cut),
    _action("copy", "Copy", "Ctrl+C", "copy", "Edit", lambda b: b.session.copy()),
    _action("copy-run", "Copy the whole run", "Ctrl+Shift+C", "copy", "Edit",
            lambda b: b.session.copy(whole_run=True)),
    _action("paste", "Paste", "Ctrl+V", "paste", "Edit", lambda b: b.session.paste()),
    _action("delete", "Take out", "Del", "out", "Edit", do.take_out),
    _action("again", "Once more", "D", "again", "Edit", do.once_more),
    _action("repeat", "Repeat, or write a repeat out", "X", "repeat", "Edit", do.repeat),
    _action("turn", "Turn round", "T", "turn", "Edit", do.turn_round),
    _action("outward", "Move outward", "Alt+Right", "outward", "Edit", partial(do.move, by=1)),
    _action("inward", "Move inward", "Alt+Left", "inward", "Edit", partial(do.move, by=-1)),
    _action("split", "Split at the mark", "S", "split", "Edit", do.split_at_mark),
    _action("replace", "Replace the part everywhere…", "G", "replace", "Edit",
            do.replace_everywhere),
    _action("uses", "What uses this part", "U", "uses", "Edit", do.show_uses),
    _action("free", "Free the sides, or mirror them", "M", "mirror", "Edit", do.free_or_mirror),
    _action("pin", "Pin the count, or free it", "P", "pin", "Edit", do.toggle_pin),
    _action("eye", "Try one fewer and one more by eye", "Y", "again", "Edit",
            lambda b: b.eye.open()),
    _action("side", "Front or side view", "Ctrl+I", "side", "Show", lambda b: b.form.turn()),
    _action("ghost", "Ghost of the last state", "Ctrl+G", "ghost", "Show",
            lambda b: b.form.toggle_ghost()),
    _action("loupe", "Loupe", "Ctrl+L", "loupe", "Show", lambda b: b.form.toggle_loupe()),
    _action("whole", "The whole form", "Ctrl+0", "whole", "Show", lambda b: b.form.whole()),
    _action("motion", "Settling as motion", "Ctrl+M", "motion", "Show", do.toggle_motion),
    _action("form", "Next form: bust, wrist, ear, board", "Ctrl+F", "form", "Show", do.next_form),
    _action("posture", "Next posture or neckline", "Ctrl+P", "form", "Show", do.next_posture),
    _action("closer", "Closer", "Ctrl++", "closer", "Show", lambda b: b.rule.zoom_by(1.25)),
    _action("further", "Further away", "Ctrl+-", "further", "Show", lambda b: b.rule.zoom_by(0.8)),
    _action("fold-lanes", "Fold or unfold what hangs", "Ctrl+B", "fold", "Show",
            lambda b: b.rule.toggle_hanging()),
    _action("rule", "To the half-rule", "Ctrl+R", "rule", "Show", lambda b: b.rule.setFocus()),
    _action("fits", "To the fits", "Ctrl+J", "fits", "Show", lambda b: b.side.fits.setFocus()),
    _action("checks", "To the checks", "Ctrl+K", "checks", "Show",
            lambda b: b.side.checks.setFocus()),
    _action("all-parts", "Wire, beads and all else to make ready", "W", "list", "Show",
            lambda b: b.side.ready.unfold()),
)  # fmt: skip

RULE_KEYS: tuple[tuple[str, str], ...] = (
    ("← →", "walk along the run (Shift: select)"),
    ("↑ ↓", "to the run above or below"),
    ("Ctrl+← →", "move the mark along the links (Shift: five)"),
    ("+ −", "one link, ring or repeat more or less (Shift: five)"),
    ("0–9", "write a count, links or a length onto the part"),
    ("Enter", "insert line: find a part, unit, drop, wish or action"),
    ("Esc", "leave a line, or stop solving"),
)

BENCH: Room[Bench] = Room("bench", "Bench", "Ctrl+2", do.made, ACTIONS)
