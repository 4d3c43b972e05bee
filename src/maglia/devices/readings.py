"""What an instrument's line says: a number and a unit, or that something is the matter."""

import re
from typing import Literal

from maglia.core.values.record import DomainError, Value

Unit = Literal["mm", "g"]
TO_MM = {"mm": 1.0, "cm": 10.0, "in": 25.4, "inch": 25.4, '"': 25.4}
TO_G = {"g": 1.0, "mg": 0.001, "kg": 1000.0, "ct": 0.2, "oz": 28.349523125}
"""A carat is 0.2 g; an ounce (avoirdupois) 28.349523125 g exactly."""
NUMBER = re.compile(
    r"(?P<sign>[+\-−]?)\s*(?P<number>\d{1,9}(?:[.,]\d{1,9})?|[.,]\d{1,9})\s*(?P<unit>[a-zA-Z\"]+)?"
)
TROUBLES = (
    (re.compile(r"\b(?:ol|over(?:load)?|err(?:or)?)\b|-{3,}", re.IGNORECASE), "overload"),
    (re.compile(r"\b(?:lo|low|bat(?:t(?:ery)?)?)\b", re.IGNORECASE), "battery low"),
)


class Settings(Value, frozen=True):
    """How an instrument speaks: bauds, the unit of a line that says none, and whether each line is
    a reading of its own (its data key was pressed) or it streams."""

    baud: int = 9600
    unit: str = "mm"
    each_line: bool = False


class Reading(Value, frozen=True):
    """A value, mm or g, and its last place: what it is read to."""

    value: float
    unit: Unit
    step: float

    def same_as(self, other: "Reading") -> bool:
        """Within one step of another."""
        return self.unit == other.unit and abs(self.value - other.value) <= self.step * 1.001


def read_line(line: str, settings: Settings) -> Reading:
    """The reading of a line. Raises DomainError saying what is the matter with it: overload,
    battery low, or not understood."""
    text = line.strip().strip("\x02\x03\x00")
    trouble = next((words for pattern, words in TROUBLES if pattern.search(text)), None)
    numbers = list(NUMBER.finditer(text))
    if trouble:
        raise DomainError(trouble)
    if len(numbers) != 1 or not text.isprintable():
        raise DomainError(f"not understood: “{_plain(text)}”")
    found = numbers[0]
    word = (found["unit"] or settings.unit).lower()
    digits = found["number"].replace(",", ".")
    places = len(digits.partition(".")[2])
    value = float(digits) * (-1 if found["sign"] in ("-", "−") else 1)
    for unit, factors in (("mm", TO_MM), ("g", TO_G)):
        if word in factors:
            factor = factors[word]
            return Reading(value * factor, unit, factor * 10**-places)  # type: ignore[arg-type]
    raise DomainError(f"“{found['unit']}” is no unit of a caliper or scale")


def _plain(text: str) -> str:
    return "".join(c if c.isprintable() else "·" for c in text)[:40]


class Steady:
    """Whether readings have come to rest: so many in a row within one step of each other."""

    NEEDED = 4

    def __init__(self) -> None:
        self.last: list[Reading] = []

    def add(self, reading: Reading) -> bool:
        if self.last and not reading.same_as(self.last[0]):
            self.last.clear()
        self.last = [*self.last, reading][-self.NEEDED :]
        return self.at_rest

    def forget(self) -> None:
        self.last.clear()

    @property
    def at_rest(self) -> bool:
        return len(self.last) == self.NEEDED
