"""What is read off a hang: falls, gaps, widths, sags, tilts and pulls.

On the board, falls count from the line of the pins, on a bust from the pit of the neck, on a limb
from its top; the height is the last axis.
"""

import math
from collections.abc import Iterator
from itertools import pairwise

import numpy as np
from msgspec import field

from maglia.core.assembly.assembly import Assembly, Path, member_name
from maglia.core.hang.bodies import Floats
from maglia.core.hang.hung import Hung, path_points
from maglia.core.parts.parts import Charm, Connector, Ring
from maglia.core.parts.units import Cluster, cluster_fall_mm
from maglia.core.sheets.as_worn import stretches
from maglia.core.sheets.bays import Bay, bays
from maglia.core.values.record import Value


class BaySlack(Value, frozen=True):
    """A bay of a carrier as it hangs: its chain, less the distance of its two places, mm."""

    bay: Bay
    slack_mm: float


class Readings(Value, frozen=True):
    """All lengths mm, angles degrees, pulls gf.

    falls_mm: run → how far its lowest point lies below the top line, lower halves of rings,
    connectors and charms included · gaps_mm: (upper strand,
    lower strand, gap at the centre) in order of fall · side_gaps_mm: the same half way out ·
    widths_mm: run → from its left to its right · sags_mm: swag → depth below the line between its
    ends · hems_mm: row or drop → height of its foot below the top line · tilts_deg: connector →
    slope of its line from left to right, right side down positive; tilt_of the same by member ·
    stretch: how many times as long as at rest what is elastic is worn, None if nothing is · bays:
    slack of each stretch of a carrier between places that bear a row · pulls_gf: run →
    greatest pull.
    """

    falls_mm: dict[str, float] = field(default_factory=dict)
    gaps_mm: tuple[tuple[str, str, float], ...] = ()
    side_gaps_mm: tuple[tuple[str, str, float], ...] = ()
    widths_mm: dict[str, float] = field(default_factory=dict)
    sags_mm: dict[str, float] = field(default_factory=dict)
    hems_mm: dict[str, float] = field(default_factory=dict)
    tilt_of: dict[int, float] = field(default_factory=dict)
    tilts_deg: dict[str, float] = field(default_factory=dict)
    bays: tuple[BaySlack, ...] = ()
    stretch: float | None = None
    pulls_gf: dict[str, float] = field(default_factory=dict)


def readings(assembly: Assembly, hung: Hung | None) -> Readings:
    """Everything that is read off a hang; empty if it did not converge."""
    if hung is None or hung.state != "converged":
        return Readings()
    if assembly.piece.form.kind == "mat":  # nothing hangs
        return Readings(widths_mm=_widths(assembly, hung))
    lines = [path_points(assembly, hung, k) for k in range(len(assembly.paths))]
    falls: dict[str, float] = {}
    widths: dict[str, float] = {}
    sags: dict[str, float] = {}
    hems: dict[str, float] = {}
    for path, line in zip(assembly.paths, lines, strict=True):
        lowest = min(float(line[:, -1].min()), *_lower_halves(assembly, hung, path), math.inf)
        falls[path.run] = max(falls.get(path.run, -math.inf), hung.top - lowest)
        widths[path.run] = float(np.ptp(line[:, 0]))
        if path.kind == "swag":
            sags[path.run] = _sag(line)
        if path.kind == "drop":
            hems[path.run] = hung.top - float(line[-1, -1])
    strands = sorted((r.name for r in assembly.runs if r.kind == "strand"), key=falls.__getitem__)
    tilts = _tilts(assembly, hung)
    by_run = {path.run: line for path, line in zip(assembly.paths, lines, strict=True)}
    return Readings(
        falls_mm=falls,
        gaps_mm=tuple((a, b, falls[b] - falls[a]) for a, b in pairwise(strands)),
        side_gaps_mm=tuple((a, b, _side_gap(by_run[a], by_run[b])) for a, b in pairwise(strands)),
        widths_mm=widths,
        sags_mm=sags,
        hems_mm=hems,
        tilt_of=tilts,
        bays=_bays(assembly, hung),
        stretch=hung.stretch if stretches(assembly) else None,
        tilts_deg={member_name(assembly.members[k]): angle for k, angle in tilts.items()},
        pulls_gf=_pulls(hung),
    )


def _widths(assembly: Assembly, hung: Hung) -> dict[str, float]:
    return {path.run: float(np.ptp(path_points(assembly, hung, k)[:, 0]))
            for k, path in enumerate(assembly.paths)}  # fmt: skip


def _bays(assembly: Assembly, hung: Hung) -> tuple[BaySlack, ...]:
    found = []
    for bay in bays(assembly):
        points = hung.points_of(bay.host)
        one, other = ((points[n - 1] + points[n]) / 2 for n in bay.links)
        apart = float(np.linalg.norm(other - one))
        found.append(BaySlack(bay, max(bay.chain_mm - apart, 0.0)))
    return tuple(found)


def _lower_halves(assembly: Assembly, hung: Hung, path: Path) -> Iterator[float]:
    """Heights of the lowest points of rings, connectors and charms of a path, mm."""
    for index in (i for station in path.stations for i in station.members):
        member = assembly.members[index]
        if member.run != path.run or index not in hung.drawn:
            continue
        thing, points = assembly.thing(member), hung.points_of(index)
        for k, ref in enumerate(member.strung.beads if member.strung is not None else ()):
            own = assembly.things.get(ref) if isinstance(ref, str) else None
            if isinstance(own, Cluster) and k + 1 < len(points):  # it hangs on the thread
                height = float(points[k][-1] + points[k + 1][-1]) / 2
                yield height - cluster_fall_mm(own, assembly.things)
        if isinstance(thing, Ring):
            middle = hung.solution.positions[hung.hubs[index]] if index in hung.hubs else None
            height = float((points.mean(axis=0) if middle is None else middle)[-1])
            yield height - (thing.inner_mm or 0.0) / 2 - (thing.wire_mm or 0.0)
        elif isinstance(thing, Connector) and index in hung.bodies:
            yield _foot_of(thing, hung.bodies[index].frame(points)[:, -1])
        elif isinstance(thing, Charm):
            along = points[-1] - points[0]
            length = float(np.linalg.norm(along)) or 1.0
            level = math.sqrt(max(1 - (along[-1] / length) ** 2, 0.0))
            yield float(points[:, -1].min()) - level * (thing.width_mm or 0.0) / 2


def _foot_of(connector: Connector, up: Floats) -> float:
    """Lowest point of an outline; `up` gives heights: along its width, its height, its middle."""
    wide, high = up[0] * (connector.width_mm or 0.0) / 2, up[1] * (connector.height_mm or 0.0) / 2
    square = connector.outline in ("bar", "vee", "frame")
    return float(up[2] - (abs(wide) + abs(high) if square else math.hypot(wide, high)))


def _sag(line: Floats) -> float:
    """Greatest depth below the straight line between the ends."""
    share = np.linspace(0, 1, len(line))
    chord = line[0, -1] + share * (line[-1, -1] - line[0, -1])
    return float((chord - line[:, -1]).max())


def _side_gap(upper: Floats, lower: Floats) -> float:
    """Distance of the lower strand from the upper one's place half way out to its side."""
    right = upper[upper[:, 0] > 0]
    if not len(right):
        return 0.0
    half = right[np.abs(right[:, 0] - right[:, 0].max() / 2).argmin()]
    return float(np.linalg.norm(lower - half, axis=1).min())


def _tilts(assembly: Assembly, hung: Hung) -> dict[int, float]:
    found = {}
    for index, body in hung.bodies.items():
        if isinstance(assembly.thing(assembly.members[index]), Connector):
            frame = body.frame(hung.points_of(index))
            right = frame[0] * (-1.0 if assembly.members[index].side == "left" else 1.0)
            across = float(np.linalg.norm(right[:-1]))
            angle = math.degrees(math.atan2(-right[-1], across))
            found[index] = angle
    return found


def _pulls(hung: Hung) -> dict[str, float]:
    found: dict[str, float] = {}
    for run, pull in zip(hung.network.labels, hung.solution.tension, strict=True):
        found[run] = max(found.get(run, 0.0), float(pull))
    return found
