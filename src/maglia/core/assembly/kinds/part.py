"""Any other single part: charm, ear finding, clasp, end."""

from maglia.core.assembly.assembly import Station
from maglia.core.assembly.kinds.kind import ItemKind, name_of, register
from maglia.core.assembly.layer import FREE, At, Layer, words_of
from maglia.core.parts.parts import Bead, Charm, Clasp, Connector, EarFinding, End
from maglia.core.parts.units import Thing, Things
from maglia.core.piece.items import PartItem
from maglia.core.values.record import DomainError


def lay(layer: Layer, item: PartItem, at: At) -> list[Station]:
    thing = layer.thing(item.part, (Charm, Clasp, EarFinding, End, Bead, Connector), at)
    index = layer.add(at, 1, item.part, thing.kind)
    ports = _ports(thing)
    if ports is None:
        raise DomainError(
            f"{words_of(at)}: “{thing.name}” is a {thing.kind}; put it on wire as a unit, or give "
            "its holes as a connector item"
        )
    return [Station((index,), *ports, span(item, layer.things))]


def _ports(thing: Thing) -> tuple[str, str] | None:
    if isinstance(thing, Charm):
        return "loop", FREE
    if isinstance(thing, Clasp):
        return "eye", "bite"
    if isinstance(thing, EarFinding):
        return "lobe", "loop"
    return ("loop", "loop") if isinstance(thing, End) else None


def span(item: PartItem, things: Things) -> float | None:
    thing = things.get(item.part)
    if isinstance(thing, Charm):
        return thing.height_mm
    if isinstance(thing, Clasp):
        return thing.span_mm
    if isinstance(thing, EarFinding):
        return thing.below_mm
    return thing.adds_mm if isinstance(thing, End) else None


register(
    PartItem,
    ItemKind(
        lay=lay,
        size=lambda *_: 1,
        span=span,
        words=lambda item, things: name_of(item.part, things),
    ),
)
