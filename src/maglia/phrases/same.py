"""Whether two pieces are the same to every report, wish and way, whatever their ids."""

from collections import Counter
from typing import Any

import msgspec

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.expand import expand
from maglia.core.piece.piece import (
    Piece,
    catalogue,
)


def differs(one: Piece, other: Piece) -> str:
    """In what two pieces differ that no report, wish or way may; empty if in nothing."""
    if (built := _built(expand(one))) != (again := _built(expand(other))):
        lost = list((built - again).elements()) or list((again - built).elements())
        return f"how “{lost[0][0]}” is joined or built"
    for field in ("name", "sort", "wearer", "form", "pair", "wraps", "wire_from", "note", "fits"):
        if getattr(one, field) != getattr(other, field):
            return f"its {field.replace('_', ' ')}"
    for field in ("ways", "accepted", "closure"):
        if _named(getattr(one, field), one) != _named(getattr(other, field), other):
            return f"its {field}"
    return ""


def _built(assembly: Assembly) -> Counter[tuple[object, ...]]:
    """What an assembly is made of and joined by, in names."""
    names = {ref: thing.name for ref, thing in assembly.things.items()}
    said = {}
    for member in assembly.members:
        side = "fold" if member.side == "whole" else member.side  # once, either way
        own = (member.run, member.item, names.get(member.ref, member.ref), member.kind, side,
               member.links)  # fmt: skip
        said[member.id] = own
    found: Counter[tuple[object, ...]] = Counter(said.values())
    for joint in assembly.joints:
        ends = sorted(((said[joint.a], str(joint.port_a)), (said[joint.b], str(joint.port_b))),
                      key=str)  # fmt: skip
        found[(said[joint.a][0], *ends)] += 1
    return found


def _named(value: object, piece: Piece) -> object:
    """Plain data with the names of things for their ids."""
    names = {ref: f"\0{thing.name}" for ref, thing in catalogue(piece).items()}

    def walk(one: Any) -> Any:
        if isinstance(one, dict):
            return {key: walk(own) for key, own in one.items()}
        if isinstance(one, list | tuple):
            return [walk(own) for own in one]
        return names.get(one, one) if isinstance(one, str) else one

    return walk(msgspec.to_builtins(value))
