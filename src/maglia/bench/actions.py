"""Every action of the window, declared once: menus, the insert line and the key list read it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from maglia.bench.window import Window


@dataclass(frozen=True)
class Action:
    """id, words, shortcut, and what it does to the window; `menu` groups it."""

    id: str
    words: str
    keys: str
    menu: str
    do: "Callable[[Window], object]"


ACTIONS: tuple[Action, ...] = (
    Action("new", "New piece", "Ctrl+N", "Piece", lambda w: w.new_piece()),
    Action("open", "Open…", "Ctrl+O", "Piece", lambda w: w.choose_and_open()),
    Action("save", "Save", "Ctrl+S", "Piece", lambda w: w.save()),
    Action("save-as", "Save as…", "Ctrl+Shift+S", "Piece", lambda w: w.save_as()),
    Action("cuts", "Cut list as CSV…", "Ctrl+E", "Piece", lambda w: w.export("cuts")),
    Action("counts", "Count as CSV…", "Ctrl+Shift+E", "Piece", lambda w: w.export("counts")),
    Action("regrade", "For every wearer, as a table", "Ctrl+W", "Piece", lambda w: w.regrade()),
    Action("demo", "Open the demo piece", "Ctrl+D", "Piece", lambda w: w.open_demo()),
    Action("leave", "Leave", "Ctrl+Q", "Piece", lambda w: w.close()),
    Action("undo", "Undo", "Ctrl+Z", "Edit", lambda w: w.session.step(-1)),
    Action("redo", "Redo", "Ctrl+Shift+Z", "Edit", lambda w: w.session.step(1)),
    Action("delete", "Take out", "Del", "Edit", lambda w: w.delete()),
    Action("pin", "Pin the count, or free it", "P", "Edit", lambda w: w.toggle_pin()),
    Action("rename", "Name the piece…", "F2", "Edit", lambda w: w.rename()),
    Action("units", "Next unit: mm, cm, inches", "Ctrl+U", "Show", lambda w: w.next_unit()),
    Action("theme", "Other theme: felt, slate", "Ctrl+T", "Show", lambda w: w.next_theme()),
    Action("side", "Front or side view", "Ctrl+I", "Show", lambda w: w.form.turn()),
    Action("ghost", "Ghost of the last state", "Ctrl+G", "Show", lambda w: w.form.toggle_ghost()),
    Action("loupe", "Loupe", "Ctrl+L", "Show", lambda w: w.form.toggle_loupe()),
    Action("whole", "The whole form", "Ctrl+0", "Show", lambda w: w.form.whole()),
    Action("motion", "Settling as motion", "Ctrl+M", "Show", lambda w: w.form.toggle_motion()),
    Action("form", "Next form: bust, wrist, ear, board", "Ctrl+F", "Show", lambda w: w.next_form()),
    Action("posture", "Next posture or neckline", "Ctrl+P", "Show", lambda w: w.next_posture()),
    Action("closer", "Closer", "Ctrl++", "Show", lambda w: w.rule.zoom_by(1.25)),
    Action("further", "Further away", "Ctrl+-", "Show", lambda w: w.rule.zoom_by(0.8)),
    Action("rule", "To the half-rule", "Ctrl+R", "Show", lambda w: w.rule.setFocus()),
    Action("fits", "To the fits", "Ctrl+J", "Show", lambda w: w.side.fits.setFocus()),
    Action("checks", "To the checks", "Ctrl+K", "Show", lambda w: w.side.checks.setFocus()),
    Action("keys", "All keys", "F1", "Show", lambda w: w.show_keys()),
)

RULE_KEYS: tuple[tuple[str, str], ...] = (
    ("← →", "walk along the run"),
    ("↑ ↓", "to the run above or below"),
    ("Ctrl+← →", "move the mark along the links (Shift: five)"),
    ("+ −", "one link, ring or repeat more or less (Shift: five)"),
    ("0–9", "write a count, links or a length onto the part"),
    ("Enter", "insert line: find a part, unit, drop or action"),
    ("Del", "take the part out"),
)
