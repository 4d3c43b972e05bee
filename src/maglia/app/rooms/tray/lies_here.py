"""What lies there of a part: the bag or each length, a line to say what changed, and its history
with a key that takes an event back.
"""

from __future__ import annotations

import re

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from maglia.app.lists import Rows
from maglia.app.plain_text import Label
from maglia.app.session.session import Session
from maglia.app.size_box import SizeBox
from maglia.core.parts.parts import Chain, Part
from maglia.core.values.measures import amount_at
from maglia.core.values.record import DomainError
from maglia.core.workshop.compartments import Kept
from maglia.core.workshop.lying import Deed, amount_words, by_length
from maglia.core.workshop.weighing import count_from_mass
from maglia.phrases.stock_phrases import HINT, HINT_LENGTHS, read_stock

SHOWN_EVENTS = 6
SAID = {"bought": "bought", "counted": "counted anew", "reserve": "laid out", "release": "given up",
        "cut": "cut", "use": "used", "return": "brought back", "spoilt": "spoilt",
        "reversal": "taken back"}  # fmt: skip
SAMPLE = re.compile(r"(\d+)\s+weigh\s+(.+)", re.IGNORECASE)
BAG = re.compile(r"(?:bag|weighed)\s+(.+)", re.IGNORECASE)
NAMED = re.compile(r"name\s+(.+?)\s+as\s+(.+)", re.IGNORECASE)


class LiesHere(QWidget):
    """Signals: `said(str)` · `weighed(float, str)` what one weighs, g, and how it is known."""

    said = Signal(str)
    weighed = Signal(float, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.part: Part | None = None
        self.sample = 10
        heading = Label("ON THE BENCH")
        heading.setObjectName("heading")
        self.there = Label()
        self.there.setWordWrap(True)
        self.line = SizeBox("what changed", self._take)
        self.line.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.line.refused.connect(self.said)
        self.past = Label()
        self.past.setObjectName("quiet")
        self.past.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        for widget in (heading, self.there, self.line, self.past):
            column.addWidget(widget)
        self.rows: Rows[str] = Rows(str)

    def show_thing(self, thing: Kept | None) -> None:
        part = thing if isinstance(thing, Part) else None
        self.setVisible(part is not None)
        if part is None or self.part is None or part.id != self.part.id:
            self.line.show_figure("")
            self.line.reset()
        self.part = part
        if part is None:
            return
        lying = self.session.workshop.lying_of(part.id)
        if by_length(part):
            lots = [f"{lot.name}: {_from(part, lot.first_phase)}{amount_words(part, lot.amount)}"
                    for lot in lying.lots]  # fmt: skip
            words = "\n".join(lots) or "nothing"
        else:
            words = f"{lying.bag} in the bag"
        if lying.laid_out:
            words += f" · {amount_words(part, lying.laid_out)} laid out"
        self.there.setText(words)
        self.line.setPlaceholderText(
            HINT_LENGTHS if by_length(part) else f"{HINT} · 10 weigh 0.42 g"
        )
        events = self.session.workshop.events_of(part.id)[:SHOWN_EVENTS]
        self.past.setText("\n".join(_event_words(part, event) for event in events))
        self.past.setVisible(bool(events))

    def take_back(self) -> None:
        """Take the latest event back that was not."""
        if self.part is None:
            raise DomainError("choose a part first")
        events = self.session.workshop.events_of(self.part.id)
        event = next((e for e in events if not e.reversed and e.sort != "reversal"), None)
        if event is None:
            raise DomainError(f"nothing was recorded of {self.part.name} that could be taken back")
        self.session.workshop.take_back(event.id)
        self.said.emit(f"Taken back: {_event_words(self.part, event)}.")

    def _take(self, text: str) -> None:
        part = self.part
        if part is None or not text:
            return
        if sample := SAMPLE.fullmatch(text):
            self._weigh(int(sample[1]), _grams(sample[2]))
        elif bag := BAG.fullmatch(text):
            self._count_bag(part, _grams(bag[1]))
        elif named := NAMED.fullmatch(text):
            self.session.workshop.name_lot(part, named[1].strip(), named[2].strip())
            self.said.emit(f"{named[1]} is called {named[2]} now.")
        else:
            deeds = read_stock(text, part)
            self.session.workshop.do(part, *deeds)
            said = ", ".join(f"{SAID[d.sort]} {amount_words(part, d.amount)}" for d in deeds)
            self.said.emit(f"{part.name}: {said}.")
        self.line.shown = ""
        self.line.clear()

    def _weigh(self, count: int, grams: float) -> None:
        if not count or grams <= 0:
            raise DomainError("weigh at least one, such as: 10 weigh 0.42 g")
        self.sample = count
        self.weighed.emit(grams / count, f"{count} weigh {grams:g} g")
        self.said.emit(f"One weighs {grams / count:.4g} g. Now weigh the bag: bag 23.4 g")

    def _count_bag(self, part: Part, grams: float) -> None:
        if isinstance(part, Chain) or by_length(part):
            raise DomainError("lengths are measured, not weighed")
        found = count_from_mass(grams, part.mass_g or 0.0, self.sample)
        if found.weigh_first is not None:
            raise DomainError(
                f"about {found.count} ± {found.plus_minus:.0f}: {self.sample} are too few to tell; "
                f"weigh {found.weigh_first} first, or count them"
            )
        note = f"weighed {grams:g} g, ± {found.plus_minus:.1f}"
        self.session.workshop.do(part, Deed("counted", found.count, note=note))
        self.said.emit(f"{found.count} ± {found.plus_minus:.1f}, counted from {grams:g} g.")


def _grams(text: str) -> float:
    found = amount_at(text.strip(), 0)
    if found is None or found[0].kind != "plain":
        raise DomainError(f"“{text}” is no mass: write grams, such as 0.42 g")
    unit = text.strip()[found[1] :].strip().lower()
    if unit not in ("", "g", "kg"):
        raise DomainError(f"“{unit}” is no mass: write g or kg")
    return found[0].value * (1000 if unit == "kg" else 1)


def _from(part: Part, phase: int) -> str:
    """Where in its pattern a length begins, if that is not at its first link."""
    return f"from link {phase + 1}, " if phase and isinstance(part, Chain) else ""


def _event_words(part: Part, event: object) -> str:
    at, sort, note = event.at, event.sort, event.note  # type: ignore[attr-defined]
    amount: int = event.amount  # type: ignore[attr-defined]
    measured: int = event.measured_um  # type: ignore[attr-defined]
    sign = "+" if amount > 0 else "−" if amount < 0 else "±"
    back = ", taken back" if event.reversed else ""  # type: ignore[attr-defined]
    much = f"{measured / 1e6:g} m as measured" if measured > 0 else amount_words(part, abs(amount))
    words = f"{at[:10]}  {SAID[sort]} {sign}{much}{back}"
    return f"{words} · {note}" if note else words
