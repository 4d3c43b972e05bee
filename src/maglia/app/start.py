"""From the command line to a standing window, in order."""

import sys
import time
from contextlib import suppress
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory

from PySide6.QtCore import QEvent, QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from maglia.app.collector import Collector
from maglia.app.desk import Desk
from maglia.app.house import ROOMS
from maglia.app.keeper import Keeper
from maglia.app.own_workshop import open_own
from maglia.app.piece_commands import open_bundle
from maglia.app.rescue import Rescue
from maglia.app.session.session import Session
from maglia.app.settings import Settings, kept_folders, settings_path
from maglia.app.shell import Shell
from maglia.app.theme import THEMES, apply_theme, desktop_theme, load_fonts, set_text_scale
from maglia.app.told_to_go import told_to_go
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.tray import Tray
from maglia.demo import demo_path, demo_tray, empty_file
from maglia.desktop.install import ID, SOURCES
from maglia.files.kinds import BUNDLE
from maglia.files.workshop.place import workshop_path
from maglia.memory import settle

SHOT_SECONDS = 30.0


class Wishes(Value, frozen=True):
    """What the command line asked for; without a path, the last piece."""

    path: Path | None
    as_copy: bool
    shot: Path | None
    size: tuple[int, int]
    room: str
    theme: str | None
    workshop: Path | None = None
    fresh: bool = False
    """Begin the demo's copy of the workshop anew."""


def run_window(wishes: Wishes) -> int:
    """Open the window on a piece; with a shot, save its picture and leave. Returns exit status."""
    rooms = [room.id for room in ROOMS]
    if wishes.room not in rooms:
        raise DomainError(
            f"--room {wishes.room}: there is no such room; there is {', '.join(rooms)}"
        )
    settle()
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("Maglia")
    app.setDesktopFileName(ID)
    app.setWindowIcon(QIcon(str(SOURCES / "maglia.svg")))
    load_fonts()
    settings = Settings(settings_path() if wishes.shot is None else None)
    theme = THEMES[wishes.theme or settings["theme"] or desktop_theme()]
    set_text_scale(settings["text"] / 100)
    apply_theme(app, theme)
    own = wishes.workshop or workshop_path(demo=wishes.as_copy)
    if wishes.fresh:
        empty_file(own)
    session = Session(demo_tray() if wishes.as_copy else Tray(), app)
    open_first(session, wishes, settings)
    session.unit, session.wire_unit = settings["unit"], settings["wire_unit"]
    keeper = Keeper(session, kept_folders()) if wishes.shot is None else None
    found, troubles = keeper.found() if keeper else ([], [])
    window = Shell(Desk(session, theme, settings, keeper), wishes.room)
    Collector(window)
    if keeper is not None:
        Rescue(kept_folders()[0].parent / "faults", keeper.keep, session.said.emit).install()
    window.resize(*wishes.size)
    window.setMinimumSize(900, 600)
    window.show()
    window.offer(found)
    for trouble in filter(None, (settings.trouble, *troubles)):
        session.said.emit(trouble)
    if wishes.shot is None:
        QTimer.singleShot(0, session, partial(_open_workshop, window, own, wishes))
        with told_to_go(window.go):
            return app.exec()
    with TemporaryDirectory() as folder:  # a picture leaves nothing behind
        scratch = Path(folder) / "workshop.sqlite"
        _open_workshop(window, wishes.workshop or scratch, wishes)
        return _shoot(app, window, wishes.shot)


def _open_workshop(window: Shell, path: Path, wishes: Wishes) -> None:
    """The workshop; and then a bundle, whose builds belong into it."""
    open_own(window.session, path, window.banner, demo=wishes.as_copy)
    if wishes.path is not None and wishes.path.suffix.lower() == BUNDLE:
        window.desk.attempt(open_bundle, window.desk, wishes.path)


def open_first(session: Session, wishes: Wishes, settings: Settings) -> None:
    """Open the piece that was asked for, else the last one, else a copy of the demo."""
    if wishes.path is not None:
        if wishes.path.suffix.lower() == BUNDLE:
            return  # once the workshop is open
        session.open(wishes.path, as_copy=wishes.as_copy)
        if not wishes.as_copy:
            settings.note_piece(wishes.path)
        return
    last = settings["last_piece"]
    if last:
        with suppress(DomainError):  # gone or broken since: the demo is there
            session.open(Path(last))
            return
    session.open(demo_path(), as_copy=True)


def _shoot(app: QApplication, window: Shell, path: Path) -> int:
    """Wait for the results, then save what the window shows."""
    end = time.monotonic() + SHOT_SECONDS
    while window.session.findings is None and time.monotonic() < end:
        app.processEvents()
        time.sleep(0.005)
    app.processEvents()
    saved = window.grab().save(str(path))
    window.session.finish()
    window.deleteLater()  # here, not whenever and in whatever thread Python collects it
    app.sendPostedEvents(window, QEvent.Type.DeferredDelete)
    if not saved:
        raise DomainError(f"{path} cannot be written; choose another place")
    return 0
