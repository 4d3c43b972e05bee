"""The ring that something hangs by: where nothing opens one is asked for, the best offered."""

from collections.abc import Collection

from maglia.core.assembly.expand import expand
from maglia.core.joining.openers import joints_of
from maglia.core.parts.parts import Chain, Charm, Ring
from maglia.core.parts.units import BeadLink, Dangle, Thing, Things
from maglia.core.piece.items import ChainItem, Item
from maglia.core.piece.piece import DropRow, Piece, Run
from maglia.core.values.record import DomainError
from maglia.phrases.here import Here
from maglia.phrases.items import (
    SaidItem,
    ref_of,
    said_words,
)
from maglia.phrases.stands import standing
from maglia.phrases.words import (
    Misread,
)

USUAL_LOOP_MM = 2.0
"""Inside of a loop whose size is not known."""


def nothing_opens(piece: Piece, runs: Collection[str]) -> bool:
    """Whether some runs cannot be joined to what they hang from."""
    assembly = expand(piece)
    joints = joints_of(assembly)
    return any(
        (assembly.members[a.member].run in runs) != (assembly.members[b.member].run in runs)
        for a, b in map(joints.ends.__getitem__, joints.to_make)
        if joints.sorts[a] == joints.sorts[b] == "never"
    )


def ring_for(first: Item, piece: Piece, owner: Run | DropRow, here: Here) -> Ring:
    """The ring that is added above what hangs; a script says it."""
    if here.script:
        words = said_words((SaidItem(first),), here)
        raise Misread(f"nothing opens where {words} hangs: say with which ring: with ring 4")
    thing = here.things.get(ref_of(first))
    return hanging_ring(thing, here.things, _room_at(piece, owner, here.things))


def hanging_ring(thing: Thing | None, things: Things, room: float | None = None) -> Ring:
    """The open ring nearest 3 mm that passes the loop of what is hung, and the link (inner width
    `room`, mm) that it hangs from."""
    loop = USUAL_LOOP_MM
    if isinstance(thing, BeadLink | Dangle):
        loop = thing.loop.inner_mm
    elif isinstance(thing, Charm):
        loop = thing.loop_mm or USUAL_LOOP_MM
    elif isinstance(thing, Chain):
        loop = thing.inner_width_mm or USUAL_LOOP_MM
    loop = min(loop, room) if room is not None else loop
    rings = [t for t in things.values()
             if isinstance(t, Ring) and t.closure == "open" and t.inner_mm and t.wire_mm
             and t.wire_mm <= loop - 0.05]  # fmt: skip
    if not rings:
        raise DomainError("no open ring in the tray passes its loop; add a ring to the tray")
    return min(rings, key=lambda ring: abs((ring.inner_mm or 0) - 3.0))


def _room_at(piece: Piece, owner: Run | DropRow, things: Things) -> float | None:
    """The narrowest link a drop's ring must pass, mm."""
    start = owner if isinstance(owner, DropRow) else owner.start or owner.end
    host = piece.run(start.run) if start else None
    item = dict(standing(host)).get(start.item) if host and start else None
    chain = things.get(item.part) if isinstance(item, ChainItem) else None
    return chain.inner_width_mm if isinstance(chain, Chain) else None
