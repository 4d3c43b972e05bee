"""Hems: drop lengths in whole links so that the feet of a row lie on a line, as worn.

With the innermost foot at fall F, another foot so far out as x has its wish at F − rise × x / X
(V), F − R + √(R² − x²) with R = (X² + rise²) / 2 rise (arc), F (level), as far below its own place
as the innermost (parallel to the strand), or on a drawn line; X is the outermost foot's.
"""

import math

import numpy as np
from msgspec.structs import replace

from maglia.core.assembly.rows import drop_numbers
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.lever import Lever, first_chain
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.placement import row_of, with_row
from maglia.core.fit.reach import Aim, reached
from maglia.core.fit.said import Said
from maglia.core.fit.wish import RowCount, Target, Wish
from maglia.core.hang.hung import path_points
from maglia.core.parts.parts import Chain, chain_length_mm
from maglia.core.piece.piece import DropRow, Piece, catalogue
from maglia.core.piece.wishes import HemFit, HemPoint, Line
from maglia.core.values.measures import LengthUnit, plain_length
from maglia.core.values.record import DomainError, Value


class Foot(Value, frozen=True):
    """Where a drop ends and begins: mm out from the fold, falls below the top line."""

    out: float
    fall: float
    begins: float


def words(fit: HemFit, shown: LengthUnit) -> str:
    rise = f", outermost {plain_length(fit.rise_mm, shown)} higher" if fit.rise_mm else ""
    foot = "" if fit.foot_mm is None else f", innermost foot at {plain_length(fit.foot_mm, shown)}"
    line = {"vee": "in a V", "arc": "in an arc", "strand": "parallel to the strand"}
    return f"hem of “{fit.row}” {line.get(fit.line, fit.line)}{rise}{foot}"


def feet(look: Look, row: DropRow) -> dict[int, Foot]:
    """The feet of a row by drop, from the innermost outward, of its right side; drops left out
    have none."""
    if look.hung is None:
        raise DomainError("a hem is read off the hang, and the piece does not hang")
    found = {}
    for k, path in enumerate(look.assembly.paths):
        origin = look.assembly.origins[path.run]
        left = path.side == "left" or origin.side == "left"
        if origin.owner == row.name and origin.ordinal is not None and not left:
            line, top = path_points(look.assembly, look.hung, k), look.hung.top
            found[origin.ordinal] = Foot(
                abs(float(line[-1, 0])), top - float(line[-1, -1]), top - float(line[0, -1])
            )
    return dict(sorted(found.items()))


def line_fall(fit: HemFit, foot: Foot, first: Foot, outermost: float) -> float:
    """The wished fall of a foot, mm; the innermost one's is the base."""
    base = first.fall if fit.foot_mm is None else fit.foot_mm
    if fit.line == "strand":
        return foot.begins + (base - first.begins)
    x, reach, rise = foot.out - first.out, outermost - first.out, fit.rise_mm
    if reach <= 0:
        return base
    if fit.line == "vee":
        return base - rise * x / reach
    if fit.line == "arc" and rise:
        radius = (reach**2 + rise**2) / (2 * abs(rise))
        lift = radius - math.sqrt(max(radius**2 - x**2, 0.0))
        return base - math.copysign(lift, rise)
    if fit.line == "drawn" and fit.drawn:
        points = sorted(fit.drawn, key=lambda p: p.out_mm)
        out, below = [p.out_mm for p in points], [p.below_mm for p in points]
        return base + float(np.interp(foot.out, out, below))
    return base


def measured(fit: HemFit, look: Look) -> tuple[Residual, ...]:
    row = row_of(look.piece, fit.row, fit.name)
    ends = feet(look, row)
    if not ends:
        raise DomainError(f"fit “{fit.name}”: row “{fit.row}” has no drops")
    allowed = fit.tolerance_mm or _pitch(look.piece, row) / 2
    outermost = max(foot.out for foot in ends.values())
    first = next(iter(ends.values()))
    return tuple(
        Residual(f"foot {k}", line_fall(fit, foot, first, outermost), foot.fall, allowed)
        for k, foot in ends.items()
    )


def _chain(piece: Piece, row: DropRow) -> tuple[int, Chain]:
    found = first_chain(row.items)
    if found is None:
        raise DomainError(
            f"the drops of “{row.name}” have no chain to lengthen: put chain above their dangles"
        )
    at, item = found
    chain = catalogue(piece).get(item.part)
    if not isinstance(chain, Chain) or not chain.pitches_mm:
        raise DomainError(f"the pitch of chain “{item.part}” is not known: measure a swatch first")
    return at, chain


def _pitch(piece: Piece, row: DropRow) -> float:
    try:
        _, chain = _chain(piece, row)
    except DomainError:
        return 1.0
    return max(chain.pitches_mm or (1.0,))


def links_of(row: DropRow, count: int) -> list[int]:
    """Links of the first chain of each drop, from the innermost outward."""
    found = first_chain(row.items)
    base = found[1].links if found else 0
    steps = row.steps or (0,)
    return [base + steps[min(k, len(steps) - 1)] for k in range(count)]


def with_links(piece: Piece, name: str, links: list[int]) -> Piece:
    """The piece with the drops of a row of so many links; the innermost is the pattern's."""
    row = row_of(piece, name, name)
    found = first_chain(row.items)
    assert found is not None
    at, chain = found[0], replace(found[1], links=links[0])
    items = (*row.items[:at], chain, *row.items[at + 1 :])
    steps = tuple(n - links[0] for n in links)
    return with_row(piece, replace(row, items=items, steps=steps if any(steps) else ()))


def _lever(piece: Piece, row: DropRow, ordinal: int, count: int) -> Lever:
    at, chain = _chain(piece, row)
    first = row.items[at].first_phase + 1  # type: ignore[union-attr]

    def changed(other: Piece, links: int) -> Piece:
        now = links_of(row_of(other, row.name, row.name), count)
        now[ordinal] = links
        return with_links(other, row.name, now)

    return Lever(
        target=RowCount(row.name, "drop", ordinal),
        count=links_of(row, count)[ordinal],
        step=1,
        least=1,
        copies=1,
        length_of=lambda n: chain_length_mm(chain, n, first) or 0.0,
        put=changed,
    )


def solved(fit: HemFit, piece: Piece, trials: Trials) -> Solution:
    row = row_of(piece, fit.row, fit.name)
    count = len(drop_numbers(row, piece))
    first = 0 if fit.foot_mm is not None else 1
    aims = []
    for ordinal in range(first, count):

        def off(look: Look, foot: str = f"foot {ordinal}") -> float:
            return next((r.off for r in measured(fit, look) if r.what == foot), 0.0)

        aims.append(Aim(_lever(piece, row, ordinal, count), off, slope=1.0))
    if not aims:
        return Solution(piece)
    found = reached(piece, aims, trials)
    return replace(found, hindrance=_no_links_left(fit, trials.hung(found.piece)))


def _no_links_left(fit: HemFit, look: Look) -> str:
    """Drops that would have to be shorter than one link."""
    row = row_of(look.piece, fit.row, fit.name)
    links = links_of(row, len(drop_numbers(row, look.piece)))
    feet_of = zip(feet(look, row), measured(fit, look), strict=True)
    short = [str(k) for k, r in feet_of if r.off > r.allowed and links[k] == 1]
    if not short:
        return ""
    return f"drop {', '.join(short)} of “{row.name}” is too long with a single link of chain"


def targets(fit: HemFit, piece: Piece) -> frozenset[Target]:
    return frozenset({RowCount(fit.row, "links")})


_LINES: dict[str, Line] = {
    "level": "level", "v": "vee", "vee": "vee", "arc": "arc", "strand": "strand",
    "parallel": "strand", "drawn": "drawn",
}  # fmt: skip


def read(said: Said) -> HemFit:
    row = said.one(DropRow, "a row of drops")
    line: Line = next((_LINES[word] for word in said.words if word in _LINES), "level")
    depth = said.after("at")
    foot = depth[0] if depth else None
    made = HemFit(name=f"hem of {row}", row=row, line=line, foot_mm=foot)
    plain = said.lengths()
    if line == "drawn":
        if len(plain) < 4 or len(plain) % 2:
            raise DomainError(f"“{said.text}”: draw it as out:below, such as drawn 0:0 20:5 40:12")
        pairs = zip(plain[::2], plain[1::2], strict=True)
        return replace(made, drawn=tuple(HemPoint(out_mm=a, below_mm=b) for a, b in pairs))
    if line in ("vee", "arc") and not plain:
        raise DomainError(f"“{said.text}” does not say how much higher the outermost drop ends")
    return replace(made, rise_mm=plain[0] if plain else 0.0)


def written(fit: HemFit) -> str:
    line = {"vee": "V"}.get(fit.line, fit.line)
    rise = f" {fit.rise_mm:.12g} mm" if fit.rise_mm else ""
    points = "".join(f" {p.out_mm:.12g} mm:{p.below_mm:.12g} mm" for p in fit.drawn)
    depth = "" if fit.foot_mm is None else f" at {fit.foot_mm:.12g} mm"
    return f"hem of {fit.row} {line}{rise}{points}{depth}"


WISH = Wish(
    record=HemFit,
    begins=("hem",),
    forms=(
        (
            "hem of NAME V 12",
            "feet level, V, arc, strand or drawn 0:0 20:5; “at 90” sets its depth",
        ),
    ),
    read=read,
    written=written,
    words=words,
    measured=measured,
    solved=solved,
    targets=targets,
    accepts=(*_LINES, "rise"),
)
