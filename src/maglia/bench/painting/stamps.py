"""Stamps: a link, ring or bead is drawn once at a size and then printed wherever it stands.

Thousands of equal links are painted while scrolling; each stamp is at least as fine as the screen.
On paper (SVG) everything is drawn anew as lines.
"""

import math
from collections import OrderedDict
from collections.abc import Callable, Hashable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPaintEngine, QPainter, QPixmap

KEPT = 1500
FINENESS = 1.3
"""Steps of size between stamps; a stamp is never enlarged."""
LARGEST_PX = 600.0

_known: OrderedDict[tuple[Hashable, int], QPixmap] = OrderedDict()


def stamped(
    painter: QPainter,
    key: Hashable,
    box: QRectF,
    draw: Callable[[QPainter], None],
    onto: QRectF | None = None,
) -> None:
    """Print what `draw` draws within `box` (mm of the painter), from its stamp if there is one.

    `key` names all that the drawing depends on but for its size on the screen. `onto` is where
    the box is printed, a hair longer or shorter, so that nearly equal drawings share a stamp.
    """
    matrix = painter.deviceTransform()
    scale = math.hypot(matrix.m11(), matrix.m12())
    if not _can_print(painter) or scale * max(box.width(), box.height()) > LARGEST_PX:
        draw(painter)
        return
    step = math.ceil(math.log(max(scale, 1e-3)) / math.log(FINENESS))
    full = (key, step)
    stamp = _known.get(full)
    if stamp is None:
        stamp = _made(box, FINENESS**step, draw)
        _known[full] = stamp
        if len(_known) > KEPT:
            _known.popitem(last=False)
    painter.drawPixmap(onto or box, stamp, QRectF(stamp.rect()))


def _can_print(painter: QPainter) -> bool:
    engine = painter.paintEngine()
    return engine is not None and engine.type() == QPaintEngine.Type.Raster


def _made(box: QRectF, scale: float, draw: Callable[[QPainter], None]) -> QPixmap:
    width, height = math.ceil(box.width() * scale), math.ceil(box.height() * scale)
    stamp = QPixmap(max(width, 1), max(height, 1))
    stamp.fill(Qt.GlobalColor.transparent)
    painter = QPainter(stamp)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(stamp.width() / box.width(), stamp.height() / box.height())
    painter.translate(-box.left(), -box.top())
    draw(painter)
    painter.end()
    return stamp
