"""Stringing in one phrase: “string 9 x (2 amber, daisy), fan, 2 amber on silk doubled, ends tip
knotted”.

Things lie on the thread in the order they are said: a count before a thing is that many in a row,
“3 x (…)” repeats. A connector is passed by its outermost holes, and the same thread goes on behind
it. “and back” mirrors all that is said about the last thing.
"""

import re
from typing import NamedTuple

from msgspec.structs import replace

from maglia.core.edits.edit import add_owner, insert_after
from maglia.core.edits.spots import Edited, Spot
from maglia.core.parts.parts import Bead, Connector, End, Ring, Wire
from maglia.core.parts.units import Cluster, Thing, Things
from maglia.core.piece.piece import (
    Finish,
    Item,
    Piece,
    Run,
    StrungEnd,
    StrungItem,
)
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.phrases.offers import Offer, as_item, best_match, known_things, with_needed
from maglia.phrases.part_offers import refused
from maglia.phrases.said_lists import parts_of

BEGINS = re.compile(r"^string\b\s*(.*)$", re.IGNORECASE)
HINT = "string 9 x (2 amber, daisy), 2 amber on silk doubled, ends tip knotted"
FINISHES: dict[str, Finish] = {
    "crimped": "crimped", "folded": "folded", "knotted": "knotted", "glued": "glued",
    "looped": "looped",
}  # fmt: skip
USUAL: dict[str, Finish] = {"crimp": "crimped", "tip": "knotted", "cord end": "glued",
                            "cone": "knotted"}  # fmt: skip
MOST = 500
STRUNG = (Bead, Ring, Cluster, Connector, End)


class _Strung(NamedTuple):
    """What lies on a thread in order, with one pattern that may be told from it."""

    refs: tuple[str, ...]
    thread: Wire
    strands: int
    ends: tuple[StrungEnd, StrungEnd]


def string_offers(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """What a text strings; empty if it does not begin so."""
    begun = BEGINS.match(text.strip())
    if begun is None:
        return []
    things = known_things(piece, tray)
    try:
        read = read_string(begun[1], things)
        items = items_of(read, things)
    except DomainError as fault:
        return [replace(refused(str(fault)), hint=HINT)]
    names = [things[ref].name for ref in dict.fromkeys(read.refs)]
    said = f"String {len(read.refs)}: {', '.join(names[:4])}{' …' if len(names) > 4 else ''}"
    said += f" on {read.thread.name}{' doubled' if read.strands == 2 else ''}"

    def strung() -> Edited:
        changed = piece
        for ref in dict.fromkeys((*read.refs, read.thread.id, *_end_refs(read))):
            changed = with_needed(changed, things[ref], things)
        return _put(changed, items, spot)

    return [Offer(said, None, things[read.refs[0]], strung)]


def _end_refs(read: _Strung) -> tuple[str, ...]:
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


def read_string(text: str, things: Things) -> _Strung:
    """What is strung, on what, finished how. Raises DomainError naming the word."""
    text, ends_said = _split(text, "ends")
    text, thread_said = _split(text, "on")
    text, back = re.subn(r"[,\s]+and\s+back\s*$", "", text, flags=re.IGNORECASE)
    refs = _list(text, things)
    if not refs:
        raise DomainError("say what is strung, such as: 9 x (2 amber, daisy)")
    if back:
        refs = [*refs, *refs[-2::-1]]
    if len(refs) > MOST:
        raise DomainError(f"{len(refs)} things are more than {MOST} on one thread")
    thread, strands = _thread(thread_said, things)
    return _Strung(tuple(refs), thread, strands, _ends(ends_said, things))


def _split(text: str, word: str) -> tuple[str, str | None]:
    """A text before a word of its own, and what follows it."""
    found = re.search(rf"(?:^|[,\s]){word}\s+(?![^()]*\))", text, re.IGNORECASE)
    if found is None:
        return text, None
    return text[: found.start()].rstrip(" ,"), text[found.end() :].strip()


def _list(text: str, things: Things) -> list[str]:
    """Things said one after the other, groups written out."""
    found: list[str] = []
    for part in parts_of(text):
        group = re.fullmatch(r"(?:(\d+)\s*[x×]\s*)?\((.*)\)(?:\s*[x×]\s*(\d+))?", part, re.DOTALL)
        if group:
            times = int(group[1] or group[3] or 1)
            inner = _list(group[2], things)
            if times * len(inner) > MOST:
                raise DomainError(f"{times * len(inner)} things are more than {MOST} on one thread")
            found += inner * times
            continue
        count = re.match(r"(\d+)\s+(?:[x×]\s*)?(?=\D)", part)
        name = part[count.end() :] if count else part
        found += [_named(name, things).id] * min(int(count[1]) if count else 1, MOST + 1)
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


def _ends(said: str | None, things: Things) -> tuple[StrungEnd, StrungEnd]:
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


def items_of(read: _Strung, things: Things) -> list[Item]:
    """Sections and the connectors between them, all on one thread."""
    sections: list[list[str]] = [[]]
    between: list[Item] = []
    for ref in read.refs:
        thing = things[ref]
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


def _section(refs: list[str], read: _Strung, near: StrungEnd, far: StrungEnd) -> StrungItem:
    lead, pattern, times, tail = _pattern(refs)
    return StrungItem(
        thread=read.thread.id, strands=read.strands, lead=lead, pattern=pattern, times=times,
        tail=tail, end=near.end, finish=near.finish, far=None if far == near else far,
    )  # fmt: skip


def _pattern(
    refs: list[str],
) -> tuple[tuple[str, ...], tuple[str, ...], int, tuple[str, ...]]:
    """The shortest pattern that is repeated most, with what stands before and after it; so that
    one can be added by a key."""
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
