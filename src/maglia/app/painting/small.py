"""A small true picture of a hung piece, for lists and comparisons: every part as it hangs, nothing
of the body.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QTransform

from maglia.app.painting.members import draw_connector, draw_member, hides
from maglia.app.painting.weaves import is_drawn
from maglia.core.parts.parts import Connector

if TYPE_CHECKING:
    from maglia.core.assembly.assembly import Member
    from maglia.core.hang.hung import Hung
    from maglia.core.report import Findings

EDGE_MM = 3.0
PAIR_MM = 14.0
"""Between the two of a pair."""
MOST_PX_PER_MM = 3.0


def extent_mm(hung: Hung) -> QRectF:
    """What a hung piece takes, seen from the front, mm: x to the right, y down."""
    points = hung.solution.positions
    xs, ys = points[:, 0], -points[:, -1]
    top_left = QPointF(float(xs.min()), float(ys.min()))
    box = QRectF(top_left, QPointF(float(xs.max()), float(ys.max())))
    return box.adjusted(-EDGE_MM, -EDGE_MM, EDGE_MM, EDGE_MM)


def scale_to(found: Findings, box: QRectF) -> float:
    """Pixels for a mm at which a hung piece fits a box."""
    assert found.hung is not None
    own = extent_mm(found.hung)
    wide = 2 * own.width() + PAIR_MM if found.assembly.piece.pair else own.width()
    return min(box.width() / wide, box.height() / own.height(), MOST_PX_PER_MM)


def draw_small(
    painter: QPainter, found: Findings, box: QRectF, *, px_per_mm: float | None = None,
    as_one: bool = False,
) -> None:  # fmt: skip
    """Draw a hung piece to fit a box, pixels; or at a scale that it shares, from the top down. Of a
    pair both are drawn, unless one of them is asked for."""
    hung = found.hung
    if hung is None or not len(hung.solution.positions):
        return
    own = extent_mm(hung)
    pair = found.assembly.piece.pair and not as_one
    scale = px_per_mm or scale_to(found, box)
    painter.save()
    painter.setClipRect(box, Qt.ClipOperation.IntersectClip)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    middle = box.center()
    top = box.top() if px_per_mm else middle.y() - own.height() * scale / 2
    painter.translate(middle.x(), top)
    painter.scale(scale, scale)
    painter.translate(0, -own.top())
    shifts = (-(own.width() + PAIR_MM) / 2, (own.width() + PAIR_MM) / 2) if pair else (0.0,)
    for k, shift in enumerate(shifts):
        painter.save()
        painter.translate(shift, 0)
        if k:  # the second is the mirror of the first
            painter.scale(-1, 1)
        painter.translate(-own.center().x(), 0)
        _draw(painter, found, hung)
        painter.restore()
    painter.restore()


def _draw(painter: QPainter, found: Findings, hung: Hung) -> None:
    """Every member, what is further back first."""
    members = [m for m in found.assembly.members if is_drawn(m)]
    if hung.form is not None:
        members.sort(key=lambda m: round(float(hung.points_of(m.id)[:, 1].mean()), 1))
    members.sort(key=lambda m: hides(found.assembly, m))
    for member in members:
        points = hung.points_of(member.id)
        line = [(float(p[0]), -float(p[-1])) for p in points]
        thing = found.assembly.thing(member)
        if isinstance(thing, Connector):
            frame = hung_frame(hung, member, line)
            draw_connector(painter, found.assembly, member, frame)
        else:
            draw_member(painter, found.assembly, member, line, 0, worn=True)


def hung_frame(hung: Hung, member: Member, line: list[tuple[float, float]]) -> QTransform:
    """Where a connector hangs whose points are seen along a line: its own mm to those of the
    picture."""
    import numpy as np

    (a, b), (c, d), (e, f) = hung.bodies[member.id].frame(np.array(line) * (1, -1))
    mirror = -1.0 if member.side == "left" else 1.0
    return QTransform(mirror * a, -mirror * b, -c, d, e, -f)
