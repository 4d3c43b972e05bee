"""The log as the window has it: builds that are found, what they say, corrections taken over."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from maglia.app.session.workshop import Workshop, now
from maglia.core.values.record import DomainError
from maglia.files.images import kept_photo, photographs_of

if TYPE_CHECKING:
    from maglia.core.log.concerns import Concern
    from maglia.core.log.records import Entry, Measure
    from maglia.core.log.text import Kept, Year
    from maglia.core.log.used import Used
    from maglia.core.piece.piece import Piece
    from maglia.files.workshop.builds import Note
    from maglia.files.workshop.store import Workshop as Store


class Photograph(NamedTuple):
    """One to be kept of a build: its file, the folder it is copied into (None: it stays where it
    lies), and why it is none."""

    build: int
    file: Path
    folder: Path | None
    refused: str = ""


Photographs = tuple[Photograph, ...]


def brought(waiting: deque[Photograph]) -> Photographs:
    """Look at photographs and copy them: work of its own, as they may be large and far away."""
    from maglia.files.images import read_image

    found = []
    while waiting:
        one = waiting.popleft()
        try:
            data = read_image(one.file)
            if one.folder is not None:
                one = one._replace(
                    file=kept_photo(one.folder, f"{one.build}-{one.file.name}", data)
                )
        except DomainError as fault:
            one = one._replace(refused=f"Not kept: {fault}")
        found.append(one)
    return tuple(found)


class LogBook(QObject):
    """Signals: `changed()` builds are others, or say otherwise · `narrowed()` others are shown ·
    `said(str)`."""

    changed = Signal()
    narrowed = Signal()
    said = Signal(str)

    def __init__(self, workshop: Workshop, parent: QObject) -> None:
        super().__init__(parent)
        self.workshop = workshop
        self.entries: tuple[Entry, ...] = ()
        self.shown: tuple[Entry, ...] = ()
        self.concerns: tuple[Concern, ...] = ()
        self.years: tuple[Year, ...] = ()
        self.text = ""
        self._hay: dict[int, str] = {}

    def read(self) -> None:
        """Take in what the workshop holds."""
        from maglia.core.log.text import haystack, years
        from maglia.files.workshop import log
        from maglia.files.workshop.log_reading import what_it_says

        store = self.workshop.store
        if store is None:
            self.entries = self.concerns = self.years = ()
            self.changed.emit()
            self.narrow(self.text)
            return
        self.entries, said = log.entries(store), log.said(store)
        self._hay = {one.id: haystack(one, said.get(one.id, "")) for one in self.entries}
        self.concerns, self.years = what_it_says(store), years(self.entries)
        self.changed.emit()
        self.narrow(self.text)

    def narrow(self, text: str) -> None:
        """Only builds that hold every word."""
        from maglia.core.log.text import found

        self.text = text
        self.shown = found(self.entries, self._hay, text)
        self.narrowed.emit()

    # --- one build ------------------------------------------------------------------------------

    def piece_of(self, entry: Entry) -> Piece:
        """The piece as it was built. Raises DomainError if it is not sound."""
        from maglia.files.workshop import builds

        return builds.read(self._store(), entry.id).piece

    def measures_of(self, entry: Entry) -> tuple[Measure, ...]:
        from maglia.files.workshop import log

        return tuple(one for _, one in log.measures(self._store(), entry.id))

    def notes_of(self, entry: Entry) -> tuple[Note, ...]:
        from maglia.files.workshop import builds

        return builds.notes(self._store(), entry.id)

    def spent_of(self, entry: Entry) -> tuple[tuple[str, float], ...]:
        """Minutes by kind of step."""
        from maglia.files.workshop import log

        return tuple((one.kind, one.minutes) for _, one in log.spent(self._store(), entry.id))

    def used_by(self, entry: Entry) -> tuple[Used, ...]:
        """What it took."""
        from maglia.files.workshop.log_reading import kept_of

        return kept_of(self._store(), entry, ()).parts

    def cut_from(self, entry: Entry) -> tuple[str, ...]:
        """The lengths of the stock that were cut for it."""
        from maglia.files.workshop import log

        return log.cut_from(self._store(), entry.id)

    def photos_of(self, entry: Entry) -> tuple[tuple[str, str], ...]:
        from maglia.files.workshop import log

        return log.photos(self._store(), entry.id)

    def photographs(self, entry: Entry, files: Sequence[Path], *, copied: bool) -> Photographs:
        """What is to be brought of photographs of a build."""
        folder = photographs_of(self._store().path) if copied else None
        return tuple(Photograph(entry.id, file, folder) for file in files)

    def photographed(self, brought: Sequence[Photograph]) -> None:
        """Keep photographs that were looked at, and say those that are none."""
        from maglia.files.workshop import log

        if not brought:
            return
        kept = [one for one in brought if not one.refused]
        for one in kept:
            log.photographed(self._store(), one.build, str(one.file))
        said = [one.refused for one in brought if one.refused]
        if kept:
            how = f"copied as {kept[0].file.name}" if kept[0].folder else "by its file"
            said.insert(0, f"Kept: a photograph, {how}" if len(kept) == 1
                        else f"Kept: {len(kept)} photographs")  # fmt: skip
        self.said.emit(". ".join(said) + ".")
        self.narrowed.emit()

    def kept(self) -> tuple[Kept, ...]:
        """Every build that is shown with all it left."""
        from maglia.files.workshop.log_reading import kept_builds

        return kept_builds(self._store(), self.text)

    def enter(self, piece: Piece, minutes: float, found: tuple[Measure, ...], note: str) -> None:
        """A build that was made without being followed."""
        from maglia.core.assembly.expand import expand
        from maglia.core.log.came_to import came_to
        from maglia.files.workshop import log

        at = now()
        metal, cost = came_to(expand(piece), self.workshop.rules)
        log.entered(self._store(), piece, at, minutes, metal_g=metal, cost=cost,
                    found=tuple(replace(one, at=at) for one in found),
                    notes=(("note", note),) if note else ())  # fmt: skip
        self.read()
        self.said.emit(f"Kept: {piece.name}, {minutes:g} minutes.")

    # --- corrections ----------------------------------------------------------------------------

    def take(self, concern: Concern) -> None:
        """Compute with what a concern says from now on. Raises DomainError if it says nothing that
        can be taken over."""
        if concern.takes is None:
            raise DomainError(f"{concern.name}: nothing to take over. {concern.words}")
        self.workshop.correct(concern.takes)
        self.said.emit(f"Taken over: {concern.takes.words}. B takes it back.")

    def take_back(self, concern: Concern) -> None:
        """Compute without it again. Raises DomainError if it was not taken over."""
        if concern.taken is None:
            raise DomainError(f"{concern.name} is not taken over")
        self.workshop.uncorrect(concern.taken.what, concern.taken.about)
        self.said.emit(f"Taken back: {concern.taken.words}.")

    def _store(self) -> Store:
        if self.workshop.store is None:
            raise DomainError("there is no workshop file, so there is no log")
        return self.workshop.store
