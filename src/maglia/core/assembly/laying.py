"""Laying one run: every item becomes stations of physical members, mirrored where the run is.

First half of expansion; `maglia.core.assembly.expand` joins the runs afterwards.
"""

from maglia.core.assembly.assembly import Path, Station, Where
from maglia.core.assembly.kinds import kind_of
from maglia.core.assembly.layer import Layer, reversed_stations, turned
from maglia.core.assembly.rows import flattened
from maglia.core.piece.items import Item
from maglia.core.piece.piece import Run
from maglia.core.values.record import DomainError


def lay(layer: Layer, run: Run) -> None:
    """Lay a run, both its sides if it has two. Raises DomainError for what cannot stand there."""
    if run.lies == "across":
        _lay_across(layer, run)
        return
    if run.centre is not None:
        raise DomainError(f"run “{run.name}” does not lie across the fold: it has no centre")
    if not run.items:
        raise DomainError(f"run “{run.name}” is empty: put a part into it or delete it")
    sides: tuple[Where, ...] = ("right", "left")
    if run.lies != "paired":
        sides = ("fold",) if run.lies == "fold" else ("whole",)
    for side in sides:
        _put(layer, run, side, _side(layer, run, side))


def _lay_across(layer: Layer, run: Run) -> None:
    if run.centre is None:
        raise DomainError(
            f"run “{run.name}” lies across the fold and needs a centre: "
            "put a chain, ring, unit or connector on the fold"
        )
    centre = _stations(layer, run, "fold", 0, run.centre)
    right = _side(layer, run, "right")
    left = _side(layer, run, "left")
    _put(layer, run, "fold", [*reversed_stations(left), *centre, *right])


def _put(layer: Layer, run: Run, side: Where, stations: list[Station]) -> None:
    layer.join_along(run.name, stations)
    layer.paths.append(Path(run.name, run.kind, side, tuple(stations)))


def _side(layer: Layer, run: Run, side: Where) -> list[Station]:
    stations: list[Station] = []
    for number, item in enumerate(flattened(run.items), 1):
        stations += _stations(layer, run, side, number, item)
    first = stations[0] if stations else None
    if run.lies != "across" and first is not None and first.port_in == "eye":
        stations[0] = turned(first)  # a clasp at the start of a run bites what it starts on
    return stations


def _stations(layer: Layer, run: Run, side: Where, number: int, item: Item) -> list[Station]:
    lay_item = kind_of(item).lay
    if lay_item is None:
        raise DomainError(f"run “{run.name}”: a repeat cannot lie on the fold")
    at = (run.name, side, number)
    stations = layer.placed[at] = lay_item(layer, item, at)
    return stations
