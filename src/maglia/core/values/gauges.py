"""Wire gauges: a gauge is never meant without its system."""

import math
from typing import Literal

from maglia.core.values.record import DomainError

GaugeSystem = Literal["", "AWG", "SWG"]
EXACT, NEAR = 0.012, 0.06
"""How far a wire is from its gauge, as a share: up to the one it is that gauge (makers round to a
hundredth of a millimetre), up to the other it is about that."""

AWG_MM, AWG_RATIO = 0.127, 92.0
SWG_MM = {
    10: 3.251, 12: 2.642, 14: 2.032, 16: 1.626, 18: 1.219, 19: 1.016, 20: 0.914, 21: 0.813,
    22: 0.711, 23: 0.610, 24: 0.559, 25: 0.508, 26: 0.457, 28: 0.376, 30: 0.315,
}  # fmt: skip


def gauge_mm(number: int, system: str) -> float:
    """Diameter of a wire gauge, mm: AWG by ASTM B258, SWG by BS 3737."""
    if system == "AWG":
        return round(float(AWG_MM * AWG_RATIO ** ((36 - number) / 39)), 3)
    if number not in SWG_MM:
        raise DomainError(f"{number} SWG is not in the table: write its diameter in mm")
    return SWG_MM[number]


def gauge_words(mm: float | None, system: GaugeSystem) -> str:
    """The gauge that a wire is, or is about, with its system: “20 AWG”; empty without a system, and
    where none is near. AWG from 0 to 40, SWG as far as its table goes."""
    if not system or not mm or mm <= 0:
        return ""
    if system == "AWG":
        numbers = [round(36 - 39 * math.log(mm / AWG_MM) / math.log(AWG_RATIO))]
    else:
        numbers = list(SWG_MM)
    number = min(numbers, key=lambda n: abs(gauge_mm(n, system) - mm))
    if not 0 <= number <= 40:
        return ""
    off = abs(gauge_mm(number, system) - mm) / mm
    about = "" if off <= EXACT else "about "
    return f"{about}{number} {system}" if off <= NEAR else ""
