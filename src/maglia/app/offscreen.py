"""Drawing without a window: for commands that write a sheet."""

import contextlib
import os
from collections.abc import Iterator


@contextlib.contextmanager
def offscreen() -> Iterator[None]:
    """Qt draws without a screen, with the program's own typeface."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PySide6.QtGui import QGuiApplication

    from maglia.app.theme import load_fonts

    app = QGuiApplication.instance() or QGuiApplication([])
    load_fonts()
    yield
    del app
