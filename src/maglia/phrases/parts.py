"""What is new on the bench in one phrase: parts, units, a wearer. Kept; Enter again puts it in."""

import re
from collections.abc import Sequence

from msgspec.structs import replace

from maglia.core.edits.edit import with_thing
from maglia.core.edits.spots import Edited
from maglia.core.parts.parts import Part
from maglia.core.parts.sizes import described, missing
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    Thing,
    Unit,
    tassel_span_mm,
    unit_span_mm,
)
from maglia.core.piece.needed import made_of
from maglia.core.values.record import DomainError
from maglia.phrases.here import Here, Offer, own_id, refused
from maglia.phrases.part_phrases import HINT, Said, Unsaid, is_part_phrase, read_parts
from maglia.phrases.units import read_units, unit_kind
from maglia.phrases.wearer_phrases import read_wearer
from maglia.phrases.words import Misread, Words

UNIT_FORMS = ("new link cap + 2 amber + cap on wire 0.8, loops 2.5 wrapped 2",
              "new dangle teal on head pin, loop 2")  # fmt: skip


def new_offers(text: str, words: Words, here: Here, called: str) -> list[Offer]:
    """What a phrase beginning with `new` keeps; several where it can be read in two ways. Raises
    DomainError naming the word."""
    if len(words) < 2:
        raise Misread(f"say what is new: {HINT}", words[0].start, words[0].end)
    wearer = read_wearer(text)
    if wearer is not None:
        changed = replace(here.piece, wearer=wearer)
        words_of = f"Keep and dress: {wearer.role}"

        def dressed() -> Edited:
            return Edited(changed, f"{here.piece.name}: for {wearer.role}", here.spot)

        return [Offer(words_of, dressed, keeps=(wearer,))]
    if unit_kind(words) is not None:
        return [_units_offer(read_units(words, here, called), here)]
    if not is_part_phrase(text):
        raise Misread(f"“{words[1].text}” is no kind of part: {HINT}", words[1].start, words[1].end)
    try:
        return [_parts_offer(read_parts(text), here)]
    except Unsaid as unsaid:
        if here.script:
            raise
        return _both_ways(text, here) or [refused(unsaid, HINT)]


def _both_ways(text: str, here: Here) -> list[Offer]:
    """A ring that does not say how it is measured: inside first, then outside if that can be."""
    offers = []
    for measured, words in (("inner", "inside"), ("outer", "outside")):
        try:
            offer = _parts_offer(read_parts(text, measured), here)
        except DomainError:
            continue
        offers.append(replace(offer, words=f"{offer.words}, measured {words}"))
    return offers


def _kept(here: Here, things: Sequence[Thing], words: str) -> Edited:
    piece = here.piece
    for thing in things:
        piece = with_thing(piece, thing)
    return Edited(piece, words, here.spot)


def _units_offer(units: tuple[Unit, ...], here: Here) -> Offer:
    known = {**here.things, **{unit.id: unit for unit in units}}
    needed = made_of([unit.id for unit in units], known)
    held = {thing.id for thing in (*here.tray.parts, *here.tray.units)}
    keeps = tuple(thing for thing in needed if thing.id not in held)
    names = ", ".join(unit.name for unit in units)
    return Offer(f"Keep: {names}", lambda: _kept(here, needed, f"{names} kept"), units[0],
                 _span_mm(units[0], known) if len(units) == 1 else None, keeps=keeps)  # fmt: skip


def _span_mm(unit: Unit, things: dict[str, Thing]) -> float | None:
    if isinstance(unit, Cluster):
        return None
    if isinstance(unit, BeadLink | Dangle):
        return unit_span_mm(unit, things)
    return tassel_span_mm(unit, things)


def _parts_offer(said: tuple[Said, ...], here: Here) -> Offer:
    """What keeps all of them."""
    things = dict(here.things)
    named: list[Said] = []
    for part, deeds in said:
        part = replace(part, id=own_id(part))
        things[part.id] = part
        named.append(Said(part, deeds))
    parts: tuple[Part, ...] = tuple(one.part for one in named)
    names = ", ".join(part.name for part in parts)
    words = f"Keep: {names}"
    words += f"    {described(parts[0])}" if len(parts) == 1 else ""
    unknown = ", ".join(dict.fromkeys(size.words for part in parts for size in missing(part)))
    words += f"    {unknown} not known yet" if unknown else ""
    lies = tuple((one.part, deed) for one in named for deed in one.deeds)
    size = _first_size_mm(parts[0]) if len(parts) == 1 else None
    return Offer(words, lambda: _kept(here, parts, f"{names} kept"), parts[0], size, keeps=parts,
                 lies=lies)  # fmt: skip


def _first_size_mm(part: Part) -> float | None:
    names = ("inner_mm", "length_mm", "wire_mm", "adds_mm", "height_mm", "below_mm", "width_mm")
    sizes = (getattr(part, name, None) for name in names)
    return next((size for size in sizes if size is not None), None)


CALLED = re.compile(r"[,\s]\s*called\s+(.+?)\s*$", re.IGNORECASE)


def called_of(text: str) -> tuple[str, str]:
    """A text without `called X` at its end, and the name."""
    found = CALLED.search(text)
    if found is None:
        return text, ""
    name = found[1].strip().strip('“”"').strip()
    if not name:
        raise Misread("say what it is called", found.start(), found.end())
    if len(name) > 120:
        raise Misread("a name of more than 120 characters: write it shorter", *found.span(1))
    return text[: found.start()], name
