"""One part by another of another size: lengths stay, as whole links or patterns; what hangs stays
where it hung, and its number with it.
"""

from collections.abc import Callable, Iterator
from itertools import pairwise

from msgspec.structs import replace

from maglia.core.assembly.kinds import kind_of
from maglia.core.edits.edit import links_near
from maglia.core.edits.rearrange import replaced_everywhere
from maglia.core.edits.renumber import leaves
from maglia.core.edits.spots import CENTRE, Edited, Spot, item_of
from maglia.core.fit.lever import lever_at
from maglia.core.parts.parts import Chain, chain_length_mm
from maglia.core.parts.units import Cluster, Thing, Things
from maglia.core.piece.items import ChainItem, Item, StrungItem, UnitItem
from maglia.core.piece.piece import (
    DropRow,
    Override,
    Owner,
    Piece,
    Place,
    RowHung,
    SwagRow,
    TiedRows,
    catalogue,
)
from maglia.core.values.record import DomainError
from maglia.core.values.references import with_records

Moved = dict[tuple[str, int], Callable[[int], int]]
"""By run and item, where a link stands now that stood there."""
ALIKE_MM = 1e-6


def replaced_keeping_lengths(piece: Piece, ref: str, thing: Thing) -> Edited:
    """A part or unit by another of its kind everywhere. Chain and strung patterns that are of
    another length by it get the number that is nearest to what they were. Raises DomainError."""
    edited = replaced_everywhere(piece, ref, thing)
    changed, said = edited.piece, []
    moved: Moved = {}
    for spot, numbers in _counted_spots(piece):
        item = item_of(piece, spot)
        if not _is_of(item, ref, catalogue(piece)):
            continue
        try:
            before, after = lever_at(piece, spot), lever_at(changed, spot)
        except DomainError:  # of unknown size: it keeps its number
            continue
        length = before.length_of(before.count)
        if abs(after.length_of(before.count) - length) < ALIKE_MM:
            continue
        count = after.nearest(length)
        changed = after.put(changed, count)
        counted = kind_of(item).counted
        said.append(f"{spot.owner}: {before.count} → {count} "
                    f"{counted.words if counted else 'links'}")  # fmt: skip
        if isinstance(item, ChainItem):
            follow = _follower(before.count, count, centre=spot.path == (CENTRE,))
            run = _written_as(piece, spot.owner)
            moved |= {(run, number): follow for number in numbers}
    changed = _beside(piece, changed, ref, thing, said)
    if not said:
        return edited
    words = f"{edited.words}, lengths kept: {'; '.join(said)}"
    return replace(edited, piece=_followed(piece, changed, moved), words=words)


def _beside(before: Piece, piece: Piece, ref: str, thing: Thing, said: list[str]) -> Piece:
    """Chain that stands in no run or row as such: at the ends of the closure, in single drops that
    were overruled."""
    old = catalogue(before)[ref]
    if not isinstance(old, Chain) or not isinstance(thing, Chain):
        return piece

    def chain(item: ChainItem) -> ChainItem:
        mm = chain_length_mm(old, item.links, item.first_phase + 1)
        if item.part != thing.id or mm is None or not thing.pitches_mm:
            return item
        links = links_near(thing, mm, first=item.first_phase + 1)
        if links != item.links:
            said.append(f"{item.links} → {links} links")
        return replace(item, links=links)

    def override(one: Override) -> Override:
        return with_records(one, ChainItem, chain)

    closure = with_records(piece.closure, ChainItem, chain)
    return replace(with_records(piece, Override, override), closure=closure)


def _written_as(piece: Piece, owner: str) -> str:
    found = piece.owner(owner)
    assert found is not None
    return found.written_as


def _counted_spots(piece: Piece) -> Iterator[tuple[Spot, tuple[int, ...]]]:
    """Every item as it is written, with its numbers as it is written out (0 is the centre)."""
    for owner in piece.owners:
        if owner.on_fold is not None:
            yield Spot(owner.name, (CENTRE,)), (0,)
        numbers: dict[tuple[int, ...], list[int]] = {}
        for number, (path, _) in enumerate(leaves(owner.own_items), 1 + owner.made_before):
            numbers.setdefault(path, []).append(number)
        for path, own in numbers.items():
            yield Spot(owner.name, path), tuple(own)


def _is_of(item: Item, ref: str, things: Things) -> bool:
    if isinstance(item, UnitItem):
        unit = things[item.unit]
        return isinstance(unit, Cluster) and unit.carrier == ref and unit.links > 1
    if isinstance(item, StrungItem):  # what is written once is no pattern that could be repeated
        return item.times > 1 and ref in item.pattern
    return isinstance(item, ChainItem) and item.part == ref


def _follower(before: int, after: int, *, centre: bool) -> Callable[[int], int]:
    """Where a link stands in a stretch of another number of links; the first and last stay so."""
    old, new = (before // 2, after // 2) if centre else (before, after)

    def follow(link: int) -> int:
        if link <= 0 or (link == 1 and not centre):
            return link
        if link >= old:
            return new + link - old if link > old else new
        at = link * new / old if centre else (link - 0.5) * new / old + 0.5
        return min(max(round(at), 1), new)

    return follow


def _followed(before: Piece, piece: Piece, moved: Moved) -> Piece:
    """Every place and row on what was changed follows it."""

    def place(own: Place) -> Place:
        follow = moved.get((own.run, own.item))
        if follow is None or own.port is not None:
            return own
        until = None if own.until is None else follow(own.until)
        return replace(own, at=follow(own.at), until=until)

    piece = with_records(piece, Place, place)
    for owner in piece.owners:
        piece = piece.replaced(owner, _row(before, owner, moved))
    return piece


def _row(before: Piece, row: Owner, moved: Moved) -> Owner:
    if isinstance(row, TiedRows) and row.carried is not None:
        return replace(row, carried=_carried(row.carried, moved))
    if not isinstance(row, DropRow | SwagRow):
        return row
    if isinstance(row, DropRow):
        row = _steps(before, row)
    follow = moved.get((row.run, row.item))
    if follow is None:
        return row
    if isinstance(row, DropRow) and row.rule == "every":
        first = 2 * row.every  # far from the rounding at the fold
        return replace(row, every=max(round(follow(first) / 2), 1))
    return replace(row, places=_apart([follow(link) for link in row.places], row.name))


def _carried(hung: RowHung, moved: Moved) -> RowHung:
    follow = moved.get((hung.run, hung.item))
    if follow is None:
        return hung
    return replace(hung, places=_apart([follow(link) for link in hung.places], hung.run))


def _apart(places: list[int], name: str) -> tuple[int, ...]:
    """Places outward, none twice. Raises DomainError if links are too few for that."""
    if any(a >= b for a, b in pairwise(places)):
        raise DomainError(f"“{name}” hangs at links that would fall together: its links are too "
                          "large for that; say counts, or fewer drops")  # fmt: skip
    return tuple(places)


def _steps(before: Piece, row: DropRow) -> DropRow:
    """The steps of a graded row, in links of the other size."""
    old = before.owner(row.name)
    if not row.steps or not isinstance(old, DropRow):
        return row
    base = next((k for k, one in enumerate(row.items) if isinstance(one, ChainItem)), None)
    if base is None:
        return row
    was, now = old.items[base], row.items[base]
    assert isinstance(was, ChainItem)
    assert isinstance(now, ChainItem)
    if was.links == now.links:
        return row
    steps = tuple(round((was.links + step) * now.links / was.links) - now.links
                  for step in row.steps)  # fmt: skip
    return replace(row, steps=steps)
