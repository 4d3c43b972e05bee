"""What no plan can better, told without a solver: by sums, and by what a length can hold."""

from collections.abc import Sequence

from maglia.core.cutting.lengths import Kind, Length, Score, Stuff


def need(stuff: Stuff, kinds: Sequence[Kind]) -> int:
    """What all pieces take with a cut each."""
    return sum((kind.links + stuff.lost) * kind.number for kind in kinds)


def room(stuff: Stuff, lengths: Sequence[Length]) -> int:
    """What lengths offer: the last piece may end with the last link."""
    return sum(one.links + stuff.lost for one in lengths)


def fewest_new(stuff: Stuff, kinds: Sequence[Kind], lots: Sequence[Length], sold: int) -> int:
    """New lengths that must be bought, by what is wanted and what is there."""
    short = need(stuff, kinds) - room(stuff, lots)
    by_sum = max(0, -(-short // (sold + stuff.lost)))
    # pieces that no length on the bench can hold lie on new ones
    most = max((one.links for one in lots), default=0)
    long = [kind for kind in kinds if kind.links > most]
    by_length = -(-need(stuff, long) // (sold + stuff.lost))
    return max(by_sum, by_length)


def least(stuff: Stuff, kinds: Sequence[Kind], lengths: Sequence[Length], found: Score) -> Score:
    """Bounds on every goal, the earlier goals as they were found."""
    wanted = need(stuff, kinds)
    new = sorted((one for one in lengths if one.new), key=lambda one: -one.links)
    lots = [one for one in lengths if not one.new]
    use = [*lots, *new[: found.new]]
    touched = found.new
    had = sum(one.links + stuff.lost for one in new[: found.new])
    for one in sorted(lots, key=lambda one: -one.links):
        if had >= wanted:
            break
        had += one.links + stuff.lost
        touched += 1
    pieces = sum(kind.number for kind in kinds)
    exact = _most_exact(stuff, wanted, use, found.touched)
    longest = _longest(stuff, wanted, use, lots, found)
    return Score(found.missing, found.new, 0, touched, stuff.lost * (pieces - exact), -longest)


def _most_exact(stuff: Stuff, wanted: int, use: Sequence[Length], touched: int) -> int:
    """Lengths that can be cut up without an off-cut: the smallest within what is wanted."""
    sizes, found, had = sorted(one.links + stuff.lost for one in use), 0, 0
    for size in sizes[:touched]:
        if had + size > wanted:
            break
        found, had = found + 1, had + size
    return found


def _longest(
    stuff: Stuff, wanted: int, use: Sequence[Length], lots: Sequence[Length], found: Score
) -> int:
    """The longest stretch that can be left: one that is not touched, or all that is over in one."""
    over = sum(one.links + stuff.lost for one in use) - wanted
    aside = len(use) - found.touched
    untouched = [one.links for one in lots if aside and over >= one.links + stuff.lost]
    sizes = sorted(one.links + stuff.lost for one in lots)
    rest = over - sum(sizes[:aside]) - stuff.lost
    longest = max((one.links for one in use), default=0)
    return max([*untouched, min(rest, longest), 0])
