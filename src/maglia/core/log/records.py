"""What a build leaves behind: what was measured, what was spent, what was said."""

from collections.abc import Mapping
from typing import Annotated, Literal

from msgspec import Meta

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.corrected import STYLES
from maglia.core.joining.step import Step
from maglia.core.joining.text import MakeSheet
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import BeadLink, Dangle, loops_of, unit_span_mm
from maglia.core.piece.corrections import Correction
from maglia.core.values.record import Minutes, Offset, Record, Text
from maglia.core.weaves.pitch import pitch_of

Concerns = Literal["closed length", "length", "fall", "hem", "span", "pitch"]


class Measure(Record, frozen=True, kw_only=True):
    """Something measured against what was planned, mm: what it concerns, and of what. It holds
    `share` of the same (loops of a unit, rows of a weave); `by` is what a correction had added to
    each when it was planned."""

    at: Text
    what: Concerns
    about: Text = ""
    planned_mm: Offset
    measured_mm: Offset
    share: Annotated[float, Meta(gt=0, le=100_000)] = 1.0
    by_mm: Offset = 0.0

    @property
    def name(self) -> str:
        return f"{self.what} {self.about}".strip()

    @property
    def off_mm(self) -> float:
        """How much longer than computed without corrections one of them came out."""
        return (self.measured_mm - self.planned_mm) / self.share + self.by_mm


class Spent(Record, frozen=True, kw_only=True):
    """How often a kind of thing was done in a build, and the minutes that took."""

    kind: Text
    number: Annotated[float, Meta(gt=0, le=1_000_000)]
    minutes: Minutes

    @property
    def each(self) -> float:
        return self.minutes / self.number


class Entry(Record, frozen=True, kw_only=True):
    """A build as it stands in the log. `things` are the names of its parts; `metal_g` and `cost`
    what it took; `given_up` if it was not finished."""

    id: int
    piece: Text
    wearer: Text = ""
    begun: Text
    ended: Text = ""
    minutes: float = 0.0
    metal_g: float = 0.0
    cost: Text = ""
    things: Text = ""
    given_up: bool = False

    @property
    def at(self) -> str:
        return self.ended or self.begun


def concern_of(sheet: MakeSheet, step: Step) -> Measure | None:
    """What a length that is measured at a step is held against, nothing measured yet; None where
    nothing is planned."""
    assembly = sheet.assembly
    if step.verb == "make" and step.things:
        return _span(assembly, step.things[0])
    if step.measure_mm is None:
        return None
    if step.stage == "try":
        return Measure(at="", what="closed length", planned_mm=step.measure_mm, measured_mm=0.0)
    run = next((assembly.members[m].run for m in step.in_hand), "")
    woven = next((w for m in step.in_hand if (w := assembly.members[m].woven)), None)
    if woven is not None and not step.id.endswith(f"/{run}"):
        pitch = pitch_of(woven.item, assembly.things)
        rows = round(step.measure_mm / pitch.mm) if pitch else 1
        return Measure(at="", what="pitch", about=woven.item.weave, planned_mm=step.measure_mm,
                       measured_mm=0.0, share=rows)  # fmt: skip
    return Measure(at="", what="length", about=run, planned_mm=step.measure_mm, measured_mm=0.0)


def _span(assembly: Assembly, ref: str) -> Measure | None:
    unit = assembly.things[ref]
    if not isinstance(unit, BeadLink | Dangle):
        return None
    span, loops = unit_span_mm(unit, assembly.things), loops_of(unit)
    styles = {STYLES[loop.style] for loop in loops}
    if span is None:
        return None
    alike = len(styles) == 1
    return Measure(at="", what="span", about=styles.pop() if alike else unit.name, planned_mm=span,
                   measured_mm=0.0, share=len(loops) if alike else 1.0,
                   by_mm=loops[0].longer_mm if alike else 0.0)  # fmt: skip


def spent_of(sheet: MakeSheet, seconds: Mapping[str, float]) -> tuple[Spent, ...]:
    """What a build took by kinds, from the seconds of its marks by place. A unit's loops have what
    is left of its time when its beads and its cut are taken off by rule."""
    from maglia.core.joining.progress import turns_of

    number: dict[str, float] = {}
    minutes: dict[str, float] = {}
    rules = sheet.assembly.rules
    for turn in turns_of(sheet):
        step = sheet.steps[turn.step]
        spent = sum(seconds.get(mark.place, 0.0) for mark in turn.marks) / 60
        if not spent:
            continue
        kind, times = _kind(sheet.assembly, step), float(len(turn.marks))
        if step.verb == "make" and step.things:
            unit = sheet.assembly.things[step.things[0]]
            if not isinstance(unit, BeadLink | Dangle):
                continue
            made = sum(mark.sort == "make" for mark in turn.marks)
            styles = {STYLES[loop.style] for loop in loops_of(unit)}
            if len(styles) > 1:
                continue
            kind, times = styles.pop(), made * len(loops_of(unit))
            spent -= made * (len(unit.stack) * rules.minutes_bead + rules.minutes_cut)
        if kind:
            number[kind] = number.get(kind, 0.0) + times
            minutes[kind] = minutes.get(kind, 0.0) + spent
    return tuple(Spent(kind=kind, number=number[kind], minutes=round(max(minutes[kind], 0.0), 3))
                 for kind in number if number[kind])  # fmt: skip


def _kind(assembly: Assembly, step: Step) -> str:
    """Which of the rules' minutes a step is of; empty for none."""
    verbs = {"cut": "cut", "crimp": "crimp", "knot": "knot", "wrap": "wrapped loop",
             "look": "look", "measure": "look"}  # fmt: skip
    if step.verb in verbs:
        return verbs[step.verb]
    if not step.closings:
        return ""
    member = assembly.members[step.closings[0].opener.member]
    if member.woven is not None:
        return "weave ring"
    kinds = (Ring, BeadLink, Dangle)  # a loop that is shut takes as long as a ring
    return "ring" if isinstance(assembly.thing(member), kinds) else ""


def acting(sheet: MakeSheet, step: Step) -> tuple[Correction, ...]:
    """The corrections a step is computed with: of the loops it makes, of the minutes it takes."""
    units = [sheet.assembly.things[ref] for ref in step.things]
    styles = {STYLES[loop.style] for unit in units if isinstance(unit, BeadLink | Dangle)
              for loop in loops_of(unit)}  # fmt: skip
    kind = _kind(sheet.assembly, step)
    return tuple(c for c in sheet.assembly.piece.corrections
                 if c.about in styles or (c.what == "minutes" and c.about == kind))  # fmt: skip


def correction_from(what: str, about: str, value: float) -> Correction | None:
    """The correction that an estimate would be; None for what is not corrected."""
    from maglia.core.piece.corrections import ABOUT

    if what in ("span", "minutes") and about in ABOUT[what]:  # type: ignore[index]
        return Correction(what=what, about=about, value=round(value, 3))  # type: ignore[arg-type]
    return None
