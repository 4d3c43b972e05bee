"""What the desktop needs to know a program: put into the user's own folders, and taken out again.

Places as the desktop's base-directory, icon-theme, menu, shared-MIME and thumbnail conventions
have them. Nothing is written outside of `data`.
"""

import os
import shlex
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from maglia.core.values.record import DomainError
from maglia.files import disk

ID = "org.example.Maglia"
"""In a domain that is kept free for examples; it changes with a domain of our own."""
SOURCES = Path(__file__).parent / "data"
PNG_SIZES = (16, 22, 24, 32, 48, 64, 128, 256, 512)
ICONS = {"maglia": "apps", "maglia-piece": "mimetypes"}
REFRESH = (
    ("update-mime-database", "mime"),
    ("update-desktop-database", "applications"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)
"""Indexes that some desktops keep, and the folder of each."""


class Placed(NamedTuple):
    """One file and where it belongs, from the folder for a user's data on."""

    place: str
    content: bytes


def data_folder() -> Path:
    """The user's folder for data of programs."""
    given = os.environ.get("XDG_DATA_HOME", "")
    return Path(given) if os.path.isabs(given) else Path.home() / ".local" / "share"


def own_command() -> tuple[str, ...]:
    """How this program is started, by absolute paths: the desktop knows no environment."""
    if launcher := os.environ.get("MAGLIA_LAUNCHER"):
        return (launcher,)
    script = Path(sys.executable).parent / "maglia"
    if script.is_file():
        return (str(script),)
    return (sys.executable, "-m", "maglia")


def placed(command: tuple[str, ...], texts: dict[str, str]) -> Iterator[Placed]:
    """Every file: entry, type, small pictures, description and icons, and `texts` by their place
    (man page, words for shells)."""
    entry, kind, small = f"{ID}.desktop", "maglia.xml", "maglia.thumbnailer"
    yield Placed(f"applications/{entry}", _filled(entry, command))
    yield Placed(f"thumbnailers/{small}", _filled(small, command))
    yield Placed(f"mime/packages/{kind}", (SOURCES / kind).read_bytes())
    about = f"{ID}.metainfo.xml"
    yield Placed(f"metainfo/{about}", (SOURCES / about).read_bytes())
    for name, group in ICONS.items():
        drawing = (SOURCES / f"{name}.svg").read_bytes()
        yield Placed(f"icons/hicolor/scalable/{group}/{name}.svg", drawing)
        for size in PNG_SIZES:
            yield Placed(f"icons/hicolor/{size}x{size}/{group}/{name}.png", _png(drawing, size))
    for place, text in texts.items():
        yield Placed(place, text.encode())


def install(data: Path, files: Iterator[Placed]) -> list[Path]:
    """Put every file in its place; what is there already is renewed. Raises DomainError where the
    folder cannot be written."""
    done = []
    for file in files:
        path = data / file.place
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as fault:
            raise DomainError(f"{path.parent} cannot be made ({fault.strerror})") from None
        disk.write_bytes(path, file.content)
        done.append(path)
    _refresh(data)
    return done


def remove(data: Path, files: Iterator[Placed]) -> list[Path]:
    """Take out what `install` puts in, and folders that are empty then."""
    done = []
    for file in files:
        path = data / file.place
        if not path.is_file():
            continue
        try:
            path.unlink()
        except OSError as fault:
            raise DomainError(f"{path} cannot be removed ({fault.strerror})") from None
        done.append(path)
    _refresh(data)  # while its folders are there
    for path in done:
        for folder in path.parents:
            if folder == data or not folder.is_dir() or any(folder.iterdir()):
                break
            folder.rmdir()
    return done


def _filled(name: str, command: tuple[str, ...]) -> bytes:
    words = " ".join(_quoted(word) for word in command)
    text = (SOURCES / name).read_text().replace("@COMMAND@", words)
    return text.replace("@PROGRAM@", command[0]).encode()


def _quoted(word: str) -> str:
    """As the key Exec of an entry wants it: reserved characters within double quotes, and a
    percent sign doubled."""
    word = word.replace("%", "%%")
    if shlex.quote(word) == word:
        return word
    for sign in ("\\", '"', "`", "$"):
        word = word.replace(sign, f"\\{sign}")
    return f'"{word}"'.replace("\\", "\\\\")


def _png(drawing: bytes, size: int) -> bytes:
    from PySide6.QtCore import QBuffer, QByteArray, QRectF, Qt
    from PySide6.QtGui import QImage, QPainter
    from PySide6.QtSvg import QSvgRenderer

    picture = QImage(size, size, QImage.Format.Format_ARGB32_Premultiplied)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    QSvgRenderer(QByteArray(drawing)).render(painter, QRectF(0, 0, size, size))
    painter.end()
    buffer = QBuffer()
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    picture.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(buffer.data().data())


def _refresh(data: Path) -> None:
    """Renew indexes, where the desktop has the programs for it; without them it looks itself."""
    for program, folder in REFRESH:
        if shutil.which(program) and (data / folder).is_dir():
            subprocess.run([program, str(data / folder)], capture_output=True, check=False)
