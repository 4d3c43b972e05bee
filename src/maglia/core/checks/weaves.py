"""Weaves: what cannot be woven, or not so as it is said.

Each weave can be woven of rings whose inside is so many times their wire (trade custom). So many
wires lie round the inside of a ring: each takes 2 asin(w / (d − w)) of the circle (geometry).
"""

import math
from collections.abc import Iterator
from typing import NamedTuple

from maglia.core.assembly.assembly import Assembly
from maglia.core.checks.found import Check, Severity
from maglia.core.hang.hung import Hung
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import Things
from maglia.core.piece.items import WeaveItem
from maglia.core.sheets.lengths import closed_length_mm
from maglia.core.sheets.wear import stretch_limit
from maglia.core.sheets.weaves import WeaveSheet, weave_sheets
from maglia.core.weaves.kinds import SORTS, woven
from maglia.core.weaves.pitch import Size, sized, spoke_mm

RUBBER = "rubber"


def check(assembly: Assembly, hung: Hung | None) -> Iterator[Check]:
    for sheet in weave_sheets(assembly):
        place = f"{sheet.run}, {sheet.words}"
        found = (
            *_roles(sheet.item, assembly.things),
            *_ratios(sheet.item, assembly.things),
            *_full(sheet.item, assembly.things),
            *_swatch(sheet),
            *_rubber(sheet, assembly, hung),
        )
        for one in found:
            yield Check(
                code=one.code,
                severity=one.severity,
                place=place,
                message=one.message,
                repair=one.repair,
                run=sheet.run,
                item=sheet.number,
                thing=one.thing,
            )


class _Fault(NamedTuple):
    """What is wrong with a weave, what mends it, and the part it is about."""

    code: str
    severity: Severity
    message: str
    repair: str
    thing: str | None = None


Found = Iterator[_Fault]


def _rings(item: WeaveItem, things: Things) -> Iterator[tuple[str, Ring]]:
    for role in item.roles:
        ring = things.get(role.part)
        if isinstance(ring, Ring):
            yield role.role, ring


def _roles(item: WeaveItem, things: Things) -> Found:
    rings = dict(_rings(item, things))
    for role, ring in rings.items():
        is_rubber = ring.closure == "elastic"
        if (role == RUBBER) is not is_rubber:
            says = "no rubber ring" if role == RUBBER else "a rubber ring"
            yield _Fault(
                "weave-role",
                "stop",
                f"“{ring.name}” is {says}, and stands for the {role}.",
                "take another ring for that role",
                ring.id,
            )
    for larger, smaller in (("large", "small"), ("second large", "small"), ("end ring", "ring")):
        one, other = rings.get(larger), rings.get(smaller)
        if one and other and (one.inner_mm or 0.0) < (other.inner_mm or 0.0):
            yield _Fault(
                "weave-role",
                "attention",
                f"“{one.name}”, the {larger}, is smaller than “{other.name}”, the {smaller}.",
                "exchange the two",
                one.id,
            )


def _ratios(item: WeaveItem, things: Things) -> Found:
    least, most = SORTS[item.weave].ratio
    seen = set()
    for role, ring in _rings(item, things):
        if role in (RUBBER, "end ring") or ring.id in seen or not ring.inner_mm:
            continue
        seen.add(ring.id)
        ratio = ring.inner_mm / ring.wire_mm if ring.wire_mm else math.nan
        if ratio < least or ratio > most:
            so = "too stiff: its rings do not go in" if ratio < least else "loose and shapeless"
            yield _Fault(
                "weave-ratio",
                "attention",
                f"“{ring.name}” has an inside of {ratio:.1f} wires; {item.weave} is woven of "
                f"{least:g} to {most:g}: {so}.",
                f"take {'thinner' if ratio < least else 'thicker'} wire or "
                f"{'larger' if ratio < least else 'smaller'} rings",
                ring.id,
            )


def _full(item: WeaveItem, things: Things) -> Found:
    rings = sized(item, things)
    if rings is None:
        return
    own = woven(item)
    roles, held = own.roles, [0.0] * len(own.roles)
    for a, b in own.joints:
        for ring, other in ((a, b), (b, a)):
            held[ring] += _takes(rings[roles[ring]], rings[roles[other]].wire)
    for role in dict.fromkeys(roles):
        own_held = [h for h, r in zip(held, roles, strict=True) if r == role]
        most = max(own_held)
        if role == RUBBER or most <= math.pi + 1e-9:
            continue
        part = things[item.part_of(role) or ""]
        yield _Fault(
            "weave-too-full",
            "stop",
            f"“{part.name}”, the {role}, holds more wire than lies round its inside: "
            f"{most / math.pi:.0%} of it.",
            "take larger rings, or fewer",
            part.id,
        )


def _takes(ring: Size, wire: float) -> float:
    """How much of half the circle a wire takes round the inside of a ring."""
    share = wire / (ring.inner - wire) if ring.inner > wire else 1.0
    return math.asin(min(share, 1.0))


def _swatch(sheet: WeaveSheet) -> Found:
    if sheet.void:
        yield _Fault(
            "swatch-void",
            "attention",
            "Its swatch was measured of other rings: its length is by geometry again.",
            "measure a swatch of these rings",
        )
    elif sheet.pitch is not None and sheet.pitch.state == "unsure":
        yield _Fault(
            "swatch-wanted",
            "note",
            f"The rings of {sheet.words} do not tell how long a row is.",
            "weave ten rows, measure them, and say: swatch 10 rows 48 mm",
        )


def _rubber(sheet: WeaveSheet, assembly: Assembly, hung: Hung | None) -> Found:
    rings = sized(sheet.item, assembly.things)
    if rings is None or RUBBER not in rings:
        return
    if sheet.item.weave == "stretch triangles":
        bare = (
            rings["large"].inner + rings["large"].wire + rings["small"].inner + rings["small"].wire
        ) / 2
        if spoke_mm(rings) <= bare + 1e-6:
            yield _Fault(
                "weave-role",
                "stop",
                "The rubber is too small to reach from ring to ring.",
                "take larger rubber rings",
                sheet.item.part_of(RUBBER),
            )
    length, wrist = closed_length_mm(assembly), assembly.piece.wearer.wrist_mm
    if assembly.piece.sort != "bracelet" or length is None or wrist is None or hung is None:
        return
    limit = stretch_limit(assembly)
    if length * limit < wrist:
        yield _Fault(
            "rubber-beyond-limit",
            "stop",
            f"Its {length:.1f} mm stretch to {length * limit:.1f} mm at the rubber's limit, "
            f"and the wrist is {wrist:.1f} mm round.",
            "add rows",
            sheet.item.part_of(RUBBER),
        )
