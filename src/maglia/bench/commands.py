"""What the window's actions do, one function each. The list of actions is in `actions`."""

from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QGuiApplication, QPainter, QPixmap
from PySide6.QtWidgets import QFileDialog, QInputDialog

from maglia.bench.theme import THEMES
from maglia.core.edit import Edited, Spot, delete, set_count, spot_of
from maglia.core.piece import Accepted, Piece, Wearer
from maglia.core.rearrange import (
    duplicated,
    freed_or_mirrored,
    moved,
    repeated,
    reversed_,
    split,
)
from maglia.core.record import DomainError
from maglia.demo import demo_path
from maglia.files.piece_json import write_atomically

if TYPE_CHECKING:
    from maglia.bench.window import Window
    from maglia.core.checks import Check

FILES = "Maglia pieces (*.json)"
SORT_ON = {"wrist": "bracelet", "ankle": "anklet", "ear": "earring", "bust": "necklace"}
"""What a piece is that hangs there; the board holds anything."""
PICTURE_TIMES = 2
"""Pixels of a saved picture for each of the window's."""


# --- pieces and files ---------------------------------------------------------------------------


def new_piece(w: "Window") -> None:
    if w.may_leave():
        w.session.start_new()
        w.begin()


def demo_collection(w: "Window") -> None:
    if w.may_leave():
        w.begin(collection=True)


def open_demo(w: "Window", name: str) -> None:
    w.session.open(demo_path(name), as_copy=True)
    w.rule.setFocus()


def start_with(w: "Window", piece: Piece) -> None:
    w.session.start_new(piece, f"begun: {piece.name}")
    w.rule.setFocus()


def choose_and_open(w: "Window") -> None:
    name, _ = QFileDialog.getOpenFileName(w, "Open a piece", "", FILES)
    if name and w.may_leave():
        w.session.open(Path(name))
        w.settings["last_piece"] = name


def save(w: "Window") -> bool:
    return save_as(w) if w.session.path is None else _save_to(w, w.session.path)


def save_as(w: "Window") -> bool:
    suggested = f"{w.session.piece.name}.json"
    name, _ = QFileDialog.getSaveFileName(w, "Save the piece", suggested, FILES)
    return _save_to(w, Path(name)) if name else False


def _save_to(w: "Window", path: Path) -> bool:
    w.session.save(path)
    w.settings["last_piece"] = str(path)
    return True


def export(w: "Window", what: str) -> None:
    """Write the cut list or the count as CSV."""
    from maglia.files.tables import counts_csv, cut_list_csv

    found = w.session.findings
    if found is None:
        raise DomainError("there is nothing to write yet")
    suggested = f"{w.session.piece.name} {what}.csv"
    name, _ = QFileDialog.getSaveFileName(w, "Save the list", suggested, "Lists (*.csv)")
    if name:
        write_atomically(Path(name), {"cuts": cut_list_csv, "counts": counts_csv}[what](found))
        w.session.said.emit(f"Saved as {Path(name).name}.")


def copy_picture(w: "Window") -> None:
    QGuiApplication.clipboard().setPixmap(_picture(w))
    w.session.said.emit("The picture of the form is on the clipboard.")


def save_picture(w: "Window") -> None:
    """The form as PNG or SVG."""
    suggested = f"{w.session.piece.name}.png"
    kinds = "PNG (*.png);;SVG (*.svg)"
    name, kind = QFileDialog.getSaveFileName(w, "Save the picture", suggested, kinds)
    if not name:
        return
    path = Path(name)
    if path.suffix.lower() == ".svg" or "svg" in kind.lower():
        _save_svg(w, path.with_suffix(".svg"))
    elif not _picture(w).save(str(path)):
        raise DomainError(f"{path} cannot be written; choose another place")
    w.session.said.emit(f"Saved as {path.name}.")


def _picture(w: "Window") -> QPixmap:
    picture = QPixmap(w.form.size() * PICTURE_TIMES)
    picture.setDevicePixelRatio(PICTURE_TIMES)
    w.form.render(picture)
    return picture


def _save_svg(w: "Window", path: Path) -> None:
    from PySide6.QtSvg import QSvgGenerator

    out = QSvgGenerator()
    out.setFileName(str(path))
    size: QSize = w.form.size()
    out.setSize(size)
    out.setViewBox(QRectF(0, 0, size.width(), size.height()))
    out.setTitle(w.session.piece.name)
    painter = QPainter()
    if not painter.begin(out):
        raise DomainError(f"{path} cannot be written; choose another place")
    w.form.draw(painter)
    painter.end()


# --- editing ------------------------------------------------------------------------------------


def take_out(w: "Window") -> None:
    w.session.change_stretch(lambda piece, spot, count: delete(piece, spot, count))


def cut(w: "Window") -> None:
    if w.session.copy():
        take_out(w)


def once_more(w: "Window") -> None:
    w.session.change_stretch(duplicated)


def repeat(w: "Window") -> None:
    w.session.change_stretch(repeated)


def turn_round(w: "Window") -> None:
    w.session.change_stretch(reversed_)


def move(w: "Window", by: int) -> None:
    w.session.change_stretch(lambda piece, spot, count: moved(piece, spot, by, count))


def split_at_mark(w: "Window") -> None:
    mark = w.session.mark
    w.session.change_stretch(lambda piece, spot, _: split(piece, spot, mark))


def free_or_mirror(w: "Window") -> None:
    w.session.change_stretch(lambda piece, spot, _: freed_or_mirrored(piece, spot.owner))


def replace_everywhere(w: "Window") -> None:
    """Ask in the insert line what shall stand in place of what the cursor is on."""
    members = w.session.members_at(w.session.spot)
    if not members:
        raise DomainError("there is no part under the cursor to replace")
    w.insert.open(replacing=members[0].ref)


def toggle_pin(w: "Window") -> None:
    """Keep the count under the cursor from every fit, or give it free."""
    from maglia.core.fit.hold import toggled_pin
    from maglia.core.fit.lever import where

    spot = w.session.spot
    if spot is None or not spot.path:
        raise DomainError("there is no count under the cursor to pin")
    piece = toggled_pin(w.session.piece, spot)
    pinned = len(piece.pinned) > len(w.session.piece.pinned)
    w.session.apply(Edited(piece, f"{where(spot)} {'pinned' if pinned else 'free'}", spot))


def rename(w: "Window") -> None:
    name, taken = QInputDialog.getText(w, "Name the piece", "Name", text=w.session.piece.name)
    if taken and name.strip():
        piece = replace(w.session.piece, name=name.strip()[:120])
        w.session.apply(Edited(piece, f"named {name.strip()[:120]}"))


def repair(w: "Window", check: "Check") -> None:
    """Do the first repair a check offers."""
    if not check.repairs:
        w.session.said.emit("This one is repaired by hand: see what it says.")
        return
    first = check.repairs[0]
    spot = spot_of(w.session.piece, first.run, first.item)
    if isinstance(spot, Spot):
        w.session.attempt(lambda: set_count(w.session.piece, spot, first.count))


def accept(w: "Window", check: "Check") -> None:
    """Keep what a check found, with a note that stays in the file."""
    if check.severity == "stop":
        raise DomainError("this one cannot be kept: it cannot be made so")
    note, taken = QInputDialog.getText(w, "Keep it so", f"Why: {check.message}")
    if taken:
        kept = Accepted(code=check.code, place=check.place[:300], note=note.strip()[:10_000])
        piece = replace(w.session.piece, accepted=(*w.session.piece.accepted, kept))
        w.session.apply(Edited(piece, f"kept: {check.place}"))


# --- wearing and showing ------------------------------------------------------------------------


def dress(w: "Window", wearer: Wearer) -> None:
    piece = replace(w.session.piece, wearer=wearer)
    w.session.apply(Edited(piece, f"for {wearer.role}"))


def next_wearer(w: "Window") -> None:
    roles = [x.role for x in w.session.tray.wearers]
    now = w.session.piece.wearer.role
    at = (roles.index(now) + 1) % len(roles) if now in roles else 0
    dress(w, w.session.tray.wearers[at])


def regrade(w: "Window") -> None:
    """The piece for every wearer of the tray, as a table in a window of its own."""
    from maglia.bench.regrade_table import RegradeTable

    if not w.session.piece.runs and not w.session.piece.rows:
        raise DomainError("there is nothing to regrade yet")
    table = RegradeTable(w.session.piece, w.session.tray.wearers, w)
    table.taken.connect(lambda piece: w.session.apply(Edited(piece, f"for {piece.wearer.role}")))
    table.show()


def next_unit(w: "Window") -> None:
    order = ("mm", "cm", "in")
    show_in(w, order[(order.index(w.session.unit) + 1) % 3])


def show_in(w: "Window", unit: str) -> None:
    w.session.show_in(unit)  # type: ignore[arg-type]
    w.settings["unit"] = unit


def next_form(w: "Window") -> None:
    """Hang the piece on the next kind of form."""
    order = ("bust", "wrist", "ankle", "ear", "board")
    form = w.session.piece.form
    kind = order[(order.index(form.kind) + 1) % len(order)]
    sort = SORT_ON.get(kind, w.session.piece.sort)
    piece = replace(w.session.piece, form=replace(form, kind=kind), sort=sort)
    w.session.apply(Edited(piece, f"hung on the {kind}"))


def next_posture(w: "Window") -> None:
    """The bust's next posture, or the board's next neckline."""
    form = w.session.piece.form
    field, order = ("posture", ("upright", "easy", "sloping"))
    if form.kind == "board":
        field, order = ("neckline", ("straight", "round", "vee"))
    elif form.kind != "bust":
        raise DomainError(f"a {form.kind} has one shape; bust and board have several")
    following = order[(order.index(getattr(form, field)) + 1) % 3]
    changed = replace(form, **{field: following})
    piece = replace(w.session.piece, form=changed)
    w.session.apply(Edited(piece, f"{field}: {following}"))


def next_theme(w: "Window") -> None:
    name = "slate" if w.theme.name == "felt" else "felt"
    w.set_theme(THEMES[name])
    w.settings["theme"] = name


def next_way(w: "Window") -> None:
    """Show the next way to wear the piece on the form; all ways in turn, then the whole piece."""
    ways = w.session.piece.ways
    if not ways:
        raise DomainError("this piece is worn one way; ways stand in its file")
    w.session.show_way((w.session.way + 1) % (len(ways) + 1))


def show_guide(w: "Window") -> None:
    from maglia.bench.guide import Guide

    Guide(w.theme, w).show()
