"""Rules written out: every row of drops, swags or tied links becomes plain runs.

After `written_out` nothing downstream knows of rows; a drop made by rule and one placed by hand
are the same thing.
"""

from collections.abc import Iterator, Sequence

from msgspec.structs import replace

from maglia.core.piece import (
    ChainItem,
    DropRow,
    Item,
    Override,
    Piece,
    Place,
    RepeatItem,
    RingItem,
    Run,
    Side,
    SwagRow,
    TiedRows,
    UnitItem,
)
from maglia.core.record import DomainError


def written_out(piece: Piece) -> tuple[Run, ...]:
    """All runs of the piece, those made by its rows included, each with a unique name.

    Raises DomainError for two runs of the same name or a row that cannot be placed.
    """
    runs = list(piece.runs)
    for row in piece.rows:
        if isinstance(row, DropRow):
            runs += _drops(row, piece)
        elif isinstance(row, SwagRow):
            runs += _swags(row)
        else:
            runs += _tied(row)
    seen: set[str] = set()
    for run in runs:
        if run.name in seen:
            raise DomainError(f"two runs are called “{run.name}”: give one another name")
        seen.add(run.name)
    return tuple(runs)


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


def _host(row: DropRow, piece: Piece) -> Item:
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


def _size(item: Item) -> int:
    return item.links if isinstance(item, ChainItem) else getattr(item, "count", 1)


def _drops(row: DropRow, piece: Piece) -> Iterator[Run]:
    _host(row, piece)
    for ordinal, number in enumerate(drop_numbers(row, piece)):
        place = Place(run=row.run, item=row.item, at=number)
        items = stepped(row, ordinal)
        name = f"{row.name} {ordinal}"
        if row.item == 0 and number == 0:
            other = override_of(row.overrides, ordinal, None)
            yield from _single(name, "fold", other.items if other else items, place)
            continue
        yield from _sides(row.overrides, ordinal, name, items, place)


def _sides(
    overrides: tuple[Override, ...], ordinal: int, name: str, items: tuple[Item, ...], place: Place
) -> Iterator[Run]:
    left, right = (override_of(overrides, ordinal, side) for side in ("left", "right"))
    if left is right:
        yield from _single(name, "paired", left.items if left else items, place)
        return
    both: tuple[tuple[Side, Override | None], ...] = (("left", left), ("right", right))
    for side, other in both:
        own = replace(place, side=side)
        yield from _single(f"{name} {side}", "free", other.items if other else items, own)


def _single(name: str, lies: str, items: tuple[Item, ...], place: Place) -> Iterator[Run]:
    if items:
        yield Run(name=name, kind="drop", lies=lies, items=items, start=place)  # type: ignore[arg-type]


def override_of(
    overrides: tuple[Override, ...], ordinal: int, side: Side | str | None
) -> Override | None:
    return next((o for o in overrides if o.number == ordinal and o.side in (None, side)), None)


def stepped(row: DropRow, ordinal: int) -> tuple[Item, ...]:
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


def _swags(row: SwagRow) -> Iterator[Run]:
    for ordinal, (inner, outer) in enumerate(zip(row.places, row.places[1:], strict=False)):
        other = override_of(row.overrides, ordinal, None)
        items = other.items if other else row.items
        if items:
            yield Run(
                name=f"{row.name} {ordinal}",
                kind="swag",
                lies="paired",
                items=items,
                start=Place(run=row.run, item=row.item, at=inner),
                end=Place(run=row.run, item=row.item, at=outer),
            )


def between(row: TiedRows, level: int) -> int:
    """Rings between the links of a row, counted from 0 at the top; the last number holds on."""
    return row.between[min(level, len(row.between) - 1)]


def own_items(row: TiedRows) -> int:
    """How many items of the top row's run its rule makes; its sides follow."""
    count = row.rows[0]
    return 2 * (count // 2) - (count + 1) % 2


def _row_run(row: TiedRows, level: int, count: int) -> Run:
    """One row of `count` links: a link on the fold if odd, the joining rings if even."""
    link: Item = UnitItem(unit=row.unit)
    rings: Item = RingItem(part=row.ring, count=between(row, level))
    half = [link, rings] * (count // 2)
    if count % 2:
        centre, items = link, [rings, link] * (count // 2)
    else:
        centre, items = rings, half[:-1]
    return Run(
        name=f"{row.name} {level + 1}",
        kind="tie" if level else "strand",
        lies="across",
        centre=centre,
        items=(*items, *row.sides) if level == 0 else tuple(items),
        end=row.end if level == 0 else None,
    )


def _mid_place(name: str, count: int, ordinal: int) -> Place:
    """The mid of link `ordinal` outward from the fold (0 is on it, only if the count is odd)."""
    item = 2 * ordinal if count % 2 else 2 * ordinal - 1
    return Place(run=name, item=item, at=0 if item == 0 else 1, port="mid")


def _joint_place(row: TiedRows, name: str, level: int, ordinal: int) -> Place:
    """Joint `ordinal` outward of a row: between two links, or the outer end of its last one."""
    count = row.rows[level]
    last = (count + 1) // 2 if count % 2 else count // 2
    if ordinal == last:
        item = 2 * (last - 1) if count % 2 else 2 * last - 1
        return Place(run=name, item=item, at=0 if item == 0 else 1, port="b")
    item = 2 * ordinal - 1 if count % 2 else 2 * ordinal
    if item == 0:
        return Place(run=name, item=0, at=0)
    return Place(run=name, item=item, at=(between(row, level) + 1) // 2)


def _tied(row: TiedRows) -> Iterator[Run]:
    for level, count in enumerate(row.rows):
        yield _row_run(row, level, count)
        if level == 0:
            continue
        above = row.rows[level - 1]
        if above not in (count, count + 1):
            raise DomainError(
                f"“{row.name}”, row {level + 1}: {count} links hang from {above}; a row has as "
                f"many links as the row above or one less, here {above} or {above - 1}"
            )
        rings = between(row, level)
        if above != count and rings % 2 == 0 and count > 1:
            raise DomainError(
                f"“{row.name}”, row {level + 1}: {rings} rings between links leave none in the "
                f"middle to hang from; make it {rings - 1} or {rings + 1}"
            )
        yield from _hangers(row, level, above, count)


def _hangers(row: TiedRows, level: int, above: int, count: int) -> Iterator[Run]:
    rings = RingItem(part=row.hang_ring, count=row.hang[min(level - 1, len(row.hang) - 1)])
    upper, lower = f"{row.name} {level}", f"{row.name} {level + 1}"
    first = 0 if above % 2 else 1
    for ordinal in range(first, first + (above + 1) // 2):
        yield Run(
            name=f"{row.name} {level + 1} hanger {ordinal}",
            kind="tie",
            lies="fold" if ordinal == 0 else "paired",
            items=(rings,),
            start=_mid_place(upper, above, ordinal),
            end=_mid_place(lower, count, ordinal)
            if above == count
            else _joint_place(row, lower, level, ordinal),
        )
