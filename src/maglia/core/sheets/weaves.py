"""Every weave of a piece: how long, how that is known, and its rings by role."""

from collections import Counter

from msgspec.structs import replace

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.kinds.weave import weave_words
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import Things
from maglia.core.piece.items import MOST_ROWS, WeaveItem
from maglia.core.values.record import Value
from maglia.core.weaves.kinds import SORTS, opened, woven
from maglia.core.weaves.pitch import (
    SAID,
    Pitch,
    is_void,
    pitch_of,
    spans_mm,
    thickness_mm,
    width_mm,
)


class RoleCount(Value, frozen=True):
    """How many rings of a role a strip takes, how many of them are opened on it, and how many it
    takes with one row fewer (None: there are none) and one more."""

    role: str
    ref: str
    count: int
    to_open: int
    fewer: int | None
    more: int | None


class WeaveSheet(Value, frozen=True):
    """One strip as written, of which there are so many `copies`. Lengths in mm, None while a size
    is not known; `off_mm` is how far its length may be off. Of rubber: `drawn_mm` at its limit,
    `round_mm` lying round, where that is known."""

    run: str
    number: int
    words: str
    item: WeaveItem
    pitch: Pitch | None
    length_mm: float | None
    off_mm: float
    fewer_mm: float | None
    more_mm: float | None
    thickness_mm: float
    width_mm: float
    roles: tuple[RoleCount, ...]
    copies: int
    drawn_mm: float | None
    round_mm: float | None
    void: bool
    """Whether its swatch is of other rings."""

    @property
    def known_by(self) -> str:
        return SAID[self.pitch.state] if self.pitch else "the size of a ring is not known"


def weave_sheets(assembly: Assembly) -> tuple[WeaveSheet, ...]:
    """Every weave in the order of the piece."""
    strips: dict[tuple[str, int], tuple[WeaveItem, set[int]]] = {}
    for member in assembly.members:
        if member.woven is not None and member.id == member.woven.weave:
            place = (member.run, member.item)
            strips.setdefault(place, (member.woven.item, set()))[1].add(member.id)
    return tuple(_sheet(item, run, number, len(copies), assembly.things)
                 for (run, number), (item, copies) in strips.items())  # fmt: skip


def weave_mm(item: WeaveItem, things: Things, stretch: float = 1.0) -> float | None:
    """Length of a strip, mm, its rubber so far stretched; None while a size is not known."""
    spans = spans_mm(item, woven(item), things, stretch)
    return None if spans is None else sum(spans)


def _sheet(item: WeaveItem, run: str, number: int, copies: int, things: Things) -> WeaveSheet:
    step = SORTS[item.weave].step
    least = 3 if item.closes else 1
    fewer = replace(item, rows=item.rows - step) if item.rows - step >= least else None
    more = replace(item, rows=item.rows + step) if item.rows + step <= MOST_ROWS else None
    pitch, rubber = pitch_of(item, things), things.get(item.part_of("rubber") or "")
    metal = things.get(item.part_of("ring") or "")
    drawn = round_mm = None
    if isinstance(rubber, Ring):
        drawn = weave_mm(item, things, rubber.stretch_limit)
        if isinstance(metal, Ring) and rubber.inner_mm and metal.inner_mm:
            round_mm = item.rows * (rubber.inner_mm + metal.inner_mm)
    return WeaveSheet(
        run=run, number=number, words=weave_words(item), item=item, pitch=pitch,
        length_mm=weave_mm(item, things), off_mm=pitch.off_mm * item.rows if pitch else 0.0,
        fewer_mm=weave_mm(fewer, things) if fewer else None,
        more_mm=weave_mm(more, things) if more else None,
        thickness_mm=thickness_mm(item, things), width_mm=width_mm(item, things),
        roles=_roles(item, fewer, more), copies=copies, drawn_mm=drawn, round_mm=round_mm,
        void=item.swatch is not None and is_void(item.swatch, item, things),
    )  # fmt: skip


def _roles(
    item: WeaveItem, fewer: WeaveItem | None, more: WeaveItem | None
) -> tuple[RoleCount, ...]:
    own = woven(item)
    beside = [Counter(woven(one).roles) if one else None for one in (fewer, more)]
    opens = Counter(role for k, place in enumerate(own.places) for role in place
                    if opened(item, role, k))  # fmt: skip
    return tuple(
        RoleCount(role, item.part_of(role) or "", number, opens[role],
                  *(found[role] if found is not None else None for found in beside))
        for role, number in Counter(own.roles).items()
    )  # fmt: skip
