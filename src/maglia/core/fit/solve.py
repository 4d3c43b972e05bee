"""Several fits on one piece, solved together: where things stand first, then plain lengths, then
what is read off the hang, until nothing changes any more. Conflicts are named, not overruled.
"""

from collections.abc import Iterator

from maglia.core.assembly.kinds import count_of, kind_of
from maglia.core.fit.found import Answer, Fitted, Residual, Solution, Standing
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.wish import Target, target_words
from maglia.core.fit.wishes import order_of, wish_of
from maglia.core.parts.units import Cluster
from maglia.core.piece.items import Item, StrungItem
from maglia.core.piece.piece import DropRow, Owner, Piece, SwagRow, TiedRows
from maglia.core.piece.wishes import Fit
from maglia.core.values.record import DomainError, Value

MOST_ROUNDS = 4
"""Fits that go on changing each other's ground after so many rounds keep their nearest."""


class Solved(Value, frozen=True):
    """The piece with every fit solved, and what each fit says."""

    piece: Piece
    fitted: tuple[Fitted, ...]


def measured(fit: Fit, look: Look) -> tuple[Residual, ...]:
    """How far off a piece is. Raises DomainError if that cannot be said."""
    return wish_of(fit).measured(fit, look)


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
    order = sorted(piece.fits, key=order_of)
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
        found = wish_of(fit).solved(fit, piece, trials)
        trials.built(found.piece)
    except DomainError as fault:
        return str(fault)
    return found


def conflicts(piece: Piece) -> dict[str, str]:
    """Fits that would turn what an earlier one turns already, with the reason in words."""
    taken: dict[Target, str] = {}
    found: dict[str, str] = {}
    for fit in piece.fits:
        if fit.locked:
            continue
        try:
            targets = wish_of(fit).targets(fit, piece)
        except DomainError:
            continue
        clash = min((t for t in targets if t in taken), key=target_words, default=None)
        if clash is not None:
            found[fit.name] = (
                f"“{taken[clash]}” already sets {target_words(clash)}; lock one of the "
                "two, or let this one change something else"
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
    return trials.hung(piece) if wish_of(fit).hangs(fit) else trials.built(piece)


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
        now = made.get(unit.id)
        if isinstance(unit, Cluster) and isinstance(now, Cluster) and unit.links != now.links:
            found.append(f"{unit.name}: {unit.links} → {now.links} links")
    for owner in one.owners:
        changed = other.owner(owner.name)
        if changed is not None and changed != owner:
            found += [*_counts(owner, changed), *_rules(owner, changed)] or [
                f"{owner.name}: changed"
            ]
    return tuple(found)


def _counts(before: Owner, after: Owner) -> Iterator[str]:
    """Counts of a run or row that differ, item by item."""
    pairs: list[tuple[Item | None, Item | None]] = [(before.on_fold, after.on_fold)]
    pairs += zip(before.own_items, after.own_items, strict=False)
    for old, new in pairs:
        if old is None or new is None or type(old) is not type(new):
            continue
        counted = kind_of(old).counted
        if counted and count_of(old) != count_of(new):
            yield f"{before.name}: {count_of(old)} → {count_of(new)} {counted.words}"
        if isinstance(old, StrungItem) and isinstance(new, StrungItem) and old.off != new.off:
            yield f"{before.name}: {old.off} → {new.off} beads off at each end"
        elif (
            isinstance(old, StrungItem)
            and isinstance(new, StrungItem)
            and old.times == new.times
            and len(old.refs) != len(new.refs)
        ):
            yield f"{before.name}: {len(old.refs)} → {len(new.refs)} beads"


def _rules(before: Owner, after: Owner) -> Iterator[str]:
    """What differs in the rule of a row."""
    for (what, old, _), (_, new, shown) in zip(_rule_of(before), _rule_of(after), strict=False):
        if old != new:
            yield f"{before.name}: {what}" + (f": {shown}" if shown else "")


def _rule_of(owner: Owner) -> tuple[tuple[str, object, str], ...]:
    """What a row's rule sets: its words, its value, and how that is shown."""
    if isinstance(owner, DropRow):
        return (
            ("steps", owner.steps, _listed(owner.steps)),
            ("places", owner.places, _listed(owner.places)),
            ("drops", owner.count, str(owner.count)),
            ("rule", owner.rule, owner.rule),
            ("overruled", owner.overrides, ""),
        )
    if isinstance(owner, SwagRow):
        return (("overruled", owner.overrides, ""),)
    if isinstance(owner, TiedRows):
        return (
            ("rings between", owner.between, _listed(owner.between)),
            ("rings down", owner.hang, _listed(owner.hang)),
        )
    return ()


def _listed(values: tuple[int, ...]) -> str:
    return ", ".join(map(str, values))


def fitted_counts(piece: Piece) -> dict[Target, str]:
    """Every count that a live fit sets, with the fit's name."""
    found: dict[Target, str] = {}
    for fit in piece.fits:
        try:
            found |= dict.fromkeys(wish_of(fit).targets(fit, piece), fit.name)
        except DomainError:
            continue
    return found
