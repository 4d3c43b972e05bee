"""The fits of the piece: each with its wish and what it leaves over.

Enter changes the wish, L locks it, Del takes it away, + − take the next longer or shorter answer.
"""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QRect, QRectF, Qt, Signal
from PySide6.QtGui import QPainter

from maglia.app.lists import RowDelegate, RowList
from maglia.app.painting.marks import paint_fit_mark
from maglia.app.session.session import Session
from maglia.app.theme import Theme, font, scaled
from maglia.core.edits.spots import Edited
from maglia.core.values.measures import LengthUnit

if TYPE_CHECKING:
    from maglia.core.fit.found import Standing

ROW = 38


class FitDelegate(RowDelegate["Standing"]):
    def __init__(self, view: FitList, theme: Theme) -> None:
        super().__init__(view, theme)
        self.session = view.session

    def height(self, row: Standing, width: int) -> int:
        return scaled(ROW)

    def draw(self, painter: QPainter, row: Standing, box: QRect) -> None:
        paint_fit_mark(
            painter, box.left() + 11, box.top() + 12, self.theme, met=row.met,
            locked=row.fit.locked,
        )  # fmt: skip
        wish, left_over = words_of(row, self.session.unit)
        painter.setFont(font(12))
        room = QRectF(box).adjusted(26, 2, -4, -scaled(ROW) / 2)
        for text, role, down in (
            (wish, "ink", 0), (left_over, "quiet" if row.met else "attention", scaled(16)),
        ):  # fmt: skip
            painter.setPen(self.theme.colour(role))
            shown = painter.fontMetrics().elidedText(
                text, Qt.TextElideMode.ElideRight, int(room.width())
            )
            painter.drawText(room.translated(0, down), Qt.AlignmentFlag.AlignVCenter, shown)


class FitList(RowList["Standing"]):
    """Signal `change_wanted(str)`: the maker wants to write the wish of that fit anew."""

    change_wanted = Signal(str)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__("Fits", lambda row: " ".join(words_of(row, session.unit)), theme)
        self.session = session
        self.setItemDelegate(FitDelegate(self, theme))
        self.keys = {
            Qt.Key.Key_L: self.toggle_lock,
            Qt.Key.Key_Delete: self.take_away,
            Qt.Key.Key_Plus: partial(self.take_beside, longer=True),
            Qt.Key.Key_Minus: partial(self.take_beside, longer=False),
        }
        self.chosen.connect(lambda row: self.change_wanted.emit(row.fit.name))

    def refresh(self) -> None:
        found = self.session.findings
        known = found is not None and self.session.at_rest
        self.empty = "None. Enter, then what you want: length, tiers, hem." if known else "…"
        self.show_rows(found.fits if found else ())

    def toggle_lock(self, row: Standing) -> None:
        from maglia.core.fit.hold import toggled_lock

        said = "solved again" if row.fit.locked else "locked"
        piece = toggled_lock(self.session.piece, row.fit.name)
        self.session.apply(Edited(piece, f"{row.fit.name} {said}"))

    def take_away(self, row: Standing) -> None:
        from maglia.core.fit.hold import without_fit

        piece = without_fit(self.session.piece, row.fit.name)
        self.session.apply(Edited(piece, f"{row.fit.name} taken away"))

    def take_beside(self, row: Standing, *, longer: bool) -> None:
        self.session.take_beside(row.fit.name, longer=longer)


def words_of(stand: Standing, unit: LengthUnit) -> tuple[str, str]:
    """The wish, and what is left over."""
    from maglia.core.fit.text import worst_words
    from maglia.core.fit.wishes import words

    return words(stand.fit, unit), worst_words(stand, unit)
