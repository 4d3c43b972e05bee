"""Swags: by sag, by slack over what they run beside, nested ones with equal steps.

Between two points a chord c apart at height difference h a chain hangs in a catenary: length from
sag or sag from length is exact there and begins the search; on the piece the hang settles it.
Beside a rigid bead link of span s, chain = s × (1 + slack).
"""

import math

from msgspec.structs import replace
from scipy.optimize import brentq

from maglia.core.assembly import Assembly, Path
from maglia.core.edit import owner_of
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.lever import Lever, first_chain, lever_of
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.reach import Aim, reached
from maglia.core.measures import LengthUnit, plain_length
from maglia.core.parts import Chain, chain_length_mm
from maglia.core.piece import Items, Override, Piece, Run, SwagRow, catalogue
from maglia.core.record import DomainError
from maglia.core.rows import override_of
from maglia.core.wishes import SagFit


def words(fit: SagFit, shown: LengthUnit = "mm") -> str:
    names = ", ".join(fit.swags)
    if fit.slack is not None:
        return f"slack of {names} {fit.slack * 100:g} %"
    step = f", each {plain_length(fit.step_mm, shown)} deeper" if fit.step_mm else ""
    return f"sag of {names} {plain_length(fit.sag_mm or 0.0, shown)}{step}"


def catenary_length_mm(chord_mm: float, sag_mm: float) -> float:
    """Length of a chain between two points of equal height, `chord_mm` apart, that hangs
    `sag_mm` below them. With half chord w: sag = a (cosh(w/a) − 1), length = 2 a sinh(w/a)."""
    half = chord_mm / 2
    if sag_mm <= 0:
        return chord_mm
    u = brentq(lambda v: (math.cosh(v) - 1) / v - sag_mm / half, 1e-9, 60.0)
    return float(2 * half / u * math.sinh(u))


def catenary_sag_mm(chord_mm: float, length_mm: float) -> float:
    """Sag of a chain of `length_mm` between two points of equal height; 0 if it is too short."""
    if length_mm <= chord_mm:
        return 0.0
    u = brentq(lambda v: math.sinh(v) / v - length_mm / chord_mm, 1e-9, 60.0)
    return float(chord_mm / 2 / u * (math.cosh(u) - 1))


def _copies(piece: Piece, name: str) -> tuple[str, ...]:
    """Runs behind a name: a swag itself, or those a row of swags makes."""
    owner = owner_of(piece, name)
    if isinstance(owner, SwagRow):
        numbers = range(len(owner.places) - 1)
        kept = [k for k in numbers if _items(owner, k)]
        return tuple(f"{name} {k}" for k in kept)
    if isinstance(owner, Run) and owner.kind == "swag":
        return (name,)
    raise DomainError(f"“{name}” is no swag: a swag hangs between two places")


def _items(row: SwagRow, ordinal: int) -> Items:
    other = override_of(row.overrides, ordinal, None)
    return other.items if other else row.items


def measured(fit: SagFit, look: Look) -> tuple[Residual, ...]:
    found = []
    for depth, name in enumerate(fit.swags):
        for run in _copies(look.piece, name):
            allowed = fit.tolerance_mm or _lever(fit, look.piece, run).step_mm / 2
            if fit.slack is not None:
                path = _path(look.assembly, run)
                wished = beside_mm(look.assembly, path) * (1 + fit.slack)
                found.append(Residual(f"length of {run}", wished, path.length_mm or 0.0, allowed))
                continue
            if fit.sag_mm is None:
                raise DomainError(f"fit “{fit.name}” gives neither a sag nor a slack")
            if run not in look.readings.sags_mm:
                raise DomainError("a sag is read off the hang, and the piece does not hang")
            wished = fit.sag_mm + depth * fit.step_mm
            found.append(Residual(f"sag of {run}", wished, look.readings.sags_mm[run], allowed))
    return tuple(found)


def _path(assembly: Assembly, run: str) -> Path:
    return next(assembly.paths_of(run))


def beside_mm(assembly: Assembly, path: Path) -> float:
    """Length of what a swag runs beside: the spans of its host between its two ends, mm."""
    first, last = path.stations[0].members[0], path.stations[-1].members[0]
    ends = []
    for index, port in ((first, path.stations[0].port_in), (last, path.stations[-1].port_out)):
        joint = next(
            j
            for j in assembly.joints_of[index]
            if not j.inline and j.b == index and (j.port_b == port or first == last)
            and (j.a, j.port_a) not in ends
        )  # fmt: skip
        ends.append((joint.a, joint.port_a))
    (a, port_a), (b, port_b) = ends
    if a == b:
        host = assembly.thing(assembly.members[a])
        if not isinstance(host, Chain):
            raise DomainError(f"“{path.run}” begins and ends on one part: it runs beside nothing")
        inner, outer = sorted((int(port_a), int(port_b)))
        return (chain_length_mm(host, outer - 1) or 0.0) - (chain_length_mm(host, inner) or 0.0)
    for host_path in assembly.paths:
        order = {i: k for k, s in enumerate(host_path.stations) for i in s.members}
        if a in order and b in order:
            low, high = sorted((order[a], order[b]))
            return sum(s.span_mm or 0.0 for s in host_path.stations[low + 1 : high])
    raise DomainError(f"“{path.run}” hangs between two runs: give its sag, not a slack")


def _lever(fit: SagFit, piece: Piece, run: str) -> Lever:
    if piece.run(run) is not None:
        return lever_of(piece, run, fit.changes, ("chain", "rings"))
    row, ordinal = _row_of(piece, run)
    found = first_chain(_items(row, ordinal))
    chain = catalogue(piece).get(found[1].part) if found else None
    if found is None or not isinstance(chain, Chain) or not chain.pitches_mm:
        raise DomainError(f"“{run}” has no chain of known pitch to change")

    def changed(other: Piece, links: int) -> Piece:
        return with_links(other, row.name, {ordinal: links})

    return Lever(
        words=f"{row.name}, swag {ordinal}",
        count=found[1].links,
        step=1,
        least=1,
        copies=1,
        length_of=lambda n: chain_length_mm(chain, n) or 0.0,
        put=changed,
    )


def _row_of(piece: Piece, run: str) -> tuple[SwagRow, int]:
    name, _, number = run.rpartition(" ")
    row = owner_of(piece, name)
    assert isinstance(row, SwagRow)
    return row, int(number)


def with_links(piece: Piece, name: str, links: dict[int, int]) -> Piece:
    """The piece with some swags of a row of so many links. The most frequent count is the row's
    own; every other swag overrules it."""
    row = owner_of(piece, name)
    assert isinstance(row, SwagRow)
    kept = {k: _items(row, k) for k in range(len(row.places) - 1)}
    for ordinal, count in links.items():
        items = kept[ordinal]
        found = first_chain(items)
        assert found is not None
        at, chain = found
        kept[ordinal] = (*items[:at], replace(chain, links=count), *items[at + 1 :])
    whole = [items for items in kept.values() if items]
    pattern = max(whole, key=whole.count)
    others = tuple(Override(number=k, items=items) for k, items in kept.items() if items != pattern)
    changed = replace(row, items=pattern, overrides=others)
    return replace(piece, rows=tuple(changed if r is row else r for r in piece.rows))


def solved(fit: SagFit, piece: Piece, trials: Trials) -> Solution:
    runs = [run for name in fit.swags for run in _copies(piece, name)]
    if fit.slack is not None:
        return _by_slack(fit, piece, runs, trials)
    aims = []
    for k, run in enumerate(runs):

        def off(look: Look, k: int = k) -> float:
            return measured(fit, look)[k].off

        aims.append(Aim(_lever(fit, piece, run), off))
    return reached(piece, aims, trials)


def _by_slack(fit: SagFit, piece: Piece, runs: list[str], trials: Trials) -> Solution:
    """Plain lengths: no hang is needed."""
    wished = [r.wished - r.got for r in measured(fit, trials.built(piece))]
    found = {0: piece, -1: piece, 1: piece}
    for run, missing in zip(runs, wished, strict=True):
        lever = _lever(fit, piece, run)
        best = lever.nearest(lever.length_of(lever.count) + missing / lever.copies)
        for by in found:
            found[by] = lever.put(found[by], lever.allowed(best + by * lever.step))
    return Solution(found[0], found[-1], found[1])


def targets(fit: SagFit, piece: Piece) -> frozenset[str]:
    return frozenset(
        _lever(fit, piece, run).words for name in fit.swags for run in _copies(piece, name)
    )
