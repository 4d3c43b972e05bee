"""What a day leaves on the bench, and what else could be made of it: “enough for the earrings”."""

from collections.abc import Callable, Iterator, Mapping, Sequence

from maglia.core.assembly.assembly import Assembly
from maglia.core.cutting.day import Cutting, Making, cuttings, wants_of
from maglia.core.cutting.lengths import Length
from maglia.core.joining.needs import Need, needs_of
from maglia.core.parts.parts import Bead
from maglia.core.values.record import Value

MOST_TRIED = 20


class Enough(Value, frozen=True):
    """A piece that could be made of what is left, and how many of it."""

    name: str
    copies: int


def bags_left(bags: Mapping[str, int], needs: Sequence[Need]) -> dict[str, int]:
    """Counted parts that are over, with the beads over from strands that are bought whole."""
    left = dict(bags)
    for need in needs:
        thing = need.thing
        if need.is_made:
            continue
        over = left.get(thing.id, 0) - need.count
        if over < 0 and isinstance(thing, Bead) and thing.on_strand:
            over = over % thing.on_strand
        left[thing.id] = max(over, 0)
    return left


def lengths_left(
    lots: Mapping[str, Sequence[Length]], cuts: Mapping[str, Cutting]
) -> dict[str, list[Length]]:
    """Lengths that are over: those untouched, and off-cuts that are kept."""
    left = {ref: list(own) for ref, own in lots.items()}
    for ref, cutting in cuts.items():
        kept = [Length(f"off-cut of {bar.lot}", bar.offcut, bar.offcut_phase)
                for bar in cutting.bars
                if bar.offcut >= cutting.stuff.least_kept[bar.offcut_phase]]  # fmt: skip
        left[ref] = [*cutting.untouched, *kept]
    return left


def enough_for(
    candidates: Sequence[Assembly],
    bags: Mapping[str, int],
    lots: Mapping[str, Sequence[Length]],
    stop: Callable[[], bool] = lambda: False,
) -> Iterator[Enough]:
    """Which of these pieces could be made of what lies there, each by itself, and how many."""
    for assembly in candidates:
        if stop():
            return
        most = _most_by_bags(assembly, bags)
        copies = 0
        while copies < min(most, MOST_TRIED) and _cut(assembly, copies + 1, lots, stop):
            copies += 1
        if copies:
            yield Enough(assembly.piece.name, copies)


def _most_by_bags(assembly: Assembly, bags: Mapping[str, int]) -> int:
    needs = [need for need in needs_of([Making(assembly)], bags) if not need.is_made]
    return min((need.lies // need.count for need in needs), default=MOST_TRIED)


def _cut(
    assembly: Assembly, copies: int, lots: Mapping[str, Sequence[Length]], stop: Callable[[], bool]
) -> bool:
    day = [Making(assembly, copies)]
    parts, _ = wants_of(day)
    done = dict(cuttings(day, lots, {}, seconds=1.0, stop=stop))
    return all(ref in done and not done[ref].missing for ref in parts)
