"""What follows along a thread, how much of it each thing takes, and how thick it lies."""

import math
from collections.abc import Sequence

from maglia.core.parts.parts import End, Wire
from maglia.core.parts.units import Things, on_wire_mm
from maglia.core.piece.items import Bare, Knot, StrungEnd, StrungItem

Along = str | Bare | Knot
KNOT_LONG, KNOT_TAKES, KNOT_WIDE = 3.0, 13.0, 2.5
"""An overhand knot drawn tight, in thicknesses of what it is tied in: how long it is, how much of
the thread is in it, and how wide. An ideal one shortens its rope by 10.1 thicknesses."""
BRAID_SHARE = 2 / 3
"""A braid is so many thicknesses of its strands wide and thick, for each of them."""


def cord_mm(item: StrungItem, things: Things) -> tuple[float, float]:
    """How thick and how wide the thread of a section lies, mm, all strands together: beside each
    other, or braided; 0 where it is not known."""
    thread = things.get(item.thread)
    thick = (thread.wire_mm if isinstance(thread, Wire) else None) or 0.0
    wide = (thread.width_mm if isinstance(thread, Wire) else None) or thick
    if item.made == "braided":
        round_mm = max(BRAID_SHARE * item.strands, 1.0)
        return thick * round_mm, wide * round_mm
    return thick, wide * item.strands


def knot_mm(item: StrungItem, things: Things) -> float | None:
    """Thickness of all strands tied together, mm; None if the thread's is not known."""
    thread = things.get(item.thread)
    thick = thread.wire_mm if isinstance(thread, Wire) else None
    return None if thick is None else thick * math.sqrt(item.strands)


def on_thread_mm(item: StrungItem, one: Along, things: Things) -> float | None:
    """What one thing of a strung section takes on its thread, mm; None if it is not known."""
    if isinstance(one, Bare):
        return one.mm
    if isinstance(one, Knot):
        tied = knot_mm(item, things)
        return None if tied is None else KNOT_LONG * tied
    return 0.0 if one in item.over else on_wire_mm(things.get(one), things)


def end_adds_mm(end: StrungEnd, things: Things) -> float | None:
    """What a finished end adds, mm: nothing without a part for it; None if it is not known."""
    if end.end is None:
        return 0.0
    part = things.get(end.end)
    return part.adds_mm if isinstance(part, End) else None


def along_mm(item: StrungItem, ones: Sequence[Along], things: Things) -> float | None:
    """What some of its things take together, mm; None if one is not known."""
    each = {one: on_thread_mm(item, one, things) for one in set(ones)}
    return None if None in each.values() else sum(each[one] or 0.0 for one in ones)


def thread_along_mm(item: StrungItem, things: Things, braid_factor: float) -> float:
    """Thread of one strand along a section, mm, without its tails: more where it is knotted or
    braided. What is not known counts nothing."""
    total = sum(on_thread_mm(item, one, things) or 0.0 for one in item.beads)
    knots = sum(isinstance(one, Knot) for one in item.beads)
    total += knots * (KNOT_TAKES - KNOT_LONG) * (knot_mm(item, things) or 0.0)
    return total * (braid_factor if item.made == "braided" else 1.0)


def is_bare(item: StrungItem) -> bool:
    """Whether cord or ribbon shows: something of it is bare."""
    return any(isinstance(one, Bare) for one in (*item.lead, *item.pattern, *item.tail))
