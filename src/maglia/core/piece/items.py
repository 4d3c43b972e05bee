"""What a run is made of, item by item: chain, rings, units, connectors, what is strung, other
parts, and repeats of all these.
"""

import math
from collections.abc import Sequence
from itertools import groupby
from typing import Annotated, Literal

from msgspec import Meta

from maglia.core.values.record import Count, CountOrZero, DomainError, Mm, Name, Record, Variant
from maglia.core.values.references import PartRef, ThingRef, UnitRef


class ChainItem(Variant, frozen=True, kw_only=True, tag="chain"):
    """A stretch of `links` links; its first, outward, is at `first_phase` of the chain's pattern,
    counted from 0."""

    part: PartRef
    links: Count
    first_phase: CountOrZero = 0


class RingItem(Variant, frozen=True, kw_only=True, tag="rings"):
    """`count` rings in series, each of them `abreast` rings side by side."""

    part: PartRef
    count: Count = 1
    abreast: Annotated[int, Meta(ge=1, le=40)] = 1


class UnitItem(Variant, frozen=True, kw_only=True, tag="unit"):
    """One made unit."""

    unit: UnitRef


class Winding(Record, frozen=True, kw_only=True):
    """Wire wound round the rim of a connector, with beads threaded on it."""

    wire: PartRef
    turns: Count
    bead: PartRef | None = None
    beads: CountOrZero = 0


class ConnectorItem(Variant, frozen=True, kw_only=True, tag="connector"):
    """A connector or found piece, entered at one hole and left at another; it may be wound."""

    part: PartRef
    hole_in: Name
    hole_out: Name
    wound: Winding | None = None


Finish = Literal["crimped", "folded", "knotted", "glued", "looped", "slip knot", "goes on"]
"""How an end of a thread is made fast; `slip knot`: knotted round the other end, so that it slides;
`goes on`: it is the next section's thread."""


class StrungEnd(Record, frozen=True, kw_only=True):
    """One end of a thread: what finishes it, if anything, and how it is made fast."""

    end: PartRef | None = None
    finish: Finish = "crimped"


class Bare(Variant, frozen=True, kw_only=True, tag="bare"):
    """A stretch of thread, cord or ribbon with nothing on it."""

    mm: Mm


class Knot(Variant, frozen=True, kw_only=True, tag="knot"):
    """A knot in the thread, all its strands together."""


Threaded = ThingRef | Bare | Knot
"""What follows along a thread."""
ThreadedItems = Annotated[tuple[Threaded, ...], Meta(max_length=500)]
BARE_STEP_MM, MOST_BARE = 5.0, 600
"""A bare stretch bends at steps of this length at most; of very long ones there are so many."""


class StrungItem(Variant, frozen=True, kw_only=True, tag="strung"):
    """Beads on thread or cable, or bare cord and ribbon: lead, then the pattern `times` over, then
    tail.

    `strands` threads run through every bead; `end` and `finish` are of each end, unless the `far`
    one has its own. `off` beads of the pattern are left off at both ends alike. Rings and clusters
    lie between the beads, but for those that ride `over` them and take no room on the thread.
    `made`: a braid of its strands; a ribbon folded once along its length where it is held.
    """

    thread: PartRef
    strands: Annotated[int, Meta(ge=1, le=8)] = 1
    lead: ThreadedItems = ()
    pattern: ThreadedItems = ()
    times: CountOrZero = 1
    tail: ThreadedItems = ()
    end: PartRef | None = None
    finish: Finish = "crimped"
    far: StrungEnd | None = None
    off: CountOrZero = 0
    over: Annotated[tuple[ThingRef, ...], Meta(max_length=60)] = ()
    made: Literal["plain", "folded", "braided"] = "plain"

    @property
    def beads(self) -> tuple[str | Bare | Knot, ...]:
        """What follows along the thread, in order; bare stretches in equal steps."""
        whole = (*self.lead, *self.pattern * self.times, *self.tail)
        whole = whole[self.off : len(whole) - self.off] if self.off else whole
        return in_steps(whole) if any(isinstance(one, Bare) for one in whole) else whole

    @property
    def refs(self) -> tuple[str, ...]:
        """The parts and units on the thread, in order."""
        return tuple(one for one in self.beads if isinstance(one, str))

    @property
    def ends(self) -> "tuple[StrungEnd, StrungEnd]":
        """How its near and its far end are finished."""
        near = StrungEnd(end=self.end, finish=self.finish)
        return near, self.far or near


def in_steps(whole: Sequence[str | Bare | Knot]) -> tuple[str | Bare | Knot, ...]:
    """Bare stretches that follow each other as one, in equal steps that bend."""
    found: list[str | Bare | Knot] = []
    for bare, run in groupby(whole, lambda one: isinstance(one, Bare)):
        if not bare:
            found += run
            continue
        length = sum(one.mm for one in run if isinstance(one, Bare))
        steps = min(max(math.ceil(round(length / BARE_STEP_MM, 6)), 1), MOST_BARE)
        found += [Bare(mm=length / steps)] * steps
    return tuple(found)


Weave = Literal[
    "one in one", "m in m", "four in one", "doubled strip", "shaggy loops", "box", "Byzantine",
    "rubber and metal", "stretch triangles",
]  # fmt: skip
MOST_ROWS, MOST_ABREAST = 2000, 40


class WeaveRole(Record, frozen=True, kw_only=True):
    """What of a weave is of which ring; whether it is closed beforehand or opened on the strip, if
    that is not as usual."""

    role: Name
    part: PartRef
    readiness: Literal["closed", "opened"] | None = None


class RingSize(Record, frozen=True, kw_only=True):
    """The sizes of a ring, mm."""

    inner_mm: Mm | None = None
    wire_mm: Mm | None = None


class Swatch(Record, frozen=True, kw_only=True):
    """So many rows measured, edge to like edge, of rings of these sizes, by role. Of other rings it
    says nothing."""

    rows: Count
    mm: Mm
    of: Annotated[tuple[RingSize, ...], Meta(max_length=8)] = ()


class WeaveItem(Variant, frozen=True, kw_only=True, tag="weave"):
    """A strip of rings joined by rule, `rows` long. `abreast`: rings of a place (m in m), across
    the strip (four in one), tufts on each ring (shaggy loops). `closes`: on itself. `end_rings`: at
    the far end, or at both."""

    weave: Weave
    rows: Annotated[int, Meta(ge=1, le=MOST_ROWS)]
    roles: Annotated[tuple[WeaveRole, ...], Meta(min_length=1, max_length=8)]
    abreast: Annotated[int, Meta(ge=1, le=MOST_ABREAST)] = 1
    closes: bool = False
    end_rings: Annotated[int, Meta(ge=0, le=2)] = 0
    swatch: Swatch | None = None

    def part_of(self, role: str) -> str | None:
        """The ring that a role is of."""
        return next((own.part for own in self.roles if own.role == role), None)


class PartItem(Variant, frozen=True, kw_only=True, tag="part"):
    """Any other single part: charm, ear finding, clasp, end."""

    part: PartRef


MOST_NESTED = 16
MOST_PARTS = 60_000
"""Parts and links of a piece, and so also what a repeat writes out."""


class RepeatItem(Variant, frozen=True, kw_only=True, tag="repeat"):
    """`times` × the items within."""

    times: Count
    items: "Annotated[tuple[Item, ...], Meta(min_length=1, max_length=100)]"

    def __post_init__(self) -> None:
        """Repeats within repeats are walked by recursion, and written out, everywhere: both are
        bounded here. Raises DomainError."""
        depth, level = 0, [self]
        while level:
            depth += 1
            level = [one for item in level for one in item.items if isinstance(one, RepeatItem)]
        if depth > MOST_NESTED:
            raise DomainError(
                f"more than {MOST_NESTED} repeats within each other: write one of them out"
            )
        if (written := _written_out(self)) > MOST_PARTS:
            raise DomainError(
                f"a repeat that writes out {written:,} items is more than {MOST_PARTS:,}: "
                "lower how often it repeats"
            )


def _written_out(item: "Item") -> int:
    if not isinstance(item, RepeatItem):
        return 1
    return item.times * sum(map(_written_out, item.items))


Item = (
    ChainItem | RingItem | UnitItem | ConnectorItem | StrungItem | WeaveItem | PartItem | RepeatItem
)
