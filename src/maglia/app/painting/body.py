"""The form itself, softly shaded from the same surface that the piece is hung on."""

from functools import lru_cache

import numpy as np
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QImage

from maglia.core.hang.bodies import Bending, Body, Floats
from maglia.core.hang.forms import sight

STEP_MM = 3.0
"""Raster on which the surface is found; the picture is FINER times as fine, its outline taken
from how near each line of sight comes to the surface."""
FINER = 6
BOX = (-240, -170, 240, 330)
"""What of a bust is drawn: left, top, right, bottom, mm, y down."""
LIGHT = np.array([-0.35, 0.75, 0.56])
HIDDEN_MM = 4.0
NOWHERE = -1e4
"""Stands for a surface that a line of sight does not meet."""


TURNED = [1, 0, 2]


class Turned(Body, frozen=True):
    """A body seen from the side: its own x axis turned toward the viewer."""

    body: Body

    def bending(self, q: Floats) -> Bending:
        value, gradient, straight, ways = self.body.bending(q[TURNED])
        flat = np.broadcast_to(straight, q.shape)[TURNED]
        return Bending(value, gradient[TURNED], flat, tuple((w, way[TURNED]) for w, way in ways))

    def gap(self, q: Floats) -> Floats:
        return self.body.gap(q[TURNED])


@lru_cache(maxsize=3)
def _surface(body: Body) -> tuple[Floats, Floats, Floats, Floats]:
    """Over the raster of BOX: x, z, how far forward lines of sight come nearest, and how near."""
    left, top, right, bottom = BOX
    x, z = np.meshgrid(np.arange(left, right, STEP_MM), -np.arange(top, bottom, STEP_MM))
    return x, z, *sight(body, x, z)


@lru_cache(maxsize=6)
def shaded(body: Body, side: bool, colour: str) -> QImage:
    """Picture of a bust that fills BOX."""
    bottom = BOX[3]
    seen: Body = Turned(body) if side else body
    x, z, y, nearest = _surface(seen)
    points = np.stack([x.ravel(), y.ravel(), z.ravel()], axis=1)
    _, normal, bend = seen.evaluate(points)
    # a line of sight that meets the surface passes so deep below it, to second order
    deep = normal[:, 1] ** 2 / (2 * np.maximum(bend[:, 1, 1], 1e-3))
    miss = np.where(nearest < 0.05, -deep.reshape(x.shape), nearest).clip(-STEP_MM, STEP_MM)
    normal = normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-9)
    light = np.clip(normal @ (LIGHT / np.linalg.norm(LIGHT)), 0, 1)
    rim = np.clip(normal[:, 1], 0, 1) ** 0.6
    shade = (0.62 + 0.42 * light) * (0.72 + 0.28 * rim)
    base = np.array([QColor(colour).redF(), QColor(colour).greenF(), QColor(colour).blueF()])
    rgb = np.clip(shade[:, None] * base, 0, 1)
    small = np.ascontiguousarray((rgb * 255).astype(np.uint8)).reshape(*x.shape, 3)
    rows, columns = x.shape
    picture = QImage(small.data, columns, rows, 3 * columns, QImage.Format.Format_RGB888)
    fine = QSize(columns, rows) * FINER
    smooth = Qt.TransformationMode.SmoothTransformation
    picture = picture.scaled(fine, Qt.AspectRatioMode.IgnoreAspectRatio, smooth)
    picture.setAlphaChannel(_outline(miss, z, -bottom))
    return picture


def _outline(miss: Floats, z: Floats, low: float) -> QImage:
    """How much of each pixel is body: by how far lines of sight miss it, faded out below."""
    rows, columns = (np.linspace(0, size - 1, size * FINER) for size in miss.shape)
    miss = _between(miss, rows[:, None], columns[None, :])
    height = np.interp(rows, np.arange(len(z)), z[:, 0])[:, None]
    within = 0.5 - miss / (STEP_MM / FINER)
    alpha = np.clip(within, 0, 1) * _faded(height, low)
    grey = np.ascontiguousarray((alpha * 255).astype(np.uint8))
    rows, columns = grey.shape
    return QImage(grey.data, columns, rows, columns, QImage.Format.Format_Grayscale8).copy()


def _between(raster: Floats, row: Floats, column: Floats) -> Floats:
    """Values of a raster at places between its points, from the four around each. SciPy's own way
    takes a tenth of a second to be imported, and the first picture waits for it."""
    r = np.clip(np.floor(row).astype(int), 0, raster.shape[0] - 2)
    c = np.clip(np.floor(column).astype(int), 0, raster.shape[1] - 2)
    down, across = row - r, column - c
    above = raster[r, c] * (1 - across) + raster[r, c + 1] * across
    below = raster[r + 1, c] * (1 - across) + raster[r + 1, c + 1] * across
    return np.asarray(above * (1 - down) + below * down)


def _faded(z: Floats, low: float) -> Floats:
    """Fading out toward the lower edge, so that the bust does not end in a cut."""
    return np.clip((z - low) / 40.0, 0.0, 1.0)


def is_hidden(body: Body, points: Floats, *, side: bool) -> np.ndarray:
    """Which of the points (k, 3) lie behind the body as it is drawn, from the front or side."""
    own = points[:, TURNED] if side else points
    _, _, y, nearest = _surface(Turned(body) if side else body)
    stands = np.where(nearest < 0.05, y, NOWHERE)
    row, column = (-own[:, 2] - BOX[1]) / STEP_MM, (own[:, 0] - BOX[0]) / STEP_MM
    high, wide = stands.shape
    inside = (row >= 0) & (row <= high - 1) & (column >= 0) & (column <= wide - 1)
    surface = np.where(inside, _between(stands, row, column), NOWHERE)
    return np.asarray(own[:, 1] < surface - HIDDEN_MM)
