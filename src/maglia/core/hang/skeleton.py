"""Points and members of a net before they have positions."""

from dataclasses import dataclass, field

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.ports import Port
from maglia.core.hang.network import Weights
from maglia.core.hang.rigid import RigidPoints

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

    radii: dict[int, float] | None = None
    """How far each free point stays from the skin, mm, once it was asked for."""

    def point(self) -> int:
        self.points += 1
        self.mass.append(0.0)
        return self.points - 1


def thread(net: Skeleton, a: int, b: int, length: float, run: str) -> None:
    rest = length + net.extra.get(a, 0.0) + net.extra.get(b, 0.0)
    net.segments.append((a, b, max(rest, 1e-3), run))


def weigh(net: Skeleton, mass: float, *points: int) -> None:
    for point in points:
        net.mass[point] += mass / len(points)
