"""References by type, and the one walker that finds them all.

A field that names something else says so in its annotation (`PartRef`, `UnitRef`, `ThingRef`,
`RunRef`, `OwnerRef`, `NameRef`), and so does a number that counts items of the run named beside it
(`ItemRef`). Renaming, replacing, copying and “what uses this” are each one rule over `references`.
"""

from collections.abc import Callable, Iterator
from functools import cache
from typing import Annotated, Any, Literal, NamedTuple, TypeVar, get_args, get_origin

from msgspec import Meta
from msgspec.structs import fields, replace

from maglia.core.values.record import CountOrZero, Record

Sort = Literal["thing", "run", "owner", "name", "item"]
_NAME = {"min_length": 1, "max_length": 120}

PartRef = Annotated[str, Meta(**_NAME, extra={"refers": "thing"})]
"""The id of a part."""
UnitRef = Annotated[str, Meta(**_NAME, extra={"refers": "thing"})]
"""The id of a unit."""
ThingRef = Annotated[str, Meta(**_NAME, extra={"refers": "thing"})]
"""The id of a part or a unit, which share one space of ids."""
RunRef = Annotated[str, Meta(**_NAME, extra={"refers": "run"})]
"""The name of a run as it is laid: a maker's own, or one that a row is written out into."""
OwnerRef = Annotated[str, Meta(**_NAME, extra={"refers": "owner"})]
"""The name of a run or row as it is written."""
NameRef = Annotated[str, Meta(**_NAME, extra={"refers": "name"})]
"""The name of a run or row; failing that, of a run that a row is written out into."""
ItemRef = Annotated[CountOrZero, Meta(extra={"refers": "item"})]
"""An item of the run named beside it, written out, from 1; 0 is its centre."""


class Reference(NamedTuple):
    sort: Sort
    name: str


class _Field(NamedTuple):
    name: str
    sort: Sort | None
    """What it refers to; None if it holds further records."""


Some = TypeVar("Some")
Kept = TypeVar("Kept", bound=Record)


def references(value: object) -> Iterator[Reference]:
    """Every reference by name in a record or a tuple of records, in order."""
    if isinstance(value, tuple):
        for one in value:
            yield from references(one)
    elif isinstance(value, Record):
        for name, sort in _plan(type(value)):
            held = getattr(value, name)
            if sort is None:
                yield from references(held)
            elif sort != "item":
                yield from (Reference(sort, ref) for ref in _each(held))


def things_named(value: object) -> set[str]:
    """Ids of all parts and units that a record names."""
    return named(value, "thing")


def named(value: object, sort: Sort) -> set[str]:
    """All names of one sort in a record."""
    return {name for own, name in references(value) if own == sort}


def exchanged(value: Some, sort: Sort, names: dict[str, str]) -> Some:
    """The same record with references of one sort exchanged; untouched if none is among `names`."""
    changed: Some = _mapped(value, lambda own, held: _renamed(held, names) if own == sort else held)
    return changed


def _renamed(held: Any, names: dict[str, str]) -> Any:
    if isinstance(held, tuple):
        return tuple(names.get(one, one) for one in held)
    return names.get(held, held)


def _mapped(value: Any, change: Callable[[Sort, Any], Any]) -> Any:
    if isinstance(value, tuple):
        new = tuple(_mapped(one, change) for one in value)
        return new if any(a is not b for a, b in zip(new, value, strict=True)) else value
    if not isinstance(value, Record):
        return value
    changed = {}
    for name, sort in _plan(type(value)):
        held = getattr(value, name)
        new = _mapped(held, change) if sort is None else change(sort, held)
        if new is not held and new != held:
            changed[name] = new
    return replace(value, **changed) if changed else value


class Gone(Exception):
    """An item that a record cannot do without is no more."""


def renumbered(value: Some, run: str, new_number: Callable[[int], int | None]) -> Some:
    """The same record with every item number of `run` exchanged. Raises Gone if one is no more."""
    changed: Some = _renumbered(value, run, new_number)
    return changed


def _renumbered(value: Any, run: str, new_number: Callable[[int], int | None]) -> Any:
    if isinstance(value, tuple):
        return tuple(_renumbered(one, run, new_number) for one in value)
    if not isinstance(value, Record):
        return value
    changed: dict[str, Any] = {}
    plan = _plan(type(value))
    about = any(sort == "run" and getattr(value, name) == run for name, sort in plan)
    for name, sort in plan:
        held = getattr(value, name)
        if sort is None:
            new = _renumbered(held, run, new_number)
        elif sort == "item" and about:
            new = new_number(held)
            if new is None:
                raise Gone
        else:
            continue
        if new != held:
            changed[name] = new
    return replace(value, **changed) if changed else value


def with_records(value: Some, kind: type[Kept], change: Callable[[Kept], Kept | None]) -> Some:
    """The same record with every record of a kind within it changed. What becomes None leaves its
    tuple; raises Gone where a field cannot be without it."""
    changed: Some = _with_records(value, kind, change)
    return changed


def _with_records(value: Any, kind: type[Kept], change: Callable[[Kept], Kept | None]) -> Any:
    if isinstance(value, kind):
        return change(value)
    if isinstance(value, tuple):
        new = tuple(_with_records(one, kind, change) for one in value)
        return tuple(one for one in new if one is not None)
    if not isinstance(value, Record):
        return value
    changed = {}
    for name, sort in _plan(type(value)):
        held = getattr(value, name)
        if sort is None and held is not None:
            new = _with_records(held, kind, change)
            if new is None:
                raise Gone
            if new != held:
                changed[name] = new
    return replace(value, **changed) if changed else value


def _each(held: Any) -> Iterator[str]:
    if isinstance(held, tuple):
        yield from (one for one in held if isinstance(one, str))
    elif held is not None:
        yield held


@cache
def _plan(kind: type[Record]) -> tuple[_Field, ...]:
    """The fields of a record that are references or hold records, read off its annotations."""
    found = []
    for field in fields(kind):
        sort, holds = _read(field.type)
        if sort is not None or holds:
            found.append(_Field(field.name, sort))
    return tuple(found)


def _read(annotation: Any) -> tuple[Sort | None, bool]:
    """What an annotation refers to, and whether it holds records."""
    if isinstance(annotation, type) and issubclass(annotation, Record):
        return None, True
    if get_origin(annotation) is Annotated:
        inner, *notes = get_args(annotation)
        for note in notes:
            if isinstance(note, Meta) and note.extra and "refers" in note.extra:
                return note.extra["refers"], False
        return _read(inner)
    parts = [_read(part) for part in get_args(annotation)]
    sort = next((sort for sort, _ in parts if sort is not None), None)
    return sort, any(holds for _, holds in parts)
