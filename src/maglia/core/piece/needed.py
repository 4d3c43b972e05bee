"""What a thing is made of, and where a piece uses it."""

from collections.abc import Iterable

from maglia.core.parts.units import Thing, Things
from maglia.core.piece.items import RepeatItem
from maglia.core.piece.piece import Owner, Piece, Run, catalogue
from maglia.core.values.record import Value
from maglia.core.values.references import things_named


def made_of(refs: Iterable[str], things: Things) -> tuple[Thing, ...]:
    """The things of some ids and all that they are made of, parts before what needs them. Ids
    that are not among `things` are passed over."""
    found: dict[str, Thing] = {}

    def add(ref: str) -> None:
        thing = things.get(ref)
        if thing is None or ref in found:
            return
        for inner in sorted(things_named(thing)):
            add(inner)
        found[ref] = thing

    for ref in refs:
        add(ref)
    return tuple(found.values())


class Use(Value, frozen=True):
    """One place that uses a part or unit: a run or row with the path to its item (empty: the rule
    of the row), a unit, or the closure."""

    words: str
    owner: str | None = None
    path: tuple[int, ...] = ()


def uses_of(piece: Piece, ref: str) -> tuple[Use, ...]:
    """Every place of the piece that names a part or unit, in the order of the piece."""
    found = [use for owner in piece.owners for use in _in_owner(owner, ref)]
    found += [Use(f"made into {unit.name}") for unit in piece.units if ref in things_named(unit)]
    if ref == piece.closure.clasp:
        found.append(Use("the clasp"))
    if ref == piece.closure.catch:
        found.append(Use("the catch"))
    if ref in things_named((piece.closure.at_clasp, piece.closure.at_catch)):
        found.append(Use("beside the clasp or catch"))
    return tuple(found)


def _in_owner(owner: Owner, ref: str) -> list[Use]:
    name, found = owner.name, []
    if owner.on_fold is not None and ref in things_named(owner.on_fold):
        found.append(Use(f"{name}, on the fold", name, (-1,)))
    for k, item in enumerate(owner.own_items):
        if ref in things_named(item):
            inner = item.items if isinstance(item, RepeatItem) else ()
            within = next((n for n, one in enumerate(inner) if ref in things_named(one)), None)
            path = (k,) if within is None else (k, within)
            found.append(Use(f"{name}, item {k + 1}", name, path))
    if not isinstance(owner, Run) and ref in things_named(owner.with_items(())):
        found.append(Use(f"{name}, by its rule", name))
    return found


def names_of(piece: Piece) -> dict[str, str]:
    """Names of parts and units by their ids."""
    return {ref: thing.name for ref, thing in catalogue(piece).items()}
