"""A piece: what the maker decides. Small, readable, frozen; saved as JSON with its parts.

Runs are written from the fold outward. A place names a link, ring, hole, loop or mid ring of a
run's item: items of a run are numbered from 1 outward with every repeat written out; the centre
of a run across the fold is item 0.
"""

from typing import Annotated, Literal, Self

from msgspec import Meta
from msgspec.structs import replace

from maglia.core.parts.parts import Part
from maglia.core.parts.units import Thing, Unit
from maglia.core.piece.corrections import Correction
from maglia.core.piece.items import Item
from maglia.core.piece.wishes import Fit, Quantity
from maglia.core.values.record import (
    Count,
    CountOrZero,
    Grams,
    Mm,
    Name,
    Offset,
    Record,
    Text,
    Variant,
)
from maglia.core.values.references import ItemRef, NameRef, PartRef, RunRef, ThingRef, UnitRef

Side = Literal["left", "right"]
Lies = Literal["across", "paired", "fold", "free"]
ClosureKind = Literal["clasp", "over the head", "over the hand", "continuous", "open"]
FormKind = Literal["board", "bust", "wrist", "ankle", "ear", "mat"]
Neckline = Literal["straight", "round", "vee"]
Posture = Literal["upright", "easy", "sloping"]
Sort = Literal["necklace", "bracelet", "anklet", "earring", "pendant"]
RunKind = Literal["strand", "drop", "swag", "tie", "extender"]


NECK_MM, WRIST_MM, ANKLE_MM = 350.0, 165.0, 225.0
"""Girths taken where the wearer's are not known."""


class Wearer(Record, frozen=True, kw_only=True):
    """Who it is for: a role, with the girths that are known, mm."""

    role: Name = "anyone"
    neck_mm: Mm | None = None
    wrist_mm: Mm | None = None
    ankle_mm: Mm | None = None
    hand_mm: Mm | None = None
    head_mm: Mm | None = None
    ease_mm: Offset = 0.0


class Form(Record, frozen=True, kw_only=True):
    """What the piece hangs on, or is laid on: on the mat open in a line, or closed. `pins_mm` is
    the distance of the two pins of a board; without it they stand apart by a share of the strand's
    length, so that any piece can hang."""

    kind: FormKind = "board"
    pins_mm: Mm | None = None
    neckline: Neckline = "straight"
    laid: Literal["open", "closed"] = "open"
    posture: Posture = "easy"
    neck_shift_mm: Offset = 0.0
    """Calibration: how much wider the bust's neck base is than its girth says."""
    chest_shift_mm: Offset = 0.0
    """Calibration: how much further forward the chest stands."""


class Place(Record, frozen=True, kw_only=True):
    """Somewhere on a run where another can be joined.

    `at` is the link, ring or unit within the item, counted from the fold (0 is on the fold, only
    on item 0). `port` names a hole, a loop (`a`, `b`) or `mid`; on a strung section also `gap`, and
    `along` with `at` in mm. What `rides` slides along all of it, or from `at` to `until`. `side` is
    needed only to point from one side to the other.
    """

    run: RunRef
    item: ItemRef = 1
    at: CountOrZero = 1
    until: CountOrZero | None = None
    port: Name | None = None
    side: Side | None = None


MOST_ITEMS, MOST_RUNS = 200, 500
Items = Annotated[tuple[Item, ...], Meta(max_length=MOST_ITEMS)]


class _Holder:
    """What runs and rows have in common: one view of what is written in them."""

    __slots__ = ()
    name: str
    items: Items

    @property
    def own_items(self) -> Items:
        """The items written in it, outward."""
        return self.items

    @property
    def on_fold(self) -> Item | None:
        """What is written on the fold."""
        return None

    @property
    def made_before(self) -> int:
        """How many items its rule makes before those written in it."""
        return 0

    @property
    def written_as(self) -> str:
        """The run that its own items lie in."""
        return self.name

    def with_items(self, items: Items) -> Self:
        return replace(self, items=items)  # type: ignore[type-var]


class Run(Record, _Holder, frozen=True, kw_only=True):
    """An ordered line of parts and units.

    across: centre, then one half, mirrored, its ends at `end` or at the closure · paired: once
    left, once right · fold: once, on the mirror line · free: once, written from left to right.
    """

    name: Name
    kind: RunKind = "strand"
    lies: Lies = "across"
    centre: Item | None = None
    items: Items = ()
    start: Place | None = None
    end: Place | None = None

    @property
    def on_fold(self) -> Item | None:
        return self.centre


class Override(Record, frozen=True, kw_only=True):
    """One drop of a row done otherwise; no items means it is left out."""

    number: CountOrZero
    side: Side | None = None
    items: Items = ()


class _PatternRow(Variant, _Holder, frozen=True, kw_only=True):
    """A row whose items are the pattern of every run that it is written out into."""

    name: Name
    run: RunRef
    item: ItemRef = 0
    items: Items


class DropRow(_PatternRow, frozen=True, kw_only=True, tag="drops"):
    """Drops by rule on one chain or row of rings.

    `count` drops in all, on the fold too if it is odd. every: each k-th link · even: spread over
    the whole item · places: at given numbers outward from the fold, 0 on it. On an item beside
    the fold, places count from its inner end and `count` is for one side. `steps` are links added
    to the first chain of drop 0, 1, 2 … outward (the last one holds on).
    """

    rule: Literal["every", "places", "even"] = "every"
    every: Count = 2
    count: CountOrZero = 0
    places: Annotated[tuple[CountOrZero, ...], Meta(max_length=500)] = ()
    steps: Annotated[tuple[Annotated[int, Meta(ge=-500, le=500)], ...], Meta(max_length=200)] = ()
    overrides: Annotated[tuple[Override, ...], Meta(max_length=500)] = ()


class SwagRow(_PatternRow, frozen=True, kw_only=True, tag="swags"):
    """Swags between successive places of one item, outward from the fold, both sides."""

    places: Annotated[tuple[CountOrZero, ...], Meta(min_length=2, max_length=200)]
    overrides: Annotated[tuple[Override, ...], Meta(max_length=200)] = ()


class RowHung(Record, frozen=True, kw_only=True):
    """Where the top row of tied links hangs: `places` are links (or rings) of a run's item outward
    from the fold, one for each joint of the row and its outer end; `rings` of `ring` at each."""

    run: RunRef
    item: ItemRef = 0
    places: Annotated[tuple[CountOrZero, ...], Meta(min_length=1, max_length=100)]
    ring: PartRef
    rings: Annotated[int, Meta(ge=1, le=20)] = 1


class OtherCount(Record, frozen=True, kw_only=True):
    """One place of tied rows with another number of rings: `number` counts joints or hangers of a
    row outward from the fold. `between` two links it holds on both sides."""

    level: CountOrZero
    number: CountOrZero
    count: Annotated[int, Meta(ge=1, le=20)]
    of: Literal["between", "hang"] = "hang"
    side: Side | None = None


class TiedRows(Variant, _Holder, frozen=True, kw_only=True, tag="tied rows"):
    """Rows of bead links, joined end to end by rings, each hung from the mids of the row above.

    `rows` counts the links of each row from the top, of `unit` unless `units` says another, row by
    row (the last one holds on). The first row is the strand, joined by its ends to `end`, or is
    `carried` by another run at each of its joints.
    """

    name: Name
    unit: UnitRef
    units: Annotated[tuple[UnitRef, ...], Meta(max_length=60)] = ()
    rows: Annotated[
        tuple[Annotated[int, Meta(ge=1, le=100)], ...], Meta(min_length=1, max_length=60)
    ]
    ring: PartRef
    between: Annotated[
        tuple[Annotated[int, Meta(ge=1, le=9)], ...], Meta(min_length=1, max_length=60)
    ] = (1,)
    """Rings between the links of a row, row by row (the last number holds on)."""
    hang_ring: PartRef
    hang: Annotated[
        tuple[Annotated[int, Meta(ge=1, le=20)], ...], Meta(min_length=1, max_length=60)
    ] = (1,)
    """Rings from each mid down to the row below, row by row (the last number holds on)."""
    sides: Items = ()
    """What follows the top row outward, on both sides, when it is the strand itself."""
    end: Place | None = None
    carried: RowHung | None = None
    but: Annotated[tuple[OtherCount, ...], Meta(max_length=200)] = ()

    @property
    def own_items(self) -> Items:
        return self.sides

    @property
    def made_before(self) -> int:
        """Half the top row: its sides follow."""
        count = self.rows[0]
        return 2 * (count // 2) - (count + 1) % 2

    @property
    def written_as(self) -> str:
        return self.level_name(0)

    def with_items(self, items: Items) -> Self:
        return replace(self, sides=items)

    def unit_of(self, level: int) -> str:
        """The unit that row `level` is made of."""
        return self.units[min(level, len(self.units) - 1)] if self.units else self.unit

    def level_name(self, level: int) -> str:
        """The run that row `level`, from 0 at the top, is written out into."""
        return f"{self.name} {level + 1}"


Row = DropRow | SwagRow | TiedRows
Owner = Run | Row
"""What holds items: a run, or a row that is written out into runs."""


class Closure(Record, frozen=True, kw_only=True):
    """How the piece closes. With a clasp, `catch` is what it bites; without, the joining ring.
    `hooked` is another place that the clasp bites: on the strand, or on a run that hangs from
    it. `at_clasp` and `at_catch` stand between the strand and clasp or catch, outward, on that side
    alone."""

    kind: ClosureKind = "open"
    clasp: PartRef | None = None
    catch: PartRef | None = None
    clasp_side: Side = "right"
    hooked: Place | None = None
    at_clasp: Items = ()
    at_catch: Items = ()


class WornCount(Record, frozen=True, kw_only=True):
    """Of a quantity only so many are worn: links of a chain, repeats, rings."""

    of: Quantity
    count: Count


class Way(Record, frozen=True, kw_only=True):
    """A named way to wear the piece: runs left off, only so many of a count, hooked elsewhere,
    wrapped more often, `on` something else than the piece's own form. A run that is `taken_out`
    comes off from between: what hangs from its foot hangs where it hung."""

    name: Name
    without: Annotated[tuple[NameRef, ...], Meta(max_length=200)] = ()
    taken_out: Annotated[tuple[RunRef, ...], Meta(max_length=200)] = ()
    hooked: Place | None = None
    wraps: Annotated[int, Meta(ge=1, le=20)] = 1
    only: Annotated[tuple[WornCount, ...], Meta(max_length=50)] = ()
    on: FormKind | None = None


class Accepted(Record, frozen=True, kw_only=True):
    """A check the maker has seen and keeps, with the reason. `run` or `thing` is what its place
    names, so that it follows when that is called otherwise."""

    code: Name
    place: Annotated[str, Meta(max_length=300)]
    note: Text = ""
    run: RunRef | None = None
    thing: ThingRef | None = None


class Piece(Record, frozen=True, kw_only=True):
    """The whole piece. `parts` and `units` are copies, so that the file opens anywhere."""

    format: Literal["maglia-piece"] = "maglia-piece"
    version: Literal[5] = 5
    id: Annotated[str, Meta(pattern=r"^[0-9a-z-]{0,40}$")] = ""
    """Which piece it is, whatever it is called; empty until it has been on a bench."""
    name: Name = "Untitled"
    sort: Sort = "necklace"
    wearer: Wearer = Wearer()
    form: Form = Form()
    parts: Annotated[tuple[Part, ...], Meta(max_length=1000)] = ()
    units: Annotated[tuple[Unit, ...], Meta(max_length=500)] = ()
    runs: Annotated[tuple[Run, ...], Meta(max_length=MOST_RUNS)] = ()
    rows: Annotated[tuple[Row, ...], Meta(max_length=200)] = ()
    closure: Closure = Closure()
    mirrored: bool = True
    """Whether what is begun is mirrored on the fold, unless it hangs or is said to be free."""
    pair: bool = False
    """An earring pair: made twice, the second the mirror of the first."""
    wraps: Annotated[float, Meta(ge=0.5, le=20)] = 1.0
    ways: Annotated[tuple[Way, ...], Meta(max_length=40)] = ()
    accepted: Annotated[tuple[Accepted, ...], Meta(max_length=500)] = ()
    fits: Annotated[tuple[Fit, ...], Meta(max_length=200)] = ()
    pinned: Annotated[tuple[Quantity, ...], Meta(max_length=500)] = ()
    """Counts that no fit may change."""
    wire_from: Literal["cut", "spool"] = "cut"
    heaviest_g: Grams | None = None
    corrections: Annotated[tuple[Correction, ...], Meta(max_length=40)] = ()
    """What of the maker's own builds it is computed with."""
    note: Text = ""

    def run(self, name: str) -> Run | None:
        return next((run for run in self.runs if run.name == name), None)

    @property
    def owners(self) -> tuple[Owner, ...]:
        """Runs, then rows, as written."""
        return (*self.runs, *self.rows)

    def owner(self, name: str) -> Owner | None:
        return next((owner for owner in self.owners if owner.name == name), None)

    def replaced(self, old: Owner, new: Owner) -> "Piece":
        """The piece with another run or row in the place of one of its own."""
        if isinstance(new, Run):
            return replace(self, runs=tuple(new if own is old else own for own in self.runs))
        return replace(self, rows=tuple(new if own is old else own for own in self.rows))

    def with_owner(self, new: Owner) -> "Piece":
        """The piece with a further run or row."""
        if isinstance(new, Run):
            return replace(self, runs=(*self.runs, new))
        return replace(self, rows=(*self.rows, new))


def catalogue(piece: Piece) -> dict[str, Thing]:
    """Every part and unit of the piece by its id."""
    return {thing.id: thing for thing in (*piece.parts, *piece.units)}
