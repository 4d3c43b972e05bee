"""Swatch and weigh to count: a size or a number from measuring many at once, with what it is worth.

A reading of resolution d is uncertain by d/2; errors of sample and bag add in quadrature.
"""

import math

from maglia.core.values.record import DomainError, Value

READ_MM = 0.5
"""How well a stretched swatch is read on a rule."""
SCALE_STEP_G = 0.01


class Swatch(Value, frozen=True):
    """Pitch of a chain from so many links, mm, and its uncertainty."""

    pitch_mm: float
    plus_minus_mm: float


def swatch(links: int, length_mm: float, read_mm: float = READ_MM) -> Swatch:
    if links < 1 or length_mm <= 0:
        raise DomainError("a swatch has at least one link and some length")
    return Swatch(length_mm / links, read_mm / links)


class Weighed(Value, frozen=True):
    """How many there are in a bag, how uncertain that is, and how many would have to be weighed
    first to tell to the piece (None: those that were are enough)."""

    count: int
    plus_minus: float
    weigh_first: int | None


def count_from_mass(
    bag_g: float, each_g: float, sample: int, step_g: float = SCALE_STEP_G
) -> Weighed:
    """Pieces in a bag from its mass, `each_g` being known from `sample` weighed together. Raises
    DomainError where the scale cannot tell one piece."""
    if each_g <= 0:
        raise DomainError("say first what ten weigh")
    number, step_pieces = bag_g / each_g, step_g / 2 / each_g
    off = math.hypot(number * step_pieces / sample, step_pieces if bag_g > 0 else 0.0)
    if off <= 0.5:
        return Weighed(round(number), off, None)
    if step_pieces >= 0.5:
        raise DomainError(f"one weighs {each_g:.2g} g: a scale of {step_g:g} g cannot tell it")
    more = math.ceil(number * step_pieces / math.sqrt(0.25 - step_pieces**2))
    return Weighed(round(number), off, max(more, sample + 1))
