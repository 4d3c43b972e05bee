"""What is stiff in a net: bead links and charms as rods, connectors as bodies of their holes, and
rings and loops that several runs hang from side by side.
"""

import math

import numpy as np

from maglia.core.assembly.assembly import Member
from maglia.core.hang.rigid import rigid_points
from maglia.core.hang.side_by_side import angles_on_arc
from maglia.core.hang.skeleton import Skeleton, thread, weigh
from maglia.core.parts.parts import Connector
from maglia.core.sheets.bite import opening_mm
from maglia.core.sheets.lengths import alone_mm

LONG_MM = 12.0
"""What is stiff and longer touches a body between its ends as well."""


def _on_arc(
    net: Skeleton, member: Member, beside: list[tuple[int, float]], radius: float
) -> list[tuple[float, float]]:
    """Where things bear on the lower arc about (0, 0), the left half's mirrored."""
    way = -1.0 if member.side == "left" else 1.0
    angles = angles_on_arc([wide for _, wide in beside], radius)
    return [(way * radius * math.sin(a), -radius * math.cos(a)) for a in angles]


def lay_arc(
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
            thread(net, centre, point, radius, member.run)
    for end in ends:
        net.attached[end] = ((foot, 1.0),)
    weigh(net, mass, centre)
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


def lay_rod(net: Skeleton, member: Member, span: float | None, mass: float) -> None:
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
    turned = terminals[0][1] == "b"  # its path comes to its far loop first: it is drawn from a
    net.drawn[member.id] = (far, near) if turned else (near, far)
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


def lay_connector(net: Skeleton, member: Member, connector: Connector, mass: float) -> None:
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
