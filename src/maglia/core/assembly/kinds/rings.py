"""Rings in series, each of them several abreast: a member each."""

from maglia.core.assembly.assembly import Station
from maglia.core.assembly.kinds.kind import Counted, ItemKind, name_of, register, times
from maglia.core.assembly.layer import At, Layer, bare
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import Things
from maglia.core.piece.items import RingItem


def lay(layer: Layer, item: RingItem, at: At) -> list[Station]:
    ring = layer.thing(item.part, Ring, at)
    inner, part, add = ring.inner_mm, item.part, layer.add
    abreast = range(item.abreast)
    return [
        bare(Station, (tuple([add(at, k, part, "ring") for _ in abreast]), "ring", "ring", inner))
        for k in range(1, item.count + 1)
    ]


def span(item: RingItem, things: Things) -> float | None:
    ring = things.get(item.part)
    if not isinstance(ring, Ring) or ring.inner_mm is None:
        return None
    return item.count * ring.inner_mm


register(
    RingItem,
    ItemKind(
        lay=lay,
        size=lambda item, _: item.count * item.abreast,
        span=span,
        words=lambda item, things: times(item.count, name_of(item.part, things)),
        counted=Counted("count", "rings"),
    ),
)
