"""What a kind of item is to the rest of the program: one entry in one table.

A new kind is a record in `maglia.core.piece`, a module here that registers it, and its import in
the package.
"""

from collections.abc import Callable
from typing import Any, Generic, NamedTuple, TypeVar

from msgspec.structs import replace

from maglia.core.assembly.assembly import Station
from maglia.core.assembly.layer import At, Layer
from maglia.core.parts.units import Things
from maglia.core.piece.items import Item


class Counted(NamedTuple):
    """The field that `+` and digits change, and what it counts in words."""

    field: str
    words: str
    step: Callable[[Any], int] = lambda _: 1
    """In what steps it counts."""


Kind = TypeVar("Kind")


class ItemKind(NamedTuple, Generic[Kind]):
    """lay: its stations, with members and joints added to the layer (None: it is written out
    before) · size: how many parts and links it brings · span: its length along the run, mm, or
    None where that is not known · words: what it is, in a few words."""

    lay: Callable[[Layer, Kind, At], list[Station]] | None
    size: Callable[[Kind, Things], int]
    span: Callable[[Kind, Things], float | None]
    words: Callable[[Kind, Things], str]
    counted: Counted | None = None


_KINDS: dict[type, ItemKind[Any]] = {}


def register(item: type[Kind], kind: ItemKind[Kind]) -> None:
    _KINDS[item] = kind


def kind_of(item: Item) -> ItemKind[Any]:
    return _KINDS[type(item)]


def count_of(item: Item) -> int:
    """Its links, rings or repeats; 1 for what stands once."""
    counted = kind_of(item).counted
    return int(getattr(item, counted.field)) if counted else 1


def with_count(item: Item, count: int) -> Item:
    """The item with another count. It must be of a kind that is counted."""
    counted = kind_of(item).counted
    assert counted is not None
    own = getattr(item, counted.field)
    step = counted.step(item)
    if (over := count % step) and count > 0:  # on to the next that there is
        count += step - over if count > own else -over
    return replace(item, **{counted.field: count})


def size_of(item: Item, things: Things) -> int:
    """How many parts and links an item brings."""
    return kind_of(item).size(item, things)


def span_mm(item: Item, things: Things) -> float | None:
    """Length of an item along its run, mm; None where it is not known."""
    return kind_of(item).span(item, things)


def item_words(item: Item, things: Things) -> str:
    """An item in a few words: “84 links Rolo 3”, “2 × Ring 4”."""
    return kind_of(item).words(item, things)


def name_of(ref: str, things: Things) -> str:
    return things[ref].name if ref in things else ref


def times(count: int, name: str) -> str:
    return f"{count} × {name}" if count > 1 else name
