"""What runs beside or under something else: carriers of rows, swags, runs written twice. Geometry,
and of carriers what the hang shows.

A carrier between two places of the row it bears is as long as the row there, or it sags loose. A
swag is at least as long as what it runs beside. Two runs between the same two places, of the same
parts, lie one over the other.
"""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, member_name
from maglia.core.checks.found import Check
from maglia.core.hang.readings import Readings
from maglia.core.sheets.bays import ends_of

LOOSE_MM = 3.0
"""A carrier this much longer than its row is not mentioned: it takes up the row's curve."""


def check(assembly: Assembly) -> Iterator[Check]:
    yield from _short_swags(assembly)
    yield from _written_twice(assembly)


def check_hung(assembly: Assembly, read: Readings) -> Iterator[Check]:
    """Bays that hang loose: rings that bear the row spread, and take up what is little too long."""
    for own in read.bays:
        host, bay = assembly.members[own.bay.host], own.bay
        if own.slack_mm > LOOSE_MM:
            yield Check(
                code="carrier-loose",
                severity="attention",
                place=member_name(host, bay.links[0]),
                message=(
                    f"Between its places the chain is {bay.chain_mm:.1f} mm and “{bay.row}” below "
                    f"it {bay.row_mm:.1f} mm: it hangs loose by {own.slack_mm:.1f} mm."
                ),
                repair="set the places nearer to each other",
                run=host.run,
                item=host.item,
            )


def _short_swags(assembly: Assembly) -> Iterator[Check]:
    for path in assembly.paths:
        ends = ends_of(assembly, path)
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
