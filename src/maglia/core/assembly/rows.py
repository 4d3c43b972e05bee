"""Rules written out: every row of drops, swags or tied links becomes plain runs.

After `written_out` nothing downstream knows of rows; a drop made by rule and one placed by hand
are the same thing.
"""

from collections.abc import Collection, Iterator, Sequence
from itertools import pairwise
from typing import NamedTuple

from msgspec.structs import replace

from maglia.core.piece.items import ChainItem, Item, RepeatItem, RingItem, UnitItem
from maglia.core.piece.piece import (
    DropRow,
    Items,
    Lies,
    OtherCount,
    Override,
    Owner,
    Piece,
    Place,
    Run,
    Side,
    SwagRow,
    TiedRows,
)
from maglia.core.values.record import DomainError, Value


class Origin(Value, frozen=True):
    """What a run was written out from. `ordinal` counts drops, swags and hangers outward from the
    fold, `level` rows of tied links from 0 at the top; `side` is given where only one side's copy
    is meant. A run of the maker's own is its own owner."""

    owner: str
    ordinal: int | None = None
    level: int | None = None
    side: Side | None = None


class Written(NamedTuple):
    """A run as it is laid, and where it comes from."""

    run: Run
    origin: Origin


def written_out(piece: Piece) -> tuple[Written, ...]:
    """All runs of the piece, those made by its rows included, each with a unique name.

    Raises DomainError for two runs of the same name or a row that cannot be placed.
    """
    written = [one for owner in piece.owners for one in runs_of(owner, piece)]
    seen: set[str] = set()
    for run, _ in written:
        if run.name in seen:
            raise DomainError(f"two runs are called “{run.name}”: give one another name")
        seen.add(run.name)
    return tuple(written)


def runs_of(owner: Owner, piece: Piece) -> Iterator[Written]:
    """What one run or row is written out into. Raises DomainError for a row without a host."""
    if isinstance(owner, Run):
        yield Written(owner, Origin(owner.name))
    elif isinstance(owner, DropRow):
        yield from _drops(owner, piece)
    elif isinstance(owner, SwagRow):
        yield from _swags(owner)
    else:
        yield from _tied(owner)


def made_runs(piece: Piece, owners: Collection[str]) -> set[str]:
    """Names of all runs that some runs and rows are written out into; what cannot be written out
    makes none."""
    try:
        written = written_out(piece)
    except DomainError:
        return set(owners)
    return {run.name for run, origin in written if origin.owner in owners}


def flattened(items: Sequence[Item]) -> Iterator[Item]:
    """Items in order with every repeat written out."""
    for item in items:
        if isinstance(item, RepeatItem):
            for _ in range(item.times):
                yield from flattened(item.items)
        else:
            yield item


def item_at(run: Run, number: int) -> Item | None:
    """The run's item of that number (0 is its centre), or None."""
    if number == 0:
        return run.centre
    for k, item in enumerate(flattened(run.items), 1):
        if k == number:
            return item
    return None


def drop_numbers(row: DropRow, piece: Piece) -> tuple[int, ...]:
    """Where the drops of one side stand, outward from the fold; 0 is the one on the fold."""
    if row.rule == "places":
        return row.places
    if row.rule == "every":
        first = 0 if row.count % 2 else (row.every + 1) // 2
        return tuple(first + k * row.every for k in range((row.count + 1) // 2))
    size = _size(_host(row, piece))
    if row.item:  # one side's stretch: counted from its inner end
        return tuple(n + 1 for n in even_places(size - 1, 2 * row.count - 1, on_fold=True))
    return even_places(size // 2, row.count, on_fold=size % 2 == 1 or row.count % 2 == 1)


def even_places(per_side: int, count: int, *, on_fold: bool) -> tuple[int, ...]:
    """`count` drops over `per_side` places either side of the fold, as evenly as whole links go.

    Inner spaces are as equal as links allow and the larger ones lie outward, so that no two
    spaces differ by more than one link. Returns one side's numbers, 0 for the fold. Raises
    DomainError when the count does not suit the fold or there is no room.
    """
    if count % 2:
        sides = (count - 1) // 2
        space, rest = divmod(per_side, max(sides, 1))
        if sides > per_side:
            raise DomainError(f"{count} drops do not fit on {2 * per_side + 1} links")
        found, at = [0], 0
        for k in range(sides):
            at += space + (1 if k >= sides - rest else 0)
            found.append(at)
        return tuple(found)
    sides = count // 2
    for reach in range(per_side, 0, -1):  # outermost place; drawn in only if it must be
        for middle in range(2 if on_fold else 1, 2 * reach + 1, 2):
            numbers = _spread(reach, middle, sides, on_fold=on_fold)
            if numbers:
                return numbers
    raise DomainError(f"{count} drops do not fit on {2 * per_side} links")


def _spread(reach: int, middle: int, sides: int, *, on_fold: bool) -> tuple[int, ...]:
    """One side's places for a middle space of `middle` links, or () where spaces differ by 2."""
    first = middle // 2 if on_fold else (middle + 1) // 2
    if sides == 1:
        return (first,) if first == reach else ()
    space, rest = divmod(reach - first, sides - 1)
    largest = space + (1 if rest else 0)
    if space < 1 or max(largest, middle) - min(space, middle) > 1:
        return ()
    numbers = [first]
    for k in range(sides - 1):
        numbers.append(numbers[-1] + space + (1 if k >= sides - 1 - rest else 0))
    return tuple(numbers)


def _host(row: DropRow, piece: Piece) -> ChainItem | RingItem:
    run = piece.run(row.run)
    if run is None:
        raise DomainError(f"row “{row.name}” stands on run “{row.run}”, which does not exist")
    item = item_at(run, row.item)
    if item is None:
        what = "centre" if row.item == 0 else f"item {row.item}"
        raise DomainError(f"row “{row.name}”: run “{row.run}” has no {what}")
    if not isinstance(item, ChainItem | RingItem):
        raise DomainError(
            f"row “{row.name}” can stand on chain or rings; item {row.item} of “{row.run}” is "
            f"a {item.kind}"
        )
    return item


def _size(item: ChainItem | RingItem) -> int:
    return item.links if isinstance(item, ChainItem) else item.count


def _drops(row: DropRow, piece: Piece) -> Iterator[Written]:
    _host(row, piece)
    for ordinal, number in enumerate(drop_numbers(row, piece)):
        place = Place(run=row.run, item=row.item, at=number)
        items, origin = stepped(row, ordinal), Origin(row.name, ordinal)
        if row.item == 0 and number == 0:
            other = override_of(row.overrides, ordinal, None)
            yield from _single(origin, "fold", other.items if other else items, place)
            continue
        yield from _sides(row.overrides, origin, items, place)


def _sides(
    overrides: tuple[Override, ...], origin: Origin, items: Items, place: Place
) -> Iterator[Written]:
    ordinal = origin.ordinal or 0
    left, right = (override_of(overrides, ordinal, side) for side in ("left", "right"))
    if left is right:
        yield from _single(origin, "paired", left.items if left else items, place)
        return
    both: tuple[tuple[Side, Override | None], ...] = (("left", left), ("right", right))
    for side, other in both:
        own, of = replace(place, side=side), replace(origin, side=side)
        yield from _single(of, "free", other.items if other else items, own)


def _single(origin: Origin, lies: Lies, items: Items, place: Place) -> Iterator[Written]:
    if items:
        name = f"{origin.owner} {origin.ordinal}"
        name = f"{name} {origin.side}" if origin.side else name
        made = Run(name=name, kind="drop", lies=lies, items=items, start=place)
        yield Written(made, origin)


def override_of(
    overrides: tuple[Override, ...], ordinal: int, side: Side | str | None
) -> Override | None:
    return next((o for o in overrides if o.number == ordinal and o.side in (None, side)), None)


def stepped(row: DropRow, ordinal: int) -> Items:
    """The row's items as drop `ordinal` has them: its first chain longer by its step."""
    if not row.steps:
        return row.items
    step = row.steps[min(ordinal, len(row.steps) - 1)]
    items = list(row.items)
    for k, item in enumerate(items):
        if isinstance(item, ChainItem):
            if item.links + step < 1:
                raise DomainError(
                    f"row “{row.name}”, drop {ordinal}: {item.links} links and a step of {step} "
                    "leave no chain; make the step smaller or leave the drop out"
                )
            items[k] = replace(item, links=item.links + step)
            return tuple(items)
    raise DomainError(f"row “{row.name}” has steps in links, but no chain in its drops")


def swag_items(row: SwagRow, ordinal: int) -> Items:
    """What swag `ordinal` of a row is made of; nothing if it is left out."""
    other = override_of(row.overrides, ordinal, None)
    return other.items if other else row.items


def _swags(row: SwagRow) -> Iterator[Written]:
    for ordinal, (inner, outer) in enumerate(pairwise(row.places)):
        items = swag_items(row, ordinal)
        if items:
            made = Run(
                name=f"{row.name} {ordinal}",
                kind="swag",
                lies="paired",
                items=items,
                start=Place(run=row.run, item=row.item, at=inner),
                end=Place(run=row.run, item=row.item, at=outer),
            )
            yield Written(made, Origin(row.name, ordinal))


def between(row: TiedRows, level: int) -> int:
    """Rings between the links of a row, counted from 0 at the top; the last number holds on."""
    return row.between[min(level, len(row.between) - 1)]


def _row_run(row: TiedRows, level: int, count: int) -> Run:
    """One row of `count` links: a link on the fold if odd, the joining rings if even."""
    link: Item = UnitItem(unit=row.unit_of(level))
    half: list[Item] = []
    for ordinal in range(count // 2 + count % 2):
        half += [_joining(row, level, ordinal), link]
    centre, items = (half[1], half[2:]) if count % 2 else (half[0], half[1:])
    strand = level == 0 and row.carried is None
    return Run(
        name=row.level_name(level),
        kind="strand" if strand else "tie",
        lies="across",
        centre=centre,
        items=(*items, *row.sides) if level == 0 else tuple(items),
        end=row.end if strand else None,
    )


def _joining(row: TiedRows, level: int, ordinal: int) -> Item:
    """The rings of one joint of a row: of an even row joint 0 is on the fold, of an odd one joint 1
    is the first beside it."""
    return RingItem(part=row.ring, count=_joint_rings(row, level, ordinal))


def _joint_rings(row: TiedRows, level: int, ordinal: int) -> int:
    other = _other(row, "between", level, ordinal)
    return other.count if other else between(row, level)


def _other(row: TiedRows, of: str, level: int, ordinal: int) -> OtherCount | None:
    return next((o for o in row.but if (o.of, o.level, o.number) == (of, level, ordinal)), None)


def _mid_place(name: str, count: int, ordinal: int) -> Place:
    """The mid of link `ordinal` outward from the fold (0 is on it, only if the count is odd)."""
    item = 2 * ordinal if count % 2 else 2 * ordinal - 1
    return Place(run=name, item=item, at=0 if item == 0 else 1, port="mid")


def _joint_place(row: TiedRows, name: str, level: int, ordinal: int) -> Place:
    """Joint `ordinal` outward of a row: between two links, or the outer end of its last one. Of an
    even number of rings it is the inner one of the middle two."""
    count = row.rows[level]
    last = (count + 1) // 2 if count % 2 else count // 2
    if ordinal == last:
        item = 2 * (last - 1) if count % 2 else 2 * last - 1
        return Place(run=name, item=item, at=0 if item == 0 else 1, port="b")
    item = 2 * ordinal - 1 if count % 2 else 2 * ordinal
    if item == 0:
        return Place(run=name, item=0, at=0)
    return Place(run=name, item=item, at=(_joint_rings(row, level, ordinal) + 1) // 2)


def _tied(row: TiedRows) -> Iterator[Written]:
    _refuse_other_places(row)
    for level, count in enumerate(row.rows):
        yield Written(_row_run(row, level, count), Origin(row.name, level=level))
        if level == 0:
            yield from _carried(row, count)
            continue
        above = row.rows[level - 1]
        if above not in (count, count + 1):
            raise DomainError(
                f"“{row.name}”, row {level + 1}: {count} links hang from {above}; a row has as "
                f"many links as the row above or one less, here {above} or {above - 1}"
            )
        yield from _hangers(row, level, above, count)


def _hung_at(above: int) -> range:
    """Numbers of the hangers below a row of so many links, outward from the fold."""
    first = 0 if above % 2 else 1
    return range(first, first + (above + 1) // 2)


def joints_of_row(count: int) -> range:
    """Numbers of the joints of a row and of its outer end, outward from the fold."""
    return range(count % 2, count // 2 + count % 2 + 1)


def _refuse_other_places(row: TiedRows) -> None:
    """Every place with a count of its own is there."""
    for other in row.but:
        known: range = range(0)
        if other.level < len(row.rows):
            count = row.rows[other.level]
            if other.of == "between":
                known = joints_of_row(count)[:-1]
            elif other.level:
                known = _hung_at(row.rows[other.level - 1])
            elif row.carried is not None:
                known = joints_of_row(count)
        if other.number not in known:
            raise DomainError(
                f"“{row.name}” has another count at {other.of} {other.number} of row "
                f"{other.level + 1}, which is not there: take that count out"
            )
        if other.of == "between" and other.side is not None:
            raise DomainError(
                f"“{row.name}”, row {other.level + 1}: the rings between its links lie mirrored; "
                "let the count hold on both sides"
            )


def _hangers(row: TiedRows, level: int, above: int, count: int) -> Iterator[Written]:
    upper, lower = row.level_name(level - 1), row.level_name(level)
    usual = row.hang[min(level - 1, len(row.hang) - 1)]
    for ordinal in _hung_at(above):
        start = _mid_place(upper, above, ordinal)
        end = (
            _mid_place(lower, count, ordinal)
            if above == count
            else _joint_place(row, lower, level, ordinal)
        )
        yield from _hanger(row, level, ordinal, usual, row.hang_ring, start, end)


def _carried(row: TiedRows, count: int) -> Iterator[Written]:
    """The rings by which the top row hangs from what carries it."""
    by = row.carried
    if by is None:
        return
    if row.sides or row.end is not None:
        raise DomainError(
            f"“{row.name}” hangs from “{by.run}” and has ends of its own: take its sides out, or "
            "let it be the strand"
        )
    joints = joints_of_row(count)
    if len(by.places) != len(joints):
        raise DomainError(
            f"“{row.name}” hangs from “{by.run}” at {len(by.places)} places, and its top row of "
            f"{count} links has {len(joints)} from the fold outward: one for each joint, one for "
            "its end"
        )
    for ordinal, number in zip(joints, by.places, strict=True):
        start = Place(run=by.run, item=by.item, at=number)
        end = _joint_place(row, row.level_name(0), 0, ordinal)
        yield from _hanger(row, 0, ordinal, by.rings, by.ring, start, end)


def _hanger(
    row: TiedRows, level: int, ordinal: int, usual: int, ring: str, start: Place, end: Place
) -> Iterator[Written]:
    """One tie of rings, or one a side where they differ."""
    name, origin = f"{row.level_name(level)} hanger {ordinal}", Origin(row.name, ordinal, level)
    others = [o for o in row.but if (o.of, o.level, o.number) == ("hang", level, ordinal)]

    def made(called: str, lies: Lies, count: int, side: Side | None) -> Run:
        return Run(
            name=called, kind="tie", lies=lies, items=(RingItem(part=ring, count=count),),
            start=replace(start, side=side), end=replace(end, side=side),
        )  # fmt: skip

    both = next((o.count for o in others if o.side is None), usual)
    if not any(o.side for o in others):
        lies: Lies = "fold" if ordinal == 0 else "paired"
        yield Written(made(name, lies, both, None), origin)
        return
    sides: tuple[Side, Side] = ("left", "right")
    for side in sides:
        count = next((o.count for o in others if o.side == side), both)
        run = made(f"{name} {side}", "free", count, side)
        yield Written(run, replace(origin, side=side))
