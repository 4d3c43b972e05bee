"""One piece for every wearer: each wearer's small, with the figures that differ; all figures in a
table behind them, saved as CSV.

Solved off the interface thread; it says how far it is and can be stopped by closing it.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QCloseEvent, QKeyEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QListView,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from maglia.app.jobs import Jobs, Ticket
from maglia.app.painting.small import draw_small
from maglia.app.panel import drawn_icon
from maglia.app.pictures import Pictures
from maglia.app.plain_text import Label, tip, title
from maglia.app.session.worker import Looked, Stopped
from maglia.core.fit.look import Trials
from maglia.core.fit.regrade import Graded, regraded
from maglia.core.hang.solution import Cancelled
from maglia.core.piece.piece import Piece, Wearer
from maglia.core.values.record import DomainError
from maglia.files.disk import write_atomically
from maglia.files.tables import regrade_csv, regrade_table

if TYPE_CHECKING:
    from maglia.core.report import Findings

LANE = "regrade"
CARD = QSize(200, 150)
MOST_SAID = 5
"""Figures on a card; all of them are in its tip and in the table."""


class RegradeTable(QWidget):
    """A window of its own; `taken(Piece)` when a wearer's piece is put on the bench."""

    taken = Signal(object)

    def __init__(
        self, piece: Piece, wearers: tuple[Wearer, ...], jobs: Jobs, parent: QWidget
    ) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.setWindowTitle(title(f"{piece.name} for every wearer — Maglia"))
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(760, 560)
        self.piece = piece
        self.graded: tuple[Graded, ...] = ()
        self.words = Label("Solving for every wearer …")
        self.table = QTableWidget()
        self.table.setAccessibleName("Lengths, links, rings and falls by wearer")
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        for header in (self.table.horizontalHeader(), self.table.verticalHeader()):
            header.setHighlightSections(False)
        self.table.hide()
        self.cards = QListWidget()
        self.cards.setViewMode(QListView.ViewMode.IconMode)
        self.cards.setIconSize(CARD)
        self.cards.setGridSize(QSize(CARD.width() + 20, CARD.height() + 126))
        self.cards.setWordWrap(True)
        self.cards.setMovement(QListView.Movement.Static)
        self.cards.setResizeMode(QListView.ResizeMode.Adjust)
        self.cards.setAccessibleName("The piece for each wearer")
        self.cards.itemActivated.connect(lambda _: self.take_current())
        self.pictures = Pictures(jobs, "wearers", self)
        self.pictures.hung.connect(self.on_hung)
        self.all = QPushButton("All figures")
        self.all.setCheckable(True)
        self.all.toggled.connect(self.show_all)
        self.save = QPushButton("Save as CSV…")
        self.take = QPushButton("Put this wearer's on the bench")
        for button in (self.all, self.save, self.take):
            button.setEnabled(False)
        row = QHBoxLayout()
        row.addWidget(self.words, 1)
        row.addWidget(self.all)
        row.addWidget(self.take)
        row.addWidget(self.save)
        column = QVBoxLayout(self)
        column.addWidget(self.cards, 1)
        column.addWidget(self.table, 1)
        column.addLayout(row)
        self.save.clicked.connect(self.save_csv)
        self.take.clicked.connect(self.take_current)
        self.jobs = jobs
        jobs.begin(
            LANE, lambda ticket: _graded(ticket, piece, wearers), self.on_told, self.on_failed
        )

    def on_told(self, answer: object) -> None:
        """Say how far the work is; take over what it has found."""
        if isinstance(answer, Looked):
            self.words.setText(f"Solving for every wearer: hung {answer.times} times. Esc stops.")
        elif isinstance(answer, tuple):
            self.show_graded(answer)

    def on_failed(self, fault: Exception) -> None:
        if not isinstance(fault, DomainError):
            raise fault
        self.words.setText(f"{fault}.")

    def show_graded(self, graded: tuple[Graded, ...]) -> None:
        self.graded = graded
        head, *rows = regrade_table(self.graded)
        self.table.setRowCount(len(head) - 1)
        self.table.setColumnCount(len(rows))
        self.table.setHorizontalHeaderLabels([row[0] for row in rows])
        self.table.setVerticalHeaderLabels([words.replace("_", " ") for words in head[1:]])
        for k, row in enumerate(rows):
            for j, cell in enumerate(row[1:]):
                item = QTableWidgetItem(cell.replace("; ", "\n"))
                number = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                plain = cell.replace(".", "").replace("-", "").isdigit()
                item.setTextAlignment(number if plain else Qt.AlignmentFlag.AlignLeft)
                self.table.setItem(j, k, item)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.resizeRowsToContents()
        met = sum(all(fit.met for fit in one.fitted) for one in self.graded)
        self.words.setText(
            f"Every wish is met for {met} of {len(self.graded)} wearers. Lengths mm."
        )
        for button in (self.all, self.save, self.take):
            button.setEnabled(True)
        self.table.setCurrentCell(0, 0)
        self._show_cards(head, rows)

    def _show_cards(self, head: Sequence[str], rows: Sequence[Sequence[str]]) -> None:
        """A card for each wearer: the figures that are not the same for all."""
        differing = [k for k in range(1, len(head)) if len({row[k] for row in rows}) > 1]
        self.cards.clear()
        for row in rows:
            said = [f"{head[k].replace('_', ' ').removesuffix(' mm')} {row[k]}"
                    for k in differing if row[k]]  # fmt: skip
            item = QListWidgetItem("\n".join([row[0], *said[:MOST_SAID]]))
            item.setToolTip(tip("\n".join([row[0], *said])))
            self.cards.addItem(item)
        self.cards.setCurrentRow(0)
        self.cards.setFocus()
        made = [(str(k), one.piece) for k, one in enumerate(self.graded)]
        self.pictures.ask([(k, partial(_unwished, piece)) for k, piece in made])

    def on_hung(self, key: str, found: Findings) -> None:
        item = self.cards.item(int(key))
        if item is not None:
            box = QRectF(2, 2, CARD.width() - 4, CARD.height() - 4)
            drawn = drawn_icon(CARD, self.devicePixelRatioF(), lambda p: draw_small(p, found, box))
            item.setIcon(drawn)

    def show_all(self, shown: bool) -> None:
        """Every figure as a table, or the pieces."""
        self.table.setVisible(shown)
        self.cards.setVisible(not shown)
        (self.table if shown else self.cards).setFocus()

    def save_csv(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the table", f"{self.piece.name} wearers.csv", "Lists (*.csv)"
        )
        if name:
            try:
                write_atomically(Path(name), regrade_csv(self.graded))
            except DomainError as fault:
                self.words.setText(f"{fault}.")
                return
            self.words.setText(f"Saved as {Path(name).name}.")

    def take_current(self) -> None:
        column = self.cards.currentRow() if self.cards.isVisible() else self.table.currentColumn()
        column = max(column, 0)
        self.taken.emit(self.graded[column].piece)
        self.close()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.close()
        else:
            super().keyPressEvent(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.jobs.halt(LANE)
        self.pictures.stop()
        event.accept()


def _unwished(piece: Piece) -> Piece:
    return replace(piece, fits=())  # solved already


def _graded(
    ticket: Ticket, piece: Piece, wearers: tuple[Wearer, ...]
) -> tuple[Graded, ...] | Stopped:
    try:
        trials = Trials(ticket.is_halted, lambda times: ticket.tell(Looked(times)))
        return regraded(piece, wearers, trials)
    except Cancelled:
        return Stopped()
