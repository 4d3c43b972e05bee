"""What nobody foresaw: the work is kept, a report is written beside it, it is said, and the window
goes on if it can. Nothing is sent anywhere.
"""

import sys
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

from maglia import __version__
from maglia.core.values.record import DomainError
from maglia.files.disk import write_atomically

OWN = Path(__file__).resolve().parents[1]
MOST_REPORTS = 20


class Rescue:
    """Takes every uncaught exception while it is installed."""

    def __init__(
        self, folder: Path, keep: Callable[[], object], say: Callable[[str], object]
    ) -> None:
        self.folder, self.keep, self.say = folder, keep, say
        self._busy = False

    def install(self) -> None:
        sys.excepthook = self.on_fault

    def on_fault(
        self, kind: type[BaseException], fault: BaseException, trace: TracebackType | None
    ) -> None:
        if self._busy or not issubclass(kind, Exception):
            sys.__excepthook__(kind, fault, trace)
            return
        self._busy = True
        try:
            self.keep()
            self.say(f"Something unforeseen happened. The work is kept; {self._reported(fault)}.")
        finally:
            self._busy = False

    def _reported(self, fault: BaseException) -> str:
        path = self.folder / f"fault-{time.time_ns()}.txt"
        try:
            self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
            for old in sorted(self.folder.glob("fault-*.txt"))[: -MOST_REPORTS + 1]:
                old.unlink()
            write_atomically(path, report(fault))
        except (OSError, DomainError):
            return "a report could not be written"
        return f"a report of it is in {path}"


def report(fault: BaseException) -> str:
    """What happened and where in the program: no word of the piece, no name of a file outside."""
    lines = [f"Maglia {__version__}, Python {sys.version.split()[0]}", type(fault).__name__]
    for frame in traceback.extract_tb(fault.__traceback__):
        path = Path(frame.filename)
        own = path.relative_to(OWN) if path.is_relative_to(OWN) else "outside"
        lines.append(f"{own}:{frame.lineno} in {frame.name}")
    return "\n".join(lines) + "\n"
