"""Settings: one table of key, kind, default and words; kept as JSON in the user's own folder."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

from platformdirs import user_config_path, user_state_path

from maglia.core.values.record import DomainError, Value
from maglia.files.piece_json import write_atomically


class Setting(Value, frozen=True):
    """A key, the values it may take (none: any text), what it is without being set, its words."""

    key: str
    default: Any
    allowed: tuple[str, ...]
    words: str


TABLE = (
    Setting("theme", "", ("", "felt", "slate"), "felt or slate; empty follows the desktop"),
    Setting("unit", "mm", ("mm", "cm", "in"), "display unit"),
    Setting("motion", True, (), "whether the piece settles as motion"),
    Setting("last_piece", "", (), "the file opened last"),
    Setting("used", {}, (), "how often each part and action was put in"),
)
DEFAULTS = {setting.key: setting.default for setting in TABLE}


def settings_path() -> Path:
    return user_config_path("maglia") / "settings.json"


def kept_work_path() -> Path:
    """Where work that is not saved yet is kept."""
    return user_state_path("maglia") / "kept-work.json"


class Settings:
    """Values by key. Without a path nothing is read or written."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path
        self.faulty: Callable[[str], object] = lambda _: None
        """Told, once, when they cannot be written."""
        self.values: dict[str, Any] = dict(DEFAULTS)
        if path is not None and path.exists():
            self.values |= _sound(path)

    def __getitem__(self, key: str) -> Any:
        return self.values[key]

    def __setitem__(self, key: str, value: Any) -> None:
        if self.values.get(key) != value:
            self.values[key] = value
            self.write()

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
            write_atomically(self.path, json.dumps(self.values, indent=1) + "\n")
        except (OSError, DomainError) as fault:
            self.path = None
            self.faulty(f"Settings are not kept: {fault}.")


def _sound(path: Path) -> dict[str, Any]:
    """What of a settings file is of the right kind; the rest keeps its default."""
    try:
        found = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    if not isinstance(found, dict):
        return {}
    return {
        s.key: found[s.key]
        for s in TABLE
        if isinstance(found.get(s.key), type(s.default))
        and (not s.allowed or found[s.key] in s.allowed)
    }
