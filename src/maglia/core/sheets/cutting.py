"""Cutting chain: which stretches, from which lengths on the bench, and what each cut sacrifices.

A cut through a soldered link destroys it: k pieces of n₁…n_k links from one length use
Σn + (k − 1) links, and one more if a remainder is left. An openable link is opened: nothing lost.
"""

from collections import Counter
from collections.abc import Mapping, Sequence

from maglia.core.assembly.assembly import Assembly
from maglia.core.parts.parts import Chain, chain_length_mm
from maglia.core.values.record import Value


class Cut(Value, frozen=True):
    """`count` stretches of `links` links of one chain."""

    chain: str
    links: int
    length_mm: float | None
    count: int


class Bar(Value, frozen=True):
    """One length of stock: its pieces in links, the links lost between them, the off-cut."""

    chain: str
    stock_links: int
    pieces: tuple[int, ...]
    sacrificed: int
    offcut_links: int


class ChainPlan(Value, frozen=True):
    """All cuts of one chain. `links_needed` is what a length must have if stock is not known;
    `missing` are pieces that no length in stock can give."""

    chain: str
    cuts: tuple[Cut, ...]
    links_used: int
    links_needed: int
    bars: tuple[Bar, ...]
    missing: tuple[int, ...]


def cut_list(assembly: Assembly, copies: int = 1) -> tuple[Cut, ...]:
    """Every stretch of chain of the piece, longest first within each chain."""
    stretches: Counter[tuple[str, int]] = Counter()
    for member, number in assembly.tally:
        if member.kind == "chain":
            stretches[(member.ref, member.links)] += number * copies
    order = {ref: k for k, ref in enumerate(dict.fromkeys(ref for ref, _ in stretches))}
    return tuple(
        Cut(ref, links, chain_length_mm(_chain(assembly, ref), links), count)
        for (ref, links), count in sorted(
            stretches.items(), key=lambda entry: (order[entry[0][0]], -entry[0][1])
        )
    )


MOST_TRIES, MOST_SEARCHED = 20_000, 200
"""How long a way that leaves no piece over is looked for, and among how many pieces."""
Lots = Mapping[str, Sequence[float]]
"""Lengths of chain and wire on the bench, mm, by the id of their part."""


def cutting_plan(assembly: Assembly, lots: Lots, copies: int = 1) -> tuple[ChainPlan, ...]:
    """How to cut every chain, from the lengths on the bench where there are any."""
    plans: dict[str, list[Cut]] = {}
    for cut in cut_list(assembly, copies):
        plans.setdefault(cut.chain, []).append(cut)
    return tuple(
        _plan(_chain(assembly, ref), tuple(cuts), lots.get(ref, ())) for ref, cuts in plans.items()
    )


def _chain(assembly: Assembly, ref: str) -> Chain:
    chain = assembly.things[ref]
    assert isinstance(chain, Chain)
    return chain


def links_needed(pieces: list[int], *, soldered: bool, remainder: bool) -> int:
    """Links that one length must have to give these pieces."""
    lost = (len(pieces) - 1 + (1 if remainder else 0)) if soldered and pieces else 0
    return sum(pieces) + lost


def _plan(chain: Chain, cuts: tuple[Cut, ...], lengths_mm: Sequence[float]) -> ChainPlan:
    pieces = [cut.links for cut in cuts for _ in range(cut.count)]
    bars: tuple[Bar, ...] = ()
    missing: tuple[int, ...] = ()
    if lengths_mm and chain.pitches_mm:
        bars, missing = _fill(chain, pieces, lengths_mm)
    needed = links_needed(pieces, soldered=not chain.openable, remainder=True)
    return ChainPlan(chain.id, cuts, sum(pieces), needed, bars, missing)


def links_in(chain: Chain, length_mm: float) -> int:
    """Whole links in a measured length."""
    pattern = chain.pitches_mm or (1.0,)
    whole = int(length_mm // sum(pattern))
    rest, links = length_mm - whole * sum(pattern), whole * len(pattern)
    for pitch in pattern:
        if rest + 1e-6 < pitch:
            break
        rest, links = rest - pitch, links + 1
    return links


def _fill(
    chain: Chain, pieces: list[int], lengths_mm: Sequence[float]
) -> tuple[tuple[Bar, ...], tuple[int, ...]]:
    """Longest pieces first, each into the fullest length that still takes it; where one is left
    over, every way is tried before it is called missing."""
    loss = 0 if chain.openable else 1
    stock = sorted(links_in(chain, length) for length in lengths_mm)
    wanted = sorted(pieces, reverse=True)
    taken, missing = _greedily(wanted, stock, loss)
    if missing and sum(wanted) <= sum(stock):
        taken, missing = _searched(wanted, stock, loss) or (taken, missing)
    bars = tuple(_bar(chain.id, links, got, loss) for links, got in zip(stock, taken, strict=True))
    return tuple(bar for bar in bars if bar.pieces), tuple(missing)


def _bar(chain: str, links: int, got: list[int], loss: int) -> Bar:
    """The last piece may end with the length's last link: then its cut takes none."""
    left = max(links - sum(got) - loss * len(got), 0)
    return Bar(chain, links, tuple(got), links - sum(got) - left, left)


Filled = tuple[list[list[int]], list[int]]
"""The pieces of each length, and those that are missing."""


def _greedily(wanted: list[int], stock: list[int], loss: int) -> Filled:
    free = [links + loss for links in stock]  # every piece takes its cut with it
    taken: list[list[int]] = [[] for _ in stock]
    missing = []
    for piece in wanted:
        fitting = [k for k in range(len(free)) if free[k] >= piece + loss]
        if not fitting:
            missing.append(piece)
            continue
        k = min(fitting, key=lambda k: (not taken[k], free[k]))
        taken[k].append(piece)
        free[k] -= piece + loss
    return taken, missing


def _searched(wanted: list[int], stock: list[int], loss: int) -> Filled | None:
    """A way that leaves no piece over, or None if none was found in `MOST_TRIES`."""
    free = [links + loss for links in stock]
    taken: list[list[int]] = [[] for _ in stock]
    tries = 0

    def placed(k: int) -> bool:
        nonlocal tries
        if k == len(wanted):
            return True
        tries += 1
        if tries > MOST_TRIES:
            return False
        for room in sorted({r for r in free if r >= wanted[k] + loss}):
            bar = free.index(room)  # lengths with as much room left are the same to it
            free[bar] -= wanted[k] + loss
            taken[bar].append(wanted[k])
            if placed(k + 1):
                return True
            free[bar] += wanted[k] + loss
            taken[bar].pop()
        return False

    return (taken, []) if len(wanted) <= MOST_SEARCHED and placed(0) else None
