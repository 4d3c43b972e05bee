"""A new part, unit or wearer in one phrase: drawn as it is written, kept with Enter."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QSize, Signal

from maglia.app.plain_text import Label
from maglia.app.rooms.room import Offered
from maglia.app.session.session import Session
from maglia.app.typed_line import Line, TypedLine
from maglia.core.parts.units import Things
from maglia.core.piece.piece import Form, Piece
from maglia.core.values.record import DomainError
from maglia.core.workshop.compartments import id_of, name_of
from maglia.phrases.form_phrases import FORM_HINT, read_form
from maglia.phrases.here import Here, Offer
from maglia.phrases.part_phrases import FORMS, HINT
from maglia.phrases.phrase import phrase_offers

EXAMPLES = f"{HINT} · new wearer prompter neck 372"
NOBODY = Piece(name="Nothing")


class NewLine(TypedLine):
    """Signals: `kept(str)` what of that id is new · `said(str)`."""

    kept = Signal(str)
    said = Signal(str)
    icon_size, inset, largest = QSize(120, 44), 3.0, 6.0

    def __init__(self, session: Session, actions: Callable[[str], list[Offered]]) -> None:
        super().__init__("New part in one phrase", "What is understood")
        self.session, self.offered = session, actions
        self.line.setPlaceholderText(EXAMPLES)
        self.list.setMaximumHeight(190)
        self.list.setWordWrap(True)
        hint = Label("Enter keeps it · ↑ ↓ choose · Esc leaves · a size you do not know is a ?")
        hint.setObjectName("quiet")
        self.lay_out(self.line, self.list, hint)

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
        found = phrase_offers(written, Here(NOBODY, self.session.tray))
        if any(offer.keeps for offer in found):
            return [Line(offer.words, offer.thing, partial(self._keep, offer)) for offer in found]
        actions = [
            Line(f"{words}    {keys}", None, partial(self._act, do))
            for words, keys, do in self.offered(text)
        ]
        return actions or [Line(offer.words, None, partial(self._keep, offer)) for offer in found]

    def _form(self, text: str) -> Line | None:
        """A form calibrated to the maker's own bust."""
        try:
            found = read_form(text)
        except DomainError as fault:
            return Line(f"{fault} · {FORM_HINT}")
        if found is None:
            return None

        def kept(form: object) -> None:
            assert isinstance(form, Form)

            def keep_it() -> None:
                self.session.workshop.keep_form(found.name, form)
                self.said.emit(f"The form {found.name} is kept.")

            try:
                self.session.workshop.when_free(keep_it)
            except DomainError as fault:
                self._not_done(fault)

        def keep() -> bool:
            self.said.emit(f"Chains are hung on the form {found.name} …")
            self.session.jobs.begin("form", lambda _: found.calibrated(), kept, self._not_done)
            return True

        return Line(f"Keep the form: {found.words}", None, keep)

    def _not_done(self, fault: Exception) -> None:
        if not isinstance(fault, DomainError):
            raise fault
        self.said.emit(f"Not done: {fault}.")

    def _act(self, do: Callable[[], object]) -> bool:
        self.leave()
        do()
        return False

    def _keep(self, offer: Offer) -> bool:
        if not offer.keeps:
            self.said.emit(f"Not done: {offer.words}.")
            return False
        names = ", ".join(name_of(one) for one in offer.keeps)
        if self.session.keep_offered(offer.keeps, offer.lies, f"Kept: {names}."):
            self.kept.emit(id_of(offer.keeps[-1]))
        return True

    def take(self) -> None:
        do = self.chosen()
        try:
            if do is not None and do():  # the line stays for the next part
                self.line.setText("new ")
        except DomainError as fault:
            self.said.emit(f"Not done: {fault}.")

    def drawn_with(self) -> Things:
        tray = self.session.tray
        return {own.id: own for own in (*tray.parts, *tray.units)}
