"""How a maker works: school and habits. Each changes the plan and its minutes."""

from typing import Annotated, Literal

from msgspec import Meta
from msgspec.structs import replace

from maglia.core.values.record import DomainError, Record

Minutes = Annotated[float, Meta(ge=0, le=100_000)]


class Working(Record, frozen=True, kw_only=True):
    """`order`: laid flat and attached from the deepest up, or hung on the carrier from the top
    down. `links`: of wrapped links in a row every second one comes finished, or each is wrapped on
    to the one before. Glue holds to be handled after `glue_holds_min`, and is cured after
    `glue_cures_min`."""

    order: Literal["flat", "carrier"] = "flat"
    links: Literal["second", "each"] = "second"
    wire: Literal["as the piece", "cut", "spool"] = "as the piece"
    crimps: Literal["as the piece", "flat", "folded"] = "as the piece"
    loops: Literal["pliers", "looper"] = "pliers"
    glue_holds_min: Minutes = 10.0
    glue_cures_min: Minutes = 1440.0


WORDS: dict[str, str] = {
    "order": "Laid flat, or on the carrier",
    "links": "Wrapped links in a row",
    "wire": "Wire",
    "crimps": "Crimps",
    "loops": "Loops",
    "glue_holds_min": "Glue may be handled after, minutes",
    "glue_cures_min": "Glue is cured after, minutes",
}
CHOICES: dict[str, dict[str, str]] = {
    "order": {"flat": "laid flat", "carrier": "on the carrier"},
    "links": {"second": "every second one beforehand", "each": "link by link"},
    "wire": {"as the piece": "as the piece says", "cut": "cut to fit", "spool": "from the spool"},
    "crimps": {"as the piece": "as the piece says", "flat": "flat", "folded": "folded"},
    "loops": {"pliers": "by pliers", "looper": "by a looper"},
}
USUAL = Working()


def with_habit(working: Working, said: str) -> Working:
    """One habit set otherwise, as `name=value`. Raises DomainError naming what there is."""
    name, _, value = (one.strip() for one in said.partition("="))
    name = name.replace(" ", "_").replace("-", "_")
    if name in CHOICES:
        if value not in CHOICES[name]:
            raise DomainError(f"“{name}” is one of {', '.join(CHOICES[name])}, not “{value}”")
        return replace(working, **{name: value})
    if name in ("glue_holds_min", "glue_cures_min"):
        try:
            minutes = float(value)
        except ValueError:
            minutes = -1.0
        if not 0 <= minutes <= 100_000:
            raise DomainError(f"“{name}” is in minutes, 0 to 100000, not “{value}”")
        return replace(working, **{name: minutes})
    raise DomainError(f"there is no habit “{name}”: {', '.join(WORDS)}")
