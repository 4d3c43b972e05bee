"""Corrections: what a maker's own builds have shown, copied into the pieces that are computed with
them, so that a piece comes out the same anywhere.
"""

from collections.abc import Iterable
from typing import Literal

from maglia.core.values.record import Name, Offset, Record

What = Literal["span", "wire", "minutes"]
ABOUT: dict[What, tuple[str, ...]] = {
    "span": ("simple loop", "wrapped loop"),
    "wire": ("simple loop", "wrapped loop"),
    "minutes": ("ring", "simple loop", "wrapped loop", "crimp", "knot", "cut", "bead", "look",
                "weave ring"),
}  # fmt: skip
"""What can be corrected."""


class Correction(Record, frozen=True, kw_only=True):
    """Something comes out otherwise than computed: a loop by so many mm longer (span) or of so much
    more wire, mm; one of a kind of step takes so many minutes."""

    what: What
    about: Name
    value: Offset

    @property
    def words(self) -> str:
        """“wrapped loop +0.4 mm, yours”."""
        if self.what == "minutes":
            return f"{self.about} {self.value:.2g} min, yours"
        of = " of wire" if self.what == "wire" else ""
        return f"{self.about} {self.value:+.2g} mm{of}, yours".replace("-", "−")


def with_correction(corrections: Iterable[Correction], new: Correction) -> tuple[Correction, ...]:
    """Corrections with one more, in the place of an earlier one of the same."""
    kept = without(corrections, new.what, new.about)
    return tuple(sorted((*kept, new), key=lambda c: (c.what, c.about)))


def without(corrections: Iterable[Correction], what: str, about: str) -> tuple[Correction, ...]:
    """Corrections less one."""
    return tuple(c for c in corrections if (c.what, c.about) != (what, about))
