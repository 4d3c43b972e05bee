"""Swags: by sag, by slack over what they run beside, nested ones with equal steps.

A sag is read off the hang, and each swag's links are turned until it is met. A slack needs no hang:
beside what spans s, chain = s × (1 + slack).
"""

from msgspec.structs import replace

from maglia.core.assembly.assembly import Assembly, Path
from maglia.core.assembly.rows import swag_items, written_out
from maglia.core.edits.spots import owner_of
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.lever import Lever, first_chain, lever_of
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.reach import Aim, reached
from maglia.core.fit.said import Said
from maglia.core.fit.wish import RowCount, Target, Wish
from maglia.core.parts.parts import Chain, chain_length_mm
from maglia.core.piece.items import ChainItem, RingItem
from maglia.core.piece.piece import Override, Piece, Run, SwagRow, catalogue
from maglia.core.piece.wishes import SagFit
from maglia.core.values.measures import LengthUnit, plain_length
from maglia.core.values.record import DomainError


def words(fit: SagFit, shown: LengthUnit) -> str:
    names = ", ".join(fit.swags)
    if fit.slack is not None:
        return f"slack of {names} {fit.slack * 100:.12g} %"
    step = f", each {plain_length(fit.step_mm, shown)} deeper" if fit.step_mm else ""
    return f"sag of {names} {plain_length(fit.sag_mm or 0.0, shown)}{step}"


def swags_of(piece: Piece, name: str) -> tuple[str, ...]:
    """Runs behind a name: a swag itself, or those a row of swags makes."""
    owner = owner_of(piece, name)
    if isinstance(owner, SwagRow) or (isinstance(owner, Run) and owner.kind == "swag"):
        return tuple(run.name for run, origin in written_out(piece) if origin.owner == name)
    raise DomainError(f"“{name}” is no swag: a swag hangs between two places")


def measured(fit: SagFit, look: Look) -> tuple[Residual, ...]:
    found = []
    for depth, name in enumerate(fit.swags):
        for run in swags_of(look.piece, name):
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
        member = assembly.members[a]
        host = assembly.thing(member)
        if not isinstance(host, Chain):
            raise DomainError(
                f"“{path.run}” begins and ends on one part: give its sag, not a slack"
            )
        inner, outer = sorted((int(port_a), int(port_b)))
        between = outer - 1 - inner
        return chain_length_mm(host, between, inner + member.first_phase + 1) or 0.0
    for host_path in assembly.paths:
        order = {i: k for k, s in enumerate(host_path.stations) for i in s.members}
        if a in order and b in order:
            low, high = sorted((order[a], order[b]))
            return sum(s.span_mm or 0.0 for s in host_path.stations[low + 1 : high])
    raise DomainError(f"“{path.run}” hangs between two runs: give its sag, not a slack")


def _lever(fit: SagFit, piece: Piece, run: str) -> Lever:
    if piece.run(run) is not None:
        return lever_of(piece, run, fit.changes, (ChainItem, RingItem))
    row, ordinal = _row_of(piece, run)
    found = first_chain(swag_items(row, ordinal))
    chain = catalogue(piece).get(found[1].part) if found else None
    if found is None or not isinstance(chain, Chain) or not chain.pitches_mm:
        raise DomainError(f"“{run}” has no chain of known pitch to change")

    def changed(other: Piece, links: int) -> Piece:
        return with_links(other, row.name, {ordinal: links})

    return Lever(
        target=RowCount(row.name, "swag", ordinal),
        count=found[1].links,
        step=1,
        least=1,
        copies=1,
        length_of=lambda n: chain_length_mm(chain, n, found[1].first_phase + 1) or 0.0,
        put=changed,
    )


def _row_of(piece: Piece, run: str) -> tuple[SwagRow, int]:
    """The row that makes a swag, and the swag's ordinal."""
    origin = next(origin for made, origin in written_out(piece) if made.name == run)
    row = owner_of(piece, origin.owner)
    assert isinstance(row, SwagRow)
    assert origin.ordinal is not None
    return row, origin.ordinal


def with_links(piece: Piece, name: str, links: dict[int, int]) -> Piece:
    """The piece with some swags of a row of so many links. The most frequent count is the row's
    own; every other swag overrules it."""
    row = owner_of(piece, name)
    assert isinstance(row, SwagRow)
    kept = {k: swag_items(row, k) for k in range(len(row.places) - 1)}
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
    return piece.replaced(row, changed)


def solved(fit: SagFit, piece: Piece, trials: Trials) -> Solution:
    runs = [run for name in fit.swags for run in swags_of(piece, name)]
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


def targets(fit: SagFit, piece: Piece) -> frozenset[Target]:
    return frozenset(
        _lever(fit, piece, run).target for name in fit.swags for run in swags_of(piece, name)
    )


def read(said: Said) -> SagFit:
    swags = said.names or [
        own.name
        for own in said.piece.owners
        if isinstance(own, SwagRow) or (isinstance(own, Run) and own.kind == "swag")
    ]
    if not swags:
        raise DomainError(f"“{said.text}”: this piece has no swags")
    made = SagFit(name=f"sag of {', '.join(swags)}"[:120], swags=tuple(swags))
    if "slack" in said.words:
        plain = said.plain()
        if not plain or plain[0].kind not in ("plain", "per cent"):
            raise DomainError(f"“{said.text}” does not say how much slack: write 10 %")
        return replace(made, slack=plain[0].value / 100)
    step = said.after("step")
    return replace(made, sag_mm=said.length(), step_mm=step[0] if step else 0.0)


def written(fit: SagFit) -> str:
    names = ", ".join(fit.swags)
    if fit.slack is not None:
        return f"slack of {names} {fit.slack * 100:.12g} %"
    step = f" step {fit.step_mm:.12g} mm" if fit.step_mm else ""
    return f"sag of {names} {fit.sag_mm or 0:.12g} mm{step}"


WISH = Wish(
    record=SagFit,
    begins=("sag", "slack"),
    forms=(("sag of NAME 18", "depth of swags; “step 4” for nested ones; “slack of NAME 10 %”"),),
    read=read,
    written=written,
    words=words,
    measured=measured,
    solved=solved,
    targets=targets,
    accepts=("step",),
    hangs=lambda fit: fit.slack is None,
)
