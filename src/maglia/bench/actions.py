"""Every action of the window, declared once: menus, the insert line, guide and tests read it."""

from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from maglia.bench.window import Window


from maglia.core.record import Value


class Action(Value, frozen=True):
    """id, words, shortcut, and what it does to the window; `menu` groups it."""

    id: str
    words: str
    keys: str
    menu: str
    do: "Callable[[Window], object]"


def _command(name: str, *arguments: object) -> "Callable[[Window], object]":
    """The command of that name, found when it is wanted."""

    def do(window: "Window") -> object:
        from maglia.bench import commands

        return getattr(commands, name)(window, *arguments)

    return do


ACTIONS: tuple[Action, ...] = (
    Action("new", "New piece", "Ctrl+N", "Piece", _command("new_piece")),
    Action("demo", "The demo collection", "Ctrl+D", "Piece", _command("demo_collection")),
    Action("open", "Open…", "Ctrl+O", "Piece", _command("choose_and_open")),
    Action("save", "Save", "Ctrl+S", "Piece", _command("save")),
    Action("save-as", "Save as…", "Ctrl+Shift+S", "Piece", _command("save_as")),
    Action("rename", "Name the piece…", "F2", "Piece", _command("rename")),
    Action("cuts", "Cut list as CSV…", "Ctrl+E", "Piece", _command("export", "cuts")),
    Action("counts", "Count as CSV…", "Ctrl+Shift+E", "Piece", _command("export", "counts")),
    Action("regrade", "For every wearer, as a table", "Ctrl+W", "Piece", _command("regrade")),
    Action("copy-picture", "Copy the picture", "Ctrl+Shift+P", "Piece", _command("copy_picture")),
    Action("picture", "Picture as PNG or SVG…", "Ctrl+Shift+G", "Piece", _command("save_picture")),
    Action("leave", "Leave", "Ctrl+Q", "Piece", lambda w: w.close()),
    Action("undo", "Undo", "Ctrl+Z", "Edit", lambda w: w.session.step(-1)),
    Action("redo", "Redo", "Ctrl+Shift+Z", "Edit", lambda w: w.session.step(1)),
    Action("history", "History", "Ctrl+H", "Edit", lambda w: w.history.open()),
    Action("cut", "Cut", "Ctrl+X", "Edit", _command("cut")),
    Action("copy", "Copy", "Ctrl+C", "Edit", lambda w: w.session.copy()),
    Action("copy-run", "Copy the whole run", "Ctrl+Shift+C", "Edit",
           lambda w: w.session.copy(whole_run=True)),
    Action("paste", "Paste", "Ctrl+V", "Edit", lambda w: w.session.paste()),
    Action("delete", "Take out", "Del", "Edit", _command("take_out")),
    Action("again", "Once more", "D", "Edit", _command("once_more")),
    Action("repeat", "Repeat, or write a repeat out", "X", "Edit", _command("repeat")),
    Action("turn", "Turn round", "T", "Edit", _command("turn_round")),
    Action("outward", "Move outward", "Alt+Right", "Edit", _command("move", 1)),
    Action("inward", "Move inward", "Alt+Left", "Edit", _command("move", -1)),
    Action("split", "Split at the mark", "S", "Edit", _command("split_at_mark")),
    Action("replace", "Replace the part everywhere…", "G", "Edit", _command("replace_everywhere")),
    Action("free", "Free the sides, or mirror them", "M", "Edit", _command("free_or_mirror")),
    Action("pin", "Pin the count, or free it", "P", "Edit", _command("toggle_pin")),
    Action("units", "Next unit: mm, cm, inches", "Ctrl+U", "Show", _command("next_unit")),
    Action("wearer", "Next wearer", "Ctrl+Shift+W", "Show", _command("next_wearer")),
    Action("way", "Next way to wear it", "Ctrl+Y", "Show", _command("next_way")),
    Action("theme", "Other theme: felt, slate", "Ctrl+T", "Show", _command("next_theme")),
    Action("side", "Front or side view", "Ctrl+I", "Show", lambda w: w.form.turn()),
    Action("ghost", "Ghost of the last state", "Ctrl+G", "Show", lambda w: w.form.toggle_ghost()),
    Action("loupe", "Loupe", "Ctrl+L", "Show", lambda w: w.form.toggle_loupe()),
    Action("whole", "The whole form", "Ctrl+0", "Show", lambda w: w.form.whole()),
    Action("motion", "Settling as motion", "Ctrl+M", "Show", lambda w: w.form.toggle_motion()),
    Action("form", "Next form: bust, wrist, ear, board", "Ctrl+F", "Show", _command("next_form")),
    Action("posture", "Next posture or neckline", "Ctrl+P", "Show", _command("next_posture")),
    Action("closer", "Closer", "Ctrl++", "Show", lambda w: w.rule.zoom_by(1.25)),
    Action("further", "Further away", "Ctrl+-", "Show", lambda w: w.rule.zoom_by(0.8)),
    Action("fold-lanes", "Fold or unfold what hangs", "Ctrl+B", "Show",
           lambda w: w.rule.toggle_hanging()),
    Action("rule", "To the half-rule", "Ctrl+R", "Show", lambda w: w.rule.setFocus()),
    Action("fits", "To the fits", "Ctrl+J", "Show", lambda w: w.side.fits.setFocus()),
    Action("checks", "To the checks", "Ctrl+K", "Show", lambda w: w.side.checks.setFocus()),
    Action("keys", "Keys, words and a first piece", "F1", "Show", _command("show_guide")),
)  # fmt: skip

RULE_KEYS: tuple[tuple[str, str], ...] = (
    ("← →", "walk along the run (Shift: select)"),
    ("↑ ↓", "to the run above or below"),
    ("Ctrl+← →", "move the mark along the links (Shift: five)"),
    ("+ −", "one link, ring or repeat more or less (Shift: five)"),
    ("0–9", "write a count, links or a length onto the part"),
    ("Enter", "insert line: find a part, unit, drop, wish or action"),
    ("Del", "take the part out"),
    ("Esc", "leave a line, or stop solving"),
)
