"""What the insert line makes of a text: several phrases parted by `;`, each an edit of its own, the
last one with every reading; and the whole names that its words may become.
"""

import re

from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import Edited
from maglia.core.values.record import DomainError, Value
from maglia.phrases.here import Here, Offer, refused
from maglia.phrases.names import said
from maglia.phrases.phrase import phrase_offers
from maglia.phrases.script import phrases_in, with_kept
from maglia.phrases.wishes import wish_forms

MOST_NAMES = 12


class Understood(Value, frozen=True):
    """The readings of a line, best first; what stands before its last phrase is done before; `at`
    is where the last phrase begins in the text."""

    offers: tuple[Offer, ...]
    before: tuple[Offer, ...] = ()
    at: int = 0


def understood(text: str, here: Here) -> Understood:
    """What a line means at a place. Never raises DomainError."""
    phrases = phrases_in(text)
    if not phrases:
        return Understood(())
    before: list[Offer] = []
    at = 0
    for phrase in phrases[:-1]:
        offers = phrase_offers(phrase, here)
        begun = text.index(phrase, at)
        if offers[0].fault is not None or offers[0].choice:
            return Understood(tuple(_shifted(offers, begun)), tuple(before), begun)
        try:
            edited = offers[0].do()
            expand(edited.piece)
        except DomainError as fault:
            return Understood((refused(fault),), tuple(before), begun)
        before.append(offers[0])
        here = _after(here, edited, offers[0])
        at = begun + len(phrase)
    last = phrases[-1]
    begun = text.index(last, at)
    offers = phrase_offers(last, here)
    offers += _others(last, here, offers)
    return Understood(tuple(_shifted(offers, begun)), tuple(before), begun)


def _after(here: Here, edited: Edited, offer: Offer) -> Here:
    """The place after an edit."""
    return Here(edited.piece, with_kept(here.tray, offer.keeps), edited.spot, unit=here.unit)


def _shifted(offers: list[Offer], by: int) -> list[Offer]:
    """Faults and names where they stand in the whole line."""
    return [replace(
        offer,
        fault=None if offer.fault is None else (offer.fault[0] + by, offer.fault[1] + by),
        looked=tuple(replace(name, start=name.start + by, end=name.end + by)
                     for name in offer.looked),
    ) for offer in offers]  # fmt: skip


KEEPS_LENGTHS = re.compile(r"replace\b(?!.*\bkeeping\b)", re.IGNORECASE)
"""What may be read in another way, too: with counts kept."""


def _others(text: str, here: Here, offers: list[Offer]) -> list[Offer]:
    """The same phrase with what else its last name may mean."""
    if not offers or offers[0].fault is not None or not offers[0].looked:
        return []
    if KEEPS_LENGTHS.match(text):
        return [one for one in phrase_offers(f"{text} keeping counts", here) if one.fault is None]
    last = max(offers[0].looked, key=lambda name: name.start)
    shown = {offer.thing.id for offer in offers if offer.thing is not None}
    shown |= {last.things[0].id}
    found: list[Offer] = []
    most = max(MOST_NAMES // len(offers[0].looked), 2)  # of a long phrase few: each is read anew
    for thing in [one for one in last.things if one.id not in shown][:most]:
        other = here.choosing({last.start: thing.id})
        offer = phrase_offers(text, other)[0]
        if offer.fault is None:
            found.append(offer)
    return found


def completed(text: str, offer: Offer) -> str:
    """The text with its last name written whole."""
    if not offer.looked:
        return text
    last = max(offer.looked, key=lambda name: name.start)
    thing = offer.thing if offer.thing in last.things else last.things[0]
    assert thing is not None
    return f"{text[: last.start]}{said(thing.name)}{text[last.end :]}"


def forms_of(text: str) -> list[Offer]:
    """Forms of wishes that begin like a text."""
    return wish_forms(text)
