"""How far a build is: which closings are done, what comes next, and what an edit undoes.

A mark is one thing done, kept by its place and by what it was (its sign). A step is done in turns:
left and right together; a unit sentence by sentence the first time, then one by one.
"""

from collections.abc import Mapping, Sequence

from maglia.core.assembly.assembly import Assembly, member_name
from maglia.core.joining.marked import Mark, label_of, place_of
from maglia.core.joining.openers import Opener
from maglia.core.joining.order import Closing
from maglia.core.joining.plan import Plan
from maglia.core.joining.step import Step
from maglia.core.joining.text import MakeSheet
from maglia.core.values.record import Value


class Turn(Value, frozen=True):
    """What is done between two keys: of step `step` the `number`-th of `of`, with its own sentence
    if it has one."""

    step: int
    number: int
    of: int
    says: str
    marks: tuple[Mark, ...]
    closings: tuple[Closing, ...] = ()


class Undo(Value, frozen=True):
    """What must be undone after an edit, in words, and whether something is lost by it."""

    mark: Mark
    words: str
    lost: bool


def turns_of(sheet: MakeSheet) -> tuple[Turn, ...]:
    """Every turn of a plan, in order."""
    return tuple(turn for k in range(len(sheet.steps)) for turn in _turns(sheet, k))


def _turns(sheet: MakeSheet, number: int) -> list[Turn]:
    step = sheet.steps[number]
    if step.closings:
        groups = _by_row(sheet.assembly, step) or _mirrored(step.closings, sheet.plan)
        of = len(groups)
        return [
            Turn(number, k, of, step.says, tuple(_mark(sheet, c) for c in group), group)
            for k, group in enumerate(groups, 1)
        ]
    if step.verb == "make":
        sign = " ".join(step.how)
        last = len(step.how)
        first = [
            Turn(number, 1, step.count, how,
                 (Mark(place=f"{step.id}#1/{k}", sign=how, sort="part"),)
                 + ((_made(step, 1, sign),) if k == last else ()))
            for k, how in enumerate(step.how, 1)
        ]  # fmt: skip
        return first + [
            Turn(number, k, step.count, step.says, (_made(step, k, sign),))
            for k in range(2, step.count + 1)
        ]
    marks = tuple(
        Mark(place=f"{step.id}#{k}", sort=step.verb, words=step.says)
        for k in range(1, (step.count if step.verb == "cut" else 1) + 1)
    )
    return [Turn(number, 1, 1, step.says, marks)]


def _by_row(assembly: Assembly, step: Step) -> list[tuple[Closing, ...]]:
    """Rows of a weave, each done at once; none if it is no weave."""
    rows: dict[tuple[int, int], list[Closing]] = {}
    for closing in step.closings:
        own = assembly.members[closing.opener.member].woven
        if own is None or step.count == len(step.closings):
            return []
        rows.setdefault((own.weave, own.row), []).append(closing)
    return [tuple(row) for row in rows.values()]


def _made(step: Step, number: int, sign: str) -> Mark:
    name = step.says.removeprefix("Make ").removeprefix("the ")
    return Mark(place=f"{step.id}#{number}", sign=sign, sort="make", words=name.rstrip("."))


def _mirrored(closings: Sequence[Closing], plan: Plan) -> list[tuple[Closing, ...]]:
    """Closings with their mirror twins, each pair once."""
    by_opener = {closing.opener: closing for closing in closings}
    found: list[tuple[Closing, ...]] = []
    seen: set[Opener] = set()
    for closing in closings:
        if closing.opener in seen:
            continue
        twin = plan.mirror.of(closing.opener)
        pair = [closing]
        if twin is not None and twin != closing.opener and twin in by_opener:
            pair.append(by_opener[twin])
        seen.update(one.opener for one in pair)
        found.append(tuple(pair))
    return found


def _mark(sheet: MakeSheet, closing: Closing) -> Mark:
    """A closing by its place, with all that it takes."""
    a, ends = sheet.assembly, sheet.plan.joints.ends
    member = a.members[closing.opener.member]
    far = [(a.members[o.member], o.port)
           for n in closing.joins for o in ends[n] if o != closing.opener]  # fmt: skip
    sign = "|".join([member.ref, *sorted(label_of(*one) for one in far)])
    took = tuple(sorted(place_of(*one) for one in far))
    name = f"{a.thing(member).name} of {member_name(member)}"
    sort = "once" if closing.sort == "once" else "again"
    if member.strung is not None:
        sort = "thread"
    place = place_of(member, closing.opener.port)
    return Mark(place=place, sign=sign, sort=sort, words=name, took=took)


def current(turns: Sequence[Turn], done: Mapping[str, Mark]) -> int:
    """The first turn that is not done; as many as there are if all are."""
    return next((k for k, turn in enumerate(turns) if not is_done(turn, done)), len(turns))


def is_done(turn: Turn, done: Mapping[str, Mark]) -> bool:
    """Whether everything of a turn is done, and as it is wanted now."""
    return all(mark.place in done and done[mark.place].sign == mark.sign for mark in turn.marks)


def to_undo(turns: Sequence[Turn], done: Mapping[str, Mark]) -> tuple[Undo, ...]:
    """What was done and is wanted otherwise now, the last first. A unit half made is no matter."""
    wanted = {mark.place: mark.sign for turn in turns for mark in turn.marks}
    return tuple(
        _undo(mark)
        for mark in reversed(list(done.values()))
        if mark.sort in ("again", "once", "thread", "make", "cut")
        and wanted.get(mark.place) != mark.sign
    )


def _undo(mark: Mark) -> Undo:
    if mark.sort == "once":
        return Undo(mark, f"Cut off {mark.words}: its wire is lost.", True)
    if mark.sort == "thread":
        return Undo(mark, f"Undo the end of {mark.words}: its crimp or knot is lost.", True)
    if mark.sort == "make":
        return Undo(mark, f"Lay one {mark.words} aside: not needed so any more.", False)
    if mark.sort == "cut":
        said = mark.words.partition(" × ")[2].removesuffix(".").removesuffix(" each")
        return Undo(mark, f"Lay {said}, aside: an off-cut now.", False)
    return Undo(mark, f"Open {mark.words}.", False)


def left_of(assembly: Assembly, turn: Turn, done: Mapping[str, Mark]) -> tuple[str, ...]:
    """The places of a turn that are left to do, where others of it are done already."""
    left = [c for c, mark in zip(turn.closings, turn.marks, strict=False)
            if mark.place not in done or done[mark.place].sign != mark.sign]  # fmt: skip
    if len(left) == len(turn.closings):
        return ()
    return tuple(member_name(assembly.members[c.opener.member]) for c in left)


def results_in(assembly: Assembly, turn: Turn) -> tuple[str, ...]:
    """The places of the closings of a turn, as a maker finds them: run, side, number."""
    members = assembly.members
    return tuple(member_name(members[c.opener.member]) for c in turn.closings)
