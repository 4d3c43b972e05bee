"""How long the log takes with many builds: python benchmarks/log.py [BUILDS]

A workshop is filled with that many builds of the demo pieces, with measures and minutes. Prints how
long it takes until the room is there and painted, until a search is painted, and until the plot is
painted; the median and the worst in milliseconds, and the worst as a share of what is allowed.
"""

import os
import sys
import tempfile
import time
from pathlib import Path
from random import Random
from statistics import median

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtWidgets import QApplication

from maglia.app.collector import Collector
from maglia.app.desk import Desk
from maglia.app.own_workshop import open_own
from maglia.app.rooms.log.log import LogRoom
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.app.shell import Shell
from maglia.app.theme import THEMES, apply_theme, load_fonts
from maglia.core.log.records import Measure, Spent
from maglia.demo import demo_names, demo_path, demo_tray
from maglia.files.piece_json import read_piece
from maglia.files.workshop import log

BUILDS = int(sys.argv[1]) if len(sys.argv) > 1 else 2000
ALLOWED_MS = {"room": 200.0, "search": 50.0, "plot": 100.0}
SEARCHES = ("u", "us", "usher", "usher 2025", "rolo 3", "collar", "nothing like it", "")


def fill(session: Session) -> None:
    """Builds of every demo piece in turn."""
    store, random = session.workshop.store, Random(19)
    assert store is not None
    pieces = [read_piece(demo_path(name)) for name in demo_names()]
    with store.changing():
        for k in range(BUILDS):
            at = f"20{10 + k % 16}-{1 + k % 12:02d}-{1 + k % 28:02d}T10:00"
            span = Measure(at=at, what="span", about="wrapped loop", planned_mm=20, share=2,
                           measured_mm=20 + random.gauss(0.8, 0.3))  # fmt: skip
            whole = Measure(at=at, what="closed length", planned_mm=400,
                            measured_mm=400 + random.gauss(0, 1))  # fmt: skip
            took = [Spent(kind="ring", number=20, minutes=random.gauss(8, 1)),
                    Spent(kind="cut", number=4, minutes=random.gauss(3, 0.5))]  # fmt: skip
            log.entered(
                store,
                pieces[k % len(pieces)],
                at,
                60 + k % 50,
                found=(span, whole),
                took=took,
                notes=(("note", f"note {k}"),),
                metal_g=12,
                cost="20.10",
            )


def main() -> int:
    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    load_fonts()
    apply_theme(app, THEMES["felt"])
    found: dict[str, list[float]] = {name: [] for name in ALLOWED_MS}

    def timed(name: str, act: object) -> None:
        began = time.perf_counter()
        act()  # type: ignore[operator]
        if name == "plot":
            app.processEvents()
        window.grab()
        found[name].append(1000 * (time.perf_counter() - began))
        app.processEvents()

    with tempfile.TemporaryDirectory() as folder:
        session = Session(demo_tray(), app)
        session.open(demo_path(), as_copy=True)
        window = Shell(Desk(session, THEMES["felt"], Settings()))
        window.resize(1280, 800)
        Collector(window)
        window.show()
        open_own(session, Path(folder) / "log.sqlite", demo=True)
        fill(session)
        while not session.at_rest:
            app.processEvents()
        for _ in range(4):
            window.show_room("bench")
            app.processEvents()
            timed("room", lambda: window.show_room("log"))
        app.processEvents()  # the plot is made after it
        room = window.room
        assert isinstance(room, LogRoom)
        for text in SEARCHES:
            timed("search", lambda text=text: room.line.setText(text))
        for row in range(room.says.rowCount()):
            timed("plot", lambda row=row: room.says_list.setCurrentIndex(room.says.index(row)))
        window.close()
        session.finish()
    print(f"{BUILDS} builds", "median ms", "worst ms", "share", sep="\t")
    for name, all_ms in found.items():
        print(name, f"{median(all_ms):.0f}", f"{max(all_ms):.0f}",
              f"{max(all_ms) / ALLOWED_MS[name]:.2f}", sep="\t")  # fmt: skip
    return 0


if __name__ == "__main__":
    sys.exit(main())
