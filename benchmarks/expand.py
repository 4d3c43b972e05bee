"""How long it takes to expand, measure and count a piece, and how that grows with its parts.

Run: PYTHONPATH=src python benchmarks/expand.py. To reach: 5,000 parts in 20 ms, growth to 50,000
below power 1.05 (1.12 in the last column but one).
"""

import statistics
import time

from maglia.core.assembly.assembly import Member
from maglia.core.assembly.expand import expand
from maglia.core.parts.parts import Bead, Chain, Pin, Ring
from maglia.core.parts.units import Dangle
from maglia.core.piece.items import ChainItem, RepeatItem, RingItem, UnitItem
from maglia.core.piece.piece import Closure, Form, Piece, Place, Run
from maglia.core.sheets.count import counts, wire_needs
from maglia.core.sheets.cutting import cut_list
from maglia.core.sheets.lengths import closed_length_mm, run_lengths
from maglia.core.sheets.mass import balance
from maglia.memory import settle

REPEATS = 15


def ring_piece(parts: int) -> Piece:
    """Half rings in a row, half drops of chain and dangle: every part a member of its own."""
    each = max(parts // 8, 1)
    drops = tuple(
        Run(
            name=f"Drop {k}",
            kind="drop",
            lies="paired",
            start=Place(run="Strand", item=1 + 2 * k),
            items=(RingItem(part="r"), UnitItem(unit="d")),
        )
        for k in range(min(each, 480))
    )
    half = RepeatItem(times=each, items=(RingItem(part="r"), RingItem(part="s")))
    more = RingItem(part="s", count=max((parts - 4 * each - 4 * len(drops)) // 2, 1))
    return Piece(
        parts=(
            Ring(id="r", name="R", wire_mm=0.8, inner_mm=4),
            Ring(id="s", name="S", wire_mm=0.8, inner_mm=6),
            Chain(id="c", name="C", pitches_mm=(3.0,), inner_width_mm=2, wire_mm=0.7),
            Bead(id="b", name="B", length_mm=6, width_mm=6, hole_mm=1),
            Pin(id="p", name="P", wire_mm=0.6, length_mm=40),
        ),
        units=(Dangle(id="d", name="D", stack=("b",), wire="p"),),
        runs=(Run(name="Strand", centre=ChainItem(part="c", links=21), items=(half, more)), *drops),
        closure=Closure(kind="continuous", catch="r"),
        form=Form(),
    )


def work(piece: Piece) -> int:
    assembly = expand(piece)
    closed_length_mm(assembly), run_lengths(assembly)
    counts(assembly), wire_needs(assembly), cut_list(assembly), balance(assembly)
    return len(assembly.members)


def bare_ms(parts: int) -> float:
    """Time to make that many bare member values: what this machine can do at all."""
    times = []
    for _ in range(7):
        began = time.perf_counter()
        made = [Member(k, "run", "right", 1, 1, k, "r", "ring") for k in range(parts)]
        times.append((time.perf_counter() - began) * 1000)
        made.clear()
    return statistics.median(times)


def main() -> None:
    settle()  # as the program does at its start
    base = None
    print(f"{'parts':>7} {'median ms':>10} {'spread':>16} {'growth':>7} {'÷ bare values':>14}")
    for size in (600, 5_000, 50_000):
        piece, times, parts = ring_piece(size), [], 0
        for _ in range(REPEATS if size < 50_000 else 5):
            began = time.perf_counter()
            parts = work(piece)
            times.append((time.perf_counter() - began) * 1000)
        median = statistics.median(times)
        each = median * 1000 / parts
        base = base or each
        spread = f"{min(times):.1f}–{max(times):.1f}"
        ratio = median / bare_ms(parts)
        print(f"{parts:>7} {median:>10.1f} {spread:>16} {each / base:>7.2f} {ratio:>14.1f}")


if __name__ == "__main__":
    main()
