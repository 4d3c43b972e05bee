"""Predicted against measured, by what it concerns, with what that says in plain words."""

from collections.abc import Iterable, Mapping
from typing import NamedTuple

from maglia.core.log.estimate import FEWEST, Estimate, estimated
from maglia.core.log.records import Measure, Spent, correction_from
from maglia.core.piece.corrections import Correction
from maglia.core.values.record import Value
from maglia.core.values.rules import DEFAULT_RULES


class Point(NamedTuple):
    """One build: what was expected and what came out, mm or minutes, and how far one was off."""

    build: int
    planned: float
    measured: float
    off: float


class Concern(Value, frozen=True):
    """All that was measured of one thing. `takes` is the correction it would be, `taken` the one
    that is in force."""

    what: str
    about: str
    unit: str
    points: tuple[Point, ...]
    estimate: Estimate | None
    takes: Correction | None
    taken: Correction | None = None

    @property
    def name(self) -> str:
        if self.what == "minutes":
            return f"minutes of a {self.about}"
        return {"span": f"span, {self.about}", "pitch": f"pitch, {self.about}"}.get(
            self.what, f"{self.what} of {self.about}" if self.about else self.what
        )

    @property
    def words(self) -> str:
        """A sentence a maker can weigh."""
        many = f"{len(self.points)} measured" if self.unit == "mm" else (
            f"{len(self.points)} build{'s' if len(self.points) > 1 else ''}"
        )  # fmt: skip
        found = self.estimate
        if found is None:
            more = FEWEST - len(self.points)
            return f"Too few to say: {many}, {more} more {'is' if more == 1 else 'are'} needed."
        if self.unit == "min":
            return (f"One takes you {found.value:.2f} ± {found.half:.2f} min, from {found.n} "
                    f"builds; by rule {_rule(self.about):g}.")  # fmt: skip
        if not found.is_sure:
            return (f"As computed, within {max(abs(found.low), abs(found.high)):.1f} mm, from "
                    f"{found.n}.")  # fmt: skip
        way = "long" if found.value > 0 else "short"
        one = {"span": f"Your {self.about}s come", "pitch": "A row comes"}.get(
            self.what, "It comes"
        )
        return f"{one} out {abs(found.value):.2f} ± {found.half:.2f} mm {way}, from {found.n}."

    @property
    def apart_words(self) -> str:
        """Which builds stand apart, if any does."""
        found = self.estimate
        if found is None or not found.apart:
            return ""
        named = ", ".join(f"build {self.points[k].build}" for k in found.apart)
        return f"Standing apart: {named}."


def _rule(kind: str) -> float:
    return float(getattr(DEFAULT_RULES, f"minutes_{kind.replace(' ', '_')}", 0.0))


def concerns(
    measures: Iterable[tuple[int, Measure]], spent: Iterable[tuple[int, Spent]],
    taken: Iterable[Correction] = (),
) -> tuple[Concern, ...]:  # fmt: skip
    """Everything that was measured or timed, the most often measured first."""
    points: dict[tuple[str, str], list[Point]] = {}
    for build, one in measures:
        key = (one.what, one.about if one.what in ("span", "pitch", "length") else "")
        points.setdefault(key, []).append(Point(build, one.planned_mm, one.measured_mm, one.off_mm))
    for build, own in spent:
        if own.number > 0:
            points.setdefault(("minutes", own.kind), []).append(
                Point(build, _rule(own.kind), own.each, own.each)
            )
    held: dict[tuple[str, str], Correction] = {(c.what, c.about): c for c in taken}
    found = [_concern(what, about, own, held) for (what, about), own in points.items()]
    return tuple(sorted(found, key=lambda c: (c.unit == "min", -len(c.points), c.name)))


def _concern(
    what: str, about: str, points: list[Point], held: Mapping[tuple[str, str], Correction]
) -> Concern:
    found = estimated([point.off for point in points])
    takes = None
    if found is not None and (what == "minutes" or found.is_sure):
        takes = correction_from(what, about, found.value)
    unit = "min" if what == "minutes" else "mm"
    return Concern(what, about, unit, tuple(points), found, takes, held.get((what, about)))
