"""Draws the pictures of the guide, writes its pages of keys and words, and copies all of it to
docs/guide: python docs/draw_guide.py.

Pictures are drawn by the program itself, on a mat of their own that fits both themes.
"""

import os
import shutil
from bisect import bisect_left
from itertools import accumulate, pairwise
from math import dist
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QGuiApplication, QImage, QPainter, QPen

from maglia.app.guide import keys_page, words_page
from maglia.app.house import ACTIONS, ROOMS
from maglia.app.painting.members import draw_links
from maglia.app.painting.parts import charm
from maglia.app.painting.small import draw_small
from maglia.app.theme import THEMES, font, load_fonts
from maglia.core.parts.parts import Chain, Charm
from maglia.core.report import evaluate
from maglia.core.workshop.tray import Tray
from maglia.files.shelf import shelf
from maglia.guide.book import PAGES, examples, page
from maglia.phrases.script import write

Point = tuple[float, float]
PITCH_MM, SHARP = 4.0, 2
CHAIN = Chain(id="chain", name="Chain", pitches_mm=(PITCH_MM,), inner_width_mm=2.2, wire_mm=0.8)
CHARM = Charm(id="drop", name="Drop", height_mm=13.0, width_mm=8.0, colour="#1f6f62")
FELT = THEMES["felt"]


def sheet(width: int, height: int) -> tuple[QImage, QPainter]:
    """A mat with round corners, and what paints on it in its own pixels."""
    picture = QImage(width * SHARP, height * SHARP, QImage.Format.Format_ARGB32_Premultiplied)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.scale(SHARP, SHARP)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(FELT.colour("mat"))
    painter.drawRoundedRect(QRectF(0, 0, width, height), 8, 8)
    return picture, painter


def hung(a: Point, b: Point, sag: float, *, odd: bool) -> list[Point]:
    """Ends of links along a parabola from one point to another, `sag` mm deep."""
    curve = [
        (a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]) + 4 * sag * t * (1 - t))
        for t in (k / 400 for k in range(401))
    ]
    way = list(accumulate((dist(p, q) for p, q in pairwise(curve)), initial=0.0))
    links = round(way[-1] / PITCH_MM)
    links += (links % 2 == 0) is odd
    steps = (way[-1] * k / links for k in range(links + 1))
    return [curve[min(bisect_left(way, step), 400)] for step in steps]


def fold(painter: QPainter, top: float, bottom: float) -> None:
    stitched = QPen(FELT.colour("fold"), 0.5)
    stitched.setDashPattern([4, 3])
    painter.setPen(stitched)
    painter.drawLine(QPointF(0, top), QPointF(0, bottom))


def say(painter: QPainter, words: list[tuple[float, float, str]]) -> None:
    painter.setFont(font(14))
    painter.setPen(FELT.colour("ink"))
    for x, y, text in words:
        painter.drawText(QPointF(x, y), text)


def words() -> QImage:
    """A strand with a drop and a swag, its parts called by their names."""
    picture, painter = sheet(560, 170)
    painter.save()
    painter.translate(280, 22)
    painter.scale(3, 3)
    strand = hung((-68.0, 0.0), (68.0, 0.0), 26.0, odd=True)
    one, other = strand[len(strand) * 5 // 8], strand[len(strand) * 7 // 8]
    draw_links(painter, CHAIN, strand, 0)
    draw_links(painter, CHAIN, hung(one, other, 13.0, odd=True), 0)
    painter.save()
    painter.translate(0.0, 27.0)
    painter.rotate(90)
    charm(painter, CHARM, 13.0)
    painter.restore()
    fold(painter, -4, 46)
    painter.setPen(QPen(FELT.colour("ink"), 0.35))
    for x0, y0, x1, y1 in ((-22, 0, -22, 26), (-24, 0, -20, 0), (-24, 26, -4, 26)):
        painter.drawLine(QPointF(x0, y0), QPointF(x1, y1))
    painter.restore()
    painter.translate(280, 22)
    say(painter, [(8, -4, "fold"), (-98, 46, "fall"), (14, 112, "drop"), (134, 118, "swag"),
                  (-226, 58, "strand"), (210, 4, "closure")])  # fmt: skip
    painter.end()
    return picture


def odd_and_even() -> QImage:
    """With an odd count a link lies on the fold, with an even one none."""
    picture, painter = sheet(560, 120)
    for x, odd, text in ((140, True, "odd: a link lies on the fold"),
                         (420, False, "even: none lies there")):  # fmt: skip
        painter.save()
        painter.translate(x, 26)
        painter.scale(3, 3)
        strand = hung((-32.0, 0.0), (32.0, 0.0), 12.0, odd=odd)
        draw_links(painter, CHAIN, strand, 0 if (len(strand) // 2) % 2 else 1)
        fold(painter, -4, 22)
        painter.restore()
        painter.save()
        painter.translate(x, 26)
        say(painter, [(-84, 84, text)])
        painter.restore()
    painter.end()
    return picture


def first_hour() -> QImage:
    """The piece of the first hour, as it hangs."""
    tray = Tray(parts=tuple(shelf()))
    script = "begin necklace\n" + "".join(examples(page("first-hour")))
    found = evaluate(write(script, tray).piece)
    picture, painter = sheet(560, 300)
    draw_small(painter, found, QRectF(20, 16, 520, 268))
    painter.end()
    return picture


def main() -> None:
    app = QGuiApplication([])
    load_fonts()
    folder: Path = PAGES / "pictures"
    for name, draw in (("words", words), ("fold", odd_and_even), ("first-hour", first_hour)):
        draw().save(str(folder / f"{name}.png"))
    actions = (*ACTIONS, *(action for room in ROOMS for action in room.actions))
    (PAGES / "keys.md").write_text(keys_page(actions))
    (PAGES / "words.md").write_text(words_page())
    copies = Path(__file__).parent / "guide"
    shutil.rmtree(copies, ignore_errors=True)
    shutil.copytree(PAGES, copies)
    print(f"{len(list(copies.rglob('*.md')))} pages in {copies.name}")
    del app


if __name__ == "__main__":
    main()
