"""In which order a person would close everything, and whether there is an order at all.

Without threading any order of closings works: a joint is made at the later of its two. What must be
threaded, or be on before something hides it, binds the order; the piece is then taken apart, and
the way back is the order. Undoing never blocks, so what stays stuck cannot be made at all.
"""

import heapq
from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import Literal, NamedTuple

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.places import CLOSURE
from maglia.core.assembly.ports import gap_number, mm_along, stops_of
from maglia.core.joining.cover import Cover
from maglia.core.joining.marked import Finished
from maglia.core.joining.openers import Joints, Opener, Sort
from maglia.core.joining.strands import Strands, from_fold
from maglia.core.joining.strips import segments
from maglia.core.joining.ways import Working
from maglia.core.parts.units import Cluster
from maglia.core.values.record import Value

Stage = Literal["ready", "unit", "sub", "row", "attach", "close", "try"]
STAGES: tuple[Stage, ...] = ("ready", "unit", "sub", "row", "attach", "close", "try")


class Closing(NamedTuple):
    """One event: an opener shut, how, and the joints that this makes."""

    opener: Opener
    sort: Sort
    stage: Stage
    batch: int
    """Closings of one batch are alike."""
    joins: tuple[int, ...]


class Threading(NamedTuple):
    """What is threaded before the later of two sides is shut: openers or joints on each."""

    what: Opener
    near: tuple[Opener | int, ...]
    far: tuple[Opener | int, ...]


class Ordered(Value, frozen=True):
    """The closings in order; `blocked` are those that can never be made."""

    closings: tuple[Closing, ...]
    blocked: tuple[Opener, ...]


def ordered(
    assembly: Assembly, joints: Joints, cover: Cover, strands: Strands, working: Working,
    so_far: Finished,
) -> Ordered:  # fmt: skip
    """Every opener of the cover, and every end of a thread, in the order of a school. Cost
    n log n."""
    at: dict[Opener, list[int]] = {opener: [] for opener in sorted(cover.active, key=_by_place)}
    for member in assembly.members:
        if member.strung is not None:
            for port in ("a", "b"):
                at.setdefault(Opener(member.id, port), [])
    stuck = set(cover.stuck)
    for number in joints.to_make:
        if number not in stuck:
            for opener in joints.ends[number]:
                if opener in at:
                    at[opener].append(number)
    placing = _Placing(assembly, joints, strands, working, at)
    keys = {opener: placing.key(opener) for opener in at}
    line = sorted(at, key=keys.__getitem__)
    threadings = _threadings(assembly, joints, at)
    blocked: tuple[Opener, ...] = ()
    if threadings:
        line, blocked = taken_apart(line, {n: joints.ends[n] for n in joints.to_make}, threadings)
    return Ordered(_joined(line, joints, at, placing, so_far), blocked)


def _by_place(opener: Opener) -> tuple[int, str]:
    return opener.member, str(opener.port)


def _joined(
    line: Sequence[Opener], joints: Joints, at: Mapping[Opener, list[int]], placing: "_Placing",
    so_far: Finished,
) -> tuple[Closing, ...]:  # fmt: skip
    """Each joint goes to the later of its closings, or to the one that made it already; what is
    closed already makes no more. A ring that then joins nothing stays shut."""
    when = {opener: k - len(line) * (opener in so_far.closed) for k, opener in enumerate(line)}
    joins: dict[Opener, list[int]] = {opener: [] for opener in line}
    for number in sorted({number for numbers in at.values() for number in numbers}):
        pair = [opener for opener in joints.ends[number] if opener in when]
        by = so_far.made.get(number)
        joins[by if by in when else max(pair, key=when.__getitem__)].append(number)
    found = []
    for opener in line:
        sort: Sort = joints.sorts.get(opener, "once")
        if joins[opener] or sort in ("once", "threaded"):
            stage, batch = placing.stage[opener], placing.batch[opener]
            found.append(Closing(opener, sort, stage, batch, tuple(joins[opener])))
    return tuple(found)


class _Placing:
    """Stage, batch and sorting key of every closing, by what may be joined there."""

    def __init__(
        self,
        assembly: Assembly,
        joints: Joints,
        strands: Strands,
        working: Working,
        at: Mapping[Opener, list[int]],
    ) -> None:
        self.assembly, self.joints, self.strands = assembly, joints, strands
        self.carrier, self.at = working.order == "carrier", at
        self.stage: dict[Opener, Stage] = {}
        self.batch: dict[Opener, int] = {}
        self._batches: dict[tuple[object, ...], int] = {}
        self._first: dict[int, tuple[float, ...]] = {}
        self._strips = segments(assembly, at, joints.ends)
        self._outs = {opener: self._out(opener) for opener in at}
        for opener in sorted(at, key=self._outs.__getitem__):
            self._place(opener)

    def _out(self, opener: Opener) -> tuple[float, ...]:
        """Outward from the fold, run by run as they are written."""
        member = self.assembly.members[opener.member]
        run = self.strands.order.get(member.run, len(self.strands.order))
        if opener in self._strips:
            return (run, member.item, *self._strips[opener][1])
        if member.strung is None:
            return (run, *from_fold(member, opener))
        item, number, side, own = from_fold(member)
        return (run, item, number, side, own, *_along(opener, member.links))

    def _place(self, opener: Opener) -> None:
        members, ends = self.assembly.members, self.joints.ends
        member = members[opener.member]
        others = [two[1] if two[0] == opener else two[0] for two in map(ends.__getitem__,
                  self.at[opener])]  # fmt: skip
        depth = self.strands.depth[self.strands.of[member.id]]
        if not (member.run in self.strands.ties and member.run not in self.strands.rows):
            others = [o for o in others if not self._theirs(o, depth)]
        touched = [member, *(members[o.member] for o in others)]
        own = {self.strands.of[m.id] for m in touched}
        level = max(self.strands.depth[s] for s in own)
        tie = any(m.run in self.strands.ties for m in touched)
        stage: Stage = "attach"
        if self._within_unit(touched):
            stage = "unit"
        elif any(m.run == CLOSURE for m in touched):
            stage = "close"
        elif len(own) == 1 or member.strung is not None:
            level = depth
            stage = "row" if level == 0 or member.run in self.strands.rows else "sub"
        self.stage[opener] = stage
        if opener in self._strips:
            own_order = self._order(stage, level, tie=False, thread=False)
            step = ("weave", self._strips[opener][0])
            batch = self._batches.setdefault(step, len(self._batches))
            self.batch[opener] = batch
            self._first.setdefault(batch, (*own_order, *self._outs[opener]))
            return
        order = self._order(stage, level, tie=tie, thread=member.strung is not None)
        sign = (order, member.ref, member.made_in is None, self._port(opener),
                tuple(sorted(self._sign(o) for o in others)),
                _along(opener, member.links) if member.strung else ())  # fmt: skip
        batch = self._batches.setdefault(sign, len(self._batches))
        self.batch[opener] = batch
        self._first.setdefault(batch, (*order, *self._outs[opener]))

    def _theirs(self, other: Opener, depth: int) -> bool:
        """Whether a joint belongs to what hangs there, since that closes too; between rows it
        belongs to the rings that hang one from the other."""
        if other not in self.at or self.assembly.members[other.member].strung is not None:
            return False
        run = self.assembly.members[other.member].run
        ties = run in self.strands.ties and run not in self.strands.rows
        return ties or self.strands.depth[self.strands.of[other.member]] > depth

    def _within_unit(self, touched: Sequence[object]) -> bool:
        first = touched[0]
        made_in = self.assembly.things.get(getattr(first, "made_in", None) or "")
        if not isinstance(made_in, Cluster):
            return False
        places = {(m.run, m.side, m.item, m.made_in) for m in touched}  # type: ignore[attr-defined]
        return len(places) == 1

    def _order(self, stage: Stage, level: int, *, tie: bool, thread: bool) -> tuple[int, int, int]:
        """Flat: inside runs from the deepest up, rows across, then attached from the deepest up,
        but tied rows from the top down. On the carrier: the main strand, then all from the top."""
        if stage in ("unit", "close"):
            return STAGES.index(stage), 0, 0
        if self.carrier:
            inside = stage != "attach"
            return 2, level, 0 if thread or (inside and level == 0) else 2 if inside else 1
        if stage == "attach" and tie:
            return STAGES.index(stage), 1000 + level, 0
        down = level if stage == "row" else -level
        return STAGES.index(stage), down, 0 if thread else 1

    def _port(self, opener: Opener) -> str:
        member = self.assembly.members[opener.member]
        if member.kind == "chain" and isinstance(opener.port, int):
            if member.made_in is not None:
                return "link"
            return "end" if opener.port in (1, member.links) else "link"
        return "loop" if opener.port in ("a", "b") and not member.strung else str(opener.port)

    def _sign(self, opener: Opener) -> tuple[str, str, bool]:
        member = self.assembly.members[opener.member]
        return member.ref, self._port(opener) if member.kind == "chain" else "", opener in self.at

    def key(self, opener: Opener) -> tuple[object, ...]:
        """To be sorted by: its batch where that begins, then outward."""
        return (self._first[self.batch[opener]], self._outs[opener])


def _along(opener: Opener, links: int) -> tuple[int, float]:
    """Where an event of a thread stands in its order: first end, along, second end."""
    port = opener.port
    if port in ("a", "b"):
        return (0, 0.0) if port == "a" else (2, 0.0)
    if isinstance(port, int):
        return 1, float(port)
    return 1, float(gap_number(port) or mm_along(port) or links)


def _threadings(
    assembly: Assembly, joints: Joints, at: Mapping[Opener, list[int]]
) -> list[Threading]:
    """What goes on a thread before its second end, and over a chain before one of its ends or of
    the stops it rides between is joined."""
    found = []
    on_chain: dict[int, list[tuple[int, int]]] | None = None
    for opener in at:
        if joints.sorts.get(opener) != "threaded":
            continue
        member = assembly.members[opener.member]
        if member.strung is not None:
            near, far = Opener(member.id, "a"), Opener(member.id, "b")
            found.append(Threading(opener, (near,), (far,)))
            continue
        if on_chain is None:
            on_chain = _on_chains(assembly, joints)
        for number in at[opener]:
            host = next(o for o in joints.ends[number] if o != opener)
            first, last = stops_of(host.port) or (host.port, host.port)
            links = assembly.members[host.member].links
            if (first, last) == (0, 0):
                first, last = 1, links
            others = [(k, n) for k, n in on_chain[host.member] if n != number]
            found.append(Threading(
                opener,
                tuple(n for k, n in others if k <= int(first)),
                tuple(n for k, n in others if k >= int(last)),
            ))  # fmt: skip
    return found


def _on_chains(assembly: Assembly, joints: Joints) -> dict[int, list[tuple[int, int]]]:
    """The joints of every chain with the link each is at."""
    found: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for number in joints.to_make:
        for member, port in joints.ends[number]:
            if isinstance(port, int) and assembly.members[member].kind == "chain":
                found[member].append((port, number))
            elif assembly.members[member].kind == "chain":
                found[member]
    return found


def taken_apart(
    line: Sequence[Opener],
    ends: Mapping[int, tuple[Opener, Opener]],
    threadings: Sequence[Threading],
) -> tuple[list[Opener], tuple[Opener, ...]]:
    """An order that keeps every threading, as near to `line` as can be, and what stays stuck. Takes
    the piece apart from its end; what nothing blocks is undone, and undoing blocks nothing."""
    rank = {opener: k for k, opener in enumerate(line)}
    open_sides: dict[Opener, list[list[int]]] = defaultdict(list)
    waits: dict[Opener | int, list[tuple[list[int], int, Opener]]] = defaultdict(list)
    for threading in threadings:
        sides = [len(set(threading.near)), len(set(threading.far))]
        open_sides[threading.what].append(sides)
        for k, side in enumerate((threading.near, threading.far)):
            for block in set(side):
                waits[block].append((sides, k, threading.what))
    joints_at: dict[Opener, list[int]] = defaultdict(list)
    for number, pair in ends.items():
        for opener in pair:
            if opener in rank:
                joints_at[opener].append(number)

    def free(opener: Opener) -> bool:
        return all(0 in sides for sides in open_sides.get(opener, ()))

    ready = [-rank[opener] for opener in line if free(opener)]
    heapq.heapify(ready)
    begun = {-k for k in ready}
    back: list[Opener] = []
    undone: set[int] = set()

    def release(block: Opener | int) -> None:
        for sides, k, what in waits.get(block, ()):
            sides[k] -= 1
            if rank[what] not in begun and free(what):
                begun.add(rank[what])
                heapq.heappush(ready, -rank[what])

    while ready:
        opener = line[-heapq.heappop(ready)]
        back.append(opener)
        release(opener)
        for number in joints_at[opener]:
            if number not in undone:
                undone.add(number)
                release(number)
    done = set(back)
    return back[::-1], tuple(opener for opener in line if opener not in done)
