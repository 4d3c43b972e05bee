"""Wishes: what the maker wants of a quantity instead of giving it. Saved with the piece.

A fit holds one wish, how far off it may end, what it may change and whether it is locked. What it
solves to is worked out by `maglia.core.fit`; here is only what is kept.
"""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen, MinLen
from pydantic import Field

from maglia.core.record import CountOrZero, Mm, MmOrZero, Name, Offset, Record

Names = Annotated[tuple[Name, ...], MinLen(1), MaxLen(60)]


@dataclass(frozen=True, kw_only=True)
class Quantity(Record):
    """One count of the piece: of item `item` of a run or row as it is written, from 1 (0 is the
    centre). A repeat is one item; `within` names an item inside it, from 1."""

    run: Name
    item: CountOrZero = 0
    within: CountOrZero = 0


@dataclass(frozen=True, kw_only=True)
class _Fit(Record):
    name: Name
    tolerance_mm: Mm | None = None
    """How far off it may end; without it, the effect of half a step of what it changes."""
    changes: Annotated[tuple[Quantity, ...], MaxLen(60)] = ()
    """What it may change; empty: what a maker would change first."""
    locked: bool = False
    """Solved once and kept: the residual is still shown."""


@dataclass(frozen=True, kw_only=True)
class LengthFit(_Fit):
    """A strand's length. wearer: closed length from girth, ease and thickness, or past head or
    hand · given: `mm` · fall: its lowest point hangs `mm` below the pit of the neck."""

    kind: Literal["length"] = "length"
    run: Name | None = None
    to: Literal["wearer", "given", "fall"] = "wearer"
    mm: Offset | None = None


@dataclass(frozen=True, kw_only=True)
class TiersFit(_Fit):
    """Strands one below the other: the first fall, then gaps (the last one holds on, each
    following one `growth_mm` larger). No first fall: the first strand stays as it is."""

    kind: Literal["tiers"] = "tiers"
    strands: Annotated[tuple[Name, ...], MinLen(2), MaxLen(40)]
    first_fall_mm: Offset | None = None
    gaps_mm: Annotated[tuple[Mm, ...], MinLen(1), MaxLen(40)]
    growth_mm: Offset = 0.0


@dataclass(frozen=True, kw_only=True)
class NestedFit(_Fit):
    """Strands nested between many-holed connectors: `clear_mm` of air at the centre front."""

    kind: Literal["nested"] = "nested"
    strands: Annotated[tuple[Name, ...], MinLen(2), MaxLen(40)]
    clear_mm: MmOrZero


@dataclass(frozen=True, kw_only=True)
class PlacesFit(_Fit):
    """Where the drops of a row stand. even: over the whole item · every: each `every`-th link ·
    worn: at equal distances across, seen from the front."""

    kind: Literal["places"] = "places"
    row: Name
    rule: Literal["even", "every", "worn"] = "even"
    count: Annotated[int, Ge(1), Le(500)]
    every: Annotated[int, Ge(1), Le(500)] = 1


@dataclass(frozen=True, kw_only=True)
class HemPoint(Record):
    """A point of a free-drawn hem: so far from the fold, so far below the foot on the fold."""

    out_mm: MmOrZero
    below_mm: Offset


@dataclass(frozen=True, kw_only=True)
class HemFit(_Fit):
    """The line on which the feet of a row of drops lie, as worn. `foot_mm` is the fall of the
    innermost foot (none: as its drop is now), `rise_mm` how much higher the outermost ends.
    strand: every foot as far below its own place as the innermost one."""

    kind: Literal["hem"] = "hem"
    row: Name
    line: Literal["level", "vee", "arc", "strand", "drawn"] = "level"
    foot_mm: Offset | None = None
    rise_mm: Offset = 0.0
    drawn: Annotated[tuple[HemPoint, ...], MaxLen(200)] = ()


@dataclass(frozen=True, kw_only=True)
class SagFit(_Fit):
    """Swags, by depth below the line between their ends, or by slack over what they run beside:
    chain = length beside × (1 + slack). Of nested ones each next lies `step_mm` deeper."""

    kind: Literal["sag"] = "sag"
    swags: Names
    sag_mm: Mm | None = None
    slack: Annotated[float, Ge(0), Le(10)] | None = None
    step_mm: Offset = 0.0


@dataclass(frozen=True, kw_only=True)
class ClearFit(_Fit):
    """A drop inside a frame or V: at least `clear_mm` of air between it and all around it."""

    kind: Literal["clearance"] = "clearance"
    drop: Name
    clear_mm: Mm


@dataclass(frozen=True, kw_only=True)
class FlatFit(_Fit):
    """Rows of bead links that lie flat: rings between links and between rows, row by row."""

    kind: Literal["flat"] = "flat"
    row: Name


@dataclass(frozen=True, kw_only=True)
class PatternFit(_Fit):
    """A strung section nearest to `mm`, its pattern whole and the same from either end."""

    kind: Literal["pattern"] = "pattern"
    section: Quantity
    mm: Mm


@dataclass(frozen=True, kw_only=True)
class RingsFit(_Fit):
    """A stretch made of rings alone, in their repeating order, nearest to `mm`."""

    kind: Literal["rings"] = "rings"
    stretch: Quantity
    mm: Mm


@dataclass(frozen=True, kw_only=True)
class MatchFit(_Fit):
    """level: the foot of `run` ends level with that of `to` · length: as long as it · mirror:
    made of the same, in the same order; a pair of earrings mirrored, not copied."""

    kind: Literal["match"] = "match"
    run: Name
    to: Name
    how: Literal["level", "length", "mirror"] = "level"


Fit = Annotated[
    LengthFit | TiersFit | NestedFit | PlacesFit | HemFit | SagFit | ClearFit | FlatFit
    | PatternFit | RingsFit | MatchFit,
    Field(discriminator="kind"),
]  # fmt: skip
