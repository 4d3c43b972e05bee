"""A line that says what of the open piece the tray holds otherwise by now, with a key that takes it
over and one that leaves it. It blocks nothing and takes no keys by itself.
"""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from maglia.app.plain_text import Label
from maglia.app.session.session import Session
from maglia.core.edits.take_over import correction_words, difference_words
from maglia.core.parts.units import Thing

SHOWN = 2


class StaleLine(QWidget):
    """Hidden while the piece and the tray agree, or the maker has left it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.left: set[tuple[str, int]] = set()
        """What was left as it is: id, and the tray's state of it."""
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.hide()
        session.changed.connect(self.refresh)
        session.workshop.changed.connect(self.refresh)

    def _compose(self) -> None:
        """Its words and keys, when there is first something to say."""
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 4, 14, 4)
        self.words = Label()
        self.words.setObjectName("attention")
        row.addWidget(self.words, 1)
        for label, do in (
            ("Take it over  Ctrl+Shift+R", self.session.take_over),
            ("Leave it", self.leave),
        ):
            button = QPushButton(label)
            button.clicked.connect(do)
            row.addWidget(button)

    def refresh(self) -> None:
        found = [pair for pair in self.session.differing() if _key(pair[1]) not in self.left]
        otherwise = self.session.computed_otherwise and self._corrections() not in self.left
        if not found and not otherwise:
            self.hide()
            return
        if self.layout() is None:
            self._compose()
        said = [f"{held.name}: {difference_words(own, held)}" for own, held in found[:SHOWN]]
        if len(found) > SHOWN:
            said.append(f"{len(found) - SHOWN} more")
        if otherwise:
            now = correction_words(self.session.workshop.corrections)
            said.append(f"computed otherwise than you do now: {now}")
        self.words.setText(" · ".join(said))
        self.words.setAccessibleName(self.words.text())
        self.show()

    def _corrections(self) -> tuple[str, int]:
        pair = (self.session.piece.corrections, self.session.workshop.corrections)
        return "corrections", hash(pair)

    def leave(self) -> None:
        """The piece keeps its copies; it is said again when the tray changes once more."""
        self.left |= {_key(held) for _, held in self.session.differing()}
        self.left.add(self._corrections())
        self.refresh()


def _key(held: Thing) -> tuple[str, int]:
    return held.id, hash(held)
