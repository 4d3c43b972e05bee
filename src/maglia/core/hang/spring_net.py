"""The matrix of one Newton step: small blocks per constraint summed into a banded Cholesky.

Every constraint sees one vector: the difference of two points (thread, rod) or one point
(contact), each a fixed combination of free points. The order of the free points (reverse
Cuthill–McKee) and the target of every block entry are worked out once per topology.
"""

import numpy as np
from scipy.linalg.lapack import dpbtrf, dpbtrs
from scipy.sparse import csr_matrix, vstack
from scipy.sparse.csgraph import reverse_cuthill_mckee

from maglia.core.hang.bodies import Floats
from maglia.core.hang.network import Ints, Network
from maglia.core.values.record import Value


class Topology(Value, frozen=True):
    """Linear maps between free points (F, dim) and constraint vectors (K, dim)."""

    free: Ints
    vectors: csr_matrix
    """(K, F): constraint vectors from free points."""
    gathered: csr_matrix
    """(F, K): its transpose, which gathers forces of constraints at free points."""
    points: csr_matrix
    """(N, F): all points from free points."""
    constant: Floats
    """(N, dim): what fixed points contribute to all points."""
    offset: Floats
    """(K, dim): what fixed points contribute to constraint vectors."""
    pairs: Ints
    """(P, 2): constraints that are coupled to each other, as sides of one rider are."""
    band: int
    targets: Ints
    source: Ints
    weight: Floats

    def factor(self, blocks: Floats, shift: float) -> Floats | None:
        """Banded Cholesky of Σ wᵀ block w + shift I, or None if it is not positive definite."""
        dim = blocks.shape[1]
        size = self.vectors.shape[1] * dim
        values = blocks.reshape(len(blocks), -1)[self.source] * self.weight[:, None]
        flat = np.bincount(
            self.targets.ravel(), weights=values.ravel(), minlength=(self.band + 1) * size + 1
        )[:-1]
        matrix = flat.reshape(self.band + 1, size).astype(float, copy=False)
        matrix[0] += shift
        factor, info = dpbtrf(matrix, lower=1, overwrite_ab=1)
        return factor if info == 0 else None

    def solve(self, factor: Floats, right: Floats) -> Floats:
        """One step (F, dim) for a right-hand side (F, dim)."""
        step, _ = dpbtrs(factor, right.reshape(-1, 1), lower=1)
        return np.asarray(step).reshape(right.shape)


def topology(network: Network) -> Topology:
    """Work out the maps and the banded layout of a network."""
    count, dim = network.start.shape
    resolved = network.resolved()
    is_free = ~network.fixed.copy()
    is_free[list(resolved)] = False
    free = np.flatnonzero(is_free)
    points, constant = _points(network, resolved, free)
    spread = _spread(np.vstack([network.threads[0], network.rods]).astype(np.int64), count)
    sides, of = network.sides
    touch = csr_matrix(
        (np.ones(len(network.contact)), (np.arange(len(network.contact)), network.contact)),
        shape=(len(network.contact), count),
    )
    from_points = csr_matrix(vstack([spread, _guides(network), touch, _spread(sides, count)]))
    vectors = csr_matrix(from_points @ points)
    pairs = _beside(of) + vectors.shape[0] - len(of)
    together = csr_matrix(
        vstack([abs(vectors), abs(vectors[pairs[:, 0]]) + abs(vectors[pairs[:, 1]])])
    )
    beside = csr_matrix(together.T @ together)
    order = np.arange(beside.shape[0])  # of what nothing holds to anything, as it is
    if beside.nnz:
        order = np.asarray(reverse_cuthill_mckee(beside, symmetric_mode=True))
    vectors, points, free = vectors[:, order].tocsr(), points[:, order].tocsr(), free[order]
    band, targets, source, weight = _band_layout(vectors, dim, pairs)
    offset = from_points @ constant
    return Topology(
        free=free, vectors=vectors, gathered=vectors.T.tocsr(), points=points, constant=constant,
        offset=offset, pairs=pairs, band=band, targets=targets, source=source, weight=weight,
    )  # fmt: skip


def _spread(pairs: Ints, count: int) -> csr_matrix:
    """Differences of pairs of points."""
    rows, ones = np.arange(len(pairs)), np.ones(len(pairs))
    where = (np.r_[rows, rows], np.r_[pairs[:, 1], pairs[:, 0]])
    return csr_matrix((np.r_[ones, -ones], where), shape=(len(pairs), count))


def _beside(of: Ints) -> Ints:
    """Every two sides of one slider (P, 2), the first before the second."""
    one, other = np.triu_indices(len(of), 1)
    same = of[one] == of[other]
    return np.asarray(np.c_[one[same], other[same]], np.int64)


def _guides(network: Network) -> csr_matrix:
    rows, columns, weights = [], [], []
    for row, (combination, *_) in enumerate(network.guides):
        for node, weight in combination:
            rows.append(row)
            columns.append(node)
            weights.append(weight)
    shape = (len(network.guides), len(network.start))
    return csr_matrix((weights, (rows, columns)), shape=shape)


def _points(
    network: Network, resolved: dict[int, tuple[tuple[int, float], ...]], free: Ints
) -> tuple[csr_matrix, Floats]:
    column = np.full(len(network.start), -1)
    column[free] = np.arange(len(free))
    rows, columns, weights = list(free), list(range(len(free))), [1.0] * len(free)
    constant = np.where(network.fixed[:, None], network.start, 0.0)
    for node, bases in resolved.items():
        constant[node] = 0.0
        for base, weight in bases:
            if column[base] >= 0:
                rows.append(node)
                columns.append(column[base])
                weights.append(weight)
            else:
                constant[node] += weight * network.start[base]
    shape = (len(network.start), len(free))
    return csr_matrix((weights, (rows, columns)), shape=shape), constant


def _band_layout(vectors: csr_matrix, dim: int, pairs: Ints) -> tuple[int, Ints, Ints, Floats]:
    """Where every entry of every constraint's block lands in LAPACK's lower band storage. Each of
    the `pairs` of constraints has two blocks after them: what couples the first to the second, and
    its transpose."""
    vectors.sort_indices()
    counts = np.diff(vectors.indptr)
    source, first, second = [], [], []
    for size in np.unique(counts):  # constraints with the same number of free points together
        rows = np.flatnonzero(counts == size)
        slots = vectors.indptr[rows][:, None] + np.arange(size)
        a, b = np.meshgrid(np.arange(size), np.arange(size), indexing="ij")
        source.append(np.repeat(rows, size * size))
        first.append(slots[:, a.ravel()].ravel())
        second.append(slots[:, b.ravel()].ravel())
    for k, (a, b) in enumerate(pairs):
        ours, theirs = (np.arange(vectors.indptr[r], vectors.indptr[r + 1]) for r in (a, b))
        here, there = (x.ravel() for x in np.meshgrid(ours, theirs, indexing="ij"))
        block = vectors.shape[0] + 2 * k
        source += [np.full(len(here), block), np.full(len(here), block + 1)]
        first += [here, there]
        second += [there, here]
    rows, one, two = (np.concatenate(x).astype(np.int64) for x in (source, first, second))
    weight = vectors.data[one] * vectors.data[two]
    i, j = vectors.indices[one].astype(np.int64), vectors.indices[two].astype(np.int64)
    size = vectors.shape[1] * dim
    axis = np.arange(dim)
    row = (i[:, None] * dim + axis)[:, :, None]
    col = (j[:, None] * dim + axis)[:, None, :]
    below = row - col
    band = int(below.max(initial=0))
    targets = np.where(below >= 0, below * size + col, (band + 1) * size)
    return band, targets.reshape(len(rows), dim * dim), rows, weight
