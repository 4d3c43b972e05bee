"""Whether threads and rods can reach between what is fixed, before anything is solved.

Along any line of members the two ends can be no further apart than the sum of lengths; the
shortest such sum between two fixed points must cover their distance. What goes round a body needs
its girth, and 2 π times how far its own middle stays from the skin.
"""

import itertools
import math
from typing import NamedTuple

import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import dijkstra

from maglia.core.hang.build import contact_radii, path_lengths
from maglia.core.hang.forms import FormBody
from maglia.core.hang.network import Network
from maglia.core.hang.skeleton import Skeleton
from maglia.core.parts.parts import Chain
from maglia.core.sheets.as_worn import turns_of

REACH_TOLERANCE_MM = 1e-6


class Shortfall(NamedTuple):
    words: str
    millimetres: float


def shortfall(network: Network) -> Shortfall | None:
    """By how much the worst pair of fixed points is out of reach, or None if all can be reached."""
    pinned = np.flatnonzero(network.fixed)
    if len(pinned) < 2:
        return None
    pairs, rest, gives = network.threads
    firm = gives == 0
    beside, of = network.sides
    whole = np.array([own.rest_mm for own in network.sliders])[of] if len(of) else np.zeros(0)
    across = np.array([(own.a, own.b) for own in network.sliders], int).reshape(-1, 2)
    ends = np.vstack([pairs[firm], network.rods, beside, across]).astype(int)
    lengths = np.r_[rest[firm], network.length, whole, [own.rest_mm for own in network.sliders]]
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


ROUND = {"bust": "neck", "wrist": "wrist", "ankle": "ankle"}


def short_of_body(net: Skeleton, form: FormBody) -> tuple[str, float] | None:
    """In words and mm, by how much the closed strand is too short to go round a body whatever hangs
    from it, and the links that mend it; None if it is long enough."""
    assembly = net.assembly
    main = assembly.main
    if main is None or main.length_mm is None:
        return None
    points, at = path_lengths(net, assembly.paths.index(main))
    radii, lengths = contact_radii(net), np.diff(at)
    along = [(radii.get(a, 0.0) + radii.get(b, 0.0)) / 2 for a, b in itertools.pairwise(points)]
    middle = float(np.average(along, weights=lengths)) if lengths.sum() else 0.0
    turns = turns_of(assembly)
    short = turns * (form.girth_mm + 2 * math.pi * middle) - main.length_mm
    if short <= 0:
        return None
    times = f"{turns} times " if turns > 1 else ""
    round_what = f"{times}round the {ROUND[form.kind]}"
    words = f"run “{main.run}” is too short by {short:.1f} mm to go {round_what}"
    chains = [m for s in main.stations if (m := assembly.members[s.members[0]]).kind == "chain"]
    if chains:
        chain = assembly.thing(max(chains, key=lambda member: member.links))
        if isinstance(chain, Chain) and chain.pitches_mm:
            pitch = sum(chain.pitches_mm) / len(chain.pitches_mm)
            words += f"; {math.ceil(short / pitch)} links more of “{chain.name}” mend it"
    return words, short


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
