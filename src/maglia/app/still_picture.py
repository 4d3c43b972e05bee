"""A hung piece alone, as a picture in a file: small for file managers, at true size for paper and
the web, on a transparent ground or on the mat.
"""

from __future__ import annotations

import math
from functools import partial
from pathlib import Path

from PySide6.QtCore import QIODevice, QRectF, QSize, Qt
from PySide6.QtGui import QImage, QPainter

from maglia.app.drawn_file import write_drawn, write_image
from maglia.app.painting.small import PAIR_MM, draw_small, extent_mm
from maglia.app.theme import THEMES
from maglia.core.report import Findings
from maglia.core.values.record import DomainError
from maglia.files import disk

MM_PER_INCH = 25.4
MOST_PX = 20_000
"""A picture that is larger on a side is refused: it is a slip of the finger."""


def save_small(found: Findings, path: Path, size: int) -> None:
    """The piece on the mat, to fit a square of so many pixels. Raises DomainError."""
    _must_hang(found)
    picture = QImage(size, size, QImage.Format.Format_ARGB32_Premultiplied)
    picture.fill(THEMES["felt"].colour("mat"))
    edge = size / 24
    box = QRectF(edge, edge, size - 2 * edge, size - 2 * edge)
    painter = QPainter(picture)
    draw_small(painter, found, box, px_per_mm=None)
    painter.end()
    write_image(path, picture)


def save_picture(
    found: Findings, path: Path, *, mat: bool, width: int | None = None, dpi: float = 300.0
) -> str:
    """The piece as PNG or SVG, so many pixels wide or at true size; what was written, in words.
    Raises DomainError for another kind of file, and where it cannot be written."""
    _must_hang(found)
    assert found.hung is not None
    own = extent_mm(found.hung)
    wide = 2 * own.width() + PAIR_MM if found.assembly.piece.pair else own.width()
    high = own.height()
    kind = path.suffix.lower()
    if kind not in (".png", ".svg"):
        raise DomainError(f"{disk.shown(path)}: a picture is a .png or a .svg")
    scale = width / wide if width else dpi / MM_PER_INCH
    size = QSize(math.ceil(wide * scale), math.ceil(high * scale))
    if max(size.width(), size.height()) > MOST_PX:
        raise DomainError(
            f"the picture would be {size.width()} × {size.height()} pixels; the most is {MOST_PX} "
            "on a side: give a smaller width or fewer dots an inch"
        )
    if kind == ".svg":
        write_drawn(path, partial(_draw_svg, found, wide, high, mat))
        return f"{wide:.0f} × {high:.0f} mm, true size"
    picture = QImage(size, QImage.Format.Format_ARGB32_Premultiplied)
    picture.fill(THEMES["felt"].colour("mat") if mat else Qt.GlobalColor.transparent)
    if width is None:
        per_metre = round(dpi / MM_PER_INCH * 1000)
        picture.setDotsPerMeterX(per_metre)
        picture.setDotsPerMeterY(per_metre)
    painter = QPainter(picture)
    draw_small(painter, found, QRectF(0, 0, size.width(), size.height()), px_per_mm=scale)
    painter.end()
    write_image(path, picture)
    true = "" if width else f", true size at {dpi:g} dots an inch"
    return f"{size.width()} × {size.height()} pixels{true}"


def _must_hang(found: Findings) -> None:
    if found.hung is None or not len(found.hung.solution.positions):
        raise DomainError(f"“{found.assembly.piece.name}” has nothing that hangs: no picture of it")


def _draw_svg(found: Findings, wide: float, high: float, mat: bool, out: QIODevice) -> bool:
    from PySide6.QtSvg import QSvgGenerator

    dots = 10.0
    """Of the drawing, for a mm: fine enough for every line."""
    generator = QSvgGenerator()
    generator.setOutputDevice(out)
    generator.setResolution(round(dots * MM_PER_INCH))
    generator.setSize(QSize(math.ceil(wide * dots), math.ceil(high * dots)))
    generator.setViewBox(QRectF(0, 0, wide * dots, high * dots))
    generator.setTitle(found.assembly.piece.name)
    painter = QPainter(generator)
    box = QRectF(0, 0, wide * dots, high * dots)
    if mat:
        painter.fillRect(box, THEMES["felt"].colour("mat"))
    draw_small(painter, found, box, px_per_mm=dots)
    return painter.end()
