"""A stretch of chain: one member, its links are ports 1…n."""

from maglia.core.assembly.assembly import Station
from maglia.core.assembly.kinds.kind import Counted, ItemKind, name_of, register
from maglia.core.assembly.layer import At, Layer
from maglia.core.parts.parts import Chain, chain_length_mm
from maglia.core.parts.units import Things
from maglia.core.piece.items import ChainItem
from maglia.core.values.measures import format_links


def lay(layer: Layer, item: ChainItem, at: At) -> list[Station]:
    chain = layer.thing(item.part, Chain, at)
    index = layer.add(at, 1, item.part, "chain", links=item.links)
    return [Station((index,), 1, item.links, chain_length_mm(chain, item.links))]


def span(item: ChainItem, things: Things) -> float | None:
    chain = things.get(item.part)
    return chain_length_mm(chain, item.links) if isinstance(chain, Chain) else None


register(
    ChainItem,
    ItemKind(
        lay=lay,
        size=lambda item, _: item.links,
        span=span,
        words=lambda item, things: f"{format_links(item.links)} {name_of(item.part, things)}",
        counted=Counted("links", "links"),
    ),
)
