"""A piece as its maker's hands make it: her corrections applied to units and rules."""

from collections.abc import Sequence
from typing import Any

from msgspec.structs import replace

from maglia.core.parts.units import BeadLink, Dangle, Loop, Thing
from maglia.core.piece.corrections import Correction
from maglia.core.values.rules import Rules

STYLES = {"simple": "simple loop", "wrapped": "wrapped loop", "doubled": "wrapped loop"}


def corrected_things(
    things: dict[str, Thing], corrections: Sequence[Correction]
) -> dict[str, Thing]:
    """Parts and units with every loop as long, and of as much wire, as it comes out."""
    spans = {c.about: c.value for c in corrections if c.what == "span"}
    wires = {c.about: c.value for c in corrections if c.what == "wire"}
    if not spans and not wires:
        return things
    return {ref: _corrected(thing, spans, wires) for ref, thing in things.items()}


def _corrected(thing: Thing, spans: dict[str, float], wires: dict[str, float]) -> Thing:
    if not isinstance(thing, BeadLink | Dangle):
        return thing

    def loop(own: Loop) -> Loop:
        style = STYLES[own.style]
        return replace(own, longer_mm=spans.get(style, 0.0), wire_more_mm=wires.get(style, 0.0))

    changed: dict[str, Any] = {"loop": loop(thing.loop)}
    if isinstance(thing, BeadLink) and thing.far_loop is not None:
        changed["far_loop"] = loop(thing.far_loop)
    return replace(thing, **changed)


def corrected_rules(rules: Rules, corrections: Sequence[Correction]) -> Rules:
    """Rules with the maker's own minutes."""
    minutes = {f"minutes_{c.about.replace(' ', '_')}": c.value for c in corrections
               if c.what == "minutes"}  # fmt: skip
    known = {field: value for field, value in minutes.items() if hasattr(rules, field)}
    return replace(rules, **known) if known else rules
