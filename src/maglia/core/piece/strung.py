"""What lies on a thread, and how much of it each thing takes."""

from collections.abc import Sequence

from maglia.core.parts.parts import End
from maglia.core.parts.units import Things, on_wire_mm
from maglia.core.piece.piece import StrungEnd, StrungItem


def on_thread_mm(item: StrungItem, ref: str, things: Things) -> float | None:
    """What one thing of a strung section takes on its thread, mm; None if it is not known."""
    return 0.0 if ref in item.over else on_wire_mm(things.get(ref), things)


def end_adds_mm(end: StrungEnd, things: Things) -> float | None:
    """What a finished end adds, mm: nothing without a part for it; None if it is not known."""
    if end.end is None:
        return 0.0
    part = things.get(end.end)
    return part.adds_mm if isinstance(part, End) else None


def along_mm(item: StrungItem, refs: Sequence[str], things: Things) -> float | None:
    """What some of its things take together, mm; None if one is not known."""
    each = {ref: on_thread_mm(item, ref, things) for ref in set(refs)}
    return None if None in each.values() else sum(each[ref] or 0.0 for ref in refs)
