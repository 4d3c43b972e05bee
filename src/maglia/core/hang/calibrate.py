"""A form fitted to your own display bust: hang a chain of known length on it, measure its fall.

One measured fall finds how wide the base of the neck is; a second, of a longer chain, also how
far forward the chest stands.
"""

import numpy as np
from msgspec.structs import replace
from scipy.optimize import brentq, least_squares

from maglia.core.assembly.expand import expand
from maglia.core.hang.bodies import Floats
from maglia.core.hang.forms import PIT_Z
from maglia.core.hang.hung import hang
from maglia.core.parts.parts import Chain, Ring
from maglia.core.piece.items import ChainItem
from maglia.core.piece.piece import Closure, Form, Piece, Run, Wearer
from maglia.core.values.record import DomainError, Value

LINK_MM = 4.0
NECK_RANGE_MM = (-25.0, 25.0)
CHEST_RANGE_MM = (-40.0, 40.0)


class Measured(Value, frozen=True):
    """A plain chain of this closed length fell this far below the pit of the neck, mm."""

    length_mm: float
    fall_mm: float


def plain_fall_mm(neck_mm: float, form: Form, length_mm: float) -> float:
    """How far a plain closed chain falls below the pit of the neck of a bust, mm. Raises
    DomainError if it does not go round."""
    links = max(3, round(length_mm / LINK_MM) - 1)
    pitch = length_mm / (links + 1)
    piece = Piece(
        wearer=Wearer(neck_mm=neck_mm),
        form=replace(form, kind="bust"),
        parts=(
            Chain(id="c", name="Chain", pitches_mm=(pitch,), inner_width_mm=2, wire_mm=1.0),
            Ring(id="r", name="Ring", wire_mm=1.0, inner_mm=pitch),
        ),
        runs=(Run(name="Chain", centre=ChainItem(part="c", links=links)),),
        closure=Closure(kind="continuous", catch="r"),
    )
    found = hang(expand(piece))
    if found is None or found.state != "converged":
        cause = found.solution.cause if found else "it is empty"
        raise DomainError(f"a chain of {length_mm:.0f} mm does not hang on this form: {cause}")
    return PIT_Z - float(found.solution.positions[:, 2].min())


def calibrated(neck_mm: float, form: Form, measured: tuple[Measured, ...]) -> Form:
    """The form on which the measured chains fall as they did. One or two measurements; raises
    DomainError if no form of this kind fits within reach."""
    if not measured:
        raise DomainError("measure at least one chain: its closed length and its fall")

    def misses(shift: float, chest: float) -> list[float]:
        tried = replace(form, neck_shift_mm=shift, chest_shift_mm=chest)
        return [plain_fall_mm(neck_mm, tried, m.length_mm) - m.fall_mm for m in measured]

    if len(measured) == 1:
        low, high = NECK_RANGE_MM
        if misses(low, 0.0)[0] * misses(high, 0.0)[0] > 0:
            raise DomainError(
                f"a fall of {measured[0].fall_mm:.1f} mm for {measured[0].length_mm:.0f} mm of "
                "chain is out of reach of this bust: measure again, or check the neck girth"
            )
        shift = float(brentq(lambda s: misses(s, 0.0)[0], low, high, xtol=0.01))
        return replace(form, neck_shift_mm=round(shift, 2))

    def both(unknown: Floats) -> list[float]:
        return misses(float(unknown[0]), float(unknown[1]))

    found = least_squares(
        both,
        np.zeros(2),
        bounds=([NECK_RANGE_MM[0], CHEST_RANGE_MM[0]], [NECK_RANGE_MM[1], CHEST_RANGE_MM[1]]),
        diff_step=[0.02, 0.02],
        x_scale=10.0,
        max_nfev=40,
    )
    if np.abs(found.fun).max() > 2.0:
        raise DomainError("no bust of this kind gives these falls together: measure again")
    shift, chest = (round(float(v), 2) for v in found.x)
    return replace(form, neck_shift_mm=shift, chest_shift_mm=chest)
