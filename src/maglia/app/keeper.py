"""Never loses work: within seconds of an edit the piece is on disk, apart from its own file.

The kept copy goes when the piece is saved or left on purpose. What is there at the next start was
cut off, and is offered again.
"""

import json
import time
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from maglia.app.session.session import Session
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError, Value
from maglia.files.piece_json import piece_from, piece_text, write_atomically

KEEP_AFTER_MS = 1200


class Kept(Value, frozen=True):
    """Work found at the start: the piece, its own file if it has one, when it was kept."""

    piece: Piece
    path: Path | None
    when: float

    @property
    def clock(self) -> str:
        return time.strftime("%H:%M on %d %B", time.localtime(self.when))


class Keeper(QObject):
    """Writes the session's piece to `path` a moment after every edit."""

    def __init__(self, session: Session, path: Path) -> None:
        super().__init__(session)
        self.session, self.path = session, path
        self.waits = False
        """While work of an earlier time waits for an answer, it is neither lost nor overwritten."""
        self._timer = QTimer(self, singleShot=True, interval=KEEP_AFTER_MS)
        self._timer.timeout.connect(self.keep)
        session.changed.connect(self.on_changed)

    def on_changed(self) -> None:
        if self.waits:
            return
        if self.session.edited:
            self._timer.start()
        else:
            self._timer.stop()
            self.forget()

    def keep(self) -> None:
        """Write now. A full disk is said, not hidden."""
        own = str(self.session.path) if self.session.path else ""
        head = {"path": own, "when": time.time()}
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            data = {**head, "piece": piece_text(self.session.piece)}
            write_atomically(self.path, json.dumps(data, ensure_ascii=False))
        except (OSError, DomainError) as fault:
            self.session.said.emit(f"The work could not be kept on disk: {fault}.")

    def leave(self) -> None:
        """The window closes on purpose: nothing is kept any more."""
        self._timer.stop()
        self.waits = False
        self.forget()

    def forget(self) -> None:
        if self.waits:
            return
        self.path.unlink(missing_ok=True)


def kept_work(path: Path) -> Kept | None:
    """What was kept and not left on purpose; None if there is nothing sound."""
    try:
        found = json.loads(path.read_text(encoding="utf-8"))
        own = Path(found["path"]) if found["path"] else None
        return Kept(piece_from(found["piece"]), own, float(found["when"]))
    except (OSError, ValueError, KeyError, TypeError):
        return None
