"""Every kind of wish, in the order in which they are solved: where things stand first, then plain
lengths, then what is read off the hang. A wish is read and written here as well.
"""

from typing import Any

from msgspec.structs import replace

from maglia.core.fit import (
    clearance,
    flat,
    hem,
    length,
    match,
    nested,
    pattern,
    placement,
    rings,
    sag,
    tiers,
)
from maglia.core.fit.said import taken_apart
from maglia.core.fit.wish import Wish
from maglia.core.piece.piece import Piece
from maglia.core.piece.wishes import Fit
from maglia.core.values.measures import LengthUnit
from maglia.core.values.record import DomainError

WISHES: tuple[Wish[Any], ...] = (
    placement.WISH,
    pattern.WISH,
    rings.WISH,
    flat.WISH,
    length.WISH,
    tiers.WISH,
    nested.WISH,
    hem.WISH,
    sag.WISH,
    clearance.WISH,
    match.WISH,
)
FORMS = tuple(form for wish in WISHES for form in wish.forms)
"""Every form of a wish, and what it does."""
_BY_RECORD = {wish.record: wish for wish in WISHES}
_ASKED_BY = {word: wish for wish in WISHES for word in wish.begins}
_KNOWN = {"within", *_ASKED_BY, *(word for wish in WISHES for word in wish.accepts)}


def wish_of(fit: Fit) -> Wish[Any]:
    return _BY_RECORD[type(fit)]


def order_of(fit: Fit) -> int:
    return WISHES.index(wish_of(fit))


def words(fit: Fit, shown: LengthUnit = "mm") -> str:
    """The wish in a few words, lengths in the display unit."""
    return wish_of(fit).words(fit, shown)


def is_wish(text: str) -> bool:
    """Whether a text begins like a wish."""
    first = text.strip().lower().split(maxsplit=1)
    return bool(first) and first[0] in _ASKED_BY


def read_fit(text: str, piece: Piece, unit: LengthUnit = "mm") -> Fit:
    """The fit that a wish in words asks for: the one whose word comes first. Raises DomainError
    naming what is missing or was not understood."""
    if not any(word in _ASKED_BY for word in text.lower().replace(",", " ").split()):
        forms = "; ".join(form for form, _ in FORMS)
        raise DomainError(f"“{text.strip()}” is no wish known here. Write one of: {forms}")
    said = taken_apart(text, piece, unit, _ASKED_BY, _KNOWN)
    asked = next((_ASKED_BY[word] for word in said.words if word in _ASKED_BY), None)
    if asked is None:
        raise DomainError(f"“{text.strip()}” was not understood: begin with what you want")
    made: Fit = asked.read(said)
    within = said.after("within")
    if within and within[0] <= 0:
        raise DomainError(f"“{said.text}”: within what? Write a length above zero")
    return replace(made, tolerance_mm=within[0]) if within else made


def written(fit: Fit) -> str:
    """A fit as `read_fit` reads it, mm: what is put into the line to be changed."""
    within = f" within {fit.tolerance_mm:.12g} mm" if fit.tolerance_mm is not None else ""
    return wish_of(fit).written(fit) + within


def with_fit(piece: Piece, fit: Fit) -> Piece:
    """The piece with a fit added, or in the place of the one of its name or of the same kind about
    the same."""
    about = wish_of(fit).about

    def same(own: Fit) -> bool:
        return own.name == fit.name or (type(own) is type(fit) and about(own) == about(fit))

    at = next((k for k, own in enumerate(piece.fits) if same(own)), len(piece.fits))
    after = tuple(own for own in piece.fits[at + 1 :] if own.name != fit.name)
    return replace(piece, fits=(*piece.fits[:at], fit, *after))
