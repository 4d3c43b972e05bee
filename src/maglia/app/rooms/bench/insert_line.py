"""The insert line: a few letters find any part, unit, drop or action."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QRectF, QSize, Qt
from PySide6.QtGui import QIcon, QKeyEvent, QPainter
from PySide6.QtWidgets import QLabel, QLineEdit, QListView

from maglia.app.lists import Rows
from maglia.app.painting.whole import draw_in
from maglia.app.panel import Panel, drawn_icon
from maglia.app.rooms.room import Offered
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.core.parts.units import Thing
from maglia.core.values.measures import plain_length
from maglia.core.values.record import Value
from maglia.phrases.closing_phrases import closing_offers
from maglia.phrases.hanging_phrases import hanging_offers
from maglia.phrases.offers import Offer, known_things, offers, replacements
from maglia.phrases.part_offers import part_offers
from maglia.phrases.run_offers import run_offers
from maglia.phrases.string_phrases import string_offers
from maglia.phrases.unit_offers import unit_offers

if TYPE_CHECKING:
    from maglia.phrases.fit_offers import WishOffer

ICON = QSize(64, 26)
MOST_SHOWN = 60
EXAMPLES = (
    "Part, wish or action: rolo, 4 ring 4, drop teal, drops every 6 amber, hem V 12, "
    "new link amber + amber, new ring 4.2 x 0.8 inner"
)
NOTHING = "Nothing in the tray fits; try fewer letters."
NOTHING_ELSE = "Nothing else of this kind in the tray fits."


class Line(Value, frozen=True):
    """One line of the list: what it says, the part it draws, what it does (none: it only says)."""

    words: str
    thing: Thing | None = None
    do: Callable[[], object] | None = None


class InsertLine(Panel):
    """`actions` gives the window's actions that fit a text."""

    def __init__(
        self, session: Session, actions: Callable[[str], list[Offered]], settings: Settings
    ) -> None:
        super().__init__()
        self.session, self.offered, self.settings = session, actions, settings
        self.replacing: str | None = None
        self.line = QLineEdit()
        self.line.setPlaceholderText(EXAMPLES)
        self.line.setAccessibleName("Insert line")
        self.rows: Rows[Line] = Rows(lambda line: line.words, lambda line: self._icon(line.thing))
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setUniformItemSizes(True)
        self.list.setAccessibleName("What fits")
        self.list.setIconSize(ICON)
        self.list.setMaximumHeight(168)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.hint = QLabel("↑ ↓ choose · Enter puts in · Esc leaves")
        self.hint.setObjectName("quiet")
        self.lay_out(self.line, self.list, self.hint)
        self.line.textChanged.connect(self.refresh)
        self.watch(self.line)
        self.list.clicked.connect(lambda _: self.take())

    def open(self, text: str = "", *, replacing: str | None = None) -> None:
        """Show it, with a text to begin with, or to replace a part everywhere."""
        self.replacing = replacing
        things = self.session.assembly.things
        name = things[replacing].name if replacing else ""
        self.line.setPlaceholderText(f"Replace “{name}” everywhere by …" if name else EXAMPLES)
        self.line.setText(text)
        self.refresh()
        self.show()
        self.line.setFocus()

    def refresh(self) -> None:
        """Fill the list with what fits the text."""
        text = self.line.text()
        if self.replacing is not None:
            lines, nothing = self._replacements(text, self.replacing), NOTHING_ELSE
        else:
            lines, nothing = self._lines(text), NOTHING
        self.rows.show(lines or [Line(nothing)])
        self.choose(0)

    def _lines(self, text: str) -> list[Line]:
        """Wishes that are whole first, then parts and runs, forms of wishes, actions."""
        from maglia.phrases.fit_offers import wish_offers

        session = self.session
        wishes = wish_offers(text, session.piece, session.spot, session.unit)
        where = (session.piece, session.tray, session.spot, session.cursor.mark)
        made = unit_offers(text, *where)
        made += part_offers(text, session.piece, session.tray, session.spot)
        made += hanging_offers(text, *where)
        made = made or run_offers(text, session.piece, session.tray, session.spot)
        made += closing_offers(text, session.piece, session.tray, session.spot)
        made += string_offers(text, session.piece, session.tray, session.spot)
        made = made or offers(text, *where, used=self.settings["used"])[:MOST_SHOWN]
        whole = [self._wish_line(wish) for wish in wishes if wish.edited is not None]
        forms = [self._wish_line(wish) for wish in wishes if wish.edited is None]
        parts = [self._line_of(offer, partial(self._put_in, offer)) for offer in made]
        actions = [Line(f"{words}    {key}", None, do) for words, key, do in self.offered(text)]
        return [*whole, *parts, *forms, *actions]

    def _replacements(self, text: str, ref: str) -> list[Line]:
        session = self.session
        return [
            self._line_of(offer, partial(session.attempt, offer.do))
            for offer in replacements(text, session.piece, session.tray, ref)
        ]

    def _line_of(self, offer: Offer, do: Callable[[], object]) -> Line:
        """An offer with its drawing and its size in the display unit; sizes of parts are small, so
        inches are given in hundredths."""
        unit = self.session.unit
        size = offer.hint if offer.size_mm is None else plain_length(offer.size_mm, unit)
        return Line(f"{offer.words}    {size}", offer.thing, do)

    def _wish_line(self, wish: WishOffer) -> Line:
        return Line(f"{wish.words}    {wish.hint}", None, partial(self._wish, wish))

    def choose(self, row: int) -> None:
        row = min(max(row, 0), self.rows.rowCount() - 1)
        self.list.setCurrentIndex(self.rows.index(row))

    def _put_in(self, offer: Offer) -> bool:
        done = self.session.attempt(offer.do)
        if done:
            self.session.keep_offered(offer.keeps, offer.lies)
        if done:
            self.settings.count_use(offer.thing.id if offer.thing else "")
        return done

    def _wish(self, wish: WishOffer) -> bool:
        """Take over a fit, or write its form into the line to be filled in."""
        if wish.edited is not None:
            return self.session.apply(wish.edited)
        self.line.setText(wish.fill)
        at = wish.fill.find("NAME")
        if at >= 0:
            self.line.setSelection(at, len("NAME"))
        return False

    def take(self) -> None:
        row = self.list.currentIndex().row()
        do = self.rows.rows[row].do if 0 <= row < self.rows.rowCount() else None
        if do is not None and do():
            self.leave()

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take()
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            by = 1 if key == Qt.Key.Key_Down else -1
            self.choose(self.list.currentIndex().row() + by)
        else:
            return False
        return True

    def _icon(self, thing: Thing | None) -> QIcon | None:
        """The part drawn to fit its place in the list."""
        if thing is None:
            return None
        box = QRectF(2, 2, ICON.width() - 4, ICON.height() - 4)
        return drawn_icon(ICON, self.devicePixelRatioF(), lambda p: self._draw(p, thing, box))

    def _draw(self, painter: QPainter, thing: Thing, room: QRectF) -> None:
        things = known_things(self.session.piece, self.session.tray)
        draw_in(painter, thing, things, room, 5.0)
