"""The insert line: whatever can be done is said in it, and shown while it is said."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QObject, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QTextCharFormat

from maglia.app.plain_text import Label
from maglia.app.rooms.room import Offered
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.app.theme import Theme
from maglia.app.typed_line import Line, TypedLine, marked
from maglia.core.assembly.assembly import Member
from maglia.core.assembly.expand import expand
from maglia.core.parts.units import Things
from maglia.core.piece.piece import Wearer
from maglia.core.values.measures import plain_length
from maglia.core.values.record import DomainError
from maglia.phrases.examples import examples
from maglia.phrases.here import Here, Offer
from maglia.phrases.line import Understood, completed, forms_of, understood
from maglia.phrases.names import said
from maglia.phrases.pointing import place_of, pointed_words, with_place
from maglia.phrases.put_in import can_stand

MOST_SHOWN = 60
TRY_MS = 150
"""After so long without a key the piece is drawn as it would be."""
REMEMBERED = 40
"""Phrases that are held, and offered again."""
PLACEHOLDER = (
    "Say what is put in or done: 21 rolo · drop teal at link 6 · close lobster into ring 5"
)
HINT = "Enter does it · ↑ ↓ choose · Tab writes the name · Ctrl+↑ earlier · ; another · Esc leaves"
NOTHING_ELSE = "Nothing else of this kind in the tray fits."


class InsertLine(TypedLine):
    """`actions` gives the window's actions that fit a text. Signal `tried(Assembly | None)`: what
    the chosen line would make of the piece · `asking(bool)`: a phrase stands in it ·
    `each_wanted(wearers)`: the piece is to be shown for each."""

    tried = Signal(object)
    asking = Signal(bool)
    each_wanted = Signal(object)
    icon_size, inset, largest = QSize(64, 26), 2.0, 5.0

    def __init__(
        self,
        session: Session,
        actions: Callable[[str], list[Offered]],
        settings: Settings,
        theme: Theme,
        may_leave: Callable[[], bool] = lambda: True,
    ) -> None:
        super().__init__("Insert line", "What is understood")
        self.session, self.offered, self.settings, self.theme = session, actions, settings, theme
        self.may_leave = may_leave
        self.replacing: str | None = None
        self.found = Understood(())
        self.shown: list[Offer | None] = []
        """The offer of each row; None for actions."""
        self.back = 0
        """How far back in the history the line stands."""
        self._trying = QTimer(self)
        self._trying.setSingleShot(True)
        self._trying.setInterval(TRY_MS)
        self._trying.timeout.connect(self.try_out)
        self.line.setPlaceholderText(PLACEHOLDER)
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setMaximumHeight(168)
        self.added = Label()
        self.added.setObjectName("added")
        self.added.setWordWrap(True)
        self.added.setAccessibleName("What is added")
        self.hint = Label(HINT)
        self.hint.setObjectName("quiet")
        self.list.selectionModel().currentRowChanged.connect(lambda *_: self._on_row())
        self.lay_out(self.line, self.list, self.added, self.hint)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme

    def open(self, text: str = "", *, replacing: str | None = None) -> None:
        """Show it, with a text to begin with, or to replace a part everywhere."""
        self.replacing, self.back = replacing, 0
        things = self.session.assembly.things
        name = things[replacing].name if replacing else ""
        self.line.setPlaceholderText(f"Replace “{name}” everywhere by …" if name else PLACEHOLDER)
        self.line.setText(text)
        self.refresh()
        self.show()
        self.line.setFocus()

    def here(self) -> Here:
        session = self.session
        return Here(session.piece, session.tray, session.spot, session.cursor.mark, session.unit)

    def refresh(self) -> None:
        """Fill the list with what the text means; mark the word that means nothing."""
        text = self.line.text()
        self.asking.emit(bool(text.strip()) and self.replacing is None)
        if self.replacing is not None:
            lines = self._replacements(text)
        elif text.strip():
            lines = self._lines(text)
        else:
            self.found = Understood(())
            lines = self._examples()
        self.shown = [offer for offer, _ in lines]
        self.rows.show([line for _, line in lines])
        tied = bool(self.shown) and self.shown[0] is not None and self.shown[0].choice
        if self.replacing is None and (tied or not text.strip()):
            self.list.setCurrentIndex(self.rows.index(-1))
        else:
            self.choose(0)
        self._mark()
        self._on_row()

    def _mark(self) -> None:
        """Mark the words that were not understood."""
        first = self.shown[0] if self.shown else None
        fault = first.fault if first is not None else None
        text_format = QTextCharFormat()
        text_format.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
        text_format.setUnderlineColor(self.theme.colour("fold"))
        text_format.setForeground(self.theme.colour("fold"))
        marked(self.line, fault if fault and fault[1] > fault[0] else None, text_format)

    def _on_row(self) -> None:
        self._show_added()
        self._trying.start()

    def try_out(self) -> None:
        """Show what the chosen line would make of the piece; what cannot be is said now."""
        offer = self._current()
        idle = offer is None or offer.fault is not None or offer.fill or offer.wearers
        if offer is None or idle or not self.isVisible():
            self.tried.emit(None)
            return
        try:
            edited = offer.do()
            self.tried.emit(expand(edited.piece))
            if "since " in edited.words:  # what is added is known when it is done
                self.added.setText(f"added: {edited.words}")
                self.added.show()
        except DomainError as fault:
            self.tried.emit(None)
            self.added.setText(f"This cannot be done: {fault}")
            self.added.show()

    def point_at(self, member: Member, number: int) -> None:
        """A place that was pointed at, written into the phrase."""
        session = self.session
        near = session.spot.owner if session.spot else ""
        try:
            place = place_of(member, number, session.piece)
            words = pointed_words(place, session.piece, near)
        except DomainError:
            session.said.emit("What lies there has no words of its own: say it by its run.")
            return
        self.line.setText(with_place(self.line.text(), words))
        self.line.setFocus()

    def leave(self) -> None:
        self._trying.stop()
        self.tried.emit(None)
        self.asking.emit(False)
        super().leave()

    def _current(self) -> Offer | None:
        row = self.list.currentIndex().row()
        return self.shown[row] if 0 <= row < len(self.shown) else None

    def _show_added(self) -> None:
        """What stands below the list: what is added, or done before."""
        offer = self._current()
        said_before = [f"first: {one.words}" for one in self.found.before]
        if offer is not None and offer.added:
            said_before.append(f"added: {offer.added}")
        elif offer is None and self.shown and self.shown[0] is not None and self.shown[0].choice:
            said_before.append("several fit alike: ↓ chooses")
        self.added.setText(" · ".join(said_before))
        self.added.setVisible(bool(said_before))

    def _lines(self, text: str) -> list[tuple[Offer | None, Line]]:
        """What is understood, what else the last name may be, forms of wishes, actions."""
        self.found = understood(text, self.here())
        offers = list(self.found.offers)
        forms = [] if offers and offers[0].fault is None else forms_of(text)
        actions = [(None, Line(f"{words}    {key}", None, do))
                   for words, key, do in self.offered(text)]  # fmt: skip
        refusals = [one for one in offers if one.fault is not None]
        done = self._by_use([one for one in offers if one.fault is None])
        rows = [(one, self._line_of(one)) for one in [*done, *forms][:MOST_SHOWN]]
        faults = [(one, self._line_of(one)) for one in refusals]
        if done or not actions:
            return [*rows, *faults, *actions]
        return [*faults, *rows, *actions] if _is_whole(text) else [*actions, *faults, *rows]

    def _by_use(self, offers: list[Offer]) -> list[Offer]:
        """Of readings that fit alike what is used most stands first."""
        used = self.settings["used"]
        if len(offers) < 2 or not offers[0].choice:
            return offers
        return sorted(offers, key=lambda o: -used.get(o.thing.id if o.thing else "", 0))

    def _examples(self) -> list[tuple[Offer | None, Line]]:
        """What can be said here; what was said last comes first."""
        earlier = [(phrase, "again") for phrase in self.settings["said"][:3]]
        fitting = [(one.phrase, one.does) for one in examples(self.here())]
        return [(None, Line(f"{phrase}    {does}", None, partial(self._write, phrase)))
                for phrase, does in [*earlier, *fitting]]  # fmt: skip

    def _write(self, phrase: str) -> bool:
        """A phrase into the line, to be done or changed."""
        self.line.setText(phrase)
        return False

    def _replacements(self, text: str) -> list[tuple[Offer | None, Line]]:
        old = self.session.assembly.things[self.replacing or ""]
        here = self.here()
        others = [t for t in here.things.values() if t.kind == old.kind and t.id != old.id]
        low = text.lower().split()
        fitting = [t for t in others if all(word in t.name.lower() for word in low)]
        offers = [understood(f"replace {said(old.name)} by {said(t.name)}", here).offers[0]
                  for t in sorted(fitting, key=lambda t: t.name)[:MOST_SHOWN]]  # fmt: skip
        rows: list[tuple[Offer | None, Line]] = [(one, self._line_of(one)) for one in offers]
        return rows or [(None, Line(NOTHING_ELSE))]

    def _line_of(self, offer: Offer) -> Line:
        """An offer with its drawing and its size in the display unit."""
        unit = self.session.unit
        size = offer.hint if offer.size_mm is None else plain_length(offer.size_mm, unit)
        return Line(f"{offer.words}    {size}".rstrip(), offer.thing, partial(self._do, offer))

    def _do(self, offer: Offer) -> bool:
        """Do all that stands in the line, or nothing; a form is written to be filled in."""
        if offer.fill:
            self.line.setText(offer.fill)
            if (at := offer.fill.find("NAME")) >= 0:
                self.line.setSelection(at, len("NAME"))
            return False
        if offer.wearers and not self.found.before:
            self.each_wanted.emit(offer.wearers)
            return True
        if not self._whole([*self.found.before, offer]):
            return False
        text = self.line.text().strip()
        for one in [*self.found.before, offer]:
            if one.begins:
                if not self.may_leave():
                    return False
                edited = one.do()
                self.session.start_new(edited.piece, edited.words)
            elif not self.session.attempt(one.do):
                return False
            self.session.keep_offered(one.keeps, one.lies)
            self.settings.count_use(one.thing.id if one.thing else "")
        self._remember(text)
        if offer.keeps and offer.thing is not None and can_stand(offer.thing):
            self.line.setText(said(offer.thing.name))  # Enter again puts it in
            self.line.selectAll()
            return False
        return True

    def _whole(self, offers: list[Offer]) -> bool:
        """Whether several edits can be done one after the other; if not, it is said why."""
        if len(offers) < 2:
            return True
        try:
            expand(offers[-1].do().piece)
        except DomainError as fault:
            self.session.said.emit(f"Nothing is done: {fault}.")
            return False
        return True

    def _remember(self, text: str) -> None:
        if not text:
            return
        kept = [one for one in self.settings["said"] if one != text]
        self.settings["said"] = [text, *kept][:REMEMBERED]

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if control and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._earlier(1 if event.key() == Qt.Key.Key_Up else -1)
            return True
        if event.key() == Qt.Key.Key_Tab and self.line.text().strip():
            self._complete()
            return True
        return super().takes(watched, event)

    def _earlier(self, by: int) -> None:
        """Step through what was said before."""
        kept = self.settings["said"]
        self.back = min(max(self.back + by, 0), len(kept))
        self.line.setText(kept[self.back - 1] if self.back else "")

    def _complete(self) -> None:
        """Write the chosen name whole."""
        offer = self._current() or (self.shown[0] if self.shown else None)
        if offer is not None and offer.fill:
            self.line.setText(offer.fill)
        elif offer is not None and offer.fault is None:
            self.line.setText(completed(self.line.text(), offer))

    def take(self) -> None:
        do = self.chosen()
        if do is not None and do():
            self.leave()

    def drawn_with(self) -> Things:
        found = self.found.offers
        kept = [thing for offer in found for thing in offer.keeps]
        made = {t.id: t for t in kept if not isinstance(t, Wearer)}
        return {**self.here().things, **made}


def _is_whole(text: str) -> bool:
    """Whether a text is more than the beginning of a word."""
    return len(text.split()) > 1
