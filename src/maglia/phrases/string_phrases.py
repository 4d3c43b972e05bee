"""Stringing in one phrase: “string 9 x (2 amber, daisy), fan, 2 amber on silk doubled, ends tip
knotted”.

Things lie on the thread in the order they are said: a count before a thing is that many in a row,
“3 x (…)” repeats. A connector is passed by its outermost holes, and the same thread goes on behind
it. “and back” mirrors all that is said about the last thing.
"""

import re
from collections.abc import Iterator
from functools import partial
from itertools import groupby
from typing import Literal, NamedTuple

from msgspec.structs import replace

from maglia.core.edits.edit import add_owner, insert_after
from maglia.core.edits.spots import Edited, Spot
from maglia.core.parts.parts import Bead, Connector, End, Ring, Wire
from maglia.core.parts.units import Cluster, Thing, Things
from maglia.core.piece.items import Bare, Finish, Item, Knot, StrungEnd, StrungItem
from maglia.core.piece.piece import Piece, Run
from maglia.core.piece.strung import Along
from maglia.core.values.measures import Links, parse_length
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.phrases.offers import Offer, as_item, best_match, known_things, with_needed
from maglia.phrases.part_offers import refused
from maglia.phrases.said_lists import parts_of

BEGINS = re.compile(r"^string\b\s*(.*)$", re.IGNORECASE)
HINT = "string 9 x (2 amber, daisy), 2 amber on silk doubled, ends tip knotted"
FINISHES: dict[str, Finish] = {
    "crimped": "crimped", "folded": "folded", "knotted": "knotted", "glued": "glued",
    "looped": "looped", "slip": "slip knot",
}  # fmt: skip
USUAL: dict[str, Finish] = {"crimp": "crimped", "tip": "knotted", "cord end": "glued",
                            "cone": "knotted", "clamp": "glued"}  # fmt: skip
MOST = 500
STRUNG = (Bead, Ring, Cluster, Connector, End)


class Strung(NamedTuple):
    """What lies on a thread in order, with one pattern that may be told from it."""

    ones: tuple[Along, ...]
    thread: Wire
    strands: int
    ends: tuple[StrungEnd, StrungEnd]
    made: Literal["plain", "folded", "braided"] = "plain"

    @property
    def refs(self) -> tuple[str, ...]:
        return tuple(one for one in self.ones if isinstance(one, str))


def string_offers(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """What a text strings; empty if it does not begin so."""
    begun = BEGINS.match(text.strip())
    if begun is None:
        return []
    things = known_things(piece, tray)
    try:
        read = read_string(begun[1], things)
        items_of(read, things)  # what cannot be is said now
    except DomainError as fault:
        return [replace(refused(str(fault)), hint=HINT)]
    names = [things[ref].name for ref in dict.fromkeys(read.refs)] or ["bare"]
    said = f"String {len(read.refs)}: {', '.join(names[:4])}{' …' if len(names) > 4 else ''}"
    said += f" on {read.thread.name}{' doubled' if read.strands == 2 else ''}"
    said += f", ends {ends_words(read, things)}"

    shown = things[next(iter(read.refs), read.thread.id)]
    return [Offer(said, None, shown, partial(put_strung, read, piece, things, spot))]


def put_strung(read: Strung, piece: Piece, things: Things, spot: Spot | None) -> Edited:
    """The piece with all that is strung, and the parts it takes."""
    for ref in dict.fromkeys((*read.refs, read.thread.id, *_end_refs(read))):
        piece = with_needed(piece, things[ref], things)
    return _put(piece, items_of(read, things), spot)


def ends_words(read: Strung, things: Things) -> str:
    """How its ends are understood: “clamp 8 glued”, each its own where they differ."""
    said = [f"{things[end.end].name} {end.finish}" if end.end else end.finish for end in read.ends]
    return " and ".join(dict.fromkeys(said))


def _end_refs(read: Strung) -> tuple[str, ...]:
    return tuple(end.end for end in read.ends if end.end is not None)


def _put(piece: Piece, items: list[Item], spot: Spot | None) -> Edited:
    """Into the run under the cursor; from an empty bench, across the fold if it is the same from
    either end, else free."""
    if spot is not None:
        edited = insert_after(piece, spot, items[0])
        for item in items[1:]:
            edited = insert_after(edited.piece, edited.spot or spot, item)
        return edited
    first = items[0]
    mirrored = (
        len(items) == 1
        and isinstance(first, StrungItem)
        and (first.beads == first.beads[::-1] and first.far is None)
    )
    if mirrored:
        return add_owner(piece, Run(name="Strand", centre=first))
    return add_owner(piece, Run(name="Strand", lies="free", items=tuple(items)))


def read_string(text: str, things: Things) -> Strung:
    """What is strung, on what, finished how. Raises DomainError naming the word."""
    text, ends = _split(text, "ends")
    text, thread_said = _split(text, "on")
    text, back = re.subn(r"[,\s]+and\s+back\s*$", "", text, flags=re.IGNORECASE)
    ones = _list(text, things)
    if not ones:
        raise DomainError("say what is strung, such as: 9 x (2 amber, daisy)")
    if back:
        ones = [*ones, *ones[-2::-1]]
    if sum(not isinstance(one, Bare) for one in ones) > MOST:
        raise DomainError(f"{len(ones)} things are more than {MOST} on one thread")
    thread, strands = _thread(thread_said, things)
    return Strung(tuple(ones), thread, strands, ends_said(ends, things))


def _split(text: str, word: str) -> tuple[str, str | None]:
    """A text before a word of its own, and what follows it."""
    found = re.search(rf"(?:^|[,\s]){word}\s+(?![^()]*\))", text, re.IGNORECASE)
    if found is None:
        return text, None
    return text[: found.start()].rstrip(" ,"), text[found.end() :].strip()


def bare(mm: float) -> list[Along]:
    """So much bare thread: whole millimetres, so that one can be added by a key, and what is left
    before them."""
    whole = int(round(mm, 6))
    rest = round(mm - whole, 3)
    return [*([Bare(mm=rest)] if rest > 0 else []), *[Bare(mm=1.0)] * whole]


def _bare(said: str) -> list[Along]:
    length = parse_length(said)
    if isinstance(length, Links):
        raise DomainError(f"say how much is bare as a length, such as: 300 mm bare, not “{said}”")
    return bare(length.mm)


def _list(text: str, things: Things) -> list[Along]:
    """Things said one after the other, groups written out."""
    found: list[Along] = []
    for part in parts_of(text):
        group = re.fullmatch(r"(?:(\d+)\s*[x×]\s*)?\((.*)\)(?:\s*[x×]\s*(\d+))?", part, re.DOTALL)
        if group:
            times = int(group[1] or group[3] or 1)
            inner = _list(group[2], things)
            if times * len(inner) > MOST:
                raise DomainError(f"{times * len(inner)} things are more than {MOST} on one thread")
            found += inner * times
            continue
        if length := re.fullmatch(r"(.+?)\s+bare", part, re.IGNORECASE):
            found += _bare(length[1])
            continue
        count = re.match(r"(\d+)\s+(?:[x×]\s*)?(?=\D)", part)
        name = part[count.end() :] if count else part
        many = min(int(count[1]) if count else 1, MOST + 1)
        if re.fullmatch(r"knots?", name, re.IGNORECASE):
            found += [Knot()] * many
            continue
        found += [_named(name, things).id] * many
    return found


def _named(name: str, things: Things) -> Thing:
    for kind in STRUNG:
        found = best_match(name, things.values(), kind)
        if found is None and name.endswith("s"):
            found = best_match(name[:-1], things.values(), kind)
        if found is not None:
            return found
    raise DomainError(f"nothing that can be strung is called “{name}”")


def _thread(said: str | None, things: Things) -> tuple[Wire, int]:
    """The thread that is named, and how often it goes through."""
    if not said:
        raise DomainError("say on what: … on silk, … on cable doubled")
    words, doubled = re.subn(r"\bdoubled\b", "", said, flags=re.IGNORECASE)
    found = best_match(words.strip(" ,"), things.values(), Wire)
    if found is None:
        raise DomainError(f"no thread, cable or wire is called “{words.strip()}”")
    return found, 2 if doubled else 1


def ends_said(said: str | None, things: Things) -> tuple[StrungEnd, StrungEnd]:
    if not said:
        return StrungEnd(finish="knotted"), StrungEnd(finish="knotted")
    both = re.split(r"\s+and\s+|,", said, maxsplit=1)
    ends = [_end(one.strip(), things) for one in both]
    return ends[0], ends[-1]


def _end(said: str, things: Things) -> StrungEnd:
    """“crimp”, “tip knotted”, “folded”: a part, how it is made fast, or both."""
    words = said.split()
    finish = next((FINISHES[word.lower()] for word in words if word.lower() in FINISHES), None)
    name = " ".join(word for word in words if word.lower() not in FINISHES)
    if not name:
        return StrungEnd(finish=finish or "knotted")
    part = best_match(name, things.values(), End)
    if part is None:
        raise DomainError(f"no crimp, tip, clamp or cord end is called “{name}”")
    return StrungEnd(end=part.id, finish=finish or USUAL[part.sort])


def items_of(read: Strung, things: Things) -> list[Item]:
    """Sections and the connectors between them, all on one thread."""
    sections: list[list[Along]] = [[]]
    between: list[Item] = []
    for ref in read.ones:
        thing = things[ref] if isinstance(ref, str) else None
        if isinstance(thing, Connector):
            item = as_item(thing, None)
            assert item is not None
            between.append(item)
            sections.append([])
        else:
            sections[-1].append(ref)
    if not all(sections):
        raise DomainError("a connector lies between beads: say what is strung on both its sides")
    goes_on = StrungEnd(finish="goes on")
    items: list[Item] = []
    for k, refs in enumerate(sections):
        near = read.ends[0] if k == 0 else goes_on
        far = read.ends[1] if k == len(sections) - 1 else goes_on
        items.append(_section(refs, read, near, far))
        if k < len(between):
            items.append(between[k])
    return items


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


def _section(refs: list[Along], read: Strung, near: StrungEnd, far: StrungEnd) -> StrungItem:
    lead, pattern, times, tail = _pattern(refs)
    return StrungItem(
        thread=read.thread.id, strands=read.strands, lead=lead, pattern=pattern, times=times,
        tail=tail, end=near.end, finish=near.finish, far=None if far == near else far,
        made=read.made,
    )  # fmt: skip


def _pattern(
    refs: list[Along],
) -> tuple[tuple[Along, ...], tuple[Along, ...], int, tuple[Along, ...]]:
    """The shortest pattern that is repeated most, with what stands before and after it; so that
    one can be added by a key. Of bare thread the longest stretch is repeated."""
    longest = max(_stretches(refs), key=lambda way: way[1] - way[0], default=None)
    if longest is not None:
        begun, end = longest
        lead, tail = _whole(refs[:begun]), _whole(refs[end:])
        return lead, (Bare(mm=1.0),), end - begun, tail
    count = len(refs)
    for size in range(1, count // 2 + 1):
        for begun in range(size):
            times = 1
            while (
                refs[begun : begun + size]
                == refs[begun + times * size : begun + (times + 1) * size]
            ):
                times += 1
            rest = count - begun - times * size
            if times > 1 and rest < size:
                end = begun + times * size
                return (tuple(refs[:begun]), tuple(refs[begun : begun + size]), times,
                        tuple(refs[end:]))  # fmt: skip
    return (), tuple(refs), 1, ()
