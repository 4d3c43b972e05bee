"""Wishes in the line: “length 450”, “hem of Fringe V 12 at 90”; “keep length” locks one, “forget
length” ends it.
"""

import re

from msgspec.structs import replace

from maglia.core.edits.spots import Edited
from maglia.core.fit.wishes import FORMS, is_wish, read_fit, wish_of, with_fit, words
from maglia.core.piece.wishes import Fit
from maglia.core.values.measures import amount_at
from maglia.phrases.here import Here, Offer
from maglia.phrases.words import Words, is_sign, unknown

KEEPS = ("keep", "forget")
GIRTH = re.compile(r"^length\s+(neck|wrist|ankle)\s*(?:([+-])\s*(.+))?$", re.IGNORECASE)
TIER = re.compile(r"^tier\s+(\d+)\s+at\s+(.+)$", re.IGNORECASE)
APART = re.compile(r"^tiers\s+(.+?)\s+apart$", re.IGNORECASE)


def is_a_wish(said: Words, here: Here) -> bool:
    """Whether words begin a wish: its word, and no comma after it."""
    if not said or said[0].sort != "word":
        return False
    low = said[0].low
    if low in KEEPS:
        return len(said) > 1
    if low == "tier" and len(said) > 1 and said[1].whole:
        return True
    return is_wish(low) and not (len(said) > 1 and is_sign(said[1], ","))


def wish_offer(text: str, here: Here) -> Offer:
    """The wish that a text asks for. Raises DomainError naming the word."""
    first = text.split(maxsplit=1)
    if first[0].lower() in KEEPS:
        return _kept(first[0].lower(), first[1] if len(first) > 1 else "", here)
    fit = read_fit(_spoken(text, here), here.piece, here.unit)
    said = words(fit, here.unit)
    changed = with_fit(here.piece, fit)
    return Offer(f"Fit: {said}", lambda: Edited(changed, f"fit {said}", here.spot),
                 hint="solved at once")  # fmt: skip


def _spoken(text: str, here: Here) -> str:
    """A wish as it is solved: a girth in the place of its word, a tier by its strand."""
    if girth := GIRTH.match(text):
        known = getattr(here.piece.wearer, f"{girth[1].lower()}_mm")
        if known is None:
            raise unknown((), f"the {girth[1].lower()} of {here.piece.wearer.role} is not known")
        more = amount_at(girth[3].strip()) if girth[3] else None
        if girth[3] and (more is None or more[1] < len(girth[3].strip())):
            raise unknown((), f"“{girth[3].strip()}” is no length")
        ease = more[0].mm(here.unit) if more else 0.0
        return f"length {known + (-ease if girth[2] == '-' else ease):.12g} mm"
    if tier := TIER.match(text):
        strands = [run.name for run in here.piece.runs if run.kind == "strand"]
        if not 1 <= int(tier[1]) <= len(strands):
            raise unknown((), f"there are {len(strands)} strands, and no tier {tier[1]}")
        return f"fall of {strands[int(tier[1]) - 1]} {tier[2]}"
    apart = APART.match(text)
    return f"tiers gaps {apart[1]}" if apart else text


def _kept(verb: str, name: str, here: Here) -> Offer:
    """Lock a wish as it is solved now, or end it."""
    low = name.strip().lower()
    found = [fit for fit in here.piece.fits if low and _is_called(fit, low)]
    if len(found) != 1:
        known = ", ".join(f"“{fit.name}”" for fit in here.piece.fits) or "none"
        raise unknown((), f"“{name}” names {'no wish' if not found else 'several wishes'} of this "
                      f"piece; there is {known}")  # fmt: skip
    own = found[0]
    if verb == "forget":
        left = tuple(fit for fit in here.piece.fits if fit is not own)
    else:
        left = tuple(replace(fit, locked=True) if fit is own else fit for fit in here.piece.fits)
    changed = replace(here.piece, fits=left)
    return Offer(f"{verb.capitalize()} {own.name}",
                 lambda: Edited(changed, f"{own.name}: {'kept' if verb == 'keep' else 'ended'}",
                                here.spot))  # fmt: skip


def _is_called(fit: Fit, low: str) -> bool:
    begins = getattr(wish_of(fit), "begins", ())
    return fit.name.lower().startswith(low) or low in begins


def wish_forms(text: str) -> list[Offer]:
    """Every form of a wish that begins like a text: to be filled in."""
    low = text.strip().lower()
    first = low.split(maxsplit=1)
    if not first or len(first[0]) < 2:
        return []

    def none() -> Edited:
        raise AssertionError("a form is filled in")

    return [Offer(f"Fit: {form}", none, hint=what, fill=form)
            for form, what in FORMS
            if form.startswith(first[0]) and low in form.lower()]  # fmt: skip
