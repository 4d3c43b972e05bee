"""The plan as text fit for paper, and as JSON (docs/plan.md)."""

import textwrap
from collections import Counter
from typing import Any

from maglia.core.assembly.assembly import Assembly, Member, member_name
from maglia.core.joining.cautions import CAUTIONS
from maglia.core.joining.culprits import Culprit, culprits_of
from maglia.core.joining.making import wire_each_mm
from maglia.core.joining.plan import Plan
from maglia.core.joining.rings import Rings, rings
from maglia.core.joining.step import Step
from maglia.core.joining.steps import steps_of
from maglia.core.joining.ways import CHOICES, Working
from maglia.core.joining.words import listed
from maglia.core.parts.units import BeadLink, Dangle
from maglia.core.sheets.count import copies_of, threads_cut, unit_counts
from maglia.core.sheets.cutting import cut_list
from maglia.core.values.measures import LengthUnit, format_length
from maglia.core.values.record import Value

STAGE_WORDS = {
    "ready": "Ready",
    "unit": "Units",
    "sub": "Parts of the piece",
    "row": "Strand and rows",
    "attach": "Hang and attach",
    "close": "Close",
    "try": "Try",
}


class MakeSheet(Value, frozen=True):
    """Everything a make sheet says of one piece."""

    assembly: Assembly
    plan: Plan
    steps: tuple[Step, ...]
    rings: tuple[Rings, ...]
    culprits: tuple[Culprit, ...]

    @property
    def minutes(self) -> float:
        """Work on it without waits; of a pair, on as many as it was made for."""
        return sum(step.minutes for step in self.steps)

    @property
    def waits_min(self) -> float:
        return sum(step.waits_min for step in self.steps)


def make_sheet(
    assembly: Assembly, plan: Plan, unit: LengthUnit = "mm", *, both: bool = True
) -> MakeSheet:
    """The steps of a plan with what is readied for them: for both earrings of a pair, or for one of
    them."""
    steps = steps_of(assembly, plan, unit, copies_of(assembly.piece) if both else 1)
    culprits = culprits_of(assembly, plan)
    return MakeSheet(assembly, plan, steps, rings(assembly, plan), culprits)


def working_words(working: Working) -> str:
    """How it is worked, in a line."""
    said = [CHOICES["order"][working.order]]
    if working.links == "each":
        said.append("wrapped links link by link")
    if working.wire != "as the piece":
        said.append(f"wire {CHOICES['wire'][working.wire]}")
    if working.crimps != "as the piece":
        said.append(f"crimps {working.crimps}")
    if working.loops == "looper":
        said.append("loops by a looper")
    return ", ".join(said)


def ready_lines(sheet: MakeSheet, unit: LengthUnit = "mm") -> list[str]:
    """What lies ready before the first step: cuts, units with their wire, rings, threads."""
    a = sheet.assembly
    copies = copies_of(a.piece)

    def called(ref: str) -> str:
        letter = a.letters.get(ref)
        return f"{a.things[ref].name} ({letter})" if letter else a.things[ref].name

    def mm(length: float) -> str:
        return format_length(length, unit, with_unit=True)

    found = []
    for cut in cut_list(a, copies):
        apiece = " each" if cut.count > 1 else ""
        long = f", {mm(cut.length_mm)}{apiece}" if cut.length_mm is not None else ""
        found.append(f"{cut.count} × {cut.words} of {called(cut.chain)}{long}")
    for ref, length, number in threads_cut(a):
        found.append(f"{number * copies} × {mm(length)} of {called(ref)}, tails in it")
    for ref, number in unit_counts(a).items():
        made = a.things[ref]
        wire = ""
        if isinstance(made, BeadLink | Dangle):
            each = wire_each_mm(a, made, sheet.plan.working)
            long = "" if each is None else f", {mm(each)}" + (" each" if number > 1 else "")
            wire = f": {called(made.wire)}{long}"
        found.append(f"{number * copies} × {called(ref)}{wire}")
    for ring in sheet.rings:
        said = [f"{ring.to_open} to open"] if ring.to_open else []
        said += [f"{ring.leave_closed} left closed"] if ring.leave_closed else []
        found.append(f"{ring.count} × {called(ring.id)}: {listed(said)}")
    return found


def as_text(sheet: MakeSheet, unit: LengthUnit = "mm") -> str:
    """The make sheet in lines of at most 100 characters."""
    piece = sheet.assembly.piece
    lines = [f"{piece.name} — how it is made", working_words(sheet.plan.working)]
    if sheet.culprits:
        lines += ["", "CANNOT BE JOINED", *(f"  ! {one.says}" for one in sheet.culprits),
                  "  Everything else is planned below."]  # fmt: skip
    copies = copies_of(piece)
    lines += ["", "READY" + (", for both" if copies == 2 else "")]
    lines += [f"  {line}" for line in ready_lines(sheet, unit)]
    stage = "ready"
    readied = [step for step in sheet.steps if step.stage == "ready"]
    if readied:
        span = f"1 to {len(readied)}" if len(readied) > 1 else "1"
        lines += [f"  {span}: cut and open what is listed here."]
        lines += [f"       ! {CAUTIONS[c]}" for step in readied for c in step.cautions]
    for number, step in enumerate(sheet.steps, 1):
        if step.stage == "ready":
            continue
        if step.stage != stage:
            stage = step.stage
            lines += ["", STAGE_WORDS[stage].upper()]
        lines += _step_lines(number, step)
    waits = f", and {sheet.waits_min:g} minutes of waiting" if sheet.waits_min else ""
    lines += ["", f"About {_time(sheet.minutes)} of work{waits}, by rule."]
    return "\n".join(lines) + "\n"


def _step_lines(number: int, step: Step) -> list[str]:
    head = f"{number:>3}  "
    said = step.says + (f" × {step.count}" if step.count > 1 and step.closings else "")
    found = _wrapped(said, head)
    tail = "; ".join(one for one in (step.where, step.mirror) if one)
    found += _wrapped(tail, "       ") if tail else []
    for k, how in enumerate(step.how, 1):
        found += _wrapped(how, f"       {k}. ")
    for up in step.up:
        found += _wrapped(up, "       ")
    for caution in step.cautions:
        found += _wrapped(CAUTIONS[caution], "       ! ")
    return found


def _wrapped(words: str, head: str) -> list[str]:
    return textwrap.wrap(words, 92, initial_indent=head, subsequent_indent=" " * len(head))


def _time(minutes: float) -> str:
    whole = round(minutes)
    hours, rest = divmod(whole, 60)
    return f"{hours} h {rest:02d} min" if hours else f"{max(whole, 1)} minutes"


def as_json(sheet: MakeSheet) -> dict[str, Any]:
    """The plan as plain values; the names are a promise, see docs/plan.md."""
    a, plan = sheet.assembly, sheet.plan
    joints = []
    for number, (one, other) in enumerate(plan.joints.ends):
        joints.append({
            "a": one.member, "port_a": one.port, "b": other.member, "port_b": other.port,
            "made_before": number in plan.joints.before,
        })  # fmt: skip
    return {
        "piece": a.piece.name,
        "copies": copies_of(a.piece),
        "working": {name: getattr(plan.working, name) for name in plan.working.__struct_fields__},
        "feasible": plan.feasible,
        "culprits": [_culprit(one) for one in sheet.culprits],
        "members": [_member(m) for m in a.members],
        "joints": joints,
        "ready": _ready(sheet),
        "rings": _rings(sheet),
        "steps": [_step(step) for step in sheet.steps],
        "minutes": round(sheet.minutes, 2),
        "waits_min": sheet.waits_min,
    }


def _culprit(one: Culprit) -> dict[str, Any]:
    return {"joints": list(one.joints), "between": list(one.between), "cycle": list(one.cycle),
            "says": one.says}  # fmt: skip


def _rings(sheet: MakeSheet) -> list[dict[str, Any]]:
    """Rings that are members, of both earrings; those in tassels the report adds."""
    a = sheet.assembly
    times = copies_of(a.piece)
    every = Counter(m.ref for m in a.members if m.kind == "ring")
    opened = Counter(a.members[m].ref for m in sheet.plan.opened)
    return [{"part": ref, "to_open": opened[ref] * times,
             "leave_closed": (n - opened[ref]) * times} for ref, n in every.items()]  # fmt: skip


def _member(member: Member) -> dict[str, Any]:
    return {"id": member.id, "name": member_name(member), "part": member.ref, "kind": member.kind,
            "run": member.run, "side": member.side}  # fmt: skip


def _ready(sheet: MakeSheet) -> dict[str, Any]:
    a = sheet.assembly
    copies = copies_of(a.piece)
    units = []
    for ref, number in unit_counts(a).items():
        made = a.things[ref]
        wire, each = None, None
        if isinstance(made, BeadLink | Dangle):
            wire, each = made.wire, wire_each_mm(a, made, sheet.plan.working)
        units.append({"unit": ref, "count": number * copies, "wire": wire,
                      "each_mm": None if each is None else round(each, 2)})  # fmt: skip
    return {
        "cuts": [{"part": c.chain, "links": c.links, "count": c.count,
                  **({"first_phase": c.first_phase} if c.first_phase else {}),
                  "length_mm": None if c.length_mm is None else round(c.length_mm, 2)}
                 for c in cut_list(a, copies)],
        "threads": [{"part": ref, "length_mm": round(length, 2), "count": n * copies}
                    for ref, length, n in threads_cut(a)],
        "units": units,
    }  # fmt: skip


def _step(step: Step) -> dict[str, Any]:
    return {
        "id": step.id,
        "stage": step.stage,
        "verb": step.verb,
        "says": step.says,
        "where": step.where,
        "how": list(step.how),
        "count": step.count,
        "mirror": step.mirror,
        "closings": [{"member": c.opener.member, "port": c.opener.port, "joins": list(c.joins)}
                     for c in step.closings],
        "takes": [{"member": t.member, "port": t.port, "lies": t.lies, "words": t.words}
                  for t in step.takes],
        "new": list(step.new),
        "in_hand": list(step.in_hand),
        "up": list(step.up),
        "cautions": [CAUTIONS[one] for one in step.cautions],
        "needs": list(step.needs),
        "measure_mm": None if step.measure_mm is None else round(step.measure_mm, 2),
        "waits_min": step.waits_min,
        "minutes": round(step.minutes, 2),
    }  # fmt: skip
