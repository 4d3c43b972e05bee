"""Beads on thread or cable: one member, its beads are ports 1…n."""

from maglia.core.assembly.assembly import Station
from maglia.core.assembly.kinds.kind import Counted, ItemKind, name_of, register, times
from maglia.core.assembly.layer import At, Layer, words_of
from maglia.core.parts.parts import Bead, End, Ring, Wire
from maglia.core.parts.units import Cluster, Things
from maglia.core.piece.items import Bare, Knot, StrungItem
from maglia.core.piece.strung import Along, along_mm, end_adds_mm, is_bare
from maglia.core.values.record import DomainError


def lay(layer: Layer, item: StrungItem, at: At) -> list[Station]:
    layer.thing(item.thread, Wire, at)
    beads = item.beads
    if not beads:
        off = f", {item.off} are left off at each end" if item.off else ""
        raise DomainError(f"{words_of(at)}: nothing is strung{off}; name the beads of its pattern")
    for ref in dict.fromkeys(item.refs):
        _require_strung(layer, ref, at)
    near, far = item.ends
    for end in {near.end, far.end} - {None}:
        layer.thing(str(end), End, at)
    if at[2] == 0 and near != far:
        raise DomainError(
            f"{words_of(at)}: its two ends are finished otherwise, but lie mirrored on the fold: "
            "free the run first"
        )
    index = layer.add(at, 1, item.thread, "strung", links=len(beads), strung=item)
    return [Station((index,), 1, len(beads), span(item, layer.things))]


def _require_strung(layer: Layer, ref: str, at: At) -> None:
    thing = layer.thing(ref, (Bead, End, Ring, Cluster), at)
    if isinstance(thing, Cluster):
        layer.refuse_bad_unit(thing, at)
        layer.thing(thing.carrier, Ring, at)


def span(item: StrungItem, things: Things) -> float | None:
    total = along_mm(item, item.beads, things)
    near, far = (end_adds_mm(end, things) for end in item.ends)
    return None if total is None or near is None or far is None else total + near + far


def words(item: StrungItem, things: Things) -> str:
    if is_bare(item) and not item.refs:
        length = along_mm(item, item.beads, things)
        what = f"{name_of(item.thread, things)}{'' if item.made == 'plain' else f', {item.made}'}"
        return what if length is None else f"{length:g} mm of {what}"
    patterned = bool(item.pattern) and item.times > 0
    whole = item.pattern if patterned else dict.fromkeys((*item.lead, *item.tail))
    pattern = [_word(one, things) for one in whole]
    short = " + ".join(pattern if len(pattern) < 3 else [*pattern[:2], "…"])
    said = times(item.times if patterned else 1, short)
    if item.pattern == (Bare(mm=1.0),):
        said = f"{item.times} mm bare"
    around = [_word(one, things) for one in (*item.lead, *item.tail)] if is_bare(item) else []
    said = ", ".join([said, *dict.fromkeys(around)])
    return f"{said}, {item.off} off each end" if item.off else said


def _word(one: Along, things: Things) -> str:
    if isinstance(one, str):
        return name_of(one, things)
    return "knot" if isinstance(one, Knot) else f"{one.mm:g} mm bare"


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
