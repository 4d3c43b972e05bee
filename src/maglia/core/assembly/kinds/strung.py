"""Beads on thread or cable: one member, its beads are ports 1…n."""

from maglia.core.assembly.assembly import Station
from maglia.core.assembly.kinds.kind import Counted, ItemKind, name_of, register, times
from maglia.core.assembly.layer import At, Layer, words_of
from maglia.core.parts.parts import Bead, End, Ring, Wire
from maglia.core.parts.units import Cluster, Things
from maglia.core.piece.piece import StrungItem
from maglia.core.piece.strung import along_mm
from maglia.core.values.record import DomainError


def lay(layer: Layer, item: StrungItem, at: At) -> list[Station]:
    layer.thing(item.thread, Wire, at)
    beads = item.beads
    if not beads:
        raise DomainError(f"{words_of(at)}: nothing is strung; name the beads of its pattern")
    for ref in dict.fromkeys(beads):
        _require_strung(layer, ref, at)
    if item.end is not None:
        layer.thing(item.end, End, at)
    index = layer.add(at, 1, item.thread, "strung", links=len(beads), strung=item)
    return [Station((index,), 1, len(beads), span(item, layer.things))]


def _require_strung(layer: Layer, ref: str, at: At) -> None:
    thing = layer.thing(ref, (Bead, End, Ring, Cluster), at)
    if isinstance(thing, Cluster):
        layer.refuse_bad_unit(thing, at)
        layer.thing(thing.carrier, Ring, at)


def span(item: StrungItem, things: Things) -> float | None:
    total = along_mm(item, item.beads, things)
    if total is None or item.end is None:
        return total
    end = things.get(item.end)
    adds = end.adds_mm if isinstance(end, End) else None
    return None if adds is None else total + 2 * adds


def words(item: StrungItem, things: Things) -> str:
    pattern = [name_of(bead, things) for bead in item.pattern]
    return times(item.times, " + ".join(pattern if len(pattern) < 3 else [*pattern[:2], "…"]))


register(
    StrungItem,
    ItemKind(
        lay=lay,
        size=lambda item, _: len(item.lead) + len(item.tail) + item.times * len(item.pattern) + 2,
        span=span,
        words=words,
        counted=Counted("times", "repeats"),
    ),
)
