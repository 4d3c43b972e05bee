"""Where the dimension lines of a part run, in mm of its own drawing (x along it, y down)."""

from __future__ import annotations

from typing import Literal

from maglia.app.painting.whole import swatch_links
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    End,
    Part,
    Pin,
    Ring,
    Wire,
)
from maglia.core.parts.sizes import sizes_of
from maglia.core.values.record import Value


class Dim(Value, frozen=True):
    """A size's line: `across` from x = a to b, `down` from y = a to b, `point` to a place (a, b),
    `beside` nowhere in the drawing. `label` is what stands before its figure."""

    field: str
    label: str
    way: Literal["across", "down", "point", "beside"]
    a: float = 0.0
    b: float = 0.0


OUTER = "outer_mm"
"""The size of a ring that follows from the others, and can be typed over all the same."""


def dims_of(part: Part) -> tuple[Dim, ...]:
    """A line for every size the part can have."""
    known = {dim.field: dim for dim in _drawn(part)}
    for size in sizes_of(part):
        known.setdefault(size.field, Dim(size.field, size.words, "beside"))
    return tuple(known.values())


def _drawn(part: Part) -> tuple[Dim, ...]:
    if isinstance(part, Ring):
        return _ring(part)
    if isinstance(part, Chain):
        return _chain(part)
    if isinstance(part, Bead):
        long, wide = part.length_mm or 4.0, part.width_mm or 4.0
        return (
            Dim("length_mm", "length", "across", 0, long),
            Dim("width_mm", "width", "down", -wide / 2, wide / 2),
            Dim("hole_mm", "hole", "point", 0.0, 0.0),
        )
    if isinstance(part, Pin):
        long, wire = part.length_mm or 40.0, part.wire_mm or 0.6
        end = Dim("head_mm", "head", "point", 0.0, 0.0)
        if part.head == "eye":
            end = Dim("eye_inner_mm", "eye", "point", -(part.eye_inner_mm or 2.0) / 2, 0.0)
        return (Dim("length_mm", "length", "across", 0, long), end,
                Dim("wire_mm", "wire", "point", long * 0.55, wire / 2))  # fmt: skip
    if isinstance(part, Wire):
        return (Dim("wire_mm", "wire", "point", 7.0, 0.0),)
    if isinstance(part, End):
        long, wide = part.adds_mm or 2.0, part.width_mm or 2.0
        return (
            Dim("adds_mm", "adds", "across", 0, long),
            Dim("width_mm", "width", "down", -wide / 2, wide / 2),
        )
    return _others(part)


def _ring(ring: Ring) -> tuple[Dim, ...]:
    inner, wire = ring.inner_mm or 4.0, ring.wire_mm or 0.8
    across = ring.inner_width_mm or inner
    oval = (
        (Dim("inner_width_mm", "inner width", "down", -across / 2, across / 2),)
        if ring.inner_width_mm
        else (Dim("inner_width_mm", "inner width, if oval", "beside"),)
    )
    return (
        Dim("inner_mm", "inner", "across", 0, inner),
        Dim(OUTER, "outer", "across", -wire, inner + wire),
        Dim("wire_mm", "wire", "point", inner + wire / 2, 0.0),
        *oval,
    )


def _chain(chain: Chain) -> tuple[Dim, ...]:
    links = swatch_links(chain)
    half = (chain.inner_width_mm or links[0] * 0.6) / 2
    shown = sum(links[: len(chain.pitches_mm)]) if chain.pitches_mm else links[0]
    return (
        Dim("pitches_mm", "pitch" if len(chain.pitches_mm or (0,)) == 1 else "pitches", "across", 0,
            shown),
        Dim("inner_width_mm", "inside", "down", -half, half),
        Dim("wire_mm", "wire", "point", links[0] * 0.5, -half - (chain.wire_mm or 0.5) / 2),
    )  # fmt: skip


def _others(part: Part) -> tuple[Dim, ...]:
    if isinstance(part, Charm):
        high, wide = part.height_mm or 20.0, part.width_mm or 10.0
        inner = part.loop_mm or 2.0
        return (
            Dim("height_mm", "height", "across", 0, high),
            Dim("width_mm", "width", "down", -wide / 2, wide / 2),
            Dim("loop_mm", "loop", "point", inner / 2, 0.0),
        )
    if isinstance(part, EarFinding):
        below = part.below_mm or 12.0
        return (Dim("below_mm", "below the lobe", "across", 0, below),
                Dim("loop_mm", "loop", "point", below, 0.0))  # fmt: skip
    if isinstance(part, Clasp):
        span = part.span_mm if part.span_mm is not None else 10.0
        across = Dim("span_mm", "span, done up", "across", 0, span)
        eye = Dim("eye_mm", "eye", "point", (part.eye_mm or 1.6) / 2, 0.0)
        if part.sort == "toggle":
            bar = part.bar_mm or 14.0
            return (across, Dim("bar_mm", "bar", "down", -bar / 2, bar / 2), eye)
        wide = part.width_mm or 5.0
        return (across, Dim("width_mm", "width", "down", -wide * 0.7, wide * 0.7), eye)
    if isinstance(part, Connector):
        wide, high = part.width_mm or 0.0, part.height_mm or 0.0
        found = (
            Dim("width_mm", "width", "across", -wide / 2, wide / 2),
            Dim("height_mm", "height", "down", -high / 2, high / 2),
        )
        return tuple(dim for dim in found if dim.b > dim.a)
    return ()
