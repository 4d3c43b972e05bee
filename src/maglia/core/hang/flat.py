"""Does it lie flat? Four signals, each at its place, with how much.

A slack member, a rod in compression, neighbours closer than their widths, a part tilted against
its neighbours. One alone misses cases: a pitch too small gives compression and overlap without
slack, a curved neckline gives slack without compression.
"""

import math
from typing import Literal

import numpy as np

from maglia.core.assembly.assembly import Assembly, Member, member_name
from maglia.core.hang.bodies import Floats
from maglia.core.hang.hung import Hung
from maglia.core.parts.units import BeadLink
from maglia.core.sheets.lengths import member_width_mm
from maglia.core.values.record import Value

SLACK_MM = 0.3
PRESSED_GF = 0.05
TILT_DEG = 12.0
OVERLAP_MM = 0.3


class Mark(Value, frozen=True):
    """One place that does not lie as it should: which signal, where, how much."""

    signal: Literal["slack", "pressed", "overlap", "tilted"]
    place: str
    amount: float
    at: tuple[float, ...]
    run: str
    item: int


class Flat(Value, frozen=True):
    """All marks; flat if there are none."""

    marks: tuple[Mark, ...]

    @property
    def is_flat(self) -> bool:
        return not self.marks


def lies_flat(assembly: Assembly, hung: Hung | None) -> Flat:
    """Marks of the bead links and of the rings between them; only rows of rods can lie unflat."""
    if hung is None or hung.state != "converged":
        return Flat(())
    links = [m for m in assembly.members if isinstance(assembly.thing(m), BeadLink)]
    rows = [m for m in links if _is_tied(assembly, m)]
    if not rows:
        return Flat(())
    marks = [*_pressed(hung, rows), *_slack(assembly, hung, rows)]
    marks += [*_tilted(hung, rows), *_overlapping(assembly, hung, rows)]
    return Flat(tuple(marks))


def _is_tied(assembly: Assembly, member: Member) -> bool:
    """Whether a link is held at its middle or joins runs: part of a row, not of a plain strand."""
    kinds = {run.name: run.kind for run in assembly.runs}
    return any(
        kinds.get(assembly.members[n].run) == "tie" or kinds.get(member.run) == "tie"
        for n in assembly.neighbours[member.id]
    )


def _mark(signal: str, hung: Hung, member: Member, amount: float) -> Mark:
    at = tuple(map(float, hung.points_of(member.id).mean(axis=0)))
    return Mark(signal, member_name(member), amount, at, member.run, member.item)  # type: ignore[arg-type]


def _pressed(hung: Hung, rows: list[Member]) -> list[Mark]:
    axial = {
        frozenset((int(a), int(b))): float(force)
        for (a, b), force in zip(hung.network.rods, hung.solution.axial, strict=True)
    }
    found = []
    for member in rows:
        force = axial.get(frozenset(hung.drawn[member.id]), 0.0)
        if force < -PRESSED_GF:
            found.append(_mark("pressed", hung, member, -force))
    return found


def _slack(assembly: Assembly, hung: Hung, rows: list[Member]) -> list[Mark]:
    """Rings that join rows and carry nothing."""
    loose: dict[int, float] = {}
    for (a, b), slack in zip(hung.network.segments, hung.solution.slack, strict=True):
        if slack > SLACK_MM:
            for point in (int(a), int(b)):
                loose[point] = max(loose.get(point, 0.0), float(slack))
    found = []
    beside = {n for m in rows for n in assembly.neighbours[m.id]} - {m.id for m in rows}
    for index in sorted(beside):
        member = assembly.members[index]
        points = hung.drawn[index]
        slack = min(loose.get(p, 0.0) for p in points)
        if member.kind == "ring" and member.made_in is None and slack > SLACK_MM:
            found.append(_mark("slack", hung, member, slack))
    return found


def _direction(points: Floats) -> Floats:
    step = points[-1] - points[0]
    return np.asarray(step / max(float(np.linalg.norm(step)), 1e-9))


def _tilted(hung: Hung, rows: list[Member]) -> list[Mark]:
    """A link turned against the mean direction of the two beside it in its row."""
    found = []
    by_run: dict[str, list[Member]] = {}
    for member in rows:
        by_run.setdefault(member.run, []).append(member)
    for members in by_run.values():
        members.sort(key=lambda m: float(hung.points_of(m.id)[:, 0].mean()))
        ways = [_rightward(hung.points_of(m.id)) for m in members]
        for k in range(1, len(members) - 1):
            mean = _direction(np.array([np.zeros_like(ways[k]), ways[k - 1] + ways[k + 1]]))
            angle = math.degrees(math.acos(float(np.clip(ways[k] @ mean, -1, 1))))
            if angle > TILT_DEG:
                found.append(_mark("tilted", hung, members[k], angle))
    return found


def _rightward(points: Floats) -> Floats:
    way = _direction(points)
    return -way if way[0] < 0 else way


def _overlapping(assembly: Assembly, hung: Hung, rows: list[Member]) -> list[Mark]:
    """Links of neighbouring rows whose beads would stand in one another."""
    found = []
    middles = np.array([hung.points_of(m.id).mean(axis=0) for m in rows])
    for k, member in enumerate(rows):
        width = member_width_mm(assembly, member)
        for other in range(k + 1, len(rows)):
            if rows[other].run == member.run:
                continue
            need = (width + member_width_mm(assembly, rows[other])) / 2
            apart = float(np.linalg.norm(middles[k] - middles[other]))
            if apart < need - OVERLAP_MM:
                found.append(_mark("overlap", hung, member, need - apart))
    return found
