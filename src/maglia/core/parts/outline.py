"""The rim of a connector in its own coordinates: what is drawn, and what a drop keeps clear of."""

import math

from maglia.core.parts.parts import Connector, Hole

RIM_MM = {"vee": 1.2, "frame": 0.8}
"""Half the thickness of the wire that a V or a frame is bent of; of a plate its edge counts."""
STEPS = 48
Point = tuple[float, float]


def vee_corners(connector: Connector) -> list[Hole]:
    """The holes that the two legs of a V lead along: from one tip over its apex to the other. The
    apex may be above or below."""
    holes = sorted(connector.holes, key=lambda hole: (hole.x_mm, hole.y_mm))
    tips = (holes[0], holes[-1])
    middle = sum(hole.y_mm for hole in holes) / len(holes)
    up = sum(tip.y_mm for tip in tips) / 2 < middle
    level = (max if up else min)(hole.y_mm for hole in holes)
    apex = [hole for hole in holes if abs(hole.y_mm - level) < 0.5 and hole not in tips]
    return [tips[0], *apex, tips[1]]


def rim(connector: Connector) -> list[Point]:
    """Points along the rim, x to the right and y up, mm; a closed one ends where it begins."""
    if len(connector.points_mm) >= 3:
        return [*connector.points_mm, connector.points_mm[0]]
    if connector.outline == "vee":
        return [(hole.x_mm, hole.y_mm) for hole in vee_corners(connector)]
    xs, ys = ([abs(v) for v in values] for values in zip(
        *((hole.x_mm, hole.y_mm) for hole in connector.holes), strict=True))  # fmt: skip
    wide = (connector.width_mm or 2 * max(xs) + 4) / 2
    high = (connector.height_mm or 2 * max(ys) + 4) / 2
    if connector.outline in ("bar", "fan"):
        corners = ((-wide, high), (wide, high), (wide, -high), (-wide, -high), (-wide, high))
        return list(corners)
    angles = [2 * math.pi * k / STEPS for k in range(STEPS + 1)]
    return [(wide * math.sin(a), high * math.cos(a)) for a in angles]
