"""Count put together: what is to be made above, the bars left, what it takes right."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QFrame, QScrollArea, QSplitter, QVBoxLayout, QWidget

from maglia.app.desk import Desk
from maglia.app.rooms.count.bars import CutBars
from maglia.app.rooms.count.needs_view import NeedsView
from maglia.app.rooms.count.to_make import Found, ToMake
from maglia.app.rooms.room import Offered, RoomWidget
from maglia.app.session.identity import id_of_file
from maglia.core.values.record import DomainError

OF_A_DAY = (
    "out",
    "again",
    "lay-out",
    "give-up",
    "to-bench",
    "left",
    "save-set",
    "csv",
    "kits",
    "print",
    "printer",
)


class CountRoom(RoomWidget):
    """Keys stay with the list of what is to be made."""

    def __init__(self, desk: Desk, offers: Callable[[str], list[Offered]]) -> None:
        super().__init__(desk)
        del offers
        self.session, self.day = desk.session, desk.session.day
        self.make = ToMake(self.day, self.session.evaluation.jobs)
        self.bars = CutBars(self.day, desk.theme)
        self.needs = NeedsView(self.day, desk.theme)
        across = QSplitter(Qt.Orientation.Horizontal)
        across.addWidget(_scrolled(self.bars))
        across.addWidget(_scrolled(self.needs))
        across.setStretchFactor(0, 3)
        across.setStretchFactor(1, 1)
        across.setSizes([860, 400])
        across.setHandleWidth(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.make)
        column.addWidget(across, 1)
        self.make.wanted.connect(partial(desk.attempt, self.add))
        for view in (self.bars, self.needs):
            desk.dressed.connect(view.set_theme)
        self.session.reshown.connect(self.on_reshown)
        self.day.said.connect(self.session.said)
        self.on_reshown()

    @property
    def greeting(self) -> str:
        return "A another piece · B the one on the bench · + − how many · L lay it out · F1 keys"

    def enter(self) -> None:
        self.make.refresh()
        if not self.day.entries and self.session.piece.owners:
            self.add_open()
        self.make.list.setFocus()

    def can_step(self, by: int) -> bool:
        return False

    def may(self, name: str) -> bool:
        """Whether an action can be done now."""
        return bool(self.day.entries) or name not in OF_A_DAY

    def on_reshown(self) -> None:
        self.bars.unit = self.session.unit
        self.bars.update()

    def escape(self) -> None:
        self.make.leave()

    def leave_line(self) -> None:
        self.make.close_line()

    # --- the day --------------------------------------------------------------------------------

    def add(self, place: Path) -> None:
        """A piece of a file; the one that is on the bench as it is there now."""
        from maglia.files.piece_json import read_piece

        piece, bench = read_piece(place), self.session
        piece = piece if piece.id else replace(piece, id=id_of_file(place))
        on_bench = piece.id == bench.piece.id or place == bench.path
        self.day.add(bench.piece if on_bench else piece)

    def to_bench(self) -> None:
        """The chosen piece as it stands here, with its own id."""
        if self.make.at < 0:
            raise DomainError("no piece is chosen")
        piece = self.day.entries[self.make.at].piece
        if piece.id != self.session.piece.id and self.desk.may_begin():
            self.session.start_as_it_is(piece, "from the day")
        self.desk.room_wanted.emit("bench")

    def add_open(self) -> None:
        if not self.session.piece.owners:
            raise DomainError("the bench is empty: put a piece together there first (Ctrl+2)")
        self.day.add(self.session.piece)

    def open_add(self) -> None:
        """Pieces that the workshop knows, and the demo's."""
        from maglia.demo import demo_names, demo_path
        from maglia.files.piece_json import read_piece
        from maglia.files.workshop import contents

        store = self.session.workshop.store
        known = contents.saved_pieces(store) if store is not None else ()
        demos = set(demo_names())
        found = [Found(own.name, Path(own.place)) for own in known if own.place not in demos]
        found += [Found(read_piece(demo_path(name)).name, demo_path(name)) for name in demo_names()]
        self.make.open_line(tuple(found))

    def look_for_more(self) -> None:
        """Of the pieces that are known, those that could be made of what the day leaves."""
        from maglia.demo import demo_names, demo_path
        from maglia.files.piece_json import read_piece

        if self.day.at_work or self.day.is_old:
            raise DomainError("it is not worked out yet: Esc takes what is found")
        own = [self.session.piece] if self.session.piece.owners else []
        pieces = [*own, *(read_piece(demo_path(name)) for name in demo_names())]
        self.day.look_for_more(tuple({piece.name: piece for piece in pieces}.values()))

    def save_set(self) -> None:
        from maglia.files.set_json import Entry, Set, write_set

        name, _ = QFileDialog.getSaveFileName(
            self, "Save the day", self.desk.place_for("set.json"), "Set (*.json)"
        )
        if name:
            entries = tuple(Entry(one.piece, one.copies) for one in self.day.entries)
            write_set(Set(Path(name).stem, entries), Path(name))
            self.session.said.emit(f"The day is kept as a set in {Path(name).name}.")

    def open_set(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A set", self.desk.folder, "Set (*.json)")
        if name:
            self.take_set(Path(name))

    def take_set(self, path: Path) -> None:
        """The pieces of a set file are what is to be made. Raises DomainError if it is none."""
        from maglia.app.session.day import Entry
        from maglia.files.set_json import read_set

        made = read_set(path)
        self.day.set(tuple(Entry(one.piece, one.copies) for one in made.entries))
        self.session.said.emit(f"The set {made.name}: {len(made.entries)} pieces.")

    def take_out(self) -> None:
        if self.make.at >= 0:
            self.day.out(self.make.at)

    def _refuse_old(self) -> None:
        """Nothing goes on paper from a plan that is older than the piece or the stock."""
        if self.day.is_old:
            raise DomainError(self.day.fault or "it is counted anew after a change: wait a moment")

    # --- out ------------------------------------------------------------------------------------

    def export(self) -> None:
        """Every cut as a table."""
        from maglia.core.cutting.text import rows_of
        from maglia.files.disk import write_table

        self._refuse_old()
        name, _ = QFileDialog.getSaveFileName(
            self, "Cuts", self.desk.place_for("cuts.csv"), "CSV (*.csv)"
        )
        if name:
            write_table(Path(name), rows_of(self.day.cuttings))
            self.session.said.emit(f"The cuts are in {Path(name).name}.")

    def on_paper(self, *, printed: bool = False, first: int | None = None) -> None:
        """Save or print a sheet: which, is asked unless it is said."""
        from maglia.app.rooms.count import on_paper

        self._refuse_old()
        offered = on_paper.sheets(self.session, self.make.at)
        sheet = offered[first] if first is not None else on_paper.chosen(self.make, offered)
        do = on_paper.print_out if printed else on_paper.save
        if sheet is not None and do(self, self.session, sheet):
            self._note_printed(sheet.title)

    def _note_printed(self, title: str) -> None:
        """The pieces of the day are on paper as they are now, and what they cost."""
        from maglia.app.cost_sheet import TITLE
        from maglia.core.joining.cost import money

        cost = self.day.cost
        price = money(cost.price, cost.currency) if cost is not None and title == TITLE else ""
        for entry in self.day.entries:
            self.session.delta.note_printed(entry.piece, title.lower(), price)


def _scrolled(inner: QWidget) -> QScrollArea:
    area = QScrollArea()
    area.setWidget(inner)
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    return area
