"""What stands where: runs nearest to the cursor first, and the thing that words mean on them:
“2nd rose link”, “last ring of Extender”, “lyre”.
"""

from collections.abc import Iterator
from typing import NamedTuple

from maglia.core.assembly.rows import flattened, written_out
from maglia.core.parts.units import Thing
from maglia.core.piece.items import (
    Item,
    RingItem,
    UnitItem,
)
from maglia.core.piece.piece import Run, TiedRows
from maglia.phrases.here import Here
from maglia.phrases.items import ref_of
from maglia.phrases.names import means
from maglia.phrases.words import Misread, Word, Words, unknown


class Stand(NamedTuple):
    """An item of a run where it stands: its number, and which ring or unit of it."""

    run: Run
    number: int
    item: Item
    at: int = 1


def split_of(words: Words) -> tuple[Words, Words]:
    """What stands before the first “of”, and what after."""
    at = next((k for k, word in enumerate(words) if word.low == "of" and k), None)
    return (words, ()) if at is None else (words[:at], words[at + 1 :])


def is_nth(word: Word) -> bool:
    return word.sort == "nth" or word.low in ("last", "first")


def runs_near(here: Here) -> list[Run]:
    """Every run as it is laid: the one under the cursor first, then the others as written."""
    written = [one.run for one in written_out(here.piece)]
    own = here.spot and here.piece.owner(here.spot.owner)
    first = own.written_as if own else ""
    return sorted(written, key=lambda run: run.name != first)


def standing(run: Run) -> Iterator[tuple[int, Item]]:
    """Items of a run outward with their numbers, repeats written out; 0 lies on the fold."""
    if run.centre is not None:
        yield 0, run.centre
    yield from enumerate(flattened(run.items), 1)


def run_named(words: Words, here: Here) -> Run | None:
    """The run that words name: exactly, by a beginning, or a row of tied links by its number."""
    said = " ".join(word.low for word in words)
    found = runs_near(here)
    if len(words) == 2 and words[0].low == "row" and words[1].whole:
        tied = next((row for row in here.piece.rows if isinstance(row, TiedRows)), None)
        said = tied.level_name(words[1].whole - 1).lower() if tied else said
    exact = next((run for run in found if run.name.lower() == said), None)
    return exact or next((run for run in found if run.name.lower().startswith(f"{said} ")), None)


def runs_of(of: Words, here: Here) -> list[Run]:
    """The run that is named, else all, nearest first."""
    if not of:
        found = runs_near(here)
        if not found:
            raise Misread("there is nothing to hang from yet: begin with what lies on the fold")
        return found
    run = run_named(of, here)
    if run is None:
        names = ", ".join(f"“{run.name}”" for run in runs_near(here)[:8]) or "none yet"
        raise unknown(of, f"is no run; there is {names}")
    return [run]


def stand_of(words: Words, here: Here) -> Stand:
    """“2nd rose link”, “last ring of Extender”, “lyre”: where the thing stands that is meant."""
    if not words:
        raise Misread("say of what: 2nd ring, last rose link")
    head, of = split_of(words)
    if low_of(head) == "fold":
        run = next((run for run in runs_of(of, here) if run.centre is not None), None)
        if run is None or run.centre is None:
            raise unknown(words, "is not there: nothing lies across the fold")
        return Stand(run, 0, run.centre, 0)
    row = next((k for k, w in enumerate(words) if w.low == "link" and k >= 2), None)
    if words[0].low == "row" and row == 2 and len(words) == 4 and words[3].whole is not None:
        runs = runs_of(words[:2], here)
        return _nth_of(list(_units(runs[0])), words[3].whole, words)
    nth: int | None = None
    if is_nth(head[0]):
        nth = {"first": 1, "last": -1}.get(head[0].low, head[0].nth)
        head = head[1:]
    elif head[-1].sort == "number" and len(head) > 1 and head[-1].whole and nth is None:
        run = run_named(head, here)
        if run is not None:
            return _only(run, words)
    if not head:
        raise unknown(words, "does not say of what: 2nd ring, last rose link")
    for run in runs_of(of, here):
        found = [stand for stand in every_of(run) if _means(head, stand, here)]
        if not found and nth is None and not of and run.name.lower() == low_of(head):
            return _only(run, words)
        if found:
            return _pick(found, nth, words, run)
    raise _not_there(head, of, here)


def low_of(words: Words) -> str:
    return " ".join(word.low for word in words)


def _only(run: Run, words: Words) -> Stand:
    stands = [Stand(run, number, item) for number, item in standing(run)]
    if len(stands) != 1:
        raise unknown(words, f"is a run of {len(stands)} things: say which of them")
    return stands[0]


def every_of(run: Run) -> Iterator[Stand]:
    """Everything that stands in a run, each ring by itself."""
    for number, item in standing(run):
        count = item.count if isinstance(item, RingItem) else 1
        if number == 0 and count > 1:
            half, odd = divmod(count, 2)
            yield from (Stand(run, 0, item, at) for at in range(0 if odd else 1, half + 1))
            continue
        for at in range(count):
            yield Stand(run, number, item, 0 if number == 0 else at + 1)


def _units(run: Run) -> Iterator[Stand]:
    return (stand for stand in every_of(run) if isinstance(stand.item, UnitItem))


def thing_at(item: Item, here: Here) -> Thing | None:
    return here.things.get(ref_of(item))


def _means(words: Words, stand: Stand, here: Here) -> bool:
    thing = thing_at(stand.item, here)
    return thing is not None and means(words, thing)


def _pick(found: list[Stand], nth: int | None, words: Words, run: Run) -> Stand:
    """The one that is meant: off the fold counted outward; unsaid there must be one only."""
    if nth is None:
        if len(found) > 1:
            raise unknown(words, f"stands {len(found)} times on “{run.name}”: say 1st, 2nd, … or "
                          "last")  # fmt: skip
        return found[0]
    if nth == -1:
        return found[-1]
    return _nth_of(found, nth, words)


def _nth_of(found: list[Stand], nth: int, words: Words) -> Stand:
    on_fold = bool(found) and found[0].number == 0 and found[0].at == 0
    place = nth if on_fold else nth - 1
    if not found or not 0 <= place < len(found):
        run = f" on “{found[0].run.name}”" if found else ""
        raise unknown(words, f"is not there{run}: counted outward there are "
                      f"{len(found) - on_fold}")  # fmt: skip
    return found[place]


def _not_there(words: Words, of: Words, here: Here) -> Misread:
    names = dict.fromkeys(
        thing.name
        for run in runs_of(of, here)
        for _, item in standing(run)
        if (thing := thing_at(item, here)) is not None
    )
    runs = ", ".join(f"“{run.name}”" for run in runs_near(here)[:6])
    there = ", ".join(list(names)[:6])
    return unknown(words, f"is no place here; there is {there or 'nothing'}, in {runs}")
