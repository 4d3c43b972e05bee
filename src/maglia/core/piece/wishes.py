"""Wishes: what the maker wants of a quantity instead of giving it. Saved with the piece.

A fit holds one wish, how far off it may end, what it may change and whether it is locked. What it
solves to is worked out by `maglia.core.fit`; here is only what is kept.
"""

from typing import Annotated, Literal

from msgspec import Meta

from maglia.core.values.record import CountOrZero, Mm, MmOrZero, Name, Offset, Record, Variant
from maglia.core.values.references import OwnerRef, RunRef

Names = Annotated[tuple[OwnerRef, ...], Meta(min_length=1, max_length=60)]


class Quantity(Record, frozen=True, kw_only=True):
    """One count of the piece: of item `item` of a run or row as it is written, from 1 (0 is the
    centre). A repeat is one item; `within` names an item inside it, from 1."""

    run: OwnerRef
    item: CountOrZero = 0
    within: CountOrZero = 0


class _Fit(Variant, frozen=True, kw_only=True):
    name: Name
    tolerance_mm: Mm | None = None
    """How far off it may end; without it, the effect of half a step of what it changes."""
    changes: Annotated[tuple[Quantity, ...], Meta(max_length=60)] = ()
    """What it may change; empty: what a maker would change first."""
    locked: bool = False
    """Solved once and kept: the residual is still shown."""


class LengthFit(_Fit, frozen=True, kw_only=True, tag="length"):
    """A strand's length. wearer: closed length from girth, ease and thickness, or past head or
    hand · given: `mm` · fall: its lowest point hangs `mm` below the pit of the neck."""

    run: RunRef | None = None
    to: Literal["wearer", "given", "fall"] = "wearer"
    mm: Offset | None = None


class TiersFit(_Fit, frozen=True, kw_only=True, tag="tiers"):
    """Strands one below the other: the first fall, then gaps (the last one holds on, each
    following one `growth_mm` larger). No first fall: the first strand stays as it is."""

    strands: Annotated[tuple[RunRef, ...], Meta(min_length=2, max_length=40)]
    first_fall_mm: Offset | None = None
    gaps_mm: Annotated[tuple[Mm, ...], Meta(min_length=1, max_length=40)]
    growth_mm: Offset = 0.0


class NestedFit(_Fit, frozen=True, kw_only=True, tag="nested"):
    """Strands nested between many-holed connectors: `clear_mm` of air at the centre front."""

    strands: Annotated[tuple[RunRef, ...], Meta(min_length=2, max_length=40)]
    clear_mm: MmOrZero


Rule = Literal["even", "every", "worn"]


class PlacesFit(_Fit, frozen=True, kw_only=True, tag="places"):
    """Where the drops of a row stand. even: over the whole item · every: each `every`-th link ·
    worn: at equal distances across, seen from the front."""

    row: OwnerRef
    rule: Rule = "even"
    count: Annotated[int, Meta(ge=1, le=500)]
    every: Annotated[int, Meta(ge=1, le=500)] = 1


Line = Literal["level", "vee", "arc", "strand", "drawn"]


class HemPoint(Record, frozen=True, kw_only=True):
    """A point of a free-drawn hem: so far from the fold, so far below the foot on the fold."""

    out_mm: MmOrZero
    below_mm: Offset


class HemFit(_Fit, frozen=True, kw_only=True, tag="hem"):
    """The line on which the feet of a row of drops lie, as worn. `foot_mm` is the fall of the
    innermost foot (none: as its drop is now), `rise_mm` how much higher the outermost ends.
    strand: every foot as far below its own place as the innermost one."""

    row: OwnerRef
    line: Line = "level"
    foot_mm: Offset | None = None
    rise_mm: Offset = 0.0
    drawn: Annotated[tuple[HemPoint, ...], Meta(max_length=200)] = ()


class SagFit(_Fit, frozen=True, kw_only=True, tag="sag"):
    """Swags, by depth below the line between their ends, or by slack over what they run beside:
    chain = length beside × (1 + slack). Of nested ones each next lies `step_mm` deeper."""

    swags: Names
    sag_mm: Mm | None = None
    slack: Annotated[float, Meta(ge=0, le=10)] | None = None
    step_mm: Offset = 0.0


class ClearFit(_Fit, frozen=True, kw_only=True, tag="clearance"):
    """A drop inside a frame or V: at least `clear_mm` of air between it and all around it."""

    drop: RunRef
    clear_mm: Mm


class FlatFit(_Fit, frozen=True, kw_only=True, tag="flat"):
    """Rows of bead links that lie flat: rings between links and between rows, row by row."""

    row: OwnerRef


class PatternFit(_Fit, frozen=True, kw_only=True, tag="pattern"):
    """A strung section nearest to `mm`, its pattern whole and the same from either end."""

    section: Quantity
    mm: Mm


class RingsFit(_Fit, frozen=True, kw_only=True, tag="rings"):
    """A stretch made of rings alone, in their repeating order, nearest to `mm`."""

    stretch: Quantity
    mm: Mm


How = Literal["level", "length", "mirror"]


class MatchFit(_Fit, frozen=True, kw_only=True, tag="match"):
    """level: the foot of `run` ends level with that of `to` · length: as long as it · mirror:
    made of the same, in the same order; a pair of earrings mirrored, not copied."""

    run: OwnerRef
    to: OwnerRef
    how: How = "level"


Fit = (
    LengthFit
    | TiersFit
    | NestedFit
    | PlacesFit
    | HemFit
    | SagFit
    | ClearFit
    | FlatFit
    | PatternFit
    | RingsFit
    | MatchFit
)
