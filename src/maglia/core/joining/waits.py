"""Waits for glue: when they are over, what must wait with them, and what can be done meanwhile."""

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta

from maglia.core.joining.marked import Mark
from maglia.core.joining.progress import Turn, is_done
from maglia.core.joining.text import MakeSheet


def waits_over(
    sheet: MakeSheet, turns: Sequence[Turn], done: Mapping[str, Mark], at: Mapping[str, datetime]
) -> dict[int, datetime]:
    """When every wait that has begun and is not done is over, by its step: so many minutes after
    the step before it was done; `at` says when what is done was done, by place."""
    found = {}
    own = {turn.step: turn for turn in turns if sheet.steps[turn.step].verb == "wait"}
    for number, step in enumerate(sheet.steps):
        if number not in own or is_done(own[number], done):
            continue
        before = [turn for turn in turns if turn.step == number - 1]
        times = [at[m.place] for turn in before for m in turn.marks if m.place in at]
        if times and all(is_done(turn, done) for turn in before):
            found[number] = max(times) + timedelta(minutes=step.waits_min)
    return found


def held_by(sheet: MakeSheet, waiting: frozenset[int]) -> frozenset[int]:
    """Waits that go on, with every step that needs them. Looks at all of it and the try-on come
    when nothing waits."""
    if not waiting:
        return waiting
    held, names = set(waiting), {sheet.steps[k].id for k in waiting}
    for k, step in enumerate(sheet.steps):
        last = step.stage == "try" or step.id == "look/all"
        if names & set(step.needs) or (last and k > min(waiting)):
            held.add(k)
            names.add(step.id)
    return frozenset(held)


def meanwhile(
    sheet: MakeSheet, turns: Sequence[Turn], done: Mapping[str, Mark], number: int
) -> tuple[int, ...]:
    """Steps that are not done and need nothing of a wait: they can be done meanwhile."""
    held = held_by(sheet, frozenset({number}))
    left = dict.fromkeys(turn.step for turn in turns if not is_done(turn, done))
    return tuple(k for k in left if k not in held)
