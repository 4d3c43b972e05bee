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
    index = layer.add(at, 1, item.part, "chain", item.links, first_phase=item.first_phase)
    length = chain_length_mm(chain, item.links, item.first_phase + 1)
    return [Station((index,), 1, item.links, length)]


def span(item: ChainItem, things: Things) -> float | None:
    chain = things.get(item.part)
    if not isinstance(chain, Chain):
        return None
    return chain_length_mm(chain, item.links, item.first_phase + 1)


def words(item: ChainItem, things: Things) -> str:
    begun = f" from link {item.first_phase + 1} of its pattern" if item.first_phase else ""
    return f"{format_links(item.links)} {name_of(item.part, things)}{begun}"


register(
    ChainItem,
    ItemKind(
        lay=lay,
        size=lambda item, _: item.links,
        span=span,
        words=words,
        counted=Counted("links", "links"),
    ),
)
