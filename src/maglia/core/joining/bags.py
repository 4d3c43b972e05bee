"""What comes into the hands at which step, so that a kit can be packed by steps."""

from collections import Counter

from maglia.core.assembly.assembly import Member
from maglia.core.joining.step import Step
from maglia.core.joining.text import MakeSheet
from maglia.core.parts.units import BeadLink
from maglia.core.sheets.cutting import stretch_words
from maglia.core.values.record import Value


class Bag(Value, frozen=True):
    """What a step is the first to take, by what it is called, and how many."""

    number: int
    step: Step
    inside: Counter[str]


def bags_by_step(sheet: MakeSheet) -> tuple[Bag, ...]:
    """A bag for each step that takes something new; every member of the piece is in one of them, or
    in the link whose mid ring it is. A last one holds what no step takes."""
    assembly = sheet.assembly
    packed = {
        member.id
        for member in assembly.members
        if member.made_in and isinstance(assembly.things[member.made_in], BeadLink)
    }
    found = []
    for number, step in enumerate(sheet.steps, 1):
        own: list[int] = []
        for closing in step.closings:
            ends = [end for joint in closing.joins
                    for end in (assembly.joints[joint].a, assembly.joints[joint].b)]  # fmt: skip
            own += [member for member in (closing.opener.member, *ends) if member not in packed]
            packed.update(own)
        inside = _inside(sheet, [assembly.members[k] for k in dict.fromkeys(own)])
        if inside:
            found.append(Bag(number, step, inside))
    left = [member for member in assembly.members if member.id not in packed]
    if left and sheet.steps:
        found.append(Bag(len(sheet.steps), sheet.steps[-1], _inside(sheet, left)))
    return tuple(found)


def _inside(sheet: MakeSheet, members: list[Member]) -> Counter[str]:
    things, found = sheet.assembly.things, Counter[str]()
    for member in members:
        name = things[member.ref].name
        if member.strung is not None:
            for ref, number in Counter(member.strung.beads).items():
                if isinstance(ref, str):
                    found[things[ref].name] += number
            found.update(things[way.end].name for way in member.strung.ends if way.end)
            found[f"length of {name}"] += 1
        elif member.kind == "chain":
            found[f"{stretch_words(member.links, member.first_phase)} of {name}"] += 1
        else:
            found[name] += 1
    return found
