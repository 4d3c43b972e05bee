"""A new part, unit or wearer in one phrase: drawn as it is written, kept with Enter."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QObject, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QKeyEvent, QPainter
from PySide6.QtWidgets import QLabel, QLineEdit, QListView

from maglia.app.lists import Rows
from maglia.app.painting.whole import draw_in
from maglia.app.panel import Panel, drawn_icon
from maglia.app.rooms.room import Offered
from maglia.app.session.session import Session
from maglia.core.parts.units import Thing
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.compartments import id_of
from maglia.phrases.form_phrases import FORM_HINT, read_form
from maglia.phrases.offers import Offer
from maglia.phrases.part_offers import part_offers
from maglia.phrases.part_phrases import FORMS, HINT
from maglia.phrases.unit_offers import unit_offers

ICON = QSize(120, 44)
EXAMPLES = f"{HINT} · new wearer prompter neck 372"
NOBODY = Piece(name="Nothing")


class Line(Value, frozen=True):
    words: str
    thing: Thing | None = None
    do: Callable[[], bool] | None = None


class NewLine(Panel):
    """Signals: `kept(str)` what of that id is new · `said(str)`."""

    kept = Signal(str)
    said = Signal(str)

    def __init__(self, session: Session, actions: Callable[[str], list[Offered]]) -> None:
        super().__init__()
        self.session, self.offered = session, actions
        self.line = QLineEdit()
        self.line.setPlaceholderText(EXAMPLES)
        self.line.setAccessibleName("New part in one phrase")
        self.rows: Rows[Line] = Rows(lambda row: row.words, lambda row: self._icon(row.thing))
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setAccessibleName("What is understood")
        self.list.setIconSize(ICON)
        self.list.setMaximumHeight(190)
        self.list.setWordWrap(True)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        hint = QLabel("Enter keeps it · ↑ ↓ choose · Esc leaves · a size you do not know is a ?")
        hint.setObjectName("quiet")
        self.lay_out(self.line, self.list, hint)
        self.line.textChanged.connect(self.refresh)
        self.watch(self.line)
        self.list.clicked.connect(lambda _: self.take())

    def open(self, text: str = "new ") -> None:
        self.line.setText(text)
        self.refresh()
        self.show()
        self.line.setFocus()

    def refresh(self) -> None:
        text = self.line.text()
        self.rows.show(self._lines(text))
        self.choose(0)

    def _lines(self, text: str) -> list[Line]:
        if text.strip() in ("", "new"):
            return [Line(form) for form in FORMS]
        written = text if text.lower().lstrip().startswith("new ") else f"new {text}"
        form = self._form(written)
        if form is not None:
            return [form]
        tray = self.session.tray
        found: list[Offer] = [
            *unit_offers(written, NOBODY, tray, None),
            *part_offers(written, NOBODY, tray, None),
        ]
        if found:
            return [Line(_words(offer), offer.thing, partial(self._keep, offer)) for offer in found]
        actions = [
            Line(f"{words}    {keys}", None, partial(self._act, do))
            for words, keys, do in self.offered(text)
        ]
        return actions or [Line(f"say what kind of part it is, such as: {HINT}")]

    def _form(self, text: str) -> Line | None:
        """A form calibrated to the maker's own bust."""
        try:
            found = read_form(text)
        except DomainError as fault:
            return Line(f"{fault} · {FORM_HINT}")
        if found is None:
            return None

        def keep() -> bool:
            self.session.workshop.keep_form(found.name, found.calibrated())
            self.said.emit(f"The form {found.name} is kept.")
            return True

        return Line(f"Keep the form: {found.words}", None, keep)

    def _act(self, do: Callable[[], object]) -> bool:
        self.leave()
        do()
        return False

    def _keep(self, offer: Offer) -> bool:
        if not offer.keeps:
            self.said.emit(f"Not done: {offer.words}.")
            return False
        self.session.keep_offered(offer.keeps, offer.lies)
        names = ", ".join(id_of(one) for one in offer.keeps)
        self.said.emit(f"Kept: {names}.")
        self.kept.emit(id_of(offer.keeps[-1]))
        return True

    def choose(self, row: int) -> None:
        self.list.setCurrentIndex(self.rows.index(min(max(row, 0), self.rows.rowCount() - 1)))

    def take(self) -> None:
        row = self.list.currentIndex().row()
        do = self.rows.rows[row].do if 0 <= row < self.rows.rowCount() else None
        try:
            if do is not None and do():  # the line stays for the next part
                self.line.setText("new ")
        except DomainError as fault:
            self.said.emit(f"Not done: {fault}.")

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
        if thing is None:
            return None
        tray = self.session.tray
        things = {own.id: own for own in (*tray.parts, *tray.units)}
        room = QRectF(3, 3, ICON.width() - 6, ICON.height() - 6)

        def draw(painter: QPainter) -> None:
            draw_in(painter, thing, things, room, 6.0)

        return drawn_icon(ICON, self.devicePixelRatioF(), draw)


def _words(offer: Offer) -> str:
    """What is kept; putting it in is the Bench's."""
    words = offer.words.replace("Keep and put in:", "Keep:").replace("Make and put in:", "Keep:")
    return words.replace("Keep and dress:", "Keep:")
