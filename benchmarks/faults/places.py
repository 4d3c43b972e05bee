"""A real window where things cannot be written, as an ordinary user: a full disk, a read-only
folder, a folder that vanishes, an unwritable home, a clock that goes backwards. In each the maker
edits and saves: the save says why it cannot, the old file stays whole, the work is kept.

Needs `unshare` (util-linux): in a namespace of its own even root is an ordinary user there.

Run: PYTHONPATH=src:tests python benchmarks/faults/places.py
"""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

ROOM = "mount -t tmpfs -o size=4m tmpfs {home} && exec "
ORDINARY = "unshare -U --map-user=1000 --map-group=1000 "
PLACES: dict[str, Callable[[Path], object]] = {}


def place(make: Callable[[Path], object]) -> Callable[[Path], object]:
    PLACES[make.__name__.replace("_", " ")] = make
    return make


@place
def a_full_disk(home: Path) -> None:
    """Not a byte is left, neither beside the piece nor in the state folder."""
    with suppress(OSError), (home / "filler").open("wb", buffering=0) as filler:
        while True:
            filler.write(b"\0" * 4096)


@place
def a_read_only_folder(home: Path) -> None:
    (home / "pieces").chmod(0o555)


@place
def a_folder_that_vanishes(home: Path) -> None:
    shutil.rmtree(home / "pieces")


@place
def an_unwritable_home(home: Path) -> None:
    (home / "pieces").chmod(0o555)
    home.chmod(0o555)


@place
def a_clock_that_goes_backwards(home: Path) -> None:
    before = time.time
    time.time = lambda: before() - 86_400  # type: ignore[assignment]


def child(name: str, home: Path) -> int:
    """One place, in a process of its own. Returns how many faults there were."""
    from PySide6.QtWidgets import QApplication

    from maglia.app.keeper import Keeper
    from maglia.app.session.session import Session
    from maglia.app.settings import Settings, kept_folders, settings_path
    from maglia.core.edits.edit import set_count
    from maglia.core.edits.spots import Spot
    from maglia.demo import demo_path, demo_tray
    from maglia.files.kept import cut_off
    from windows import shell

    app = QApplication([])
    (home / "pieces").mkdir()
    own = home / "pieces" / "mine.json"
    old = demo_path("ushers-y").read_bytes()
    own.write_bytes(old)
    session = Session(demo_tray())
    session.open(own)
    window = shell(session, Keeper(session, kept_folders()))
    window.desk.settings = Settings(settings_path())
    window.show()
    said: list[str] = []
    session.said.connect(said.append)
    PLACES[name](home)
    session.apply(set_count(session.piece, Spot("Tail", (0,)), 17))
    end = time.monotonic() + 3
    while time.monotonic() < end:
        app.processEvents()
        time.sleep(0.01)
    kept = [list(folder.glob("*.json")) for folder in kept_folders()]
    window.do(next(a for a, _ in window._all_actions() if a.id == "save"), window.desk)
    saved = own.exists() and own.read_bytes() != old
    whole = not own.exists() or own.read_bytes() == old
    faults = [] if any(kept) or saved else ["the work is kept nowhere"]
    faults += [] if saved or whole else ["the file is broken"]
    faults += [] if saved or session.edited else ["it says saved, and is not"]
    if window.desk.keeper.file:
        window.desk.keeper.file.release()
    if not saved and len(cut_off(kept_folders())[0]) != 1:
        faults.append("the kept work is not offered")
    session.finish()
    print(f"{name}: {'saved' if saved else 'not saved'}; faults: {faults or 'none'}")
    print("\n".join(f"    said: {words}" for words in said), flush=True)
    return len(faults)


def main() -> int:
    faults = 0
    for name in PLACES:
        with tempfile.TemporaryDirectory() as folder:
            home, others = Path(folder) / "home", Path(folder) / "tmp"
            home.mkdir()
            others.mkdir()
            environment = {
                **os.environ, "HOME": str(home), "TMPDIR": str(others),
                "QT_QPA_PLATFORM": "offscreen",
                **{f"XDG_{kind}_HOME": str(home / kind) for kind in ("STATE", "CONFIG", "DATA")},
            }  # fmt: skip
            inner = f"{sys.executable} {__file__} '{name}' {home}"
            line = ROOM.format(home=home) + ORDINARY + inner
            done = subprocess.run(
                ["unshare", "-Urm", "sh", "-c", line], env=environment, check=False
            )
            faults += done.returncode
    return faults


if __name__ == "__main__":
    sys.exit(child(sys.argv[1], Path(sys.argv[2])) if sys.argv[1:] else min(main(), 1))
