"""Levers: the counts a fit may turn, with the counts that are allowed and the length of each.

links = length / pitch, rounded to the nearest allowed count; allowed = parity (odd where a place
must be on the fold), minimum, multiple of the pattern.
"""

from collections.abc import Callable, Iterable, Sequence
from functools import cache
from typing import Any

from msgspec.structs import replace

from maglia.core.assembly.kinds import count_of, item_words, span_mm
from maglia.core.edits.edit import needs_link_on_fold, put
from maglia.core.edits.spots import CENTRE, Spot, item_of, owner_of, quantity_at, spot_at
from maglia.core.fit.wish import Target
from maglia.core.parts.parts import Chain, Ring, chain_length_mm
from maglia.core.parts.units import Cluster, Things
from maglia.core.piece.items import (
    Bare,
    ChainItem,
    Item,
    RepeatItem,
    RingItem,
    StrungItem,
    UnitItem,
    WeaveItem,
)
from maglia.core.piece.piece import Owner, Piece, Run, catalogue
from maglia.core.piece.strung import along_mm, end_adds_mm
from maglia.core.piece.wishes import Quantity
from maglia.core.sheets.weaves import weave_mm
from maglia.core.values.record import DomainError, Value
from maglia.core.weaves.kinds import SORTS

MOST = 20_000
"""Links, rings or repeats of one item at most, as in `maglia.core.values.record.Count`."""
Kinds = tuple[type[Item], ...]
CHANGED_FIRST: Kinds = (ChainItem, StrungItem, WeaveItem, RepeatItem, UnitItem, RingItem)


class Lever(Value, frozen=True):
    """A count: now `count`, allowed from `least` in `step`s. `copies` times `length_of(count)`,
    mm, lies along its run. `put` gives the piece with another count."""

    target: Target
    count: int
    step: int
    least: int
    copies: int
    length_of: Callable[[int], float]
    put: Callable[[Piece, int], Piece]

    @property
    def step_mm(self) -> float:
        """How far apart the lengths that can be had lie here, mm: of beads of several sizes not
        every count more is longer."""
        at = self.allowed(self.count)
        now = self.length_of(at)
        near = [self.length_of(self.allowed(at + k * self.step)) - now for k in range(-6, 7)]
        above = min((mm for mm in near if mm > 1e-9), default=0.0)
        below = -max((mm for mm in near if mm < -1e-9), default=0.0)
        return self.copies * max(above, below)

    @property
    def rises(self) -> bool:
        """Whether every count more is longer, as a search step by step needs."""
        at = self.allowed(self.count)
        lengths = [self.length_of(self.allowed(at + k * self.step)) for k in range(-6, 7)]
        return lengths == sorted(lengths)

    def allowed(self, count: float) -> int:
        """The allowed count nearest to a number."""
        steps = round((count - self.least) / self.step)
        return self.least + max(0, min(steps, (MOST - self.least) // self.step)) * self.step

    def nearest(self, length_mm: float, *, at_least: bool = False) -> int:
        """The allowed count whose length is nearest to one, or the first that reaches it."""
        mean = self.length_of(self.least + 60 * self.step) - self.length_of(self.least)
        guess = self.least + (length_mm - self.length_of(self.least)) / mean * 60 * self.step
        middle = self.allowed(guess)
        near = {self.allowed(middle + k * self.step) for k in range(-9, 10)}
        if at_least:
            enough = [n for n in near if self.length_of(n) >= length_mm - 1e-9]
            return min(enough, default=max(near))
        return min(near, key=lambda n: (abs(self.length_of(n) - length_mm), n))


def lever_at(piece: Piece, spot: Spot, *, single: bool = False) -> Lever:
    """The lever at a spot; `single` turns a strung section bead by bead, off both ends alike.
    Raises DomainError for what has no count or no known length."""
    item = item_of(piece, spot)
    if spot.path == (CENTRE,) and isinstance(item, RepeatItem):
        raise DomainError(f"“{spot.owner}”: a repeat cannot lie on the fold")
    found = _COUNTS.get(type(item))
    if single and isinstance(item, StrungItem):
        found = _by_bead_of(piece, spot, item)
    if found is None:
        raise DomainError(f"“{spot.owner}”: a {item.kind} has no count to fit")
    step, least, length_of, changed = found(piece, spot, item)

    def turned(other: Piece, count: int) -> Piece:
        if isinstance(item, UnitItem):
            made = changed(count)
            units = tuple(made if u.id == item.unit else u for u in other.units)
            return replace(other, units=units)
        return put(other, spot, changed(count))

    return Lever(
        target=quantity_at(spot),
        count=_count(piece, item, found),
        step=step,
        least=least,
        copies=_copies(piece, spot),
        length_of=length_of,
        put=turned,
    )


def _count(piece: Piece, item: Item, found: "Turning") -> int:
    if found is _by_bead and isinstance(item, StrungItem):
        return item.times * len(item.pattern) - item.off
    if found is _at_ends and isinstance(item, StrungItem):
        return end_run(item.beads)[0]
    unit = catalogue(piece).get(item.unit) if isinstance(item, UnitItem) else None
    return unit.links if isinstance(unit, Cluster) else count_of(item)


Counting = tuple[int, int, Callable[[int], float], Callable[[int], Any]]
"""Step, least count, length of a count, and the item with a count."""
Turning = Callable[[Piece, Spot, Any], Counting]


def _chain(piece: Piece, spot: Spot, item: Any) -> Counting:
    chain = catalogue(piece).get(item.part)
    if not isinstance(chain, Chain) or not chain.pitches_mm:
        name = chain.name if isinstance(chain, Chain) else item.part
        raise DomainError(f"the pitch of “{name}” is not known: measure a swatch first")
    pattern = len(chain.pitches_mm)
    step, least = pattern, pattern
    if needs_link_on_fold(piece, spot) and (pattern > 1 or item.links >= 1):
        step, least = (2, 1) if pattern == 1 else (pattern + pattern % 2, 1)
    elif spot.path == (CENTRE,):
        step, least = (1, 1) if pattern == 1 else (pattern, 1)
    first = item.first_phase + 1
    return step, least, lambda n: chain_length_mm(chain, n, first) or 0.0, _counted(item, "links")


def _counted(item: Any, field: str) -> Callable[[int], Any]:
    return lambda count: replace(item, **{field: count})


def _rings(piece: Piece, spot: Spot, item: Any) -> Counting:
    ring = catalogue(piece).get(item.part)
    if not isinstance(ring, Ring) or ring.inner_mm is None:
        raise DomainError(f"the inner diameter of ring “{item.part}” is not known")
    inner = ring.inner_mm
    step = 2 if needs_link_on_fold(piece, spot) else 1
    return step, 1, lambda n: inner * n, _counted(item, "count")


def _strung(piece: Piece, spot: Spot, item: Any) -> Counting:
    """Whole patterns, with what is off at both ends as it is."""
    item = _sound_strung(piece, spot, item)
    parts = catalogue(piece)
    once = along_mm(item, item.pattern, parts) or 0.0
    rest = (along_mm(item, item.beads, parts) or 0.0) - once * item.times + _ends_mm(item, parts)
    least = 0 if (item.lead or item.tail) and not item.off else 1
    return 1, least, lambda n: once * n + rest, _counted(item, "times")


def _by_bead(piece: Piece, spot: Spot, item: Any) -> Counting:
    """Single beads: whole patterns, less those that are off at both ends alike."""
    item = replace(_sound_strung(piece, spot, item), off=0)
    parts, size = catalogue(piece), len(item.pattern)
    adds = _ends_mm(item, parts)

    def beads_of(count: int) -> StrungItem:
        times = -(-count // size)
        made: StrungItem = replace(item, times=times, off=times * size - count)
        return made

    @cache
    def length_of(count: int) -> float:
        made = beads_of(count)
        return (along_mm(made, made.beads, parts) or 0.0) + adds

    return 1, size, length_of, beads_of


def _by_bead_of(piece: Piece, spot: Spot, item: StrungItem) -> "Turning":
    """How single beads of a section are turned. What is there once is never made two, nor lost:
    then beads are added and left off at both ends alike; or, of a part of a strand that begins or
    ends with something of its own, whole patterns."""
    owner = owner_of(piece, spot.owner)
    if any(isinstance(one, Bare) for one in item.beads):
        return _by_bead
    whole = spot.path == (CENTRE,) or (isinstance(owner, Run) and owner.lies == "free")
    once = item.times == 1 or any(item.beads.count(one) == 1 for one in item.beads)
    if whole and once and len(item.beads) > 1:
        return _at_ends
    if item.times == 1 and len(item.pattern) > 1:
        raise DomainError(f"“{spot.owner}” cannot be filled: nothing in it is repeated")
    return _strung if (item.lead or item.tail) and once else _by_bead


def end_run(beads: Sequence[object]) -> tuple[int, int]:
    """How many beads at an end are one short pattern over and over, and how long that is; what lies
    beyond the middle does not count. (0, 0) if none is."""
    half = len(beads) // 2
    best = (0, 0)
    for size in range(1, half // 2 + 1):
        reach = size
        while reach < half and beads[reach] == beads[reach - size]:
            reach += 1
        if reach >= 2 * size and reach > best[0] + size:
            best = (reach, size)
    return best


def _at_ends(piece: Piece, spot: Spot, item: Any) -> Counting:
    """So many beads at each end, whatever lies between."""
    parts = catalogue(piece)
    beads = item.beads
    reach, size = end_run(beads)
    if not reach or beads != beads[::-1]:
        why = "nothing at its ends is repeated" if not reach else "its two ends are not alike"
        raise DomainError(f"“{spot.owner}” cannot be filled: {why}")
    if along_mm(item, beads, parts) is None:
        raise DomainError(f"“{spot.owner}” cannot be filled: a bead's length is not known")
    adds = _ends_mm(item, parts)
    inner = beads[reach : len(beads) - reach]

    def beads_of(count: int) -> StrungItem:
        outer = tuple(beads[(k - count + reach) % size] for k in range(count))
        made: StrungItem = replace(item, lead=outer, pattern=inner, times=1, tail=outer[::-1],
                                   off=0)  # fmt: skip
        return made if count != reach else item

    @cache
    def length_of(count: int) -> float:
        made = beads_of(count)
        return (along_mm(made, made.beads, parts) or 0.0) + adds

    return 1, 1, length_of, beads_of


def _sound_strung(piece: Piece, spot: Spot, item: StrungItem) -> StrungItem:
    """A section that can be filled; on the fold the same from either end. Raises DomainError."""
    if spot.path == (CENTRE,):
        item = mirror_true(item)
    if not item.pattern or along_mm(item, item.beads, catalogue(piece)) is None:
        what = "a bead's length is not known" if item.pattern else "it has no repeating pattern"
        raise DomainError(f"“{spot.owner}” cannot be filled: {what}")
    return item


def _ends_mm(item: StrungItem, parts: Things) -> float:
    return sum(end_adds_mm(end, parts) or 0.0 for end in item.ends)


def _repeat(piece: Piece, spot: Spot, item: Any) -> Counting:
    things = catalogue(piece)
    for inner in item.items:
        if span_mm(inner, things) is None:
            raise DomainError(f"the span of “{item_words(inner, things)}” is not known here")
    once = (span_mm(item, things) or 0.0) / item.times
    return 1, 1, lambda n: once * n, _counted(item, "times")


def _cluster(piece: Piece, spot: Spot, item: Any) -> Counting:
    """A cluster made on a short chain: its links."""
    unit = catalogue(piece).get(item.unit)
    chain = catalogue(piece).get(unit.carrier) if isinstance(unit, Cluster) else None
    if not isinstance(unit, Cluster) or not isinstance(chain, Chain) or not chain.pitches_mm:
        raise DomainError(f"“{spot.owner}”: only a cluster on chain has a count to fit")
    return 1, 1, lambda n: chain_length_mm(chain, n) or 0.0, _counted(unit, "links")


def _weave(piece: Piece, spot: Spot, item: Any) -> Counting:
    """A weave's rows; triangles by twos."""
    things = catalogue(piece)
    if weave_mm(item, things) is None:
        raise DomainError(f"“{spot.owner}”: a ring of its weave is of no known size")
    step = SORTS[item.weave].step
    least = (4 if step == 2 else 3) if item.closes else 1

    def long(rows: int) -> float:
        return weave_mm(replace(item, rows=max(rows, least)), things) or 0.0

    return step, least, long, _counted(item, "rows")


_COUNTS: dict[type, Turning] = {
    ChainItem: _chain,
    RingItem: _rings,
    StrungItem: _strung,
    RepeatItem: _repeat,
    UnitItem: _cluster,
    WeaveItem: _weave,
}


def mirror_true(item: StrungItem) -> StrungItem:
    """The section with the tail that makes it the same from either end, for any count.

    Raises DomainError, naming the pattern, if no part of it closes it so.
    """
    if not item.pattern:
        raise DomainError("it has no repeating pattern")
    tails = [item.tail, *(item.pattern[:k] for k in range(len(item.pattern)))]
    for tail in tails:
        shaped = replace(item, tail=tail)
        if all(_is_mirror(shaped, times) for times in (1, 2, 3)):
            return shaped
    words = ", ".join(one if isinstance(one, str) else str(one.kind) for one in item.pattern[:6])
    raise DomainError(f"the pattern {words} is not the same read from its other end")


def _is_mirror(item: StrungItem, times: int) -> bool:
    beads = (*item.lead, *item.pattern * times, *item.tail)
    return beads == beads[::-1]


def _copies(piece: Piece, spot: Spot) -> int:
    """How often the item at a spot lies along one path of its run."""
    owner = owner_of(piece, spot.owner)
    if spot.path == (CENTRE,):
        return 1
    mirrored = not isinstance(owner, Run) or owner.lies == "across"
    copies, items = 2 if mirrored else 1, owner.own_items
    for k in spot.path[:-1]:
        item = items[k]
        assert isinstance(item, RepeatItem)
        copies, items = copies * item.times, item.items
    return copies


def lever_of(
    piece: Piece, run: str, changes: Iterable[Quantity], kinds: Kinds, *, single: bool = False
) -> Lever:
    """The lever a fit turns in a run: the first of its `changes` there, else what a maker would
    change first: side chain, centre chain, then strung sections, repeats and rings. Pinned counts
    are left alone. Raises DomainError if there is none."""
    return lever_at(piece, spot_to_turn(piece, run, changes, kinds), single=single)


def spot_to_turn(
    piece: Piece, run: str, changes: Iterable[Quantity], kinds: Kinds = CHANGED_FIRST
) -> Spot:
    """Where the lever of a run is; see `lever_of`."""
    owner = owner_of(piece, run)
    named = [spot_at(piece, q) for q in changes if q.run == run]
    free = [s for s in named or _spots(owner) if quantity_at(s) not in piece.pinned]
    for kind in kinds:
        for spot in free:
            if isinstance(item_of(piece, spot), kind) and _turns(piece, item_of(piece, spot)):
                return spot
    pinned = any(quantity_at(s) in piece.pinned for s in named or _spots(owner))
    known = ", ".join(_KIND_WORDS[kind] for kind in kinds)
    why = "what it could change is pinned" if pinned else f"it has none of {known}"
    raise DomainError(f"“{run}” cannot be fitted: {why}")


_KIND_WORDS: dict[type, str] = {
    ChainItem: "chain",
    StrungItem: "strung",
    RepeatItem: "repeat",
    UnitItem: "a cluster on chain",
    RingItem: "rings",
    WeaveItem: "a weave",
}


def _turns(piece: Piece, item: Item) -> bool:
    """A single ring joins; it is not a length to be filled. Of units, only clusters on chain."""
    if isinstance(item, UnitItem):
        unit = catalogue(piece).get(item.unit)
        return isinstance(unit, Cluster) and unit.links > 0
    return not isinstance(item, RingItem) or item.count > 1


def _spots(owner: Owner) -> Iterable[Spot]:
    """Spots with counts, the outermost first, the centre last."""
    items = owner.own_items
    for k in reversed(range(len(items))):
        if type(items[k]) in _COUNTS:
            yield Spot(owner.name, (k,))
    if type(owner.on_fold) in _COUNTS:
        yield Spot(owner.name, (CENTRE,))


def first_chain(items: Iterable[Item]) -> tuple[int, ChainItem] | None:
    """Position of the first chain among items, and the chain."""
    return next(((k, item) for k, item in enumerate(items) if isinstance(item, ChainItem)), None)
