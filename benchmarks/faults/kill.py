"""Kills real windows at random times amid edits and saves, and looks at what is left of the work.

Each session edits a piece without end, notes when each edit was made, and saves now and then. After
`kill -9` the edits that are not on disk, in the file or kept beside, must be of the last 3 s, the
file whole, and after one more start nothing unfinished may lie about.

Run: PYTHONPATH=src python benchmarks/faults/kill.py [KILLS] [SHORTEST_S] [LONGEST_S] [SEED]
"""

import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from random import Random

from maglia.core.assembly.kinds.kind import count_of
from maglia.core.edits.spots import Spot, item_of
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError
from maglia.files.kept import cut_off
from maglia.files.piece_json import read_piece

SESSION = """
import sys, time, random
from pathlib import Path
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from maglia.app.desk import Desk
from maglia.app.keeper import Keeper
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.app.shell import Shell
from maglia.app.theme import THEMES
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import Spot
from maglia.demo import demo_tray
home, seed = Path(sys.argv[1]), int(sys.argv[2])
dice, app = random.Random(seed), QApplication([])
session = Session(demo_tray())
session.open(home / "mine.json")
window = Shell(Desk(session, THEMES["felt"], Settings(home / "settings.json"),
                    Keeper(session, (home / "state" / "kept",))))
window.show()
log, number = (home / "log").open("w"), 100
def edit():
    global number
    number += 1
    session.apply(set_count(session.piece, Spot("Tail", (0,)), number))
    print(number, time.time(), file=log, flush=True)
    if dice.random() < 0.05:
        session.save(session.path)
    QTimer.singleShot(dice.choice((20, 100, 300, 1500)), edit)
QTimer.singleShot(0, edit)
app.exec()
"""
TAIL = Spot("Tail", (0,))
MOST_LOST_S = 3.0


def begin(home: Path, seed: int) -> subprocess.Popen[bytes]:
    from maglia.demo import demo_path

    (home / "mine.json").write_bytes(demo_path("ushers-y").read_bytes())
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    line = [sys.executable, "-c", SESSION, str(home), str(seed)]
    return subprocess.Popen(line, env=environment, stderr=subprocess.DEVNULL)


def _count(piece: Piece) -> int:
    return count_of(item_of(piece, TAIL))


def lost_seconds(home: Path, killed: float) -> tuple[float, str]:
    """How old the newest edit on disk was at the kill, s, and what is broken, if anything is."""
    made = [line.split() for line in (home / "log").read_text().splitlines() if " " in line]
    times = {int(number): float(when) for number, when in made}
    try:
        newest = _count(read_piece(home / "mine.json"))
    except DomainError as fault:
        return 0.0, f"the file is broken: {fault}"
    found, troubles = cut_off((home / "state" / "kept",))
    for file, kept in found:
        newest = max(newest, _count(kept.piece))
        file.forget()
    left = [path.name for path in (home / "state" / "kept").glob("*")]
    later = [when for number, when in times.items() if number > newest]
    lost = killed - min(later) if later else 0.0
    return lost, "; ".join([*troubles, *(f"left over: {name}" for name in left)])


def main(kills: int = 20, shortest: float = 3, longest: float = 8, seed: int = 1) -> int:
    dice, faults, worst = Random(seed), 0, 0.0
    for k in range(0, kills, 2):  # two windows at once
        homes = [tempfile.TemporaryDirectory() for _ in range(2)]
        windows = [begin(Path(home.name), seed + k + n) for n, home in enumerate(homes)]
        while not all((Path(home.name) / "log").exists() for home in homes):
            time.sleep(0.05)
        time.sleep(dice.uniform(shortest, longest))
        for window in windows:
            window.send_signal(signal.SIGKILL)
        killed = time.time()
        for window, home in zip(windows, homes, strict=True):
            window.wait()
            lost, broken = lost_seconds(Path(home.name), killed)
            worst = max(worst, lost)
            if broken or lost > MOST_LOST_S:
                faults += 1
                print(f"kill {k}: {lost:.2f} s lost; {broken}", flush=True)
            home.cleanup()
    print(f"{kills} kills: {faults} with a fault; at most the last {worst:.2f} s of edits lost")
    return faults


if __name__ == "__main__":
    words = [float(word) for word in sys.argv[1:]]
    whole = [int(word) if k in (0, 3) else word for k, word in enumerate(words)]
    sys.exit(min(main(*whole), 1))
