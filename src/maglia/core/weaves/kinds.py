"""The traditional weaves by their generic names: their rings row by row, what goes through what,
what is usually opened, and the ratios of inside to wire at which they can be woven.

A weave is written as places along its strip, each with the rings that lie abreast there. Rings of
places that follow each other go through each other: all of them, unless the weave says which.
"""

from collections.abc import Callable, Iterator
from functools import lru_cache
from itertools import pairwise, product

from maglia.core.piece.items import MOST_ABREAST, MOST_ROWS, WeaveItem
from maglia.core.values.record import DomainError, Value

RING, END = "ring", "end ring"


class Woven(Value, frozen=True):
    """A weave ring by ring. `places`: the roles of the rings at each, in order along the strip;
    `rows`: the row each place is of, from 0. Rings are numbered from 0, place by place; `joints`
    are pairs that go through each other, `laid` those of a rubber folded over the first. `aside`
    hang from the ring named, and bear nothing."""

    places: tuple[tuple[str, ...], ...]
    rows: tuple[int, ...]
    joints: tuple[tuple[int, int], ...]
    laid: frozenset[tuple[int, int]]
    aside: dict[int, int]

    @property
    def roles(self) -> tuple[str, ...]:
        """The role of every ring."""
        return tuple(role for place in self.places for role in place)

    def count(self, role: str) -> int:
        return self.roles.count(role)


Places = list[tuple[int, tuple[str, ...]]]
"""Row and roles of each place."""


class Sort(Value, frozen=True):
    """What a kind of weave is: its roles in the order in which they are said, those opened (none:
    every second place, of Byzantine two of three), the least and most inside-to-wire ratio, and how
    it is laid."""

    roles: tuple[str, ...]
    opened: tuple[str, ...]
    ratio: tuple[float, float]
    places: Callable[[WeaveItem], Places]
    rows: str = "rows"
    """What one of its rows is called."""
    step: int = 1
    """Rows are whole numbers of these."""
    abreast: int = 1
    """How many there are abreast if nothing is said."""


@lru_cache(maxsize=64)
def woven(item: WeaveItem) -> Woven:
    """The weave ring by ring. Raises DomainError for what does not close or has no such form."""
    sort = SORTS[item.weave]
    _refuse(item, sort)
    laid = sort.places(item)
    places = tuple(roles for _, roles in laid)
    first, starts = 0, []
    for roles in places:
        starts.append(first)
        first += len(roles)
    if item.weave == "stretch triangles":
        return _triangles(places, laid, starts)
    aside: dict[int, int] = {}
    begins = int(item.end_rings > 1)
    joints: list[tuple[int, int]] = []
    order = list(range(len(places)))
    for one, other in [*pairwise(order), *([(order[-1], 0)] if item.closes else [])]:
        joints += (tuple(sorted((starts[one] + a, starts[other] + b)))  # type: ignore[misc]
                   for a, b in _through(item, places[one], places[other],
                                        wide_first=(one - begins) % 2 == 0))  # fmt: skip
    for k, roles in enumerate(places):
        for n, role in enumerate(roles):
            if role == "tuft":
                aside[starts[k] + n] = starts[k]
                joints.append((starts[k], starts[k] + n))
    return Woven(places, tuple(row for row, _ in laid), tuple(joints), frozenset(), aside)


def _refuse(item: WeaveItem, sort: Sort) -> None:
    if item.rows > MOST_ROWS or item.abreast > MOST_ABREAST:
        raise DomainError(
            f"{item.weave}: {item.rows} {sort.rows}, {item.abreast} abreast are more than "
            f"{MOST_ROWS} and {MOST_ABREAST}"
        )
    fewest = 3 if item.closes else 1
    if item.rows < fewest:
        raise DomainError(f"{item.weave}: a band that closes on itself has {fewest} {sort.rows} or "
                          "more")  # fmt: skip
    if item.weave == "stretch triangles":
        if not item.closes:
            raise DomainError("stretch triangles close on themselves: say closed")
        if item.rows % 2:
            raise DomainError(
                f"{item.rows} triangles do not close: two points would meet the same way round; "
                f"make it {item.rows - 1} or {item.rows + 1}"
            )
    if item.closes and item.end_rings:
        raise DomainError(f"{item.weave}: what closes on itself has no end rings")


def _through(
    item: WeaveItem, one: tuple[str, ...], other: tuple[str, ...], *, wide_first: bool
) -> Iterator[tuple[int, int]]:
    """Which rings of two places that follow each other go through each other."""
    if item.weave == "four in one" and END not in (*one, *other):
        for a, b in product(range(len(one)), range(len(other))):
            wide, narrow = (a, b) if wide_first else (b, a)
            if wide - narrow in (0, 1):
                yield a, b
        return
    for a, b in product(range(len(one)), range(len(other))):
        if "tuft" not in (one[a], other[b]):
            yield a, b


def _triangles(places: tuple[tuple[str, ...], ...], laid: Places, starts: list[int]) -> Woven:
    """Triangle k stands on the corners k, k + 1 and k + 2 of a zigzag, with a rubber from its large
    ring to each; two small rings join it to the next, at the two corners that both stand on."""
    joints, over, count = [], set(), len(places) // 2
    for k in range(count):
        here, small, then = starts[2 * k], starts[2 * k + 1], starts[2 * ((k + 1) % count)]
        over |= {(here, here + 1 + corner) for corner in range(3)}
        for corner in range(2):
            joints += [(small + corner, here + 2 + corner), (small + corner, then + 1 + corner)]
    joints = [(min(pair), max(pair)) for pair in joints]
    return Woven(places, tuple(row for row, _ in laid), (*sorted(over), *joints), frozenset(over),
                 {})  # fmt: skip


# --- places ---------------------------------------------------------------------------------------


def _alike(*groups: tuple[str, ...]) -> Callable[[WeaveItem], Places]:
    """The same places in every row."""
    return lambda item: [(row, group) for row in range(item.rows) for group in groups]


def _abreast(item: WeaveItem) -> Places:
    return [(row, (RING,) * item.abreast) for row in range(item.rows)]


def _four_in_one(item: WeaveItem) -> Places:
    """Across the strip rings of two kinds alternate; each of the second kind goes through four."""
    wide, narrow = -(-item.abreast // 2), item.abreast // 2
    if not narrow:
        raise DomainError("four in one is a strip of two rings across or more")
    found: Places = []
    for row in range(item.rows):
        found += [(row, (RING,) * wide), (row, (RING,) * narrow)]
    if not item.closes:
        found.append((item.rows, (RING,) * wide))
    return _with_ends(item, found)


def _with_ends(item: WeaveItem, found: Places) -> Places:
    last = found[-1][0] if found else 0
    before = [(0, (END,))] if item.end_rings > 1 else []
    return [*before, *found, *([(last, (END,))] if item.end_rings else [])]


def _doubled(item: WeaveItem) -> Places:
    """Two large closed, then one small and one large through four. With one end ring (a bracelet)
    it begins with a small and a large and ends with two small; with two (a necklace) there are two
    small at both ends, and a row more of large."""
    large, tie, ends = ("large", "large"), ("small", "second large"), ("small", "small")
    rows = item.rows + (item.end_rings == 2)
    found: Places = []
    if item.end_rings == 1:
        found.append((0, tie))
    for row in range(rows):
        found.append((row, large))
        if row + 1 < rows or item.closes:
            found.append((row, tie))
    if item.end_rings == 2:
        found.insert(0, (0, ends))
    if item.end_rings:
        found.append((rows - 1, ends))
    return _with_ends(item, found)


def _shaggy(item: WeaveItem) -> Places:
    return [(row, ("base", *("tuft",) * item.abreast)) for row in range(item.rows)]


SORTS: dict[str, Sort] = {
    "one in one": Sort((RING,), (), (2.5, 7.0), _alike((RING,)), "rings"),
    "m in m": Sort((RING,), (), (3.2, 7.0), _abreast, "places", abreast=2),
    "four in one": Sort((RING, END), (), (3.3, 6.5), _four_in_one, abreast=3),
    "doubled strip": Sort(("large", "small", "second large", END),
                          ("small", "second large", END), (3.3, 7.5), _doubled),
    "shaggy loops": Sort(("base", "tuft"), ("base",), (3.5, 9.0), _shaggy, "rings", abreast=2),
    "box": Sort((RING,), (), (3.0, 4.5), _alike((RING, RING), (RING, RING)), "periods"),
    "Byzantine": Sort((RING,), (), (3.0, 4.6), _alike(*((RING, RING),) * 3), "periods"),
    "rubber and metal": Sort(("rubber", RING), (RING,), (2.5, 7.0),
                             _alike(("rubber",), (RING,)), "pairs"),
    "stretch triangles": Sort(("large", "rubber", "small"), ("small",), (2.5, 9.0),
                              _alike(("large", "rubber", "rubber", "rubber"), ("small", "small")),
                              "triangles", step=2),
}  # fmt: skip


def opened(item: WeaveItem, role: str, place: int) -> bool:
    """Whether a ring is opened on the strip: as the maker said, else as is usual; where one role
    does for both, every second place."""
    own = next((one for one in item.roles if one.role == role), None)
    if own is not None and own.readiness is not None:
        return own.readiness == "opened"
    sort = SORTS[item.weave]
    if sort.opened:
        return role in sort.opened
    return role == END or (place % 3 != 1 if item.weave == "Byzantine" else place % 2 == 1)
