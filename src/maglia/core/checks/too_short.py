"""What would let a piece hang that is too short: links more on its longest chain."""

import math

from maglia.core.assembly.assembly import Assembly
from maglia.core.checks.found import Repair
from maglia.core.parts.parts import Chain

SPARE = 1.25
"""How short it is is known roughly: so much more is given."""


def longer(assembly: Assembly, short_by_mm: float) -> tuple[Repair, ...]:
    """The count at which the longest chain of a strand makes up for what is missing; none if no
    chain of a strand has a pitch that is known."""
    strands = {run.name for run in assembly.runs if run.kind == "strand"}
    chains = [m for m in assembly.members
              if m.kind == "chain" and m.run in strands and m.side != "left"]  # fmt: skip
    for member in sorted(chains, key=lambda m: -m.links):
        chain = assembly.thing(member)
        origin = assembly.origins.get(member.run)
        own = origin is None or origin.owner == member.run
        if not isinstance(chain, Chain) or not chain.pitches_mm or not own:
            continue
        pitch = sum(chain.pitches_mm) / len(chain.pitches_mm)
        sides = 2 if member.side == "right" else 1
        more = math.ceil(SPARE * short_by_mm / (sides * pitch))
        if member.item == 0 and sides == 1:
            more += more % 2  # what lies on the fold stays there
        count = member.links + more
        return (Repair(f"make it {count} links", member.run, member.item, count),)
    return ()
