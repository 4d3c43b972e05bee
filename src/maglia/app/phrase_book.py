"""The phrase book as a page: every form with its example, what it does, and the piece it makes."""

from __future__ import annotations

from functools import cache, partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from maglia.app.jobs import Jobs
from maglia.app.painting.small import draw_small
from maglia.app.painting.whole import draw_in
from maglia.app.panel import drawn_icon
from maglia.app.pictures import Pictures
from maglia.app.plain_text import Label
from maglia.app.theme import Theme, font
from maglia.core.piece.piece import Piece
from maglia.core.workshop.tray import Tray
from maglia.phrases.book import BOOK, Form, bench_tray, said_to
from maglia.phrases.here import Here
from maglia.phrases.phrase import phrase_offers

if TYPE_CHECKING:
    from maglia.core.report import Findings

DRAWN = QSize(150, 96)
WORDS = (
    "Said in the insert line, one after the other or parted by “;”. Words may be shortened and "
    "stand in any order; a number with a unit is a length, a bare one before a thing how many, "
    "after it its size."
)


class PhraseBook(QWidget):
    """The examples are drawn when they are first looked at."""

    def __init__(self, theme: Theme, jobs: Jobs) -> None:
        super().__init__()
        self.theme = theme
        self.items: dict[str, QListWidgetItem] = {}
        self.pictures = Pictures(jobs, "guide", self)
        self.pictures.hung.connect(self.on_hung)
        words = Label(WORDS)
        words.setWordWrap(True)
        self.list = QListWidget()
        self.list.setIconSize(DRAWN)
        self.list.setWordWrap(True)
        self.list.setSpacing(2)
        self.list.setAccessibleName("Phrases, each with what it does")
        column = QVBoxLayout(self)
        column.addWidget(words)
        column.addWidget(self.list, 1)
        for chapter in BOOK:
            heading = QListWidgetItem(chapter.title)
            heading.setFont(font(13, bold=True))
            heading.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(heading)
            for form in chapter.forms:
                item = QListWidgetItem(f"{form.phrase}\n{form.does}")
                self.items[form.phrase] = item
                self.list.addItem(item)

    def look(self) -> None:
        """Draw what is not drawn yet."""
        if not self.isVisible() or self.pictures.known:
            return
        tray = _tray()
        for chapter in BOOK:
            for form in chapter.forms:
                if not form.after:
                    self._draw_thing(form, tray)
        hung = [form for chapter in BOOK for form in chapter.forms if form.after]
        self.pictures.ask([(form.phrase, partial(_made, form)) for form in hung])

    def _draw_thing(self, form: Form, tray: Tray) -> None:
        """What is new on the bench, by itself."""
        offer = phrase_offers(form.phrase, Here(Piece(), tray))[0]
        thing = offer.thing
        if thing is None:
            return
        things = {own.id: own for own in (*tray.parts, *tray.units)}
        box = QRectF(6, 6, DRAWN.width() - 12, DRAWN.height() - 12)
        things = {**things, thing.id: thing}

        def draw(painter: QPainter) -> None:
            draw_in(painter, thing, things, box, 6.0)

        self.items[form.phrase].setIcon(drawn_icon(DRAWN, self.devicePixelRatioF(), draw))

    def on_hung(self, phrase: str, found: Findings) -> None:
        box = QRectF(2, 2, DRAWN.width() - 4, DRAWN.height() - 4)
        drawn = drawn_icon(DRAWN, self.devicePixelRatioF(), lambda p: draw_small(p, found, box))
        self.items[phrase].setIcon(drawn)

    def hideEvent(self, event: object) -> None:
        self.pictures.stop()


@cache
def _tray() -> Tray:
    return bench_tray()


def _made(form: Form) -> Piece:
    return said_to(form, _tray()).piece
