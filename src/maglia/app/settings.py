"""Settings: one table of key, kind, default and words; kept as JSON in the user's own folder."""

import json
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

from platformdirs import user_config_path, user_state_path

from maglia.core.values.record import DomainError, Value
from maglia.files import disk


class Setting(Value, frozen=True):
    """A key, the values it may take (none: any text), what it is without being set, its words."""

    key: str
    default: Any
    allowed: tuple[str, ...]
    words: str


TABLE = (
    Setting("theme", "", ("", "felt", "slate"), "felt or slate; empty follows the desktop"),
    Setting("unit", "mm", ("mm", "cm", "in"), "display unit"),
    Setting("text", 100, (), "text size, per cent"),
    Setting("wire_unit", "", ("", "AWG", "SWG"), "the gauge that wires are said in beside mm"),
    Setting("motion", True, (), "whether the piece settles as motion"),
    Setting("last_piece", "", (), "the file opened last"),
    Setting("recent", [], (), "files opened or saved last, the newest first"),
    Setting("px_per_mm", 0.0, (), "pixels a millimetre takes on this screen; 0: as it says itself"),
    Setting("working", {}, (), "school and habits a new build is worked by"),
    Setting("used", {}, (), "how often each part and action was put in"),
    Setting("said", [], (), "phrases said last in the insert line, the newest first"),
    Setting(
        "photographs",
        "linked",
        ("linked", "copied"),
        "whether they stay where they lie, or a copy is kept beside the workshop",
    ),
    Setting("instruments", {}, (), "where caliper and scale are plugged in, and how they speak"),
)
MOST_RECENT = 16
STAND_IN = "stand-in"
"""Where an instrument is plugged in that is not there: a simulated one answers."""
DEFAULTS = {setting.key: setting.default for setting in TABLE}


def settings_path() -> Path:
    return user_config_path("maglia") / "settings.json"


def kept_folders() -> tuple[Path, ...]:
    """Where work that is not saved yet is kept: the first that can be written."""
    state, others = user_state_path("maglia"), os.environ.get("TMPDIR") or "/tmp"
    return state / "kept", Path(others) / f"maglia-{os.getuid()}" / "kept"


class Settings:
    """Values by key. Without a path nothing is read or written."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path
        self.faulty: Callable[[str], object] = lambda _: None
        """Told, once, when they cannot be written."""
        self.values: dict[str, Any] = dict(DEFAULTS)
        self.trouble = ""
        """What was wrong with the file, to be said once."""
        if path is not None and os.path.lexists(path):
            self._read(path)

    def _read(self, path: Path) -> None:
        try:
            self.values |= _sound(json.loads(disk.read_text(path)))
        except (ValueError, RecursionError) as fault:
            aside = disk.set_aside(path)
            where = f"set aside as {aside.name}" if aside else "left where they are"
            why = fault if isinstance(fault, DomainError) else "no whole JSON"
            self.trouble = f"The settings could not be read ({why}); they are {where}."

    def __getitem__(self, key: str) -> Any:
        return self.values[key]

    def __setitem__(self, key: str, value: Any) -> None:
        if self.values.get(key) != value:
            self.values[key] = value
            self.write()

    def note_piece(self, path: Path) -> None:
        """A piece was opened or saved: the next start begins with it."""
        place = os.path.abspath(path)
        self["last_piece"] = place
        others = [one for one in self.values["recent"] if one != place]
        self["recent"] = [place, *others][:MOST_RECENT]

    def count_use(self, what: str) -> None:
        """One use more of a part or action, for the insert line to learn by."""
        used = dict(self.values["used"])
        used[what] = used.get(what, 0) + 1
        self["used"] = used

    def write(self) -> None:
        """Settings that cannot be written are no reason to stop working, but it is said."""
        if self.path is None:
            return
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            disk.write_atomically(self.path, json.dumps(self.values, indent=1) + "\n")
        except (OSError, DomainError) as fault:
            self.path = None
            self.faulty(f"Settings are not kept: {fault}.")


def _is_whole(value: Any) -> bool:
    """Whether its texts hold no half characters, which no path and no window takes."""
    try:
        json.dumps(value, ensure_ascii=False).encode(errors="surrogateescape")
    except UnicodeEncodeError:
        return False
    return True


def _sound(found: Any) -> dict[str, Any]:
    """What of the settings is of the right kind; the rest keeps its default."""
    if not isinstance(found, dict):
        raise ValueError
    return {
        s.key: found[s.key]
        for s in TABLE
        if isinstance(found.get(s.key), type(s.default))
        and _is_whole(found[s.key])
        and (not s.allowed or found[s.key] in s.allowed)
        and (s.key not in ("said", "recent") or all(type(one) is str for one in found[s.key]))
        and (s.key != "text" or 100 <= found["text"] <= 200)
        and (s.key != "used" or all(type(count) is int for count in found["used"].values()))
    }
