"""Whether threads and rods can reach between what is fixed, before anything is solved.

Along any line of members the two ends can be no further apart than the sum of lengths; the
shortest such sum between two fixed points must cover their distance.
"""

from typing import NamedTuple

import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import dijkstra

from maglia.core.hang.network import Network

REACH_TOLERANCE_MM = 1e-6


class Shortfall(NamedTuple):
    words: str
    millimetres: float


def shortfall(network: Network) -> Shortfall | None:
    """By how much the worst pair of fixed points is out of reach, or None if all can be reached."""
    pinned = np.flatnonzero(network.fixed)
    if len(pinned) < 2:
        return None
    ends = np.vstack([network.segments, network.rods]).astype(int)
    lengths = np.r_[network.rest, network.length]
    attached = [
        (node, base, float(np.linalg.norm(network.start[node] - network.start[base])))
        for node, bases in network.attached.items()
        for base, _ in bases
    ]
    rows = np.r_[ends[:, 0], [a for a, _, _ in attached]].astype(int)
    columns = np.r_[ends[:, 1], [b for _, b, _ in attached]].astype(int)
    weights = np.maximum(np.r_[lengths, [w for _, _, w in attached]], 1e-9)
    size = len(network.start)
    graph = csr_matrix((weights, (rows, columns)), shape=(size, size))
    reach, before = dijkstra(graph, directed=False, indices=pinned, return_predecessors=True)
    reach = reach[:, pinned]
    at = network.start[pinned]
    apart = np.linalg.norm(at[:, None] - at[None], axis=2)
    missing = np.where(np.isfinite(reach), apart - reach, -np.inf)
    worst = float(missing.max())
    if worst <= REACH_TOLERANCE_MM or _fixed_only(network, pinned):
        return None
    one, other = np.unravel_index(int(missing.argmax()), missing.shape)
    where = _run_between(network, before[one], int(pinned[other]))
    return Shortfall(f"{where}too short by {worst:.1f} mm to reach its pins", worst)


def _fixed_only(network: Network, pinned: np.ndarray) -> bool:
    return len(pinned) == len(network.start)


def _run_between(network: Network, before: np.ndarray, at: int) -> str:
    """The run that most of the way between two pins is made of. `before` is the point before
    each on the shortest ways from the one; `at` the other."""
    named = {
        frozenset((int(a), int(b))): name
        for (a, b), name in zip(network.segments, network.labels, strict=False)
    }
    found: list[str] = []
    while (point := int(before[at])) >= 0:
        found.append(named.get(frozenset((point, at)), ""))
        at = point
    names = [name for name in found if name]
    return f"run “{max(set(names), key=names.count)}” is " if names else "the chain is "
