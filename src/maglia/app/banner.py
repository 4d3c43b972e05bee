"""A line across the top with a question and its answers: it waits and blocks nothing."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from maglia.app import plain_text

Answer = tuple[str, Callable[[], object]]


class Banner(QWidget):
    """Hidden until it asks; any answer hides it again."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(14, 6, 14, 6)
        self.words = plain_text.Label()
        self.row.addWidget(self.words, 1)
        self.buttons: list[QPushButton] = []
        self.waiting: list[tuple[str, tuple[Answer, ...]]] = []

    def ask(self, words: str, *answers: Answer) -> None:
        """A question, after those that stand already."""
        if self.isHidden():
            self._show(words, answers)
        else:
            self.waiting.append((words, answers))

    def _show(self, words: str, answers: tuple[Answer, ...]) -> None:
        for button in self.buttons:
            button.deleteLater()
        self.words.setText(words)
        self.words.setAccessibleName(words)
        self.buttons = []
        for label, do in answers:
            button = QPushButton(plain_text.button(label))
            button.setAutoDefault(True)
            button.clicked.connect(partial(self._answered, do))
            self.row.addWidget(button)
            self.buttons.append(button)
        self.show()
        if self.buttons:
            self.buttons[0].setFocus()

    def _answered(self, do: Callable[[], object]) -> None:
        self.hide()
        do()
        if self.isHidden() and self.waiting:
            self._show(*self.waiting.pop(0))
