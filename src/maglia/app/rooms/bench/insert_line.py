"""The insert line: a few letters find any part, unit, drop or action."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QLabel

from maglia.app.rooms.room import Offered
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.app.typed_line import Line, TypedLine
from maglia.core.parts.units import Things
from maglia.core.values.measures import plain_length
from maglia.phrases.closing_phrases import closing_offers
from maglia.phrases.cord_phrases import cord_offers, wind_offers
from maglia.phrases.hanging_phrases import hanging_offers
from maglia.phrases.offers import Offer, known_things, offers, replacements
from maglia.phrases.part_offers import part_offers
from maglia.phrases.row_phrases import row_offers
from maglia.phrases.run_offers import run_offers
from maglia.phrases.string_phrases import string_offers
from maglia.phrases.unit_offers import unit_offers

if TYPE_CHECKING:
    from maglia.phrases.fit_offers import WishOffer

MOST_SHOWN = 60
EXAMPLES = (
    "Part, wish or action: rolo, 4 ring 4, drop teal, drops every 6 amber, hem V 12, "
    "new link amber + amber, new ring 4.2 x 0.8 inner"
)
NOTHING = "Nothing in the tray fits; try fewer letters."
NOTHING_ELSE = "Nothing else of this kind in the tray fits."


class InsertLine(TypedLine):
    """`actions` gives the window's actions that fit a text."""

    icon_size, inset, largest = QSize(64, 26), 2.0, 5.0

    def __init__(
        self, session: Session, actions: Callable[[str], list[Offered]], settings: Settings
    ) -> None:
        super().__init__("Insert line", "What fits")
        self.session, self.offered, self.settings = session, actions, settings
        self.replacing: str | None = None
        self.line.setPlaceholderText(EXAMPLES)
        self.list.setUniformItemSizes(True)
        self.list.setMaximumHeight(168)
        self.hint = QLabel("↑ ↓ choose · Enter puts in · Esc leaves")
        self.hint.setObjectName("quiet")
        self.lay_out(self.line, self.list, self.hint)

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
        made += row_offers(text, session.piece, session.tray, session.spot)
        made += wind_offers(text, session.piece, session.tray, session.spot)
        made += cord_offers(text, session.piece, session.tray, session.spot)
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
        do = self.chosen()
        if do is not None and do():
            self.leave()

    def drawn_with(self) -> Things:
        return known_things(self.session.piece, self.session.tray)
