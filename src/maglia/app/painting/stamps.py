"""Stamps: a link, ring or bead is drawn once at a size and then printed wherever it stands.

Thousands of equal links are painted while scrolling; each stamp is at least as fine as the screen.
On paper (SVG) everything is drawn anew as lines.
"""

import math
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import NamedTuple

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPaintEngine, QPainter, QPixmap

KEPT_PX = 6_000_000
"""Pixels of stamps kept, 4 bytes each; what was wanted longest ago goes first."""
FINENESS = 1.3
"""Steps of size between stamps; a stamp is never enlarged."""
LARGEST_PX = 600.0


class Stamp(NamedTuple):
    picture: QPixmap
    whole: QRectF


_known: OrderedDict[tuple[Hashable, int], Stamp] = OrderedDict()
_kept_px = 0


def stamped(
    painter: QPainter,
    key: Hashable,
    box: QRectF,
    draw: Callable[[QPainter], None],
    onto: QRectF | None = None,
) -> None:
    """Print what `draw` draws within `box` (mm of the painter), from its stamp if there is one.
    `onto` is where the box is printed, a hair longer or shorter, so that nearly equal drawings
    share a stamp. See `stamp_of` for the key."""
    stamp = stamp_of(painter, key, box, draw)
    if stamp is None:
        draw(painter)
    else:
        painter.drawPixmap(onto or box, stamp.picture, stamp.whole)


def stamp_of(
    painter: QPainter, key: Hashable, box: QRectF, draw: Callable[[QPainter], None]
) -> Stamp | None:
    """The stamp of a drawing, made if need be; None where it must be drawn anew, since it is very
    large or not for a screen. `key` names all that the drawing depends on but its size there."""
    matrix = painter.deviceTransform()
    scale = math.hypot(matrix.m11(), matrix.m12())
    if not _can_print(painter) or scale * max(box.width(), box.height()) > LARGEST_PX:
        return None
    step = math.ceil(math.log(max(scale, 1e-3)) / math.log(FINENESS))
    full = (key, step)
    stamp = _known.get(full)
    if stamp is None:
        stamp = _made(box, FINENESS**step, draw)
        _known[full] = stamp
        _make_room()
    else:
        _known.move_to_end(full)
    return stamp


def _make_room() -> None:
    global _kept_px  # with the stamps themselves
    _kept_px += _pixels(next(reversed(_known.values())))
    while _kept_px > KEPT_PX and len(_known) > 1:
        _kept_px -= _pixels(_known.popitem(last=False)[1])


def _pixels(stamp: Stamp) -> int:
    return stamp.picture.width() * stamp.picture.height()


def _can_print(painter: QPainter) -> bool:
    engine = painter.paintEngine()
    return engine is not None and engine.type() == QPaintEngine.Type.Raster


def _made(box: QRectF, scale: float, draw: Callable[[QPainter], None]) -> Stamp:
    width, height = math.ceil(box.width() * scale), math.ceil(box.height() * scale)
    stamp = QPixmap(max(width, 1), max(height, 1))
    stamp.fill(Qt.GlobalColor.transparent)
    painter = QPainter(stamp)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(stamp.width() / box.width(), stamp.height() / box.height())
    painter.translate(-box.left(), -box.top())
    draw(painter)
    painter.end()
    return Stamp(stamp, QRectF(stamp.rect()))
