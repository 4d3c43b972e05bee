"""Cutting chain: which stretches, and what each cut sacrifices.

A cut through a soldered link destroys it: k pieces of n₁…n_k links from one length use
Σn + (k − 1) links, and one more if a remainder is left. An openable link is opened: nothing lost.
"""

from collections import Counter

from maglia.core.assembly.assembly import Assembly
from maglia.core.parts.parts import Chain, chain_length_mm
from maglia.core.values.measures import format_links
from maglia.core.values.record import Value


class Cut(Value, frozen=True):
    """`count` stretches of `links` links of one chain, each read from `first_phase` on."""

    chain: str
    links: int
    length_mm: float | None
    count: int
    first_phase: int = 0

    @property
    def words(self) -> str:
        return stretch_words(self.links, self.first_phase)


class ChainNeed(Value, frozen=True):
    """All cuts of one chain; `links_needed` is what one length must have to give them all."""

    chain: str
    cuts: tuple[Cut, ...]
    links_used: int
    links_needed: int


def stretch_words(links: int, first_phase: int) -> str:
    """“12 links”, “12 links from link 2”."""
    begun = f" from link {first_phase + 1}" if first_phase else ""
    return f"{format_links(links)}{begun}"


def cut_list(assembly: Assembly, copies: int = 1) -> tuple[Cut, ...]:
    """Every stretch of chain of the piece, longest first within each chain."""
    stretches: Counter[tuple[str, int, int]] = Counter()
    for member, number in assembly.tally:
        if member.kind == "chain":
            pattern = len(_chain(assembly, member.ref).pitches_mm or (0,))
            stretches[member.ref, member.links, member.first_phase % pattern] += number * copies
    order = {ref: k for k, ref in enumerate(dict.fromkeys(ref for ref, *_ in stretches))}
    return tuple(
        Cut(ref, links, chain_length_mm(_chain(assembly, ref), links, phase + 1), count, phase)
        for (ref, links, phase), count in sorted(
            stretches.items(), key=lambda entry: (order[entry[0][0]], -entry[0][1], entry[0][2])
        )
    )


def chain_needs(assembly: Assembly, copies: int = 1) -> tuple[ChainNeed, ...]:
    """What is cut of every chain, and what that takes."""
    found: dict[str, list[Cut]] = {}
    for cut in cut_list(assembly, copies):
        found.setdefault(cut.chain, []).append(cut)
    return tuple(_need(_chain(assembly, ref), tuple(cuts)) for ref, cuts in found.items())


def _chain(assembly: Assembly, ref: str) -> Chain:
    chain = assembly.things[ref]
    assert isinstance(chain, Chain)
    return chain


def links_needed(pieces: list[int], *, soldered: bool, remainder: bool) -> int:
    """Links that one length must have to give these pieces."""
    lost = (len(pieces) - 1 + (1 if remainder else 0)) if soldered and pieces else 0
    return sum(pieces) + lost


def _need(chain: Chain, cuts: tuple[Cut, ...]) -> ChainNeed:
    pieces = [cut.links for cut in cuts for _ in range(cut.count)]
    needed = links_needed(pieces, soldered=not chain.openable, remainder=True)
    return ChainNeed(chain.id, cuts, sum(pieces), needed)
