"""One phrase, one edit: what a text means at a place, whole or not at all.

The first word decides: a verb or a wish, else things to put in. Every form is one entry of a table.
Where words fit several things alike each reading is an offer of its own; what is not understood is
one offer that says which word, and does nothing.
"""

import re
from collections.abc import Callable

from msgspec.structs import replace

from maglia.core.values.record import DomainError
from maglia.phrases import (
    about,
    beginning,
    between,
    changes,
    closing,
    hanging,
    parts,
    put_in,
    sliding,
    tied,
    weaving,
    wishes,
)
from maglia.phrases.here import Here, Offer, refused
from maglia.phrases.names import Ambiguous
from maglia.phrases.words import Misread, Words, words_of


class Phrase:
    """A text with its words and the name it gives."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.body, self.called = parts.called_of(text)
        self.words: Words = words_of(self.body)

    @property
    def first(self) -> str:
        return self.words[0].low if self.words and self.words[0].sort == "word" else ""


Form = Callable[[Phrase, Here], Offer]
MOST_CHOICES = 12
MOST_LENGTH = 4_000


def _named(read: Callable[[Words, Here, str], Offer]) -> Form:
    """A form that may give a run or row a name, which must be its own."""

    def form(phrase: Phrase, here: Here) -> Offer:
        low = phrase.called.lower()
        if low and any(owner.name.lower() == low for owner in here.piece.owners):
            at = len(phrase.text) - len(phrase.called)
            raise Misread(f"“{phrase.called}” is the name of another run: give it one of its own",
                          at, len(phrase.text))  # fmt: skip
        return read(phrase.words, here, phrase.called)

    return form


def _plain(read: Callable[[Words, Here], Offer]) -> Form:
    """A form that gives none."""

    def form(phrase: Phrase, here: Here) -> Offer:
        if phrase.called:
            at = len(phrase.body)
            raise Misread(f"“called {phrase.called}” names nothing here", at, len(phrase.text))
        return read(phrase.words, here)

    return form


def _whole(read: Callable[[str, Words, Here], Offer]) -> Form:
    """A form that takes the text as it stands."""
    return lambda phrase, here: read(phrase.text, words_of(phrase.text), here)


def _rest(read: Callable[[Words, Here], Offer]) -> Form:
    """A form that is read without its first word."""
    return _plain(lambda words, here: read(words[1:], here))


VERBS: dict[str, Form] = {
    "put": _rest(put_in.things_offer),
    "string": _rest(put_in.string_offer),
    "weave": _rest(weaving.weave_offer),
    "swatch": _plain(weaving.swatch_offer),
    "strand": _named(put_in.strand_offer),
    "at": _rest(put_in.at_offer),
    "drop": _named(hanging.drop_offer),
    "drops": _named(hanging.drop_offer),
    "swag": _named(between.swag_offer),
    "swags": _named(between.swag_offer),
    "tie": _named(between.swag_offer),
    "extender": _named(between.extender_offer),
    "slide": _named(sliding.slide_offer),
    "rows": _named(tied.rows_offer),
    "triangle": _named(tied.rows_offer),
    "band": _named(tied.rows_offer),
    "begin": lambda phrase, here: beginning.begin_offer(phrase.words, here, phrase.called),
    "hang": _plain(about.hang_offer),
    "note": _whole(about.note_offer),
    "accept": _whole(about.accept_offer),
    "for": _plain(beginning.for_offer),
    "close": _plain(closing.close_offer),
    "leave": _plain(closing.leave_offer),
    "way": _whole(closing.way_offer),
    "replace": _named(changes.replace_offer),
    "rename": _whole(changes.rename_offer),
    "take": _plain(changes.take_out_offer),
    "make": _plain(changes.make_offer),
    "free": _plain(changes.free_offer),
    "mirror": _plain(changes.free_offer),
    "split": _plain(changes.split_offer),
    "turn": _plain(changes.turn_offer),
    "wind": _plain(changes.wind_offer),
}
"""Every form that begins with a verb. `new` and wishes have their own readers."""
COUNTED: dict[str, Form] = {
    "drops": _named(hanging.drop_offer), "drop": _named(hanging.drop_offer),
    "strands": _named(put_in.strand_offer), "turns": _plain(closing.turns_offer),
    "turn": _plain(closing.turns_offer),
}  # fmt: skip
"""Forms whose verb a count stands before."""


def phrase_offers(text: str, here: Here) -> list[Offer]:
    """What a text means here, best first. Never raises DomainError: what is not understood is an
    offer that says so."""
    try:
        return _read(text, here)
    except RecursionError:
        return [refused("brackets within brackets too deep to be read: say it in several")]
    except Ambiguous as fault:
        return _choices(text, here, fault)
    except Misread as fault:
        return [refused(fault)]
    except DomainError as fault:
        return [refused(located(fault, text))]


def located(fault: DomainError, text: str) -> Misread:
    """A fault with the place of the word that it quotes, if that stands in the text."""
    quoted = re.search(r"“([^”]+)”", str(fault))
    at = text.lower().find(quoted[1].lower()) if quoted else -1
    found = (at, at + len(quoted[1])) if quoted and at >= 0 else (0, 0)
    return Misread(str(fault), *found)


def only_offer(text: str, here: Here) -> Offer:
    """The one thing a text means. Raises DomainError naming the word."""
    found = _read(text, here)
    if len(found) > 1:
        raise Misread(f"it may mean {' or '.join(offer.words for offer in found[:3])}: say which")
    return found[0]


def _read(text: str, here: Here) -> list[Offer]:
    if len(text) > MOST_LENGTH:
        raise Misread(f"more than {MOST_LENGTH:,} letters in one phrase: say it in several")
    if half := re.search("[\ud800-\udfff]", text):
        raise Misread("half a character was said: write that word anew", half.start(), half.end())
    text = text.strip()
    phrase = Phrase(text)
    if not phrase.words:
        raise Misread("nothing is said: write what is put in, such as 21 rolo")
    if phrase.first == "new":
        return parts.new_offers(text, phrase.words, here, phrase.called)
    if wishes.is_a_wish(phrase.words, here):
        return [wishes.wish_offer(text, here)]
    offer = _form(phrase)(phrase, here)
    return [replace(offer, added="; ".join(here.added), looked=tuple(here.names.looked))]


def _form(phrase: Phrase) -> Form:
    words = phrase.words
    if phrase.first in VERBS:
        return VERBS[phrase.first]
    if len(words) > 1 and words[0].sort == "number" and words[1].low in COUNTED:
        return COUNTED[words[1].low]
    return _plain(put_in.things_offer)


def _choices(text: str, here: Here, fault: Ambiguous) -> list[Offer]:
    """Each thing that words may mean, as a reading of its own."""
    found: list[Offer] = []
    for thing in fault.things[:MOST_CHOICES]:
        for offer in phrase_offers(text, here.choosing({fault.start: thing.id})):
            if len(found) < MOST_CHOICES:
                found.append(replace(offer, choice=True))
    return found or [refused(fault)]
