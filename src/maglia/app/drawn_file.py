"""What is drawn goes to disk as everything else does: whole or not at all, and what stands in the
way is said.
"""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QImage

from maglia.core.values.record import DomainError
from maglia.files import disk


def write_drawn(path: Path, draw: Callable[[QIODevice], bool]) -> None:
    """Draw into memory, then write the file. `draw` is False if it could not begin. Raises
    DomainError."""
    buffer = QBuffer()
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    if not draw(buffer) or not buffer.size():
        raise DomainError(f"{disk.shown(path)} cannot be drawn")
    disk.write_bytes(path, bytes(buffer.data().data()))


def write_image(path: Path, image: QImage) -> None:
    """A picture as PNG. Raises DomainError."""
    write_drawn(path, lambda out: image.save(out, "PNG"))  # type: ignore[call-overload]
