"""One piece for every wearer, as a table on screen: a column for each, saved as CSV.

Solved off the interface thread; it says how far it is and can be stopped by closing it.
"""

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent, QKeyEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from maglia.app.jobs import Jobs, Ticket
from maglia.app.session.worker import Looked, Stopped
from maglia.core.fit.look import Trials
from maglia.core.fit.regrade import Graded, regraded
from maglia.core.hang.solve import Cancelled
from maglia.core.piece.piece import Piece, Wearer
from maglia.core.values.record import DomainError
from maglia.files.disk import write_atomically
from maglia.files.tables import regrade_csv, regrade_table

LANE = "regrade"


class RegradeTable(QWidget):
    """A window of its own; `taken(Piece)` when a wearer's piece is put on the bench."""

    taken = Signal(object)

    def __init__(
        self, piece: Piece, wearers: tuple[Wearer, ...], jobs: Jobs, parent: QWidget
    ) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.setWindowTitle(f"{piece.name} for every wearer — Maglia")
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(760, 560)
        self.piece = piece
        self.graded: tuple[Graded, ...] = ()
        self.words = QLabel("Solving for every wearer …")
        self.table = QTableWidget()
        self.table.setAccessibleName("Lengths, links, rings and falls by wearer")
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        for header in (self.table.horizontalHeader(), self.table.verticalHeader()):
            header.setHighlightSections(False)
        self.save = QPushButton("Save as CSV…")
        self.take = QPushButton("Put this wearer's on the bench")
        for button in (self.save, self.take):
            button.setEnabled(False)
        row = QHBoxLayout()
        row.addWidget(self.words, 1)
        row.addWidget(self.take)
        row.addWidget(self.save)
        column = QVBoxLayout(self)
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
        for button in (self.save, self.take):
            button.setEnabled(True)
        self.table.setCurrentCell(0, 0)
        self.table.setFocus()

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
        column = max(self.table.currentColumn(), 0)
        self.taken.emit(self.graded[column].piece)
        self.close()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.close()
        else:
            super().keyPressEvent(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.jobs.halt(LANE)
        event.accept()


def _graded(
    ticket: Ticket, piece: Piece, wearers: tuple[Wearer, ...]
) -> tuple[Graded, ...] | Stopped:
    try:
        trials = Trials(ticket.is_halted, lambda times: ticket.tell(Looked(times)))
        return regraded(piece, wearers, trials)
    except Cancelled:
        return Stopped()
