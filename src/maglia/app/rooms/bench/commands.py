"""What the Bench's actions do, one function each. The list of actions is in `actions`."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, get_args

from msgspec.structs import replace
from PySide6.QtCore import QIODevice, QRectF, QSize
from PySide6.QtGui import QGuiApplication, QPainter, QPixmap
from PySide6.QtWidgets import QFileDialog, QInputDialog

from maglia.app.desk import Desk
from maglia.app.drawn_file import write_drawn, write_image
from maglia.app.rooms.bench.bench import Bench
from maglia.app.rooms.room import Offered
from maglia.core.edits.edit import delete, set_count
from maglia.core.edits.rearrange import (
    duplicated,
    freed_or_mirrored,
    moved,
    repeated,
    reversed_,
    split,
)
from maglia.core.edits.spots import Edited, quantity_at, spot_of
from maglia.core.piece.piece import Accepted, FormKind, Neckline, Posture, Sort, Wearer
from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.core.checks.found import Check

SORT_ON: dict[FormKind, Sort] = {
    "wrist": "bracelet", "ankle": "anklet", "ear": "earring", "bust": "necklace",
}  # fmt: skip
"""What a piece is that hangs there; board and mat hold anything."""
FORMS: tuple[FormKind, ...] = ("bust", "wrist", "ankle", "ear", "board", "mat")
PICTURE_TIMES = 2
"""Pixels of a saved picture for each of the window's."""


Command = Callable[[Bench], object]


def made(desk: Desk, offers: Callable[[str], list[Offered]]) -> Bench:
    """The Bench, with what its lists ask for done."""
    bench = Bench(desk, offers)
    for signal, command in (
        (bench.visit_wanted, visit), (bench.repair_wanted, repair), (bench.accept_wanted, accept),
        (bench.each_wanted, regrade),
    ):  # fmt: skip
        signal.connect(partial(desk.attempt, command, bench))
    return bench


def copy_picture(bench: Bench) -> None:
    QGuiApplication.clipboard().setPixmap(_picture(bench))
    bench.session.said.emit("The picture of the form is on the clipboard.")


def save_picture(bench: Bench) -> None:
    """The form as PNG or SVG."""
    suggested = f"{bench.session.piece.name}.png"
    kinds = "PNG (*.png);;SVG (*.svg)"
    name, kind = QFileDialog.getSaveFileName(bench, "Save the picture", suggested, kinds)
    if not name:
        return
    path = Path(name)
    if path.suffix.lower() == ".svg" or "svg" in kind.lower():
        _save_svg(bench, path.with_suffix(".svg"))
    else:
        write_image(path, _picture(bench).toImage())
    bench.session.said.emit(f"Saved as {path.name}.")


def _picture(bench: Bench) -> QPixmap:
    picture = QPixmap(bench.form.size() * PICTURE_TIMES)
    picture.setDevicePixelRatio(PICTURE_TIMES)
    bench.form.render(picture)
    return picture


def _save_svg(bench: Bench, path: Path) -> None:
    from PySide6.QtSvg import QSvgGenerator

    def draw(out: QIODevice) -> bool:
        made, painter = QSvgGenerator(), QPainter()
        made.setOutputDevice(out)
        size: QSize = bench.form.size()
        made.setSize(size)
        made.setViewBox(QRectF(0, 0, size.width(), size.height()))
        made.setTitle(bench.session.piece.name)
        if not painter.begin(made):
            return False
        bench.form.draw(painter)
        return painter.end()

    write_drawn(path, draw)


def take_out(bench: Bench) -> None:
    bench.session.change_stretch(lambda piece, spot, count: delete(piece, spot, count))


def cut(bench: Bench) -> None:
    if bench.session.copy():
        take_out(bench)


def once_more(bench: Bench) -> None:
    bench.session.change_stretch(duplicated)


def repeat(bench: Bench) -> None:
    bench.session.change_stretch(repeated)


def turn_round(bench: Bench) -> None:
    bench.session.change_stretch(reversed_)


def move(bench: Bench, *, by: int) -> None:
    bench.session.change_stretch(lambda piece, spot, count: moved(piece, spot, by, count))


def split_at_mark(bench: Bench) -> None:
    mark = bench.session.cursor.mark
    bench.session.change_stretch(lambda piece, spot, _: split(piece, spot, mark))


def free_or_mirror(bench: Bench) -> None:
    bench.session.change_stretch(lambda piece, spot, _: freed_or_mirrored(piece, spot.owner))


def replace_everywhere(bench: Bench) -> None:
    """Ask in the insert line what shall stand in place of what the cursor is on."""
    members = bench.session.members_at(bench.session.spot)
    if not members:
        raise DomainError("there is no part under the cursor to replace")
    bench.insert.open(replacing=members[0].ref)


def toggle_pin(bench: Bench) -> None:
    """Keep the count under the cursor from every fit, or give it free."""
    from maglia.core.fit.hold import toggled_pin
    from maglia.core.fit.wish import target_words

    spot = bench.session.spot
    if spot is None or not spot.path:
        raise DomainError("there is no count under the cursor to pin")
    piece = toggled_pin(bench.session.piece, spot)
    what = "pinned" if len(piece.pinned) > len(bench.session.piece.pinned) else "free"
    bench.session.apply(Edited(piece, f"{target_words(quantity_at(spot))} {what}", spot))


def rename(bench: Bench) -> None:
    """Call what the cursor stands on otherwise: its run, or the part or unit there."""
    bench.naming.open_at_cursor()


def rename_piece(bench: Bench) -> None:
    bench.naming.open_for_piece()


def show_uses(bench: Bench) -> None:
    """Every place that uses the part or unit under the cursor."""
    members = bench.session.members_at(bench.session.spot)
    if not members:
        raise DomainError("there is no part under the cursor")
    bench.uses.open_for(members[0].made_in or members[0].ref)


def repair(bench: Bench, check: Check) -> None:
    """Do the first repair a check offers."""
    if not check.repairs:
        bench.session.said.emit("This one is repaired by hand: see what it says.")
        return
    first = check.repairs[0]
    spot = spot_of(bench.session.assembly, first.run, first.item)
    if spot is not None:
        bench.session.attempt(lambda: set_count(bench.session.piece, spot, first.count))


def accept(bench: Bench, check: Check) -> None:
    """Keep what a check found, with a note that stays in the file."""
    if check.severity == "stop":
        raise DomainError("this one cannot be kept: it cannot be made so")
    note, taken = QInputDialog.getText(bench, "Keep it so", f"Why: {check.message}")
    if taken:
        kept = Accepted(
            code=check.code,
            place=check.place[:300],
            note=note.strip()[:10_000],
            run=check.run,
            thing=check.thing,
        )
        piece = replace(bench.session.piece, accepted=(*bench.session.piece.accepted, kept))
        bench.session.apply(Edited(piece, f"kept: {check.place}"))


def regrade(bench: Bench, wearers: tuple[Wearer, ...] = ()) -> None:
    """The piece for some wearers, or for every one of the tray, in a window of its own."""
    from maglia.app.rooms.bench.regrade_table import RegradeTable

    if not bench.session.piece.owners:
        raise DomainError("there is nothing to regrade yet")
    session = bench.session
    table = RegradeTable(session.piece, wearers or session.tray.wearers, session.jobs, bench)
    table.taken.connect(lambda piece: session.apply(Edited(piece, f"for {piece.wearer.role}")))
    table.show()


def visit(bench: Bench, check: Check) -> None:
    """Go to what a check is about."""
    if check.run is not None:
        spot = spot_of(bench.session.assembly, check.run, check.item)
        if spot is not None:
            bench.session.go(spot)


def toggle_motion(bench: Bench) -> None:
    bench.form.toggle_motion()
    bench.desk.settings["motion"] = bench.form.moves


def next_form(bench: Bench) -> None:
    """Hang the piece on the next kind of form."""
    piece = bench.session.piece
    kind = FORMS[(FORMS.index(piece.form.kind) + 1) % len(FORMS)]
    sort = SORT_ON.get(kind, piece.sort)
    changed = replace(piece, form=replace(piece.form, kind=kind), sort=sort)
    bench.session.apply(Edited(changed, f"{'laid' if kind == 'mat' else 'hung'} on the {kind}"))


def next_posture(bench: Bench) -> None:
    """The bust's next posture, or the board's next neckline."""
    form = bench.session.piece.form
    if form.kind == "bust":
        postures: tuple[Posture, ...] = get_args(Posture)
        changed = replace(form, posture=_next(postures, form.posture))
        words = f"posture: {changed.posture}"
    elif form.kind == "board":
        necklines: tuple[Neckline, ...] = get_args(Neckline)
        changed = replace(form, neckline=_next(necklines, form.neckline))
        words = f"neckline: {changed.neckline}"
    elif form.kind == "mat":
        changed = replace(form, laid="open" if form.laid == "closed" else "closed")
        words = f"laid {changed.laid}"
    else:
        raise DomainError(f"a {form.kind} has one shape; bust, board and mat have several")
    bench.session.apply(Edited(replace(bench.session.piece, form=changed), words))


def _next(order: tuple[str, ...], now: str) -> str:
    return order[(order.index(now) + 1) % len(order)]
