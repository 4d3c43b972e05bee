"""Lengths read off an assembly: of every run, closed round the wearer, and worn."""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Member, Path
from maglia.core.assembly.places import CLOSURE, FIRST_AT_CLOSURE
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    End,
    Ring,
)
from maglia.core.parts.units import BeadLink, Dangle, Tassel, Things, spiral_of
from maglia.core.piece.strung import end_adds_mm, on_thread_mm
from maglia.core.sheets.as_worn import not_as_worn
from maglia.core.values.record import Value


class RunLength(Value, frozen=True):
    """One run: the length of one copy, mm (None if a size is unknown), and its links in all."""

    name: str
    kind: str
    lies: str
    copies: int
    length_mm: float | None
    links: int


def run_lengths(assembly: Assembly) -> tuple[RunLength, ...]:
    """Every run in order, and what stands at clasp and catch as one more. The main strand counts
    without them: see closed_length_mm."""
    links: dict[str, int] = {}
    for member in assembly.members:
        if member.kind == "chain":
            links[member.run] = links.get(member.run, 0) + member.links
    paths: dict[str, list[Path]] = {}
    for path in assembly.paths:
        paths.setdefault(path.run, []).append(path)
    found = [
        RunLength(
            run.name,
            run.kind,
            run.lies,
            max(len(paths.get(run.name, ())), 1),
            _own_length(assembly, run.name, paths.get(run.name, assembly.paths)[0]),
            links.get(run.name, 0),
        )
        for run in assembly.runs
    ]
    closure = assembly.piece.closure
    if assembly.main is not None and (closure.at_clasp or closure.at_catch):
        found.append(_beside_the_clasp(assembly, assembly.main, links.get(CLOSURE, 0)))
    return tuple(found)


def _beside_the_clasp(assembly: Assembly, main: Path, links: int) -> RunLength:
    members = ((assembly.members[s.members[0]], s.span_mm) for s in main.stations)
    spans = [
        span for m, span in members if m.run == CLOSURE and m.item >= FIRST_AT_CLOSURE
    ]  # but for clasp and catch
    length = None if None in spans else sum(x for x in spans if x is not None)
    return RunLength(CLOSURE, "closure", "free", 1, length, links)


def _own_length(assembly: Assembly, run: str, path: Path) -> float | None:
    spans = [s.span_mm for s in path.stations if assembly.members[s.members[0]].run == run]
    return None if None in spans else sum(x for x in spans if x is not None)


def closed_length_mm(assembly: Assembly) -> float | None:
    """Sum of spans once round the main strand, clasp done up; None if it is open or unknown, or of
    a bangle or weave, whose rings do not follow each other in a line."""
    aside = not_as_worn(assembly)
    if aside is not None and aside.what in ("bangle", "weave"):
        return None
    return assembly.main.length_mm if assembly.main and assembly.main.closed else None


def thickness_mm(assembly: Assembly) -> float:
    """Mean thickness of the main strand as it lies on the body, mm: that of each part by the length
    it takes along it. Clasp and ends, with the rings that join them, are left out; other rings lie
    flat and count by their wire."""
    stations = assembly.main.stations if assembly.main else ()
    members = [assembly.members[station.members[0]] for station in stations]
    body = range(len(members))
    if assembly.clasp is not None:
        lying = [k for k in body if not isinstance(assembly.thing(members[k]), Ring | Clasp | End)]
        body = range(lying[0], lying[-1] + 1) if lying else body
    total = length = 0.0
    for k in body:
        for thick, along in _lying(assembly, members[k], stations[k].span_mm):
            total += thick * along
            length += along
    return total / length if length else 0.0


def _lying(
    assembly: Assembly, member: Member, span_mm: float | None
) -> Iterator[tuple[float, float]]:
    """Thickness and length of what lies along the body, mm, of one step of the strand."""
    thing, things = assembly.thing(member), assembly.things
    if member.strung is not None:
        for ref in member.strung.beads:
            bead = things[ref]
            if isinstance(bead, Bead):
                yield bead.thickness_mm or bead.width_mm or 0.0, bead.length_mm or 0.0
    elif isinstance(thing, BeadLink | Dangle):
        beads = [bead for ref in thing.stack if isinstance(bead := things[ref], Bead)]
        thick = max((bead.thickness_mm or bead.width_mm or 0.0 for bead in beads), default=0.0)
        yield thick, span_mm or 0.0
    elif isinstance(thing, Connector):
        yield thing.thickness_mm or 0.0, span_mm or 0.0
    elif isinstance(thing, Ring):
        yield thing.wire_mm or 0.0, span_mm or 0.0
    elif not isinstance(thing, Clasp | End):
        yield member_width_mm(assembly, member), span_mm or 0.0


def member_width_mm(assembly: Assembly, member: Member) -> float:
    """Widest size of a member across its line, mm; 0 where unknown."""
    thing, things = assembly.thing(member), assembly.things
    if isinstance(thing, Chain):
        return (thing.inner_width_mm or 0.0) + 2 * (thing.wire_mm or 0.0)
    if isinstance(thing, Ring):
        return (thing.inner_width_mm or thing.inner_mm or 0.0) + 2 * (thing.wire_mm or 0.0)
    if member.strung is not None:
        return max(_bead_width(things, ref) for ref in dict.fromkeys(member.strung.beads))
    if isinstance(thing, BeadLink | Dangle):
        foot = spiral_of(thing, things.get(thing.wire)) or 0.0
        return max((foot, *(_bead_width(things, ref) for ref in thing.stack)))
    if isinstance(thing, Tassel):
        return thing.neck_mm
    if isinstance(thing, Bead | End | Connector | Clasp | Charm):
        return thing.width_mm or 0.0
    return 0.0


def _bead_width(things: Things, ref: str) -> float:
    bead = things.get(ref)
    return (bead.width_mm or 0.0) if isinstance(bead, Bead) else 0.0


LEAST_LINK_MM = 1e-3
"""What a link of unknown pitch is drawn and hung with; a check says that it is unknown."""
LEAST_BEAD_MM = 0.1
"""The same for a bead, and for what takes no room on its thread."""


def link_lengths(assembly: Assembly, member: Member) -> list[float]:
    """Length of every link or strung bead of a member, in order, mm; ends in the outer ones."""
    thing, item = assembly.thing(member), member.strung
    if item is None:
        pitches = (thing.pitches_mm if isinstance(thing, Chain) else None) or (LEAST_LINK_MM,)
        return [pitches[k % len(pitches)] for k in range(member.links)]
    each = {ref: on_thread_mm(item, ref, assembly.things) for ref in set(item.beads)}
    lengths = [each[ref] or LEAST_BEAD_MM for ref in item.beads]
    near, far = (end_adds_mm(end, assembly.things) or 0.0 for end in item.ends)
    lengths[0] += near
    lengths[-1] += far
    return lengths
