"""What is let fall on the window: pieces, bundles, sets, a supplier's list, an exported workshop,
photographs. Each goes where it belongs; what belongs nowhere is said.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QMimeData

from maglia.app import piece_commands
from maglia.core.piece.piece import Wearer
from maglia.core.values.record import DomainError
from maglia.core.values.references import things_named
from maglia.files import disk
from maglia.files.kinds import kind_of

if TYPE_CHECKING:
    from maglia.app.session.workshop import Record
    from maglia.app.shell import Shell
    from maglia.core.parts.units import Thing
    from maglia.files.workshop.contents import WholeWorkshop

MOST_WINDOWS = 6
"""More pieces at once than this are a slip of the hand."""


def files_in(data: QMimeData) -> list[Path]:
    """The files of this machine that are carried."""
    return [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]


def take(shell: Shell, paths: Sequence[Path]) -> None:
    """Take what fell: the first piece here, every further one in a window of its own. Raises
    DomainError naming what cannot be taken."""
    kinds = {path: kind_of(path) for path in paths}
    pieces = [path for path in paths if kinds[path] in ("piece", "bundle")]
    others = [path for path in paths if path not in pieces]
    unknown = [path for path in others if not kinds[path]]
    if unknown:
        raise DomainError(
            f"{disk.shown(unknown[0])} is nothing that can be taken here: a piece, a bundle, a "
            "set, a supplier's list (CSV), an exported workshop or a photograph can"
        )
    if len(pieces) > MOST_WINDOWS:
        raise DomainError(
            f"{len(pieces)} pieces at once would be {len(pieces)} windows; {MOST_WINDOWS} at most"
        )
    if pieces and piece_commands.may_leave(shell.desk):
        shell.show_room("bench")  # first: what is said of the piece stays to be read
        piece_commands.open_file(shell.desk, pieces[0])
    for path in pieces[1:]:
        piece_commands.open_beside(shell.desk, path)
    if photographs := [path for path in others if kinds[path] == "photograph"]:
        _photographs(shell, photographs)
    for path in others:
        if kinds[path] in OTHERS:
            OTHERS[kinds[path]](shell, path)


def _set(shell: Shell, path: Path) -> None:
    from maglia.app.rooms.count.count import CountRoom

    shell.show_room("count")
    assert isinstance(shell.room, CountRoom)
    shell.room.take_set(path)


def _list(shell: Shell, path: Path) -> None:
    from maglia.app.rooms.tray.tray import TrayRoom

    shell.show_room("tray")
    assert isinstance(shell.room, TrayRoom)
    shell.room.import_list(path)


def _photographs(shell: Shell, paths: Sequence[Path]) -> None:
    from maglia.app.rooms.log.log import LogRoom

    if not isinstance(shell.room, LogRoom):
        raise DomainError(
            f"{disk.shown(paths[0])} is a photograph: it belongs to a build, so let it fall on the "
            "Log (Ctrl+5), on the build that is chosen there"
        )
    shell.room.keep_photographs(paths)


def _workshop(shell: Shell, path: Path) -> None:
    from maglia.files.apart import read_whole_apart

    shell.desk.begin("theirs", lambda: read_whole_apart(path), partial(_offer, shell, path))


def _offer(shell: Shell, path: Path, whole: WholeWorkshop) -> None:
    """An exported workshop may fill an empty one; of one that holds something, its parts, units
    and wearers that are not known are offered, each by itself."""
    from maglia.app.theirs import Theirs
    from maglia.files.workshop.contents import import_whole, is_empty

    def take_over() -> None:
        assert store is not None
        import_whole(store, whole)
        workshop.read()
        shell.desk.say(f"The workshop of {disk.shown(path)} is yours now.")

    workshop = shell.session.workshop
    store = workshop.store
    if store is None or store.read_only:
        raise DomainError("no workshop is open that could be written to")
    if is_empty(store):
        things = len(whole.parts) + len(whole.units) + len(whole.wearers)
        shell.banner.ask(
            f"{disk.shown(path)} is an exported workshop: {things} parts, units and wearers, "
            f"{len(whole.builds)} builds, and the stock. Yours holds nothing: it can go on as "
            "that one.",
            ("Take it over", partial(shell.desk.attempt, take_over)),
            ("Leave it", lambda: None),
        )
        return
    known = {own.id for own in (*workshop.tray.parts, *workshop.tray.units)}
    roles = {wearer.role for wearer in workshop.tray.wearers}
    items = [
        *((f"part · {own.name}", own) for own in whole.parts if own.id not in known),
        *((f"unit · {own.name}, with its parts", own) for own in whole.units
          if own.id not in known),
        *((f"wearer · {own.role}", own) for own in whole.wearers if own.role not in roles),
    ]  # fmt: skip
    if not items:
        shell.desk.say(f"The tray has all parts, units and wearers of {disk.shown(path)} already.")
        return
    words = (f"{disk.shown(path)} is an exported workshop. These of its parts, units and wearers "
             "are not in your tray. Its stock and builds stay there.")  # fmt: skip
    theirs: dict[str, Thing] = {own.id: own for own in (*whole.parts, *whole.units)
                                if own.id not in known}  # fmt: skip
    Theirs(shell, words, items, partial(_keep, shell, theirs)).open()


def _keep(shell: Shell, theirs: Mapping[str, Thing], chosen: list[Record]) -> None:
    """Keep what was chosen, and what units among it are made of."""
    kept: dict[str, Record] = {}

    def add(own: Record) -> None:
        for ref in sorted(things_named(own) & theirs.keys() - kept.keys()):
            add(theirs[ref])
        kept[own.role if isinstance(own, Wearer) else own.id] = own

    for own in chosen:
        add(own)
    words = f"Kept in the tray: {len(kept)} from others."
    shell.session.keep_offered([*kept.values()], words=words)


OTHERS = {"set": _set, "workshop": _workshop, "list": _list}
