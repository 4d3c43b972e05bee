"""Drives a real window at random for as long as you like: what was raised, what Qt warned of,
whether undoing all leads back to the start, and what memory did.

Run: PYTHONPATH=src:tests QT_QPA_PLATFORM=offscreen python benchmarks/faults/actions.py [N] [SEED]
"""

import faulthandler
import gc
import re
import sys
import time
import traceback
from collections import Counter
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory

from PySide6.QtCore import QEvent, qInstallMessageHandler
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog

from anything import Anything, back_to_the_start
from maglia.app import own_workshop
from maglia.app.collector import Collector
from maglia.app.house import BESIDE, ROOMS
from maglia.app.own_workshop import open_own
from maglia.app.session.session import Session
from maglia.app.theme import THEMES, apply_theme, load_fonts
from maglia.demo import demo_path, demo_tray
from windows import shell

OF_NO_SCREEN = "This plugin does not support"
"""What Qt says of sizes, of raising and of grabbing keys where there is no screen."""
A_PIECE = 250
"""Actions until all is undone and another piece is opened."""
LEAST_SHARE = 0.02
"""Of the actions, in each room; a run with fewer says nothing of it."""
STUCK_S = 20
"""An action that takes this long is shown where it is."""


def _memory_mb() -> float:
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * 4096 / 1e6


def main(actions: int = 2000, seed: int = 1) -> int:
    faults: list[str] = []
    app = QApplication([])
    load_fonts()
    apply_theme(app, THEMES["felt"])
    dice = Random(f"{seed} files")
    folder = TemporaryDirectory()

    def named(parent: object, words: str, begin: str, kinds: str, *_: object) -> tuple[str, str]:
        """A file of the first kind that is offered, or none."""
        ending = re.search(r"\*(\.[\w-]+)", kinds)
        name = f"{dice.randrange(4)}{ending[1] if ending else ''}"
        return (str(Path(folder.name, name)) if dice.random() < 0.7 else "", kinds)

    QFileDialog.getSaveFileName = QFileDialog.getOpenFileName = named
    QInputDialog.getText = lambda *_, **__: ("a reason", dice.random() < 0.5)
    own_workshop.chosen_of = lambda _, __, days: dice.choice((None, *days))
    session = Session(demo_tray())
    session.open(demo_path(), as_copy=True)
    window = shell(session)
    open_own(session, Path(folder.name, "workshop.sqlite"), window.banner, demo=True)
    rooms = Counter[str]()
    Collector(window)
    window.resize(1280, 800)
    window.show()
    anything = Anything(window, Random(seed))

    def note(words: str) -> None:
        faults.append(words)
        print(f"{words}\n  after {anything.done[-6:]}", flush=True)

    sys.excepthook = lambda *fault: note("".join(traceback.format_exception(*fault)[-4:]))
    qInstallMessageHandler(
        lambda kind, where, words: None if words.startswith(OF_NO_SCREEN) else note(f"Qt: {words}")
    )
    began = time.monotonic()
    for k in range(actions):
        if k % A_PIECE == 0:
            now, first = back_to_the_start(session)
            if now is not first:
                note("undoing all did not lead back to the start")
            anything.begin_again()
            if k % 1000 == 0:
                gc.collect()
                print(f"{k} actions, {time.monotonic() - began:.0f} s, {_memory_mb():.0f} MB")
        faulthandler.dump_traceback_later(STUCK_S)
        try:
            anything.one()
            rooms[type(window.room).__name__] += 1
        except Exception:  # noqa: BLE001  # counted and shown: it is what is looked for
            note(traceback.format_exc(limit=-3))
        app.processEvents()
        app.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # as a loop does that runs on
        if not window.isVisible():
            window.show()
    session.finish()
    print(f"{actions} actions: {len(faults)} faults, {_memory_mb():.0f} MB at the end; {rooms}")
    if len(rooms) < len(ROOMS) + len(BESIDE) or min(rooms.values()) < actions * LEAST_SHARE:
        note(f"a room was hardly entered: {rooms}")
    folder.cleanup()
    qInstallMessageHandler(None)
    return len(faults)


if __name__ == "__main__":
    sys.exit(min(main(*(int(word) for word in sys.argv[1:])), 1))
