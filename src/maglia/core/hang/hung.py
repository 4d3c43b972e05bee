"""The hang of an assembly: build, lay out, solve; and where every part came to rest."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from maglia.core.assembly import Assembly
from maglia.core.hang.bodies import Floats
from maglia.core.hang.build import Skeleton, as_network, skeleton
from maglia.core.hang.layout import board_layout
from maglia.core.hang.network import Network
from maglia.core.hang.rigid import RigidPoints
from maglia.core.hang.solve import Solution, solve


@dataclass(frozen=True)
class Hung:
    """A piece at rest. `points_of` gives where a member lies; see `build.Skeleton.drawn`."""

    network: Network
    solution: Solution
    drawn: Mapping[int, tuple[int, ...]]
    hubs: Mapping[int, int]
    bodies: Mapping[int, RigidPoints]
    bounds: tuple[tuple[int, ...], ...]

    def points_of(self, member: int) -> Floats:
        """(k, dim) mm: nodes of a chain, two ends of a ring, link or rod, points of a body."""
        return self.solution.positions[list(self.drawn[member])]

    @property
    def state(self) -> str:
        return self.solution.state

    @cached_property
    def tension_of(self) -> Mapping[int, float]:
        """Greatest pull at each point, gf."""
        found: dict[int, float] = {}
        for (a, b), pull in zip(self.network.segments, self.solution.tension, strict=True):
            for point in (int(a), int(b)):
                found[point] = max(found.get(point, 0.0), float(pull))
        return found


def hang(assembly: Assembly, cancelled: Callable[[], bool] = lambda: False) -> Hung | None:
    """Hang an assembly on its form; None if it has no members at all."""
    if not assembly.members:
        return None
    net = skeleton(assembly)
    start, pins = board_layout(net, assembly.piece.form)
    network = as_network(net, start, pins)
    return _hung(net, network, solve(network, cancelled=cancelled))


def _hung(net: Skeleton, network: Network, solution: Solution) -> Hung:
    return Hung(
        network=network,
        solution=solution,
        drawn=net.drawn,
        hubs=net.hubs,
        bodies=net.bodies,
        bounds=tuple(map(tuple, net.bounds)),
    )


def path_points(assembly: Assembly, hung: Hung, path_index: int) -> Floats:
    """Every point of a path from its start to its end, (k, dim) mm."""
    found: list[int] = []
    bounds = hung.bounds[path_index]
    for k, station in enumerate(assembly.paths[path_index].stations):
        member = assembly.members[station.members[0]]
        inner = hung.drawn[member.id] if member.links > 1 else (bounds[k], bounds[k + 1])
        found += inner if inner[0] == bounds[k] else inner[::-1]
    return np.asarray(hung.solution.positions[found])
