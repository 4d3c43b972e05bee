"""Parts: the bought things on the bench, with the geometry that matters for joining them.

Sizes that a maker may not know yet may be left out; whatever then cannot be computed is named by
a check, never guessed silently. Masses that were not weighed are estimated from the geometry.
"""

import math
from collections.abc import Callable
from typing import Annotated, Literal

from msgspec import Meta

from maglia.core.values.materials import Material, mass_g
from maglia.core.values.record import (
    Count,
    DomainError,
    Grams,
    Mm,
    MmOrZero,
    Money,
    Name,
    Offset,
    Record,
    Text,
    Variant,
)

Colour = Annotated[str, Meta(pattern=r"^#[0-9a-fA-F]{6}$")]
Temper = Literal["soft", "half-hard", "hard"]
Lots = Annotated[tuple[Mm, ...], Meta(max_length=200)]
"""Lengths that were said with a part, mm: what a piece away from its workshop is cut from. What
lies there now only the workshop knows."""


class _Part(Variant, frozen=True, kw_only=True):
    id: Name
    name: Name
    material: Material = "brass"
    mass_g: Grams | None = None
    price: Money | None = None
    pack: Count | None = None
    """How many are bought at once; not of what goes by the length."""
    note: Text = ""


class Chain(_Part, frozen=True, kw_only=True, tag="chain"):
    """Chain by the length. `pitches_mm` repeats: one pitch, or several as in long-short chain.

    `mass_g` is not used here: see `mass_g_per_m`.
    """

    pitches_mm: Annotated[tuple[Mm, ...], Meta(min_length=1, max_length=24)] | None = None
    inner_width_mm: Mm | None = None
    wire_mm: Mm | None = None
    openable: bool = False
    look: Literal["round", "oval", "flat", "twisted", "ball"] = "oval"
    mass_g_per_m: Grams | None = None
    price_per_m: Money | None = None
    sold_mm: Mm | None = None
    """One length as it is sold."""
    lots_mm: Lots = ()


class Ring(_Part, frozen=True, kw_only=True, tag="ring"):
    """A jump ring. An oval one has `inner_width_mm` as well; it hangs along `inner_mm`."""

    wire_mm: Mm | None = None
    inner_mm: Mm | None = None
    inner_width_mm: Mm | None = None
    closure: Literal["open", "closed", "split", "elastic"] = "open"
    temper: Temper = "half-hard"
    stretch_limit: Annotated[float, Meta(ge=1, le=10)] = 1.0


class Bead(_Part, frozen=True, kw_only=True, tag="bead"):
    """A bead, cap, spacer or bar with a hole along its length."""

    role: Literal["bead", "cap", "spacer", "bar"] = "bead"
    length_mm: Mm | None = None
    width_mm: Mm | None = None
    thickness_mm: Mm | None = None
    """Of a flat bead: what it stands off the body. A round one is as thick as it is wide."""
    hole_mm: Mm | None = None
    shape: Literal["round", "oval", "drop", "bicone", "tube", "disc", "cap"] = "round"
    material: Material = "glass"
    colour: Colour = "#6f7f8f"
    covers_mm: Mm | None = None
    """How deep a cap sits over the bead beside it."""
    on_strand: Count | None = None
    """How many are on a bought strand."""

    def __post_init__(self) -> None:
        """Raises DomainError for a cap that would vanish over what it covers."""
        if self.covers_mm and self.length_mm and self.covers_mm >= self.length_mm:
            raise DomainError(
                f"“{self.name}” is {self.length_mm:g} mm long and cannot sit {self.covers_mm:g} mm "
                "over a bead: say less than its length"
            )


class Pin(_Part, frozen=True, kw_only=True, tag="pin"):
    """A head pin or an eye pin."""

    head: Literal["head", "eye"] = "head"
    wire_mm: Mm | None = None
    length_mm: Mm | None = None
    head_mm: Mm | None = None
    eye_inner_mm: Mm | None = None


class Wire(_Part, frozen=True, kw_only=True, tag="wire"):
    """Wire, cable, thread, cord, ribbon, elastic or memory coil, by the length. What is flat is
    `width_mm` wide and `wire_mm` thick."""

    sort: Literal["wire", "cable", "thread", "cord", "ribbon", "elastic", "memory coil"] = "wire"
    wire_mm: Mm | None = None
    width_mm: Mm | None = None
    temper: Temper = "half-hard"
    coil_mm: Mm | None = None
    stretch_limit: Annotated[float, Meta(ge=1, le=10)] = 1.0
    breaking_load_g: Annotated[float, Meta(ge=0, le=1_000_000)] | None = None
    price_per_m: Money | None = None
    sold_mm: Mm | None = None
    """One length as it is sold."""
    colour: Colour | None = None
    lots_mm: Lots = ()


class End(_Part, frozen=True, kw_only=True, tag="end"):
    """What finishes a strung or cut end, its loop included: crimp, tip, cone, cord end (a tube), or
    clamp (folded over what is flat, up to its width)."""

    sort: Literal["crimp", "tip", "cord end", "cone", "clamp"] = "crimp"
    adds_mm: MmOrZero | None = None
    takes_mm: Mm | None = None
    width_mm: Mm | None = None
    loop_mm: Mm | None = None
    covers_mm: Mm | None = None
    """How deep a cone hides what hangs below it."""

    def __post_init__(self) -> None:
        """Raises DomainError for what would vanish over what it covers."""
        if self.adds_mm is not None and self.covers_mm and self.covers_mm >= self.adds_mm:
            raise DomainError(
                f"“{self.name}” is {self.adds_mm:g} mm long and cannot cover {self.covers_mm:g} "
                "mm: say less than its length"
            )


class Hole(Record, frozen=True, kw_only=True):
    """A hole of a connector: place of its centre (x to the right, y up) and its diameter, mm."""

    name: Name
    x_mm: Offset
    y_mm: Offset
    diameter_mm: Mm | None = None


class Connector(_Part, frozen=True, kw_only=True, tag="connector"):
    """A rigid flat part with any number of holes: bar, V, oval, chandelier, frame, spacer."""

    outline: Literal["bar", "oval", "round", "vee", "frame", "fan"] = "oval"
    width_mm: Mm | None = None
    height_mm: Mm | None = None
    thickness_mm: Mm | None = None
    points_mm: Annotated[tuple[tuple[Offset, Offset], ...], Meta(max_length=200)] = ()
    """Corners of its outline (x to the right, y up), where it is drawn point by point."""
    holes: Annotated[tuple[Hole, ...], Meta(min_length=1, max_length=40)]


class Found(Connector, frozen=True, kw_only=True, tag="found"):
    """A found piece with holes: a key, a lens, a watch part."""


class Clasp(_Part, frozen=True, kw_only=True, tag="clasp"):
    """A clasp. `span_mm` runs from its eye to where it bites the catch, done up."""

    sort: Literal["lobster", "spring ring", "toggle", "hook", "magnet"] = "lobster"
    span_mm: MmOrZero | None = None
    eye_mm: Mm | None = None
    gape_mm: Mm | None = None
    jaw_wire_mm: Mm | None = None
    bar_mm: Mm | None = None
    holds_g: Grams | None = None
    width_mm: Mm | None = None


class EarFinding(_Part, frozen=True, kw_only=True, tag="ear finding"):
    """Ear wire, post or hoop; `below_mm` is how far its loop's bearing lies below the lobe."""

    sort: Literal["hook", "post", "leverback", "hoop"] = "hook"
    wire_mm: Mm | None = None
    loop_mm: Mm | None = None
    below_mm: Mm | None = None


class Charm(_Part, frozen=True, kw_only=True, tag="charm"):
    """Charm, pendant or ready-made tassel; `height_mm` runs from where it bears to its foot."""

    height_mm: Mm | None = None
    width_mm: Mm | None = None
    loop_mm: Mm | None = None
    loop_wire_mm: Mm | None = None
    shape: Literal["drop", "disc", "leaf", "star", "key", "tassel"] = "drop"
    colour: Colour | None = None


Part = Chain | Ring | Bead | Pin | Wire | End | Connector | Found | Clasp | EarFinding | Charm


def bought_at_once(part: Part) -> int | None:
    """How many are bought at once: a pack, a strand of beads; None if that is not known."""
    strand = part.on_strand if isinstance(part, Bead) else None
    return strand or part.pack


def hole_of(connector: Connector, name: str) -> Hole | None:
    return next((hole for hole in connector.holes if hole.name == name), None)


def connector_span_mm(connector: Connector, hole_in: str, hole_out: str) -> float | None:
    """Contact to contact between two holes: centre distance + half of each diameter."""
    one, other = hole_of(connector, hole_in), hole_of(connector, hole_out)
    if one is None or other is None or one.diameter_mm is None or other.diameter_mm is None:
        return None
    distance = math.hypot(other.x_mm - one.x_mm, other.y_mm - one.y_mm)
    return distance + (one.diameter_mm + other.diameter_mm) / 2


def chain_length_mm(chain: Chain, links: int, first: int = 1) -> float | None:
    """Inner length of `links` links of the repeating pattern, beginning with link `first`."""
    if chain.pitches_mm is None:
        return None
    pattern = chain.pitches_mm
    whole, rest = divmod(links, len(pattern))
    start = first - 1
    return whole * sum(pattern) + sum(pattern[(start + k) % len(pattern)] for k in range(rest))


def link_mass_g(chain: Chain) -> float | None:
    """Mean mass of one link: weighed if known, else a round-ended loop of its wire."""
    if chain.pitches_mm is None:
        return None
    pitch = sum(chain.pitches_mm) / len(chain.pitches_mm)
    if chain.mass_g_per_m is not None:
        return chain.mass_g_per_m * pitch / 1000
    if chain.wire_mm is None:
        return None
    width = min(chain.inner_width_mm or pitch * 0.6, pitch)
    path = 2 * (pitch - width) + math.pi * (width + chain.wire_mm)
    return mass_g(chain.material, path * math.pi / 4 * chain.wire_mm**2)


_BEAD_FILL = {"round": 2 / 3, "oval": 2 / 3, "drop": 0.55, "bicone": 1 / 3, "cap": 0.25}
"""Share of the enclosing cylinder that a bead of this shape fills."""


SHEET_MM, POST_MM = 0.4, 11.0
"""Sheet that ends are bent of, and what goes through an ear, mm."""


def _ring_mass(ring: Ring) -> float | None:
    if ring.wire_mm is None or ring.inner_mm is None:
        return None
    mean = (ring.inner_mm + (ring.inner_width_mm or ring.inner_mm)) / 2 + ring.wire_mm
    return mass_g(ring.material, math.pi * mean * math.pi / 4 * ring.wire_mm**2)


def _bead_mass(bead: Bead) -> float | None:
    if bead.length_mm is None or bead.width_mm is None:
        return None
    section = math.pi / 4 * (bead.width_mm**2 * _BEAD_FILL.get(bead.shape, 1.0))
    bore = math.pi / 4 * (bead.hole_mm or 0) ** 2
    return mass_g(bead.material, max(section - bore, 0) * bead.length_mm)


def _pin_mass(pin: Pin) -> float | None:
    if pin.wire_mm is None or pin.length_mm is None:
        return None
    return mass_g(pin.material, math.pi / 4 * pin.wire_mm**2 * pin.length_mm)


def _connector_mass(connector: Connector) -> float | None:
    size = (connector.width_mm, connector.height_mm, connector.thickness_mm)
    if None in size:
        return None
    width, height, thickness = (float(s or 0) for s in size)
    fill = {"frame": 0.35, "vee": 0.35, "bar": 1.0}.get(connector.outline, math.pi / 4)
    return mass_g(connector.material, fill * width * height * thickness)


def _end_mass(end: End) -> float | None:
    """Crimp and cord end are tubes; of the others the sheet that they are bent of."""
    if end.adds_mm is None or (end.width_mm is None and end.takes_mm is None):
        return None
    inside = end.takes_mm or 0.0
    outside = end.width_mm or inside + 2 * SHEET_MM
    if end.sort in ("crimp", "cord end") and inside:
        solid = math.pi / 4 * max(outside**2 - inside**2, 0.0) * end.adds_mm
    else:
        share = {"cone": math.pi / 2, "tip": math.pi / 2, "clamp": 2.0}.get(end.sort, math.pi)
        solid = share * outside * end.adds_mm * SHEET_MM
    return mass_g(end.material, solid)


def _ear_mass(ear: EarFinding) -> float | None:
    """The wire that it is bent of."""
    if ear.wire_mm is None or ear.below_mm is None:
        return None
    along = {
        "hook": 2 * ear.below_mm + POST_MM, "post": POST_MM + ear.below_mm,
        "leverback": 3 * ear.below_mm + POST_MM, "hoop": math.pi * ear.below_mm,
    }[ear.sort]  # fmt: skip
    return mass_g(ear.material, math.pi / 4 * ear.wire_mm**2 * along)


def part_mass_g(part: Part) -> float | None:
    """Mass of one part, g: as weighed, else estimated from its geometry, else None.

    Chain and wire are counted by the link and by the length, not here.
    """
    if part.mass_g is not None:
        return part.mass_g
    estimate: dict[type, Callable[..., float | None]] = {
        Ring: _ring_mass,
        Bead: _bead_mass,
        Pin: _pin_mass,
        Connector: _connector_mass,
        End: _end_mass,
        EarFinding: _ear_mass,
    }
    found = next((rule for kind, rule in estimate.items() if isinstance(part, kind)), None)
    return found(part) if found else None
