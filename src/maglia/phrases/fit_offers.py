"""Fits in the insert line: a wish written out becomes an offer; its first letters, the forms."""

from maglia.core.edits.spots import Edited, Spot
from maglia.core.fit.wishes import FORMS, is_wish, read_fit, with_fit, words
from maglia.core.piece.piece import Piece
from maglia.core.values.measures import LengthUnit
from maglia.core.values.record import DomainError, Value


class WishOffer(Value, frozen=True):
    """A line of the list. Without an edit it is a form to be filled in: `fill` goes to the line."""

    words: str
    hint: str
    edited: Edited | None = None
    fill: str = ""


def wish_offers(text: str, piece: Piece, spot: Spot | None, unit: LengthUnit) -> list[WishOffer]:
    """What a text asks for as a fit, first; then every form that begins like it."""
    found = []
    if is_wish(text):
        try:
            fit = read_fit(text, piece, unit)
            said = words(fit, unit)
            edited = Edited(with_fit(piece, fit), f"fit {said}", spot)
            found.append(WishOffer(f"Fit: {said}", "solved at once", edited))
        except DomainError as fault:
            found.append(WishOffer(f"Fit: {fault}", "", fill=text))
    first = text.strip().lower().split(maxsplit=1)
    begun = first[0] if first else ""
    if len(begun) >= 2 or begun == "":
        found += [
            WishOffer(f"Fit: {form}", what, fill=form)
            for form, what in FORMS
            if begun and form.startswith(begun) and text.strip().lower() in form.lower()
        ]
    return found
