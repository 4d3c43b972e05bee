"""What comes from others, shown before it is taken over: a list, each item with its tick."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from maglia.app.plain_text import Label, title

SIZE = (560, 480)
TICKED, NOT_TICKED = Qt.CheckState.Checked, Qt.CheckState.Unchecked
Item = tuple[str, Any]
"""What it is, in words, and itself."""


class Theirs(QDialog):
    """Takes over what is ticked; Space ticks, Enter takes, Escape leaves all of it."""

    def __init__(
        self,
        parent: QWidget | None,
        words: str,
        items: Sequence[Item],
        take: Callable[[list[Any]], object],
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title("From others"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(*SIZE)
        self.own, self.take = [own for _, own in items], take
        said = Label(words)
        said.setWordWrap(True)
        self.list = QListWidget()
        self.list.setAccessibleName("What can be taken over")
        for name, _ in items:
            row = QListWidgetItem(name, self.list)
            row.setCheckState(TICKED)
        self.list.setCurrentRow(0)
        self.buttons = QDialogButtonBox()
        roles = QDialogButtonBox.ButtonRole
        self.all = self.buttons.addButton("All or none", roles.ActionRole)
        self.taken = self.buttons.addButton("", roles.AcceptRole)
        leave = self.buttons.addButton("Leave it", roles.RejectRole)
        for other in (self.all, leave):  # Enter is for what is ticked, whatever was pressed before
            other.setAutoDefault(False)
        page = QVBoxLayout(self)
        page.addWidget(said)
        page.addWidget(self.list, 1)
        page.addWidget(self.buttons)
        self.list.itemChanged.connect(self._count)
        self.all.clicked.connect(self._turn_all)
        self.buttons.accepted.connect(self._take)
        self.buttons.rejected.connect(self.reject)
        self._count()
        self.list.setFocus()

    @property
    def ticked(self) -> list[Any]:
        return [own for k, own in enumerate(self.own)
                if self.list.item(k).checkState() == TICKED]  # fmt: skip

    def _count(self) -> None:
        number = len(self.ticked)
        self.taken.setText(f"Take over {number} of {len(self.own)}")
        self.taken.setEnabled(number > 0)
        self.taken.setDefault(True)

    def _turn_all(self) -> None:
        state = NOT_TICKED if len(self.ticked) == len(self.own) else TICKED
        for k in range(len(self.own)):
            self.list.item(k).setCheckState(state)

    def _take(self) -> None:
        ticked = self.ticked
        self.accept()
        self.take(ticked)
