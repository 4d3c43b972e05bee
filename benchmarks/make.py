"""How long Make takes from a key to the next picture: python benchmarks/make.py

Every step of every demo piece is done with a key. Prints how long the mark takes to be on disk and
the words to be there, and how long the whole window takes to be painted: the median and the worst
in milliseconds, and the worst picture as a share of the 50 that are allowed.
"""

import os
import sys
import tempfile
import time
from pathlib import Path
from statistics import median

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtWidgets import QApplication

from maglia.app.desk import Desk
from maglia.app.own_workshop import open_own
from maglia.app.rooms.make.make import MakeRoom
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.app.shell import Shell
from maglia.app.theme import THEMES, apply_theme, load_fonts
from maglia.demo import demo_names, demo_path, demo_tray

MOST_MS, MOST_TURNS = 50.0, 300


def milliseconds(app: QApplication, name: str, folder: Path) -> tuple[list[float], list[float]]:
    """Of each key the mark, and the picture after it."""
    session = Session(demo_tray(), app)
    session.open(demo_path(name), as_copy=True)
    window = Shell(Desk(session, THEMES["felt"], Settings()))
    window.resize(1280, 800)
    window.show()
    open_own(session, folder / f"{name}.sqlite", demo=True)
    window.show_room("make")
    room = window.room
    assert isinstance(room, MakeRoom)
    session.builds.begin(session.piece)
    while room.canvas.hung is None:
        app.processEvents()
    window.grab()
    marks: list[float] = []
    pictures: list[float] = []
    while session.builds.turn is not None and len(marks) < MOST_TURNS:
        began = time.perf_counter()
        room.done()
        marked = time.perf_counter()
        window.grab()
        marks.append(1000 * (marked - began))
        pictures.append(1000 * (time.perf_counter() - marked))
    window.close()
    session.finish()
    return marks, pictures


def main() -> int:
    app = QApplication([])
    load_fonts()
    apply_theme(app, THEMES["felt"])
    worst = 0.0
    with tempfile.TemporaryDirectory() as folder:
        for name in demo_names():
            marks, pictures = milliseconds(app, name, Path(folder))
            worst = max(worst, *pictures)
            print(f"{name:<24} {len(marks):>3} keys, mark {median(marks):5.1f} (worst "
                  f"{max(marks):5.1f}) ms, picture {median(pictures):5.1f} (worst "
                  f"{max(pictures):5.1f}) ms")  # fmt: skip
    print(f"worst {worst / MOST_MS:.2f} of {MOST_MS:.0f} ms")
    return int(worst > MOST_MS)


if __name__ == "__main__":
    sys.exit(main())
