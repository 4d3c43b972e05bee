"""The hang of an assembly: build, lay out, solve; and where every part came to rest."""

from collections.abc import Callable, Mapping
from functools import cached_property

import numpy as np

from maglia.core.assembly.assembly import Assembly
from maglia.core.hang.bodies import Floats
from maglia.core.hang.build import as_network, skeleton
from maglia.core.hang.forms import FormBody, form_body
from maglia.core.hang.held import coiled, on_the_mat, round_the_wrist
from maglia.core.hang.layout import board_layout, body_layout
from maglia.core.hang.network import Ints, Network
from maglia.core.hang.reach import short_of_body
from maglia.core.hang.rigid import RigidPoints
from maglia.core.hang.skeleton import Skeleton
from maglia.core.hang.solution import Solution, Warm, at_rest, refused
from maglia.core.hang.solve import solve
from maglia.core.hang.stretched import stretched_by
from maglia.core.sheets.as_worn import bangle_of, coil_of
from maglia.core.values.record import Value


class Hung(Value, frozen=True, dict=True):
    """A piece at rest. `points_of` gives where a member lies; see `build.Skeleton.drawn`."""

    network: Network
    solution: Solution
    drawn: Mapping[int, tuple[int, ...]]
    hubs: Mapping[int, int]
    bodies: Mapping[int, RigidPoints]
    bounds: tuple[tuple[int, ...], ...]
    form: FormBody | None
    stretch: float = 1.0
    """How many times as long as at rest what is elastic is worn."""

    def points_of(self, member: int) -> Floats:
        """(k, dim) mm: nodes of a chain, two ends of a ring, link or rod, points of a body."""
        return self.solution.positions[list(self.drawn[member])]

    @property
    def state(self) -> str:
        return self.solution.state

    @property
    def top(self) -> float:
        """Height that falls count from, mm: the line of the pins, or the pit of the neck."""
        return self.form.top_z if self.form else 0.0

    @cached_property
    def tension_of(self) -> Mapping[int, float]:
        """Greatest pull at each point, gf."""
        found: dict[int, float] = {}
        for (a, b), pull in zip(self.network.segments, self.solution.tension, strict=True):
            for point in (int(a), int(b)):
                found[point] = max(found.get(point, 0.0), float(pull))
        return found


def hang(
    assembly: Assembly,
    cancelled: Callable[[], bool] = lambda: False,
    before: "tuple[Assembly, Hung] | None" = None,
) -> Hung | None:
    """Hang an assembly on its form; None if it has no members at all.

    `before` is an earlier state of the same piece at rest: what it knows of positions and forces
    shortens the way. If that way leads nowhere, the hang is begun afresh.
    """
    if not assembly.members:
        return None
    form = form_body(assembly.piece)
    if before is not None and (before[1].state != "converged" or before[1].form != form):
        before = None
    if before is not None and _is_flat(assembly, form) != (before[1].network.dim == 2):
        before = None  # closed it hung round a body, opened it hangs in a plane
    found = _try(assembly, form, before, cancelled)
    if before is not None and found.state != "converged":
        found = _try(assembly, form, None, cancelled)
    return found


def _is_flat(assembly: Assembly, form: FormBody | None) -> bool:
    """Whether it hangs in a plane, before a board."""
    return form is None or not _is_closed(assembly)


def _try(
    assembly: Assembly,
    form: FormBody | None,
    before: tuple[Assembly, Hung] | None,
    cancelled: Callable[[], bool],
) -> Hung:
    lines = _lines(*before) if before else None
    if (held := _held(assembly, form)) is not None:
        net, network = held
        laid = network.fixed.all()
        found = at_rest(network) if laid else solve(network, cancelled=cancelled)
        return _hung(net, network, found, form)
    stretch = 1.0
    if form is None or _is_flat(assembly, form):
        net = skeleton(assembly)
        start, pins = board_layout(net, assembly.piece.form, lines)
        network, form = as_network(net, start, pins), None
    else:
        net = skeleton(assembly, closed=True)
        if (short := short_of_body(net, form)) is not None:
            stretch = stretched_by(assembly, short[1])
            net = skeleton(assembly, closed=True, stretch=stretch)
        start, guides = body_layout(net, form, lines)
        network = as_network(net, start, {}, form.body, guides)
        if short is not None and stretch == 1.0:
            return _hung(net, network, refused(network, "too short", *short), form)
    warm = forces_near(before[1], network) if before else None
    return _hung(net, network, solve(network, warm=warm, cancelled=cancelled), form, stretch)


def _held(assembly: Assembly, form: FormBody | None) -> tuple[Skeleton, Network] | None:
    """The network of what keeps its own shape; None if gravity and body decide it."""
    if assembly.piece.form.kind == "mat":
        laid = assembly.piece.form.laid == "closed"
        net = skeleton(assembly, closed=laid)
        return net, on_the_mat(net, assembly.piece.form)
    if form is None or form.kind == "bust":
        return None
    if (coil := coil_of(assembly)) is not None and not _is_closed(assembly):
        net = skeleton(assembly)
        return net, coiled(net, coil, form)
    if (bangle := bangle_of(assembly)) is not None:
        net = skeleton(assembly, closed=True)
        return net, round_the_wrist(net, bangle, form)
    return None


def _is_closed(assembly: Assembly) -> bool:
    return assembly.main is not None and assembly.main.closed


def _lines(assembly: Assembly, hung: Hung) -> dict[tuple[str, str], Floats]:
    return {
        (path.run, path.side): path_points(assembly, hung, k)
        for k, path in enumerate(assembly.paths)
    }


def forces_near(hung: Hung, network: Network) -> Warm:
    """Forces of the nearest member or contact of an earlier hang, for each of a new network."""
    from scipy.spatial import KDTree  # takes a while, and no first hang needs it

    old, x = hung.network, hung.solution.positions
    pairs = (
        (_middles(old.segments, x), _middles(network.segments, network.start)),
        (_middles(old.rods, x), _middles(network.rods, network.start)),
        (x[old.contact], network.start[network.contact]),
    )
    forces = (hung.solution.tension, hung.solution.axial, hung.solution.contact)
    tension, axial, contact = (
        np.asarray(force[KDTree(known, balanced_tree=False).query(new)[1]])
        if len(known) and len(new) else np.zeros(len(new))
        for (known, new), force in zip(pairs, forces, strict=True)
    )  # fmt: skip
    return Warm(tension, axial, contact)


def _middles(ends: Ints, positions: Floats) -> Floats:
    return np.asarray((positions[ends[:, 0]] + positions[ends[:, 1]]) / 2)


def _hung(
    net: Skeleton,
    network: Network,
    solution: Solution,
    form: FormBody | None,
    stretch: float = 1.0,
) -> Hung:
    return Hung(
        network=network,
        solution=solution,
        drawn=net.drawn,
        hubs=net.hubs,
        bodies=net.bodies,
        bounds=tuple(map(tuple, net.bounds)),
        form=form,
        stretch=stretch,
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
