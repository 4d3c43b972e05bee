"""Things put in at the cursor, and whole strands: “37 rolo, ring 4”, “string 9 x (2 amber, daisy)
on silk, ends tip”, “strand 45 cm cable at 1st ring”.

On an empty bench the first thing lies on the fold and the rest follows outward; what is free begins
at the left, what hangs at the top.
"""

import re
from collections.abc import Sequence
from functools import partial

from msgspec.structs import replace

from maglia.core.assembly.rows import written_out
from maglia.core.edits.edit import add_owner, insert_after, links_near
from maglia.core.edits.rearrange import split
from maglia.core.edits.spots import WHOLE, Edited, Spot, first_number, first_spot, spot_in
from maglia.core.parts.parts import Chain, Clasp, EarFinding
from maglia.core.parts.units import Dangle, Tassel, Thing
from maglia.core.piece.items import ChainItem, Item, PartItem, RepeatItem, RingItem
from maglia.core.piece.piece import Form, Lies, Piece, Place, Run
from maglia.core.values.record import DomainError
from maglia.phrases.closing import close_offer
from maglia.phrases.hanging import drop_offer
from maglia.phrases.here import Here, Offer
from maglia.phrases.items import (
    ALONG,
    HANGING,
    Said,
    SaidItem,
    hanging_items,
    hung_from,
    items_of,
    ref_of,
    said_words,
    sequence,
    shown,
)
from maglia.phrases.names import is_of
from maglia.phrases.places import At, place
from maglia.phrases.stands import standing
from maglia.phrases.strung import (
    Threaded,
    cord_of,
    is_even,
    mirrored_half,
    read_strung,
    strung_items,
    strung_words,
)
from maglia.phrases.words import (
    Misread,
    Segment,
    Words,
    at_signs,
    is_length,
    joined,
    text_of,
    unknown,
    words_of,
)

ENDS_FREE = ("drop", "extender")


def things_offer(words: Words, here: Here) -> Offer:
    """Things along the run under the cursor."""
    if read := cord_of(words, here):
        return _strung(read, here)
    head, after = joined(words, ("after",))
    ends_here = _ends_free(here)
    fresh = not here.piece.runs and not here.piece.rows
    here.odd_next = fresh and here.piece.mirrored and not _hangs(here)
    said = sequence(head, here, ALONG, HANGING if ends_here else None)
    if _hangs(here):
        said = hanging_items(said, here)
    if other := _not_put_in(said, head, here):
        return other
    what = said_words(said, here)
    if after:
        at = place(after[0].words, here)
        return Offer(f"{what}, after {text_of(after[0].words)}", partial(_within, said, at, here),
                     shown(said, here))  # fmt: skip
    return Offer(what, partial(put, said, here), shown(said, here))


def _not_put_in(said: Said, words: Words, here: Here) -> Offer | None:
    """A clasp closes and what only hangs is hung, unless one stands where that ends a run: the line
    takes them so, a script says it."""
    owner = here.spot and here.piece.owner(here.spot.owner)
    if owner is None and here.piece.sort in ("earring", "pendant"):
        return None
    if isinstance(owner, Run) and (owner.kind in ENDS_FREE or owner.lies == "fold"):
        return None
    thing = here.things.get(ref_of(said[-1].item))
    if isinstance(thing, Clasp):
        here.add(f"say close {thing.name}", "since a clasp closes", words=words)
        return close_offer(words_of(f"close {text_of(words)}"), here)
    if isinstance(thing, Dangle | Tassel) and owner is not None:
        here.add(f"say drop {text_of(words)}", "since nothing follows it in a run", words=words)
        return drop_offer(words_of(f"drop {text_of(words)}"), here, "")
    return None


def _hangs(here: Here) -> bool:
    owner = here.spot and here.piece.owner(here.spot.owner)
    if owner is None:
        return here.piece.sort in ("earring", "pendant") and not here.piece.runs
    return isinstance(owner, Run) and (owner.kind == "drop" or owner.lies == "fold")


def _ends_free(here: Here) -> bool:
    """Whether what is put in ends what hangs."""
    spot = here.spot
    owner = here.piece.owner(spot.owner) if spot else None
    if owner is None:
        return here.piece.sort in ("earring", "pendant") and not here.piece.runs
    if isinstance(owner, Run) and owner.kind not in ENDS_FREE and owner.lies != "fold":
        return False
    return bool(spot and spot.path) and spot.path[-1] == len(owner.own_items) - 1  # type: ignore[union-attr]


def string_offer(words: Words, here: Here) -> Offer:
    """“string … on …, ends …” at the cursor."""
    head, joins = joined(words, ("on", "ends"))
    return _strung(read_strung(head, joins, here), here)


def _strung(read: Threaded, here: Here) -> Offer:
    items = strung_items(read, here)  # what cannot be is said now
    first = next((one for one in read.ones if isinstance(one, str)), read.thread.id)
    thing = here.things.get(first, read.thread)

    def do() -> Edited:
        said = tuple(SaidItem(item) for item in items)
        return put(said, here, more=read.units, even=is_even(items))

    return Offer(strung_words(read, here), do, thing)


def put(said: Said, here: Here, *, more: Sequence[object] = (), even: bool = True) -> Edited:
    """Things behind what is at the cursor; the cursor goes to the last of them. What they carry
    hangs from them."""
    piece = here.with_all(here.piece, items_of(said), *more)  # type: ignore[arg-type]
    for _, carried in hung_from(said):
        piece = here.with_all(piece, items_of(carried))
    spot = here.spot
    if spot is None or (not piece.runs and not piece.rows):
        edited, owner, number = begun(said, piece, here, even=even)
    else:
        edited = insert_after(piece, spot, *items_of(said))
        assert edited.spot is not None
        owner, number = edited.spot.owner, _first_number(edited)
        last = edited.spot.path[-1] + len(said) - 1
        edited = replace(edited, spot=Spot(owner, (*edited.spot.path[:-1], last)))
    for at, carried in hung_from(said, number):
        host = edited.piece.run(owner)
        lies: Lies = host.lies if host is not None and host.lies != "across" else "paired"
        lies = "fold" if at == 0 and lies == "paired" else lies
        start = Place(run=owner, item=at, at=0 if at == 0 else 1)
        hung = Run(name="Drop", kind="drop", lies=lies, start=start,
                   items=items_of(hanging_items(carried, here)))  # fmt: skip
        edited = replace(add_owner(edited.piece, hung), spot=edited.spot, words=edited.words)
    return edited


def _first_number(edited: Edited) -> int:
    assert edited.spot is not None
    return first_number(edited.piece, edited.spot)


def begun(
    said: Said, piece: Piece, here: Here, *, even: bool = True, strand: bool = False
) -> tuple[Edited, str, int]:
    """The first run of a piece, its name, and the number of its first thing; a `strand` lies across
    the fold whatever the piece."""
    first = said[0].item
    thing = here.things.get(first.part) if isinstance(first, PartItem) else None
    if isinstance(thing, EarFinding) and piece.sort != "earring":
        piece = replace(piece, sort="earring", form=Form(kind="ear"), pair=True)
    if piece.sort in ("earring", "pendant") and not strand:
        kind = "Earring" if piece.sort == "earring" else "Pendant"
        run = Run(name=kind, lies="fold", items=items_of(hanging_items(said, here)))
        number = 1
    elif not piece.mirrored:
        run, number = Run(name="Strand", lies="free", items=items_of(said)), 1
    elif half := None if even else mirrored_half(items_of(said)):
        run, number = Run(name="Strand", centre=half[0], items=half[1:]), 0
    elif not even:
        raise DomainError(
            "what is strung reads otherwise from its other end, and the piece is mirrored: say the "
            "half from the middle outward “and back”, or begin it free"
        )
    else:
        centre, rest = _on_fold(said, here)
        run, number = Run(name="Strand", centre=centre, items=rest), 0
    edited = add_owner(piece, run)
    owner = edited.piece.owners[-1] if not piece.rows else edited.piece.runs[-1]
    last = (len(run.items) - 1,) if run.items else None
    spot = Spot(owner.name, last) if last else first_spot(owner)
    words = f"{owner.name}: {said_words(said, here)} put in"
    return Edited(edited.piece, words, spot), owner.name, number


def _on_fold(said: Said, here: Here) -> tuple[Item, tuple[Item, ...]]:
    """What lies on the fold, and what follows. Of a repeat the first thing within lies there."""
    first, rest = said[0].item, items_of(said[1:])
    if isinstance(first, RepeatItem):
        inner, *more = first.items
        left = first.times - 1
        if len(first.items) == 1 and not isinstance(inner, RepeatItem):
            if first.times % 2 == 0:
                raise Misread(
                    f"{first.times} in a row across the fold leave none to lie on it: say an odd "
                    "number, begin with what joins them, or begin free"
                )
            left //= 2
            more = []
        if isinstance(inner, RepeatItem):
            raise Misread("a repeat within a repeat cannot lie on the fold: say what lies there "
                          "first")  # fmt: skip
        again = (RepeatItem(times=left, items=first.items),) if left > 1 else first.items * left
        return inner, (*more, *again, *rest)
    wanted = said[0].wanted_mm
    chain = here.things.get(first.part) if isinstance(first, ChainItem) else None
    if wanted is not None and isinstance(chain, Chain):
        first = ChainItem(part=chain.id, links=links_near(chain, wanted, odd=True))
    return first, rest


def _within(said: Said, at: At, here: Here) -> Edited:
    """Things put in behind a link, or behind what stands somewhere."""
    spot = spot_of_place(here.piece, at)
    piece = here.piece
    if isinstance(at.item, ChainItem):
        last = at.item.links // 2 if at.place.item == 0 else at.item.links
        if at.place.at < last:
            piece = split(piece, spot, at.place.at).piece
    moved = Here(piece, here.tray, spot, unit=here.unit, script=here.script)
    return put(said, moved)


def spot_of_place(piece: Piece, at: At) -> Spot:
    """The spot of what stands at a place. Raises DomainError for what a rule makes."""
    owner = piece.owner(at.place.run)
    spot = spot_in(owner, at.place.item) if owner is not None else None
    if spot is None or spot.path == WHOLE:
        raise DomainError(f"“{at.place.run}” is made by its rule: nothing is put in there")
    return spot


def at_offer(words: Words, here: Here) -> Offer:
    """“at 2nd ring”: go there."""
    at = place(words, here)
    spot = spot_of_place(here.piece, at)
    where = f"{at.place.run}, {text_of(words)}"
    return Offer(f"Go to {where}", lambda: Edited(here.piece, f"at {where}", spot))


def strand_offer(words: Words, here: Here, called: str) -> Offer:
    """“strand 45 cm cable at 1st ring”, “strand 22 pale on cable, ends crimp, at middle of three”,
    “3 strands 45 / 50 / 55 cm cable”."""
    count = words[0].whole if words and words[0].sort == "number" and words[1:] and (
        words[1].low == "strands") else None  # fmt: skip
    words = words[2:] if count else words[1:]
    if not words:
        raise Misread("say of what, such as: strand 45 cm cable at 1st ring")
    head, joins = joined(words, ("on", "ends", "at", "from", "to"))
    each: list[tuple[Said, Threaded | None]] = []
    if any(segment.join.low == "on" for segment in joins):
        read = read_strung(head, joins, here)
        items = tuple(SaidItem(item) for item in strung_items(read, here))
        each = [(items, read)] * (count or 1)
    elif any(segment.join.low == "ends" for segment in joins):
        ends = next(segment for segment in joins if segment.join.low == "ends")
        cord = cord_of((*head, ends.join, *ends.words), here)
        if cord is None:
            raise unknown(head, "is no cord: say on what it is strung")
        each = [(tuple(SaidItem(item) for item in strung_items(cord, here)), cord)]
    else:
        each = [(said, None) for said in _turns(head, here)]
        if count and len(each) == 1:
            each *= count
    if count and len(each) != count:
        raise unknown(words, f"says {len(each)} strands, not {count}")
    ends_at = _strand_ends(joins, here)
    each_words = (strung_words(r, here) if r else said_words(said, here) for said, r in each)
    what = " · ".join(dict.fromkeys(each_words))
    name = f"{len(each)} strands" if len(each) > 1 else called or "Strand"
    return Offer(f"{name}: {what}", partial(_strands, each, ends_at, here, called),
                 shown(each[0][0], here))  # fmt: skip


def _turns(words: Words, here: Here) -> list[Said]:
    """“45 / 50 / 55 cm cable”: strands of different lengths, each across the fold."""
    parts = at_signs(words, "/")
    mirrored = here.piece.mirrored
    if len(parts) < 2:
        here.odd_next = mirrored
        return [sequence(words, here)]
    unit = re.sub(r"^[\d\s.,/½¼¾⅛⅜⅝⅞]+", "", parts[-1][0].text)
    found = []
    for part in parts:
        if len(part) == 1 and part[0].amount is not None:
            figure = words_of(f"{part[0].text} {unit}")[0] if not is_length(part[0]) else part[0]
            at = part[0]
            part = (figure._replace(start=at.start, end=at.end), *parts[-1][1:])
        here.odd_next = mirrored
        found.append(sequence(part, here))
    return found


def _strand_ends(joins: Sequence[Segment], here: Here) -> tuple[At, At] | None:
    """Where a strand begins and ends: both at one place, from one to another; None unsaid."""
    said = {segment.join.low: segment for segment in joins}
    for name in ("at", "from", "to"):
        if sum(segment.join.low == name for segment in joins) > 1:
            raise unknown([joins[-1].join], "is said twice")
    if "at" in said and "from" not in said:
        at = place(said["at"].words, here)
        return at, at
    if "from" in said and "to" in said:
        return place(said["from"].words, here), place(said["to"].words, here)
    if "from" in said or "to" in said:
        raise unknown([said.get("from", said.get("to")).join], "needs both: from comb to comb")  # type: ignore[union-attr]
    return None


def _strands(
    each: list[tuple[Said, Threaded | None]], ends: tuple[At, At] | None, here: Here, called: str
) -> Edited:
    piece, spot, words = here.piece, here.spot, []
    for said, read in each:
        piece = here.with_all(piece, items_of(said), *(read.units if read else ()))
        if not any(run.kind == "strand" for run in piece.runs) and not piece.rows:
            if ends is not None:
                raise DomainError("there is no strand yet whose places it could end at")
            alike = read is None or is_even(items_of(said))
            edited, name, _ = begun(said, piece, here, even=alike, strand=True)
            piece, spot = edited.piece, edited.spot
            words.append(name)
            continue
        run = _strand(said, ends or _unsaid(piece), called, piece, here, read)
        edited = add_owner(piece, run)
        piece, words = edited.piece, [*words, edited.piece.runs[-1].name]
        own = edited.piece.runs[-1]
        spot = Spot(own.name, (len(own.items) - 1,)) if own.items else first_spot(own)
    return Edited(piece, f"{', '.join(words)} added", spot)


def _unsaid(piece: Piece) -> tuple[At, At]:
    """The last ring of the first strand; with none, the end of it."""
    first = next(one.run for one in written_out(piece) if one.run.kind in ("strand", "tie"))
    rings = [(k, item) for k, item in standing(first) if isinstance(item, RingItem) and k]
    if not rings:
        raise DomainError(f"“{first.name}” has no ring to end at: say at which place, such as at "
                          "1st ring")  # fmt: skip
    number, item = rings[-1]
    lies: Lies = "paired" if first.lies == "across" else first.lies
    at = At(Place(run=first.name, item=number, at=item.count), lies, item)
    return at, at


def _strand(
    said: Said, ends: tuple[At, At], called: str, piece: Piece, here: Here, read: Threaded | None
) -> Run:
    start, end = ends
    name = called or _next_strand(piece)
    same = start.place == end.place
    even = read is None or is_even(items_of(said))
    if same and even and start.lies in ("paired", "fold"):
        centre, rest = _on_fold(said, here)
        return Run(name=name, centre=centre, items=rest, end=end.place)
    first, last = start.place, end.place
    if same and start.lies == "paired":
        first, last = replace(first, side="left"), replace(last, side="right")
    return Run(name=name, lies="free", items=items_of(said), start=first, end=last)


def _next_strand(piece: Piece) -> str:
    count = sum(1 for run in piece.runs if run.kind == "strand") + (1 if piece.rows else 0)
    return f"Strand {max(count, 1) + 1}" if count else "Strand"


def can_stand(thing: Thing) -> bool:
    """Whether a thing can be put into a run by itself."""
    return any(is_of(thing, kind) for kind in ALONG) and not isinstance(thing, Clasp)
