"""The hang against general solvers on the same networks, in one run: a conic interior-point method
(Clarabel) without a body, a nonlinear one (IPOPT, through CasADi) on a bust, and a simulator that
lets a strand settle (MuJoCo). What is not installed is passed over.

Run: pip install clarabel casadi mujoco; PYTHONPATH=src python benchmarks/others.py
"""

import statistics
import sys
import time
from collections.abc import Callable
from typing import Any

import numpy as np
from hang import free, loop
from msgspec.structs import replace
from scipy.sparse import csc_matrix

from maglia.core.assembly.expand import expand
from maglia.core.hang.bodies import Ball, Blend, Body, ConeCapsule, Ellipsoid, Floats
from maglia.core.hang.hung import hang
from maglia.core.hang.network import Network
from maglia.core.hang.solve import solve
from maglia.core.hang.spring_net import forget
from maglia.memory import settle

REPEATS = 5
Solver = Callable[[Network], tuple[float, Floats]]
"""Seconds, without the import and its first use, and all positions (N, dim) mm."""


def strand(count: int, slack: float = 1.3) -> Network:
    """A plain chain of so many segments of 2 mm between two pins."""
    span = 2.0 * count / slack
    start = np.zeros((count + 1, 2))
    start[:, 0] = np.linspace(0, span, count + 1)
    start[:, 1] = -span * 0.3 * np.sin(np.linspace(0, np.pi, count + 1))
    fixed = np.zeros(count + 1, bool)
    fixed[[0, -1]] = True
    pairs = np.c_[np.arange(count), np.arange(1, count + 1)]
    return _threads(start, np.full(count + 1, 0.05), fixed, pairs, np.full(count, 2.0))


def lace(rows: int, columns: int) -> Network:
    """A net of threads hung by its upper edge, drawn in at the sides."""
    at = np.arange(rows * columns).reshape(rows, columns)
    x, y = np.meshgrid(np.arange(columns) * 4.0, -np.arange(rows) * 5.0)
    start = np.c_[x.ravel(), y.ravel()]
    fixed = np.zeros(rows * columns, bool)
    fixed[at[0]] = True
    across = np.c_[at[1:, :-1].ravel(), at[1:, 1:].ravel()]
    down = np.c_[at[:-1].ravel(), at[1:].ravel()]
    rest = np.r_[np.full(len(across), 4.4), np.full(len(down), 5.0)]
    mass = np.full(rows * columns, 0.05)
    mass[at[-1, ::3]] += 0.5
    return _threads(start, mass, fixed, np.vstack([across, down]), rest)


def strand_with_drops() -> Network:
    """The strand with nine drops; its charms pulled like threads, as they always are."""
    hung = hang(expand(free()))
    assert hung is not None
    net = hung.network
    return replace(
        net, segments=np.vstack([net.segments, net.rods]), rest=np.r_[net.rest, net.length],
        rods=net.rods[:0], length=net.length[:0], labels=(),
    )  # fmt: skip


def _threads(start: Floats, mass: Floats, fixed: Any, pairs: Any, rest: Floats) -> Network:
    return Network(
        start=start, mass=mass, fixed=fixed, segments=pairs, rest=rest,
        rods=np.zeros((0, 2), int), length=np.zeros(0),
    )  # fmt: skip


def ours(network: Network) -> tuple[float, Floats]:
    began = time.perf_counter()
    found = solve(network)
    taken = time.perf_counter() - began
    assert found.state == "converged", found.cause
    return taken, found.positions


def afresh(network: Network) -> tuple[float, Floats]:
    """Ours, with nothing kept of the network's structure."""
    forget()
    return ours(network)


def clarabel(network: Network) -> tuple[float, Floats]:
    """Each thread a second-order cone: (length, difference) with |difference| ≤ length."""
    import clarabel as cones

    began = time.perf_counter()
    count, dim = network.start.shape
    weights = {k: ((k, 1.0),) for k in range(count)} | network.resolved()
    free_points = [k for k in range(count) if not network.fixed[k] and k not in network.attached]
    column = {point: k * dim for k, point in enumerate(free_points)}
    rows, columns, values, right = [], [], [], []
    for (a, b), rest in zip(network.segments, network.rest, strict=True):
        at = len(right)
        offset = np.zeros(dim)
        for node, sign in ((a, -1.0), (b, 1.0)):
            for base, weight in weights[int(node)]:
                if base in column:
                    for axis in range(dim):
                        rows.append(at + 1 + axis)
                        columns.append(column[base] + axis)
                        values.append(-sign * weight)
                else:
                    offset += sign * weight * network.start[base]
        right += [float(rest), *offset]
    size = len(free_points) * dim
    pull = np.zeros(size)
    for node, mass in enumerate(network.mass):
        for base, weight in weights[node]:
            if base in column:
                pull[column[base] + dim - 1] += weight * mass
    settings = cones.DefaultSettings()
    settings.verbose = False
    matrix = csc_matrix((values, (rows, columns)), shape=(len(right), size))
    kinds = [cones.SecondOrderConeT(dim + 1)] * len(network.segments)
    found = cones.DefaultSolver(
        csc_matrix((size, size)), pull, matrix, np.array(right), kinds, settings
    ).solve()
    positions = network.start.copy()
    positions[free_points] = np.array(found.x).reshape(-1, dim)
    for node, bases in network.resolved().items():
        positions[node] = sum(weight * positions[base] for base, weight in bases)
    return time.perf_counter() - began, positions


def ipopt(network: Network) -> tuple[float, Floats]:
    """The same problem written out for exact derivatives; their making is not timed."""
    import casadi as ca

    count, dim = network.start.shape
    x = ca.SX.sym("x", dim, count)
    bounds: list[tuple[Any, float, float]] = []
    for (a, b), rest in zip(network.segments, network.rest, strict=True):
        d = x[:, int(b)] - x[:, int(a)]
        bounds.append((ca.dot(d, d) / (2 * rest), -np.inf, rest / 2))
    radius = np.broadcast_to(network.radius, network.contact.shape)
    for node, off in zip(network.contact, radius, strict=True):
        bounds.append((_distance(network.body, x[:, int(node)]), float(off), np.inf))
    for combination, normal, offset in network.guides:
        place = sum(weight * x[:, node] for node, weight in combination)
        bounds.append((ca.dot(ca.DM(normal), place), offset, offset))
    height = ca.dot(ca.DM(np.maximum(network.mass, 1e-4)), x[dim - 1, :].T)
    problem = {"x": ca.vec(x), "f": height, "g": ca.vertcat(*[one for one, _, _ in bounds])}
    quiet = {"print_time": False, "ipopt.print_level": 0, "ipopt.sb": "yes"}
    solver = ca.nlpsol("hang", "ipopt", problem, quiet)
    began = time.perf_counter()
    found = solver(
        x0=network.start.ravel(),
        lbg=[low for _, low, _ in bounds],
        ubg=[high for _, _, high in bounds],
    )
    return time.perf_counter() - began, np.array(found["x"]).reshape(count, dim)


def _distance(body: Body | None, x: Any) -> Any:
    import casadi as ca

    if isinstance(body, Blend):
        a, b = _distance(body.a, x), _distance(body.b, x)
        h = ca.fmin(ca.fmax(0.5 + 0.5 * (b - a) / body.k, 0), 1)
        return b * (1 - h) + a * h - body.k * h * (1 - h)
    if isinstance(body, ConeCapsule):
        p = ca.DM(body.p)
        axis = ca.DM(body.q) - p
        t = ca.fmin(ca.fmax(ca.dot(x - p, axis) / ca.dot(axis, axis), 0), 1)
        return ca.norm_2(x - p - t * axis) - (body.rp + t * (body.rq - body.rp))
    if isinstance(body, Ellipsoid):
        away, r = x - ca.DM(body.centre), ca.DM(body.radii)
        k0, k1 = ca.norm_2(away / r), ca.norm_2(away / r**2)
        return k0 * (k0 - 1) / k1
    assert isinstance(body, Ball)
    return ca.norm_2(x - ca.DM(body.centre)) - body.radius


def mujoco(network: Network) -> tuple[float, Floats]:
    """Points that slide freely, tied by tendons of a greatest length, in thick air, until nothing
    moves by 0.02 mm a second. In its own units: metres and kilograms."""
    import mujoco as sim

    points, ties = [], []
    for k, (x, z) in enumerate(network.start):
        joints = "" if network.fixed[k] else (
            '<joint type="slide" axis="1 0 0" damping="1e-4"/>'
            '<joint type="slide" axis="0 0 1" damping="1e-4"/>'
        )  # fmt: skip
        points.append(
            f'<body pos="{x / 1000} 0 {z / 1000}">{joints}<site name="p{k}"/>'
            f'<geom type="sphere" size="1e-4" mass="{network.mass[k] / 1000}" contype="0"'
            f' conaffinity="0"/></body>'
        )
    for (a, b), rest in zip(network.segments, network.rest, strict=True):
        ties.append(
            f'<spatial limited="true" range="0 {rest / 1000}" solreflimit="0.002 1"'
            f' solimplimit="0.99 0.999 1e-5"><site site="p{a}"/>'
            f'<site site="p{b}"/></spatial>'
        )
    model = sim.MjModel.from_xml_string(
        f'<mujoco><option timestep="0.001" iterations="200"'
        f' tolerance="1e-14"/><size memory="200M"/>'
        f"<worldbody>{''.join(points)}</worldbody><tendon>{''.join(ties)}</tendon></mujoco>"
    )
    data = sim.MjData(model)
    began = time.perf_counter()
    for _ in range(400):
        sim.mj_step(model, data, 50)
        if np.abs(data.qvel).max() < 2e-5:
            break
    taken = time.perf_counter() - began
    return taken, data.site_xpos[:, [0, 2]] * 1000


def against(name: str, network: Network, others: dict[str, Solver]) -> None:
    sets = [[ours(network) for _ in range(REPEATS)], [afresh(network) for _ in range(REPEATS)]]
    kept, cold = (statistics.median(taken for taken, _ in runs) * 1000 for runs in sets)
    shape = sets[0][0][1]
    print(f"{name}: {len(network.start)} nodes, ours {kept:.1f} ms with its structure kept, "
          f"{cold:.1f} afresh")  # fmt: skip
    for other, solver in others.items():
        try:
            runs = [solver(network) for _ in range(1 if other == "MuJoCo" else REPEATS)]
        except ImportError:
            print(f"  {other} is not installed")
            continue
        taken = statistics.median(taken for taken, _ in runs) * 1000
        away = float(np.linalg.norm(runs[0][1] - shape, axis=1).max())
        print(f"  {other:<9}{taken:9.1f} ms = {taken / kept:6.1f} × ours (afresh "
              f"{taken / cold:6.1f} ×), {away:.3f} mm away")  # fmt: skip


def main() -> None:
    settle()
    cones, settled = {"Clarabel": clarabel}, {"Clarabel": clarabel, "MuJoCo": mujoco}
    against("strand of 60", strand(60), settled)
    against("strand of 400", strand(400), cones)
    against("strand with nine drops", strand_with_drops(), cones)
    against("lace of 20 × 25", lace(20, 25), cones)
    hung = hang(expand(loop(550, 240)))
    assert hung is not None
    against("loop on the bust", hung.network, {"IPOPT": ipopt})
    hung = hang(expand(loop(550, 600)))
    assert hung is not None
    against("loop on the bust", hung.network, {"IPOPT": ipopt})


if __name__ == "__main__":
    sys.exit(main())
