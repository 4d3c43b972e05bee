"""A centre drop inside a frame or V with a wanted clearance on all sides.

Air is measured as worn, seen from the front: from the outline of what hangs at the drop's end to
the outline of everything else, but for what carries it.
"""

import itertools

import numpy as np

from maglia.core.assembly.assembly import Member
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.lever import Lever, lever_of
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.said import Said
from maglia.core.fit.wish import Target, Wish
from maglia.core.hang.bodies import Floats
from maglia.core.parts.outline import RIM_MM, rim
from maglia.core.parts.parts import Connector
from maglia.core.piece.items import ChainItem, RepeatItem, RingItem
from maglia.core.piece.piece import Piece
from maglia.core.piece.wishes import ClearFit
from maglia.core.sheets.lengths import member_width_mm
from maglia.core.values.measures import LengthUnit, plain_length
from maglia.core.values.record import DomainError

TURNED = (ChainItem, RingItem, RepeatItem)
LONGEST = 60
SAMPLES = 9


def words(fit: ClearFit, shown: LengthUnit) -> str:
    return f"{plain_length(fit.clear_mm, shown)} clear around “{fit.drop}”"


def clearance_mm(look: Look, drop: str) -> float:
    """Least air between the last part of a drop and the rest of the piece, mm. Raises DomainError
    where there is none to measure."""
    least = min((room for _, room in clearances_mm(look, drop)), default=None)
    if least is None:
        raise DomainError(f"there is nothing around “{drop}” to keep clear of")
    return least


def clearances_mm(look: Look, drop: str) -> list[tuple[Member, float]]:
    """Air between the last part of a drop and each other part of the piece, mm."""
    if look.hung is None:
        raise DomainError("clearance is read off the hang, and the piece does not hang")
    own = [m for m in look.assembly.members if m.run == drop]
    if not own:
        raise DomainError(f"there is no drop “{drop}”")
    pendant = own[-1]
    carriers = {pendant.id} | set(look.assembly.neighbours[pendant.id])
    here = _outline(look, pendant)
    found: list[tuple[Member, float]] = []
    for member in look.assembly.members:
        if member.run == drop or member.id in carriers or member.id not in look.hung.drawn:
            continue
        there = _outline(look, member)
        apart = np.linalg.norm(here[:, None, :2] - there[None, :, :2], axis=2)
        room = float((apart - here[:, None, 2] - there[None, :, 2]).min())
        if np.isfinite(room):
            found.append((member, room))
    return found


def _outline(look: Look, member: Member) -> Floats:
    """(k, 3): points along a member across and down, seen from the front, and half its width."""
    assert look.hung is not None
    thing = look.assembly.thing(member)
    if isinstance(thing, Connector) and member.id in look.hung.bodies:
        return _rim(look, member, thing)
    points = look.hung.points_of(member.id)[:, [0, -1]]
    share = np.linspace(0, 1, SAMPLES)[:, None]
    lines = [a + share * (b - a) for a, b in itertools.pairwise(points)]
    line = np.vstack(lines) if lines else points
    half = np.full((len(line), 1), member_width_mm(look.assembly, member) / 2)
    return np.hstack([line, half])


def _rim(look: Look, member: Member, connector: Connector) -> Floats:
    """The rim of a connector as it hangs: a drop may hang within a frame."""
    assert look.hung is not None
    frame = look.hung.bodies[member.id].frame(look.hung.points_of(member.id))
    mirror = -1.0 if member.side == "left" else 1.0
    local = np.array(rim(connector)) * (mirror, 1.0)
    share = np.linspace(0, 1, SAMPLES)[:, None]
    line = np.vstack([a + share * (b - a) for a, b in itertools.pairwise(local)])
    places = np.c_[line, np.ones(len(line))] @ frame
    half = RIM_MM.get(connector.outline, 0.0)
    return np.asarray(np.c_[places[:, [0, -1]], np.full(len(line), half)])


def measured(fit: ClearFit, look: Look) -> tuple[Residual, ...]:
    got = clearance_mm(look, fit.drop)
    allowed = fit.tolerance_mm or 0.0
    return (Residual(f"air around {fit.drop}", fit.clear_mm, got, allowed, "at least"),)


def _lever(fit: ClearFit, piece: Piece) -> Lever:
    return lever_of(piece, fit.drop, fit.changes, TURNED)


def solved(fit: ClearFit, piece: Piece, trials: Trials) -> Solution:
    """Every length is tried until the drop has left the frame: the longest one that is clear
    enough inside it, else the clearest."""
    lever = _lever(fit, piece)
    air: dict[int, float] = {}
    for count in range(lever.least, lever.least + LONGEST * lever.step, lever.step):
        air[count] = clearance_mm(trials.hung(lever.put(piece, count)), fit.drop)
        if len(air) > 3 and air[count] < min(0.0, max(air.values())):
            break  # it touches what lies below: longer ones are outside the frame
        if len(air) > 12 and air[count] >= max(air.values()):
            break  # an open frame: it only gets freer
    clear = [n for n, mm in air.items() if mm >= fit.clear_mm]
    best = min(clear) if clear else max(air, key=lambda n: air[n])
    hindrance = "" if clear else (
        f"there is never more than {air[best]:.1f} mm of air around “{fit.drop}”: take a narrower "
        "part, or open the frame"
    )  # fmt: skip
    below, above = lever.allowed(best - lever.step), lever.allowed(best + lever.step)
    return Solution(
        lever.put(piece, best),
        lever.put(piece, below) if below != best else None,
        lever.put(piece, above),
        hindrance=hindrance,
    )


def targets(fit: ClearFit, piece: Piece) -> frozenset[Target]:
    return frozenset({_lever(fit, piece).target})


def read(said: Said) -> ClearFit:
    drops = [r.name for r in said.piece.runs if r.kind == "drop" and r.lies == "fold"]
    if not said.names and len(drops) != 1:
        raise DomainError(f"“{said.text}” does not name the drop: {', '.join(drops) or 'none'}")
    drop = said.names[0] if said.names else drops[0]
    return ClearFit(name=f"air around {drop}", drop=drop, clear_mm=said.length())


WISH = Wish(
    record=ClearFit,
    begins=("clear",),
    forms=(("clear 3 around NAME", "air on all sides of a drop in a frame"),),
    read=read,
    written=lambda fit: f"clear {fit.clear_mm:.12g} mm around {fit.drop}",
    words=words,
    measured=measured,
    solved=solved,
    targets=targets,
)
