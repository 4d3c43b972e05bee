"""The matrix of one Newton step: small blocks per constraint summed into a banded Cholesky.

Every constraint sees one vector: the difference of two points (thread, rod) or one point
(contact), each a fixed combination of free points. The order of the free points (reverse
Cuthill–McKee) and the place of every block entry in the band are worked out once per topology, as
one sparse matrix that sums all blocks into the band.
"""

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.linalg.lapack import dpbtrf, dpbtrs
from scipy.sparse import csc_matrix, csr_matrix
from scipy.sparse.csgraph import reverse_cuthill_mckee

from maglia.core.hang.bodies import Floats
from maglia.core.hang.network import Ints, Network, Weights
from maglia.core.values.record import Value

Index = NDArray[np.int32]
KEPT = 8
"""Topologies that are kept: of a piece, its other ways to wear, and trials of a fit."""
Combinations = tuple[NDArray[np.integer], NDArray[np.integer], Floats]
"""Of each row how many points, then all their numbers, and all their weights."""


class Topology(Value, frozen=True):
    """Linear maps between free points (F, dim) and constraint vectors (K, dim)."""

    free: Ints
    vectors: csr_matrix
    """(K, F): constraint vectors from free points."""
    gathered: csr_matrix
    """(F, K): its transpose, which gathers forces of constraints at free points."""
    points: csr_matrix
    """(N, F): all points from free points."""
    pinned: csr_matrix
    """(N, N): what fixed points add to all points."""
    offsets: csr_matrix
    """(K, N): what fixed points add to constraint vectors."""
    pairs: Ints
    """(P, 2): constraints that are coupled to each other, as sides of one rider are."""
    band: int
    scatter: csc_matrix
    """Sums the entries of all blocks into the lower band, column by column."""

    def matrix(self, blocks: Floats) -> Floats:
        """Σ wᵀ block w as a lower band (band + 1, F × dim), in the order LAPACK works in."""
        summed = np.asarray(self.scatter @ blocks.ravel())
        return summed.reshape(-1, self.band + 1).T

    def factor(self, matrix: Floats, shift: float) -> Floats | None:
        """Banded Cholesky of matrix + shift I, or None if it is not positive definite."""
        trial = matrix.copy(order="F")
        trial[0] += shift
        factor, info = dpbtrf(trial, lower=1, overwrite_ab=1)
        return factor if info == 0 else None

    def solve(self, factor: Floats, right: Floats) -> Floats:
        """One step (F, dim) for a right-hand side (F, dim)."""
        step, _ = dpbtrs(factor, right.reshape(-1, 1), lower=1)
        return np.asarray(step).reshape(right.shape)


def topology(network: Network) -> Topology:
    """The maps and the banded layout of a network. They are kept: whatever changes lengths, masses
    or places only goes on with them."""
    sides, of = network.sides
    return _worked_out(_Structure(
        points=len(network.start),
        dim=network.dim,
        fixed=network.fixed.tobytes(),
        members=np.concatenate([network.threads[0], network.rods.reshape(-1, 2)])
        .astype(np.int64).tobytes(),
        guides=tuple(own.points for own in network.guides),
        contact=network.contact.astype(np.int64).tobytes(),
        sides=sides.tobytes(),
        of=of.tobytes(),
        resolved=tuple(network.resolved().items()),
    ))  # fmt: skip


def forget() -> None:
    """Drop what is kept of earlier networks."""
    _worked_out.cache_clear()


class _Structure(NamedTuple):
    """What decides a topology, by value; arrays as their bytes."""

    points: int
    dim: int
    fixed: bytes
    members: bytes
    guides: tuple[Weights, ...]
    contact: bytes
    sides: bytes
    of: bytes
    resolved: tuple[tuple[int, Weights], ...]


@lru_cache(maxsize=KEPT)
def _worked_out(net: _Structure) -> Topology:
    is_free = ~np.frombuffer(net.fixed, bool)
    resolved = dict(net.resolved)
    is_free[list(resolved)] = False
    free = np.flatnonzero(is_free)
    contact, of = np.frombuffer(net.contact, np.int64), np.frombuffer(net.of, np.int64)
    from_points = _rows(net.points, (
        _spread(np.frombuffer(net.members, np.int64).reshape(-1, 2)),
        _combined(net.guides),
        (np.ones(len(contact), int), contact, np.ones(len(contact))),
        _spread(np.frombuffer(net.sides, np.int64).reshape(-1, 2)),
    ))  # fmt: skip
    every = _points(net.points, resolved)
    points = _columns(every, free)
    fixed = np.where(is_free, 0.0, 1.0)
    pinned = csr_matrix((every.data * fixed[every.indices], every.indices, every.indptr),
                        shape=every.shape)  # fmt: skip
    vectors = csr_matrix(from_points @ points)
    pairs = _beside(of) + vectors.shape[0] - len(of)
    order = _order(vectors, pairs)
    rank = np.empty(len(free), np.int32)
    rank[order] = np.arange(len(free), dtype=np.int32)
    for rows in (vectors, points):
        rows.indices = rank[rows.indices]
        rows.has_sorted_indices = False
    band, scatter = _band_layout(vectors, net.dim, pairs)
    return Topology(
        free=free[order], vectors=vectors, gathered=vectors.T.tocsr(), points=points,
        pinned=pinned, offsets=from_points @ pinned, pairs=pairs, band=band, scatter=scatter,
    )  # fmt: skip


def _rows(count: int, parts: Sequence[Combinations]) -> csr_matrix:
    """Combinations of `count` points, one below the other."""
    sizes, points, weights = (np.concatenate(each) for each in zip(*parts, strict=True))
    ends = np.zeros(len(sizes) + 1, np.int32)
    np.cumsum(sizes, out=ends[1:])
    return csr_matrix((weights, points.astype(np.int32), ends), shape=(len(sizes), count))


def _spread(pairs: Ints) -> Combinations:
    """Differences of pairs of points."""
    weights = np.empty(pairs.shape)
    weights[:] = (-1.0, 1.0)
    return np.full(len(pairs), 2), pairs.ravel(), weights.ravel()


def _combined(all_weights: Sequence[Weights]) -> Combinations:
    flat = [one for weights in all_weights for one in weights]
    sizes = np.array([len(weights) for weights in all_weights], int)
    return sizes, np.array([p for p, _ in flat], int), np.array([w for _, w in flat], float)


def _beside(of: Ints) -> Ints:
    """Every two sides of one slider (P, 2), the first before the second."""
    one, other = np.triu_indices(len(of), 1)
    same = of[one] == of[other]
    return np.asarray(np.c_[one[same], other[same]], np.int64)


def _points(count: int, resolved: dict[int, Weights]) -> csr_matrix:
    """All points (N, N) from those that are not attached to others."""
    sizes = np.ones(count, int)
    nodes = sorted(resolved)
    held, bases, weights = _combined([resolved[node] for node in nodes])
    sizes[nodes] = held
    first = np.cumsum(sizes) - sizes
    columns, values = np.zeros(sizes.sum(), int), np.ones(sizes.sum())
    columns[first] = np.arange(count)
    if nodes:
        at = np.concatenate([first[node] + np.arange(sizes[node]) for node in nodes])
        columns[at], values[at] = bases, weights
    return _rows(count, [(sizes, columns, values)])


def _columns(rows: csr_matrix, kept: Ints) -> csr_matrix:
    """Some of the columns of a sparse matrix, in this order."""
    rank = np.full(rows.shape[1], -1, np.int32)
    rank[kept] = np.arange(len(kept), dtype=np.int32)
    place = rank[rows.indices]
    stays = place >= 0
    ends = np.r_[0, np.cumsum(stays)][rows.indptr].astype(np.int32)
    return csr_matrix((rows.data[stays], place[stays], ends), shape=(rows.shape[0], len(kept)))


def _order(vectors: csr_matrix, pairs: Ints) -> Ints:
    """Free points in an order in which what constraints couple lies near each other."""
    if not vectors.nnz:  # of what nothing holds to anything, as it is
        return np.arange(vectors.shape[1])
    shape = (vectors.shape[0], vectors.shape[1])
    seen = csr_matrix((np.ones(vectors.nnz), vectors.indices, vectors.indptr), shape=shape)
    beside = seen.T @ seen
    if len(pairs):
        both = seen[pairs[:, 0]] + seen[pairs[:, 1]]
        beside = beside + both.T @ both
    return np.asarray(reverse_cuthill_mckee(beside.tocsr(), symmetric_mode=True))


def _band_layout(vectors: csr_matrix, dim: int, pairs: Ints) -> tuple[int, csc_matrix]:
    """How wide the band is, and the map from all entries of all blocks to it. Each of the `pairs`
    of constraints has two blocks after them: what couples the first to the second, and its
    transpose."""
    counts = np.diff(vectors.indptr)
    block, first, second = [], [], []
    for size in np.unique(counts):  # constraints with the same number of free points together
        rows = np.flatnonzero(counts == size)
        slots = vectors.indptr[rows][:, None] + np.arange(size)
        a, b = np.divmod(np.arange(size * size), size)
        block.append(np.repeat(rows, size * size))
        first.append(slots[:, a].ravel())
        second.append(slots[:, b].ravel())
    for k, (a, b) in enumerate(pairs):
        ours, theirs = (np.arange(vectors.indptr[r], vectors.indptr[r + 1]) for r in (a, b))
        here, there = (x.ravel() for x in np.meshgrid(ours, theirs, indexing="ij"))
        at = vectors.shape[0] + 2 * k
        block += [np.full(len(here), at), np.full(len(here), at + 1)]
        first += [here, there]
        second += [there, here]
    of, one, two = (np.concatenate(x) for x in (block, first, second))
    i, j = vectors.indices[one], vectors.indices[two]
    weight, apart = vectors.data[one] * vectors.data[two], i - j
    most = int(apart.max(initial=0))
    band = most * dim + dim - 1 if len(apart) else 0
    row, col = np.divmod(np.arange(dim * dim, dtype=np.int32), dim)
    targets, entries, weights = [], [], []
    # between two points all of a block lies below the diagonal, on it the half that LAPACK reads
    for these, kept in ((apart > 0, np.full(dim * dim, True)), (apart == 0, row >= col)):
        r, c = row[kept], col[kept]
        first = j[these] * (dim * (band + 1)) + apart[these] * dim
        targets.append((first[:, None] + (c * (band + 1) + r - c)).ravel())
        entries.append((of[these][:, None] * (dim * dim) + (r * dim + c)).ravel())
        weights.append(np.repeat(weight[these], len(r)))
    where = (np.concatenate(targets).astype(np.int32), np.concatenate(entries).astype(np.int32))
    blocks = vectors.shape[0] + 2 * len(pairs)
    shape = ((band + 1) * vectors.shape[1] * dim, blocks * dim * dim)
    # by columns: most of a wide band is empty
    return band, csc_matrix((np.concatenate(weights), where), shape)
