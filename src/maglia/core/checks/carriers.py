"""What runs beside or under something else: carriers of rows, swags, runs written twice. Geometry.

A carrier between two places of the row it bears is as long as the row there, or it sags loose. A
swag is at least as long as what it runs beside. Two runs between the same two places, of the same
parts, lie one over the other.
"""

from collections import defaultdict
from collections.abc import Iterator
from itertools import pairwise

from maglia.core.assembly.assembly import Assembly, Path, member_name
from maglia.core.checks.found import Check
from maglia.core.parts.parts import Chain, chain_length_mm

LOOSE_MM = 3.0
"""A carrier this much longer than its row is not mentioned: it takes up the row's curve."""


def check(assembly: Assembly) -> Iterator[Check]:
    yield from _loose(assembly)
    yield from _short_swags(assembly)
    yield from _written_twice(assembly)


def _loose(assembly: Assembly) -> Iterator[Check]:
    """Stretches of chain between two neighbouring ties to the same row of links."""
    places = _tied_places(assembly)
    for (host, row), found in places.items():
        chain = assembly.thing(assembly.members[host])
        assert isinstance(chain, Chain)
        for (link, at), (other, to) in pairwise(sorted(found)):
            own = (chain_length_mm(chain, other) or 0.0) - (chain_length_mm(chain, link) or 0.0)
            loose = own - abs(to - at)
            if loose > LOOSE_MM:
                yield Check(
                    code="carrier-loose",
                    severity="attention",
                    place=member_name(assembly.members[host], link),
                    message=(
                        f"Between its places the chain is {own:.1f} mm and “{row}” below it "
                        f"{abs(to - at):.1f} mm: it sags loose by {loose:.1f} mm."
                    ),
                    repair="set the places nearer to each other",
                    run=assembly.members[host].run,
                    item=assembly.members[host].item,
                )
                break


def _tied_places(assembly: Assembly) -> dict[tuple[int, str], list[tuple[int, float]]]:
    """Per chain and row borne by it: the links that bear it, and where along the row, mm."""
    along: dict[int, tuple[str, float]] = {}
    for path in assembly.paths:
        origin = assembly.origins.get(path.run)
        if origin is None or origin.level != 0:
            continue
        at = 0.0
        for station in path.stations:
            span = station.span_mm or 0.0
            for index in station.members:
                own = assembly.members[index]
                along[index] = (path.run, at + span / 2)
                for other in assembly.neighbours[index]:
                    if assembly.members[other].made_in == own.ref:  # its mid ring
                        along[other] = along[index]
            at += span
    found: dict[tuple[int, str], list[tuple[int, float]]] = defaultdict(list)
    for path in assembly.paths:
        ends = _ends(assembly, path)
        for (host, port), (other, _) in (ends, ends[::-1]) if len(ends) == 2 else ():
            chain = assembly.thing(assembly.members[host])
            if isinstance(chain, Chain) and isinstance(port, int) and other in along:
                row, at = along[other]
                found[(host, row)].append((port, at))
    return found


def _ends(assembly: Assembly, path: Path) -> tuple[tuple[int, object], ...]:
    """What a run is joined to at its ends: member and port."""
    own = {index for station in path.stations for index in station.members}
    joints = [j for index in own for j in assembly.joints_of[index] if not j.inline]
    return tuple(dict.fromkeys((j.a, j.port_a) for j in joints if j.b in own and j.a not in own))


def _short_swags(assembly: Assembly) -> Iterator[Check]:
    for path in assembly.paths:
        ends = _ends(assembly, path)
        if path.kind != "swag" or len(ends) != 2 or path.length_mm is None:
            continue
        beside = _between_mm(assembly, *(member for member, _ in ends))
        if beside is not None and path.length_mm < beside - 1e-6:
            yield Check(
                code="swag-too-short",
                severity="stop",
                place=path.run,
                message=(
                    f"It is {path.length_mm:.1f} mm long and runs beside {beside:.1f} mm: "
                    f"{beside - path.length_mm:.1f} mm are missing."
                ),
                repair="give it more links",
                run=path.run,
                item=1,
            )


def _between_mm(assembly: Assembly, one: int, other: int) -> float | None:
    """Length of rigid links that stand between two members of a run, mm; None if there are none."""
    for path in assembly.paths:
        order = {i: k for k, station in enumerate(path.stations) for i in station.members}
        if one not in order or other not in order:
            continue
        low, high = sorted((order[one], order[other]))
        between = path.stations[low + 1 : high]
        kinds = {assembly.members[s.members[0]].kind for s in between}
        if not kinds & {"bead link", "hook link", "connector"}:
            return None
        return sum(station.span_mm or 0.0 for station in between)
    return None


def _written_twice(assembly: Assembly) -> Iterator[Check]:
    seen: dict[tuple[object, ...], str] = {}
    for run in assembly.runs:
        if run.start is None or run.end is None:
            continue
        key = (run.start, run.end, run.items, run.lies)
        if key in seen:
            yield Check(
                code="written-twice",
                severity="attention",
                place=run.name,
                message=f"It lies over “{seen[key]}”: the same parts between the same places.",
                repair="delete one of them, or give it other places",
                run=run.name,
                item=1,
            )
        seen.setdefault(key, run.name)
