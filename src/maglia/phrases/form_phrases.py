"""A form of the maker's own: “new form shop bust neck 360, 450 falls 14, 600 falls 103”."""

import re
from typing import NamedTuple

from maglia.core.piece.piece import Form
from maglia.core.values.record import DomainError
from maglia.phrases.reading import Reading

FORM = re.compile(r"\s*new\s+form\s+(?P<name>.*?)(?=\s+neck\b|\s*$)", re.IGNORECASE)
FORM_HINT = "new form shop bust neck 360, 450 falls 14, 600 falls 103"


class SaidForm(NamedTuple):
    """A bust by its neck girth, and how far plain chains of some closed lengths fell on it, mm."""

    name: str
    neck_mm: float
    falls: tuple[tuple[float, float], ...]

    @property
    def words(self) -> str:
        falls = ", ".join(f"{length:g} falls {fall:g}" for length, fall in self.falls)
        return f"{self.name}, neck {self.neck_mm:g}, {falls}"

    def calibrated(self) -> Form:
        """The bust fitted to what was measured. Hangs it, so it takes a moment."""
        from maglia.core.hang.calibrate import Measured, calibrated

        measured = tuple(Measured(length, fall) for length, fall in self.falls)
        return calibrated(self.neck_mm, Form(kind="bust", posture="easy"), measured)


def read_form(text: str) -> SaidForm | None:
    """The form that a phrase describes; None if it begins none. Raises DomainError."""
    begun = FORM.match(text)
    if begun is None:
        return None
    reading = Reading(text[begun.end() :])
    name = begun["name"].strip(" ,")
    if not name or not reading.takes(r"neck\b"):
        raise DomainError("say its name and the girth of its neck")
    neck = reading.needed("neck")
    falls = []
    while (length := reading.size()) is not None:
        if not reading.takes(r"falls\b"):
            raise DomainError(f"say how far the chain of {length:g} mm falls")
        falls.append((length, reading.needed("falls")))
    if rest := reading.word():
        raise DomainError(f"“{rest}” was not understood")
    if not 1 <= len(falls) <= 2:
        raise DomainError("hang one or two plain chains on it and say how far they fall")
    if not 50 <= neck <= 1000:
        raise DomainError(f"neck {neck:g}: a neck is 50 to 1000 mm round")
    for length, fall in falls:
        if not 50 <= length <= 3000 or fall > 1500:
            raise DomainError(f"{length:g} falls {fall:g}: a chain is 50 to 3000 mm long")
    return SaidForm(name, neck, tuple(falls))
