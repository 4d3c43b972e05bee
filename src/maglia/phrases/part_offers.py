"""Offers of the insert line for what is new on the bench: a part or a wearer, in one phrase."""

from msgspec.structs import replace

from maglia.core.edits.edit import with_thing
from maglia.core.edits.spots import Edited, Spot
from maglia.core.parts.parts import Bead, Clasp, End, Part, Pin, Wire
from maglia.core.parts.units import Things
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.phrases.offers import Offer, as_item, known_things, put_in
from maglia.phrases.part_phrases import HINT, Unsaid, is_part_phrase, read_part, read_wearer

NOT_ALONE = (Bead, Pin, Wire, End, Clasp)
"""What stands in a unit, on a thread or at the closure: it is kept, and not put into a run."""


def part_offers(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """The part or wearer as far as it is written; empty if the text begins none."""
    try:
        wearer = read_wearer(text)
    except DomainError as fault:
        return [refused(str(fault))]
    if wearer is not None:
        words = f"{piece.name}: for {wearer.role}"

        def dressed() -> Edited:
            return Edited(replace(piece, wearer=wearer), words, spot)

        return [Offer(f"Keep and dress: {wearer.role}", None, None, dressed, keeps=wearer)]
    if not is_part_phrase(text):
        return []
    try:
        return [_part_offer(read_part(text), piece, tray, spot)]
    except Unsaid:
        return _both_ways(text, piece, tray, spot)
    except DomainError as fault:
        return [refused(str(fault))]


def _both_ways(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """A ring that does not say how it is measured: inside first, then outside if that can be."""
    offers = []
    for measured, words in (("inner", "inside"), ("outer", "outside")):
        try:
            offer = _part_offer(read_part(text, measured), piece, tray, spot)
        except DomainError:
            continue
        offers.append(replace(offer, words=f"{offer.words}, measured {words}"))
    return offers


def _part_offer(part: Part, piece: Piece, tray: Tray, spot: Spot | None) -> Offer:
    things = known_things(piece, tray)
    if part.id in things and things[part.id] != part:
        part = replace(part, id=_free_id(part.id, things))
    alone = as_item(part, None) is not None and not isinstance(part, NOT_ALONE)
    words = f"Keep and put in: {part.name}" if alone else f"Keep: {part.name}"

    def made() -> Edited:
        item = as_item(part, None)
        if alone and item is not None:
            return put_in(part, item, piece, {**things, part.id: part}, spot)
        return Edited(with_thing(piece, part), f"{part.name} kept", spot)

    return Offer(words, _first_size_mm(part), part, made, keeps=part)


def refused(words: str) -> Offer:
    def refuse() -> Edited:
        raise DomainError(words)

    return Offer(words, None, None, refuse, HINT)


def _free_id(wanted: str, taken: Things) -> str:
    return next(f"{wanted}-{k}" for k in range(2, len(taken) + 3) if f"{wanted}-{k}" not in taken)


def _first_size_mm(part: Part) -> float | None:
    names = ("inner_mm", "length_mm", "wire_mm", "adds_mm", "height_mm", "below_mm", "width_mm")
    sizes = (getattr(part, name, None) for name in names)
    return next((size for size in sizes if size is not None), None)
