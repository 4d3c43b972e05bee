"""How one unit is made at the bench: sentence by sentence, its wire, its minutes.

A unit that is closed on the piece is made up to there: that loop stays bent and open.
"""

import math
from collections.abc import Iterable
from itertools import groupby

from maglia.core.assembly.assembly import Assembly
from maglia.core.joining.ways import Working
from maglia.core.joining.words import Words, listed
from maglia.core.parts.parts import Pin
from maglia.core.parts.units import (
    BeadLink,
    Dangle,
    Loop,
    Tassel,
    far_loop,
    legs_of,
    loop_inner_mm,
    spiral_of,
    tassel_thread_mm,
    threaded,
    wire_needed_mm,
    wraps_of,
)

Made = BeadLink | Dangle | Tassel


def from_spool(assembly: Assembly, working: Working) -> bool:
    """Whether wire is worked from the spool, and cut at the last loop."""
    said = assembly.piece.wire_from if working.wire == "as the piece" else working.wire
    return said == "spool"


def wire_each_mm(assembly: Assembly, unit: BeadLink | Dangle, working: Working) -> float | None:
    """Wire to cut for one, or the length that its pin must have; None if a size is not known."""
    spool = from_spool(assembly, working)
    return wire_needed_mm(unit, assembly.things, assembly.rules, from_spool=spool)


def recipe(
    words: Words, unit: Made, working: Working, left_open: frozenset[str] = frozenset()
) -> tuple[str, ...]:
    """How one is made, a sentence for each thing that is done; the loops in `left_open` are closed
    on the piece."""
    if isinstance(unit, Tassel):
        return _tassel(words, unit)
    return _Recipe(words, unit, working, left_open).said()


def minutes(
    assembly: Assembly, unit: Made, working: Working, left_open: frozenset[str] = frozenset()
) -> float:
    """Minutes for one, by rule: its loops, beads and cut."""
    rules = assembly.rules
    if isinstance(unit, Tassel):
        turns = unit.wraps + unit.neck_wraps + unit.halo_count
        return rules.minutes_cut + turns * rules.minutes_bead + rules.minutes_knot
    total = (len(unit.stack) + 2 * len(legs_of(unit))) * rules.minutes_bead
    total += 0.0 if from_spool(assembly, working) else rules.minutes_cut
    for port, loop in _loops(assembly, unit):
        if port not in left_open:
            total += loop_minutes(assembly, loop, working)
    return total


def loop_minutes(assembly: Assembly, loop: Loop, working: Working) -> float:
    """Minutes for one loop; a looper turns and cuts a simple one in half the time."""
    rules = assembly.rules
    if loop.style == "simple":
        return rules.minutes_simple_loop * (0.5 if working.loops == "looper" else 1.0)
    return rules.minutes_wrapped_loop


def _loops(assembly: Assembly, unit: BeadLink | Dangle) -> tuple[tuple[str, Loop], ...]:
    """The loops that are turned, by their port; the eye of an eye pin is there already."""
    wire = assembly.things.get(unit.wire)
    if isinstance(unit, Dangle):
        return (("loop", unit.loop),)
    far = ("b", far_loop(unit))
    eye = isinstance(wire, Pin) and wire.head == "eye"
    return (far,) if eye else (("a", unit.loop), far)


class _Recipe:
    def __init__(
        self, words: Words, unit: BeadLink | Dangle, working: Working, left_open: frozenset[str]
    ) -> None:
        self.words, self.unit, self.working, self.open = words, unit, working, left_open
        self.assembly = words.assembly
        self.wire = self.assembly.things[unit.wire]

    def said(self) -> tuple[str, ...]:
        unit, loops = self.unit, list(_loops(self.assembly, self.unit))
        found = [self._begin()]
        first = loops.pop(0) if len(loops) == 2 else None
        if first is not None:
            found += self._loop(first[1], "the first loop", is_open=first[0] in self.open)
        elif isinstance(unit, Dangle) and not isinstance(self.wire, Pin):
            found.append(self._foot(unit))
        found += self._stack()
        port, last = loops[0]
        crosswise = isinstance(unit, BeadLink) and unit.turned == "crosswise"
        turned = f", {'crosswise' if crosswise else 'parallel'} to the first"
        what = f"the second loop{turned}" if isinstance(unit, BeadLink) else "the loop"
        found += self._loop(last, what, is_open=port in self.open)
        return tuple(found)

    def _begin(self) -> str:
        name = self.words.part(self.unit.wire)
        need = wire_each_mm(self.assembly, self.unit, self.working)
        length = "" if need is None else self.words.mm(need)
        if isinstance(self.wire, Pin):
            least = f", at least {length} long" if length else ""
            return f"Take a {name}{least}."
        if from_spool(self.assembly, self.working):
            takes = f": it takes {length}" if length else ""
            return f"Work the {name} from the spool{takes}."
        return f"Cut {length} of {name}." if length else f"Cut a piece of {name}."

    def _foot(self, unit: Dangle) -> str:
        if unit.crossed:
            return "Let the wire's middle lie free: it crosses through the last bead."
        if spiral := spiral_of(unit, self.wire):
            return f"Turn a flat spiral, {self.words.mm(spiral)} across, at its end."
        return "Turn its end over, or ball it, so that nothing slips off."

    def _stack(self) -> list[str]:
        unit = self.unit
        refs = threaded(unit)
        mid = unit.mid if isinstance(unit, BeadLink) else None
        if mid is not None:
            half = math.ceil(len(refs) / 2)
            before, after = self._beads(refs[:half]), self._beads(refs[half:])
            ring = f"then the mid ring, {self.words.part(mid)}"
            return [f"Put on {before}, {ring}" + (f", then {after}." if after else ".")]
        if not isinstance(unit, Dangle) or not unit.crossed:
            return [f"Put on {self._beads(refs)}."]
        found = [f"Put on {self._beads(refs[:1])}."]
        if legs := unit.legs:
            found.append(f"Put {self._beads(legs[::-1])} on each of its two legs.")
        if above := refs[1:]:
            found.append(f"Put {self._beads(above)} over both legs together.")
        return found

    def _beads(self, refs: Iterable[str]) -> str:
        counted = [(ref, len(list(group))) for ref, group in groupby(refs)]
        return listed([self.words.part(ref) if n == 1 else f"{n} {self.words.part(ref)}"
                       for ref, n in counted])  # fmt: skip

    def _loop(self, loop: Loop, what: str, *, is_open: bool) -> list[str]:
        inner = loop_inner_mm(self.wire, loop, first=False)
        size = f"{self.words.mm(inner)} inside"
        if is_open:
            return [f"Bend {what}, {size}, and leave it open: it is closed on the piece."]
        if loop.style == "simple":
            tool = " with the looper" if self.working.loops == "looper" else ""
            return [f"Turn {what}{tool}, {size}; close it."]
        double = " twice round" if loop.style == "doubled" else ""
        found = [f"Turn {what}{double}, {size}."]
        if turns := wraps_of(loop):
            found.append(f"Wrap it, {turns} turn{'s' if turns > 1 else ''}; cut, and press the end "
                         "in.")  # fmt: skip
        return found


def closed_round(loop: Loop, taken: str) -> str:
    """A loop that is wrapped on the piece, round what it takes."""
    turns = wraps_of(loop)
    wrapped = f", wrap it {turns} turn{'s' if turns > 1 else ''}" if turns else ""
    double = " go round once more," if loop.style == "doubled" else ""
    return f"Let it take {taken};{double} close the loop{wrapped}; cut, and press the end in."


def _tassel(words: Words, unit: Tassel) -> tuple[str, ...]:
    rules = words.assembly.rules
    ring, thread = words.part(unit.ring), words.part(unit.thread)
    length = words.mm(tassel_thread_mm(unit, rules))
    card = words.mm(unit.skirt_mm + unit.trim_mm)
    found = [f"Cut {length} of {thread}."]
    if unit.way == "folded":
        wide = words.mm(2 * (unit.skirt_mm + unit.trim_mm))
        found.append(f"Wind it {unit.wraps} times over a card {wide} wide; cut one end, lay it "
                     f"through the {ring}, fold it over.")  # fmt: skip
    else:
        found.append(f"Wind it {unit.wraps} times through the {ring} and over a card {card} wide.")
    if unit.neck_wraps:
        found.append(f"Bind the neck, {words.mm(unit.neck_mm)} across, {unit.neck_wraps} turns; "
                     "sew the end in.")  # fmt: skip
    if unit.halo is not None and unit.halo_count:
        found.append(f"Sew {unit.halo_count} {words.part(unit.halo)} round the neck.")
    trim = f", {words.mm(unit.trim_mm)} off" if unit.trim_mm else ""
    found.append(f"Cut the skirt to {words.mm(unit.skirt_mm)}{trim}.")
    return tuple(found)
