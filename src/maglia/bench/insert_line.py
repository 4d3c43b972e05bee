"""The insert line: a few letters find any part, unit, drop or action."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QRectF, QSize, Qt
from PySide6.QtGui import QIcon, QKeyEvent, QPainter
from PySide6.QtWidgets import QLabel, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout

from maglia.bench.offers import Offer, offers, replacements
from maglia.bench.painting import parts as draw
from maglia.bench.panel import Panel, drawn_icon
from maglia.bench.run_offers import run_offers
from maglia.bench.session import Session
from maglia.bench.settings import Settings
from maglia.bench.unit_offers import unit_offers
from maglia.core.measures import plain_length
from maglia.core.parts import Bead, Chain, Charm, Clasp, Connector, EarFinding, Ring
from maglia.core.units import BeadLink, Dangle, Tassel, tassel_span_mm, unit_span_mm

if TYPE_CHECKING:
    from maglia.bench.fit_offers import WishOffer

ICON = QSize(64, 26)
MOST_SHOWN = 60
EXAMPLES = (
    "Part, wish or action: rolo, 4 ring 4, drop teal, drops every 6 amber, hem V 12, "
    "new link amber + amber"
)
Offered = tuple[str, str, Callable[[], object]]
"""An action of the window: words, keys, and what it does."""


class InsertLine(Panel):
    """`actions` gives the window's actions that fit a text."""

    def __init__(
        self, session: Session, actions: Callable[[str], list[Offered]], settings: Settings
    ) -> None:
        super().__init__()
        self.session, self.offered, self.settings = session, actions, settings
        self.replacing: str | None = None
        self.found: list[Callable[[], object]] = []
        self.line = QLineEdit()
        self.line.setPlaceholderText(EXAMPLES)
        self.line.setAccessibleName("Insert line")
        self.list = QListWidget()
        self.list.setAccessibleName("What fits")
        self.list.setIconSize(ICON)
        self.list.setMaximumHeight(168)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.hint = QLabel("↑ ↓ choose · Enter puts in · Esc leaves")
        self.hint.setObjectName("quiet")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 8)
        column.setSpacing(6)
        for widget in (self.line, self.list, self.hint):
            column.addWidget(widget)
        self.line.textChanged.connect(self.refresh)
        self.watch(self.line)
        self.list.itemClicked.connect(lambda _: self.take())

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
        text, session = self.line.text(), self.session
        self.list.clear()
        self.found = []
        if self.replacing is not None:
            self._refresh_replacing(text, self.replacing)
            return
        from maglia.bench.fit_offers import wish_offers

        wishes = wish_offers(text, session.piece, session.spot, session.unit)
        for wish in wishes:
            if wish.edited is not None:
                self._add_wish(wish)
        used = self.settings["used"]
        where = (session.piece, session.tray, session.spot, session.mark)
        made = unit_offers(text, session.piece, session.tray, session.spot)
        made += run_offers(text, session.piece, session.tray, session.spot)
        for offer in made or offers(text, *where, used=used)[:MOST_SHOWN]:
            self.list.addItem(self._line_of(offer))
            self.found.append(partial(self._put_in, offer))
        for wish in wishes:
            if wish.edited is None:
                self._add_wish(wish)
        for words, key, run in self.offered(text):
            self.list.addItem(QListWidgetItem(f"{words}    {key}"))
            self.found.append(run)
        if self.found:
            self.list.setCurrentRow(0)
        else:
            self.list.addItem(QListWidgetItem("Nothing in the tray fits; try fewer letters."))

    def _refresh_replacing(self, text: str, ref: str) -> None:
        session = self.session
        for offer in replacements(text, session.piece, session.tray, ref):
            self.list.addItem(self._line_of(offer))
            self.found.append(partial(session.attempt, offer.do))
        if self.found:
            self.list.setCurrentRow(0)
        else:
            self.list.addItem(QListWidgetItem("Nothing else of this kind in the tray fits."))

    def _line_of(self, offer: Offer) -> QListWidgetItem:
        """An offer with its drawing and its size in the display unit; sizes of parts are small, so
        inches are given in hundredths."""
        unit = self.session.unit
        size = offer.hint if offer.size_mm is None else plain_length(offer.size_mm, unit)
        return QListWidgetItem(self._icon(offer.thing), f"{offer.words}    {size}")

    def _put_in(self, offer: Offer) -> bool:
        done = self.session.attempt(offer.do)
        if done:
            self.settings.count_use(offer.thing.id if offer.thing else "")
        return done

    def _add_wish(self, wish: WishOffer) -> None:
        self.list.addItem(QListWidgetItem(f"{wish.words}    {wish.hint}"))
        self.found.append(partial(self._wish, wish))

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
        row = self.list.currentRow()
        if 0 <= row < len(self.found) and self.found[row]():
            self.leave()

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take()
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            by = 1 if key == Qt.Key.Key_Down else -1
            self.list.setCurrentRow(min(max(self.list.currentRow() + by, 0), self.list.count() - 1))
        else:
            return False
        return True

    def _icon(self, thing: object) -> QIcon:
        """The part drawn to fit its place in the list."""
        box = QRectF(2, 2, ICON.width() - 4, ICON.height() - 4)
        return drawn_icon(ICON, self.devicePixelRatioF(), lambda p: self._draw(p, thing, box))

    def _draw(self, painter: QPainter, thing: object, room: QRectF) -> None:
        if thing is None:
            return
        tray = self.session.tray
        things: dict[str, Any] = {t.id: t for t in (*tray.parts, *tray.units)}
        things |= dict(self.session.assembly.things)
        length, width = _extent(thing, things)
        scale = min(room.width() / length, room.height() / width, 5.0)
        painter.translate(room.center().x() - length / 2 * scale, room.center().y())
        painter.scale(scale, scale)
        if isinstance(thing, Chain):
            for on_edge in (False, True):
                for k in range(int(on_edge), 5, 2):
                    painter.save()
                    painter.translate(k * length / 5, 0)
                    draw.link(painter, thing, length / 5, on_edge=on_edge)
                    painter.restore()
        elif isinstance(thing, Ring):
            draw.ring(painter, thing, length)
        elif isinstance(thing, Bead):
            draw.bead(painter, thing, 0.0)
        elif isinstance(thing, BeadLink | Dangle):
            draw.wired(painter, thing, length, things)
        elif isinstance(thing, Charm):
            draw.charm(painter, thing, length)
        elif isinstance(thing, Clasp):
            draw.clasp(painter, thing, length)
        elif isinstance(thing, EarFinding):
            draw.ear_finding(painter, thing, length)
        elif isinstance(thing, Tassel):
            draw.tassel(painter, thing, length, things)
        elif isinstance(thing, Connector):
            painter.translate(length / 2, 0)
            draw.connector(painter, thing)


def _extent(thing: object, things: dict[str, Any]) -> tuple[float, float]:
    """Length and width to fit into the icon, mm."""
    if isinstance(thing, Chain):
        pitch = (thing.pitches_mm or (4.0,))[0]
        return 5 * pitch, (thing.inner_width_mm or 2) + 2 * (thing.wire_mm or 0.6)
    if isinstance(thing, BeadLink | Dangle):
        return unit_span_mm(thing, things) or 20.0, 10.0
    if isinstance(thing, Tassel):
        return tassel_span_mm(thing, things) or 40.0, 12.0
    if isinstance(thing, Ring):
        size = thing.inner_mm or 4.0
        return size, size + 2.5
    if isinstance(thing, Connector):
        return (thing.width_mm or 20) + 2, (thing.height_mm or 10) + 2
    for field in ("length_mm", "height_mm", "span_mm", "below_mm"):
        value = getattr(thing, field, None)
        if value:
            return float(value), float(getattr(thing, "width_mm", None) or value)
    return 10.0, 10.0
