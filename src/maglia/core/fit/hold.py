"""What becomes of fits when the maker changes by hand what they set: the hand wins.

A count that a fit had set is pinned; a row whose places, links or rings a fit had set keeps them,
and the fit is locked. Nothing is lost: the residual goes on being shown.
"""

from msgspec.structs import replace

from maglia.core.edits.spots import Spot, item_of, quantity_at
from maglia.core.fit.solve import fitted_counts
from maglia.core.piece.items import ChainItem, Item
from maglia.core.piece.piece import DropRow, Owner, Piece, TiedRows
from maglia.core.piece.wishes import Fit, FlatFit, HemFit, PlacesFit
from maglia.core.values.record import DomainError


def held(before: Piece, after: Piece, spot: Spot | None) -> Piece:
    """The edited piece with whatever the edit took from a fit pinned or locked."""
    if not before.fits or before.fits != after.fits:
        return after
    set_by = fitted_counts(before)
    if spot is not None and spot.path and quantity_at(spot) in set_by:
        quantity = quantity_at(spot)
        one, other = _item(before, spot), _item(after, spot)
        if one is not None and other is not None and one != other:
            if quantity not in after.pinned:
                after = replace(after, pinned=(*after.pinned, quantity))
            return after
    touched = {fit.name for fit in before.fits if _row_touched(fit, before, after)}
    if not touched:
        return after
    fits = tuple(replace(f, locked=True) if f.name in touched else f for f in after.fits)
    return replace(after, fits=fits)


def _item(piece: Piece, spot: Spot) -> Item | None:
    try:
        return item_of(piece, spot)
    except DomainError:
        return None


def _row_touched(fit: Fit, before: Piece, after: Piece) -> bool:
    """Whether an edit changed what a fit sets in a row."""
    if fit.locked or not isinstance(fit, PlacesFit | HemFit | FlatFit):
        return False
    one, other = before.owner(fit.row), after.owner(fit.row)
    return one is not None and other is not None and _set_of(fit, one) != _set_of(fit, other)


def _set_of(fit: Fit, row: Owner) -> object:
    if isinstance(fit, PlacesFit) and isinstance(row, DropRow):
        return row.rule, row.every, row.count, row.places
    if isinstance(fit, HemFit) and isinstance(row, DropRow):
        return row.steps, tuple(i.links for i in row.items if isinstance(i, ChainItem))
    if isinstance(fit, FlatFit) and isinstance(row, TiedRows):
        return row.between, row.hang
    return None


def toggled_pin(piece: Piece, spot: Spot) -> Piece:
    """The count at a spot pinned, so that no fit changes it, or free again."""
    quantity = quantity_at(spot)
    if quantity in piece.pinned:
        return replace(piece, pinned=tuple(q for q in piece.pinned if q != quantity))
    return replace(piece, pinned=(*piece.pinned, quantity))


def toggled_lock(piece: Piece, name: str) -> Piece:
    """A fit locked, or solved again from now on."""
    fits = tuple(replace(f, locked=not f.locked) if f.name == name else f for f in piece.fits)
    return replace(piece, fits=fits)


def without_fit(piece: Piece, name: str) -> Piece:
    return replace(piece, fits=tuple(f for f in piece.fits if f.name != name))
