"""Plans by filling: lengths in some order, each as full as it goes, or to an off-cut that is kept.

Which sums can be had from what is left are the bits of one integer.
"""

from collections.abc import Sequence
from random import Random

from maglia.core.cutting.lengths import Kind, Length, Placed, Stuff

Filled = list[tuple[Length, tuple[Placed, ...]]]


def filled(
    stuff: Stuff, kinds: Sequence[Kind], lengths: Sequence[Length], random: Random | None
) -> Filled:
    """Fill lengths in the order given; by chance where there is a choice."""
    left = [kind.number for kind in kinds]
    found: Filled = []
    for length in lengths:
        if not any(left):
            break
        placed = (_plain if stuff.period == 1 else _patterned)(stuff, kinds, length, left, random)
        for one in placed:
            left[one.kind] -= 1
        if placed:
            found.append((length, tuple(placed)))
    return found


def _plain(
    stuff: Stuff, kinds: Sequence[Kind], length: Length, left: Sequence[int], random: Random | None
) -> list[Placed]:
    """All that is left if it fits with a fair off-cut; else the fullest that leaves no scrap."""
    room = length.links + stuff.lost
    order = [k for k, n in enumerate(left) if n]
    if random is not None:
        random.shuffle(order)
    sizes = {k: kinds[k].links + stuff.lost for k in order}
    whole = sum(sizes[k] * left[k] for k in order)
    stages = [1]
    for k in order:  # the sums with one kind more, in powers of two of it
        bits, n, step = stages[-1], left[k], 1
        while n:
            take = min(step, n)
            bits |= bits << (take * sizes[k])
            n, step = n - take, step * 2
        stages.append(bits & ((1 << (room + 1)) - 1))
    want = _best_sum(stages[-1], room, stuff, whole)
    placed: list[Placed] = []
    for k, before in zip(reversed(order), reversed(stages[:-1]), strict=True):
        few = next(n for n in range(left[k] + 1)
                   if n * sizes[k] <= want and before >> (want - n * sizes[k]) & 1)  # fmt: skip
        placed += [Placed(k, 0)] * few
        want -= few * sizes[k]
    placed.sort(key=lambda one: -kinds[one.kind].links)
    return placed


def _best_sum(bits: int, room: int, stuff: Stuff, whole: int) -> int:
    """What a length is filled to: exactly, or to its last link, or to an off-cut that is kept."""
    if whole <= room and (room - whole <= stuff.lost or _kept(room - whole, stuff)):
        return whole
    for exact in range(stuff.lost + 1):
        if room >= exact and bits >> (room - exact) & 1:
            return room - exact
    most = room - stuff.lost - stuff.least_kept[0]
    kept = bits & ((1 << (most + 1)) - 1) if most >= 0 else 0
    return max(kept, 1).bit_length() - 1 if kept > 1 else bits.bit_length() - 1


def _kept(over: int, stuff: Stuff) -> bool:
    return over - stuff.lost >= stuff.least_kept[0]


def _patterned(
    stuff: Stuff, kinds: Sequence[Kind], length: Length, left: Sequence[int], random: Random | None
) -> list[Placed]:
    """Link after link: the longest that may begin there, or by chance another; else one dropped."""
    rest, at = list(left), 0
    placed: list[Placed] = []
    while at < length.links:
        phase = (length.first_phase + at) % stuff.period
        fitting = [k for k, n in enumerate(rest) if n and phase in kinds[k].starts
                   and at + kinds[k].links <= length.links]  # fmt: skip
        if not fitting:
            at += 1
            if not any(n and at + kinds[k].links <= length.links for k, n in enumerate(rest)):
                break
            continue
        chosen = max(fitting, key=lambda k: kinds[k].links)
        if random is not None and random.random() < 0.4:
            chosen = random.choice(fitting)
        rest[chosen] -= 1
        placed.append(Placed(chosen, phase))
        at += kinds[chosen].links + stuff.lost
    return placed
