"""Takes every picture of docs/screenshots from the demo data, by keys; or those that are named:
python docs/take_screenshots.py [NAME …].
"""

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from maglia.app.desk import Desk
from maglia.app.guide import Guide
from maglia.app.own_workshop import open_own
from maglia.app.rooms.bench.regrade_table import RegradeTable
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.app.shell import Shell
from maglia.app.theme import THEMES, apply_theme, load_fonts
from maglia.demo import FIRST, demo_path, demo_tray
from maglia.files.piece_json import read_piece

FOLDER = Path(__file__).parent / "screenshots"
SIZE = (1280, 800)
KEY, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier
PLAIN = Qt.KeyboardModifier.NoModifier


class Hands:
    """A window with one demo piece on the bench, and hands on its keys."""

    def __init__(self, app: QApplication, piece: str = FIRST, theme: str = "felt") -> None:
        self.app = app
        apply_theme(app, THEMES[theme])
        self.session = Session(demo_tray(), app)
        self.session.open(demo_path(piece), as_copy=True)
        self.window = Shell(Desk(self.session, THEMES[theme], Settings()))
        self.window.desk.ask = lambda words, *answers: 1
        self.window.resize(*SIZE)
        self.window.show()
        self.window.activateWindow()
        open_own(self.session, Path(tempfile.mkdtemp()) / "w.sqlite", demo=True)
        self.rest()

    def wait(self, seconds: float) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            self.app.processEvents()
            time.sleep(0.005)

    def rest(self) -> None:
        end = time.monotonic() + 20
        while not self.session.at_rest and time.monotonic() < end:
            self.wait(0.01)
        self.wait(1.2)  # the piece settles

    def press(self, key: Qt.Key, modifier: Qt.KeyboardModifier = PLAIN, times: int = 1) -> None:
        for _ in range(times):
            at = QApplication.focusWidget() or self.window.focusWidget() or self.window
            QTest.keyClick(at, key, modifier)
            self.wait(0.05)

    def say(self, text: str) -> None:
        QTest.keyClicks(QApplication.focusWidget(), text)
        self.wait(0.3)

    def room(self, number: int) -> None:
        self.press(getattr(KEY, f"Key_{number}"), CTRL)
        self.wait(0.8)


def bench(piece: str, theme: str = "felt") -> Callable[[QApplication], Hands]:
    return lambda app: Hands(app, piece, theme)


def insert_line(app: QApplication) -> Hands:
    hands = Hands(app)
    hands.press(KEY.Key_Return)
    hands.say("4 drops ring 4, 3 / 5 / 7 / 9 cable 2, amber dangle at 4th ring")
    hands.wait(1)
    return hands


def by_eye(app: QApplication) -> Hands:
    hands = Hands(app, "spotlight-swags")
    hands.press(KEY.Key_Right, times=3)
    hands.press(KEY.Key_Y)
    hands.wait(3)
    return hands


def start(app: QApplication) -> Hands:
    hands = Hands(app)
    hands.press(KEY.Key_N, CTRL)
    hands.wait(7)
    return hands


def tray_new(app: QApplication) -> Hands:
    hands = Hands(app, theme="slate")
    hands.room(1)
    hands.press(KEY.Key_N)
    hands.say("new beads amber 6, rose 4, all hole 1 glass stock 60")
    return hands


def earrings(app: QApplication) -> Hands:
    hands = Hands(app, "trapdoor-earrings")
    hands.press(KEY.Key_Right, times=2)
    return hands


def regrade(app: QApplication) -> Hands:
    hands = Hands(app, "ushers-y")
    hands.press(KEY.Key_W, CTRL)
    hands.wait(8)
    return hands


def count(app: QApplication) -> Hands:
    from maglia.app.session.day import Entry

    hands = Hands(app)
    hands.room(3)
    names = (FIRST, "spotlight-swags", "ushers-y", "gallery-tiers")
    hands.session.day.set(tuple(Entry(replace(read_piece(demo_path(n)), id=n)) for n in names))
    end = time.monotonic() + 30
    while hands.session.day.at_work and time.monotonic() < end:
        hands.wait(0.1)
    hands.wait(3)  # the pieces are drawn
    return hands


def make(piece: str, theme: str, stop: str) -> Callable[[QApplication], Hands]:
    """Make at the first step whose words begin so."""

    def taken(app: QApplication) -> Hands:
        hands = Hands(app, piece, theme)
        hands.room(4)
        hands.press(KEY.Key_Return)
        hands.wait(1)
        for _ in range(60):
            step = hands.session.builds.step
            if step is None or step.says.startswith(stop):
                break
            hands.press(KEY.Key_Space)
        hands.wait(1)
        return hands

    return taken


def log(app: QApplication) -> Hands:
    hands = Hands(app)
    hands.room(5)
    hands.press(KEY.Key_Tab)
    hands.press(KEY.Key_Down, times=3)
    hands.wait(2)
    return hands


def settings(app: QApplication) -> Hands:
    hands = Hands(app, theme="slate")
    hands.press(KEY.Key_Comma, CTRL)
    hands.wait(0.5)
    return hands


PICTURES: dict[str, Callable[[QApplication], Hands]] = {
    "bench-felt": bench(FIRST),
    "bench-slate": bench(FIRST, "slate"),
    "tiers": bench("gallery-tiers"),
    "nested": bench("box-office-pearls"),
    "wrist": bench("props-table-bracelet"),
    "weave": bench("armoury-cuff", "slate"),
    "earrings": earrings,
    "insert-line": insert_line,
    "by-eye": by_eye,
    "start": start,
    "regrade": regrade,
    "tray": lambda app: _in_room(Hands(app), 1),
    "tray-new": tray_new,
    "count": count,
    "make": make("spotlight-swags", "felt", "Take an open"),
    "make-look": make(FIRST, "slate", "Look: lay Middle drop"),
    "log": log,
    "settings": settings,
}


def _in_room(hands: Hands, number: int) -> Hands:
    hands.room(number)
    return hands


def guide(app: QApplication) -> None:
    hands = Hands(app)
    hands.window.show_guide("first-hour")
    shown = hands.window.findChild(Guide)
    assert shown is not None
    hands.wait(0.5)
    shown.grab().save(str(FOLDER / "guide.png"))
    print("guide")
    hands.session.finish()


def main(names: list[str]) -> None:
    app = QApplication([])
    load_fonts()
    for name, taken in PICTURES.items():
        if names and name not in names:
            continue
        hands = taken(app)
        table = next(iter(hands.window.findChildren(RegradeTable)), None)
        (table or hands.window).grab().save(str(FOLDER / f"{name}.png"))
        print(name, flush=True)
        hands.session.finish()
        hands.window.hide()
    if not names or "guide" in names:
        guide(app)
    sys.stdout.flush()
    os._exit(0)  # at once: no picture waits for what still hangs


if __name__ == "__main__":
    main(sys.argv[1:])
