"""Chain of a pattern across the fold: whether its two sides read alike. Geometry."""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Member
from maglia.core.checks.found import Check, Repair
from maglia.core.parts.parts import Chain
from maglia.core.piece.items import ChainItem


def check(assembly: Assembly) -> Iterator[Check]:
    for member in assembly.members:
        if member.kind != "chain" or member.side != "fold" or member.item or member.made_in:
            continue
        run, chain = assembly.run_of.get(member.run), assembly.thing(member)
        if run is None or run.lies != "across" or not isinstance(chain, Chain):
            continue
        pattern = chain.pitches_mm or ()
        if not _alike(pattern, member.first_phase, member.links):
            yield _apart(assembly, member, chain, pattern)


def _alike(pattern: tuple[float, ...], first: int, links: int) -> bool:
    """Whether a stretch is its own mirror; a pattern's worth at each end tells."""
    q = len(pattern)
    return all(pattern[(first + k) % q] == pattern[(first + links - 1 - k) % q]
               for k in range(min(q, links // 2)))  # fmt: skip


def _apart(
    assembly: Assembly, member: Member, chain: Chain, pattern: tuple[float, ...]
) -> Check:  # fmt: skip
    links, first = member.links, member.first_phase
    begin = next((k for k in range(len(pattern)) if _alike(pattern, k, links)), None)
    fewer = [n for n in (links + 1, links - 1) if n and _alike(pattern, first, n)]
    owner = assembly.origins[member.run].owner
    own = owner == member.run and isinstance(assembly.run_of[member.run].centre, ChainItem)
    said = f"write “{links} {chain.name} from link {begin + 1}”" if begin is not None else None
    counts = " or ".join(str(n) for n in sorted(fewer))
    offered = [words for words in (said, f"make it {counts} links" if fewer else None) if words]
    return Check(
        code="sides-read-apart",
        severity="note",
        place=f"{member.run}, centre",
        message=f"the pattern of {chain.name} reads otherwise to the left of the fold than to "
        "the right.",
        repair=", or ".join(offered) or "no number of links near this one reads alike",
        repairs=tuple(Repair(f"{n} links", member.run, 0, n) for n in fewer) if own else (),
        run=owner,
    )
