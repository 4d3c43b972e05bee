"""A made unit: bead link, dangle, tassel; or a cluster, of which every part is a member."""

from maglia.core.assembly.assembly import Joint, Station
from maglia.core.assembly.kinds.kind import ItemKind, name_of, register
from maglia.core.assembly.layer import FREE, At, Layer
from maglia.core.parts.parts import Chain, Ring, chain_length_mm
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    Tassel,
    Things,
    hangs_at,
    tassel_span_mm,
    unit_span_mm,
)
from maglia.core.piece.items import UnitItem


def lay(layer: Layer, item: UnitItem, at: At) -> list[Station]:
    unit = layer.thing(item.unit, (BeadLink, Dangle, Tassel, Cluster), at)
    assert isinstance(unit, BeadLink | Dangle | Tassel | Cluster)
    layer.refuse_bad_unit(unit, at)
    if isinstance(unit, Cluster):
        return _cluster(layer, unit, at)
    index = layer.add(at, 1, item.unit, unit.kind)
    if isinstance(unit, Tassel):
        return [Station((index,), "loop", FREE, tassel_span_mm(unit, layer.things))]
    span = unit_span_mm(unit, layer.things)
    if isinstance(unit, Dangle):
        return [Station((index,), "loop", FREE, span)]
    if unit.mid is not None:
        ring = layer.add(at, 2, unit.mid, "ring", made_in=unit.id)
        layer.joints.append(Joint(index, "mid", ring, "ring", False))
    return [Station((index,), "a", "b", span)]


def _cluster(layer: Layer, unit: Cluster, at: At) -> list[Station]:
    """The carrier as a member, and everything on it hung from its ring or its links."""
    carrier = layer.things[unit.carrier]
    if isinstance(carrier, Chain):
        index = layer.add(at, 1, carrier.id, "chain", links=unit.links, made_in=unit.id)
        station = Station((index,), 1, unit.links, chain_length_mm(carrier, unit.links))
        ports = tuple(range(1, unit.links + 1))
    else:
        assert isinstance(carrier, Ring)
        index = layer.add(at, 1, carrier.id, "ring", made_in=unit.id)
        station, ports = Station((index,), "ring", "ring", carrier.inner_mm), (0,)
    for link, port in enumerate(ports):
        for k, ref in enumerate(hangs_at(unit, link)):
            holder, held = index, port or "ring"
            if unit.by is not None:
                holder = layer.add(at, 2 + k, unit.by, "ring", made_in=unit.id)
                layer.joints.append(Joint(index, held, holder, "ring", False))
                held = "ring"
            hung = layer.add(at, 2 + k, ref, layer.things[ref].kind, made_in=unit.id)
            layer.joints.append(Joint(holder, held, hung, "loop", False))
    return [station]


def size(item: UnitItem, things: Things) -> int:
    unit = things.get(item.unit)
    if not isinstance(unit, Cluster):
        return 1
    links, each = max(unit.links, 1), 2 if unit.by is not None else 1
    on_each = 1 if unit.turns and unit.links else len(unit.hangs)
    hung = links * on_each + (unit.foot is not None)
    return links + each * hung


def span(item: UnitItem, things: Things) -> float | None:
    unit = things.get(item.unit)
    return unit_span_mm(unit, things) if isinstance(unit, BeadLink) else None


register(
    UnitItem,
    ItemKind(lay=lay, size=size, span=span, words=lambda item, things: name_of(item.unit, things)),
)
