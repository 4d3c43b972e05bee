"""Offers of the insert line for what is new on the bench: a part or a wearer, in one phrase."""

from msgspec.structs import replace

from maglia.core.edits.edit import with_thing
from maglia.core.edits.spots import Edited, Spot
from maglia.core.parts.parts import Bead, Clasp, End, Part, Pin, Wire
from maglia.core.parts.sizes import described, missing
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.phrases.offers import Offer, as_item, free_id, known_things, put_in
from maglia.phrases.part_phrases import HINT, Said, Unsaid, is_part_phrase, read_parts
from maglia.phrases.wearer_phrases import read_wearer

NOT_ALONE = (Bead, Pin, Wire, End, Clasp)
"""What stands in a unit, on a thread or at the closure: it is kept, and not put into a run."""


def part_offers(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """The parts or the wearer as far as they are written; empty if the text begins none."""
    try:
        wearer = read_wearer(text)
    except DomainError as fault:
        return [refused(str(fault))]
    if wearer is not None:
        words = f"{piece.name}: for {wearer.role}"

        def dressed() -> Edited:
            return Edited(replace(piece, wearer=wearer), words, spot)

        return [Offer(f"Keep and dress: {wearer.role}", None, None, dressed, keeps=(wearer,))]
    if not is_part_phrase(text):
        return []
    try:
        return _offers(read_parts(text), piece, tray, spot)
    except Unsaid:
        return _both_ways(text, piece, tray, spot)
    except DomainError as fault:
        return [refused(str(fault))]


def _both_ways(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """A ring that does not say how it is measured: inside first, then outside if that can be."""
    offers = []
    for measured, words in (("inner", "inside"), ("outer", "outside")):
        try:
            offer = _offers(read_parts(text, measured), piece, tray, spot)[0]
        except DomainError:
            continue
        offers.append(replace(offer, words=f"{offer.words}, measured {words}"))
    return offers


def _offers(said: tuple[Said, ...], piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """What keeps all of them; of several, each is drawn below."""
    things = known_things(piece, tray)
    named: list[Said] = []
    for part, deeds in said:
        if part.id in things and things[part.id] != part:
            part = replace(part, id=free_id(part.id, things))
        things = {**things, part.id: part}
        named.append(Said(part, deeds))
    parts = tuple(one.part for one in named)
    first = parts[0]
    item = as_item(first, None) if len(parts) == 1 else None
    alone = item is not None and not isinstance(first, NOT_ALONE)
    names = ", ".join(part.name for part in parts)
    lies = tuple((one.part, deed) for one in named for deed in one.deeds)

    def made() -> Edited:
        if alone and item is not None:
            return put_in(first, item, piece, things, spot)
        changed = piece
        for part in parts:
            changed = with_thing(changed, part)
        return Edited(changed, f"{names} kept", spot)

    words = f"Keep and put in: {names}" if alone else f"Keep: {names}"
    words += f"    {described(first)}" if len(parts) == 1 else ""
    unknown = ", ".join(dict.fromkeys(size.words for part in parts for size in missing(part)))
    words += f"    {unknown} not known yet" if unknown else ""
    size = _first_size_mm(first) if len(parts) == 1 else None
    whole = Offer(words, size, first, made, keeps=parts, lies=lies)
    if len(parts) == 1:
        return [whole]
    each = [
        Offer(f"{part.name}    {described(part)}", None, part, made, keeps=parts, lies=lies)
        for part in parts
    ]
    return [replace(whole, thing=None), *each]


def refused(words: str) -> Offer:
    def refuse() -> Edited:
        raise DomainError(words)

    return Offer(words, None, None, refuse, HINT)


def _first_size_mm(part: Part) -> float | None:
    names = ("inner_mm", "length_mm", "wire_mm", "adds_mm", "height_mm", "below_mm", "width_mm")
    sizes = (getattr(part, name, None) for name in names)
    return next((size for size in sizes if size is not None), None)
