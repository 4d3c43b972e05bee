"""The best plan, proved goal by goal: an integer programme for HiGHS, each earlier goal held.

On one length the pieces are arcs between the phases of its pattern: a piece of n links leads from s
to s + n + 1, dropping a link from s to s + 1. What is begun, goes on and ends like that, and hangs
together, can be laid out link by link; where it does not hang together that is forbidden, and it is
solved again.
"""

from __future__ import annotations

import math
import os
import sys
import time
from collections import defaultdict
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from maglia.core.cutting.lengths import Kind, Laid, Length, Placed, Stuff, laid

if TYPE_CHECKING:
    import highspy

UNKNOWN, FEASIBLE, MOST_SPLIT = -(10**9), 2, 20
Stop = Callable[[], bool]
Row = dict[int, float]


def _silent() -> highspy.Highs:
    """A solver that writes nothing: its greeting would stand on the standard output, among JSON."""
    sys.stdout.flush()
    kept, nowhere = os.dup(1), os.open(os.devnull, os.O_WRONLY)
    try:
        os.dup2(nowhere, 1)
        from highspy import Highs

        made = Highs()  # type: ignore[no-untyped-call]
        made.setOptionValue("output_flag", False)
    finally:
        os.dup2(kept, 1)
        os.close(kept)
        os.close(nowhere)
    return made


class Answer(NamedTuple):
    """What a goal came to: the rows of the plan if one was found, and what no plan can better."""

    rows: tuple[Laid, ...] | None
    bound: int


class _Vars(NamedTuple):
    """The variables of one length, by number."""

    piece: dict[Placed, int]
    last: dict[Placed, int]
    drop: list[int]
    end: list[int]
    kept_at: list[int]
    offcut: int
    used: int
    kept: int
    scrap: int
    longest: int
    left: int


class Model:
    """The programme of one day; goals are solved one after the other."""

    def __init__(
        self, stuff: Stuff, kinds: Sequence[Kind], lengths: Sequence[Length], *, missing: bool
    ) -> None:
        self.stuff, self.kinds, self.lengths = stuff, kinds, lengths
        self.highs = _silent()
        self.highs.setOptionValue("random_seed", 7)
        self.highs.setOptionValue("threads", 1)
        self.highs.setOptionValue("mip_rel_gap", 0.0)
        self.count = 0
        self.missing = [self._int(kind.number if missing else 0) for kind in kinds]
        self.of = [self._length(one) for one in lengths]
        for k, kind in enumerate(kinds):
            every = [v for own in self.of for one, v in (*own.piece.items(), *own.last.items())
                     if one.kind == k]  # fmt: skip
            self._row(kind.number, kind.number, {**dict.fromkeys(every, 1.0), self.missing[k]: 1.0})
        self._row(0, 1, dict.fromkeys([v for own in self.of for v in (own.longest, own.left)], 1.0))
        self._alike()

    # --- building -------------------------------------------------------------------------------

    def _var(self, upper: float, lower: float = 0.0) -> int:
        from highspy import HighsVarType

        self.highs.addVar(lower, upper)
        self.highs.changeColIntegrality(self.count, HighsVarType.kInteger)
        self.count += 1
        return self.count - 1

    def _int(self, upper: int) -> int:
        return self._var(float(upper))

    def _row(self, lower: float, upper: float, row: Row) -> None:
        columns = np.fromiter(row, dtype=np.int32, count=len(row))
        values = np.fromiter(row.values(), dtype=np.float64, count=len(row))
        self.highs.addRow(lower, upper, len(row), columns, values)

    def _length(self, length: Length) -> _Vars:
        stuff, period, links = self.stuff, self.stuff.period, length.links
        pieces = {Placed(k, s): self._int(min(kind.number, links // kind.links))
                  for k, kind in enumerate(self.kinds) if kind.links <= links
                  for s in kind.starts}  # fmt: skip
        lasts = {one: self._int(1) for one in pieces} if stuff.lost else {}
        phases = range(period)
        own = _Vars(
            pieces, lasts,
            [self._int(links) for _ in phases] if period > 1 else [],
            [self._int(1) for _ in phases], [self._int(1) for _ in phases],
            self._int(links), self._int(1), self._int(1), self._int(links), self._int(1),
            self._int(0 if length.new else 1),
        )  # fmt: skip
        inf = math.inf
        # every link is somewhere
        row: Row = {v: float(self.kinds[p.kind].links + stuff.lost) for p, v in pieces.items()}
        row |= {v: float(self.kinds[p.kind].links) for p, v in lasts.items()}
        row |= dict.fromkeys(own.drop, 1.0)
        self._row(0, 0, {**row, own.offcut: 1.0, own.used: -float(links)})
        # it ends with its last piece, or in an off-cut that begins at one phase
        self._row(0, 0, {**dict.fromkeys(own.end, 1.0), **dict.fromkeys(lasts.values(), 1.0),
                         own.used: -1.0})  # fmt: skip
        self._row(-inf, 0, {own.offcut: 1.0, **dict.fromkeys(own.end, -float(links))})
        self._row(0, 0, {**dict.fromkeys(own.kept_at, 1.0), own.kept: -1.0})
        for phase in phases:
            self._row(-inf, 0, {own.kept_at[phase]: 1.0, own.end[phase]: -1.0})
        least = {own.kept_at[p]: -float(stuff.least_kept[p]) for p in phases}
        self._row(0, inf, {own.offcut: 1.0, **least})
        self._row(-inf, 0, {own.offcut: 1.0, own.scrap: -1.0, own.kept: -float(links)})
        self._row(-inf, 0, {own.longest: 1.0, own.kept: -1.0})
        self._row(-inf, 1, {own.left: 1.0, own.used: 1.0})
        some = dict.fromkeys((*pieces.values(), *lasts.values()), 1.0)
        self._row(0, inf, {**some, own.used: -1.0})
        if period > 1:
            self._phases(length, own)
        return own

    def _phases(self, length: Length, own: _Vars) -> None:
        """What comes to a phase leaves from it."""
        stuff, period = self.stuff, self.stuff.period
        for phase in range(period):
            row: Row = defaultdict(float)
            for one, v in own.piece.items():
                row[v] += one.start == phase
                row[v] -= (one.start + self.kinds[one.kind].links + stuff.lost) % period == phase
            for one, v in own.last.items():
                row[v] += one.start == phase
            row[own.drop[phase]] += 1
            row[own.drop[phase - 1]] -= 1
            row[own.end[phase]] += 1
            row[own.used] -= length.first_phase == phase
            self._row(0, 0, {v: a for v, a in row.items() if a})

    def _alike(self) -> None:
        """Of lengths alike the earlier is used first."""
        seen: dict[tuple[int, int, bool], int] = {}
        for k, length in enumerate(self.lengths):
            key = (length.links, length.first_phase, length.new)
            if key in seen:
                self._row(0, math.inf, {self.of[seen[key]].used: 1.0, self.of[k].used: -1.0})
            seen[key] = k

    # --- goals ----------------------------------------------------------------------------------

    def goal(self, name: str) -> Row:
        """What is made as small as can be."""
        lost = float(self.stuff.lost)
        if name == "missing":
            return {v: float(k.links) for v, k in zip(self.missing, self.kinds, strict=True)}
        row: Row = {}
        for own, length in zip(self.of, self.lengths, strict=True):
            if name == "new" and length.new:
                row[own.used] = 1.0
            elif name == "short":
                row |= {own.scrap: 1.0, **dict.fromkeys(own.drop, 1.0)}
            elif name == "touched":
                row[own.used] = 1.0
            elif name == "sacrificed":
                row |= {**dict.fromkeys(own.piece.values(), lost), **dict.fromkeys(own.drop, 1.0)}
        return row

    def longest(self) -> Row:
        """The longest that is left, as small as can be its negative; needs rows of its own."""
        row: Row = {}
        for own, length in zip(self.of, self.lengths, strict=True):
            counts = self._int(length.links)
            self._row(-math.inf, 0, {counts: 1.0, own.offcut: -1.0})
            self._row(-math.inf, 0, {counts: 1.0, own.longest: -float(length.links)})
            row |= {counts: -1.0, own.left: -float(length.links)}
        return row

    def better(self, row: Row, than: int, seconds: float, stop: Stop) -> Answer:
        """The best of a goal that is better than a plan that is known, within so many seconds or
        until `stop`; from then on it is held. The bound is `than` if there is none better."""
        highs, until = self.highs, time.monotonic() + seconds
        costs = np.zeros(self.count)
        for v, cost in row.items():
            costs[v] = cost
        highs.changeColsCost(self.count, np.arange(self.count, dtype=np.int32), costs)
        highs.setOptionValue("time_limit", highs.getRunTime() + max(seconds, 0.01))
        self._row(-math.inf, than - 1.0, row)
        held, low, answer = highs.getNumRow() - 1, UNKNOWN, None

        def ask(event: object) -> None:
            if stop() or time.monotonic() > until:
                event.interrupt()  # type: ignore[attr-defined]

        highs.cbMipInterrupt += ask
        try:
            for _ in range(MOST_SPLIT):
                highs.run()
                info = highs.getInfo()
                if highs.getModelStatus().name == "kInfeasible":
                    low = than
                    break
                if math.isfinite(info.mip_dual_bound):
                    low = max(low, min(math.ceil(info.mip_dual_bound - 1e-6), than))
                if info.primal_solution_status != FEASIBLE:
                    break
                values = np.array(highs.getSolution().col_value)
                answer = self._rows(values)
                if answer is not None or stop():
                    break
                self._join(values)
        finally:
            highs.cbMipInterrupt -= ask
        highs.changeRowBounds(held, -math.inf, float(than))
        return Answer(answer, low)

    def hold(self, row: Row, most: int) -> None:
        """A goal is not given up for a later one."""
        if row:
            self._row(-math.inf, float(most), row)

    def _join(self, values: np.ndarray) -> None:
        """Forbid pieces that do not hang together with the begin of their length."""
        for own, length in zip(self.of, self.lengths, strict=True):
            arcs = [(one.start, self._after(one), v) for one, v in own.piece.items()]
            arcs += [(s, (s + 1) % self.stuff.period, v) for s, v in enumerate(own.drop)]
            taken = [(s, t) for s, t, v in arcs if round(values[v])]
            reached = {length.first_phase}
            while more := {t for s, t in taken if s in reached} - reached:
                reached |= more
            apart = {s for s, _ in taken} - reached
            if apart:
                row = {v: 1.0 for s, t, v in arcs if s in apart and t in apart}
                into = {
                    v: -float(length.links) for s, t, v in arcs if s not in apart and t in apart
                }
                self._row(-math.inf, 0, {**row, **into})

    def _after(self, one: Placed) -> int:
        return (one.start + self.kinds[one.kind].links + self.stuff.lost) % self.stuff.period

    # --- reading --------------------------------------------------------------------------------

    def _rows(self, values: np.ndarray) -> tuple[Laid, ...] | None:
        found = []
        for own, length in zip(self.of, self.lengths, strict=True):
            counts = {one: round(values[v]) for one, v in own.piece.items() if round(values[v])}
            last = next((one for one, v in own.last.items() if round(values[v])), None)
            if not counts and last is None:
                continue
            drops = [round(values[v]) for v in own.drop]
            walk = walked(self.stuff, self.kinds, length.first_phase, counts, drops, last)
            if walk is None:
                return None
            found.append(laid(self.stuff, self.kinds, length, walk))
        return tuple(found)


def walked(
    stuff: Stuff,
    kinds: Sequence[Kind],
    first: int,
    counts: dict[Placed, int],
    drops: Sequence[int],
    last: Placed | None,
) -> list[Placed] | None:
    """Pieces in an order in which they can be laid, by Hierholzer's walk along the phases; None if
    they do not hang together."""
    if stuff.period == 1:
        whole = [one for one, n in counts.items() for _ in range(n)]
        whole.sort(key=lambda one: -kinds[one.kind].links)
        return [*whole, last] if last is not None else whole
    out: dict[int, list[tuple[int, Placed | None]]] = defaultdict(list)
    for one, n in counts.items():
        to = (one.start + kinds[one.kind].links + stuff.lost) % stuff.period
        out[one.start] += [(to, one)] * n
    for phase, n in enumerate(drops):
        out[phase] += [((phase + 1) % stuff.period, None)] * n
    edges = sum(map(len, out.values()))
    stack: list[tuple[int, Placed | None]] = [(first, None)]
    walk: list[tuple[int, Placed | None]] = []
    while stack:
        here = stack[-1][0]
        if out[here]:
            stack.append(out[here].pop())
        else:
            walk.append(stack.pop())
    walk.reverse()
    if len(walk) != edges + 1 or (last is not None and walk[-1][0] != last.start):
        return None
    placed = [one for _, one in walk if one is not None]
    return [*placed, last] if last is not None else placed
