"""How long a weave is: by a swatch, else by how its rings bear on each other.

Drawn taut, rings bear inside to inside, so a strip is the sum of their inner diameters, less what
rings abreast lose since they do not all bear in the middle: n wires w side by side in a ring of
inner diameter d stand (n − 1) w / 2 off its middle, and there its inside is (n − 1)² w² / 4 (d − w)
nearer. That is an upper bound: lying flat a strip is shorter, and only a swatch says by how much.

A rubber ring of section t, drawn flat round two wires, is half its drawn round less the two turns,
and its own two thicknesses: s = [λ π (d + t) − π (w + t)] / 2 + w.
"""

import math
from itertools import pairwise
from typing import Literal, NamedTuple

from msgspec.structs import replace

from maglia.core.parts.parts import Ring
from maglia.core.parts.units import Things
from maglia.core.piece.items import RingSize, Swatch, WeaveItem
from maglia.core.values.record import Value
from maglia.core.weaves.kinds import Woven, woven

State = Literal["exact", "taut", "about", "unsure", "swatch"]
SAID: dict[State, str] = {
    "exact": "exact",
    "taut": "drawn taut; lying flat it is shorter, and a swatch says by how much",
    "about": "about, within 15 %",
    "unsure": "unsure: measure a swatch",
    "swatch": "by your swatch",
}
MEASURED_MM = 0.5
"""How far a length read with a rule may be off."""
ABOUT, UNSURE = 0.15, 0.25
SWATCH_ONLY = 3
"""A strip of four in one wider than so many rings gives in width what it takes in length."""
LANE = 0.55
"""How far apart the rings across a strip of four in one lie, in outer diameters."""


class Pitch(Value, frozen=True):
    """Length of a row, mm, how it is known, and how far it may be off, mm; where it is a bound, how
    much less it may be."""

    mm: float
    state: State
    off_mm: float = 0.0


class Size(NamedTuple):
    """A ring of a weave: inner diameter and wire, mm; how far its rubber stretches."""

    inner: float
    wire: float
    limit: float = 1.0

    @property
    def outer(self) -> float:
        return self.inner + 2 * self.wire


def sizes_of(item: WeaveItem, things: Things) -> tuple[RingSize, ...]:
    """The sizes of its rings, by role."""
    rings = (things.get(role.part) for role in item.roles)
    return tuple(RingSize(inner_mm=getattr(ring, "inner_mm", None),
                          wire_mm=getattr(ring, "wire_mm", None)) for ring in rings)  # fmt: skip


def is_void(swatch: Swatch, item: WeaveItem, things: Things) -> bool:
    """Whether a swatch is of other rings."""
    return bool(swatch.of) and swatch.of != sizes_of(item, things)


def sized(item: WeaveItem, things: Things) -> dict[str, Size] | None:
    """The ring of each role; None while a size is not known, or one does not go into another."""
    found = {}
    for role in item.roles:
        ring = things.get(role.part)
        if not isinstance(ring, Ring) or not ring.inner_mm or not ring.wire_mm:
            return None
        found[role.role] = Size(ring.inner_mm, ring.wire_mm, ring.stretch_limit)
    widest = max(size.wire for size in found.values())
    fits = all(size.wire < size.inner and (role == "rubber" or widest < size.inner)
               for role, size in found.items())  # fmt: skip
    return found if fits else None


def pitch_of(item: WeaveItem, things: Things, stretch: float = 1.0) -> Pitch | None:
    """How long a row is; None while a size is not known. `stretch` is that of its rubber, against
    lying drawn flat, each no further than its limit."""
    rings = sized(item, things)
    swatch = item.swatch
    if swatch is not None and not is_void(swatch, item, things):
        more = 1.0
        if rings is not None and stretch != 1.0:
            more = _drawn(item, rings, stretch) / _drawn(item, rings, 1.0)
        return Pitch(more * swatch.mm / swatch.rows, "swatch", MEASURED_MM / swatch.rows)
    if rings is None:
        return None
    mm = _drawn(item, rings, stretch)
    if item.weave in ("one in one", "shaggy loops"):
        return Pitch(mm, "exact")
    if item.weave == "stretch triangles":
        return Pitch(mm, "about", ABOUT * mm)
    wide = item.weave == "four in one" and item.abreast > SWATCH_ONLY
    if item.weave in ("box", "Byzantine") or wide:
        return Pitch(mm, "unsure", UNSURE * mm)
    return Pitch(mm, "taut", ABOUT * mm)


def _drawn(item: WeaveItem, rings: dict[str, Size], stretch: float) -> float:
    """Length of a row in the middle of a long strip, by geometry, mm."""
    if item.weave == "stretch triangles":
        return math.sqrt(3) / 2 * spoke_mm(rings, stretch)
    if item.weave in ("box", "Byzantine"):
        ring = rings["ring"]
        taut = ring.inner - lost_mm(ring, ring, 2, 2)
        return (1 if item.weave == "box" else 2) * taut - ring.wire
    endless = replace(item, rows=4, closes=True, end_rings=0, swatch=None)
    return sum(_taut_spans(endless, woven(endless), rings, stretch)) / endless.rows


def lost_mm(one: Size, other: Size, ones: int, others: int) -> float:
    """What is lost where so many rings abreast bear in so many others, mm."""
    return ((ones - 1) ** 2 * one.wire**2 / (4 * (other.inner - one.wire))
            + (others - 1) ** 2 * other.wire**2 / (4 * (one.inner - other.wire)))  # fmt: skip


def flat_mm(rubber: Size, wire: float, stretch: float = 1.0) -> float:
    """Inside length of a rubber ring drawn flat round two wires, mm; no further than its limit."""
    drawn = min(stretch, rubber.limit) * math.pi * (rubber.inner + rubber.wire)
    return (drawn - math.pi * (wire + rubber.wire)) / 2 + wire


def spoke_mm(rings: dict[str, Size], stretch: float = 1.0) -> float:
    """From the middle of a triangle's large ring to its corner, taut, mm: the rubber lies double,
    folded over the large ring, both its ends on the small one."""
    large, small, rubber = rings["large"], rings["small"], rings["rubber"]
    drawn = min(stretch, rubber.limit) * (rubber.inner + rubber.wire)
    long = math.pi / 4 * (drawn - (large.wire + rubber.wire) - (small.wire + rubber.wire))
    return (large.inner + large.wire) / 2 + max(long, 0.0) + (small.inner + small.wire) / 2


def spans_mm(
    item: WeaveItem, own: Woven, things: Things, stretch: float = 1.0
) -> list[float] | None:
    """How much of the strip's length each of its places takes, mm; None while a size is not known.
    Rows have their pitch; what stands at an end has all of its own."""
    pitch, rings = pitch_of(item, things, stretch), sized(item, things)
    if pitch is None or rings is None:
        return None
    if item.weave == "stretch triangles":
        return [pitch.mm / 2] * len(own.places)
    scale = pitch.mm / _drawn(item, rings, stretch)
    if item.weave in ("box", "Byzantine"):
        scale *= _drawn(item, rings, stretch) / (
            (2 if item.weave == "box" else 3)
            * (rings["ring"].inner - lost_mm(rings["ring"], rings["ring"], 2, 2))
        )
    return [scale * span for span in _taut_spans(item, own, rings, stretch)]


def _taut_spans(item: WeaveItem, own: Woven, rings: dict[str, Size], stretch: float) -> list[float]:
    bearing = [[rings[role] for role in place if role != "tuft"] for place in own.places]
    metal = min((size.wire for role, size in rings.items() if role != "rubber"), default=0.0)
    spans = []
    for place, sizes in zip(own.places, bearing, strict=True):
        drawn = [flat_mm(size, metal, stretch) if role == "rubber" else size.inner
                 for role, size in zip(place, sizes, strict=False)]  # fmt: skip
        spans.append(min(drawn))
    abreast = [min(len(sizes), 2) if item.weave == "four in one" else len(sizes)
               for sizes in bearing]  # fmt: skip
    order = list(range(len(spans)))
    for one, other in [*pairwise(order), *([(order[-1], 0)] if item.closes else [])]:
        lost = lost_mm(bearing[one][0], bearing[other][0], abreast[one], abreast[other])
        spans[one] -= lost / 2
        spans[other] -= lost / 2
    return spans


# --- across ---------------------------------------------------------------------------------------


def thickness_mm(item: WeaveItem, things: Things) -> float:
    """About how thick the strip lies, mm; 0 while a size is not known."""
    rings = sized(item, things)
    if rings is None:
        return 0.0
    wire = max(size.wire for size in rings.values())
    inner = max(size.inner for size in rings.values())
    about: dict[str, float] = {
        "one in one": wire, "rubber and metal": wire, "m in m": (item.abreast + 1) * wire,
        "shaggy loops": (item.abreast + 2) * wire, "stretch triangles": 2 * wire,
        "box": inner + wire, "Byzantine": inner + wire,
    }  # fmt: skip
    return about.get(item.weave, 3 * wire)


def width_mm(item: WeaveItem, things: Things) -> float:
    """About how wide the strip is, mm; 0 while a size is not known."""
    rings = sized(item, things)
    if rings is None:
        return 0.0
    widest = max(size.outer for size in rings.values())
    if item.weave == "four in one":
        return widest * (1 + LANE * (item.abreast - 1))
    if item.weave == "doubled strip":
        return 1.4 * widest
    if item.weave == "shaggy loops":
        return rings["base"].outer + 2 * rings["tuft"].outer
    if item.weave == "stretch triangles":
        return 1.5 * spoke_mm(rings) + rings["small"].outer
    return widest


def holds(ring: Size) -> int:
    """How many wires of its own thickness lie round the inside of a ring."""
    return int(math.pi / math.asin(ring.wire / (ring.inner - ring.wire)) + 1e-9)
