"""Units: what is made at the bench from parts before assembly, and what each needs.

Spans run contact to contact: bead link = its stack + for each loop (inner diameter + wire)
+ for each loop that is wrapped, doubled ones too, (wraps × wire). Wire for a loop =
π (inner + wire), for a wrap 2 π wire.
"""

import math
from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from msgspec import Meta
from msgspec.structs import replace

from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    End,
    Part,
    Pin,
    Ring,
    Wire,
    chain_length_mm,
    part_mass_g,
)
from maglia.core.values.materials import mass_g
from maglia.core.values.record import (
    Count,
    CountOrZero,
    Mm,
    MmOrZero,
    Name,
    Offset,
    Record,
    Variant,
)
from maglia.core.values.references import PartRef, ThingRef
from maglia.core.values.rules import DEFAULT_RULES, Rules

LoopStyle = Literal["simple", "wrapped", "doubled"]


class Loop(Record, frozen=True, kw_only=True):
    """A loop turned in wire: simple (opens again), wrapped (never opens) or doubled."""

    style: LoopStyle = "simple"
    inner_mm: Mm = 2.5
    wraps: Annotated[int, Meta(ge=0, le=20)] = 0
    longer_mm: Offset = 0.0
    """How much longer than computed it comes out: of a maker's corrections, kept by them."""
    wire_more_mm: Offset = 0.0
    """How much more wire it takes, likewise."""


class BeadLink(Variant, frozen=True, kw_only=True, tag="bead link"):
    """A stack of beads with a loop at each end."""

    id: Name
    name: Name
    stack: Annotated[tuple[PartRef, ...], Meta(min_length=1, max_length=200)]
    wire: PartRef
    loop: Loop = Loop()
    far_loop: Loop | None = None
    turned: Literal["parallel", "crosswise"] = "parallel"
    mid: PartRef | None = None
    """A ring threaded at the middle of the stack, where other runs can join."""


class HookLink(BeadLink, frozen=True, kw_only=True, tag="hook link"):
    """A bead link that opens at its far end by springing."""


class Dangle(Variant, frozen=True, kw_only=True, tag="dangle"):
    """A stack of beads on a pin or wire with one loop; it hangs."""

    id: Name
    name: Name
    stack: Annotated[tuple[PartRef, ...], Meta(min_length=1, max_length=200)]
    wire: PartRef
    loop: Loop = Loop()
    spiral_mm: Mm | None = None
    """Outside of a flat spiral of its wire that stops the stack; without it a turned or balled
    foot does, or the head of the pin."""
    crossed: bool = False
    """The last of its stack is drilled from side to side: the wire crosses through it and comes up
    on both its sides, through `legs` of beads, to where it is closed."""
    legs: Annotated[tuple[PartRef, ...], Meta(max_length=60)] = ()


class Tassel(Variant, frozen=True, kw_only=True, tag="tassel"):
    """Thread wound over a card `wraps` times, bound at the neck, cut to a skirt: wound through its
    ring, or laid together and folded over it. `trim_mm` is cut off the skirt; `halo_count` small
    beads lie round the neck."""

    id: Name
    name: Name
    thread: PartRef
    skirt_mm: Mm
    wraps: Count
    neck_mm: Mm
    neck_wraps: CountOrZero = 6
    ring: PartRef
    """The ring the thread goes through; it carries the tassel."""
    way: Literal["wound", "folded"] = "wound"
    trim_mm: MmOrZero = 0.0
    halo: PartRef | None = None
    halo_count: CountOrZero = 0


class Cluster(Variant, frozen=True, kw_only=True, tag="cluster"):
    """Units crowded on one ring, or on every link of a short chain (`links` > 0); each `by` a ring
    of its own if one is named, and one more at the foot."""

    id: Name
    name: Name
    carrier: PartRef
    links: CountOrZero = 0
    hangs: Annotated[tuple[ThingRef, ...], Meta(min_length=1, max_length=60)]
    """Units on the ring, or on each link."""
    by: PartRef | None = None
    turns: bool = False
    """By turns: one on each link, the first, the second, and so on."""
    foot: ThingRef | None = None


Unit = BeadLink | HookLink | Dangle | Tassel | Cluster
Thing = Part | Unit
"""What an id of a piece stands for."""
Things = Mapping[str, Thing]


def hangs_at(cluster: Cluster, link: int) -> tuple[str, ...]:
    """What hangs at a link, counted from 0, of a cluster's chain; at 0 of its ring."""
    hangs = cluster.hangs
    if cluster.turns and cluster.links:
        hangs = (hangs[link % len(hangs)],)
    last = link == max(cluster.links, 1) - 1
    return (*hangs, cluster.foot) if last and cluster.foot is not None else hangs


def hung_in_all(cluster: Cluster) -> tuple[str, ...]:
    """Everything that hangs in a cluster, link by link."""
    return tuple(ref for k in range(max(cluster.links, 1)) for ref in hangs_at(cluster, k))


def far_loop(link: BeadLink) -> Loop:
    return link.far_loop or link.loop


def loops_of(unit: BeadLink | Dangle) -> tuple[Loop, ...]:
    return (unit.loop, far_loop(unit)) if isinstance(unit, BeadLink) else (unit.loop,)


def wraps_of(loop: Loop) -> int:
    """Turns about its own neck: a simple loop has none, a doubled one may have some."""
    return 0 if loop.style == "simple" else loop.wraps


def wire_mm_of(part: Thing | None) -> float | None:
    return part.wire_mm if isinstance(part, Wire | Pin) else None


def stack_mm(stack: tuple[str, ...], parts: Things) -> float | None:
    """Length of a stack along its wire or thread, mm; None if one is unknown."""
    lengths = [on_wire_mm(parts.get(ref), parts) for ref in stack]
    return None if None in lengths else sum(x for x in lengths if x is not None)


def on_wire_mm(thing: Thing | None, parts: Things) -> float | None:
    """What a thing takes on wire or thread: beads and ends their length, less what a cap covers of
    its neighbour, rings their wire, a cluster that of the ring it is made on."""
    if isinstance(thing, Cluster):
        thing = parts.get(thing.carrier)
    if isinstance(thing, Bead):
        covered = thing.covers_mm or 0.0
        return None if thing.length_mm is None else thing.length_mm - covered
    if isinstance(thing, End):
        return None if thing.adds_mm is None else thing.adds_mm - (thing.covers_mm or 0.0)
    return thing.wire_mm if isinstance(thing, Ring) else None


def faced(refs: Sequence[object], things: Things) -> tuple[int | None, ...]:
    """For each thing in a row the place of the bead it sits over; None for all but caps that say
    how deep they sit. A cap closes the bead before it if another has opened that one, else it
    opens the one behind it, else it sits on what is before."""

    def bare(k: int) -> bool:
        thing = things.get(str(refs[k])) if 0 <= k < len(refs) else None
        return isinstance(thing, Bead) and not thing.covers_mm

    found: list[int | None] = []
    for k, ref in enumerate(refs):
        cap = things.get(str(ref))
        if not isinstance(cap, Bead) or not cap.covers_mm:
            found.append(None)
            continue
        opened = k - 1 in found and bare(k - 1)
        order = (k - 1, k + 1) if opened else (k + 1, k - 1)
        found.append(next((n for n in order if bare(n)), None))
    return tuple(found)


def unit_span_mm(unit: BeadLink | Dangle, parts: Things) -> float | None:
    """Contact to contact of a bead link; from the contact to the foot of a dangle; mm."""
    wire = parts.get(unit.wire)
    wire_mm, stack = wire_mm_of(wire), _hung_stack_mm(unit, parts)
    if wire_mm is None or stack is None:
        return None
    total = stack
    for k, loop in enumerate(loops_of(unit)):
        total += loop_inner_mm(wire, loop, first=k == 0) + wire_mm + wraps_of(loop) * wire_mm
        total += loop.longer_mm
    return total + (spiral_of(unit, wire) or 0.0)


def threaded(unit: BeadLink | Dangle) -> tuple[str, ...]:
    """A stack in the order in which the hands put it on. It is said and drawn from the loop down: a
    dangle is threaded from its foot up, a link from its first loop on."""
    return unit.stack[::-1] if isinstance(unit, Dangle) else unit.stack


def legs_of(unit: BeadLink | Dangle) -> tuple[str, ...]:
    """Beads on each of the two legs of a crossed wire."""
    return unit.legs if isinstance(unit, Dangle) and unit.crossed else ()


def _wired(unit: BeadLink | Dangle) -> tuple[str, ...]:
    """What the wire goes through: of a crossed one the bead at the foot once, all above it with
    both its legs."""
    if not isinstance(unit, Dangle) or not unit.crossed:
        return unit.stack
    return (*unit.stack[:-1] * 2, unit.stack[-1], *unit.legs * 2)


def _hung_stack_mm(unit: BeadLink | Dangle, parts: Things) -> float | None:
    """How far a stack hangs down, mm: what is drilled from side to side by its width, below legs
    that lie beside each other."""
    if not isinstance(unit, Dangle) or not unit.crossed:
        return stack_mm(unit.stack, parts)
    drop = parts.get(unit.stack[-1])
    above = stack_mm((*unit.stack[:-1], *unit.legs), parts)
    high = drop.width_mm if isinstance(drop, Bead) else None
    return None if above is None or high is None else above + high


def spiral_of(unit: BeadLink | Dangle, wire: Thing | None) -> float | None:
    """Outside of the spiral at the foot of a dangle, mm; a pin has its head and makes none."""
    return unit.spiral_mm if isinstance(unit, Dangle) and not isinstance(wire, Pin) else None


def loop_inner_mm(wire: Thing | None, loop: Loop, *, first: bool) -> float:
    """Inner diameter of a loop; the eye of an eye pin comes ready made."""
    if first and isinstance(wire, Pin) and wire.head == "eye" and wire.eye_inner_mm:
        return wire.eye_inner_mm
    return loop.inner_mm


def wire_needed_mm(
    unit: BeadLink | Dangle,
    parts: Things,
    rules: Rules = DEFAULT_RULES,
    *,
    from_spool: bool = False,
) -> float | None:
    """Wire to cut for one unit, grips included; on a pin, the length the pin must have."""
    wire = parts.get(unit.wire)
    wire_mm, stack = wire_mm_of(wire), stack_mm(_wired(unit), parts)
    if wire_mm is None or stack is None:
        return None
    on_pin = isinstance(wire, Pin)
    loops = loops_of(unit)
    if on_pin and isinstance(unit, BeadLink):
        loops = loops[1:]  # the eye is there already
    total = stack
    for loop in loops:
        turns = 2 if loop.style == "doubled" else 1
        total += turns * math.pi * (loop.inner_mm + wire_mm)
        total += wraps_of(loop) * 2 * math.pi * wire_mm + loop.wire_more_mm
        if not on_pin:
            grip = rules.grip_wrapped_mm if wraps_of(loop) else rules.grip_simple_mm
            total += rules.grip_spool_mm if from_spool else grip
    if spiral := spiral_of(unit, wire):
        total += math.pi * spiral**2 / (4 * wire_mm)  # turn beside turn fills the disc
    elif isinstance(unit, Dangle) and not on_pin and not unit.crossed:
        total += rules.grip_spool_mm  # the turned or balled foot that stops the stack
    return total


def tassel_thread_mm(tassel: Tassel, rules: Rules = DEFAULT_RULES) -> float:
    """Thread for one tassel: 2 × (skirt + trim) × wraps, 4 × if folded, + neck wraps × π × neck +
    its tail."""
    legs = (4 if tassel.way == "folded" else 2) * tassel.wraps
    winding = legs * (tassel.skirt_mm + tassel.trim_mm)
    return winding + tassel.neck_wraps * math.pi * tassel.neck_mm + rules.tassel_tail_mm


def tassel_span_mm(tassel: Tassel, parts: Things) -> float | None:
    """From where its ring bears to the foot of the skirt, mm."""
    ring = parts.get(tassel.ring)
    inner = ring.inner_mm if isinstance(ring, Ring) else None
    return None if inner is None else inner + tassel.skirt_mm


def hung_mm(thing: Thing | None, parts: Things) -> float | None:
    """How far a thing hangs down by itself, mm: a unit, a ring, a charm; None if not known."""
    if isinstance(thing, BeadLink | Dangle):
        return unit_span_mm(thing, parts)
    if isinstance(thing, Tassel):
        return tassel_span_mm(thing, parts)
    if isinstance(thing, Ring):
        return thing.inner_mm
    return thing.height_mm if isinstance(thing, Charm) else None


def cluster_fall_mm(cluster: Cluster, parts: Things) -> float:
    """From where its ring or its first link bears to its lowest point, mm, as far as known."""
    carrier, by = parts.get(cluster.carrier), parts.get(cluster.by or "")
    ring = (by.inner_mm or 0.0) if isinstance(by, Ring) else 0.0

    def reach(link: int) -> float:
        if isinstance(carrier, Chain):
            return chain_length_mm(carrier, link + 1) or 0.0
        return (carrier.inner_mm or 0.0) if isinstance(carrier, Ring) else 0.0

    falls = [
        reach(link) + ring + (hung_mm(parts.get(ref), parts) or 0.0)
        for link in range(max(cluster.links, 1))
        for ref in hangs_at(cluster, link)
    ]
    return max(falls, default=reach(0))


def unit_mass_g(unit: BeadLink | Dangle | Tassel, parts: Things) -> float:
    """Mass of one finished unit, g, as far as its parts' are known."""
    if isinstance(unit, Tassel):
        thread = parts.get(unit.thread)
        worn = replace(unit, trim_mm=0.0)
        own = wire_mass_g(thread, tassel_thread_mm(worn)) if isinstance(thread, Wire) else 0.0
        bead = unit.halo_count * _mass(unit.halo, parts) if unit.halo else 0.0
        return (own or 0.0) + _mass(unit.ring, parts) + bead
    mid = unit.mid if isinstance(unit, BeadLink) else None
    on_it = (*unit.stack, *legs_of(unit) * 2, *((mid,) if mid else ()))
    wire, own = parts.get(unit.wire), None
    if isinstance(wire, Pin):
        own = worn_pin_mass_g(wire, wire_needed_mm(unit, parts))
    elif isinstance(wire, Wire):
        own = wire_mass_g(wire, wire_needed_mm(unit, parts, from_spool=True) or 0.0)
    return sum(_mass(ref, parts) for ref in on_it) + (own or 0.0)


def worn_pin_mass_g(pin: Pin, needed_mm: float | None) -> float | None:
    """Mass of a pin as worn, g: what is cut off it is not."""
    whole = part_mass_g(pin)
    if whole is None or needed_mm is None or pin.length_mm is None:
        return whole
    return whole * min(needed_mm / pin.length_mm, 1.0)


def _mass(ref: str, parts: Things) -> float:
    part = parts.get(ref)
    return 0.0 if part is None or isinstance(part, Unit) else part_mass_g(part) or 0.0


def wire_mass_g(wire: Wire, length_mm: float) -> float | None:
    """Mass of a length of round wire or thread, or of what is flat, g."""
    if wire.wire_mm is None:
        return None
    flat = wire.wire_mm * wire.width_mm if wire.width_mm is not None else None
    return mass_g(wire.material, (flat or math.pi / 4 * wire.wire_mm**2) * length_mm)
