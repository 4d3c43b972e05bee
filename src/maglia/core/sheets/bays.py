"""Bays of a carrier: its stretches between two neighbouring places that bear the same row. Slack is
a bay's; no single member shows it.
"""

from collections import defaultdict
from itertools import pairwise

from maglia.core.assembly.assembly import Assembly, Path
from maglia.core.assembly.ports import Port
from maglia.core.parts.parts import Chain
from maglia.core.sheets.lengths import reach_mm
from maglia.core.values.record import Value


class Bay(Value, frozen=True):
    """From one link of a carrier to another: how long it and the row it bears are there, mm."""

    host: int
    links: tuple[int, int]
    row: str
    chain_mm: float
    row_mm: float

    @property
    def loose_mm(self) -> float:
        return self.chain_mm - self.row_mm


def bays(assembly: Assembly) -> tuple[Bay, ...]:
    """Every bay, carrier by carrier, along it."""
    found = []
    for (host, row), places in _tied_places(assembly).items():
        for (link, at), (other, to) in pairwise(sorted(places)):
            member = assembly.members[host]
            begun, ended = (reach_mm(assembly, member, n) or 0.0 for n in (link, other))
            found.append(Bay(host, (link, other), row, ended - begun, abs(to - at)))
    return tuple(found)


def ends_of(assembly: Assembly, path: Path) -> tuple[tuple[int, Port], ...]:
    """What a run is joined to at its ends: member and port."""
    own = {index for station in path.stations for index in station.members}
    joints = [j for index in own for j in assembly.joints_of[index] if not j.inline]
    return tuple(dict.fromkeys((j.a, j.port_a) for j in joints if j.b in own and j.a not in own))


def _tied_places(assembly: Assembly) -> dict[tuple[int, str], list[tuple[int, float]]]:
    """Per chain and row borne by it: the links that bear it, and where along the row, mm."""
    along = _along_rows(assembly)
    found: dict[tuple[int, str], list[tuple[int, float]]] = defaultdict(list)
    for path in assembly.paths:
        ends = ends_of(assembly, path)
        for (host, port), (other, held) in (ends, ends[::-1]) if len(ends) == 2 else ():
            chain = assembly.thing(assembly.members[host])
            if isinstance(chain, Chain) and isinstance(port, int) and other in along:
                row, begun, span, forward = along[other]
                share = {"a": 0.0, "b": 1.0}.get(str(held), 0.5)
                at = begun + span * (share if forward else 1.0 - share)
                found[(host, row)].append((port, at))
    return found


def _along_rows(assembly: Assembly) -> dict[int, tuple[str, float, float, bool]]:
    """Where each member of the top rows lies along its row: row, begin and span, mm, and whether
    its near loop comes first."""
    along: dict[int, tuple[str, float, float, bool]] = {}
    for path in assembly.paths:
        origin = assembly.origins.get(path.run)
        if origin is None or origin.level != 0:
            continue
        if origin.ordinal is not None:  # a ring that it hangs by
            continue
        at = 0.0
        for station in path.stations:
            span = station.span_mm or 0.0
            for index in station.members:
                own = assembly.members[index]
                along[index] = (path.run, at, span, station.port_in != "b")
                for other in assembly.neighbours[index]:
                    if assembly.members[other].made_in == own.ref:  # its mid ring
                        along[other] = along[index]
            at += span
    return along
