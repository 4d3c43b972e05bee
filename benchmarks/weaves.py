"""Weaves: laying, planning and painting three thousand rings: python benchmarks/weaves.py

Prints each figure with its goal. Painting is of a whole strip, row by row, at three sizes.
"""

import os
import statistics
import time
from collections.abc import Callable

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtGui import QColor, QGuiApplication, QPainter, QPixmap

from maglia.app.painting.members import draw_member
from maglia.app.painting.weaves import is_drawn
from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.expand import expand
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.text import make_sheet
from maglia.core.parts.parts import Ring
from maglia.core.piece.items import WeaveItem, WeaveRole
from maglia.core.piece.piece import Form, Piece, Run

ROWS, TIMES, LINE_MM = 1000, 7, 600.0
FRAME_MS = 16.0


def piece() -> Piece:
    ring = Ring(id="ring", name="Ring", inner_mm=4.0, wire_mm=1.0)
    role = WeaveRole(role="ring", part="ring")
    strip = WeaveItem(weave="four in one", rows=ROWS, roles=(role,), abreast=3)
    return Piece(parts=(ring,), form=Form(kind="mat"),
                 runs=(Run(name="Strip", lies="free", items=(strip,)),))  # fmt: skip


def timed(words: str, work: Callable[[], object], goal_ms: float | None = None) -> None:
    work()
    spent = []
    for _ in range(TIMES):
        began = time.perf_counter()
        work()
        spent.append((time.perf_counter() - began) * 1000)
    middle = statistics.median(spent)
    goal = f"  goal {goal_ms:.0f}, ratio {middle / goal_ms:.2f}" if goal_ms else ""
    print(f"{words:34} {middle:7.1f} ms ({min(spent):.1f} to {max(spent):.1f}){goal}")


def painted(assembly: Assembly, scale: float) -> None:
    picture = QPixmap(1280, 800)
    picture.fill(QColor("#b9c0b3"))
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.scale(scale, scale)
    for member in filter(is_drawn, assembly.members):
        assert member.woven is not None
        along = member.woven.row * 7.83
        x, y = along % LINE_MM, 20 + along // LINE_MM * 26
        draw_member(painter, assembly, member, ((x, y), (x + 4.0, y + 0.3)))
    painter.end()


if __name__ == "__main__":
    app = QGuiApplication([])
    made = piece()
    built = expand(made)
    print(f"{len(built.members)} rings, {len(built.joints)} joints")
    timed("laid", lambda: expand(made))
    timed("planned", lambda: joining_plan(built))
    timed("planned with its steps", lambda: make_sheet(built, joining_plan(built)))
    for scale in (1.0, 2.0, 4.0):
        timed(f"painted at {scale:g} px a mm", lambda s=scale: painted(built, s), FRAME_MS)  # type: ignore[misc]
