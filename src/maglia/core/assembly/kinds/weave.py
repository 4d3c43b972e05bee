"""A weave: every ring a member; its places are stations, its joints those of its own rule."""

from maglia.core.assembly.assembly import InWeave, Joint, Station
from maglia.core.assembly.kinds.kind import Counted, ItemKind, name_of, register
from maglia.core.assembly.layer import At, Layer, words_of
from maglia.core.assembly.ports import BIGHT
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import Things
from maglia.core.piece.items import WeaveItem
from maglia.core.values.record import DomainError
from maglia.core.weaves.kinds import SORTS, opened, woven
from maglia.core.weaves.pitch import spans_mm


def lay(layer: Layer, item: WeaveItem, at: At) -> list[Station]:
    try:
        own = woven(item)
    except DomainError as fault:
        raise DomainError(f"{words_of(at)}: {fault}") from None
    parts = {role: _part(layer, item, role, at) for role in dict.fromkeys(own.roles)}
    spans = spans_mm(item, own, layer.things)
    first, ring = len(layer.members), 0
    stations = []
    for k, place in enumerate(own.places):
        bearing = []
        row = own.rows[k]
        leads = k == 0 or own.rows[k - 1] != row
        for n, role in enumerate(place):
            host = own.aside.get(ring, -1)
            where = InWeave(first, item, role, row, k, n, opened(item, role, k),
                            leads and n == 0, first + host if host >= 0 else -1)  # fmt: skip
            index = layer.add(at, k + 1, parts[role], "ring", woven=where)
            if host < 0:
                bearing.append(index)
            ring += 1
        span = spans[k] if spans is not None else None
        stations.append(Station(tuple(bearing), "ring", "ring", span))
    layer.has_weaves = True
    for a, b in own.joints:
        port = BIGHT if (a, b) in own.laid else "ring"
        layer.joints.append(Joint(first + a, "ring", first + b, port, True))
    return stations


def _part(layer: Layer, item: WeaveItem, role: str, at: At) -> str:
    ref = item.part_of(role)
    if ref is None:
        raise DomainError(f"{words_of(at)}: say which ring is the {role} of {item.weave}")
    layer.thing(ref, Ring, at)
    return ref


def size(item: WeaveItem, things: Things) -> int:
    """At most: what a row holds, and its ends."""
    del things
    most = {"four in one": item.abreast, "doubled strip": 4, "box": 4, "Byzantine": 6,
            "shaggy loops": 1 + item.abreast, "m in m": item.abreast, "one in one": 1,
            "rubber and metal": 2, "stretch triangles": 6}[item.weave]  # fmt: skip
    return item.rows * most + 10 + item.abreast


def span(item: WeaveItem, things: Things) -> float | None:
    try:
        spans = spans_mm(item, woven(item), things)
    except DomainError:
        return None
    return None if spans is None else sum(spans)


def words(item: WeaveItem, things: Things) -> str:
    rings = ", ".join(name_of(role.part, things) for role in item.roles)
    closed = ", closed" if item.closes else ""
    return f"{weave_words(item)}, {item.rows} {SORTS[item.weave].rows} of {rings}{closed}"


def weave_words(item: WeaveItem) -> str:
    """“two in two”, “four in one, 5 across”."""
    if item.weave == "m in m":
        number = {2: "two", 3: "three", 4: "four"}.get(item.abreast, str(item.abreast))
        return f"{number} in {number}"
    if item.weave == "four in one" and item.abreast != SORTS[item.weave].abreast:
        return f"four in one, {item.abreast} across"
    if item.weave == "shaggy loops":
        return f"shaggy loops, {item.abreast} on each"
    return item.weave


register(
    WeaveItem,
    ItemKind(
        lay=lay,
        size=size,
        span=span,
        words=words,
        counted=Counted("rows", "rows", lambda item: SORTS[item.weave].step),
    ),
)
