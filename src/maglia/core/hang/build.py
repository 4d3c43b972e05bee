"""Assembly -> network: every contact between two parts becomes a point, every part a member.

Chain and strung beads are threads from contact to contact; bead links, charms and dangles are
rods; a ring with more than two neighbours is a hub with spokes of half its inner diameter; a
connector is a rigid body of its holes, whose radii lengthen what hangs in them.
"""

import math
from dataclasses import dataclass, field

import numpy as np

from maglia.core.assembly.assembly import Assembly, Member, Path
from maglia.core.assembly.places import CLOSURE
from maglia.core.assembly.ports import Port, gap_number, mm_along, stops_of
from maglia.core.hang.bodies import Body, Floats
from maglia.core.hang.network import Guide, Network, Slider, Weights
from maglia.core.hang.rigid import RigidPoints, rigid_points
from maglia.core.hang.side_by_side import angles_on_arc, bearing_mm, hangs_free
from maglia.core.parts.parts import Chain, Clasp, Connector, Ring
from maglia.core.sheets.as_worn import elastic
from maglia.core.sheets.bite import opening_mm
from maglia.core.sheets.lengths import alone_mm, link_lengths, member_width_mm, widths_mm
from maglia.core.sheets.mass import masses_g

UNKNOWN_MASS_G = 0.01
"""What a part of unknown mass hangs with; a check says so."""
UNKNOWN_RADIUS_MM = 1.0
"""How far off the skin a part of unknown thickness is held."""
LONG_MM = 12.0
"""What is stiff and longer touches a body between its ends as well."""
Terminal = tuple[int, Port]
"""A point where something bears on a member, and the member's port there."""


@dataclass
class Skeleton:
    """Points and members before they have positions. `along` gives a path's points in order."""

    assembly: Assembly
    stretch: float = 1.0
    points: int = 0
    segments: list[tuple[int, int, float, str]] = field(default_factory=list)
    rods: list[tuple[int, int, float]] = field(default_factory=list)
    attached: dict[int, Weights] = field(default_factory=dict)
    mass: list[float] = field(default_factory=list)
    terminals: list[list[Terminal]] = field(default_factory=list)
    extra: dict[int, float] = field(default_factory=dict)
    bounds: list[list[int]] = field(default_factory=list)
    """Per path, the points between its stations, from its start to its end."""
    drawn: dict[int, tuple[int, ...]] = field(default_factory=dict)
    """Per member, the points that show how it lies: chain nodes, two ends, or a body's corners."""
    hubs: dict[int, int] = field(default_factory=dict)
    round: dict[int, tuple[tuple[int, ...], float]] = field(default_factory=dict)
    """Per ring, the points that bear on it and its inner diameter."""
    free_ends: set[int] = field(default_factory=set)
    """Ends of paths that nothing else joins: neither a place nor the closure nor a pin."""
    bodies: dict[int, RigidPoints] = field(default_factory=dict)
    on_body: bool = False
    between: dict[int, list[int]] = field(default_factory=dict)
    """Per long stiff member the places between its ends that touch a body too."""
    corners: dict[int, tuple[int, ...]] = field(default_factory=dict)
    """Per body, its points."""
    beside: dict[Terminal, list[tuple[int, float]]] = field(default_factory=dict)
    """Per member and port that more than one run hangs from: its points with the room each takes
    there, mm."""
    riders: dict[int, tuple[tuple[int, ...], tuple[float, ...]]] = field(default_factory=dict)
    """Points that slide along a thread: its points in order, and the length of each stretch, mm."""

    def point(self) -> int:
        self.points += 1
        self.mass.append(0.0)
        return self.points - 1


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
        _lay_member(net, member, spans.get(member.id), UNKNOWN_MASS_G if mass is None else mass)
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
    elif isinstance(thing, Ring):
        (inner,) = stretched_mm(net, member, [thing.inner_mm or 0.0])
        _lay_ring(net, member, inner, mass)
    elif isinstance(thing, Connector):
        _lay_connector(net, member, thing, mass)
    elif member.kind in ("clasp", "ear finding", "end"):
        (a, port_a), (b, port_b) = net.terminals[member.id][:2]
        _thread(net, a, b, span or 0.1, member.run)
        _weigh(net, mass, a, b)
        for point, port in net.terminals[member.id][2:]:
            net.attached[point] = ((b if port == port_b != port_a else a, 1.0),)
        net.drawn[member.id] = (a, b)
    else:
        _lay_rod(net, member, span, mass)


def stretched_mm(net: Skeleton, member: Member, lengths: list[float]) -> list[float]:
    """Lengths of a member as it is worn: those of the main strand's elastics grow."""
    main = net.assembly.main
    grows = net.stretch != 1.0 and main is not None and member.run in (main.run, CLOSURE)
    if not grows or not elastic(net.assembly.thing(member)):
        return lengths
    return [net.stretch * length for length in lengths]


def _thread(net: Skeleton, a: int, b: int, length: float, run: str) -> None:
    rest = length + net.extra.get(a, 0.0) + net.extra.get(b, 0.0)
    net.segments.append((a, b, max(rest, 1e-3), run))


def _weigh(net: Skeleton, mass: float, *points: int) -> None:
    for point in points:
        net.mass[point] += mass / len(points)


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
    for k, length in enumerate(lengths):
        _thread(net, nodes[k], nodes[k + 1], length, member.run)
        _weigh(net, mass / member.links, nodes[k], nodes[k + 1])
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


def _lay_ring(net: Skeleton, member: Member, inner: float, mass: float) -> None:
    """A ring between two neighbours is a thread of its inner diameter, else a hub with spokes."""
    points = list(dict.fromkeys(point for point, _ in net.terminals[member.id]))
    if beside := net.beside.get((member.id, "ring")):
        _lay_arc(net, member, points, beside, inner / 2, mass)
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
            _thread(net, points[0], points[1], inner, member.run)
        _weigh(net, mass, *points)
        net.drawn[member.id] = (points[0], points[1])
        return
    hub = net.point()
    net.hubs[member.id] = hub
    for point in points:
        _thread(net, hub, point, inner / 2, member.run)
    _weigh(net, mass, hub)
    net.drawn[member.id] = (points[0], points[1])


def _on_arc(
    net: Skeleton, member: Member, beside: list[tuple[int, float]], radius: float
) -> list[tuple[float, float]]:
    """Where things bear on the lower arc about (0, 0), the left half's mirrored."""
    way = -1.0 if member.side == "left" else 1.0
    angles = angles_on_arc([wide for _, wide in beside], radius)
    return [(way * radius * math.sin(a), -radius * math.cos(a)) for a in angles]


def _lay_arc(
    net: Skeleton,
    member: Member,
    points: list[int],
    beside: list[tuple[int, float]],
    radius: float,
    mass: float,
) -> None:
    """A ring that several runs hang from: rigid, hung by its top, or by its middle where more than
    one thing holds it."""
    arc = [point for point, _ in beside]
    ends = [p for p in points if p in net.free_ends and p not in arc]
    holds = [p for p in points if p not in arc and p not in ends]
    centre, foot = net.point(), net.point()
    places = [*_on_arc(net, member, beside, radius), (0.0, 0.0), (0.0, -radius)]
    corners = [*arc, centre, foot]
    if len(holds) == 1:
        places.append((0.0, radius))
        corners.append(holds[0])
    else:
        net.hubs[member.id] = centre
        net.round[member.id] = ((*holds, centre), 2 * radius)
        for point in holds:
            _thread(net, centre, point, radius, member.run)
    for end in ends:
        net.attached[end] = ((foot, 1.0),)
    _weigh(net, mass, centre)
    _lay_body(net, member, places, corners)
    net.drawn[member.id] = (holds[0], foot) if len(holds) < 2 else (holds[0], holds[1])


def _lay_body(
    net: Skeleton, member: Member, places: list[tuple[float, float]], corners: list[int]
) -> None:
    body = rigid_points(np.array(places))
    for a, b, length in body.rods:
        net.rods.append((corners[a], corners[b], length))
    for k, weights in body.rides.items():
        net.attached[corners[k]] = tuple((corners[base], weight) for base, weight in weights)
    net.bodies[member.id] = body
    net.corners[member.id] = tuple(corners)


def _lay_rod(net: Skeleton, member: Member, span: float | None, mass: float) -> None:
    """Bead link, dangle, charm or tassel: a rod; what joins its mid or a loop rides on it."""
    terminals = net.terminals[member.id]
    near, far = terminals[0][0], terminals[1][0] if len(terminals) > 1 else net.point()
    if span is None:  # hung in a cluster, so on no path
        span = alone_mm(net.assembly, member)
    length = max(span, 1e-3) + net.extra.get(near, 0.0) + net.extra.get(far, 0.0)
    net.rods.append((near, far, length))
    hangs = terminals[0][1] == "loop"
    share = 0.65 if hangs else 0.5  # a dangle's stack lies toward its foot
    net.mass[near] += mass * (1 - share)
    net.mass[far] += mass * share
    beside = net.beside.get((member.id, terminals[1][1]) if len(terminals) > 1 else (-1, 0), [])
    if beside and far in net.free_ends:
        _spread(net, member, near, far, length, beside)
    arc = {point for point, _ in beside} if far in net.free_ends else set()
    for point, port in terminals[2:]:
        if point in arc:
            continue
        if port == "mid":
            net.attached[point] = ((near, 0.5), (far, 0.5))
        else:
            same = near if port == terminals[0][1] else far
            net.attached[point] = ((same, 1.0),)
    net.drawn[member.id] = (near, far)
    if net.on_body:
        _touch_between(net, member, near, far, length)


def _touch_between(net: Skeleton, member: Member, near: int, far: int, length: float) -> None:
    """Places along what is long and stiff, where it touches a body as well."""
    inner = int(length // LONG_MM)
    for k in range(inner):
        share, point = (k + 1) / (inner + 1), net.point()
        net.attached[point] = ((near, 1 - share), (far, share))
        net.between.setdefault(member.id, []).append(point)


def _spread(
    net: Skeleton,
    member: Member,
    near: int,
    far: int,
    length: float,
    beside: list[tuple[int, float]],
) -> None:
    """Several runs below the lower loop of a link that hangs: on the arc of the loop."""
    radius = (opening_mm(net.assembly, member, net.terminals[member.id][1][1]) or 2.0) / 2
    arc = [(x, y + radius - length) for x, y in _on_arc(net, member, beside, radius)]
    net.rods.pop()  # the body holds its ends as well
    corners = [near, far, *(point for point, _ in beside)]
    _lay_body(net, member, [(0.0, 0.0), (0.0, -length), *arc], corners)


def _lay_connector(net: Skeleton, member: Member, connector: Connector, mass: float) -> None:
    """Hole centres and the centre of mass as one rigid body."""
    mirror = -1.0 if member.side == "left" else 1.0
    places = {hole.name: (mirror * hole.x_mm, hole.y_mm) for hole in connector.holes}
    nodes: dict[str, int] = {}
    for (index, port), points in net.beside.items():
        if index == member.id:
            radius = net.extra.get(points[0][0], 0.0)
            arc = _on_arc(net, member, points, radius)
            for (point, _), (x, y) in zip(points, arc, strict=True):
                name = f"{port} {point}"
                places[name] = (places[str(port)][0] + x, places[str(port)][1])
                nodes[name] = point
                net.extra[point] = -y
    arcs = set(nodes.values())
    for point, port in net.terminals[member.id]:
        if point in arcs:
            continue
        if str(port) in nodes:
            net.attached[point] = ((nodes[str(port)], 1.0),)
        else:
            nodes[str(port)] = point
    centre = net.point()
    net.mass[centre] += mass
    corners = [*nodes.values(), centre]
    _lay_body(net, member, [*(places[name] for name in nodes), (0.0, 0.0)], corners)
    net.drawn[member.id] = tuple(corners)


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
    its width, chain and rings by their wire, since they lie flat."""
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
            radii = [wide / 2 or UNKNOWN_RADIUS_MM for wide in widths_mm(net.assembly, member)]
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
