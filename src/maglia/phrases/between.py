"""What runs from place to place: “swag 24 rolo from 1st ring to 2nd ring”, “swags 24 rolo between
links 4 10 16”, “tie 9 rolo from link 6 to mid of rose link”; extenders, from the catch.
"""

from functools import partial
from itertools import pairwise

from msgspec.structs import replace

from maglia.core.assembly.places import CLOSURE
from maglia.core.edits.edit import add_owner, links_near
from maglia.core.edits.rearrange import turned
from maglia.core.edits.spots import Edited
from maglia.core.parts.parts import Chain, chain_length_mm
from maglia.core.piece.items import ChainItem, RingItem
from maglia.core.piece.piece import Place, Run, SwagRow
from maglia.core.values.record import DomainError
from maglia.phrases.here import Here, Offer, staying
from maglia.phrases.items import (
    ALONG,
    HANGING,
    Said,
    SaidItem,
    hanging_items,
    items_of,
    said_words,
    sequence,
    shown,
)
from maglia.phrases.places import At, on_one_chain, place, places
from maglia.phrases.stands import runs_near, standing
from maglia.phrases.words import (
    Misread,
    Words,
    joined,
    once,
    text_of,
    unknown,
)

LEFT, RIGHT = "left", "right"


def swag_offer(words: Words, here: Here, called: str) -> Offer:
    """“swag 24 rolo from 1st ring to 2nd ring”, “swags … between links 4 10 16”, “swags … from 1st
    ring to 4th ring”, “tie 9 rolo from link 6 to mid of rose link”."""
    verb = words[0].low
    head, joins = joined(words[1:], ("from", "to", "between"))
    said = once(joins)
    items = sequence(head, here)
    what = said_words(items, here)
    thing = shown(items, here)
    if "between" in said:
        at = places(said["between"].words, here)
        items = _long_enough(items, at, here)
        what = said_words(items, here)
        if len(at) < 2 or not on_one_chain(at) or verb == "tie":
            raise unknown(
                said["between"].words, "are no two links of one chain: between links 4 10"
            )
        return Offer(f"Swags between {text_of(said['between'].words)}: {what}",
                     partial(_swags_between, items, at, here, called), thing)  # fmt: skip
    if "from" not in said or "to" not in said:
        raise Misread(f"say from where to where: {verb} 24 rolo from 1st ring to 2nd ring")
    ends = place(said["from"].words, here), place(said["to"].words, here)
    where = f"from {text_of(said['from'].words)} to {text_of(said['to'].words)}"
    label = {"tie": "Tie"}.get(verb, "Swag")
    if verb == "swags":
        stops = _each_between(*ends, here)
        return Offer(f"{len(stops) - 1} swags {where}: {what}",
                     partial(_swags, items, stops, here, called), thing)  # fmt: skip
    do = partial(_between, items, ends, "tie" if verb == "tie" else "swag", here, called)
    return Offer(f"{label} {where}: {what}", do, thing)


def _long_enough(said: Said, at: tuple[At, ...], here: Here) -> Said:
    """Of chain that says no number as many links as hang a quarter deeper than what they run
    beside."""
    item = said[0].item
    host = at[0].item
    if not here.usual_links or len(said) > 1 or not isinstance(item, ChainItem):
        return said
    chain, beside = here.things.get(item.part), here.things.get(getattr(host, "part", ""))
    if not isinstance(chain, Chain) or not isinstance(beside, Chain) or len(at) < 2:
        return said
    span = chain_length_mm(beside, at[1].place.at - at[0].place.at) or 0.0
    links = links_near(chain, 1.25 * span)
    here.added[-1] = f"{links} links, a quarter longer than what it runs beside"
    return (SaidItem(replace(item, links=links)),)


def _swags_between(said: Said, at: tuple[At, ...], here: Here, called: str) -> Edited:
    piece = here.with_all(here.piece, items_of(said))
    host = at[0].place
    row = SwagRow(name=called or "Swags", run=host.run, item=host.item,
                  places=tuple(one.place.at for one in at), items=items_of(said))  # fmt: skip
    return staying(add_owner(piece, row), here.spot)


def _each_between(start: At, end: At, here: Here) -> list[At]:
    """Rings of one run from one to another, each a stop."""
    if start.place.run != end.place.run or not isinstance(start.item, RingItem):
        raise Misread("several swags go from ring to ring of one run: from 1st ring to 4th ring; "
                      "on chain say between links 4 10 16")  # fmt: skip
    run = next(run for run in runs_near(here) if run.name == start.place.run)
    ends = sorted((start.place.item, end.place.item))
    stops = [
        At(Place(run=run.name, item=number, at=0 if number == 0 else 1),
           "fold" if number == 0 else start.lies if start.lies != "fold" else end.lies, item)
        for number, item in standing(run)
        if isinstance(item, RingItem) and ends[0] <= number <= ends[1]
    ]  # fmt: skip
    if len(stops) < 2:
        raise Misread("between one ring and itself hangs no swag")
    return stops


def _swags(said: Said, stops: list[At], here: Here, called: str) -> Edited:
    piece = here.with_all(here.piece, items_of(said))
    for one, other in pairwise(stops):
        run = _from_to(said, (one, other), "swag", called or "Swag")
        piece = add_owner(piece, run).piece
    return staying(Edited(piece, f"{len(stops) - 1} swags added", here.spot), here.spot)


def _between(said: Said, ends: tuple[At, At], kind: str, here: Here, called: str) -> Edited:
    piece = here.with_all(here.piece, items_of(said))
    run = _from_to(said, ends, kind, called or kind.capitalize())
    return staying(add_owner(piece, run), here.spot)


def _from_to(said: Said, ends: tuple[At, At], kind: str, name: str) -> Run:
    """A run between two places: paired off the fold; from a side to the other across it, mirrored
    if it is the same from either end."""
    start, end = ends[0].place, ends[1].place
    items = items_of(said)
    across = {start.side, end.side} == {LEFT, RIGHT}
    if across and start.side == RIGHT:
        start, end, items = end, start, tuple(turned(item) for item in reversed(items))
    if across and replace(start, side=None) == replace(end, side=None):
        if start.item == 0 and start.at == 0:
            raise DomainError("both ends lie on the fold: say one on the left and one on the right")
        half, odd = divmod(len(items), 2)
        outward = items[half + odd :]
        if odd and tuple(turned(item) for item in reversed(outward)) == items[:half]:
            return Run(name=name, kind=kind, centre=items[half], items=outward,  # type: ignore[arg-type]
                       end=replace(end, side=None))  # fmt: skip
    if across or "free" in (ends[0].lies, ends[1].lies):
        return Run(name=name, kind=kind, lies="free", items=items, start=start, end=end)  # type: ignore[arg-type]
    lies = "paired" if "paired" in (ends[0].lies, ends[1].lies) else ends[0].lies
    return Run(name=name, kind=kind, lies=lies, items=items, start=start, end=end)  # type: ignore[arg-type]


def extender_offer(words: Words, here: Here, called: str) -> Offer:
    """“extender ring 4, 12 rolo, teal dangle”: from the catch."""
    if len(words) < 2:
        raise Misread("say of what, such as: extender ring 4, 12 rolo, teal dangle")
    said = hanging_items(sequence(words[1:], here, ALONG, HANGING), here)

    def do() -> Edited:
        piece = here.with_all(here.piece, items_of(said))
        run = Run(name=called or "Extender", kind="extender", lies="free", items=items_of(said),
                  start=Place(run=CLOSURE))  # fmt: skip
        return staying(add_owner(piece, run), here.spot)

    return Offer(f"Extender from the catch: {said_words(said, here)}", do, shown(said, here))
