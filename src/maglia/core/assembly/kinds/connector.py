"""A connector, entered at one hole and left at another."""

from maglia.core.assembly.assembly import Station
from maglia.core.assembly.kinds.kind import ItemKind, name_of, register
from maglia.core.assembly.layer import At, Layer, require_hole, words_of
from maglia.core.parts.parts import Bead, Connector, Wire, connector_span_mm
from maglia.core.parts.units import Things
from maglia.core.piece.items import ConnectorItem


def lay(layer: Layer, item: ConnectorItem, at: At) -> list[Station]:
    connector = layer.thing(item.part, Connector, at)
    for hole in (item.hole_in, item.hole_out):
        require_hole(connector, hole, words_of(at))
    if item.wound is not None:
        layer.thing(item.wound.wire, Wire, at)
        if item.wound.bead is not None:
            layer.thing(item.wound.bead, Bead, at)
    index = layer.add(at, 1, item.part, "connector", wound=item.wound)
    span_mm = connector_span_mm(connector, item.hole_in, item.hole_out)
    return [Station((index,), item.hole_in, item.hole_out, span_mm)]


def span(item: ConnectorItem, things: Things) -> float | None:
    connector = things.get(item.part)
    if not isinstance(connector, Connector):
        return None
    return connector_span_mm(connector, item.hole_in, item.hole_out)


def _words(item: ConnectorItem, things: Things) -> str:
    name = name_of(item.part, things)
    return f"{name}, wound {item.wound.turns} times" if item.wound else name


register(
    ConnectorItem,
    ItemKind(
        lay=lay,
        size=lambda *_: 1,
        span=span,
        words=_words,
    ),
)
