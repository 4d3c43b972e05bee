"""What of a day goes on paper: which sheet is asked, then it is saved or printed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtWidgets import QFileDialog, QMenu, QWidget

from maglia.app.paper import Blocks, preview, write
from maglia.app.plain_text import button
from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.app.rooms.room import RoomWidget
    from maglia.app.session.session import Session

FORMATS = "PDF, A4 (*.pdf);;PDF, Letter (*.letter.pdf);;SVG (*.svg)"


class Sheet(NamedTuple):
    """A sheet as it is offered: a letter leads to it; it is made when it is chosen."""

    words: str
    file: str
    title: str
    made: Callable[[], Blocks]


def sheets(session: Session, at: int) -> tuple[Sheet, ...]:
    """The sheets of a day; `at` is the piece that is laid out."""
    from maglia.app import cost_sheet, cut_sheet, kit_sheet, laid_sheet

    day, unit = session.day, session.unit

    def costs() -> Blocks:
        if day.cost is None:
            raise DomainError("the cost is not worked out yet: wait a moment")
        return cost_sheet.blocks_of(day.short, day.cost)

    def laid() -> Blocks:
        return laid_sheet.blocks_of(laid_sheet.laid_flat(day.entries[max(at, 0)].piece))

    def kits(bags: kit_sheet.Bags) -> Blocks:
        return kit_sheet.blocks_of(day.making, unit, bags)

    name = day.entries[max(at, 0)].piece.name if day.entries else "the piece"
    return (
        Sheet("&Cuts, at true size", "cuts", cut_sheet.TITLE,
              lambda: cut_sheet.blocks_of(day.cuttings, unit)),
        Sheet("To &buy, and what it costs", "to-buy", cost_sheet.TITLE, costs),
        Sheet(f"&Laid out at true size: {button(name)}", "laid-out", laid_sheet.TITLE, laid),
        Sheet("&Kits: a bag for each copy", "kits", kit_sheet.TITLE, partial(kits, "copy")),
        Sheet("Kits: a bag for each &step", "kits", kit_sheet.TITLE, partial(kits, "step")),
        Sheet("Kits: a bag for each &part", "kits", kit_sheet.TITLE, partial(kits, "part")),
    )  # fmt: skip


def chosen(parent: QWidget, offered: tuple[Sheet, ...]) -> Sheet | None:
    """The sheet that is taken of those offered; None if none is."""
    menu = QMenu(parent)
    actions = [menu.addAction(sheet.words) for sheet in offered]
    menu.setActiveAction(actions[0])
    taken = menu.exec(parent.mapToGlobal(parent.rect().topLeft()))
    menu.deleteLater()
    return offered[actions.index(taken)] if taken in actions else None


def save(parent: RoomWidget, session: Session, sheet: Sheet) -> bool:
    """Ask where to, and write it; whether it was written."""
    blocks = sheet.made()
    name, _ = QFileDialog.getSaveFileName(
        parent, sheet.title, parent.desk.place_for(f"{sheet.file}.pdf"), FORMATS
    )
    if name:
        write(Path(name), sheet.title, session.unit, blocks)
        session.said.emit(f"{sheet.title}: in {Path(name).name}.")
    return bool(name)


def print_out(parent: QWidget, session: Session, sheet: Sheet) -> bool:
    """As it would be printed, and on to the printer; whether it was shown."""
    preview(parent, sheet.title, session.unit, sheet.made())
    return True
