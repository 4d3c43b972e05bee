"""Several fits on one piece, solved together: where things stand first, then plain lengths, then
what is read off the hang, until nothing changes any more. Conflicts are named, not overruled.
"""

from collections.abc import Iterator
from typing import Any

from msgspec.structs import replace

from maglia.core.edit import owner_of
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
from maglia.core.fit.found import Answer, Fitted, Residual, Solution, Standing
from maglia.core.fit.look import Look, Trials
from maglia.core.measures import LengthUnit
from maglia.core.piece import Piece
from maglia.core.record import DomainError, Value
from maglia.core.wishes import Fit, LengthFit, MatchFit, PlacesFit, SagFit

WISHES: dict[str, Any] = {
    "places": placement,
    "pattern": pattern,
    "rings": rings,
    "flat": flat,
    "length": length,
    "tiers": tiers,
    "nested": nested,
    "hem": hem,
    "sag": sag,
    "clearance": clearance,
    "match": match,
}
"""Modules by the kind of wish, in the order in which they are solved."""
HANGS = ("tiers", "nested", "hem", "clearance", "flat")
MOST_ROUNDS = 4


class Solved(Value, frozen=True):
    """The piece with every fit solved, and what each fit says."""

    piece: Piece
    fitted: tuple[Fitted, ...]


def words(fit: Fit, shown: LengthUnit = "mm") -> str:
    """The wish in a few words, lengths in the display unit."""
    return str(WISHES[fit.kind].words(fit, shown))


def needs_hang(fit: Fit) -> bool:
    """Whether the wish is read off the hang."""
    return (
        fit.kind in HANGS
        or (isinstance(fit, LengthFit) and fit.to == "fall")
        or (isinstance(fit, SagFit) and fit.slack is None)
        or (isinstance(fit, MatchFit) and fit.how == "level")
        or (isinstance(fit, PlacesFit) and fit.rule == "worn")
    )


def measured(fit: Fit, look: Look) -> tuple[Residual, ...]:
    """How far off a piece is. Raises DomainError if that cannot be said."""
    found: tuple[Residual, ...] = WISHES[fit.kind].measured(fit, look)
    return found


def standing(look: Look) -> tuple[Standing, ...]:
    """What every fit of a piece as it stands leaves over, nothing solved."""
    clashes = conflicts(look.piece)
    found = []
    for fit in look.piece.fits:
        residuals: tuple[Residual, ...] = ()
        why = clashes.get(fit.name, "")
        try:
            residuals = measured(fit, look)
        except DomainError as fault:
            why = why or str(fault)
        found.append(Standing(fit, residuals, why))
    return tuple(found)


def solve(piece: Piece, trials: Trials | None = None) -> Solved:
    """Solve every fit of a piece that is not locked. What cannot be had keeps its nearest."""
    trials = trials or Trials()
    order = sorted(piece.fits, key=lambda fit: list(WISHES).index(fit.kind))
    clashes = conflicts(piece)
    found: dict[str, Solution | str] = {}
    for _ in range(MOST_ROUNDS):
        before = piece
        for fit in order:
            if fit.locked or fit.name in clashes:
                continue
            found[fit.name] = said = _solved(fit, piece, trials)
            if isinstance(said, Solution):
                piece = said.piece
        if piece == before or len(order) == 1:
            break
    return Solved(
        piece,
        tuple(
            _fitted(fit, piece, found.get(fit.name), clashes.get(fit.name, ""), trials)
            for fit in piece.fits
        ),
    )


def _solved(fit: Fit, piece: Piece, trials: Trials) -> Solution | str:
    """The solution, or why there is none."""
    try:
        found: Solution = WISHES[fit.kind].solved(fit, piece, trials)
        trials.built(found.piece)
    except DomainError as fault:
        return str(fault)
    return found


def conflicts(piece: Piece) -> dict[str, str]:
    """Fits that would turn what an earlier one turns already, with the reason in words."""
    taken: dict[str, str] = {}
    found: dict[str, str] = {}
    for fit in piece.fits:
        if fit.locked:
            continue
        try:
            targets = WISHES[fit.kind].targets(fit, piece)
        except DomainError:
            continue
        clash = next((t for t in sorted(targets) if t in taken), None)
        if clash is not None:
            found[fit.name] = (
                f"“{taken[clash]}” already sets {clash}; lock one of the two, or let this one "
                "change something else"
            )
            continue
        taken |= dict.fromkeys(targets, fit.name)
    return found


def _fitted(
    fit: Fit, piece: Piece, said: Solution | str | None, clash: str, trials: Trials
) -> Fitted:
    hindrance = clash
    below = above = None
    others: tuple[Answer, ...] = ()
    if isinstance(said, str):
        hindrance = said
    elif said is not None:
        hindrance = said.hindrance
        below, above = (_answer(fit, piece, p, trials) for p in (said.below, said.above))
        found = (_answer(fit, piece, p, trials) for p in said.others)
        others = tuple(answer for answer in found if answer is not None)
    best = _answer(fit, piece, piece, trials)
    if best is None:
        best = Answer(piece, (), ())
        hindrance = hindrance or _why_not(fit, piece, trials)
    return Fitted(fit, best, below, above, others, hindrance)


def _why_not(fit: Fit, piece: Piece, trials: Trials) -> str:
    try:
        measured(fit, look_for(fit, piece, trials))
    except DomainError as fault:
        return str(fault)
    return ""


def look_for(fit: Fit, piece: Piece, trials: Trials) -> Look:
    return trials.hung(piece) if needs_hang(fit) else trials.built(piece)


def _answer(fit: Fit, now: Piece, other: Piece | None, trials: Trials) -> Answer | None:
    if other is None:
        return None
    try:
        residuals = measured(fit, look_for(fit, other, trials))
    except DomainError:
        return None
    return Answer(other, differences(now, other), residuals)


def differences(one: Piece, other: Piece) -> tuple[str, ...]:
    """What a fit changed, in words: “Tier 2: 113 → 115 links”."""
    found = []
    made = {unit.id: unit for unit in other.units}
    for unit in one.units:
        old, new = getattr(unit, "links", None), getattr(made.get(unit.id), "links", None)
        if old != new:
            found.append(f"{unit.name}: {old} → {new} links")
    for owner in (*one.runs, *one.rows):
        try:
            changed = owner_of(other, owner.name)
        except DomainError:
            continue
        if changed != owner:
            found += list(_counts(owner, changed)) or [f"{owner.name}: changed"]
    return tuple(found)


def _counts(before: Any, after: Any) -> Iterator[str]:
    """Counts of a run or row that differ, item by item."""
    centre = getattr(before, "centre", None), getattr(after, "centre", None)
    items = [centre, *zip(_items(before), _items(after), strict=False)]
    for one, other in items:
        for field in ("links", "count", "times"):
            old, new = getattr(one, field, None), getattr(other, field, None)
            if old != new and old is not None and new is not None:
                yield f"{before.name}: {old} → {new} {'rings' if field == 'count' else field}"
    for field, what in (("steps", "steps"), ("places", "places"), ("count", "drops"),
                        ("rule", "rule"), ("between", "rings between"), ("hang", "rings down"),
                        ("overrides", "overruled")):  # fmt: skip
        old, new = getattr(before, field, None), getattr(after, field, None)
        if old != new and new is not None:
            shown = f": {_listed(new)}" if field != "overrides" else ""
            yield f"{before.name}: {what}{shown}"


def _listed(value: Any) -> str:
    return ", ".join(map(str, value)) if isinstance(value, tuple) else str(value)


def _items(owner: Any) -> tuple[Any, ...]:
    return tuple(getattr(owner, "items", ()) or getattr(owner, "sides", ()))


def with_fit(piece: Piece, fit: Fit) -> Piece:
    """The piece with a fit added, or taking the place of the one of its name."""
    if any(own.name == fit.name for own in piece.fits):
        return replace(piece, fits=tuple(fit if f.name == fit.name else f for f in piece.fits))
    return replace(piece, fits=(*piece.fits, fit))


def fitted_counts(piece: Piece) -> dict[str, str]:
    """Every count that a live fit sets, as “run, item 2”, with the fit's name."""
    found: dict[str, str] = {}
    for fit in piece.fits:
        try:
            found |= dict.fromkeys(WISHES[fit.kind].targets(fit, piece), fit.name)
        except DomainError:
            continue
    return found
