"""What a wearer is told of a piece: what it is made of and how it is kept. In words."""

from collections.abc import Iterable, Mapping

from maglia.core.assembly.assembly import Assembly
from maglia.core.parts.parts import Clasp
from maglia.core.parts.units import Thing
from maglia.core.sheets.as_worn import elastic

TENDER = {
    "pearl": "Pearls: last on, first off; no scent or spray on them; wipe them with a soft cloth.",
    "wood": "Wood: not into water.",
    "resin": "Resin and acrylic scratch: no rough cloth, no solvent.",
    "leather": "Leather: not into water; it darkens where it is worn.",
    "rubber": "Rubber and elastic age in the sun and in oil: look at them once a year.",
}
TARNISHES = {"brass", "copper", "bronze", "sterling", "pewter"}
GENERAL = (
    "Put it on last and take it off first: before sleep, sport and bath.",
    "Keep it lying and closed, by itself: chains tangle with each other.",
    "Open and close it at the clasp; never pull it over the head unless it is made for that.",
)


def materials_of(assembly: Assembly) -> tuple[str, ...]:
    """The materials of all parts, those that most members are of first."""
    tally: dict[str, int] = {}
    for member in assembly.members:
        parts = list(_parts(assembly.thing(member), assembly.things))
        each = max(member.links, 1)
        if member.strung is not None:  # every bead by itself, and the thread once
            parts, each = [assembly.things[r] for r in member.strung.beads if isinstance(r, str)], 1
            parts.append(assembly.thing(member))
        for part in parts:
            material = str(getattr(part, "material", "") or "")
            if material:
                tally[material] = tally.get(material, 0) + each
    return tuple(sorted(tally, key=lambda name: (-tally[name], name)))


def care_of(assembly: Assembly) -> tuple[str, ...]:
    """How it is kept, what holds for all pieces first; cautions and what figures are last."""
    found = list(GENERAL)
    materials = set(materials_of(assembly))
    if materials & TARNISHES:
        found.append("Its metal darkens by itself; a soft cloth brings it back, no dip, no paste.")
    found += dict.fromkeys(words for name, words in TENDER.items() if name in materials)
    used = [assembly.thing(member) for member in assembly.members]
    if any(elastic(thing) for thing in used) and TENDER["rubber"] not in found:
        found.append(TENDER["rubber"])
    if any(member.strung is not None for member in assembly.members):
        found.append("It is strung: have it looked at once a year, and restrung when it gives.")
    if any(isinstance(thing, Clasp) and thing.sort == "magnet" for thing in used):
        found.append("Its clasp is a magnet: not near a pacemaker, and dangerous if swallowed.")
    found.append("Small parts and long strands are dangerous for small children and pets.")
    if assembly.piece.sort == "earring":
        found.append("A piercing is a matter for licensed practice; take it out if it hurts.")
    found.append("Metal may hold nickel: off where the skin reddens. Local rules come first.")
    return tuple(found)


def _parts(thing: Thing, things: Mapping[str, Thing]) -> Iterable[object]:
    """A part itself; of a unit what is on it."""
    stack = getattr(thing, "stack", None)
    if stack is None:
        yield thing
        return
    for ref in stack:
        yield things[ref]
