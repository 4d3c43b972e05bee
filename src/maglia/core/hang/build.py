"""Assembly -> network: every contact between two parts becomes a point, every part a member.

Chain and strung beads are threads from contact to contact; bead links, charms and dangles are
rods; a ring with more than two neighbours is a hub with spokes of half its inner diameter; a
connector is a rigid body of its holes, whose radii lengthen what hangs in them.
"""

from itertools import pairwise

import numpy as np

from maglia.core.assembly.assembly import Assembly, Member, Path
from maglia.core.assembly.places import CLOSURE
from maglia.core.assembly.ports import Port, gap_number, mm_along, stops_of
from maglia.core.hang.bodies import Body, Floats
from maglia.core.hang.network import Guide, Network, Slider, Weights
from maglia.core.hang.rigid_parts import lay_arc, lay_connector, lay_rod
from maglia.core.hang.side_by_side import bearing_mm, hangs_free
from maglia.core.hang.skeleton import Skeleton, thread, weigh
from maglia.core.parts.parts import Chain, Clasp, Connector, Ring
from maglia.core.sheets.as_worn import gives
from maglia.core.sheets.lengths import link_lengths, lying_mm, member_width_mm
from maglia.core.sheets.mass import masses_g

UNKNOWN_MASS_G = 0.01
"""What a part of unknown mass hangs with; a check says so."""
UNKNOWN_RADIUS_MM = 1.0
"""How far off the skin a part of unknown thickness is held."""


def skeleton(assembly: Assembly, *, closed: bool = False, stretch: float = 1.0) -> Skeleton:
    """Points, threads and rods of an assembly. A closed path is opened at its closure, unless
    `closed` says that it goes round a body; what is elastic in the main strand is `stretch` times
    as long as at rest."""
    net = Skeleton(assembly, stretch=stretch, on_body=closed)
    net.terminals = [[] for _ in assembly.members]
    for path in assembly.paths:
        _lay_bounds(net, path, closed=closed and path.closed)
    _attach_sides(net)
    net.free_ends = _free_ends(net)
    _hole_allowances(net)
    masses = masses_g(assembly)
    spans = _spans(assembly)
    for member in assembly.members:
        mass = masses[member.id]
        _lay_member(net, member, spans.get(member.id), mass or UNKNOWN_MASS_G)
    return net


def _lay_bounds(net: Skeleton, path: Path, *, closed: bool) -> None:
    bounds = [net.point() for _ in range(len(path.stations) + (0 if closed else 1))]
    bounds += bounds[:1] if closed else []
    net.bounds.append(bounds)
    for k, station in enumerate(path.stations):
        for index in station.members:
            net.terminals[index] += [
                (bounds[k], station.port_in),
                (bounds[k + 1], station.port_out),
            ]


def _attach_sides(net: Skeleton) -> None:
    """Let the end point of every hanging run be a terminal of what it hangs from."""
    ends: dict[tuple[int, Port], list[int]] = {}
    for path, bounds in zip(net.assembly.paths, net.bounds, strict=True):
        for index in path.stations[0].members:
            ends.setdefault((index, path.stations[0].port_in), []).append(bounds[0])
        for index in path.stations[-1].members:
            ends.setdefault((index, path.stations[-1].port_out), []).append(bounds[-1])
    for joint in net.assembly.joints:
        if joint.inline:
            continue
        known = ends.get((joint.b, joint.port_b))
        if known:
            point = known.pop(0) if len(known) > 1 else known[0]
        else:
            point = net.point()
            net.terminals[joint.b].append((point, joint.port_b))
        net.terminals[joint.a].append((point, joint.port_a))
        if hangs_free(net.assembly, joint.b):
            wide = bearing_mm(net.assembly, joint.b, joint.port_b)
            net.beside.setdefault((joint.a, joint.port_a), []).append((point, wide))
    net.beside = {place: points for place, points in net.beside.items() if len(points) > 1}


def _free_ends(net: Skeleton) -> set[int]:
    shared: dict[int, int] = {}
    for terminals in net.terminals:
        for point in {point for point, _ in terminals}:
            shared[point] = shared.get(point, 0) + 1
    main = net.assembly.main
    ends = set()
    for path, bounds in zip(net.assembly.paths, net.bounds, strict=True):
        members = len(path.stations[-1].members)
        if shared.get(bounds[-1], 0) <= members and (path is not main or path.side == "fold"):
            ends.add(bounds[-1])
        if path is not main and shared.get(bounds[0], 0) <= len(path.stations[0].members):
            ends.add(bounds[0])
    if (
        main is not None and net.assembly.run_of[main.run].lies != "fold"
    ):  # both its ends are pinned or closed
        ends -= {net.bounds[net.assembly.paths.index(main)][-1]}
    return ends


def _hole_allowances(net: Skeleton) -> None:
    for member in net.assembly.members:
        thing = net.assembly.thing(member)
        if isinstance(thing, Connector):
            radius = {hole.name: (hole.diameter_mm or 0.0) / 2 for hole in thing.holes}
            for point, port in net.terminals[member.id]:
                net.extra[point] = radius.get(str(port), 0.0)


def _spans(assembly: Assembly) -> dict[int, float]:
    found: dict[int, float] = {}
    for path in assembly.paths:
        for station in path.stations:
            for index in station.members:
                found[index] = station.span_mm or 0.0
    return found


def _lay_member(net: Skeleton, member: Member, span: float | None, mass: float) -> None:
    thing = net.assembly.thing(member)
    if member.links:
        _lay_links(net, member, mass)
    elif member.woven is not None:
        _lay_woven(net, member, span or 0.0, mass)
    elif isinstance(thing, Ring):
        (inner,) = stretched_mm(net, member, [thing.inner_mm or 0.0])
        _lay_ring(net, member, inner, mass)
    elif isinstance(thing, Connector):
        lay_connector(net, member, thing, mass)
    elif member.kind in ("clasp", "ear finding", "end"):
        (a, port_a), (b, port_b) = net.terminals[member.id][:2]
        thread(net, a, b, span or 0.1, member.run)
        weigh(net, mass, a, b)
        for point, port in net.terminals[member.id][2:]:
            net.attached[point] = ((b if port == port_b != port_a else a, 1.0),)
        net.drawn[member.id] = (b, a) if port_a == "bite" else (a, b)
    else:
        lay_rod(net, member, span, mass)


def stretched_mm(net: Skeleton, member: Member, lengths: list[float]) -> list[float]:
    """Lengths of a member as it is worn: those of the main strand's elastics grow."""
    main = net.assembly.main
    grows = net.stretch != 1.0 and main is not None and member.run in (main.run, CLOSURE)
    if not grows or gives(net.assembly, member) <= 1.0:
        return lengths
    return [net.stretch * length for length in lengths]


def _lay_links(net: Skeleton, member: Member, mass: float) -> None:
    """Links or strung beads: a thread each, from contact to contact."""
    terminals = net.terminals[member.id]
    lengths = stretched_mm(net, member, link_lengths(net.assembly, member))
    if (bitten := bitten_link(net, member)) is None:
        (first, port_in), (last, port_out) = terminals[:2]
        if (port_in, port_out) == (member.links, 1):
            first, last = last, first
    else:  # the stretch that goes round ends within it
        link, toward_last = bitten
        own, hooked = terminals[:2] if not _hooked_first(net) else terminals[1::-1]
        first, last = (net.point(), own[0]) if toward_last else (own[0], net.point())
    nodes = [first, *(net.point() for _ in range(member.links - 1)), last]
    if bitten is not None:
        net.attached[hooked[0]] = ((nodes[link - 1 if toward_last else link], 1.0),)
    for a, b, length in zip(nodes, nodes[1:], lengths, strict=False):
        thread(net, a, b, length, member.run)
    half = mass / member.links / 2
    for a, b in pairwise(nodes):
        net.mass[a] += half
        net.mass[b] += half
    for point, port in terminals[2:]:
        if (stops := stops_of(port)) is not None:
            first_at, last_at = stops if stops[1] else (0, len(nodes))
            rests = [s[2] for s in net.segments[-len(lengths) :]]
            way = slice(first_at, last_at - 1)
            net.riders[point] = (tuple(nodes[first_at:last_at]), tuple(rests[way]))
            continue
        if (mm := mm_along(port)) is not None:
            net.attached[point] = _so_far(nodes, lengths, mm)
            continue
        if (gap := gap_number(port)) is not None:
            net.attached[point] = ((nodes[gap], 1.0),)
            continue
        k = int(port)
        net.attached[point] = ((nodes[k - 1], 0.5), (nodes[k], 0.5))
    net.drawn[member.id] = tuple(nodes)


def _so_far(nodes: list[int], lengths: list[float], mm: float) -> Weights:
    """A place so many mm along a member, between the two nodes beside it."""
    k, left = 0, mm
    while k < len(lengths) - 1 and left > lengths[k]:
        left -= lengths[k]
        k += 1
    share = min(left / lengths[k], 1.0)
    return ((nodes[k], 1.0 - share), (nodes[k + 1], share))


def _lay_woven(net: Skeleton, member: Member, span: float, mass: float) -> None:
    """A ring of a weave takes its place's share of the strip; what hangs aside lies with its
    host."""
    assert member.woven is not None
    if member.woven.host < 0:
        (long,) = stretched_mm(net, member, [span])
        _lay_ring(net, member, long, mass)
        return
    ends = net.drawn[member.woven.host]
    weigh(net, mass, *ends)
    net.drawn[member.id] = ends


def _lay_ring(net: Skeleton, member: Member, inner: float, mass: float) -> None:
    """A ring between two neighbours is a thread of its inner diameter, else a hub with spokes."""
    points = list(dict.fromkeys(point for point, _ in net.terminals[member.id]))
    if beside := net.beside.get((member.id, "ring")):
        lay_arc(net, member, points, beside, inner / 2, mass)
        return
    if len(points) > 2:  # where a run ends in a ring that carries others, its own end is no more
        for end in [p for p in points[:2] if p in net.free_ends]:
            points.remove(end)
            net.attached[end] = ((points[-1], 1.0),)
    if len(points) == 1:
        points.append(net.point())
    net.round[member.id] = (tuple(points), inner)
    if len(points) == 2:
        if not any(set(s[:2]) == set(points) for s in net.segments[-8:]):
            thread(net, points[0], points[1], inner, member.run)
        weigh(net, mass, *points)
        net.drawn[member.id] = (points[0], points[1])
        return
    hub = net.point()
    net.hubs[member.id] = hub
    for point in points:
        thread(net, hub, point, inner / 2, member.run)
    weigh(net, mass, hub)
    net.drawn[member.id] = (points[0], points[1])


def _hooked_first(net: Skeleton) -> bool:
    return net.assembly.piece.closure.clasp_side == "right"


def bitten_link(net: Skeleton, member: Member) -> tuple[int, bool] | None:
    """The link within a stretch of chain that the clasp bites, and whether what goes round leads
    from there to its last link; None if all of it goes round or hangs."""
    ports = [int(port) for _, port in net.terminals[member.id][:2]]
    if sorted(ports) == [1, member.links]:
        return None
    link, out = ports if _hooked_first(net) else reversed(ports)
    return link, out == member.links


def path_lengths(net: Skeleton, path_index: int) -> tuple[list[int], Floats]:
    """A path's points in order with their distance from its start, mm."""
    assembly = net.assembly
    path, bounds = assembly.paths[path_index], net.bounds[path_index]
    points, at, here = [bounds[0]], [0.0], 0.0
    for k, station in enumerate(path.stations):
        member = assembly.members[station.members[0]]
        if member.links > 1:
            inner = net.drawn[member.id]
            lengths = stretched_mm(net, member, link_lengths(assembly, member))
            if bitten := bitten_link(net, member):
                link, toward_last = bitten
                part = slice(link - 1, None) if toward_last else slice(link + 1)
                inner, lengths = inner[part], lengths[part if toward_last else slice(link)]
                backward = toward_last is not _hooked_first(net)
            else:
                backward = inner[0] != bounds[k]
            if backward:
                inner, lengths = inner[::-1], lengths[::-1]
            for point, length in zip(inner[1:-1], lengths, strict=False):
                here += length
                points.append(point)
                at.append(here)
            here += lengths[-1]
        else:
            here += stretched_mm(net, member, [station.span_mm or 0.1])[0]
        points.append(bounds[k + 1])
        at.append(here)
    return points, np.array(at)


def as_network(
    net: Skeleton,
    start: Floats,
    fixed: dict[int, tuple[float, ...]],
    body: Body | None = None,
    guides: tuple[Guide, ...] = (),
) -> Network:
    """The network with positions and pins (see `layout`), on a body if there is one."""
    pinned = np.zeros(net.points, bool)
    for point, place in fixed.items():
        pinned[point] = True
        start[point] = place
    radii = contact_radii(net) if body is not None else {}
    own = net.assembly.main.run if net.assembly.main else CLOSURE
    touching = [point for point in sorted(radii) if not pinned[point]]
    return Network(
        start=start,
        mass=np.array(net.mass),
        fixed=pinned,
        segments=np.array([s[:2] for s in net.segments], int).reshape(-1, 2),
        rest=np.array([s[2] for s in net.segments]),
        rods=np.array([r[:2] for r in net.rods], int).reshape(-1, 2),
        length=np.array([r[2] for r in net.rods]),
        attached={k: v for k, v in net.attached.items() if k not in fixed},
        body=body,
        contact=np.array(touching, int),
        radius=np.array([radii[point] for point in touching]),
        guides=guides,
        sliders=tuple(_slider(point, *way) for point, way in net.riders.items()),
        labels=tuple(own if s[3] == CLOSURE else s[3] for s in net.segments),
    )


def _slider(point: int, thread: tuple[int, ...], rests: tuple[float, ...]) -> Slider:
    """A rider, begun in the middle of its thread."""
    k = (len(rests) - 1) // 2
    return Slider(thread[k], thread[k + 1], (point,), rests[k], thread, rests)


def contact_radii(net: Skeleton) -> dict[int, float]:
    """How far the middle of what lies at each free point stays from the skin, mm: a bead by half
    its width, chain and rings by their wire, since they lie flat. Worked out once for a net."""
    if net.radii is None:
        net.radii = _radii(net)
    return net.radii


def _radii(net: Skeleton) -> dict[int, float]:
    found: dict[int, float] = {}
    for member in net.assembly.members:
        thing = net.assembly.thing(member)
        if isinstance(thing, Chain | Ring):
            radius = thing.wire_mm or UNKNOWN_RADIUS_MM
        elif isinstance(thing, Connector | Clasp):
            radius = UNKNOWN_RADIUS_MM
        else:
            radius = member_width_mm(net.assembly, member) / 2 or UNKNOWN_RADIUS_MM
        if member.strung is not None:
            radii = [wide / 2 or UNKNOWN_RADIUS_MM for wide in lying_mm(net.assembly, member)]
            for k, point in enumerate(net.drawn[member.id]):
                if point not in net.attached:
                    own = max(radii[max(k - 1, 0)], radii[min(k, len(radii) - 1)])
                    found[point] = max(found.get(point, 0.5), own)
            continue
        for point in net.between.get(member.id, ()):
            found[point] = radius
        for point in net.drawn.get(member.id, ()):
            if point not in net.attached:
                found[point] = max(found.get(point, 0.5), radius)
    return found
