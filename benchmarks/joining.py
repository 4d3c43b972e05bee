"""How long a joining plan takes, with its steps: python benchmarks/joining.py

Prints milliseconds, and each as a share of what is allowed: 5 ms for a demo piece, 1 s for 20,000
members.
"""

import sys
import time
from statistics import median

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.expand import expand
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.steps import steps_of
from maglia.core.parts.parts import Chain, Ring
from maglia.core.piece.items import ChainItem, RingItem
from maglia.core.piece.piece import Closure, DropRow, Piece, Run
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import read_piece

DEMO_MS, LARGE_MS = 5.0, 1000.0


def large() -> Piece:
    """Some 20,000 members: a long chain with a drop of rings and chain on every link."""
    chain = Chain(id="c", name="Chain", pitches_mm=(2.0,), inner_width_mm=1.5, wire_mm=0.5)
    ring = Ring(id="r", name="Ring", inner_mm=3.0, wire_mm=0.6)
    drop = (RingItem(part="r"), ChainItem(part="c", links=3), RingItem(part="r"),
            ChainItem(part="c", links=2), RingItem(part="r"))  # fmt: skip
    strand = Run(name="Strand", centre=ChainItem(part="c", links=999), items=(RingItem(part="r"),))
    rows = tuple(DropRow(name=f"Row {k}", run="Strand", rule="places", items=drop * 4,
                         places=tuple(range(k, 499, 8))) for k in range(1, 9))  # fmt: skip
    return Piece(name="Large", parts=(chain, ring), runs=(strand,), rows=rows,
                 closure=Closure(kind="continuous"))  # fmt: skip


def milliseconds(assembly: Assembly, times: int) -> tuple[float, float]:
    """The plan alone, and with its steps."""
    plan, both = [], []
    for _ in range(times):
        began = time.perf_counter()
        planned = joining_plan(assembly)
        plan.append(time.perf_counter() - began)
        steps_of(assembly, planned)
        both.append(time.perf_counter() - began)
    return 1000 * median(plan), 1000 * median(both)


def main() -> int:
    worst = 0.0
    for name in demo_names():
        plan, both = milliseconds(expand(read_piece(demo_path(name))), 5)
        worst = max(worst, both / DEMO_MS)
        print(
            f"{name:<24} plan {plan:6.2f} ms, with steps {both:6.2f} ms, {both / DEMO_MS:.2f} of 5"
        )
    whole = expand(large())
    plan, both = milliseconds(whole, 1)
    worst = max(worst, both / LARGE_MS)
    print(f"{len(whole.members):,} members: plan {plan:.0f} ms, with steps {both:.0f} ms, "
          f"{both / LARGE_MS:.2f} of 1 s")  # fmt: skip
    print(f"worst {worst:.2f} of what is allowed")
    return worst > 1


if __name__ == "__main__":
    sys.exit(main())
