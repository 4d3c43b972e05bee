"""Importing a list: its columns are pointed at sizes, the first rows are drawn as the parts they
come to, and then all of it is kept or nothing.
"""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QIcon, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QListView,
    QPushButton,
    QScrollArea,
    QWidget,
)

from maglia.app.lists import Rows
from maglia.app.own_keys import Choice
from maglia.app.painting.whole import draw_in
from maglia.app.panel import Panel, drawn_icon
from maglia.app.plain_text import Label
from maglia.app.session.session import Session
from maglia.core.parts.kinds import KINDS
from maglia.core.parts.parts import Part
from maglia.core.values.record import DomainError, Value
from maglia.files import disk
from maglia.files.parts_csv import (
    ENCODINGS,
    TARGETS,
    UNITS,
    Brought,
    Column,
    Table,
    brought_in,
    guessed,
    read_table,
    refused_csv,
)

ICON = QSize(84, 30)
SHOWN, SHOWN_REFUSED = 6, 40
LANE = "import"
UNITLESS = ("", "name", "kind", "material", "colour", "closure", "price", "note", "holes", "shape",
            "temper", "opens", "stretch", "pack")  # fmt: skip
SEPARATORS = {"comma": ",", "semicolon": ";", "tab": "\t", "bar": "|"}


class Row(Value, frozen=True):
    words: str
    part: Part | None = None


class ImportPanel(Panel):
    """Signals: `said(str)`."""

    said = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.path = Path()
        self.data = b""
        self.table: Table | None = None
        self.targets: list[tuple[Choice, Choice]] = []
        self.brought: Brought | None = None
        self.without_refused = False
        self.title = Label()
        self.title.setObjectName("pieceName")
        self.encoding, self.separator, self.kind = Choice(), Choice(), Choice()
        self.encoding.addItems(ENCODINGS)
        self.separator.addItems([*SEPARATORS])
        self.kind.addItem("each row says its kind", "")
        for kind in KINDS:
            self.kind.addItem(f"all are {kind.words}s", kind.words)
        for box, name in ((self.encoding, "Encoding"), (self.separator, "Separator"),
                          (self.kind, "Kind of part")):  # fmt: skip
            box.setAccessibleName(name)
        self.encoding.activated.connect(lambda _: self._read_again())
        self.separator.activated.connect(lambda _: self._read_again())
        self.kind.activated.connect(lambda _: self._look())
        self.columns = QGridLayout()
        self.columns.setContentsMargins(0, 0, 0, 0)
        self.rows: Rows[Row] = Rows(lambda row: row.words, self._icon)
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setIconSize(ICON)
        self.list.setAccessibleName("What the rows come to")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.take_key = QPushButton("Import")
        self.leave_key = QPushButton("Leave the refused rows out")
        self.stop_key = QPushButton("Stop")
        self.take_key.clicked.connect(self.take)
        self.leave_key.clicked.connect(self._leave_out)
        self.stop_key.clicked.connect(self.stop)
        self.words = Label()
        self.words.setWordWrap(True)
        self._compose()
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._evaluate)

    def _compose(self) -> None:
        head = QWidget()
        row = QHBoxLayout(head)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.title, 1)
        for box in (self.encoding, self.separator, self.kind):
            row.addWidget(box)
        inner = QWidget()
        inner.setObjectName("panel")
        inner.setLayout(self.columns)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setWidget(inner)
        self.area.setMaximumHeight(330)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        foot = QWidget()
        row = QHBoxLayout(foot)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.words, 1)
        for key in (self.stop_key, self.leave_key, self.take_key):
            row.addWidget(key)
        self.lay_out(head, self.area, self.list, foot)
        self.watch(self.list, self.take_key, self.leave_key, self.stop_key, self.kind)

    # --- reading ------------------------------------------------------------------------------

    def open(self, path: Path) -> None:
        """Look at a list. Raises DomainError if it is none."""
        data = disk.read_file(path)
        table = read_table(data)
        self.path, self.data = path, data
        self._show_table(table)
        self.show()
        self.list.setFocus()

    def _read_again(self) -> None:
        separator = SEPARATORS[self.separator.currentText()]
        try:
            self._show_table(read_table(self.data, self.encoding.currentText(), separator))
        except DomainError as fault:
            self.said.emit(f"Not done: {fault}.")

    def _show_table(self, table: Table) -> None:
        self.table = table
        self.title.setText(f"{self.path.name}, {len(table.rows)} rows")
        near = next((e for e in ENCODINGS if table.encoding.startswith(e)), ENCODINGS[-1])
        self.encoding.setCurrentText(near)
        self.separator.setCurrentText(
            next(words for words, sign in SEPARATORS.items() if sign == table.separator)
        )
        while self.columns.count():
            item = self.columns.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.deleteLater()
        self.targets = []
        for k, column in enumerate(guessed(table)):
            self._add_column(k, table, column)
        self._look()

    def _add_column(self, k: int, table: Table, column: Column) -> None:
        """A column of the list: its heading, its first cells, what it is, its unit."""
        cells = [row[k] for row in table.rows[:3] if row[k]]
        heading, first = (
            Label(table.head[k] or f"column {k + 1}"),
            Label(" · ".join(cells)[:60]),
        )
        first.setObjectName("quiet")
        target, unit = Choice(), Choice()
        target.addItem("left out", "")
        for words in list(TARGETS)[1:]:
            target.addItem(words, words)
        target.setCurrentIndex(max(target.findData(column.target), 0))
        target.setAccessibleName(f"What {heading.text()} is")
        unit.addItems(UNITS)
        unit.setCurrentText(column.unit or UNITS[0])
        unit.setAccessibleName(f"Unit of {heading.text()}")
        for box in (target, unit):
            box.activated.connect(lambda _: self._look())
            self.watch(box)
        for at, widget in enumerate((heading, first, target, unit)):
            self.columns.addWidget(widget, k, at)
        self.columns.setColumnStretch(1, 1)
        self.targets.append((target, unit))

    def _columns(self) -> tuple[Column, ...]:
        return tuple(
            Column(str(target.currentData() or ""), unit.currentText())
            for target, unit in self.targets
        )

    # --- what it comes to ---------------------------------------------------------------------

    def _look(self) -> None:
        self.without_refused = False
        for target, unit in self.targets:
            unit.setVisible(target.currentData() not in UNITLESS)
        self._soon.start()

    def _evaluate(self) -> None:
        """Read every row, beside the work."""
        table = self.table
        if table is None:
            return
        columns, kind = self._columns(), str(self.kind.currentData() or "")
        known = self.session.tray.parts
        self.brought = None
        self.take_key.setEnabled(False)
        self.leave_key.hide()
        self.stop_key.show()
        self.words.setText("reading …")
        self.session.jobs.begin(
            LANE,
            lambda ticket: brought_in(
                table, columns, kind, known, ticket.is_superseded,
                lambda k: ticket.tell(k) if k % 5000 == 0 else None,
            ),
            self._told,
            self._failed,
        )  # fmt: skip

    def _told(self, answer: object) -> None:
        if isinstance(answer, int) and self.table is not None:
            self.words.setText(f"row {answer} of {len(self.table.rows)} · Esc stops")
        elif isinstance(answer, Brought):
            self.brought = answer
            self._show_brought(answer)

    def _failed(self, fault: Exception) -> None:
        self.stop_key.hide()
        if not isinstance(fault, DomainError):
            raise fault
        self.said.emit(f"Not done: {fault}.")

    def _show_brought(self, found: Brought) -> None:
        self.stop_key.hide()
        refused = [Row(f"line {own.line}: {own.reason}") for own in found.refused[:SHOWN_REFUSED]]
        parts = [Row(f"{part.name}    {part.kind}, {part.material}", part) for part in found.parts]
        self.rows.show([*refused[:3], *parts[:SHOWN], *refused[3:]])
        said = [f"{len(found.parts)} new parts"]
        said += [f"{found.same} the tray has already"] if found.same else []
        said += [f"{len(found.refused)} rows refused"] if found.refused else []
        self.words.setText(", ".join(said))
        self.take_key.setText(f"Import {len(found.parts)}")
        ready = bool(found.parts) and (not found.refused or self.without_refused)
        self.take_key.setEnabled(ready)
        self.leave_key.setVisible(bool(found.refused and found.parts and not self.without_refused))
        target = self.take_key if ready else self.leave_key
        if not any(box.hasFocus() for pair in self.targets for box in pair):
            target.setFocus()

    def _leave_out(self) -> None:
        """The refused rows are written beside the list, to be mended; the rest can be taken."""
        found, table = self.brought, self.table
        if found is None or table is None:
            return
        aside = self.path.with_name(f"{self.path.stem}.refused.csv")
        try:
            disk.write_atomically(aside, refused_csv(table, found.refused))
        except (OSError, DomainError) as fault:
            self.said.emit(f"The refused rows could not be written: {fault}.")
            return
        self.without_refused = True
        self._show_brought(found)
        self.take_key.setFocus()
        self.said.emit(f"{len(found.refused)} refused rows, each with its reason: {aside.name}.")

    def take(self) -> None:
        """Keep all of it, as one step of the tray; what lies there is counted."""
        found = self.brought
        if found is None or not found.parts or (found.refused and not self.without_refused):
            return
        words = f"{len(found.parts)} parts of {self.path.name}"
        try:
            self.session.workshop.keep_all(found.parts, found.lies, words)
        except DomainError as fault:
            self.said.emit(f"Nothing was imported: {fault}.")
            return
        self.said.emit(f"{words} are in the tray; Ctrl+Z takes them back.")
        self.leave()

    # --- keys ---------------------------------------------------------------------------------

    def stop(self) -> None:
        self.session.jobs.halt(LANE)
        self.stop_key.hide()
        self.words.setText("Stopped; nothing was imported.")

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if watched is self.leave_key:
                self._leave_out()
            elif watched is self.stop_key:
                self.stop()
            elif watched is self.take_key or watched is self.list:
                self.take()
            else:
                return False
            return True
        return False

    def leave(self) -> None:
        if not self.session.jobs.is_idle(LANE) and not self.stop_key.isHidden():
            self.stop()
            return
        super().leave()

    def _icon(self, row: Row) -> QIcon | None:
        part = row.part
        if part is None:
            return None
        room = QRectF(2, 2, ICON.width() - 4, ICON.height() - 4)

        def draw(painter: QPainter, own: Part) -> None:
            draw_in(painter, own, {}, room, 4.0)

        return drawn_icon(ICON, self.devicePixelRatioF(), partial(draw, own=part))
