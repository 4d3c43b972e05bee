"""What is read off a hang: how far each run falls, and the gaps between strands.

On the board, falls count from the line of the pins; the height is the last axis.
"""

from dataclasses import dataclass
from itertools import pairwise

from maglia.core.assembly import Assembly
from maglia.core.hang.hung import Hung, path_points


@dataclass(frozen=True)
class Readings:
    """falls_mm: run → how far its lowest point lies below the top line. gaps_mm: (upper strand,
    lower strand, mm) for strands in order of fall."""

    falls_mm: dict[str, float]
    gaps_mm: tuple[tuple[str, str, float], ...]


def readings(assembly: Assembly, hung: Hung | None) -> Readings:
    """Falls and gaps; empty if the hang did not converge."""
    if hung is None or hung.state != "converged":
        return Readings({}, ())
    falls: dict[str, float] = {}
    for k, path in enumerate(assembly.paths):
        lowest = hung.top - float(path_points(assembly, hung, k)[:, -1].min())
        falls[path.run] = max(falls.get(path.run, lowest), lowest)
    strands = sorted((r.name for r in assembly.runs if r.kind == "strand"), key=falls.__getitem__)
    gaps = [(a, b, falls[b] - falls[a]) for a, b in pairwise(strands)]
    return Readings(falls, tuple(gaps))
