"""Length to wearer: closed length from girth and ease, a given length, or a fall.

Both sides stay equal, since a run across the fold is written once. Bracelets are corrected for
their own thickness, wraps and coils by their turns; a piece without a clasp must pass head or hand.
"""

from collections.abc import Callable, Iterator
from contextlib import suppress

from maglia.core.edits.spots import first_number, spot_at
from maglia.core.fit.found import Bound, Residual, Solution
from maglia.core.fit.lever import CHANGED_FIRST, Lever, lever_of
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.reach import Aim, reached
from maglia.core.fit.said import Said
from maglia.core.fit.wish import Target, Wish
from maglia.core.piece.piece import Piece, TiedRows, Wearer
from maglia.core.piece.wishes import LengthFit, Quantity
from maglia.core.sheets.lengths import closed_length_mm, run_lengths
from maglia.core.sheets.wear import OnBody, on_body, stretch_limit
from maglia.core.values.measures import LengthUnit, plain_length
from maglia.core.values.record import DomainError
from maglia.core.values.references import named

CLOSED = "closed length"


def words(fit: LengthFit, shown: LengthUnit) -> str:
    what = f"“{fit.run}”" if fit.run else CLOSED
    if fit.to == "fall":
        return f"fall of {what} {plain_length(fit.mm or 0.0, shown)}"
    return (
        f"{what} to the wearer"
        if fit.to == "wearer"
        else f"{what} {plain_length(fit.mm or 0.0, shown)}"
    )


def measured(fit: LengthFit, look: Look) -> tuple[Residual, ...]:
    run = run_of(fit, look.piece)
    if fit.to == "fall":
        fall = look.readings.falls_mm.get(run)
        if fall is None:
            raise DomainError("the piece does not hang, so no fall can be read")
        return (Residual(f"fall of {run}", _mm(fit), fall, _allowed(fit, look.piece), run=run),)
    has, wished, at_least = _has_and_needs(fit, look, run)
    bound: Bound = "at least" if at_least else "equal"
    what = CLOSED if fit.run is None else f"length of {run}"
    allowed = 0.0 if at_least else _allowed(fit, look.piece)
    return (Residual(what, wished, has, allowed, bound, run=run),)


def solved(fit: LengthFit, piece: Piece, trials: Trials) -> Solution:
    run = run_of(fit, piece)
    lever = _lever(fit, piece)
    if fit.to == "fall":
        return reached(piece, [Aim(lever, lambda look: measured(fit, look)[0].off)], trials)
    best, length, count = lever.count, 0.0, lever.count
    for _ in range(3):  # what most of it is made of, and so its thickness, may change with it
        look = trials.built(lever.put(piece, count))
        has, wished, at_least = _has_and_needs(fit, look, run)
        gain = stretch_limit(look.assembly) if at_least and fit.to == "wearer" else 1.0
        length = lever.length_of(count) + (wished - has) / gain / lever.copies
        best = lever.nearest(length, at_least=at_least)
        if best == count or fit.to == "given":
            break
        count = best
    below, above = lever.allowed(best - lever.step), lever.allowed(best + lever.step)

    def put(count: int) -> Piece:
        return _with_tiers(fit, piece, lever, count)

    return Solution(
        piece=_gaps_kept(fit, piece, put(best), trials),
        below=put(below) if below != best else None,
        above=put(above),
        hindrance=_too_long(lever, length) or _not_past(fit, trials, put(best)),
    )


def _with_tiers(fit: LengthFit, piece: Piece, lever: Lever, count: int) -> Piece:
    """The piece with another count of its strand. Where no run is named the whole piece is meant:
    strands that hang from beyond what is changed become longer with it, so that the gaps stay."""
    changed = lever.put(piece, count)
    more = lever.copies * (lever.length_of(count) - lever.length_of(lever.count))
    for name in _tiers(fit, piece, lever):
        tier = lever_of(piece, name, (), CHANGED_FIRST)
        wanted = tier.length_of(tier.count) + more / tier.copies
        changed = tier.put(changed, tier.nearest(wanted))
    return changed


def _gaps_kept(fit: LengthFit, before: Piece, after: Piece, trials: Trials) -> Piece:
    """The tiers as far below the first one as they were, where the piece hangs so that it shows."""
    main, names = run_of(fit, before), list(_tiers(fit, before, _lever(fit, before)))
    if after == before or not names:
        return after
    try:
        was = trials.hung(before).readings.falls_mm
        aims = [_gap_aim(after, main, name, was[name] - was[main])
                for name in names if {name, main} <= was.keys()]  # fmt: skip
        return reached(after, aims, trials).piece if aims else after
    except DomainError:
        return after


def _gap_aim(piece: Piece, main: str, name: str, gap_mm: float) -> Aim:
    def off(look: Look) -> float:
        falls = look.readings.falls_mm
        return falls[name] - falls[main] - gap_mm

    return Aim(lever_of(piece, name, (), CHANGED_FIRST), off)


def _tiers(fit: LengthFit, piece: Piece, lever: Lever) -> Iterator[str]:
    """The strands that go with the piece: both their ends lie outward of what is changed of the
    main one, and no other wish sets them."""
    main = run_of(fit, piece)
    turned = lever.target
    if fit.run is not None or not isinstance(turned, Quantity):
        return
    item = first_number(piece, spot_at(piece, turned))
    for run in piece.runs:
        ends = [end for end in (run.start, run.end) if end is not None]
        beyond = ends and all(end.run == main and end.item > item for end in ends)
        if run.kind != "strand" or run.name == main or not beyond:
            continue
        if any(run.name in named(other, "run") for other in piece.fits if other is not fit):
            continue
        with suppress(DomainError):  # pinned, or of a length that is not known
            lever_of(piece, run.name, (), CHANGED_FIRST)
            yield run.name


def targets(fit: LengthFit, piece: Piece) -> frozenset[Target]:
    return frozenset({_lever(fit, piece).target})


def _lever(fit: LengthFit, piece: Piece) -> Lever:
    owner = _owner(piece, run_of(fit, piece))
    return lever_of(piece, owner, fit.changes, CHANGED_FIRST, single=True)


def run_of(fit: LengthFit, piece: Piece) -> str:
    """The run a fit is about: the one it names, else the strand that goes round the wearer."""
    if fit.run is not None:
        return fit.run
    main = next((r.name for r in piece.runs if r.kind == "strand" and r.start is None), None)
    tied = next((r.written_as for r in piece.rows if isinstance(r, TiedRows)), None)
    if main is None and tied is None:
        raise DomainError(f"fit “{fit.name}”: the piece has no strand yet")
    return main or str(tied)


def _owner(piece: Piece, run: str) -> str:
    """The run, or the tied rows whose top row it is."""
    return next((own.name for own in piece.owners if own.written_as == run), run)


def _mm(fit: LengthFit) -> float:
    if fit.mm is None:
        raise DomainError(f"fit “{fit.name}” does not say how long: give it a length")
    return fit.mm


def _allowed(fit: LengthFit, piece: Piece) -> float:
    if fit.tolerance_mm is not None:
        return fit.tolerance_mm
    try:
        lever = _lever(fit, piece)
    except DomainError:
        return 0.5
    return lever.step_mm / 2


def _has_and_needs(fit: LengthFit, look: Look, run: str) -> tuple[float, float, bool]:
    """Length there is, length wished, and whether more is no fault; mm."""
    assembly = look.assembly
    if fit.to == "given":
        length = closed_length_mm(assembly) if fit.run is None else None
        if length is None:
            length = next((r.length_mm for r in run_lengths(assembly) if r.name == run), None)
        if length is None:
            raise DomainError(f"the length of “{run}” is not known: give the sizes of its parts")
        return length, _mm(fit), False
    body = on_body(assembly) or _on_neck(fit, look)
    return body.has_mm, body.needed_mm, body.at_least


_GIRTHS: dict[str, Callable[[Wearer], float | None]] = {
    "neck": lambda w: w.neck_mm,
    "wrist": lambda w: w.wrist_mm,
    "ankle": lambda w: w.ankle_mm,
    "head": lambda w: w.head_mm,
    "hand": lambda w: w.hand_mm,
}


def _on_neck(fit: LengthFit, look: Look) -> OnBody:
    wearer, has = look.piece.wearer, closed_length_mm(look.assembly)
    girth = {"bracelet": "wrist", "anklet": "ankle"}.get(look.piece.sort, "neck")
    if look.piece.closure.kind == "over the head":
        girth = "head"
    elif look.piece.closure.kind in ("over the hand", "continuous") and girth == "wrist":
        girth = "hand"
    known = _GIRTHS[girth](wearer)
    if has is None and look.piece.closure.kind == "open":
        raise DomainError(f"fit “{fit.name}” waits: the piece is not closed yet; close it")
    if has is None or known is None:
        what = f"the {girth} girth of {wearer.role}" if has is not None else "its closed length"
        raise DomainError(f"fit “{fit.name}”: {what} is not known; give it first")
    return OnBody(has, known + wearer.ease_mm, f"{girth} girth and ease", at_least=False)


def _too_long(lever: Lever, length_mm: float) -> str:
    least = lever.length_of(lever.least)
    if length_mm >= least - lever.step_mm / 2 / lever.copies:
        return ""
    over = (least - length_mm) * lever.copies
    return f"what else is in it is too long: even with the least chain {over:.1f} mm are too many"


def _not_past(fit: LengthFit, trials: Trials, piece: Piece) -> str:
    """What a given length runs against: it must still pass head or hand."""
    if fit.to != "given":
        return ""
    body = on_body(trials.built(piece).assembly)
    if body is None or not body.at_least or body.spare_mm >= 0:
        return ""
    return f"{body.why}, which needs {body.needed_mm:.0f} mm: {-body.spare_mm:.1f} mm are missing"


def read_length(said: Said) -> LengthFit:
    run = said.names[0] if said.names else None
    if "fall" in said.words:
        name = f"fall of {run or 'the strand'}"
        return LengthFit(name=name, run=run, to="fall", mm=said.offset())
    name = f"length of {run}" if run else CLOSED
    if not said.plain():
        return LengthFit(name=name, run=run, to="wearer")
    return LengthFit(name=name, run=run, to="given", mm=said.length())


def written(fit: LengthFit) -> str:
    of = f" of {fit.run}" if fit.run else ""
    amount = "" if fit.mm is None else f" {fit.mm:.12g} mm"
    return f"{'fall' if fit.to == 'fall' else 'length'}{of}{amount}"


WISH = Wish(
    record=LengthFit,
    begins=("length", "fall"),
    forms=(
        ("length", "closed length from the wearer's girth and ease"),
        ("length 450", "closed length, or “length of NAME 300”"),
        ("fall of NAME 60", "lowest point so far below the pit of the neck"),
    ),
    read=read_length,
    written=written,
    words=words,
    measured=measured,
    solved=solved,
    targets=targets,
    hangs=lambda fit: fit.to == "fall",
    about=lambda fit: frozenset({"fall" if fit.to == "fall" else "length", fit.run or ""}),
)
