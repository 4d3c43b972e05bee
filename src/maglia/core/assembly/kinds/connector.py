"""A connector, entered at one hole and left at another."""

from maglia.core.assembly.assembly import Station
from maglia.core.assembly.kinds.kind import ItemKind, name_of, register
from maglia.core.assembly.layer import At, Layer, require_hole, words_of
from maglia.core.parts.parts import Connector, connector_span_mm
from maglia.core.parts.units import Things
from maglia.core.piece.piece import ConnectorItem


def lay(layer: Layer, item: ConnectorItem, at: At) -> list[Station]:
    connector = layer.thing(item.part, Connector, at)
    for hole in (item.hole_in, item.hole_out):
        require_hole(connector, hole, words_of(at))
    index = layer.add(at, 1, item.part, "connector")
    span_mm = connector_span_mm(connector, item.hole_in, item.hole_out)
    return [Station((index,), item.hole_in, item.hole_out, span_mm)]


def span(item: ConnectorItem, things: Things) -> float | None:
    connector = things.get(item.part)
    if not isinstance(connector, Connector):
        return None
    return connector_span_mm(connector, item.hole_in, item.hole_out)


register(
    ConnectorItem,
    ItemKind(
        lay=lay,
        size=lambda *_: 1,
        span=span,
        words=lambda item, things: name_of(item.part, things),
    ),
)
