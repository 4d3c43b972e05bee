"""The window: how long until it stands, until a key shows, and to paint; what memory it takes.

Medians, and ratios against an empty PySide6 window and one hang of the same piece. Offscreen.
Run: PYTHONPATH=src python benchmarks/bench.py
"""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Hashable
from pathlib import Path
from typing import NamedTuple
from unittest import mock

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from msgspec.structs import replace
from PySide6.QtCore import QEventLoop, QRectF, Qt, QTimer
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from maglia.app.desk import Desk
from maglia.app.painting import members, stamps
from maglia.app.painting.small import draw_small
from maglia.app.rooms.bench.bench import Bench
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.app.shell import Shell
from maglia.app.theme import THEMES, apply_theme, load_fonts
from maglia.core.edits.edit import put, set_count
from maglia.core.edits.rearrange import replaced_everywhere
from maglia.core.edits.spots import Edited, Spot
from maglia.core.piece.items import ChainItem
from maglia.core.piece.piece import Piece
from maglia.core.report import evaluate
from maglia.demo import demo_names, demo_path, demo_tray
from maglia.files.piece_json import read_piece
from maglia.memory import settle

EMPTY = """
import time; began = time.perf_counter()
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([]); w = QMainWindow(); w.resize(1280, 800); w.show(); w.grab()
print(time.perf_counter() - began)
"""
OURS = """
import time; began = time.perf_counter()
import maglia.cli
maglia.cli.settle()
from maglia.app.start import Desk, Session, Settings, Shell, THEMES
from maglia.app.start import apply_theme, demo_path, demo_tray, load_fonts
from PySide6.QtWidgets import QApplication
app = QApplication([]); load_fonts(); apply_theme(app, THEMES["felt"])
s = Session(demo_tray()); s.open(demo_path(), as_copy=True)
w = Shell(Desk(s, THEMES["felt"], Settings(None))); w.resize(1280, 800); w.show(); w.grab()
pictured = time.perf_counter()
from PySide6.QtCore import QEventLoop
while s.findings is None:
    app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
print(time.perf_counter() - pictured, pictured - began)
s.finish()
"""
ROOT = Path(__file__).resolve().parents[1]


class Start(NamedTuple):
    """Medians of starts: seconds to the first picture, the same against an empty window, seconds
    from there to the first hang; and what the launcher adds to a plain `python -m maglia`."""

    picture: float
    ratio: float
    hang: float
    launcher: float


def starts(times: int = 9) -> Start:
    """Each start in its own process, just after an empty window, with bytecode kept as on any
    machine that has started the program once."""
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}

    def one(code: str) -> list[float]:
        line = [sys.executable, "-c", code]
        run = subprocess.run(line, capture_output=True, text=True, check=True, env=environment)
        return [float(word) for word in run.stdout.split()]

    def whole(*line: str) -> float:
        began = time.perf_counter()
        subprocess.run(line, capture_output=True, check=True, env=environment)
        return time.perf_counter() - began

    with tempfile.TemporaryDirectory() as kept:
        environment["PYTHONPYCACHEPREFIX"] = kept
        runs = [(one(EMPTY)[0], *one(OURS)) for _ in range(times + 1)][1:]
        added = [
            whole(str(ROOT / "maglia"), "--version")
            - whole(sys.executable, "-m", "maglia", "--version")
            for _ in range(times)
        ]
    return Start(
        picture=statistics.median(ours for _, _, ours in runs),
        ratio=statistics.median(ours / empty for empty, _, ours in runs),
        hang=statistics.median(hang for _, hang, _ in runs),
        launcher=statistics.median(added),
    )


def median_ms(work: Callable[[], object], times: int = 15) -> float:
    found = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        found.append(1000 * (time.perf_counter() - began))
    return statistics.median(found)


def until_rest(app: QApplication, session: Session) -> None:
    """Wait as the window does: asleep until the worker tells."""
    while not session.at_rest:
        app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)


def keys(app: QApplication, bench: Bench) -> tuple[float, float]:
    """A key to changed figures on the rule, and to the new rest shape on the form; ms."""
    session, figures, shapes = bench.session, [], []
    sign = [Qt.Key.Key_Plus, Qt.Key.Key_Minus]
    for k in range(12):
        until_rest(app, session)
        began = time.perf_counter()
        QTest.keyClick(bench.rule, sign[k % 2])
        bench.rule.grab()
        figures.append(1000 * (time.perf_counter() - began))
        until_rest(app, session)
        shapes.append(1000 * (time.perf_counter() - began))
    return statistics.median(figures), statistics.median(shapes)


def finer(piece: Piece) -> Piece:
    """The three tiers all of fine chain, hung by a thousand nodes."""
    chain = next(thing for thing in piece.parts if thing.id == "cable-2")
    piece = replaced_everywhere(piece, "cable-4", chain).piece
    for name, links in (("Tier 1", 260), ("Tier 2", 310), ("Tier 3", 370)):
        piece = set_count(piece, Spot(name, (-1,)), links).piece
    return piece


def held(app: QApplication, bench: Bench, seconds: float = 4.0) -> float:
    """New rest shapes a second on the form while `+` is held down, thirty keys a second."""
    shapes: list[float] = []
    until_rest(app, bench.session)
    hand = QTimer()
    hand.setInterval(33)
    hand.timeout.connect(lambda: QTest.keyClick(bench.rule, Qt.Key.Key_Plus))
    heard = bench.session.evaluation.found.connect(lambda: shapes.append(time.perf_counter()))
    hand.start()
    end = time.perf_counter() + seconds
    while time.perf_counter() < end:
        app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
    hand.stop()
    bench.session.evaluation.found.disconnect(heard)
    return len(shapes) / seconds


def painting(bench: Bench) -> tuple[float, float]:
    """One frame of the half-rule of 5,000 links while it scrolls, and painted afresh; ms."""
    piece = put(bench.session.piece, Spot("Tier 1", (-1,)), ChainItem(part="cable-2", links=4745))
    bench.session.apply(Edited(piece, "long"))
    bench.rule.zoom = 20.0
    frame = QPixmap(bench.rule.size())

    def scrolled() -> None:
        bench.rule.scroll_by(7.0, 0.0)
        bench.rule.render(frame)

    def afresh() -> None:
        bench.rule.set_theme(bench.desk.theme)
        bench.rule.render(frame)

    scrolled()
    return median_ms(scrolled, 40), median_ms(afresh, 40)


def thumbnails() -> tuple[float, float, int, int]:
    """Twenty hung pieces drawn small: with no stamp known, and again, ms; how many stamps were
    made, and how many of them more than once."""
    found = [evaluate(read_piece(demo_path(name))) for name in demo_names()[:20]]
    made: list[object] = []
    real = stamps.stamp_of

    def counted(painter: QPainter, key: Hashable, box: QRectF, draw: Callable) -> object:
        before = len(stamps._known)
        stamp = real(painter, key, box, draw)
        if len(stamps._known) > before:
            made.append(next(reversed(stamps._known)))
        return stamp

    def drawn() -> float:
        began = time.perf_counter()
        for one in found:
            frame = QPixmap(160, 120)
            painter = QPainter(frame)
            draw_small(painter, one, QRectF(0, 0, 160, 120))
            painter.end()
        return 1000 * (time.perf_counter() - began)

    stamps._known.clear()
    cold, again = drawn(), drawn()
    stamps._known.clear()
    with (
        mock.patch.object(stamps, "stamp_of", counted),
        mock.patch.object(members, "stamp_of", counted),
    ):
        drawn()
        drawn()
    return cold, again, len(made), len(made) - len(set(made))


def main() -> None:
    settle()
    start = starts()
    print(
        f"first window {start.picture * 1000:7.0f} ms  {start.ratio:5.2f} × an empty one (of 1.4)"
    )
    typed = start.ratio * (1 + start.launcher / start.picture)
    launched = f"the launcher adds {start.launcher * 1000:.0f} ms"
    print(f"typed command to picture {typed:5.2f} × (of 2), {launched}")
    print(f"picture to first hang {start.hang * 1000:7.0f} ms (of 300)")
    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    load_fonts()
    apply_theme(app, THEMES["felt"])
    session = Session(demo_tray())
    session.open(demo_path("gallery-tiers"), as_copy=True)
    window = Shell(Desk(session, THEMES["felt"], Settings(None)))
    bench = window.room
    assert isinstance(bench, Bench)
    bench.form.moves = False
    window.resize(1280, 800)
    window.show()
    session.apply(Edited(replace(session.piece, fits=()), "no fits"))
    figures, shape = keys(app, bench)
    print(f"key to figures {figures:5.0f} ms (of 30) · to rest shape {shape:5.0f} ms (of 150)")
    for name in ("box-office-pearls", "gallery-tiers"):
        session.open(demo_path(name), as_copy=True)
        session.apply(Edited(replace(session.piece, fits=()), "no fits"))
        print(f"`+` held on {name} {held(app, bench):4.1f} rest shapes/s (of 8)")
    session.open(demo_path("gallery-tiers"), as_copy=True)
    session.apply(Edited(replace(session.piece, fits=()), "no fits"))
    session.apply(Edited(finer(session.piece), "all of fine chain"))
    until_rest(app, session)
    _, shape = keys(app, bench)
    assert session.findings is not None
    assert session.findings.hung is not None
    nodes = len(session.findings.hung.network.start)
    print(f"key to rest shape of {nodes} nodes {shape:5.0f} ms (of 350)")
    frame, afresh = painting(bench)
    print(
        f"5,000 links, one frame while scrolling {frame:5.1f} ms (of 16) · afresh {afresh:5.1f} ms"
    )
    cold, again, made, twice = thumbnails()
    print(f"20 pieces shown small {cold:5.0f} ms (of 200), again {again:4.0f}; {made} stamps made, "
          f"{twice} of them twice (of 0)")  # fmt: skip
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"peak memory {peak:5.0f} MB (of 300)")
    session.finish()


if __name__ == "__main__":
    main()
