"""Rings: how full, how strong, what shape.

Fullness = Σ thickness of what a ring holds / (π × inner diameter): up to 0.45 free, to 0.65 snug,
to 0.9 crowded, above it cannot close (trade custom). A split ring opens when its wire yields, about
at F = σ π d³ / (32 R), R = (inner + wire) / 2; compared with ten times what it carries, for a snag
(mechanics, an estimate). Aspect ratio of a plain joining ring between 2.5 and 7 (trade custom).
"""

import math
from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Member, member_name
from maglia.core.checks.found import Check
from maglia.core.hang.hung import Hung
from maglia.core.parts.parts import Ring
from maglia.core.sheets.bite import thickness_at
from maglia.core.values.rules import Rules

SNAG = 10.0
GF_PER_N = 1 / 0.00980665
YIELD_MPA: dict[str, tuple[float, float, float]] = {
    "copper": (70, 160, 250),
    "brass": (120, 300, 430),
    "sterling": (130, 215, 300),
    "aluminium": (150, 150, 150),
    "bronze": (350, 350, 350),
    "steel": (500, 500, 500),
    "titanium": (450, 450, 450),
}
"""Soft, half-hard and hard."""
_TEMPERS = ("soft", "half-hard", "hard")


def check(assembly: Assembly, hung: Hung | None) -> Iterator[Check]:
    held: dict[int, float] = {}
    for joint in assembly.joints:
        for own, other, port in (
            (joint.a, joint.b, joint.port_b),
            (joint.b, joint.a, joint.port_a),
        ):
            if isinstance(assembly.thing(assembly.members[own]), Ring):
                thick = thickness_at(assembly, assembly.members[other], port)
                held[own] = held.get(own, 0.0) + thick
    shown: set[str] = set()
    for member in assembly.members:
        ring = assembly.thing(member)
        if not isinstance(ring, Ring) or not ring.inner_mm:
            continue
        if member.woven is None:  # a weave has rules of its own
            yield from _fullness(member, ring, held.get(member.id, 0.0), assembly.rules)
        if member.woven is None and member.ref not in shown and member.made_in is None:
            shown.add(member.ref)
            yield from _aspect(member, ring, assembly.rules)
        yield from _strength(member, ring, hung)


def fullness(ring: Ring, held_mm: float) -> float:
    return held_mm / (math.pi * (ring.inner_mm or math.inf))


def _fullness(member: Member, ring: Ring, held_mm: float, rules: Rules) -> Iterator[Check]:
    share = fullness(ring, held_mm)
    if share <= rules.crowded:
        return
    full = share > rules.full
    yield Check(
        code="ring-too-full",
        severity="stop" if full else "attention",
        place=member_name(member),
        message=(
            f"“{ring.name}” holds {held_mm:.1f} mm of wire on {math.pi * (ring.inner_mm or 0):.1f} "
            f"mm inside, {share:.0%}: {'it cannot close' if full else 'it is crowded'}."
        ),
        repair="split what it holds over two rings, or take a larger one",
        run=member.run,
        item=member.item,
    )


def _aspect(member: Member, ring: Ring, rules: Rules) -> Iterator[Check]:
    if ring.closure != "open" or not ring.wire_mm or not ring.inner_mm:
        return
    aspect = ring.inner_mm / ring.wire_mm
    if rules.aspect_least <= aspect <= rules.aspect_most:
        return
    why = (
        "stiff and hard to close"
        if aspect < rules.aspect_least
        else "springy and easily pulled open"
    )
    yield Check(
        code="ring-aspect-ratio",
        severity="note",
        place=ring.name,
        thing=ring.id,
        message=(
            f"Aspect ratio {aspect:.1f} is outside {rules.aspect_least:g} to "
            f"{rules.aspect_most:g} for a plain joining ring: {why}."
        ),
        repair="take another size, or keep it with a note",
        run=member.run,
        item=member.item,
    )


def opening_force_gf(ring: Ring) -> float | None:
    """About how much pull opens a split ring, gf; None where material or size is unknown."""
    known = YIELD_MPA.get(ring.material.removeprefix("gold-plated ").removeprefix("silver-plated "))
    if known is None or not ring.wire_mm or not ring.inner_mm or ring.temper not in _TEMPERS:
        return None
    sigma = known[_TEMPERS.index(ring.temper)]
    radius = (ring.inner_mm + ring.wire_mm) / 2
    return sigma * math.pi * ring.wire_mm**3 / (32 * radius) * GF_PER_N


def _strength(member: Member, ring: Ring, hung: Hung | None) -> Iterator[Check]:
    if hung is None or hung.state != "converged" or ring.closure != "open":
        return
    opens = opening_force_gf(ring)
    if opens is None:
        return
    carried = max((hung.tension_of.get(p, 0.0) for p in hung.drawn[member.id]), default=0.0)
    if SNAG * carried <= opens:
        return
    yield Check(
        code="ring-too-weak",
        severity="attention",
        place=member_name(member),
        message=(
            f"“{ring.name}” opens at about {opens:.0f} g and carries {carried:.0f} g: a snag of "
            f"ten times that opens it."
        ),
        repair="take thicker or harder wire, a smaller or a split ring",
        run=member.run,
        item=member.item,
    )
