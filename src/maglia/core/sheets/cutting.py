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
    """Longest pieces first, each into the fullest length that still takes it."""
    loss = 0 if chain.openable else 1
    stock = sorted(links_in(chain, length) for length in lengths_mm)
    free = list(stock)
    taken: list[list[int]] = [[] for _ in stock]
    missing = []
    for piece in sorted(pieces, reverse=True):
        fitting = [k for k in range(len(free)) if free[k] >= piece]
        if not fitting:
            missing.append(piece)
            continue
        k = min(fitting, key=lambda k: (not taken[k], free[k]))
        taken[k].append(piece)
        free[k] -= piece + (loss if free[k] > piece else 0)
    bars = tuple(
        Bar(chain.id, links, tuple(got), links - sum(got) - left, left)
        for links, got, left in zip(stock, taken, free, strict=True)
        if got
    )
    return bars, tuple(missing)
