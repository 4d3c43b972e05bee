"""What a piece hangs on: bust, wrist, ankle as smooth bodies; board and ear as plain pins.

Millimetres; x to the wearer's left as seen from the front, y forward, z up. The bust is blended
from a chest, two shoulders and a neck; wrist and ankle widen away from where the piece sits.
"""

import math

import numpy as np

from maglia.core.hang.bodies import (
    Bending,
    Blend,
    Body,
    ConeCapsule,
    Ellipsoid,
    Floats,
    column,
    norm,
)
from maglia.core.piece.piece import ANKLE_MM, NECK_MM, WRIST_MM, Form, Piece, Wearer
from maglia.core.values.record import Value

PIT_Z = -40.0
"""Height of the pit of the neck on the bust: falls count from here."""
NECK_LEAN = {"upright": 5.0, "easy": 20.0, "sloping": 38.0}
SHOULDER_DROP = {"upright": 35.0, "easy": 50.0, "sloping": 72.0}
FLARE = 0.35
"""How much wider a limb is 100 mm from its narrowest place, as a share of its radius."""


class FormBody(Value, frozen=True):
    """A body with the height its falls count from, and where the middle of the main strand's back
    is held: on the plane x = 0, at the nape or on top of the wrist."""

    body: Body
    top_z: float
    kind: str
    girth_mm: float


def form_body(piece: Piece) -> FormBody | None:
    """The body of a piece's form; None for board and ear, where pins hold it in a plane."""
    form, wearer = piece.form, piece.wearer
    if form.kind == "bust":
        girth = wearer.neck_mm or NECK_MM
        return FormBody(bust(girth, form), PIT_Z, "bust", girth)
    if form.kind in ("wrist", "ankle"):
        girth = limb_girth_mm(form, wearer)
        return FormBody(limb(girth), girth / (2 * math.pi), form.kind, girth)
    return None


def limb_girth_mm(form: Form, wearer: Wearer) -> float:
    known = wearer.wrist_mm if form.kind == "wrist" else wearer.ankle_mm
    return known or (WRIST_MM if form.kind == "wrist" else ANKLE_MM)


def bust(neck_mm: float, form: Form) -> Body:
    """Chest, shoulders and neck of a given girth. `neck_shift_mm` widens the base of the neck,
    `chest_shift_mm` brings the chest forward: what calibration finds."""
    radius = neck_mm / (2 * math.pi)
    base = 55.0 + form.neck_shift_mm
    down = SHOULDER_DROP[form.posture]
    shoulders = Blend(
        ConeCapsule((0, -25, -45), (170, -25, -45 - down), base, 50),
        ConeCapsule((0, -25, -45), (-170, -25, -45 - down), base, 50),
        30,
    )
    chest = Ellipsoid((0, -30 + form.chest_shift_mm, -300), (170, 115, 290))
    lean = NECK_LEAN[form.posture]
    neck = ConeCapsule((0, -15, -40), (0, lean, 160), radius, radius)
    return Blend(Blend(shoulders, chest, 40), neck, 30)


class Waist(Body, frozen=True):
    """A round bar along y, narrowest at y = 0: ρ − (radius + flare y²), ρ the distance from the
    axis. A loop round it comes to rest at the narrow place."""

    radius: float
    flare: float

    def bending(self, q: Floats) -> Bending:
        around = column((1.0, 0.0, 1.0))
        across = q * around
        rho = np.maximum(norm(across), 1e-9)
        normal, bend = across / rho, 1 / rho
        gradient = normal.copy()
        gradient[1] = -2 * self.flare * q[1]
        straight = bend * around - 2 * self.flare * column((0.0, 1.0, 0.0))
        value = rho - (self.radius + self.flare * q[1] ** 2)
        return Bending(value, gradient, straight, ((-bend, normal),))

    def gap(self, q: Floats) -> Floats:
        return np.asarray(np.hypot(q[0], q[2]) - (self.radius + self.flare * q[1] ** 2))


def limb(girth_mm: float) -> Body:
    """A level wrist or ankle, narrowest where the piece sits, wider both ways along it."""
    radius = girth_mm / (2 * math.pi)
    return Waist(radius, FLARE * radius / 100**2)


def outside(body: Body, points: Floats, clearance: float = 1.0, rounds: int = 12) -> Floats:
    """The points, those inside the body moved out to its surface + clearance."""
    moved = points.copy()
    for _ in range(rounds):
        value, gradient = body.slope(moved)
        short = np.maximum(clearance - value, 0.0)
        if short.max(initial=0) < 1e-3:
            break
        square = np.maximum((gradient**2).sum(axis=1), 0.05)
        moved += (short / square)[:, None] * gradient
    return moved


def sight(body: Body, x: Floats, z: Floats, start: float = 260.0) -> tuple[Floats, Floats]:
    """Lines of sight from the front at (x, z), arrays of one shape: how far forward each comes
    nearest to the surface, and how near (about 0 where it meets it), mm."""
    points = np.stack([x.ravel(), np.full(x.size, start), z.ravel()], axis=1)
    nearest = np.full(len(points), np.inf)
    at = np.full(len(points), start)
    going = np.arange(len(points))
    for _ in range(80):
        value = body.distance(points[going])
        closer = value < nearest[going]
        nearest[going[closer]] = value[closer]
        at[going[closer]] = points[going[closer], 1]
        going, value = going[value >= 0.05], value[value >= 0.05]
        points[going, 1] -= 0.95 * value
        going = going[points[going, 1] > -260]
        if not len(going):
            break
    return at.reshape(x.shape), nearest.reshape(x.shape)
