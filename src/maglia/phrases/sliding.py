"""What slides between two stops: “slide ring 6, leaf from bead 9 to bead 12”, “slide key on
ribbon”.
"""

from functools import partial

from msgspec.structs import replace

from maglia.core.assembly.ports import RIDES
from maglia.core.edits.edit import add_owner, with_thing
from maglia.core.edits.spots import Edited, Spot, item_of, spot_in
from maglia.core.parts.parts import Chain, Ring
from maglia.core.parts.units import Things
from maglia.core.piece.items import ChainItem, RingItem, StrungItem
from maglia.core.piece.piece import Lies, Piece, Place, Run
from maglia.core.piece.strung import cord_mm, is_bare
from maglia.core.values.record import DomainError
from maglia.phrases.here import Here, Offer, staying
from maglia.phrases.items import (
    ALONG,
    HANGING,
    Said,
    hanging_items,
    items_of,
    said_words,
    sequence,
    shown,
)
from maglia.phrases.names import means
from maglia.phrases.places import At, at_cursor, place
from maglia.phrases.stands import runs_of, split_of, standing
from maglia.phrases.words import (
    Misread,
    Segment,
    Words,
    joined,
    once,
    text_of,
    unknown,
)

LEFT, RIGHT = "left", "right"


def slide_offer(words: Words, here: Here, called: str) -> Offer:
    """“slide ring 6, leaf from bead 9 to bead 12”, “slide key on ribbon”: rides between stops."""
    head, joins = joined(words[1:], ("from", "to", "on"))
    said = once(joins)
    items = hanging_items(sequence(head, here, ALONG, HANGING), here)
    what = said_words(items, here)
    if ("from" in said) != ("to" in said):
        raise Misread("say between which stops: slide ring 6, leaf from bead 9 to bead 12")
    if "from" in said:
        ends = place(said["from"].words, here), place(said["to"].words, here)
        if (ends[0].place.run, ends[0].place.item) != (ends[1].place.run, ends[1].place.item):
            raise unknown(said["to"].words, "is a stop on something else: it slides on one thing")
        at = At(replace(ends[0].place, until=ends[1].place.at, port=RIDES, side=None),
                _slid_lies(ends), ends[0].item)  # fmt: skip
        where = f"from {text_of(said['from'].words)} to {text_of(said['to'].words)}"
    else:
        at, where = _rides_on(said.get("on"), here)
    return Offer(f"Slide {where}: {what}", partial(_slid, items, at, here, called),
                 shown(items, here))  # fmt: skip


def _slid_lies(ends: tuple[At, At]) -> Lies:
    """On the fold from one on the left to one on the right; named on one side, there alone."""
    start, end = ends[0].place, ends[1].place
    if {start.side, end.side} == {LEFT, RIGHT}:
        return "fold"
    if start.side is not None and start.side == end.side:
        raise DomainError("what slides on one side alone cannot be held: let it slide on both")
    return "fold" if start.item == 0 else ends[0].lies


def _rides_on(on: Segment | None, here: Here) -> tuple[At, str]:
    if on is None:
        at = at_cursor(here)
        if not isinstance(at.item, StrungItem | ChainItem):
            return _on_the_one(at, here)
        central = at.place.item == 0
        held = Place(run=at.place.run, item=at.place.item, at=0 if central else 1, port=RIDES)
        return At(held, "fold" if central else at.lies, at.item), "at the cursor"
    name, of = split_of(on.words)
    for run in runs_of(of, here):
        for number, item in standing(run):
            if not isinstance(item, StrungItem | ChainItem):
                continue
            thing = here.things.get(item.thread if isinstance(item, StrungItem) else item.part)
            if thing is not None and means(name, thing):
                held = Place(run=run.name, item=number, at=0 if number == 0 else 1, port=RIDES)
                return At(held, "fold" if number == 0 else run.lies, item), f"on {thing.name}"
    raise unknown(on.words, "is no chain or thread of this piece")


def _on_the_one(at: At, here: Here) -> tuple[At, str]:
    """On the thread or chain of the run, if it has but one: nothing slides along a ring."""
    run = here.piece.run(at.place.run)
    long = [(number, item) for number, item in (standing(run) if run else ())
            if isinstance(item, StrungItem | ChainItem)]  # fmt: skip
    if run is None or len(long) != 1:
        raise Misread("say on what it slides, such as: slide ring 7, medal on ribbon")
    ((number, item),) = long
    ref = item.thread if isinstance(item, StrungItem) else item.part
    held = Place(run=run.name, item=number, at=0 if number == 0 else 1, port=RIDES)
    return At(held, "fold" if number == 0 else run.lies, item), f"on {here.things[ref].name}"


def _slid(said: Said, at: At, here: Here, called: str) -> Edited:
    piece, items = here.piece, items_of(said)
    owner = piece.owner(at.place.run)
    spot = spot_in(owner, at.place.item) if owner else None
    if spot is None:
        raise DomainError(f"“{at.place.run}” is made by its rule: nothing slides there")
    added = ""
    if not isinstance(items[0], RingItem):
        ring = sliding_ring(here.things, wide_at(piece, spot, here.things))
        if here.script:
            raise Misread("say on which ring it slides, such as: slide ring 6, leaf")
        piece, items = with_thing(piece, ring), (RingItem(part=ring.id), *items)
        added = f" with {ring.name}, the smallest that slides there"
    piece = here.with_all(piece, items)
    lies = "paired" if at.lies == "across" else at.lies
    run = Run(name=called or "Slide", kind="drop", lies=lies, items=items, start=at.place)
    edited = add_owner(piece, run)
    return staying(Edited(edited.piece, edited.words + added, here.spot), here.spot)


def wide_at(piece: Piece, spot: Spot, things: Things) -> float:
    """How wide what lies at a spot is across its line, mm. Raises DomainError for what nothing can
    slide on."""
    host = item_of(piece, spot) if spot.path else None
    if isinstance(host, ChainItem):
        chain = things.get(host.part)
        if isinstance(chain, Chain) and chain.inner_width_mm and chain.wire_mm:
            return chain.inner_width_mm + 2 * chain.wire_mm
        raise DomainError("how wide the chain is is not known: say its inside and its wire")
    if isinstance(host, StrungItem):
        widths = [getattr(things.get(ref), "width_mm", None) or 0.0 for ref in host.refs]
        cord = cord_mm(host, things)[1] if is_bare(host) else 0.0
        return max([cord, *widths])
    raise DomainError("it slides on a chain or a strung section: put the cursor on one")


def sliding_ring(things: Things, wide: float) -> Ring:
    """The smallest ring that slides over what is so wide, mm."""
    rings = [
        ring
        for ring in things.values()
        if isinstance(ring, Ring) and ring.wire_mm and (ring.inner_mm or 0.0) > wide + 0.3
        and ring.closure in ("open", "split", "closed")
    ]  # fmt: skip
    if not rings:
        raise DomainError(f"no ring in the tray slides over {wide:.1f} mm: add a larger one")
    return min(rings, key=lambda ring: (ring.inner_mm or 0.0, ring.closure == "closed"))
