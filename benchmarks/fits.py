"""How long fits take, each as a median of its runs and over the time of one hang of the piece.

Run: PYTHONPATH=src python benchmarks/fits.py
"""

import statistics
import time
from collections.abc import Callable

from msgspec.structs import replace

from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import Spot, count_at
from maglia.core.fit.look import Trials
from maglia.core.fit.regrade import regraded
from maglia.core.fit.solve import solve
from maglia.core.fit.wishes import read_fit, with_fit
from maglia.core.piece.piece import Piece
from maglia.demo import demo_path, demo_wearers
from maglia.files.piece_json import read_piece
from maglia.memory import settle

HANGING = (
    ("tiers of three with drops, cold", "gallery-tiers", "tiers first 30 gaps 28", 1500.0),
    ("flat 5-4-3-2-1, cold", "curtain-bib", "flat", 3000.0),
    ("nested pearls, cold", "box-office-pearls", "nested clear 5", 1500.0),
    ("hem of seven drops, cold", "gallery-tiers", "hem of Fringe V 10", 1500.0),
    ("sag of swags, cold", "spotlight-swags", "sag 6", 1500.0),
)
PLAIN = (
    ("placement", "gallery-tiers", "even 9", 10.0),
    ("pattern", "hedgerow-strand", "beads 350", 10.0),
    ("rings alone", "stagehands-rings", "rings 300", 10.0),
    ("chain to a length", "lamplighters-collar", "length 450", 10.0),
    ("slack", "spotlight-swags", "slack 10 %", 10.0),
)


def wished(name: str, text: str) -> Piece:
    piece = replace(read_piece(demo_path(name)), fits=())
    return with_fit(piece, read_fit(text, piece))


def timed(work: Callable[[], object], times: int = 5) -> tuple[float, float]:
    """Median and spread, ms."""
    found = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        found.append(1000 * (time.perf_counter() - began))
    return statistics.median(found), max(found) - min(found)


def line(name: str, piece: Piece, work: Callable[[], object], wanted: float) -> None:
    took, spread = timed(work)
    once, _ = timed(lambda: Trials().hung(piece), 3)
    print(
        f"{name:<36} {took:8.1f} ms ± {spread:5.1f}  of {wanted:6.0f}  "
        f"{took / once:6.2f} × one cold hang"
    )


def after_a_change(name: str, text: str) -> tuple[Piece, Callable[[], object]]:
    """The piece solved, then one count changed: what the bench waits for."""
    piece = wished(name, text)
    trials = Trials()
    solved = solve(piece, trials).piece
    spot = Spot("Fringe", (1,))
    changed = set_count(solved, spot, count_at(solved, spot)[0] + 2).piece
    last = trials.last
    return changed, lambda: solve(changed, Trials(last=last))


def main() -> None:
    settle()
    for name, of, text, wanted in (*HANGING, *PLAIN):
        piece = wished(of, text)
        line(name, piece, lambda piece=piece: solve(piece), wanted)  # type: ignore[misc]
    changed, work = after_a_change("gallery-tiers", "tiers first 30 gaps 28")
    line("tiers of three after a change", changed, work, 600.0)
    tiers = read_piece(demo_path("gallery-tiers"))
    line("regrade to three wearers", tiers, lambda: regraded(tiers, demo_wearers()), 4500.0)


if __name__ == "__main__":
    main()
