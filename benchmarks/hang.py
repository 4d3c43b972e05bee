"""How fast and how surely pieces come to rest: cold, warm, perturbed, refused, and a ratio against
the same loop done by penalty springs and L-BFGS (scipy.optimize). Nothing worked out for one hang
is kept for the next, as it is when a count has changed.

Run: PYTHONPATH=src python benchmarks/hang.py
"""

import statistics
import time
from collections.abc import Callable

import numpy as np
from msgspec.structs import replace
from scipy.optimize import minimize

from maglia.core.assembly.expand import expand
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import CENTRE, Spot, count_at
from maglia.core.hang.hung import Hung, hang
from maglia.core.hang.network import Network
from maglia.core.hang.solve import solve
from maglia.core.hang.spring_net import forget
from maglia.core.parts.parts import Chain, Charm, Ring
from maglia.core.piece.items import ChainItem, PartItem, RingItem
from maglia.core.piece.piece import Closure, DropRow, Form, Piece, Place, Run, TiedRows, Wearer
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece
from maglia.memory import settle

PARTS = (
    Chain(id="c", name="Chain 1.5", pitches_mm=(1.5,), inner_width_mm=1, wire_mm=0.4),
    Chain(id="w", name="Chain 3", pitches_mm=(3.0,), inner_width_mm=2, wire_mm=0.8),
    Ring(id="r", name="Ring", wire_mm=0.6, inner_mm=3.0),
    Charm(id="d", name="Leaf", height_mm=12, width_mm=5, loop_mm=1.5, mass_g=0.5),
)
ROUND = Closure(kind="continuous", catch="r")


def loop(length_mm: float, nodes: int = 600) -> Piece:
    """A plain loop on the bust."""
    links = nodes - 2 if nodes % 2 else nodes - 1
    chain = replace(PARTS[0], pitches_mm=((length_mm - 3.0) / links,))
    run = Run(name="Loop", centre=ChainItem(part="c", links=links))
    return Piece(
        wearer=Wearer(neck_mm=350), form=Form(kind="bust"), parts=(chain, *PARTS[1:]),
        runs=(run,), closure=ROUND,
    )  # fmt: skip


def free() -> Piece:
    """A strand with nine drops on the board, about 400 nodes."""
    run = Run(name="Strand", centre=ChainItem(part="c", links=241))
    items = (RingItem(part="r"), ChainItem(part="c", links=14), PartItem(part="d"))
    row = DropRow(name="Row", run="Strand", rule="every", every=10, count=9, items=items)
    form = Form(kind="board", pins_mm=150)
    return Piece(parts=PARTS, form=form, runs=(run,), rows=(row,), closure=Closure(kind="open"))


def tiers() -> Piece:
    """Three tiers with drops, about 1000 nodes."""
    end = Place(run="Tier 1", item=1)
    ring = (RingItem(part="r"),)
    runs = (
        Run(name="Tier 1", centre=ChainItem(part="c", links=271), items=ring),
        Run(name="Tier 2", centre=ChainItem(part="c", links=301), items=ring, end=end),
        Run(name="Tier 3", centre=ChainItem(part="c", links=341), items=ring, end=end),
    )
    items = (RingItem(part="r"), ChainItem(part="c", links=5), PartItem(part="d"))
    row = DropRow(name="Row", run="Tier 3", rule="every", every=12, count=9, items=items)
    return Piece(
        wearer=Wearer(neck_mm=350), form=Form(kind="bust"), parts=PARTS, runs=runs, rows=(row,),
        closure=ROUND,
    )  # fmt: skip


def tied(rows: int) -> Piece:
    """An inverted triangle of bead links tied by rings, on the board: the curtain bib's, larger."""
    bib = read_piece(demo_path("curtain-bib"))
    (net,) = (row for row in bib.rows if isinstance(row, TiedRows))
    net = replace(net, rows=tuple(range(rows, 0, -1)))
    return replace(bib, rows=(net,), fits=(), form=Form(kind="board", pins_mm=18.0 * rows))


def timed(work: Callable[[], object], repeats: int = 9) -> tuple[float, str]:
    times = []
    for _ in range(repeats):
        forget()
        began = time.perf_counter()
        work()
        times.append((time.perf_counter() - began) * 1000)
    return statistics.median(times), f"{min(times):.0f}–{max(times):.0f}"


def one_link_more(piece: Piece) -> Piece:
    spot = Spot(piece.runs[0].name, (CENTRE,))
    return set_count(piece, spot, count_at(piece, spot)[0] + 2).piece


def penalty(network: Network) -> float:
    """Milliseconds that springs and L-BFGS take for the same loop, one attempt."""
    segments, rest, stiff = network.segments, network.rest, 2000.0

    def energy(flat: np.ndarray) -> tuple[float, np.ndarray]:
        x = flat.reshape(network.start.shape)
        d = x[segments[:, 1]] - x[segments[:, 0]]
        length = np.linalg.norm(d, axis=1)
        over = np.maximum(length - rest, 0)
        pull = (stiff * over / np.maximum(length, 1e-9))[:, None] * d
        force = np.zeros_like(x)
        np.add.at(force, segments[:, 1], pull)
        np.add.at(force, segments[:, 0], -pull)
        force[:, -1] += network.mass
        value = float(network.mass @ x[:, -1]) + stiff / 2 * float(over @ over)
        assert network.body is not None
        touch = network.body.evaluate(x[network.contact])
        deep = np.minimum(touch.value - network.radius, 0)
        force[network.contact] += stiff * deep[:, None] * touch.gradient
        return value + stiff / 2 * float(deep @ deep), force.ravel()

    began = time.perf_counter()
    minimize(energy, network.start.ravel(), jac=True, method="L-BFGS-B", options={"maxiter": 1500})
    return (time.perf_counter() - began) * 1000


def case(name: str, piece: Piece, goals: tuple[float, float | None]) -> tuple[Hung, float]:
    assembly = expand(piece)
    hung = hang(assembly)
    assert hung is not None
    cold, spread = timed(lambda: hang(assembly))
    line = f"{name:<26}{len(hung.network.start):>6}  cold {cold:4.0f} ms ({spread})"
    line += f" of {goals[0]:.0f}, {cold / goals[0]:.2f}; {hung.solution.iterations} steps"
    if goals[1] is not None:
        more = expand(one_link_more(piece))
        again = hang(more, before=(assembly, hung))
        assert again is not None
        warm, spread = timed(lambda: hang(more, before=(assembly, hung)))
        line += f"; warm {warm:4.0f} ({spread}) of {goals[1]:.0f}, {warm / goals[1]:.2f}"
        line += f"; {again.solution.iterations} steps"
    print(line)
    return hung, cold


def perturbed() -> None:
    """200 loops of 400–900 mm from disturbed starts: all must find the same rest."""
    rng = np.random.default_rng(11)
    arrived = worst = 0.0
    for length in np.linspace(400, 900, 20):
        rest = hang(expand(loop(float(length), 120)))
        assert rest is not None
        for _ in range(10):
            jolt = rng.normal(0, 4.0, rest.network.start.shape)
            smooth = np.cumsum(jolt, axis=0) / 12
            found = solve(replace(rest.network, start=rest.network.start + jolt / 4 + smooth))
            if found.state == "converged":
                away = np.linalg.norm(found.positions - rest.solution.positions, axis=1).max()
                arrived += away < 0.1
                worst = max(worst, float(away))
    print(f"perturbed starts: {arrived:.0f} of 200 within 0.1 mm, the furthest {worst:.3f} mm off")


def main() -> None:
    settle()
    case("free hanging with drops", free(), (6, 6))
    hung, cold = case("loop on the bust", loop(550), (30, 15))
    print(f"  penalty springs with L-BFGS take {penalty(hung.network) / cold:.0f} × as long")
    case("three tiers with drops", tiers(), (70, 30))
    sizes, times = [], []
    for rows, goal in ((10, 80), (15, 200), (25, 900)):
        hung, cold = case(f"tied rows {rows}", tied(rows), (goal, None))
        sizes.append(len(hung.network.start))
        times.append(cold)
    power = np.polyfit(np.log(sizes), np.log(times), 1)[0]
    print(f"  tied rows grow with power {power:.2f} of 1.6")
    short = expand(loop(320, 200))
    refused, spread = timed(lambda: hang(short), 5)
    state = hang(short)
    print(f"refused: {state.state if state else ''} in {refused:.0f} ms ({spread}) of 300")
    perturbed()


if __name__ == "__main__":
    main()
