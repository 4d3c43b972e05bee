"""Help where it is needed: every key, the trade's words, a first piece, with our own drawings.

One window beside the bench; it never blocks it.
"""

from bisect import bisect_left
from collections.abc import Sequence
from itertools import accumulate, pairwise
from math import dist
from typing import Any

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QTabWidget, QTextBrowser, QVBoxLayout, QWidget

from maglia.app.jobs import Jobs
from maglia.app.painting.members import draw_links
from maglia.app.painting.parts import charm
from maglia.app.phrase_book import PhraseBook
from maglia.app.rooms.bench.actions import RULE_KEYS
from maglia.app.rooms.bench.rule_layout import Point
from maglia.app.rooms.count.actions import COUNT_KEYS
from maglia.app.rooms.log.actions import LOG_KEYS
from maglia.app.rooms.make.actions import MAKE_KEYS
from maglia.app.rooms.room import Action
from maglia.app.rooms.tray.actions import TRAY_KEYS
from maglia.app.theme import Theme, font
from maglia.app.trade_words import WORDS
from maglia.core.fit.wishes import FORMS
from maglia.core.parts.parts import Chain, Charm
from maglia.phrases.part_phrases import FORMS as PART_FORMS
from maglia.phrases.stock_phrases import HINT, HINT_LENGTHS

PX_PER_MM, PITCH_MM = 3.0, 4.0
CHAIN = Chain(id="chain", name="Chain", pitches_mm=(PITCH_MM,), inner_width_mm=2.2, wire_mm=0.8)
CHARM = Charm(id="drop", name="Drop", height_mm=13.0, width_mm=8.0, colour="#1f6f62")

FIRST_PIECE = """
<p><b>A first piece in a few keys.</b> Everything below is typed on the half-rule.</p>
<ol>
<li><b>Ctrl+N</b>, then arrows to <i>strand with drops</i>, <b>Enter</b>. It hangs at
once.</li>
<li>Walk with <b>← →</b> along the strand and <b>↑ ↓</b> from run to run. <b>+ −</b> change the
count under the cursor; digits write a length or a count: <i>45</i>, <i>1 3/4 in</i>,
<i>30 links</i>.</li>
<li><b>Enter</b> opens the insert line: a few letters of a part put it in outward of the cursor;
<i>drop teal</i> hangs a drop at the mark (<b>Ctrl+← →</b> moves it); <i>drops every 6 amber</i>
makes a row.</li>
<li>Say what you want in the same line: <i>length 450</i>, <i>tiers first 40 gaps 25</i>,
<i>hem V 12</i>. It is solved into whole links, and what is left over is shown.</li>
<li>Pull the end of a dimension line on the form, and what is behind it is solved.</li>
<li>Checks stand at the right, worst first: <b>Ctrl+K</b>, <b>Enter</b> goes there, <b>R</b>
repairs, <b>A</b> keeps it with a note.</li>
</ol>
<p>What a fit has set and you change by hand is pinned: the hand wins. <b>P</b> frees it.</p>
"""
LIMITS = """
<p><b>What the hang knows, and what it does not.</b> It finds the rest shape of every link, ring and
bead by their lengths and weights on a smooth body. Not covered: strand rubbing on strand, friction,
the stiffness of heavy cord. Figures marked “about” are estimates.</p>
<p>Local rules for nickel, lead and children's jewellery come first; a piercing is a matter for
licensed practice; these figures are no test certificate.</p>
"""


ROOM_KEYS = (
    ("On the half-rule", RULE_KEYS),
    ("In the tray", TRAY_KEYS),
    ("In Count", COUNT_KEYS),
    ("In Make", MAKE_KEYS),
    ("In Log", LOG_KEYS),
)


def keys_html(actions: Sequence[Action[Any]]) -> str:
    rows = []
    for heading, keys in ROOM_KEYS:
        rows.append(f"<tr><td colspan=2><br><b>{heading}</b></td></tr>")
        rows += [f"<tr><td><b>{k}</b>&nbsp;&nbsp;</td><td>{w}</td></tr>" for k, w in keys]
    for menu in dict.fromkeys(action.menu for action in actions):
        rows.append(f"<tr><td colspan=2><br><b>{menu}</b></td></tr>")
        rows += [
            f"<tr><td><b>{a.keys}</b>&nbsp;&nbsp;</td><td>{a.words}</td></tr>"
            for a in actions
            if a.menu == menu
        ]
    return f"<table cellspacing=2>{''.join(rows)}</table>"


def words_html() -> str:
    rows = (f"<tr><td><b>{w}</b>&nbsp;&nbsp;</td><td>{m}</td></tr>" for w, m in WORDS.items())
    return f"<table cellspacing=3>{''.join(rows)}</table>"


def fits_html() -> str:
    rows = (f"<tr><td><b>{w}</b>&nbsp;&nbsp;</td><td>{m}</td></tr>" for w, m in FORMS)
    return f"<p>Written in the insert line:</p><table cellspacing=3>{''.join(rows)}</table>"


def parts_html() -> str:
    return (
        "<p>A new part, unit or wearer in one phrase, in the tray (N) or the insert line:</p>"
        f"{_forms(PART_FORMS)}"
        "<p>What is not said stays unknown: a “?” on its sheet, to be typed over or measured.</p>"
        "<p>What changed on the bench, in the line of a part's sheet (B):</p>"
        f"{_forms((HINT, HINT_LENGTHS))}"
    )


def _forms(forms: Sequence[str]) -> str:
    return "".join(f"<p><i>{form}</i></p>" for form in forms)


class Guide(QWidget):
    """Pages: first piece, keys, parts, phrases, fits, words, limits."""

    def __init__(
        self, theme: Theme, actions: Sequence[Action[Any]], jobs: Jobs, parent: QWidget
    ) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.setWindowTitle("How the bench works — Maglia")
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(720, 600)
        self.tabs = QTabWidget()
        column = QVBoxLayout(self)
        column.addWidget(self.tabs)
        self.phrases = PhraseBook(theme, jobs)
        self.tabs.currentChanged.connect(lambda _: self.phrases.look())
        for title, html in (
            ("A first piece", FIRST_PIECE),
            ("Keys", keys_html(actions)),
            ("Parts", parts_html()),
            ("Fits", fits_html()),
            ("Words", words_html()),
            ("Limits", LIMITS),
        ):
            page, text = QWidget(), QTextBrowser()
            inner = QVBoxLayout(page)
            if title in ("A first piece", "Words"):
                inner.addWidget(Drawing(theme))
            text.document().setDefaultStyleSheet("b { font-weight: 600; }")
            text.setHtml(html)
            inner.addWidget(text, 1)
            self.tabs.addTab(page, title)
        self.tabs.insertTab(3, self.phrases, "Phrases")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_F1):
            self.close()
        else:
            super().keyPressEvent(event)


class Drawing(QWidget):
    """A strand with a drop and a swag, its parts called by their names."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.setFixedHeight(160)
        self.setAccessibleName("A strand with fold, fall, drop and swag marked")

    def sizeHint(self) -> QSize:
        return QSize(640, 160)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), self.theme.colour("mat"))
        painter.translate(self.width() / 2, 20)
        painter.scale(PX_PER_MM, PX_PER_MM)
        strand = _hung((-68.0, 0.0), (68.0, 0.0), 26.0, odd=True)
        one, other = strand[len(strand) * 5 // 8], strand[len(strand) * 7 // 8]
        draw_links(painter, CHAIN, strand, 0)
        draw_links(painter, CHAIN, _hung(one, other, 13.0), 0)
        painter.save()
        painter.translate(0.0, 27.0)
        painter.rotate(90)
        charm(painter, CHARM, 13.0)
        painter.restore()
        stitched = QPen(self.theme.colour("fold"), 0.5)
        stitched.setDashPattern([4, 3])
        painter.setPen(stitched)
        painter.drawLine(QPointF(0, -4), QPointF(0, 44))
        painter.setPen(QPen(self.theme.colour("ink"), 0.35))
        for x0, y0, x1, y1 in ((-22, 0, -22, 26), (-24, 0, -20, 0), (-24, 26, -4, 26)):
            painter.drawLine(QPointF(x0, y0), QPointF(x1, y1))
        painter.resetTransform()
        painter.translate(self.width() / 2, 20)
        painter.setFont(font(13))
        painter.setPen(self.theme.colour("ink"))
        for x, y, words in (
            (8, -4, "fold"), (-98, 46, "fall"), (14, 112, "drop"), (134, 118, "swag"),
            (-222, 58, "strand"), (214, 4, "closure"),
        ):  # fmt: skip
            painter.drawText(QPointF(x, y), words)


def _hung(a: Point, b: Point, sag: float, *, odd: bool = False) -> list[Point]:
    """Ends of links along a parabola from one point to another, `sag` mm deep."""
    curve = [
        (a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]) + 4 * sag * t * (1 - t))
        for t in (k / 400 for k in range(401))
    ]
    way = list(accumulate((dist(p, q) for p, q in pairwise(curve)), initial=0.0))
    links = round(way[-1] / PITCH_MM)
    links += odd and links % 2 == 0
    steps = (way[-1] * k / links for k in range(links + 1))
    return [curve[min(bisect_left(way, step), 400)] for step in steps]
