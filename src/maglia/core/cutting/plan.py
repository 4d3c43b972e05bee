"""The cutting plan of one chain for a day: a good one at once, better ones as they come, and what
no plan can better.
"""

import time
from collections.abc import Callable, Iterator, Sequence
from random import Random

from maglia.core.cutting.bounds import fewest_new, least
from maglia.core.cutting.fill import filled
from maglia.core.cutting.lengths import Kind, Laid, Length, Score, Stuff, laid, missing_links, score
from maglia.core.values.record import Value

GOALS = ("missing", "new", "short", "touched", "sacrificed", "longest")
TRIES, PATIENCE = 1500, 120
"""How often lengths are filled, and how often in vain: by number, not by time, so that the same day
is cut the same everywhere."""
MOST_SPARE, SHARE = 2, 0.5


class Plan(Value, frozen=True):
    """The lengths that are cut with their pieces; what it is worth, and bounds on that; `missing`
    are links of pieces that nothing gives."""

    rows: tuple[Laid, ...]
    missing: tuple[int, ...]
    found: Score
    bound: Score

    @property
    def proven(self) -> bool:
        return self.found == self.bound


def plans(
    stuff: Stuff,
    kinds: Sequence[Kind],
    lots: Sequence[Length],
    sold: int | None = None,
    seconds: float = 20.0,
    stop: Callable[[], bool] = lambda: False,
) -> Iterator[Plan]:
    """Better and better plans, the last one the best that was found; the same for the same day.
    `sold` is how many links a length has that is bought; without it what does not fit is missing.
    Stops within 0.2 s of `stop`."""
    day = _Day(stuff, kinds, lots, sold)
    yield from day.tried(stop)
    if not day.best.proven and not stop():
        yield from day.proved(seconds, stop)


def plan(
    stuff: Stuff,
    kinds: Sequence[Kind],
    lots: Sequence[Length],
    sold: int | None = None,
    seconds: float = 20.0,
) -> Plan:
    """The best plan that is found in so many seconds."""
    *_, best = plans(stuff, kinds, lots, sold, seconds)
    return best


def lacks(
    stuff: Stuff, kinds: Sequence[Kind], lots: Sequence[Length], seconds: float = 1.0
) -> tuple[int, ...]:
    """The links of what these lengths do not give; nothing as soon as any plan gives all."""
    missing: tuple[int, ...] = ()
    for made in plans(stuff, kinds, lots, None, seconds):
        missing = made.missing
        if not missing:
            break
    return missing


class _Day:
    def __init__(
        self, stuff: Stuff, kinds: Sequence[Kind], lots: Sequence[Length], sold: int | None
    ) -> None:
        self.stuff, self.kinds, self.lots, self.sold = stuff, kinds, list(lots), sold
        self.buyable = [kind for kind in kinds if sold is not None and kind.links <= sold]
        """What a length that is bought can give: it is never missing in the best plan."""
        self.new: list[Length] = []
        self.best = self._plan(())
        if sold is not None and self.buyable:
            most = fewest_new(stuff, self.buyable, (), sold) + MOST_SPARE
            self.new = [Length(f"new {k}", sold, 0, new=True) for k in range(1, most + 1)]

    def _plan(self, rows: Sequence[Laid]) -> Plan:
        missing = missing_links(self.kinds, rows)
        found = score(self.stuff, self.lots, rows, sum(missing))
        low = self._fewest_new()
        if missing or low < found.new:
            bound = Score(0, low, 0, 0, 0, -(10**9))
        else:
            bound = least(self.stuff, self.kinds, [*self.lots, *(r.length for r in rows if
                          r.length.new)], found)  # fmt: skip
        return Plan(tuple(rows), missing, found, bound)

    def _fewest_new(self) -> int:
        if self.sold is None or not self.buyable:
            return 0
        return fewest_new(self.stuff, self.buyable, self.lots, self.sold)

    def _take(self, rows: Sequence[Laid]) -> bool:
        made = self._plan(rows)
        if made.found < self.best.found:
            self.best = made
            return True
        return False

    # --- by filling -----------------------------------------------------------------------------

    def tried(self, stop: Callable[[], bool]) -> Iterator[Plan]:
        """Lengths in many orders, each as full as it goes."""
        random, last = Random(7), 0
        orders = [sorted(self.lots, key=lambda one: -one.links),
                  sorted(self.lots, key=lambda one: one.links), self.lots]  # fmt: skip
        for number in range(TRIES):
            order = orders[number] if number < len(orders) else self._order(random)
            chance = random if number >= len(orders) else None
            rows = [laid(self.stuff, self.kinds, length, placed) for length, placed in
                    filled(self.stuff, self.kinds, [*order, *self.new], chance)]  # fmt: skip
            if self._take(rows) or not number:
                last = number
                yield self.best
            if self.best.proven or stop() or number - last > PATIENCE:
                return

    def _order(self, random: Random) -> list[Length]:
        """A few of the lengths first, those that would do; then the rest."""
        order = list(self.lots)
        random.shuffle(order)
        if random.random() < 0.5:
            order.sort(key=lambda one: -one.links * random.uniform(0.6, 1.4))
        return order

    # --- by proof -------------------------------------------------------------------------------

    def proved(self, seconds: float, stop: Callable[[], bool]) -> Iterator[Plan]:
        """Goal by goal, each earlier one held."""
        from maglia.core.cutting.exact import UNKNOWN, Model

        until = time.monotonic() + seconds
        short = bool(self.best.missing)
        new = self.new[: self.best.found.new] if not short else self.new
        lengths = [*self.lots, *new]
        model = Model(self.stuff, self.kinds, lengths, missing=short)
        bound = list(self.best.bound)
        for k, name in enumerate(GOALS):
            found = self.best.found[k]
            goal = model.longest() if name == "longest" else model.goal(name)
            if found > bound[k] and goal:
                left = until - time.monotonic()
                share = left if name == "longest" else left * SHARE
                answer = model.better(goal, found, share, stop)
                if answer.rows is not None and self._take(answer.rows):
                    yield self.best
                if answer.bound != UNKNOWN:
                    bound[k] = max(bound[k], answer.bound)
            found = self.best.found[k]
            bound[k] = min(bound[k], found)
            model.hold(goal, found)
            fresh = list(self.best.bound)
            bound = [*bound[: k + 1], *(max(a, b) for a, b in zip(bound[k + 1 :], fresh[k + 1 :],
                                                                  strict=True))]  # fmt: skip
            if stop() or time.monotonic() > until:
                break
        told = Score(*(min(b, f) for b, f in zip(bound, self.best.found, strict=True)))
        self.best = Plan(self.best.rows, self.best.missing, self.best.found, told)
        yield self.best
