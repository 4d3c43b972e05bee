"""Wire gauges: a gauge is never meant without its system."""

from maglia.core.values.record import DomainError

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
