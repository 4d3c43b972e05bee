"""Log put together: builds and a line that finds them left, one of them right; below it what all of
them say, with its plot.
"""

from __future__ import annotations

import json
from collections import deque
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QModelIndex, QObject, QRect, QSignalBlocker, Qt
from PySide6.QtGui import QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QFileDialog,
    QFrame,
    QLabel,
    QLineEdit,
    QListView,
    QScrollArea,
    QSplitter,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from maglia.app.assistive import describe
from maglia.app.desk import Desk
from maglia.app.hung_picture import HungPicture
from maglia.app.lists import Rows
from maglia.app.plain_text import Label
from maglia.app.rooms.log.detail import detail_html
from maglia.app.rooms.log.plot import ConcernPlot
from maglia.app.rooms.room import Offered, RoomWidget
from maglia.app.session.log_book import Photograph, brought
from maglia.app.session.measure_words import read_entry
from maglia.app.theme import Theme, font, scaled
from maglia.core.log.concerns import Concern
from maglia.core.log.records import Entry
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError

OF_A_BUILD = ("as-built", "copy", "history", "photo", "csv", "json", "print")
EMPTY = "No builds yet. Make (Ctrl+4) keeps them; N enters one that is made already."


class LogRoom(RoomWidget):
    """Keys stay with the builds, or with what they say."""

    def __init__(self, desk: Desk, offers: Callable[[str], list[Offered]]) -> None:
        super().__init__(desk)
        del offers
        self.session, self.book = desk.session, desk.session.log_book
        self._brought: deque[Photograph] = deque()
        self.line = QLineEdit()
        self.line.setAccessibleName("Find builds")
        self.line.setPlaceholderText("/ finds: a piece, a wearer, a part, a month, a word noted")
        self.entry_line = QLineEdit()
        self.entry_line.setAccessibleName("A build made already")
        self.entry_line.setPlaceholderText(
            "75 min, closed length 413.5, a note · of the piece on the bench · Enter · Esc"
        )
        self.entry_line.hide()
        self.rows: Rows[Entry] = Rows(_entry_words)
        self.list = _list("Builds", self.rows)
        self.list.setItemDelegate(_EntryLook(self))
        self.glance = Label()
        self.glance.setObjectName("quiet")
        self.glance.setWordWrap(True)
        self.detail = QLabel()
        self.detail.setTextFormat(Qt.TextFormat.RichText)
        self.detail.setWordWrap(True)
        self.detail.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.detail.setContentsMargins(18, 12, 18, 12)
        self.says: Rows[Concern] = Rows(lambda one: f"{one.name}: {one.words} {one.apart_words}")
        self.says_list = _list("What they say", self.says)
        self.says_list.setItemDelegate(_ConcernLook(self))
        self.plot = ConcernPlot(desk.theme)
        self.picture = HungPicture(self.session.jobs, "log picture", desk.theme)
        self._compose()
        for field in (self.line, self.entry_line):
            field.installEventFilter(self)
        self.line.textChanged.connect(self.book.narrow)
        self.list.selectionModel().currentChanged.connect(lambda *_: self.on_build())
        self.says_list.selectionModel().currentChanged.connect(lambda *_: self.on_concern())
        self.list.doubleClicked.connect(lambda _: desk.attempt(self.open_piece))
        self.book.changed.connect(self.show_concerns)
        self.book.narrowed.connect(self.show_builds)
        self.book.said.connect(self.session.said)
        self.session.workshop.changed.connect(self.on_workshop)
        self.session.reshown.connect(self.on_build)
        desk.dressed.connect(self.set_theme)

    def _compose(self) -> None:
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(12, 10, 6, 8)
        for widget in (self.line, self.entry_line):
            column.addWidget(widget)
        column.addWidget(self.list, 1)
        column.addWidget(self.glance)
        area = QScrollArea()
        area.setWidget(self.detail)
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        above = QSplitter(Qt.Orientation.Horizontal)
        above.addWidget(area)
        above.addWidget(self.picture)
        above.setSizes([480, 340])
        below = QSplitter(Qt.Orientation.Horizontal)
        below.addWidget(self.says_list)
        below.addWidget(self.plot)
        below.setSizes([400, 420])
        right = QSplitter(Qt.Orientation.Vertical)
        right.addWidget(above)
        right.addWidget(below)
        right.setSizes([300, 420])
        across = QSplitter(Qt.Orientation.Horizontal)
        across.addWidget(left)
        across.addWidget(right)
        across.setSizes([430, 850])
        for splitter in (above, below, right, across):
            splitter.setHandleWidth(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(across)
        QWidget.setTabOrder(self.list, self.says_list)

    @property
    def greeting(self) -> str:
        return "/ finds · O as it was built · C a copy · T takes over what it says · F1 keys"

    def enter(self) -> None:
        self.book.read()
        self.list.setFocus()

    def can_step(self, by: int) -> bool:
        return False

    def may(self, name: str) -> bool:
        """Whether an action can be done now."""
        if name in OF_A_BUILD:
            return self.entry is not None
        if name in ("take", "take-back"):
            concern = self.concern
            return concern is not None and (name == "take" or concern.taken is not None)
        return True

    def set_theme(self, theme: Theme) -> None:
        self.plot.set_theme(theme)
        self.picture.set_theme(theme)

    def on_workshop(self) -> None:
        if self.isVisible():
            self.book.read()

    # --- showing --------------------------------------------------------------------------------

    @property
    def entry(self) -> Entry | None:
        row = self.list.currentIndex().row()
        return self.rows.rows[row] if 0 <= row < len(self.rows.rows) else None

    @property
    def concern(self) -> Concern | None:
        row = self.says_list.currentIndex().row()
        return self.says.rows[row] if 0 <= row < len(self.says.rows) else None

    def show_builds(self) -> None:
        at = self.entry.id if self.entry else 0
        self.rows.show(self.book.shown)
        place = next((k for k, one in enumerate(self.book.shown) if one.id == at), 0)
        with QSignalBlocker(self.list.selectionModel()):
            self.list.setCurrentIndex(self.rows.index(place))
        self.on_build()

    def show_concerns(self) -> None:
        said = max(self.says_list.currentIndex().row(), 0)
        self.says.show(self.book.concerns)
        self.says_list.setVisible(bool(self.book.concerns))
        self.says_list.setCurrentIndex(self.says.index(min(said, len(self.book.concerns) - 1)))
        self.glance.setText("\n".join(
            f"{year.year}: {year.words}" for year in self.book.years))  # fmt: skip
        self.on_concern()

    def on_build(self) -> None:
        entry = self.entry
        none = "None of them holds these words." if self.book.entries else EMPTY
        self.detail.setText(
            detail_html(self.book, entry, self.session.unit) if entry else f"<p>{none}</p>"
        )
        self.picture.setVisible(entry is not None)
        self.picture.show_piece(self._piece_of(entry))
        describe(self.list, f"{len(self.book.shown)} of {len(self.book.entries)} builds")

    def _piece_of(self, entry: Entry | None) -> Piece | None:
        """None of a build that is not sound, too: its words stand alone."""
        try:
            return self.book.piece_of(entry) if entry is not None else None
        except DomainError:
            return None

    def on_concern(self) -> None:
        self.plot.show_concern(self.concern)

    def show_history(self) -> None:
        """Every build of the same piece, and again all."""
        own = self._current().piece
        self.line.setText("" if self.line.text() == own else own)

    # --- finding and entering -------------------------------------------------------------------

    def open_find(self) -> None:
        self.line.setFocus()
        self.line.selectAll()

    def open_entry(self) -> None:
        if not self.session.piece.owners:
            raise DomainError("the bench is empty: open the piece that was made there first")
        self.entry_line.clear()
        self.entry_line.show()
        self.entry_line.setFocus()

    def leave_line(self) -> None:
        self.entry_line.hide()
        if self.line.hasFocus() or not self.list.hasFocus():
            self.list.setFocus()

    def escape(self) -> None:
        self.line.clear()
        self.list.setFocus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            key = event.key()
            if key == Qt.Key.Key_Escape:
                self.line.clear()
                self.leave_line()
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Down):
                if watched is self.entry_line and key != Qt.Key.Key_Down:
                    self.desk.attempt(self._enter_build)
                else:
                    self.list.setFocus()
                return True
        return super().eventFilter(watched, event)

    def _enter_build(self) -> None:
        found = self.session.findings
        minutes, measures, note = read_entry(self.entry_line.text(), found, self.session.unit)
        self.book.enter(self.session.piece, minutes, measures, note)
        self.leave_line()

    # --- a build --------------------------------------------------------------------------------

    def _current(self) -> Entry:
        if self.entry is None:
            raise DomainError("no build is chosen")
        return self.entry

    def open_piece(self) -> None:
        """On the bench, exactly as it was built."""
        if self.desk.may_begin():
            as_built = replace(self.book.piece_of(self._current()), id="")  # a copy of its own
            self.session.start_as_it_is(as_built, "as it was built")
            self.desk.room_wanted.emit("bench")

    def copy_piece(self) -> None:
        """For the wearer of the piece on the bench, its fits solved again."""
        wearer = self.session.piece.wearer
        piece = self.book.piece_of(self._current())
        if self.desk.may_begin():
            self.session.start_new(replace(piece, wearer=wearer), f"a copy for {wearer.role}")
            self.desk.room_wanted.emit("bench")

    def add_photo(self) -> None:
        self._current()
        name, _ = QFileDialog.getOpenFileName(self, "A photograph", self.desk.folder,
                                              "Pictures (*.png *.jpg *.jpeg *.webp)")  # fmt: skip
        if name:
            self.keep_photographs([Path(name)])

    def keep_photographs(self, paths: Sequence[Path]) -> None:
        """Photographs of the build that is chosen."""
        copied = self.desk.settings["photographs"] == "copied"
        self._brought.extend(self.book.photographs(self._current(), paths, copied=copied))
        self.desk.begin("photographs", partial(brought, self._brought), self.book.photographed)

    def copy_photos(self) -> None:
        """From now on photographs are copied; or, if they were, stay where they lie."""
        settings = self.desk.settings
        copied = settings["photographs"] == "linked"
        settings["photographs"] = "copied" if copied else "linked"
        self.session.said.emit("Photographs are copied beside the workshop from now on." if copied
                               else "Photographs stay where they lie from now on.")  # fmt: skip

    # --- what they say --------------------------------------------------------------------------

    def _what(self) -> Concern:
        if self.concern is None:
            raise DomainError("nothing is measured yet, so there is nothing to take over")
        return self.concern

    def take(self) -> None:
        self.book.take(self._what())

    def take_back(self) -> None:
        self.book.take_back(self._what())

    # --- out ------------------------------------------------------------------------------------

    def export(self, sort: str) -> None:
        from maglia.core.log import text
        from maglia.files.disk import write_atomically, write_table

        kinds = {"csv": "CSV (*.csv)", "json": "JSON (*.json)",
                 "pdf": "PDF, A4 (*.pdf);;PDF, Letter (*.letter.pdf);;SVG (*.svg)"}  # fmt: skip
        name, _ = QFileDialog.getSaveFileName(
            self, "Builds", self.desk.place_for(f"builds.{sort}"), kinds[sort]
        )
        if not name:
            return
        kept = self.book.kept()
        if sort == "csv":
            write_table(Path(name), text.rows_of(kept))
        elif sort == "json":
            data = json.dumps(text.as_json(kept, self.book.concerns), indent=1, ensure_ascii=False)
            write_atomically(Path(name), data + "\n")
        else:
            from maglia.app.log_sheet import save

            save(kept, self.book.concerns, Path(name), self.session.unit)
        self.session.said.emit(f"{len(kept)} builds in {Path(name).name}.")


def _list(name: str, rows: Rows) -> QListView:  # type: ignore[type-arg]
    made = QListView()
    made.setModel(rows)
    made.setAccessibleName(name)
    made.setUniformItemSizes(True)
    made.setEditTriggers(QListView.EditTrigger.NoEditTriggers)
    made.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
    made.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    made.setTabKeyNavigation(False)
    return made


def _entry_words(entry: Entry) -> str:
    state = ", given up" if entry.given_up else "" if entry.ended else ", going on"
    return f"{entry.piece}, for {entry.wearer}, {entry.at[:10]}, {entry.minutes:.0f} min{state}"


class _Look(QStyledItemDelegate):
    """Two lines a row."""

    HIGH = 46

    def __init__(self, room: LogRoom) -> None:
        super().__init__(room)
        self.room = room

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> object:  # type: ignore[override]
        hint = super().sizeHint(option, index)
        hint.setHeight(scaled(self.HIGH))
        return hint

    def lines(self, row: int) -> tuple[str, str, str, str]:
        """First line left and right, second line left, and the role of its colour."""
        raise NotImplementedError

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:  # type: ignore[override]
        theme, box = self.room.desk.theme, option.rect.adjusted(8, 3, -8, -3)
        view = option.widget
        if isinstance(view, QListView) and view.currentIndex().row() == index.row():
            painter.fillRect(option.rect, theme.colour("chosen", 60 if view.hasFocus() else 28))
        head, right, below, role = self.lines(index.row())
        painter.setFont(font(14, bold=True))
        painter.setPen(theme.colour("ink"))
        first = QRect(box.left(), box.top(), box.width(), scaled(20))
        painter.drawText(first, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, right)
        room = box.width() - painter.fontMetrics().horizontalAdvance(right) - 12
        said = painter.fontMetrics().elidedText(head, Qt.TextElideMode.ElideRight, room)
        painter.drawText(first, Qt.AlignmentFlag.AlignVCenter, said)
        painter.setFont(font(12))
        painter.setPen(theme.colour(role))
        second = QRect(box.left(), box.top() + scaled(20), box.width(), scaled(18))
        said = painter.fontMetrics().elidedText(below, Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(second, Qt.AlignmentFlag.AlignVCenter, said)


class _EntryLook(_Look):
    def lines(self, row: int) -> tuple[str, str, str, str]:
        entry = self.room.rows.rows[row]
        state = " · given up" if entry.given_up else "" if entry.ended else " · going on"
        below = f"for {entry.wearer or 'anyone'} · {entry.minutes:.0f} min{state}"
        return entry.piece, entry.at[:10], below, "quiet"


class _ConcernLook(_Look):
    HIGH = 50

    def lines(self, row: int) -> tuple[str, str, str, str]:
        concern = self.room.says.rows[row]
        taken = concern.taken.words if concern.taken else "T takes it over" if concern.takes else ""
        name = concern.name[0].upper() + concern.name[1:]
        role = "good" if concern.taken else "quiet"
        return name, taken, concern.words, role
