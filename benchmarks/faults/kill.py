"""Kills real windows at random times amid edits, saves and making, and looks at what is left.

Windows live in pairs that share their folders and their workshop, each with a piece of its own. A
window edits without end, notes when each edit was made, saves, opens its file again, walks through
all rooms, makes its piece turn by turn, closes, and answers what is offered. After every `kill -9`,
one in six while the window is still opening, it is started again on what is left. Looked at after
each: edits neither in the file nor kept beside it must be of the last 3 s, the file whole, kept
work that nobody answered still there, every turn that was noted as made in the workshop, its stock
and log sound, and nothing unfinished left over.

Run: PYTHONPATH=src python benchmarks/faults/kill.py [KILLS] [SHORTEST_S] [LONGEST_S] [SEED] [PAIRS]
"""

import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import closing, suppress
from pathlib import Path
from random import Random

from maglia.core.assembly.kinds.kind import count_of
from maglia.core.edits.spots import Spot, item_of
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError
from maglia.demo import demo_path
from maglia.files import disk
from maglia.files.kept import KeptFile
from maglia.files.piece_json import read_piece
from maglia.files.workshop import builds, contents, log, stock
from maglia.files.workshop.store import open_workshop

SESSION = """
import sys, time, random
from pathlib import Path
from PySide6.QtCore import QTimer
from maglia.app import start
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import Spot
from maglia.core.assembly.kinds.kind import count_of
from maglia.core.edits.spots import item_of
from maglia.files.piece_json import read_piece
own, log, dice = Path(sys.argv[1]), open(sys.argv[2], "a"), random.Random(int(sys.argv[3]))
number, tail = int(sys.argv[4]), Spot("Tail", (0,))
offered = {}
class Driven(start.Shell):
    def offer(self, found):
        offered["now"] = found[0] if found else None
        super().offer(found)
        if not hasattr(self, "driven"):
            self.driven, self.desk.ask = True, lambda words, *answers: 0
            QTimer.singleShot(0, self.step)
    def count(self, piece):
        return count_of(item_of(piece, tail))
    def answer(self):
        file, kept = offered["now"]
        mine = kept.path is not None and kept.path.name == own.name
        newer = self.count(kept.piece) > self.count(self.session.piece)
        saved = self.count(kept.piece) <= self.count(read_piece(own))
        label = "Take it up" if mine and newer else "Give it up" if mine and saved else "Later"
        label = "Later" if dice.random() < 0.1 else label
        if label != "Later":
            print("answered", file.path.name, file=log, flush=True)
        next(one for one in self.banner.buttons if one.text() == label).click()
    def make(self):
        builds = self.session.builds
        if builds.build is None or builds.build.ended:
            builds.begin(self.session.piece)
        else:
            builds.do()
        if builds.build is not None:
            print("made", builds.build.id, len(builds.done), file=log, flush=True)
    def step(self):
        global number
        draw = dice.random()
        if self.banner.isVisible() and draw < 0.4:
            self.answer()
        elif draw < 0.6 and self.session.workshop.store is not None:
            self.show_room(dice.choice(("tray", "bench", "count", "make", "log")))
            self.desk.attempt(self.make)
        elif draw < 0.90:
            number += 1
            self.session.apply(set_count(self.session.piece, tail, number))
            print(number, time.time(), file=log, flush=True)
        elif draw < 0.95:
            self.session.save(own)
        elif draw < 0.97:
            self.session.save(own)
            self.session.open(own)
        elif draw < 0.98:
            self.close()
            return
        QTimer.singleShot(dice.choice((20, 100, 300, 1500)), self.step)
start.Shell = Driven
sys.exit(start.run_window(start.Wishes(own, False, None, (1280, 800), "bench", None)))
"""
TAIL = Spot("Tail", (0,))
MOST_LOST_S, LEAST_EDITS = 3.0, 2
"""At most so much is lost; and so many edits a kill, or a run says nothing."""


def _count(piece: Piece) -> int:
    return count_of(item_of(piece, TAIL))


class Life:
    """One window after another on one piece, in a home that another shares."""

    def __init__(self, home: Path, number: int, dice: Random) -> None:
        self.home, self.dice = home, dice
        self.own, self.log = home / f"mine-{number}.json", home / f"log-{number}"
        self.own.write_bytes(demo_path("ushers-y").read_bytes())
        self.log.touch()
        self.waiting: set[str] = set()
        self.worst, self.faults = 0.0, list[str]()
        self.looked, self.newest = 0.0, 0
        self.turns = 0

    def begin(self) -> subprocess.Popen[bytes]:
        homes = {f"XDG_{name}_HOME": str(self.home / name) for name in ("STATE", "CONFIG", "DATA")}
        environment = {**os.environ, **homes, "QT_QPA_PLATFORM": "offscreen"}
        last = max(self.made(), default=100)
        words = (self.own, self.log, self.dice.randrange(10**6), last)
        return subprocess.Popen(
            [sys.executable, "-c", SESSION, *map(str, words)],
            env=environment,
            stderr=(self.home / f"{self.log.name}.err").open("ab"),
        )

    def made(self) -> dict[int, float]:
        """When each edit was made."""
        return {int(one[0]): float(one[1]) for one in self.lines() if one[0].isdigit() and one[1:]}

    def lines(self) -> list[list[str]]:
        return [line.split() for line in self.log.read_text().splitlines() if line.strip()]

    def look_at_builds(self) -> None:
        """Every turn that was noted is in the workshop's file, and that is sound."""
        made = [one for one in self.lines() if one[0] == "made" and one[2:]]
        self.turns = len(made)
        path = self.home / "DATA" / "maglia" / "workshop.sqlite"
        if not made or not path.exists():
            return
        with closing(open_workshop(path, to_read=True)) as store:
            wrong = [*stock.faults(store), *contents.faults(store), *log.faults(store)]
            self.faults += [f"in the workshop: {one}" for one in wrong]
            for _, build, marks in made:
                there = len(builds.marks(store, int(build)))
                if there < int(marks):
                    self.faults.append(f"build {build} has {there} marks, and {marks} were made")

    def kept(self) -> dict[str, int]:
        """The kept files of this piece, and the edit each holds."""
        found = {}
        for path in sorted((self.home / "STATE" / "maglia" / "kept").glob("*.json")):
            with suppress(DomainError):  # gone just now: its window saved it
                kept = KeptFile(path).read()
                if kept.path is not None and kept.path.name == self.own.name:
                    found[path.name] = _count(kept.piece)
        return found

    def look(self, killed: float) -> None:
        """Note what is lost or broken after a kill, or after the window closed."""
        try:
            newest = _count(read_piece(self.own))
        except DomainError as fault:
            self.faults.append(f"the file is broken: {fault}")
            return
        self.look_at_builds()
        kept = self.kept()
        newest = max([newest, *kept.values()])
        if newest < self.newest:
            self.faults.append(f"edit {self.newest} was on disk, and is no more")
        later = [at for n, at in self.made().items() if n > newest and at > self.looked]
        lost = killed - min(later) if later else 0.0
        self.looked, self.newest = killed, newest
        self.worst = max(self.worst, lost)
        if lost > MOST_LOST_S:
            self.faults.append(f"{lost:.2f} s of edits lost")
        answered = {line.split()[1] for line in self.log.read_text().splitlines() if "answ" in line}
        if gone := self.waiting - set(kept) - answered:
            self.faults.append(f"kept work is gone: {gone}")
        self.waiting = set(kept)

    def kill_after(self, seconds: float) -> None:
        """One life: it may close by itself before, and is then started again."""
        end = time.time() + seconds
        window = self.begin()
        while time.time() < end:
            time.sleep(max(min(0.5, end - time.time()), 0))
            if window.poll() is not None and time.time() < end:
                if window.returncode:
                    self.faults.append(f"the window ended with {window.returncode}")
                self.look(time.time())
                window = self.begin()
        window.send_signal(signal.SIGKILL)
        killed = time.time()
        window.wait()
        self.look(killed)


def _leftovers(home: Path) -> list[str]:
    """What lies about that belongs to nobody, after a last start has swept."""
    kept = home / "STATE" / "maglia" / "kept"
    for folder in (home, kept):
        disk.sweep(folder)
    known = {".json", ".lock", ".err", ""}
    return [path.name for folder in (home, kept) for path in folder.glob("*")
            if path.suffix not in known or path.name.startswith(".")]  # fmt: skip


def main(
    kills: int = 20, shortest: float = 3, longest: float = 8, seed: int = 1, pairs: int = 2
) -> int:
    lives: list[Life] = []
    folders = [tempfile.TemporaryDirectory() for _ in range(pairs)]
    each = -(-kills // (2 * pairs))

    def live(life: Life) -> None:
        for _ in range(each):
            early = life.dice.random() < 1 / 6
            life.kill_after(life.dice.uniform(0, 2.5 if early else longest - shortest) + (
                0 if early else shortest))  # fmt: skip

    for k, folder in enumerate(folders):
        lives += [Life(Path(folder.name), n, Random(f"{seed} {k} {n}")) for n in range(2)]
    threads = [threading.Thread(target=live, args=(life,)) for life in lives]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    faults = [fault for life in lives for fault in life.faults]
    faults += [f"left over: {name}" for one in folders for name in _leftovers(Path(one.name))]
    for life in lives:
        if words := (life.home / f"{life.log.name}.err").read_text():
            faults.append(f"said on the way: {words[-600:]}")
    edits, turns = (sum(n) for n in zip(*((len(life.made()), life.turns) for life in lives),
                                        strict=True))  # fmt: skip
    if edits < LEAST_EDITS * each * len(lives):
        faults.append(f"{edits} edits are too few for so many kills: nothing was tried")
    if turns < each * len(lives) / 2:
        faults.append(f"{turns} turns made are too few for so many kills")
    print("\n".join(faults))
    print(
        f"{each * len(lives)} kills amid {edits} edits and {turns} turns made: {len(faults)} with "
        f"a fault; at most the last {max(life.worst for life in lives):.2f} s of edits lost"
    )
    for folder in folders:
        folder.cleanup()
    return len(faults)


if __name__ == "__main__":
    words = [float(word) for word in sys.argv[1:]]
    whole = [word if k in (1, 2) else int(word) for k, word in enumerate(words)]
    sys.exit(min(main(*whole), 1))
