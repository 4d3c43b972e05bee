"""Cautions: short, once, at the step where they belong."""

from collections.abc import Collection

from maglia.core.assembly.assembly import Assembly
from maglia.core.joining.step import Step

CAUTIONS: dict[str, str] = {
    "cutting": "Wear glasses, and cover what you cut off: ends fly.",
    "coil": "Coil wire needs its own cutter.",
    "glue": "Glue: fresh air, gloves, and its own cure time before it is closed over or worn.",
    "burrs": "Turn burrs and wire ends inward.",
    "ear": "A heavy earring strains the lobe; a piercing is a matter for licensed practice.",
    "small": "Small parts, long strands and magnets are dangerous for small children and pets.",
    "rules": "Local rules for nickel, lead and children's jewellery come first; these figures are "
    "no test certificate.",
}


def cautions_of(assembly: Assembly, step: Step, said: Collection[str]) -> tuple[str, ...]:
    """What to say at a step that has not been said before."""
    found: list[str] = []
    wires = {getattr(assembly.things.get(ref), "sort", None) for ref in step.things}
    if step.verb in ("cut", "make") and step.stage in ("ready", "unit"):
        found.append("cutting")
    if "memory coil" in wires:
        found.append("coil")
    if step.verb == "glue":
        found.append("glue")
    if step.verb == "wrap":
        found.append("burrs")
    if step.stage == "try":
        found.append("rules")
        found.append("ear" if assembly.piece.sort == "earring" else "small")
    return tuple(one for one in found if one not in said)
