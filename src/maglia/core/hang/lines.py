"""Lines as rows of points: how long, points along them, the one of a family that is so long."""

from collections.abc import Callable

import numpy as np

from maglia.core.hang.bodies import Floats


def stepped_along(line: Floats, steps: Floats) -> Floats:
    """Points on a line, made as large as it must be, whose straight distances are `steps`, since
    rods cut off its bends. The last one lies at its end."""
    high = float(steps.sum()) / _length(line)
    low = 0.8 * high
    for _ in range(30):
        middle = (low + high) / 2
        low, high = (middle, high) if _walked(line * middle, steps)[1] > 0 else (low, middle)
    return _walked(line * high, steps)[0]


def _walked(curve: Floats, steps: Floats) -> tuple[Floats, float]:
    """Points at straight distances along a curve, and how far the last one is past its end."""
    way = curve[-1] - curve[-2]
    way = way / np.linalg.norm(way)
    found, at = [curve[0]], 0
    for step in steps:
        here = found[-1]
        apart = np.linalg.norm(curve[at:] - here, axis=1)
        beyond = np.flatnonzero(apart > step)
        towards = curve[at + int(beyond[0])] - here if len(beyond) else way
        found.append(here + towards * (step / max(float(np.linalg.norm(towards)), 1e-12)))
        at = max(at + int(beyond[0]) - 1, at) if len(beyond) else len(curve) - 1
    return np.array(found), float((found[-1] - curve[-1]) @ way)


def of_length(curve: Callable[[float], Floats], wanted: float, low: float, high: float) -> Floats:
    """The curve of a family, longer with its parameter, that has the wanted length to 1 %."""
    line = curve(low)
    short, long = _length(line) - wanted, 0.0
    if short >= 0:
        return line
    at = low + 0.5 * -short  # two sides go down by about half of what is missing each
    for _ in range(12):
        line = curve(at)
        miss = _length(line) - wanted
        if abs(miss) < 0.01 * wanted or at == low:  # `low` once more: it grows no further
            break
        if long or miss >= 0:
            if miss < 0:
                low, short = at, miss
            else:
                high, long = at, miss
            share = short / (short - long)
            at = low + min(max(share, 0.1), 0.9) * (high - low)
        else:  # nothing too long yet: as much further as it grew for the last step
            grown = (miss - short) / (at - low)
            low, short = at, miss
            at = min(low - short / max(grown, 0.5), (low + high) / 2 + 50.0, high)
    return line


def _length(line: Floats) -> float:
    return float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum())


def sampled(line: Floats, at: Floats) -> Floats:
    """Points of a line at arc lengths `at`, the whole stretched to the line's own length."""
    along = np.r_[0.0, np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))]
    return between(at / max(float(at[-1]), 1e-9) * along[-1], along, line)


def between(at: Floats, known: Floats, values: Floats) -> Floats:
    """Values (k, dim) known at `known`, at every place of `at`; beyond the ends as at the ends."""
    return np.column_stack([np.interp(at, known, axis) for axis in values.T])
