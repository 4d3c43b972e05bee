"""The Tray put together: a line that narrows, the compartments, the sheet of what is current, and
below it the instruments. It composes; what is kept is the workshop's.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from maglia.app.desk import Desk
from maglia.app.panel import Panel, column_of
from maglia.app.plain_text import Label
from maglia.app.rooms.room import Offered, RoomWidget
from maglia.app.rooms.tray.compartments import Compartments
from maglia.core.edits.spots import Edited
from maglia.core.parts.parts import Part, Wire
from maglia.core.parts.units import Things
from maglia.core.piece.piece import Wearer
from maglia.core.values.record import DomainError
from maglia.core.workshop.compartments import Kept, Lain, id_of, laid_out, name_of, narrowed
from maglia.core.workshop.lying import amount_words, by_length

if TYPE_CHECKING:
    from maglia.app.rooms.tray.import_panel import ImportPanel
    from maglia.app.rooms.tray.instruments import Instruments
    from maglia.app.rooms.tray.new_line import NewLine
    from maglia.app.rooms.tray.sheet import Sheet

EMPTY = (
    "Nothing lies here yet. Three ways to begin:\n\n"
    "N\twrite what lies on the mat, one phrase a part\n"
    "S\ttake the shelf of common sizes\n"
    "I\timport a supplier's list"
)
NOTHING = "Nothing fits; try fewer letters. Esc shows everything."
Opened = TypeVar("Opened", bound=Panel)
SOON_MS = 15


class TrayRoom(RoomWidget):
    """Panels that open below the compartments are made when they are first opened."""

    @property
    def greeting(self) -> str:
        if not self.lain:
            return "An empty tray. N writes the first part."
        return "N new part · / narrows · Enter to the sheet · B stock · F1 shows every key"

    def close_down(self) -> None:
        if "instruments" in self.__dict__:
            self.instruments.put_away()

    def __init__(self, desk: Desk, offers: Callable[[str], list[Offered]]) -> None:
        super().__init__(desk)
        self.session, self.offers = desk.session, offers
        self.workshop = desk.session.workshop
        self.lain: tuple[Lain, ...] = ()
        self.things: Things = {}
        self._laid_of: tuple[object, ...] = ()
        self.line = QLineEdit()
        self.line.setPlaceholderText("narrow: ring 4, amber, closed, gunmetal …")
        self.line.setAccessibleName("Narrow the tray")
        self.line.setClearButtonEnabled(True)
        self.count = Label()
        self.count.setObjectName("quiet")
        self.tiles = Compartments(desk.theme, self.stock_words)
        self._compose()
        self.line.textChanged.connect(self.narrow)
        self.line.installEventFilter(self)
        self.tiles.pointed.connect(self.on_pointed)
        self.tiles.opened.connect(self.open_sheet)
        self.workshop.changed.connect(self.on_changed)
        self.session.changed.connect(self.on_piece)
        desk.dressed.connect(self.tiles.set_theme)

    def _compose(self) -> None:
        self.top = QWidget()
        row = QHBoxLayout(self.top)
        row.setContentsMargins(12, 8, 12, 6)
        row.addWidget(self.line, 1)
        row.addWidget(self.count)
        self.left = column_of(self.top, self.tiles, stretched=self.tiles)
        self.right = QWidget()
        beside = QVBoxLayout(self.right)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.setSpacing(0)
        across = QSplitter(Qt.Orientation.Horizontal)
        across.addWidget(self.left)
        across.addWidget(self.right)
        across.setStretchFactor(0, 1)
        across.setSizes([830, 450])
        across.setHandleWidth(1)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(across)

    @cached_property
    def sheet(self) -> Sheet:
        """Made after the first picture of the compartments, or when it is first wanted."""
        from maglia.app.rooms.tray.sheet import Sheet

        sheet = Sheet(self.session, self.desk.theme)
        sheet.changed.connect(self.on_edited)
        sheet.said.connect(self.desk.say)
        sheet.stands.wanted.connect(self.desk.piece_wanted)
        self.desk.dressed.connect(sheet.set_theme)
        column = self.right.layout()
        assert isinstance(column, QVBoxLayout)
        column.insertWidget(0, sheet, 1)
        sheet.show_thing(self.tiles.thing)
        return sheet

    @cached_property
    def new(self) -> NewLine:
        from maglia.app.rooms.tray.new_line import NewLine

        panel = NewLine(self.session, self.offers)
        panel.kept.connect(self.on_kept)
        panel.said.connect(self.desk.say)
        return self._below(panel)

    @cached_property
    def importing(self) -> ImportPanel:
        from maglia.app.rooms.tray.import_panel import ImportPanel

        panel = ImportPanel(self.session)
        panel.said.connect(self.desk.say)
        return self._below(panel, stretch=1)

    @cached_property
    def instruments(self) -> Instruments:
        from maglia.app.rooms.tray.instruments import Instruments

        panel = Instruments(self)
        self.desk.dressed.connect(panel.set_theme)
        column = self.right.layout()
        assert isinstance(column, QVBoxLayout)
        column.addWidget(panel)
        return panel

    def _below(self, panel: Opened, stretch: int = 0) -> Opened:
        column = self.left.layout()
        assert isinstance(column, QVBoxLayout)
        panel.hide()
        column.addWidget(panel, stretch)
        panel.closed.connect(self.enter)
        return panel

    # --- showing ------------------------------------------------------------------------------

    def stock_words(self, thing: Kept) -> str:
        """What lies there, in the few words of a tile."""
        if not isinstance(thing, Part):
            return ""
        lying = self.workshop.lying_of(thing.id)
        aside = amount_words(thing, lying.laid_out).split(", ")[-1]
        laid = f" −{aside}" if lying.laid_out else ""
        if not by_length(thing):
            return f"{lying.bag}{laid}" if lying.bag or laid else "–"
        lots = [amount_words(thing, lot.amount).split(", ")[-1] for lot in lying.lots]
        shown = " · ".join(lots[:3]) + (" …" if len(lots) > 3 else "")
        return f"{shown}{laid}" if lots or laid else "–"

    def enter(self) -> None:
        self._show()
        self.top.show()
        self.tiles.show()
        self.tiles.setFocus()
        QTimer.singleShot(SOON_MS, self, lambda: self.sheet)

    def on_changed(self) -> None:
        if self.isVisible():
            self._show()

    def on_pointed(self, thing: Kept | None) -> None:
        if "sheet" in self.__dict__:
            self.sheet.show_thing(thing)

    def on_piece(self) -> None:
        if self.isVisible() and "sheet" in self.__dict__ and self.tiles.thing is not None:
            self.sheet.show_thing(self.tiles.thing)

    def _show(self) -> None:
        """What the tray holds now."""
        tray = self.workshop.tray
        held = (tray.parts, tray.units, tray.wearers)
        if held != self._laid_of:
            self._laid_of = held
            self.lain = laid_out((*tray.parts, *tray.units, *tray.wearers))
            self.things = {own.id: own for own in (*tray.parts, *tray.units)}
            QTimer.singleShot(0, self, self._learn_words)
        self.narrow(self.line.text())

    def _learn_words(self) -> None:
        """The words things are found by, before the first letter is typed."""
        for own in self.lain:
            _ = own.text

    def narrow(self, text: str) -> None:
        """Show what fits the words."""
        found = narrowed(self.lain, text)
        self.tiles.empty = NOTHING if self.lain else EMPTY
        self.tiles.show_lain(found, self.things)
        whole = len(self.lain)
        self.count.setText(f"{whole} things" if len(found) == whole else f"{len(found)} of {whole}")

    def open_rules(self) -> None:
        """Rules, minutes and rates stand among the settings."""
        self.desk.room_wanted.emit("settings")

    def choose_list(self) -> None:
        """A list to import, chosen as a file."""
        name, _ = QFileDialog.getOpenFileName(
            self,
            "A supplier's list",
            self.desk.folder,
            "Lists (*.csv *.tsv *.txt);;Everything (*)",
        )
        if name:
            self.import_list(Path(name))

    def import_list(self, path: Path) -> None:
        """Look at a list, in the place of the compartments. Raises DomainError if it is none."""
        self.importing.open(path)
        self._make_room()

    def _make_room(self) -> None:
        self.top.hide()
        self.tiles.hide()

    # --- what is done -------------------------------------------------------------------------

    def open_sheet(self, thing: Kept) -> None:
        """To the first figure of the sheet that is not known, else the first."""
        boxes = list(self.sheet.boxes.values())
        unknown = [box for box in boxes if box.property("unknown")]
        target = (unknown or boxes or [self.sheet.name])[0]
        target.setFocus()

    def on_edited(self, record: Kept, words: str, merged: bool) -> None:
        def keep() -> None:
            self.workshop.keep(record, words=words, merged=merged)
            more = ""
            if any(own.id == id_of(record) for own, _ in self.session.differing()):
                more = f" {self.session.piece.name} holds it as it was: Ctrl+Shift+R takes it over."
            self.desk.say(f"{words}.{more}")

        try:
            self.workshop.when_free(keep)
        except DomainError as fault:
            self.desk.say(f"It is there until you leave, but not kept: {fault}.")

    def on_kept(self, ref: str) -> None:
        self.line.clear()
        self.tiles.show_thing(ref)

    def take_out(self) -> None:
        thing = self.tiles.thing
        if thing is None:
            raise DomainError("there is nothing under the cursor")
        self.workshop.forget(thing)
        self.desk.say(f"{name_of(thing)} is taken out of the tray; pieces keep their copies.")

    def take_shelf(self) -> None:
        from maglia.files.shelf import shelf

        known = {part.id for part in self.workshop.tray.parts}
        new = [part for part in shelf() if part.id not in known]
        if not new:
            raise DomainError("every part of the shelf is in the tray already")
        self.workshop.keep(*new, words=f"{len(new)} common sizes from the shelf")
        self.desk.say(f"{len(new)} common sizes are in the tray now; Ctrl+Z takes them back.")
        self.enter()

    def export(self) -> None:
        """The parts that are shown, as a list."""
        from maglia.files.disk import write_atomically
        from maglia.files.parts_csv import parts_csv

        parts = [own.thing for own in narrowed(self.lain, self.line.text())]
        name, _ = QFileDialog.getSaveFileName(
            self, "Parts as CSV", self.desk.place_for("parts.csv"), "Lists (*.csv)"
        )
        if not name:
            return
        shown = [part for part in parts if isinstance(part, Part)]
        write_atomically(Path(name), parts_csv(shown, self._stock_cell))
        self.desk.say(f"{len(shown)} parts written to {Path(name).name}.")

    def _stock_cell(self, part: Part) -> str:
        """What lies there: pieces, links or metres."""
        total = self.workshop.lying_of(part.id).total
        return f"{total / 1e6:g}" if isinstance(part, Wire) else str(total)

    def once_more(self) -> None:
        """A copy of the part under the cursor, to be changed."""
        thing = self.tiles.thing
        if not isinstance(thing, Part):
            raise DomainError("choose a part first")
        taken = self.things.keys()
        ref = next(
            f"{thing.id}-{k}" for k in range(2, len(taken) + 3) if f"{thing.id}-{k}" not in taken
        )
        self.workshop.keep(replace(thing, id=ref, name=f"{thing.name}, other"[:120]))
        self.on_kept(ref)
        self.sheet.name.setFocus()

    def dress(self) -> None:
        """The piece on the bench for the wearer under the cursor."""
        thing, piece = self.tiles.thing, self.session.piece
        if not isinstance(thing, Wearer):
            raise DomainError("choose a wearer first")
        words = f"{piece.name}: for {thing.role}"
        self.session.apply(Edited(replace(piece, wearer=thing), words, self.session.spot))

    # --- keys ---------------------------------------------------------------------------------

    def step(self, by: int) -> None:
        """Undo is the catalogue's here."""
        words = self.workshop.step(by)
        if words is None:
            self.desk.say("Nothing to undo in the tray." if by < 0 else "Nothing to redo.")
        else:
            self.desk.say(f"{'Undone' if by < 0 else 'Redone'}: {words}.")

    def can_step(self, by: int) -> bool:
        return bool(self.workshop.done if by < 0 else self.workshop.undone)

    def escape(self) -> None:
        if self.line.text():
            self.line.clear()
        self.tiles.setFocus()

    def leave_line(self) -> None:
        if "new" in self.__dict__:
            self.new.leave()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.tiles.setFocus()
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.escape()
                return True
        return super().eventFilter(watched, event)
