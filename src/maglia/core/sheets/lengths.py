"""Lengths read off an assembly: of every run, closed round the wearer, and worn."""

import math
from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Member, Path
from maglia.core.assembly.places import CLOSURE, FIRST_AT_CLOSURE
from maglia.core.assembly.ports import Port, gap_number, mm_along
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    End,
    Ring,
    Wire,
)
from maglia.core.parts.units import (
    BeadLink,
    Dangle,
    Tassel,
    Things,
    hung_mm,
    on_wire_mm,
    spiral_of,
)
from maglia.core.piece.items import Bare, Knot, StrungItem
from maglia.core.piece.strung import (
    KNOT_WIDE,
    Along,
    cord_mm,
    end_adds_mm,
    is_bare,
    knot_mm,
    on_thread_mm,
)
from maglia.core.sheets.as_worn import bangle_of, not_as_worn
from maglia.core.values.record import Value
from maglia.core.weaves.pitch import thickness_mm as weave_thickness_mm
from maglia.core.weaves.pitch import width_mm as weave_width_mm


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
    if (aside is not None and aside.what == "weave") or bangle_of(assembly) is not None:
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
        lying = [k for k in body if members[k].woven is not None
                 or not isinstance(assembly.thing(members[k]), Ring | Clasp | End)]  # fmt: skip
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
        thick, _ = cord_mm(member.strung, things)
        for one in member.strung.beads:
            if isinstance(one, Bare):
                yield thick, one.mm
                continue
            bead = things[one] if isinstance(one, str) else None
            if isinstance(bead, Bead):
                yield bead.thickness_mm or bead.width_mm or 0.0, bead.length_mm or 0.0
    elif isinstance(thing, BeadLink | Dangle):
        beads = [bead for ref in thing.stack if isinstance(bead := things[ref], Bead)]
        thick = max((bead.thickness_mm or bead.width_mm or 0.0 for bead in beads), default=0.0)
        yield thick, span_mm or 0.0
    elif isinstance(thing, Connector):
        yield thing.thickness_mm or 0.0, span_mm or 0.0
    elif member.woven is not None:
        yield weave_thickness_mm(member.woven.item, things), span_mm or 0.0
    elif isinstance(thing, Ring):
        yield thing.wire_mm or 0.0, span_mm or 0.0
    elif not isinstance(thing, Clasp | End):
        yield member_width_mm(assembly, member), span_mm or 0.0


def member_width_mm(assembly: Assembly, member: Member) -> float:
    """Widest size of a member across its line, mm; 0 where unknown."""
    thing, things = assembly.thing(member), assembly.things
    if isinstance(thing, Chain):
        return (thing.inner_width_mm or 0.0) + 2 * (thing.wire_mm or 0.0)
    if member.woven is not None:
        return weave_width_mm(member.woven.item, things)
    if isinstance(thing, Ring):
        return (thing.inner_width_mm or thing.inner_mm or 0.0) + 2 * (thing.wire_mm or 0.0)
    if member.strung is not None:
        item = member.strung
        cord = cord_mm(item, things)[1] if is_bare(item) else 0.0
        return max([cord, *(_bead_width(things, ref) for ref in dict.fromkeys(item.refs))])
    if isinstance(thing, BeadLink | Dangle):
        foot = spiral_of(thing, things.get(thing.wire)) or 0.0
        last = things.get(thing.stack[-1])
        across = isinstance(thing, Dangle) and thing.crossed and isinstance(last, Bead)
        wide = (last.length_mm or 0.0) if across and isinstance(last, Bead) else 0.0
        return max((foot, wide, *(_bead_width(things, ref) for ref in thing.stack)))
    if isinstance(thing, Tassel):
        return thing.neck_mm
    if isinstance(thing, Bead | End | Connector | Clasp | Charm):
        return thing.width_mm or 0.0
    return 0.0


def _bead_width(things: Things, ref: str) -> float:
    bead = things.get(ref)
    return (bead.width_mm or 0.0) if isinstance(bead, Bead) else 0.0


def widths_mm(assembly: Assembly, member: Member) -> list[float]:
    """Widest size across its line of every link or strung thing of a member, in order, mm."""
    item, things = member.strung, assembly.things
    if item is None:
        return [member_width_mm(assembly, member)] * member.links
    cord = cord_mm(item, things)[1] if is_bare(item) else 0.0
    beads = item.beads
    each = {one: max(cord, _width_on_thread(item, one, things)) for one in set(beads)}
    return [each[one] for one in beads]


def lying_mm(assembly: Assembly, member: Member) -> list[float]:
    """How thick every strung thing of a member lies on the body, in order, mm: what is flat lies on
    its side."""
    item, things = member.strung, assembly.things
    assert item is not None
    cord = cord_mm(item, things)[0] if is_bare(item) else 0.0

    def thick(one: Along) -> float:
        bead = things.get(one) if isinstance(one, str) else None
        flat = bead.thickness_mm if isinstance(bead, Bead) else None
        return flat or _width_on_thread(item, one, things)

    each = {one: max(cord, thick(one)) for one in set(item.beads)}
    return [each[one] for one in item.beads]


def _width_on_thread(item: StrungItem, one: Along, things: Things) -> float:
    if isinstance(one, Knot):
        return KNOT_WIDE * (knot_mm(item, things) or 0.0)
    thing = things.get(one) if isinstance(one, str) else None
    if isinstance(thing, Ring):
        return (thing.inner_mm or 0.0) + 2 * (thing.wire_mm or 0.0)
    return _bead_width(things, one) if isinstance(one, str) else 0.0


LEAST_LINK_MM = 1e-3
"""What a link of unknown pitch is drawn and hung with; a check says that it is unknown."""
LEAST_BEAD_MM = 0.1
"""The same for a bead, and for what takes no room on its thread."""


def reach_mm(assembly: Assembly, host: Member, port: Port) -> float | None:
    """Where along a chain or strung section the middle of a link or bead, a gap or a place in mm
    lies, from its first contact; None where a pitch is not known."""
    thing = assembly.thing(host)
    if isinstance(thing, Chain) and thing.pitches_mm is None:
        return None
    if (mm := mm_along(port)) is not None:
        return mm
    lengths, gap = link_lengths(assembly, host), gap_number(port)
    if gap is not None:
        return sum(lengths[:gap])
    return sum(lengths[: int(port) - 1]) + lengths[int(port) - 1] / 2


WIND_TAIL_MM = 25.0
"""What is left at each end of wire that is wound, to hold it by; it is cut off."""


def wound_mm(assembly: Assembly, member: Member, *, worn: bool = False) -> float:
    """Wire wound round a connector's rim, mm: each turn goes round its thickness and its own; it
    goes through its beads, and but for what is `worn` has a tail at each end."""
    frame, things = assembly.thing(member), assembly.things
    wire = assembly.things.get(member.wound.wire) if member.wound else None
    if member.wound is None or not isinstance(frame, Connector) or not isinstance(wire, Wire):
        return 0.0
    thick = (frame.thickness_mm or 0.0) + (wire.wire_mm or 0.0)
    beads = member.wound.beads * (on_wire_mm(things.get(member.wound.bead or ""), things) or 0.0)
    tails = 0.0 if worn else 2 * WIND_TAIL_MM
    return member.wound.turns * math.pi * thick + beads + tails


def alone_mm(assembly: Assembly, member: Member) -> float:
    """How long is what hangs by itself, on no path of its own, mm; 0 where it is not known."""
    return hung_mm(assembly.thing(member), assembly.things) or 0.0


def link_lengths(assembly: Assembly, member: Member) -> list[float]:
    """Length of every link or strung bead of a member, in order, mm; ends in the outer ones."""
    thing, item = assembly.thing(member), member.strung
    if item is None:
        pitches = (thing.pitches_mm if isinstance(thing, Chain) else None) or (LEAST_LINK_MM,)
        return [pitches[(k + member.first_phase) % len(pitches)] for k in range(member.links)]
    beads = item.beads
    each = {one: on_thread_mm(item, one, assembly.things) for one in set(beads)}
    lengths = [each[one] or LEAST_BEAD_MM for one in beads]
    near, far = (end_adds_mm(end, assembly.things) or 0.0 for end in item.ends)
    lengths[0] += near
    lengths[-1] += far
    return lengths
