"""What is strung, and cord by the length: “9 x (2 amber, daisy), fan, 2 amber on silk doubled, ends
tip knotted”, “400 mm ribbon, ends clamp”, “45 cm cord braided, slip knots”.

Things lie on the thread in the order they are said. A connector is passed by its outermost holes,
and the same thread goes on behind it. “and back” mirrors all that is said about the last thing.
"""

from collections.abc import Iterator, Sequence
from itertools import groupby
from typing import Literal, NamedTuple

from msgspec.structs import replace

from maglia.core.parts.parts import Bead, Connector, End, Ring, Wire
from maglia.core.parts.units import Cluster, Thing
from maglia.core.piece.items import (
    Bare,
    ConnectorItem,
    Finish,
    Item,
    Knot,
    RepeatItem,
    RingItem,
    StrungEnd,
    StrungItem,
)
from maglia.core.piece.strung import Along
from maglia.phrases.here import Here, free_id
from maglia.phrases.items import Said, grouped, hung_from, item_for, one_said, ref_of
from maglia.phrases.names import Kinds
from maglia.phrases.words import (
    Misread,
    Segment,
    Word,
    Words,
    at_commas,
    is_length,
    length_mm,
    unknown,
)

FINISHES: dict[str, Finish] = {
    "crimped": "crimped", "folded": "folded", "knotted": "knotted", "glued": "glued",
    "looped": "looped", "slip": "slip knot",
}  # fmt: skip
USUAL: dict[str, Finish] = {"crimp": "crimped", "tip": "knotted", "cord end": "glued",
                            "cone": "knotted", "clamp": "glued"}  # fmt: skip
Made = Literal["plain", "folded", "braided"]
MADE: dict[str, Made] = {"folded": "folded", "braided": "braided"}
BRAIDED_OF = 3
"""Strands of a braid, unless more are said."""
MOST = 500
ON_THREAD: Kinds = (Bead, Ring, Cluster, Connector, End)


def _threads(thing: Thing) -> bool:
    return isinstance(thing, Wire) and thing.sort not in ("wire", "memory coil")


THREADS: Kinds = (_threads, Wire)
"""What things are strung on: thread, cable, cord, elastic; of two also wire."""


class Threaded(NamedTuple):
    """What lies on a thread in order, and how the thread is held."""

    ones: tuple[Along, ...]
    thread: Wire
    strands: int = 1
    ends: tuple[StrungEnd, StrungEnd] = (StrungEnd(finish="knotted"),) * 2
    made: Made = "plain"
    over: tuple[str, ...] = ()
    ways: tuple[ConnectorItem, ...] = ()
    """Connectors whose holes were said, in order."""
    units: tuple[Cluster, ...] = ()
    """Clusters that are made by the way."""


class _Listed:
    """Things as they are listed along a thread."""

    def __init__(self, here: Here) -> None:
        self.here = here
        self.over: list[str] = []
        self.ways: list[ConnectorItem] = []
        self.units: list[Cluster] = []

    def read(self, words: Words) -> list[Along]:
        found: list[Along] = []
        for part in at_commas(words):
            found += self._part(part)
            if len(found) > 100 * MOST:
                raise unknown(part, f"makes more than {MOST} things on one thread")
        return found

    def _part(self, words: Words) -> list[Along]:
        if not words:
            raise Misread("say over what it rides: ring 9 over rose")
        if group := grouped(words):
            times, inner = group
            within = self.read(inner)
            if times * len(within) > 100 * MOST:
                raise unknown(words, f"makes more than {MOST} things on one thread")
            return within * times
        if words[-1].low == "bare" and len(words) == 2 and words[0].amount is not None:
            return bare(length_mm(words[0], self.here.unit) or 0.0, words)
        if over := next((k for k, word in enumerate(words) if word.low == "over" and k), 0):
            riding = self._things(words[:over], rides=True)
            return [*riding, *self._part(words[over + 1 :])]
        return self._things(words)

    def _things(self, words: Words, *, rides: bool = False) -> list[Along]:
        count, name = 1, words
        if words[0].amount is not None and len(words) > 1:
            if is_length(words[0]):
                raise unknown(words, "is no bare thread: say 30 mm bare, or how many")
            count = words[0].whole or 0
            if not 1 <= count <= MOST:
                raise unknown([words[0]], f"is no number of things from 1 to {MOST}")
            name = words[2:] if words[1].low == "x" and len(words) > 2 else words[1:]
        if len(name) == 1 and name[0].low in ("knot", "knots"):
            return [Knot()] * count
        ref = self._ref(name)
        if rides and ref not in self.over:
            self.over.append(ref)
        return [ref] * count

    def _ref(self, words: Words) -> str:
        """The thing that is named; a connector by its holes; a ring with what it carries."""
        here = self.here
        if any(word.low == "carrying" for word in words):
            return self._carrying(words)
        if any(word.low == "to" for word in words):
            item = one_said(words, here, ON_THREAD).item
            if isinstance(item, ConnectorItem):
                self.ways.append(item)
                return item.part
            raise unknown(words)
        thing = here.names.find(words, ON_THREAD, what="on a thread lie beads, rings, clusters, "
                                "connectors")  # fmt: skip
        if isinstance(thing, Connector):
            way = item_for(thing, None)
            assert isinstance(way, ConnectorItem)
            self.ways.append(way)
        return thing.id

    def _carrying(self, words: Words) -> str:
        """A ring on the thread with what hangs from it, as a cluster."""
        here = self.here
        said = one_said(words, here, (Ring,))
        if not isinstance(said.item, RingItem) or said.item.count > 1:
            raise unknown(words, "is no single ring that carries something")
        hangs, by = hung_by(said.carries, words)
        ring = here.things[said.item.part]
        for unit in self.units:
            if (unit.carrier, unit.hangs, unit.by) == (ring.id, hangs, by):
                return unit.id
        name = f"{ring.name} cluster"
        made = Cluster(id=free_id(f"{ring.id}-cluster", {**here.things, **_ids(self.units)}),
                       name=name[:120], carrier=ring.id, hangs=hangs, by=by)  # fmt: skip
        self.units.append(made)
        return made.id


def _ids(units: Sequence[Cluster]) -> dict[str, Cluster]:
    return {unit.id: unit for unit in units}


def hung_by(carries: Sequence[Said], words: Words) -> tuple[tuple[str, ...], str | None]:
    """What hangs on a ring or link, and the ring each hangs by."""
    refs: list[str] = []
    rings: set[str] = set()
    for said in carries:
        *before, last = said
        ref = "" if isinstance(last.item, RepeatItem) else ref_of(last.item)
        ring = before[0].item if len(before) == 1 else None
        plain = not before or (isinstance(ring, RingItem) and ring.count * ring.abreast == 1)
        if not ref or isinstance(last.item, RingItem) or not plain or list(hung_from(said)):
            raise unknown(words, "carries more than a thing by a ring of its own: hang it as a "
                          "drop")  # fmt: skip
        refs.append(ref)
        rings.add(ring.part if isinstance(ring, RingItem) else "")
    if len(rings) > 1:
        raise unknown(words, "carries some by a ring and some without: let all hang by the same, "
                      "or hang them as drops")  # fmt: skip
    return tuple(refs), next(iter(rings), "") or None


def read_strung(words: Words, joins: Sequence[Segment], here: Here) -> Threaded:
    """What is strung, from its list and what follows `on` and `ends`. Raises Misread."""
    listed = _Listed(here)
    back = len(words) > 2 and words[-1].low == "back" and words[-2].low == "and"
    ones = listed.read(words[:-2] if back else words)
    if not ones:
        raise Misread("say what is strung, such as: string 9 x (2 amber, daisy) on silk")
    if back:
        ones = _and_back(ones, listed.over)
        listed.ways += listed.ways[::-1]
    if sum(not isinstance(one, Bare) for one in ones) > MOST:
        raise unknown(words, f"makes more than {MOST} things on one thread")
    on = next((segment for segment in joins if segment.join.low == "on"), None)
    if on is None:
        raise Misread("say on what: … on silk, … on cable doubled",
                      *(words[-1][1:3] if words else (0, 0)))  # fmt: skip
    thread, strands, made = _thread(on.words, here)
    ends = next((segment for segment in joins if segment.join.low == "ends"), None)
    if ends is None:
        here.add("knotted ends", "since nothing is said of them", words=on.words)
    return Threaded(
        tuple(ones), thread, strands, ends_said(ends.words if ends else (), here), made,
        tuple(listed.over), tuple(listed.ways), tuple(listed.units),
    )  # fmt: skip


def _and_back(ones: list[Along], over: Sequence[str]) -> list[Along]:
    """All that is said mirrored about the last thing, with what rides over it."""
    last = len(ones) - 1
    while last and ones[last - 1] in over:
        last -= 1
    return [*ones, *ones[:last][::-1]]


def cord_of(words: Words, here: Here) -> Threaded | None:
    """“400 mm ribbon folded, ends clamp”: cord by the length; None if no cord is named so."""
    if len(words) < 2 or not is_length(words[0]):
        return None
    parts = at_commas(words[1:])
    name = tuple(w for w in parts[0] if w.low not in (*MADE, "doubled", "of")) if parts else ()
    ends_at = next((k for k, word in enumerate(name) if word.low == "ends"), len(name))
    name, rest = name[:ends_at], name[ends_at:]
    if not here.names.fits(name, (_cord,)) or here.names.fits(name, (_not_cord,)):
        return None
    thread = here.names.find(name, (_cord,))
    assert isinstance(thread, Wire)
    said = [word for word in parts[0] if word.low in (*MADE, "doubled")]
    ends = (StrungEnd(finish="knotted"),) * 2
    held = bool(rest)
    if rest:
        ends = ends_said(rest[1:], here)
    for part in parts[1:]:
        low = " ".join(word.low for word in part)
        if low in (*MADE, "doubled"):
            said.append(part[0])
        elif low in ("slip knots", "slip knot"):
            ends, held = (StrungEnd(finish="slip knot"),) * 2, True
        elif part[0].low == "ends":
            ends, held = ends_said(part[1:], here), True
        else:
            raise unknown(part, f"was not understood: of cord are said ends, {', '.join(MADE)}, "
                          "doubled, slip knots")  # fmt: skip
    if not held:
        here.add("knotted ends", "since nothing is said of them", words=words)
    strands, made = _made(said)
    mm = words[0].amount.mm("mm") if words[0].amount else 0.0
    return Threaded(tuple(bare(mm, words)), thread, strands, ends, made)


def _cord(thing: Thing) -> bool:
    return isinstance(thing, Wire) and thing.sort not in ("wire", "memory coil")


def _not_cord(thing: Thing) -> bool:
    return getattr(thing, "kind", "") == "chain"


def _made(said: Sequence[Word]) -> tuple[int, Made]:
    """How many strands, and whether they are folded or braided."""
    lows = [word.low for word in said]
    if "braided" in lows and "doubled" in lows:
        raise unknown(said, "cannot be both: a braid is of three strands")
    made: Made = next((MADE[low] for low in lows if low in MADE), "plain")
    return (BRAIDED_OF if made == "braided" else 2 if "doubled" in lows else 1), made


def _thread(words: Words, here: Here) -> tuple[Wire, int, Made]:
    """The thread that is named, how often it goes through, and how it is made."""
    said = [word for word in words if word.low in (*MADE, "doubled")]
    name = tuple(word for word in words if word.low not in (*MADE, "doubled", ","))
    thing = here.names.find(name, THREADS, what="say a thread, cable, cord or wire")
    assert isinstance(thing, Wire)
    return (thing, *_made(said))


def bare(mm: float, words: Words = ()) -> list[Along]:
    """So much bare thread: whole millimetres, so that one can be added by a key, and what is left
    before them."""
    if not 0 < mm <= 20_000:
        raise unknown(words, "is no length of bare thread up to 20 m")
    whole = int(round(mm, 6))
    rest = round(mm - whole, 3)
    return [*([Bare(mm=rest)] if rest > 0 else []), *[Bare(mm=1.0)] * whole]


def ends_said(words: Words, here: Here) -> tuple[StrungEnd, StrungEnd]:
    """“tip knotted”, “clamp and tip”: how both ends are made fast, or each."""
    both = _both(words)
    ends = [_end(part, here) for part in both] or [StrungEnd(finish="knotted")]
    if len(ends) > 2:
        raise unknown(words, "says more than two ends")
    return ends[0], ends[-1]


def _both(words: Words) -> list[Words]:
    at = [k for k, word in enumerate(words) if word.low in ("and", ",")]
    parts, begun = [], 0
    for k in [*at, len(words)]:
        parts.append(words[begun:k])
        begun = k + 1
    return [part for part in parts if part]


def _end(words: Words, here: Here) -> StrungEnd:
    """“crimp”, “tip knotted”, “folded”: a part, how it is made fast, or both."""
    finish = next((FINISHES[word.low] for word in words if word.low in FINISHES), None)
    name = words
    if finish is not None and not here.names.fits(words, (End,)):
        name = tuple(word for word in words if word.low not in (*FINISHES, "knot", "knots"))
    if not name:
        return StrungEnd(finish=finish or "knotted")
    part = here.names.find(name, (End,), what="say a crimp, tip, clamp, cone or cord end")
    assert isinstance(part, End)
    return StrungEnd(end=part.id, finish=(finish if name != words else None) or USUAL[part.sort])


def strung_words(read: Threaded, here: Here) -> str:
    """What is understood of it, in whole names."""
    names = {**here.things, **_ids(read.units)}
    said = []
    for one, group in groupby(read.ones):
        count = len(list(group))
        if isinstance(one, Bare):
            said.append(f"{one.mm * count:g} mm bare")
        else:
            name = "knot" if isinstance(one, Knot) else names[one].name
            said.append(f"{count} {name}" if count > 1 else name)
    if len(said) > 9:
        said = [*said[:8], f"… {len(read.ones)} in all"]
    made = "" if read.made == "plain" else f" {read.made}"
    doubled = " doubled" if read.strands == 2 else ""
    return (f"{', '.join(said)} on {read.thread.name}{made}{doubled}, "
            f"ends {ends_words(read.ends, here)}")  # fmt: skip


def ends_words(ends: Sequence[StrungEnd], here: Here) -> str:
    """How ends are understood: “clamp 8 glued”, each its own where they differ."""
    said = [f"{here.things[e.end].name} {e.finish}" if e.end else e.finish for e in ends]
    return " and ".join(dict.fromkeys(said))


def strung_items(read: Threaded, here: Here) -> tuple[Item, ...]:
    """Sections and the connectors between them, all on one thread."""
    sections: list[list[Along]] = [[]]
    ways = list(read.ways)
    between: list[Item] = []
    for one in read.ones:
        if isinstance(one, str) and isinstance(here.things.get(one), Connector):
            between.append(ways[len(between)] if len(between) < len(ways) else ways[-1])
            sections.append([])
        else:
            sections[-1].append(one)
    if not all(sections):
        raise Misread("a connector lies between beads: say what is strung on both its sides")
    goes_on = StrungEnd(finish="goes on")
    items: list[Item] = []
    for k, ones in enumerate(sections):
        near = read.ends[0] if k == 0 else goes_on
        far = read.ends[1] if k == len(sections) - 1 else goes_on
        items.append(_section(ones, read, near, far))
        if k < len(between):
            items.append(between[k])
    return tuple(items)


def is_even(items: Sequence[Item]) -> bool:
    """Whether it is one section, the same from either end but for what rides."""
    one = items[0]
    if len(items) > 1 or not isinstance(one, StrungItem) or one.far is not None:
        return False
    beads = [bead for bead in one.beads if bead not in one.over]
    return beads == beads[::-1]


def mirrored_half(items: Sequence[Item]) -> tuple[Item, ...]:
    """The connector in the middle of what is the same from both its ends, and what follows it
    outward; empty if it is not the same, or has no connector there."""
    middle = items[len(items) // 2]
    outward, inward = items[len(items) // 2 + 1 :], items[: len(items) // 2][::-1]
    if len(items) % 2 == 0 or not isinstance(middle, ConnectorItem):
        return ()
    if not all(_is_back(one, other) for one, other in zip(outward, inward, strict=True)):
        return ()
    return (middle, *outward)


def _is_back(one: Item, other: Item) -> bool:
    """Whether one is the other from its other end."""
    if isinstance(one, StrungItem) and isinstance(other, StrungItem):
        return (one.beads == other.beads[::-1] and one.ends == other.ends[::-1]
                and _of(one) == _of(other))  # fmt: skip
    if isinstance(one, ConnectorItem) and isinstance(other, ConnectorItem):
        back = replace(other, hole_in=other.hole_out, hole_out=other.hole_in)
        return one == back
    return one == other


def _of(item: StrungItem) -> tuple[object, ...]:
    return item.thread, item.strands, item.made, sorted(item.over)


def _stretches(ones: list[Along]) -> Iterator[tuple[int, int]]:
    """Where whole millimetres of bare thread follow each other."""
    at = 0
    for step, group in groupby(ones, lambda one: one == Bare(mm=1.0)):
        size = len(list(group))
        if step:
            yield at, at + size
        at += size


def _whole(ones: list[Along]) -> tuple[Along, ...]:
    """Bare steps that follow each other as one length."""
    found: list[Along] = []
    for one in ones:
        if isinstance(one, Bare) and found and isinstance(found[-1], Bare):
            found[-1] = Bare(mm=round(found[-1].mm + one.mm, 3))
        else:
            found.append(one)
    return tuple(found)


def _section(ones: list[Along], read: Threaded, near: StrungEnd, far: StrungEnd) -> StrungItem:
    lead, pattern, times, tail = _pattern(ones)
    over = tuple(ref for ref in read.over if ref in ones)
    return StrungItem(
        thread=read.thread.id, strands=read.strands, lead=lead, pattern=pattern, times=times,
        tail=tail, end=near.end, finish=near.finish, far=None if far == near else far,
        made=read.made, over=over,
    )  # fmt: skip


def _pattern(
    ones: list[Along],
) -> tuple[tuple[Along, ...], tuple[Along, ...], int, tuple[Along, ...]]:
    """The shortest pattern that is repeated most, with what stands before and after it; so that
    one can be added by a key. Of bare thread the longest stretch is repeated."""
    longest = max(_stretches(ones), key=lambda way: way[1] - way[0], default=None)
    if longest is not None:
        begun, end = longest
        lead, tail = _whole(ones[:begun]), _whole(ones[end:])
        return lead, (Bare(mm=1.0),), end - begun, tail
    count = len(ones)
    for size in range(1, count // 2 + 1):
        for begun in range(size):
            times = 1
            while (
                ones[begun : begun + size]
                == ones[begun + times * size : begun + (times + 1) * size]
            ):
                times += 1
            rest = count - begun - times * size
            if times > 1 and rest < size:
                end = begun + times * size
                return (tuple(ones[:begun]), tuple(ones[begun : begun + size]), times,
                        tuple(ones[end:]))  # fmt: skip
    return (), tuple(ones), 1, ()
