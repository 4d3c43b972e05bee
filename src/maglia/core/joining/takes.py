"""What a build takes of chain, wire and thread, and with which of its marks: all of it together is
what Count cuts for the piece (`cutting.day.stretches_of`).
"""

from collections import Counter
from collections.abc import Iterator

from maglia.core.cutting.day import Making, Stretch, stretch_of_mm, stretches_of
from maglia.core.joining.making import wire_each_mm
from maglia.core.joining.marked import Mark
from maglia.core.joining.progress import Turn, turns_of
from maglia.core.joining.text import MakeSheet
from maglia.core.joining.ways import USUAL, Working
from maglia.core.parts.parts import Pin
from maglia.core.parts.units import BeadLink, Dangle, Tassel, tassel_thread_mm

Taken = tuple[str, Stretch]


def taken_by(
    sheet: MakeSheet, turn: Turn, mark: Mark, working: Working | None = None
) -> tuple[Taken, ...]:
    """What one mark cuts from lengths: a stretch, a thread, wire for a unit, floss for a tassel."""
    step, a = sheet.steps[turn.step], sheet.assembly
    if mark.sort == "cut" and step.stretch is not None:
        return ((step.things[0], step.stretch),)
    if mark.sort != "make":
        return ()
    unit = a.things[step.things[0]]
    if isinstance(unit, Tassel):
        return ((unit.thread, stretch_of_mm(tassel_thread_mm(unit, a.rules))),)
    if isinstance(unit, BeadLink | Dangle) and not isinstance(a.things[unit.wire], Pin):
        each = wire_each_mm(a, unit, working or sheet.plan.working)
        return ((unit.wire, stretch_of_mm(each)),) if each is not None else ()
    return ()


def taken_besides(sheet: MakeSheet) -> Iterator[Taken]:
    """What no step has a mark for, as the wire that is wound on a connector: it is taken when the
    build is finished."""
    left = stretches_of(Making(sheet.assembly))
    for turn in turns_of(sheet):
        for mark in turn.marks:
            for ref, stretch in taken_by(sheet, turn, mark, USUAL):
                left.get(ref, Counter())[stretch] -= 1
    for ref, stretches in left.items():
        for stretch, number in stretches.items():
            yield from ((ref, stretch) for _ in range(number))
