"""Never loses work: soon after an edit the piece is on disk, apart from its own file.

The kept copy goes when the piece is saved or left on purpose. What is found at the start was cut
off, and is offered until it is answered.
"""

import time
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from maglia.app.session.session import Session
from maglia.core.values.record import DomainError
from maglia.files.kept import Kept, KeptFile, cut_off

PAUSE_MS = 500
"""After the last edit; while edits go on, at the latest `MOST_MS` after the first of them."""
MOST_MS = 1500


class Keeper(QObject):
    """Writes the session's piece into a file of its own, in the first folder that takes it."""

    def __init__(self, session: Session, folders: Sequence[Path]) -> None:
        super().__init__(session)
        self.session, self.folders = session, tuple(folders)
        self.file: KeptFile | None = None
        self._since = 0.0
        self._timer = QTimer(self, singleShot=True)
        self._timer.timeout.connect(self.keep)
        session.changed.connect(self.on_changed)

    def found(self) -> tuple[list[tuple[KeptFile, Kept]], list[str]]:
        """Work that was cut off, newest first, and what of it could not be read."""
        return cut_off(self.folders)

    def on_changed(self) -> None:
        if not self.session.edited:
            self.forget()
            return
        now = time.monotonic()
        if not self._timer.isActive():
            self._since = now
        left = MOST_MS - int(1000 * (now - self._since))
        self._timer.start(max(min(PAUSE_MS, left), 0))

    def keep(self) -> bool:
        """Write now. True if the work is on disk; if not, it is said why."""
        self._timer.stop()
        session, fault = self.session, ""
        kept = Kept(session.piece, session.path, session.print, time.time())
        for folder in self.folders:
            file = self.file
            if file is None or file.path.parent != folder:
                file = KeptFile.within(folder)
            try:
                file.write(kept)
            except DomainError as refused:
                fault = fault or str(refused)
                if file is not self.file:
                    file.forget()
                continue
            if self.file is not None and self.file is not file:
                self.file.forget()
            self.file = file
            if fault:
                self.session.said.emit(f"The work is kept in {folder}, since {fault}.")
            return True
        self.session.said.emit(f"The work could not be kept on disk: {fault}. Save it elsewhere.")
        return False

    def forget(self) -> None:
        """It is saved, or the window closes on purpose: nothing is kept any more."""
        self._timer.stop()
        if self.file is not None:
            self.file.forget()
            self.file = None
