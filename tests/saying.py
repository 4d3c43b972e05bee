"""What tests say phrases with."""

import re
from collections.abc import Mapping

from maglia.core.edits.spots import Edited, Spot
from maglia.core.parts.units import Thing, Unit
from maglia.core.piece.piece import Piece
from maglia.core.workshop.tray import Tray
from maglia.phrases.here import Here, Offer
from maglia.phrases.phrase import phrase_offers


def plain(ident: str) -> str:
    """An id without what tells it from that of another part of the same name."""
    return re.sub(r"-[0-9a-f]{6}$", "", ident)


def offers(
    text: str, piece: Piece, tray: Tray, spot: Spot | None = None, mark: int = 0
) -> list[Offer]:
    """Every reading of a phrase."""
    return phrase_offers(text, Here(piece, tray, spot, mark))


def said(text: str, piece: Piece, tray: Tray, spot: Spot | None = None, mark: int = 0) -> Edited:
    """What the first reading of a phrase does."""
    return offers(text, piece, tray, spot, mark)[0].do()


def unit_said(text: str, things: Mapping[str, Thing]) -> Unit:
    """The unit that `new …` makes of some things."""
    held = Piece(
        parts=tuple(t for t in things.values() if not isinstance(t, Unit)),
        units=tuple(t for t in things.values() if isinstance(t, Unit)),
    )
    offer = offers(f"new {text}", held, Tray())[0]
    offer.do()
    assert isinstance(offer.thing, Unit)
    return offer.thing
