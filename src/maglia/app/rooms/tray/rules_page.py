"""The maker's rules: every custom with its figure, what is usual, and why. Enter takes a figure;
cleared, it is the usual one again.
"""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QGridLayout, QLabel, QLineEdit, QScrollArea, QWidget

from maglia.app.panel import Panel
from maglia.app.rooms.tray.size_box import SizeBox
from maglia.app.session.session import Session
from maglia.app.theme import Theme
from maglia.core.values.measures import amount_at
from maglia.core.values.record import DomainError
from maglia.core.values.rules import DEFAULTS, RULES, Rule, with_currency, with_rule

UNITS = {
    "mm": "mm",
    "g": "g",
    "minutes": "min",
    "share": "%",
    "times": "×",
    "pieces": "",
    "money": "",
}


class RulesPage(Panel):
    """Signals: `said(str)`."""

    said = Signal(str)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.boxes: dict[str, SizeBox] = {}
        self.line = QLineEdit()
        self.line.setPlaceholderText("narrow: rings, minutes, tail …")
        self.line.setAccessibleName("Narrow the rules")
        self.line.textChanged.connect(self.narrow)
        self.rows: list[tuple[str, tuple[QWidget, ...]]] = []
        inner = QWidget()
        inner.setObjectName("panel")
        self.grid = QGridLayout(inner)
        self.grid.setContentsMargins(0, 0, 8, 0)
        self.grid.setHorizontalSpacing(10)
        self.grid.setVerticalSpacing(4)
        self._fill()
        self.grid.setColumnStretch(4, 1)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setWidget(inner)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        hint = QLabel(
            "Trade customs, yours to set: a check names the one it goes by. Cleared, a figure is "
            "the usual one again. Minutes, spares and price are what Count will reckon with."
        )
        hint.setObjectName("quiet")
        hint.setWordWrap(True)
        self.lay_out(hint, self.line, self.area)
        self.watch(self.line, *self.boxes.values(), self.currency)
        session.workshop.changed.connect(self.refresh)

    def _fill(self) -> None:
        group = ""
        for rule in RULES:
            if rule.group != group:
                group = rule.group
                heading = QLabel(group.upper())
                heading.setObjectName("heading")
                row = self.grid.rowCount()
                self.grid.addWidget(heading, row, 0, 1, 5)
                self.rows.append((f" {group.lower()} ", (heading,)))
            self._add(rule)
        self._add_currency()

    def _add(self, rule: Rule) -> None:
        row = self.grid.rowCount()
        words, unit = QLabel(rule.words), QLabel(UNITS[rule.unit])
        usual = QLabel(f"usual {shown(rule, DEFAULTS[rule.field])}")
        reason = QLabel(rule.reason)
        for quiet in (unit, usual, reason):
            quiet.setObjectName("quiet")
        reason.setWordWrap(True)
        box = self.boxes[rule.field] = SizeBox(
            f"{rule.group}: {rule.words}", partial(self._take, rule)
        )
        box.setFixedWidth(76)
        box.refused.connect(self.said)
        words.setBuddy(box)
        made = (words, box, unit, usual, reason)
        for column, widget in enumerate(made):
            self.grid.addWidget(widget, row, column)
        self.rows.append((f" {rule.group} {rule.words} {rule.reason} ".lower(), made))

    def _add_currency(self) -> None:
        """The one custom that is a word."""
        self.currency = SizeBox("Price: Currency", self._take_currency)
        self.currency.setFixedWidth(76)
        words, reason = QLabel("Currency"), QLabel("written after every sum; nothing is converted")
        reason.setObjectName("quiet")
        words.setBuddy(self.currency)
        row = self.grid.rowCount()
        for column, widget in ((0, words), (1, self.currency), (4, reason)):
            self.grid.addWidget(widget, row, column)
        self.rows.append((" price currency money ", (words, self.currency, reason)))

    def open(self) -> None:
        self.refresh()
        self.show()
        self.line.setFocus()

    def refresh(self) -> None:
        rules = self.session.workshop.rules
        for rule in RULES:
            value = getattr(rules, rule.field)
            self.boxes[rule.field].show_figure(shown(rule, value))
        self.currency.show_figure(rules.currency)

    def narrow(self, text: str) -> None:
        words = text.lower().split()
        for said, widgets in self.rows:
            for widget in widgets:
                widget.setVisible(all(word in said for word in words))

    def _take_currency(self, text: str) -> None:
        rules = with_currency(self.session.workshop.rules, text)
        self.session.workshop.set_rules(rules)
        self.said.emit(f"Sums are in {rules.currency or 'no named currency'}.")

    def _take(self, rule: Rule, text: str) -> None:
        value = DEFAULTS[rule.field] if not text else _value(rule, text)
        rules = with_rule(self.session.workshop.rules, rule.field, value)
        self.session.workshop.set_rules(rules)
        self.said.emit(
            f"{rule.group}: {rule.words} {shown(rule, value)} {UNITS[rule.unit]}".strip() + "."
        )

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        key = event.key()
        if key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self.focusNextPrevChild(key == Qt.Key.Key_Down)
            return True
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and watched is self.line:
            self.focusNextPrevChild(True)
            return True
        return False

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme


def shown(rule: Rule, value: float) -> str:
    return f"{value * 100:g}" if rule.unit == "share" else f"{value:g}"


def _value(rule: Rule, text: str) -> float:
    if rule.unit == "mm":
        found = amount_at(text, 0)
        if found is not None and found[1] == len(text):
            return found[0].mm("mm")
    try:
        plain = float(text.rstrip("%× ").replace(",", "."))
    except ValueError:
        raise DomainError(f"“{text}” is no figure") from None
    return plain / 100 if rule.unit == "share" else plain
