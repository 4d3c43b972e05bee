"""A change on the mat, as an edit of the piece: here only, the mirror too, or the whole row.

A row holds one place otherwise than the rest; a pair is freed where only one side changes.
"""

from collections.abc import Callable
from typing import Literal

from msgspec.structs import replace

from maglia.core.assembly.assembly import Assembly, Member
from maglia.core.assembly.places import CLOSURE
from maglia.core.assembly.rows import override_of, stepped, swag_items
from maglia.core.edits.edit import set_count
from maglia.core.edits.rearrange import freed_or_mirrored
from maglia.core.edits.renumber import stood_alone
from maglia.core.edits.spots import CENTRE, Edited, Spot, items_at, owner_of, spot_in, spot_of
from maglia.core.piece.items import ChainItem, Item, RingItem
from maglia.core.piece.piece import (
    DropRow,
    Items,
    OtherCount,
    Override,
    Piece,
    Run,
    Side,
    SwagRow,
    TiedRows,
)
from maglia.core.values.record import DomainError, Value

Scope = Literal["here", "both", "row"]
SCOPES: dict[Scope, str] = {"here": "here only", "both": "the mirror too", "row": "the whole row"}
Edit = Callable[[Piece, Spot], Edited]


class OnMat(Value, frozen=True):
    """The changed piece in words; `moved` says which places bear other names now, by how they
    begin."""

    piece: Piece
    words: str
    moved: dict[str, str]


def scopes_of(assembly: Assembly, member: Member) -> tuple[Scope, ...]:
    """How far a change at a member can reach; the whole row is a repeat too that it stands in."""
    origin = assembly.origins.get(member.run)
    owner = assembly.piece.owner(origin.owner) if origin else None
    sided = member.side in ("left", "right")
    if isinstance(owner, Run):
        here: tuple[Scope, ...] = ("here",) if sided and owner.lies == "paired" else ()
        spot = spot_of(assembly, member.run, member.item)
        row: tuple[Scope, ...] = ("row",) if spot is not None and len(spot.path) > 1 else ()
        return ("both", *here, *row)
    if isinstance(owner, DropRow):
        return ("here", "both", "row") if sided else ("both", "row")
    if isinstance(owner, TiedRows):
        hanger = origin is not None and origin.ordinal is not None
        return (("here", "both", "row") if sided else ("both", "row")) if hanger else ("row",)
    return ("both", "row") if isinstance(owner, SwagRow) else ("both",)


def changed_on_mat(assembly: Assembly, member: Member, scope: Scope, edit: Edit) -> OnMat:
    """The piece with an edit at a member's place, as far as it is meant to reach. Raises
    DomainError if it cannot reach so, or the edit is refused."""
    piece, origin = assembly.piece, assembly.origins.get(member.run)
    if member.run == CLOSURE or origin is None:
        raise DomainError("what stands at the clasp is changed on the Bench: say close …")
    if scope not in scopes_of(assembly, member):
        raise DomainError(f"“{SCOPES[scope]}” is no choice there: it stands once, or is mirrored")
    spot = spot_of(assembly, member.run, member.item)
    if spot is None:
        raise DomainError("there is nothing to change there")
    owner = owner_of(piece, origin.owner)
    if isinstance(owner, TiedRows) and member.item <= owner.made_before:
        return _in_ties(assembly, owner, member, edit, scope)
    if scope == "row":
        edited = edit(piece, spot)
        return OnMat(edited.piece, edited.words, {})
    own = _alone(edit, member.item - owner.made_before)
    side: Side | None = member.side if scope == "here" else None  # type: ignore[assignment]
    if isinstance(owner, Run):
        return _in_run(piece, owner, spot, own, side)
    assert not isinstance(owner, TiedRows)
    return _in_row(piece, owner, origin.ordinal or 0, member, own, side)


def _alone(edit: Edit, number: int) -> Edit:
    """The edit of one written-out item alone, though it stands in a repeat."""

    def do(piece: Piece, spot: Spot) -> Edited:
        if len(spot.path) > 1:
            piece, path = stood_alone(piece, owner_of(piece, spot.owner), number)
            spot = replace(spot, path=path)
        return edit(piece, spot)

    return do


def _in_run(piece: Piece, run: Run, spot: Spot, edit: Edit, side: Side | None) -> OnMat:
    if side is None:
        edited = edit(piece, spot)
        return OnMat(edited.piece, edited.words, {})
    freed = freed_or_mirrored(piece, run.name).piece
    made = {r.name: r for r in freed.runs if piece.run(r.name) is None}
    own = next(name for name, r in made.items()
               if any(p is not None and p.side == side for p in (r.start, r.end)))  # fmt: skip
    other = next(name for name in made if name != own)
    edited = edit(freed, replace(spot, owner=own))
    far = "left" if side == "right" else "right"
    moved = {f"{run.name}/{side}/": f"{own}/whole/", f"{run.name}/{far}/": f"{other}/whole/"}
    return OnMat(edited.piece, f"{edited.words}, {side} only", moved)


def _in_row(
    piece: Piece, row: DropRow | SwagRow, ordinal: int, member: Member, edit: Edit,
    side: Side | None,
) -> OnMat:  # fmt: skip
    """One drop or swag of a row otherwise than the rest."""
    sided: str | None = member.side if member.side in ("left", "right") else side
    held = override_of(row.overrides, ordinal, sided)
    if held is not None:
        items = held.items
    elif isinstance(row, DropRow):
        items = stepped(row, ordinal)
    else:
        items = swag_items(row, ordinal)
    own_row = row.with_items(items)
    spot = spot_in(own_row, member.item)
    if spot is None:
        raise DomainError("there is nothing to change there")
    edited = edit(piece.replaced(row, own_row), spot)
    changed = owner_of(edited.piece, row.name)
    assert isinstance(changed, DropRow | SwagRow)
    others = [
        o for o in row.overrides if o.number != ordinal or (side and o.side not in (None, side))
    ]
    if side and (whole := override_of(row.overrides, ordinal, None)) and whole.side is None:
        far: Side = "left" if side == "right" else "right"
        others.append(Override(number=ordinal, side=far, items=whole.items))
    own = Override(number=ordinal, side=side, items=changed.items)
    new = replace(row, overrides=(*others, own))
    where = f"{row.name}, drop {ordinal}" + (f", {side} only" if side else "")
    moved = _sided(member.run) if side else {}
    after = edited.piece.replaced(changed, new)
    return OnMat(after, f"{where}: {edited.words.partition(': ')[2] or edited.words}", moved)


def _in_ties(assembly: Assembly, row: TiedRows, member: Member, edit: Edit, scope: Scope) -> OnMat:
    """Another number of rings where a row hangs: at one place, on both sides, or all along it; or
    between all the links of a row."""
    origin, run = assembly.origins[member.run], assembly.run_of[member.run]
    level, ordinal = origin.level or 0, origin.ordinal
    alone = replace(run, lies="free", centre=None, items=(RingItem(part=member.ref),), start=None,
                    end=None)  # fmt: skip
    probe = replace(assembly.piece, runs=(alone,), rows=())
    items = edit(probe, Spot(run.name, (0,))).piece.runs[0].items
    if (
        member.kind != "ring"
        or len(items) != 1
        or not (isinstance(items[0], RingItem) and items[0].part == member.ref)
    ):
        raise DomainError("in tied rows only the number of rings can be another on the mat")
    count = items[0].count
    if scope == "row":
        field, k = ("between", level) if ordinal is None else ("hang", max(level - 1, 0))
        held = getattr(row, field)
        whole = [*held, *held[-1:] * len(row.rows)][: len(row.rows)]
        whole[k] = count
        where = "between" if ordinal is None else "above"
        words = f"{row.name}, row {level + 1}: {count} rings {where}"
        return OnMat(assembly.piece.replaced(row, replace(row, **{field: tuple(whole)})), words, {})
    side: Side | None = None
    if scope == "here" and member.side in ("left", "right"):
        side = member.side
    others = tuple(o for o in row.but if (o.of, o.level, o.number) != ("hang", level, ordinal)
                   or (side and o.side not in (None, side)))  # fmt: skip
    own = OtherCount(level=level, number=ordinal or 0, count=count, side=side)
    words = f"{row.name}, row {level + 1}, hanger {ordinal}: {count} rings"
    changed = assembly.piece.replaced(row, replace(row, but=(*others, own)))
    return OnMat(changed, words, _sided(run.name) if side else {})


def _sided(run: str) -> dict[str, str]:
    """How places of a pair begin once each side is on its own."""
    return {f"{run}/{side}/": f"{run} {side}/whole/" for side in ("left", "right")}


def changed_count(assembly: Assembly, member: Member, scope: Scope, count: int) -> OnMat:
    """The piece with another count at a member's place; where a row goes by steps, so that the
    count is this one's. Raises DomainError as `changed_on_mat`."""
    return changed_on_mat(
        assembly, member, scope, count_edit(count - _step(assembly, member, scope))
    )


def _step(assembly: Assembly, member: Member, scope: Scope) -> int:
    """How many links more a drop has than its row is written with."""
    origin = assembly.origins.get(member.run)
    row = assembly.piece.owner(origin.owner) if origin is not None else None
    if scope != "row" or not isinstance(row, DropRow) or member.kind != "chain":
        return 0
    assert origin is not None
    spot = spot_in(row, member.item)
    own = row.with_items(stepped(row, origin.ordinal or 0))
    if spot is None or spot.path == (CENTRE,):
        return 0
    here, written = (_item_at(one.own_items, spot.path) for one in (own, row))
    return here.links - written.links if isinstance(here, ChainItem) and isinstance(
        written, ChainItem) else 0  # fmt: skip


def _item_at(items: Items, path: tuple[int, ...]) -> Item:
    return items_at(items, path[:-1])[path[-1]]


def count_edit(count: int) -> Edit:
    """The edit that sets a count."""
    return lambda piece, spot: set_count(piece, spot, count)
