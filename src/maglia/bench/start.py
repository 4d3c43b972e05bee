"""From the command line to a standing window, in order."""

import sys
import time
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from maglia.bench.session import Session
from maglia.bench.theme import THEMES, apply_theme, load_fonts
from maglia.bench.window import Window
from maglia.core.record import DomainError
from maglia.demo import demo_tray
from maglia.memory import settle

SHOT_SECONDS = 30.0
ROOMS = ("bench",)


@dataclass(frozen=True)
class Wishes:
    """What the command line asked for."""

    path: Path
    as_copy: bool
    shot: Path | None
    size: tuple[int, int]
    room: str
    theme: str | None


def run_window(wishes: Wishes) -> int:
    """Open the window on a piece; with a shot, save its picture and leave. Returns exit status."""
    if wishes.room not in ROOMS:
        raise DomainError(f"--room {wishes.room}: there is no such room; there is bench")
    settle()
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("Maglia")
    load_fonts()
    theme = THEMES[wishes.theme or _desktop_theme(app)]
    apply_theme(app, theme)
    session = Session(demo_tray())
    session.open(wishes.path, as_copy=wishes.as_copy)
    window = Window(session, theme)
    window.resize(*wishes.size)
    window.setMinimumSize(900, 600)
    window.show()
    if wishes.shot is None:
        return app.exec()
    return _shoot(app, window, wishes.shot)


def _desktop_theme(app: QApplication) -> str:
    dark = app.styleHints().colorScheme() == Qt.ColorScheme.Dark
    return "slate" if dark else "felt"


def _shoot(app: QApplication, window: Window, path: Path) -> int:
    """Wait for the results, then save what the window shows."""
    end = time.monotonic() + SHOT_SECONDS
    while window.session.findings is None and time.monotonic() < end:
        app.processEvents()
        time.sleep(0.005)
    app.processEvents()
    saved = window.grab().save(str(path))
    window.session.finish()
    if not saved:
        raise DomainError(f"{path} cannot be written; choose another place")
    return 0
