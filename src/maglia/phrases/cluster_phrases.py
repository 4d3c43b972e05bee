"""Clusters in one phrase: “ring 8 carrying 2 x (ring 4, teal dangle)”, “5 cable carrying rose /
pearl and teal at foot”.
"""

import re

from maglia.core.parts.parts import Chain, Charm, Ring
from maglia.core.parts.units import Cluster, Dangle, Tassel, Thing, Things
from maglia.core.values.record import DomainError
from maglia.phrases.offers import best_match, free_id
from maglia.phrases.said_lists import parts_of

CLUSTER_HINT = "new cluster ring 8 carrying 2 x (ring 4, teal) · 5 cable carrying rose / pearl"
FOOT = re.compile(
    r"(?:^|\s+and\s+|,\s*)((?:(?!\s+and\s)[^,()])+?)\s+at\s+(?:the\s+)?foot\s*$", re.IGNORECASE
)
GROUP = re.compile(r"(?:(\d+)\s*[x×]\s*)?\((.*)\)(?:\s*[x×]\s*(\d+))?", re.DOTALL)
MOST = 60


def read_cluster(text: str, things: Things) -> Cluster:
    """The cluster that a text describes. Raises DomainError naming the word."""
    said = re.split(r"\bcarrying\b", text, maxsplit=1, flags=re.IGNORECASE)
    if len(said) < 2 or not said[1].strip():
        raise DomainError(f"say what it carries: {CLUSTER_HINT}")
    carrier, links = _carrier(said[0].strip(" ,"), things)
    carried, foot = said[1].strip(), None
    if found := FOOT.search(carried):
        foot = _hanging(found[1].strip(), things).id
        carried = carried[: found.start()].strip(" ,")
    if foot is not None and not links:
        raise DomainError("a ring has no foot: “at foot” is said of a cluster on chain")
    turns = " / " in carried
    if turns and not links:
        raise DomainError("by turns ( / ) go links; on a ring join what hangs by commas")
    hangs: list[str] = []
    rings: set[str] = set()
    for part in [p.strip() for p in carried.split(" / ")] if turns else parts_of(carried):
        refs, ring = _part(part, things)
        hangs += refs
        rings.add(ring)
    if not hangs and foot is None:
        raise DomainError(f"say what it carries: {CLUSTER_HINT}")
    if len(rings) > 1:
        raise DomainError("all that a cluster carries hangs by the same ring, or all without one")
    if len(hangs) > MOST:
        raise DomainError(f"{len(hangs)} are more than {MOST} in one place")
    names = " and ".join(dict.fromkeys(things[ref].name for ref in hangs))
    size = f"{links} links of " if links else ""
    return Cluster(
        id=free_id(f"cluster-{carrier.id}-{hangs[0]}"[:100], things),
        name=f"Cluster of {names} on {size}{carrier.name}"[:120],
        carrier=carrier.id, links=links, hangs=tuple(hangs), by=next(iter(rings), "") or None,
        turns=turns, foot=foot,
    )  # fmt: skip


def _carrier(said: str, things: Things) -> tuple[Thing, int]:
    counted = re.match(r"(\d+)\s+(?:links?\s+(?:of\s+)?)?(?=\D)", said)
    if counted:
        chain = best_match(said[counted.end() :], things.values(), Chain)
        if chain is None:
            raise DomainError(f"no chain is called “{said[counted.end() :]}”")
        return chain, int(counted[1])
    ring = best_match(said, things.values(), Ring) if said else None
    if ring is None:
        raise DomainError(f"no ring is called “{said}”: say the ring, or links of a chain")
    return ring, 0


def _part(said: str, things: Things) -> tuple[list[str], str]:
    """“2 rose”, “2 rose each”, “2 x (ring 4, teal)”: what hangs, and the ring it hangs by."""
    said = re.sub(r"\s+each$", "", said, flags=re.IGNORECASE)
    if group := GROUP.fullmatch(said):
        times, inner = int(group[1] or group[3] or 1), parts_of(group[2])
        ring = best_match(inner[0], things.values(), Ring) if len(inner) == 2 else None
        if ring is None:
            raise DomainError(f"“({group[2]})”: say a ring and what hangs by it: (ring 4, teal)")
        return [_hanging(inner[1], things).id] * min(times, MOST + 1), ring.id
    counted = re.match(r"(\d+)\s+(?:[x×]\s*)?(?=\D)", said)
    name = said[counted.end() :] if counted else said
    times = int(counted[1]) if counted else 1
    return [_hanging(name, things).id] * min(times, MOST + 1), ""


def _hanging(name: str, things: Things) -> Thing:
    for kind in (Dangle, Tassel, Charm):
        found: Thing | None = best_match(name, things.values(), kind)
        if found is not None:
            return found
    raise DomainError(f"nothing that hangs is called “{name}”")
