"""What can be done with a piece in every room, one function each. The list is in `house`."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, get_args

from msgspec.structs import replace
from PySide6.QtCore import QProcess
from PySide6.QtWidgets import QFileDialog

from maglia.app import own_workshop
from maglia.app.desk import Desk
from maglia.core.edits.spots import Edited
from maglia.core.piece.piece import Wearer
from maglia.core.values.measures import LengthUnit
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_path
from maglia.desktop.install import own_command
from maglia.files import disk
from maglia.files.kinds import BUNDLE

if TYPE_CHECKING:
    from maglia.core.report import Findings
    from maglia.files.workshop.builds import Exported
    from maglia.files.workshop.bundle import Bundle

FILES = f"Maglia pieces (*.maglia *.json *{BUNDLE})"
SAVED = "Maglia pieces (*.maglia *.json)"
UNITS: tuple[LengthUnit, ...] = get_args(LengthUnit)


Command = Callable[[Desk], object]
Asked = Callable[[Desk], bool]


def may_leave(desk: Desk) -> bool:
    return desk.may_leave(lambda: _save_somewhere(desk))


def _save_somewhere(desk: Desk) -> bool:
    """Save before leaving. Where it cannot be saved, another place is offered; False stays."""
    command = save
    while True:
        try:
            return command(desk)
        except DomainError as fault:
            if desk.ask(f"Not saved: {fault}.", "Another place", "Stay") == 1:
                desk.say(f"Not saved: {fault}.")
                return False
            command = save_as


def new_piece(desk: Desk) -> None:
    if may_leave(desk):
        desk.room_wanted.emit("bench")
        desk.session.start_new()
        desk.begin_wanted.emit("new")


def demo_collection(desk: Desk) -> None:
    desk.room_wanted.emit("bench")
    desk.begin_wanted.emit("demo")


def recent_pieces(desk: Desk) -> None:
    """The pieces opened or saved last: nothing is asked before one is chosen."""
    if not desk.settings["recent"]:
        raise DomainError("no piece was opened or saved yet; Ctrl+O opens one")
    desk.room_wanted.emit("bench")
    desk.begin_wanted.emit("recent")


def choose_and_open(desk: Desk) -> None:
    name, _ = QFileDialog.getOpenFileName(desk.window, "Open a piece", desk.folder, FILES)
    if name and may_leave(desk):
        open_file(desk, Path(name))


def open_file(desk: Desk, path: Path) -> None:
    """Open a piece, or a bundle of one. Raises DomainError; what is open stays."""
    if path.suffix.lower() == BUNDLE:
        open_bundle(desk, path)
        return
    desk.session.open(path)
    desk.settings.note_piece(path)


def open_bundle(desk: Desk, path: Path) -> None:
    """A bundle: its piece on the bench, not saved anywhere yet; its builds are shown first."""
    from maglia.files.apart import read_bundle_apart

    desk.begin("theirs", lambda: read_bundle_apart(path), partial(_open_theirs, desk, path))


def _open_theirs(desk: Desk, path: Path, bundle: Bundle) -> None:
    from maglia.app.theirs import Theirs

    if not desk.may_begin():
        return
    desk.session.start_as_it_is(bundle.piece, f"from {disk.shown(path)}")
    said = f"“{bundle.piece.name}” from {disk.shown(path)}; Ctrl+S saves it as a piece of yours"
    store = desk.session.workshop.store
    if bundle.builds and (store is None or store.read_only):
        said += ". Its builds are not in the log: no workshop is open to be written to"
    elif bundle.builds:
        words = (f"{disk.shown(path)} brings builds of “{bundle.piece.name}”. In the Log they are "
                 "seen as others' work: nothing is estimated from them.")  # fmt: skip
        items = [(_build_words(own), own) for own in bundle.builds]
        Theirs(desk.window, words, items, partial(_take_builds, desk, bundle)).open()
    desk.say(f"{said}.")


def _build_words(own: Exported) -> str:
    photographs = f", {len(own.photos)} photographs" if own.photos else ""
    made = f"made in {own.minutes:.0f} min" if own.ended else f"{len(own.marks)} steps made"
    return f"{own.name} · begun {own.begun[:10]}, {made}{photographs}"


def _take_builds(desk: Desk, bundle: Bundle, builds: list[Exported]) -> None:
    def take() -> None:
        from maglia.files.workshop.bundle import take_in

        workshop = desk.session.workshop
        if workshop.store is None:
            raise DomainError("no workshop is open to be written to")
        new = take_in(workshop.store, bundle._replace(builds=tuple(builds)))
        workshop.read()
        desk.say(f"{new} of {len(builds)} builds are new in the log.")

    desk.attempt(take)


def save_bundle(desk: Desk) -> None:
    """The piece with its builds and photographs in one file."""
    from maglia.files.workshop.bundle import gathered, write_bundle

    suggested = desk.place_for(f"{desk.session.piece.name}{BUNDLE}")
    kinds = f"Bundles (*{BUNDLE})"
    name, _ = QFileDialog.getSaveFileName(desk.window, "Hand the piece on", suggested, kinds)
    if not name:
        return
    bundle = gathered(desk.session.piece, desk.session.workshop.store)
    write_bundle(Path(name), bundle)
    said = f"{len(bundle.builds)} builds, {len(bundle.photographs)} photographs"
    if bundle.missing:
        said += f"; {len(bundle.missing)} could not be read: {bundle.missing[0]}"
    desk.say(f"Saved as {disk.shown(Path(name))}: the piece, {said}.")


def go_back(desk: Desk) -> None:
    own_workshop.go_back(desk.session, desk.window)


def open_beside(desk: Desk, path: Path) -> None:
    """A piece in a window of its own: another process, which nothing here can take along."""
    command = own_command()
    if not QProcess.startDetached(command[0], [*command[1:], "open", str(path)])[0]:
        raise DomainError(f"no second window could be opened for {disk.shown(path)}")
    desk.say(f"{disk.shown(path)} opens in a window of its own.")


def choose_and_open_beside(desk: Desk) -> None:
    words, begin = "Open in a window of its own", desk.folder
    name, _ = QFileDialog.getOpenFileName(desk.window, words, begin, FILES)
    if name:
        open_beside(desk, Path(name))


def open_place(desk: Desk, place: str) -> None:
    """Open a piece by its file, or a demo piece by its name; of none, the one that is open."""
    if not place or not may_leave(desk):
        return
    if place in demo_names():
        desk.session.open(demo_path(place), as_copy=True)
    else:
        open_file(desk, Path(place))


def take_parts_in(desk: Desk) -> None:
    """Keep the parts and units of the piece that the workshop has none of."""
    session = desk.session
    known = {own.id for own in (*session.tray.parts, *session.tray.units)}
    new = [own for own in (*session.piece.parts, *session.piece.units) if own.id not in known]
    if not new:
        raise DomainError("the tray has every part of the piece already")
    names = ", ".join(own.name for own in new[:4]) + (" …" if len(new) > 4 else "")
    session.keep_offered(new, words=f"{len(new)} taken into the tray: {names}.")


def take_over(desk: Desk) -> None:
    desk.session.take_over()


def save(desk: Desk) -> bool:
    return save_as(desk) if desk.session.path is None else _save_to(desk, desk.session.path)


def save_as(desk: Desk) -> bool:
    suggested = desk.place_for(f"{desk.session.piece.name}.maglia")
    name, _ = QFileDialog.getSaveFileName(desk.window, "Save the piece", suggested, SAVED)
    if not name:
        return False
    path = Path(name)
    if path.suffix.lower() not in (".maglia", ".json"):  # as it was written, without an ending
        path = path.with_name(f"{path.name}.maglia")
        here = disk.shown(path)
        if path.exists() and desk.ask(f"{here} is there already.", "Write over it", "Stay") == 1:
            return False
    return _save_to(desk, path)


def _save_to(desk: Desk, path: Path) -> bool:
    if desk.session.changed_by_others(path):
        name = disk.shown(path)
        beside, other = disk.free_name(path, "mine"), disk.free_name(path, "other")
        answer = desk.ask(
            f"{name} was changed elsewhere since it was opened here.",
            f"Save mine beside it, as {disk.shown(beside)}",
            f"Save mine as {name}, keep the other as {disk.shown(other)}",
            "Do not save",
        )
        if answer == 2:
            return False
        if answer == 0:
            path = beside
        else:
            disk.write_atomically(other, disk.read_text(path))
    desk.session.save(path)
    desk.settings.note_piece(path)
    return True


def export_cuts(desk: Desk) -> None:
    from maglia.files.tables import cut_list_csv

    _export(desk, "cuts", cut_list_csv)


def export_counts(desk: Desk) -> None:
    from maglia.files.tables import counts_csv

    _export(desk, "counts", counts_csv)


def _export(desk: Desk, what: str, written: Callable[[Findings], str]) -> None:
    """Write a list of the piece as CSV."""
    found = _whole_and_new(desk)
    suggested = desk.place_for(f"{desk.session.piece.name} {what}.csv")
    name, _ = QFileDialog.getSaveFileName(desk.window, "Save the list", suggested, "Lists (*.csv)")
    if name:
        disk.write_atomically(Path(name), written(found))
        desk.say(f"Saved as {disk.shown(Path(name))}.")


def _whole_and_new(desk: Desk) -> Findings:
    """The results of the whole piece as it is now. Raises DomainError if they are of less, or of
    before the last change."""
    session = desk.session
    if session.way:
        raise DomainError("one way to wear it is shown, not the whole piece: Ctrl+Y shows that")
    found = session.findings
    if found is None or found.assembly.piece is not session.piece:
        raise DomainError("it is worked out anew after the last change: try again in a moment")
    return found


SHEETS = "PDF, A4 (*.pdf);;PDF, Letter (*.letter.pdf);;SVG (*.svg)"


def export_customer(desk: Desk) -> None:
    """The sheet for who gets the piece."""
    from maglia.app.customer_sheet import save_customer

    _export_sheet(desk, "for the customer", save_customer)


def export_kit(desk: Desk) -> None:
    """The sheet for who puts the piece together."""
    from maglia.app.customer_sheet import save_kit

    _export_sheet(desk, "kit", save_kit)


def _export_sheet(
    desk: Desk, what: str, save: Callable[[Findings, Path, LengthUnit], object]
) -> None:
    found = _whole_and_new(desk)
    suggested = desk.place_for(f"{desk.session.piece.name}, {what}.pdf")
    name, _ = QFileDialog.getSaveFileName(desk.window, "Save the sheet", suggested, SHEETS)
    if name:
        save(found, Path(name), desk.session.unit)
        desk.session.delta.note_printed(desk.session.piece, f"sheet {what}")
        desk.say(f"Saved as {disk.shown(Path(name))}.")


def export_alone(desk: Desk) -> None:
    """The piece without form and mat, at true size, on a transparent ground."""
    from maglia.app.still_picture import save_picture

    found = desk.session.findings
    if found is None:
        raise DomainError("there is nothing to draw yet")
    suggested, kinds = desk.place_for(f"{desk.session.piece.name}.png"), "PNG (*.png);;SVG (*.svg)"
    name, _ = QFileDialog.getSaveFileName(desk.window, "Save the picture", suggested, kinds)
    if name:
        said = save_picture(found, Path(name), mat=False)
        desk.say(f"Saved as {disk.shown(Path(name))}: {said}.")


def leave(desk: Desk) -> None:
    if desk.window is not None:
        desk.window.close()


def dress(desk: Desk, wearer: Wearer) -> None:
    piece = replace(desk.session.piece, wearer=wearer)
    desk.session.apply(Edited(piece, f"for {wearer.role}"))


def next_wearer(desk: Desk) -> None:
    roles = [x.role for x in desk.session.tray.wearers]
    now = desk.session.piece.wearer.role
    at = (roles.index(now) + 1) % len(roles) if now in roles else 0
    dress(desk, desk.session.tray.wearers[at])


def next_unit(desk: Desk) -> None:
    show_in(desk, UNITS[(UNITS.index(desk.session.unit) + 1) % len(UNITS)])


def show_in(desk: Desk, unit: LengthUnit) -> None:
    desk.put("unit", unit)


def next_theme(desk: Desk) -> None:
    desk.put("theme", "slate" if desk.theme.name == "felt" else "felt")


def next_way(desk: Desk) -> None:
    """Show the next way to wear the piece on the form; all ways in turn, then the whole piece."""
    ways = desk.session.piece.ways
    if not ways:
        raise DomainError("this piece is worn one way; ways stand in its file")
    desk.session.show_way((desk.session.way + 1) % (len(ways) + 1))
