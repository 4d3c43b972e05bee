"""Rows of drops by rule: “drops every 4 links: teal”, “9 drops spread evenly: teal”, “drops amber /
rose at links 1 to 7”.
"""

from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.edit import add_owner, with_thing
from maglia.core.edits.spots import WHOLE, Edited
from maglia.core.piece.items import ChainItem, RingItem
from maglia.core.piece.piece import DropRow, Override, Piece, Run
from maglia.core.values.record import DomainError
from maglia.phrases.here import Here
from maglia.phrases.hung_by import nothing_opens, ring_for
from maglia.phrases.items import (
    Said,
    items_of,
    with_said,
)
from maglia.phrases.places import At, at_cursor
from maglia.phrases.stands import runs_near, standing
from maglia.phrases.words import (
    Segment,
    Words,
    is_sign,
    unknown,
)


def row_at(
    piece: Piece, turns: list[Said], spots: tuple[At, ...], sides: bool, here: Here, called: str
) -> Edited:
    host = spots[0].place
    if host.side is not None or piece.run(host.run) is None:
        raise DomainError("a row of drops hangs from a run, on both its sides: say drop … at each")
    numbers = tuple(at.place.at for at in spots)
    row = DropRow(
        name=called or "Drops", run=host.run, item=host.item, rule="places",
        places=numbers, items=items_of(turns[0]), overrides=_overrides(turns, len(numbers)),
        count=sum(1 if n == 0 else 2 for n in numbers) if host.item == 0 else len(numbers),
    )  # fmt: skip
    return _rows_added(piece, row, sides, here)


def _rows_added(piece: Piece, row: DropRow, sides: bool, here: Here) -> Edited:
    added = ""
    trial = add_owner(piece, row).piece
    name = trial.rows[-1].name
    made = {run for run, origin in expand(trial).origins.items() if origin.owner == name}
    if not isinstance(row.items[0], RingItem) and nothing_opens(trial, made):
        ring = ring_for(row.items[0], piece, row, here)
        held = RingItem(part=ring.id)
        others = tuple(replace(o, items=(held, *o.items) if o.items else ()) for o in row.overrides)
        row = replace(row, items=(held, *row.items), overrides=others)
        piece, added = with_thing(piece, ring), f" with {ring.name}, since nothing opens there"
    edited = add_owner(piece, row)
    if sides:
        edited = add_owner(edited.piece, row)
    names = " and ".join(one.name for one in edited.piece.rows[-2 if sides else -1 :])
    return Edited(edited.piece, f"{names} added{added}", here.spot)


def _overrides(turns: list[Said], count: int, first: int = 0) -> tuple[Override, ...]:
    """By turns outward: every drop that is not like the first."""
    if len(turns) < 2:
        return ()
    return tuple(Override(number=k + first, items=items_of(turns[k % len(turns)]))
                 for k in range(count) if k % len(turns))  # fmt: skip


def every_said(segment: Segment) -> tuple[int, Words]:
    """“every 4 links”, “every 4th link”: how many, and the things after a colon."""
    words = segment.words
    number = words[0].whole or words[0].nth
    if not number:
        raise unknown([segment.join, *words], "does not say every how many links")
    rest = words[1:]
    if rest and rest[0].low in ("link", "links"):
        rest = rest[1:]
    return number, rest[1:] if rest and is_sign(rest[0], ":", ",") else rest


def evenly(segment: Segment) -> tuple[int, Words]:
    """“spread evenly”, as a step of 0, and the things after a colon."""
    if segment.words[0].low != "evenly":
        raise unknown([segment.join, *segment.words], "is not whole: say 9 drops spread evenly")
    rest = segment.words[1:]
    return 0, rest[1:] if rest and is_sign(rest[0], ":", ",") else rest


def _row_even(turns: list[Said], count: int, sides: bool, here: Here, called: str) -> Edited:
    """So many drops over the whole chain at the cursor."""
    piece = with_said(here.piece, turns, here)
    run, number, _ = _chain_near(here)
    central = number == 0
    each = _overrides(
        turns, (count + 1) // 2 if central else count, int(central and count % 2 == 0)
    )
    row = DropRow(name=called or "Drops", run=run.name, item=number, rule="even", count=count,
                  items=items_of(turns[0]), overrides=each)  # fmt: skip
    return _rows_added(piece, row, sides, here)


def row_every(
    turns: list[Said], every: int, count: int | None, sides: bool, here: Here, called: str
) -> Edited:
    """A drop on each k-th link of the chain at the cursor, or of the only one of its run; `every` 0
    spreads them."""
    if not every:
        if not count:
            raise DomainError("say how many are spread: 9 drops spread evenly")
        return _row_even(turns, count, sides, here, called)
    piece = with_said(here.piece, turns, here)
    run, number, item = _chain_near(here)
    central = number == 0
    room = item.links // 2 if central else item.links
    most = 2 * (room // every) + 1 if central else room // every
    if most < 1:
        raise DomainError(f"“{run.name}” has {item.links} links: no drop stands every {every}")
    if count is not None and count > most:
        raise DomainError(f"{count} drops every {every} links: “{run.name}” has room for {most}")
    wanted = count or most
    if central:
        row = DropRow(name=called or "Drops", run=run.name, item=0, rule="every", every=every,
                      count=wanted, items=items_of(turns[0]),
                      overrides=_overrides(turns, (wanted + 1) // 2, 1 - wanted % 2))  # fmt: skip
    else:
        row = DropRow(name=called or "Drops", run=run.name, item=number, rule="places",
                      every=every, count=wanted, items=items_of(turns[0]),
                      places=tuple(every * (k + 1) for k in range(wanted)),
                      overrides=_overrides(turns, wanted))  # fmt: skip
    return _rows_added(piece, row, sides, here)


def _chain_near(here: Here) -> tuple[Run, int, ChainItem]:
    spot = here.spot
    if spot is not None and spot.path and spot.path != WHOLE:
        at = at_cursor(here)
        if isinstance(at.item, ChainItem):
            run = next(run for run in runs_near(here) if run.name == at.place.run)
            return run, at.place.item, at.item
    for run in runs_near(here)[:1]:
        chains = [(k, item) for k, item in standing(run) if isinstance(item, ChainItem)]
        if len(chains) == 1:
            return run, *chains[0]
        if chains:
            raise DomainError(f"“{run.name}” has {len(chains)} chains: put the cursor on the one, "
                              "or say at links 4 8 12")  # fmt: skip
    raise DomainError("a row of drops hangs from chain: put the cursor on a chain")
