"""How fast the Tray is with 2,000 parts and 20,000 stock events, beside the same window without.

Run: QT_QPA_PLATFORM=offscreen PYTHONPATH=src python benchmarks/tray.py
"""

import random
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from maglia.app.collector import Collector
from maglia.app.desk import Desk
from maglia.app.own_workshop import open_own
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.app.shell import Shell
from maglia.app.theme import THEMES, apply_theme, load_fonts
from maglia.core.parts.parts import Part
from maglia.core.workshop.tray import Tray
from maglia.demo import demo_path
from maglia.files.parts_csv import brought_in, guessed, read_table
from maglia.files.shelf import shelf
from maglia.files.workshop import contents, stock
from maglia.files.workshop.stock import BENCH, OUTSIDE, Movement
from maglia.files.workshop.store import Workshop, open_workshop
from maglia.memory import settle

PARTS, EVENTS, ROWS = 2000, 20_000, 50_000


def parts() -> list[Part]:
    kinds = shelf()
    return [
        replace(kinds[k % len(kinds)], id=f"p{k}", name=f"{kinds[k % len(kinds)].name} no {k}")
        for k in range(PARTS)
    ]


def filled(path: Path) -> Workshop:
    made, rng = open_workshop(path), random.Random(1)
    with made.changing():
        contents.change(made, [contents.added(part) for part in parts()])
        for k in range(EVENTS):
            ref = f"p{k % PARTS}"
            ends = (OUTSIDE, BENCH) if k < EVENTS // 2 else (BENCH, OUTSIDE)
            has = k < EVENTS // 2
            amount = rng.randint(40, 90) if has else 1
            stock.record(made, "bought" if has else "use", [Movement(ref, amount, *ends)], "")
    made.database.execute("PRAGMA wal_checkpoint(TRUNCATE)")  # as after a year of small changes
    return made


def timed(do: Callable[[], object], times: int = 15) -> float:
    """Median of several runs, ms."""
    took = []
    for _ in range(times):
        began = time.perf_counter()
        do()
        took.append((time.perf_counter() - began) * 1000)
    return statistics.median(took)


def say(words: str, ms: float, aim: float) -> None:
    print(f"{words:<52} {ms:8.1f} ms   of {aim:g}   {ms / aim:5.2f}")


def main() -> None:
    settle()
    app = QApplication(sys.argv[:1])
    load_fonts()
    apply_theme(app, THEMES["felt"])
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "w.sqlite"
        own = filled(path)
        say("all balances of 20,000 events", timed(lambda: stock.lying(own)), 1)
        say("one balance", timed(lambda: own.database.execute(
            "SELECT amount FROM balance WHERE part = 'p7'").fetchall()), 1)  # fmt: skip
        say("full replay", timed(lambda: stock.replayed(own), 5), 100)
        session = Session(Tray())
        session.open(demo_path(), as_copy=True)
        window = Shell(Desk(session, THEMES["felt"], Settings()))
        Collector(window)
        window.resize(1280, 800)
        window.show()
        app.processEvents()
        while not session.at_rest:  # the first hang is not what is timed
            app.processEvents()
            time.sleep(0.01)
        say("opening the workshop", timed(lambda: open_own(session, path), 3), 300)

        def enter() -> None:
            window.show_room("tray")
            window.repaint()

        say("opening the room for the first time", timed(enter, 1), 150)
        for _ in range(20):
            app.processEvents()
        window.show_room("bench")
        app.processEvents()
        say("opening it again", timed(enter, 1), 150)
        line = window.made["tray"].line  # type: ignore[attr-defined]
        line.setFocus()

        def key(letter: str) -> float:
            def press() -> None:
                QTest.keyClicks(line, letter)
                window.made["tray"].repaint()

            return timed(press, 1)

        window.show_room("tray")
        line.setFocus()
        took = []
        for word in ("ring 4", "bead", "cable"):
            took += [key(letter) for letter in word]
            for _ in word:
                began = time.perf_counter()
                QTest.keyClick(line, Qt.Key.Key_Backspace)
                window.made["tray"].repaint()
                took.append((time.perf_counter() - began) * 1000)
        say("a key in the narrowing line, median", statistics.median(took), 16)
        say("a key in the narrowing line, slowest", max(took), 16)
        tiles = window.made["tray"].tiles  # type: ignore[attr-defined]
        tiles.setFocus()

        def walk() -> None:
            QTest.keyClick(tiles, Qt.Key.Key_Right)
            window.made["tray"].repaint()

        say("an arrow, its sheet shown", timed(walk, 40), 16)
        rng = random.Random(2)
        rows = "".join(
            f"Jump ring {k};{rng.uniform(2, 12):.1f};0,8;0,03;{rng.randrange(500)};brass\n"
            for k in range(ROWS)
        )
        data = f"Name;Inner (mm);Wire;Price;Qty;Metal\n{rows}".encode("utf-16")

        def read() -> None:
            table = read_table(data)
            found = brought_in(table, guessed(table))
            assert found is not None
            assert len(found.parts) == ROWS

        say("a list of 50,000 rows", timed(read, 1), 5000)
        session.finish()


if __name__ == "__main__":
    main()
