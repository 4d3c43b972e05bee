"""Things in a row as they are said: “ring 4, 37 rolo, 2 x (rose link, ring 4)”, “fan left to
right”, “ring 6 carrying leaf and teal dangle”.
"""

from collections.abc import Iterator
from typing import Any, NamedTuple

from msgspec.structs import replace

from maglia.core.assembly.kinds import item_words
from maglia.core.edits.edit import links_near
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    End,
    Hole,
    Ring,
    chain_length_mm,
)
from maglia.core.parts.units import BeadLink, Cluster, Dangle, Tassel, Thing, Unit
from maglia.core.piece.items import (
    ChainItem,
    ConnectorItem,
    Item,
    PartItem,
    RepeatItem,
    RingItem,
    UnitItem,
    WeaveItem,
)
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError
from maglia.phrases.here import Here
from maglia.phrases.names import Kinds
from maglia.phrases.words import (
    Misread,
    Word,
    Words,
    at_commas,
    at_signs,
    is_length,
    is_sign,
    unknown,
)

ALONG: Kinds = (
    Ring, Chain, BeadLink, Connector, Charm, EarFinding, Dangle, Tassel, Cluster, Clasp, End,
)  # fmt: skip
"""What can stand in a run."""
HANGING: Kinds = (
    Dangle, Tassel, Cluster, Charm, BeadLink, Ring, Connector, Chain, Clasp, EarFinding, End,
)  # fmt: skip
"""What can end a drop."""
USUAL_LINKS = 21
MOST = 20_000
LOOSE = "it goes on wire, pin or thread: new link …, new dangle …, string …"


class SaidItem(NamedTuple):
    """An item as it was said: what hangs from it, each a row of its own; of chain the length that
    was wanted, mm."""

    item: Item
    carries: tuple[tuple["SaidItem", ...], ...] = ()
    inner: tuple["SaidItem", ...] = ()
    wanted_mm: float | None = None


Said = tuple[SaidItem, ...]


def items_of(said: Said) -> tuple[Item, ...]:
    return tuple(one.item for one in said)


def hung_from(said: Said, number: int = 1) -> Iterator[tuple[int, Said]]:
    """What hangs from items, with the number of each where the first one is `number`; repeats
    written out."""
    for one in said:
        if isinstance(one.item, RepeatItem):
            for _ in range(one.item.times):
                yield from hung_from(one.inner, number)
                number += sum(_size(inner) for inner in one.inner)
            continue
        yield from ((number, carried) for carried in one.carries)
        number += 1


def _size(one: SaidItem) -> int:
    if not isinstance(one.item, RepeatItem):
        return 1
    return one.item.times * sum(_size(inner) for inner in one.inner)


def said_words(said: Said, here: Here) -> str:
    """Items in the whole names of things."""
    return ", ".join(
        item_words(one.item, here.things)
        + "".join(f" carrying {said_words(carried, here)}" for carried in one.carries)
        for one in said
    )


def sequence(words: Words, here: Here, kinds: Kinds = ALONG, last: Kinds | None = None) -> Said:
    """Things at commas and “then”; the last one of other kinds first. Raises Misread."""
    parts = at_commas(words)
    if not parts:
        raise Misread("say what is put in, such as: ring 4, 21 rolo")
    found = []
    for k, part in enumerate(parts):
        here.odd_next = here.odd_next and k == 0
        final = k == len(parts) - 1 and last is not None
        found.append(one_said(part, here, last if final and last is not None else kinds))
    here.odd_next = False
    return tuple(found)


def grouped(words: Words) -> tuple[int, Words] | None:
    """“3 x (…)”, “(…) x 3”, “(…)”: how often, and what stands within; None if it is no group."""
    times = 1
    if len(words) > 2 and words[0].whole and words[1].low == "x" and is_sign(words[2], "("):
        times, words = words[0].whole, words[2:]
    if not words or not is_sign(words[0], "("):
        return None
    depth = 0
    for k, word in enumerate(words):
        depth += is_sign(word, "(") - is_sign(word, ")")
        if depth == 0:
            rest = words[k + 1 :]
            if len(rest) == 2 and rest[0].low == "x" and rest[1].whole:
                times *= rest[1].whole
            elif rest:
                raise unknown(rest)
            if times > MOST:
                raise Misread(f"{times:,} times is more than {MOST:,}", words[0].start, word.end)
            return times, words[1:k]
    return None


def one_said(words: Words, here: Here, kinds: Kinds) -> SaidItem:
    """One item or group."""
    if group := grouped(words):
        times, within = group
        inner = sequence(within, here, kinds)
        if times == 1 and len(inner) == 1:
            return inner[0]
        try:
            item = RepeatItem(times=times, items=items_of(inner))
        except DomainError as fault:
            raise Misread(str(fault), words[0].start, words[-1].end) from None
        return SaidItem(item, inner=inner)
    carries: tuple[Said, ...] = ()
    if at := next((k for k, word in enumerate(words) if word.low == "carrying"), 0):
        carries = _carried(words[at + 1 :], here)
        words = words[:at]
    return _counted(words, here, kinds)._replace(carries=carries)


def _carried(words: Words, here: Here) -> tuple[Said, ...]:
    """“leaf and teal dangle”, “2 x (ring 4, teal)”: what hangs beside each other."""
    found: list[Said] = []
    for part in at_signs(words, "and"):
        group = grouped(part)
        times, within = group or (1, part)
        if group is None and part[0].whole and len(part) > 1 and part[0].whole <= 60:
            times, within = part[0].whole, part[1:]
            within = within[1:] if within and within[0].low == "x" else within
        found += [sequence(within, here, last=HANGING)] * min(times, 61)
    if not found or len(found) > 60:
        raise unknown(words, "is more than 60 in one place" if found else "says nothing")
    return tuple(found)


def _counted(words: Words, here: Here, kinds: Kinds) -> SaidItem:
    """A count or a length, and the name it is of."""
    first = words[0]
    counted, mm, name = None, None, words
    if first.amount is not None and len(words) > 1:
        name = words[1:]
        if is_length(first):
            mm = first.amount.mm("mm")
            name = name[1:] if name[0].low == "of" and len(name) > 1 else name
        elif first.amount.kind == "plain":
            counted = first.whole
            if not counted or counted > MOST:
                raise unknown([first], "is no whole number of them from 1 up to 20,000")
            if name[0].low in ("link", "links", "x") and len(name) > 1:
                name = name[1:]
            if name[0].low == "of" and len(name) > 1:
                name = name[1:]
        else:
            raise unknown([first], "says no number of them")
    return _named(name, counted, mm, first, here, kinds)


def _named(
    words: Words, counted: int | None, mm: float | None, first: Word, here: Here, kinds: Kinds
) -> SaidItem:
    holes = next((k for k, word in enumerate(words) if word.low == "to" and k), 0)
    abreast = words[-1].low == "abreast"
    if any(word.low == "beside" for word in words):
        raise unknown(words, "cannot be held: rings beside each other are of one kind, as in: "
                      "2 ring 4 abreast")  # fmt: skip
    if abreast:
        words = words[:-1]
    words, begun = _begun(words)
    if holes:
        return SaidItem(_through(words, holes, counted, here))
    thing = here.names.find(words, kinds, what=LOOSE if _is_bead(words, here, kinds) else "")
    if mm is not None:
        if not isinstance(thing, Chain):
            raise unknown([first, *words], "cannot be cut to a length: only chain, cord and ribbon "
                          "can; say how many")  # fmt: skip
        return SaidItem(_chain_of_length(thing, mm, here, _phase(thing, begun)), wanted_mm=mm)
    if begun and not isinstance(thing, Chain):
        raise unknown(begun, "is said of chain alone: with which link of its pattern it begins")
    if abreast and not isinstance(thing, Ring):
        raise unknown(words, "is no ring: rings lie abreast")
    if isinstance(thing, Ring):
        if abreast:
            return SaidItem(RingItem(part=thing.id, abreast=min(counted or 1, 41)))
        return SaidItem(RingItem(part=thing.id, count=counted or 1))
    if isinstance(thing, Chain) and not counted:
        here.add(f"{USUAL_LINKS} links", "since no number is said", words=words)
        here.usual_links = True
    item = item_for(thing, counted)
    if isinstance(thing, Chain) and isinstance(item, ChainItem):
        item = replace(item, first_phase=_phase(thing, begun))
    return SaidItem(item)


def _begun(words: Words) -> tuple[Words, Words]:
    """“longshort from link 2”: the name, and with which link of its pattern it begins."""
    at = next((k for k, w in enumerate(words) if w.low == "from" and k), len(words))
    said = words[at:]
    if said and (len(said) != 3 or said[1].low != "link" or not said[2].whole):
        raise unknown(said, "says no link of the pattern to begin with, as in: from link 2")
    return words[:at], said


def _phase(chain: Chain, begun: Words) -> int:
    """The place in the pattern that is said, from 0; 0 where none is."""
    pattern = len(chain.pitches_mm or (0,))
    first = int(begun[2].whole or 1) if begun else 1
    if first > pattern:
        raise unknown(begun, f"is past the pattern of “{chain.name}”, which has {pattern} "
                      f"link{'' if pattern == 1 else 's'}")  # fmt: skip
    return first - 1


def _is_bead(words: Words, here: Here, kinds: Kinds) -> bool:
    return not here.names.fits(words, kinds) and here.names.fits(words, (Bead,))


def _through(words: Words, to: int, counted: int | None, here: Here) -> Item:
    """“fan left to right”: by which holes in and out."""
    for cut in range(to - 1, 0, -1):
        if not here.names.fits(words[:cut], (Connector,)):
            continue
        thing = here.names.find(words[:cut], (Connector,))
        assert isinstance(thing, Connector)
        ways = one_hole(thing, words[cut:to]), one_hole(thing, words[to + 1 :])
        item = ConnectorItem(part=thing.id, hole_in=ways[0].name, hole_out=ways[1].name)
        return RepeatItem(times=counted, items=(item,)) if (counted or 1) > 1 else item  # type: ignore[arg-type]
    raise unknown(words, "names no connector with its hole in and hole out: fan left to right")


def holes_named(connector: Connector, words: Words) -> tuple[Hole, ...]:
    """The hole of a name, or the mirrored pair that shares it, left before right; none if the
    connector has none so called."""
    said = [word.low for word in words if word.low not in ("hole", "holes")]
    named = " ".join(said)
    exact = tuple(hole for hole in connector.holes if hole.name.lower() == named)
    if exact:
        return exact
    return tuple(
        sorted(
            (h for h in connector.holes if said and set(said) <= set(h.name.lower().split())),
            key=lambda hole: hole.x_mm,
        )
    )


def one_hole(connector: Connector, words: Words) -> Hole:
    """The one hole that words name. Raises Misread."""
    found = holes_named(connector, words)
    if len(found) != 1:
        names = ", ".join(hole.name for hole in connector.holes)
        many = "is several holes" if found else "is no hole"
        raise unknown(words, f"{many} of “{connector.name}”: it has {names}")
    return found[0]


def _chain_of_length(chain: Chain, mm: float, here: Here, phase: int) -> ChainItem:
    """The nearest whole links; what is left over is told."""
    links = links_near(chain, mm, odd=here.odd_next, first=phase + 1)
    over = (chain_length_mm(chain, links, phase + 1) or 0.0) - mm
    if abs(over) >= 0.05:
        here.added.append(f"{links} links, {abs(over):.1f} mm {'over' if over > 0 else 'short'}")
    return ChainItem(part=chain.id, links=links, first_phase=phase)


def ref_of(item: Item | None) -> str:
    """The part or unit that an item is of; of a repeat that of its first, of a weave its first
    role's."""
    while isinstance(item, RepeatItem):
        item = item.items[0]
    if isinstance(item, WeaveItem):
        return item.roles[0].part
    return str(getattr(item, "part", None) or getattr(item, "unit", None) or "")


def item_for(thing: Thing, count: int | None, *, hanging: bool = False) -> Item:
    """The item that a thing makes: a connector by its outermost holes, hanging from its top one."""
    if isinstance(thing, Chain):
        return ChainItem(part=thing.id, links=count or USUAL_LINKS)
    if isinstance(thing, Ring):
        return RingItem(part=thing.id, count=count or 1)
    item: Item
    if isinstance(thing, Unit):
        item = UnitItem(unit=thing.id)
    elif isinstance(thing, Connector):
        item = _connector(thing, hanging=hanging)
    else:
        item = PartItem(part=thing.id)
    return RepeatItem(times=count, items=(item,)) if count and count > 1 else item


def _connector(connector: Connector, *, hanging: bool) -> ConnectorItem:
    holes = sorted(connector.holes, key=lambda hole: hole.x_mm)
    if not hanging:
        return ConnectorItem(part=connector.id, hole_in=holes[0].name, hole_out=holes[-1].name)
    top = max(holes, key=lambda h: (h.y_mm, -abs(h.x_mm)))
    below = [h for h in holes if h is not top] or [top]
    foot = min(below, key=lambda h: (abs(h.x_mm), h.y_mm))
    return ConnectorItem(part=connector.id, hole_in=top.name, hole_out=foot.name)


def hanging_items(said: Said, here: Here) -> Said:
    """What hangs: its connectors by top and foot, unless their holes were said."""
    found = []
    for one in said:
        item = one.item
        thing: Any = here.things.get(item.part) if isinstance(item, ConnectorItem) else None
        if isinstance(item, ConnectorItem) and item == _connector(thing, hanging=False):
            one = one._replace(item=_connector(thing, hanging=True))
        found.append(one)
    return tuple(found)


def by_turns(words: Words) -> list[Words]:
    """“5 / 9 / 12 cable” as “5 cable”, “9 cable”, “12 cable”; “9 7 5 cable” likewise. Just the
    words themselves where nothing goes by turns."""
    parts = at_signs(words, "/")
    if len(parts) > 1:
        rest = tuple(word for word in parts[-1][1:]) if parts[-1][0].amount else ()
        return [part + rest if len(part) == 1 and part[0].amount else part for part in parts]
    counts = 0
    while counts < len(words) and words[counts].whole:
        counts += 1
    if counts > 1 and counts < len(words):
        return [(words[k], *words[counts:]) for k in range(counts)]
    return [words] if words else []


def sequences_by_turns(words: Words, here: Here) -> list[Said]:
    """What each of several drops is made of, in turn."""
    parts = [by_turns(part) for part in at_commas(words)]
    longest = max((len(part) for part in parts), default=0)
    if not longest:
        raise Misread("say what hangs, such as: drop ring 4, teal")
    for part in parts:
        if len(part) not in (1, longest):
            raise unknown(part[0], f"goes by {len(part)} turns, and others by {longest}: say as "
                          "many of each")  # fmt: skip
    found = []
    for k in range(longest):
        each = [part[k % len(part)] for part in parts]
        said = [one_said(part, here, HANGING if n == len(each) - 1 else ALONG)
                for n, part in enumerate(each)]  # fmt: skip
        found.append(hanging_items(tuple(said), here))
    return found


def shown(said: Said, here: Here) -> Thing | None:
    """The thing that is drawn for what was said: the last one."""
    item = said[-1].item
    return here.things.get(ref_of(item.items[-1] if isinstance(item, RepeatItem) else item))


def with_said(piece: Piece, turns: list[Said], here: Here) -> Piece:
    """A piece with all that some sequences name, and what they carry."""
    for said in turns:
        piece = here.with_all(piece, items_of(said))
        for _, carried in hung_from(said):
            piece = here.with_all(piece, items_of(carried))
    return piece
