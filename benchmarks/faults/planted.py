"""Every promise of docs/reliability.md is paired with faults that break it. Each is put into a copy
of the program, where a test must turn red: a promise whose fault goes unseen is not tested.

Run: python benchmarks/faults/planted.py [WORD ...]   only faults whose promise holds every word
"""

import os
import resource
import shutil
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import NamedTuple

ROOT = Path(__file__).resolve().parents[2]
COPIED = ("src", "tests", "docs", "benchmarks", "pyproject.toml", "maglia", "requirements.txt",
          "requirements-test.txt", "README.md", "CHANGELOG.md")  # fmt: skip
LOST, STEPS = "tests/app/test_nothing_lost.py", "tests/app/test_every_step.py"
OTHERS, OPENED, MAKE = (
    "tests/files/test_from_others.py", "tests/app/test_opened.py", "tests/app/test_make.py",
)  # fmt: skip


MOST_ADDRESSES = 8_000_000_000


class Plant(NamedTuple):
    """A promise, the file and the words in it that keep it, what is put there instead, and the
    tests of which one must fail."""

    promise: str
    file: str
    words: str
    instead: str
    tests: tuple[str, ...]


PLANTS = (
    Plant("An edit is on disk half a second after the last one", "app/keeper.py",
          "PAUSE_MS = 500", "PAUSE_MS = 20_000", (LOST,)),
    Plant("at the latest one and a half seconds after the first", "app/keeper.py",
          "left = MOST_MS - int(1000 * (now - self._since))", "left = PAUSE_MS", (LOST,)),
    Plant("The kept copy goes when the piece is saved", "app/keeper.py",
          "        if not self.session.edited:\n            self.forget()\n            return\n",
          "", (LOST,)),
    Plant("Taking it up writes the new copy before the old one goes", "app/shell.py",
          "        if keeper is None or keeper.keep():", "        if True:", (LOST,)),
    Plant("Work of a window that lives is not offered", "files/kept.py",
          "if not file.hold():\n                continue", "file.hold()", (LOST,)),
    Plant("Every key of Make is in the workshop's file before the next picture",
          "app/session/builds.py",
          "            builds.mark(store, build.id, marks, now(), spent)\n", "", (STEPS, MAKE)),
    Plant("What was cut for it is taken back with it", "app/session/builds.py",
          "                said = said or told\n            builds.mark(",
          "                said = said or told\n        with self._changing(build) as store:\n"
          "            builds.mark(", (STEPS,)),
    Plant("writes a new file beside the old one", "files/disk.py",
          "            os.replace(name, target)\n",
          "            _pour(data, target) if before else os.replace(name, target)\n", (STEPS,)),
    Plant("puts it in its place when it is on disk", "files/disk.py",
          "            os.fsync(handle)\n        if before is not None and",
          "        if before is not None and", (STEPS,)),
    Plant("through symbolic links", "files/disk.py",
          "_write(Path(os.path.realpath(path)), data)", "_write(path, data)",
          ("tests/files/test_disk.py",)),
    Plant("a whole copy beside it meanwhile", "files/disk.py",
          "            os.replace(name, whole_of(target))\n",
          "            os.unlink(name)\n            whole_of(target).touch()\n", (STEPS,)),
    Plant("What is read-only stays as it is", "files/disk.py",
          "if before is not None and not (before.st_mode & 0o222 and os.access(target, os.W_OK)):",
          "if False:", ("tests/files/test_disk.py",)),
    Plant("What a killed writer left is swept away", "files/disk.py",
          "    sweep(target.parent)\n", "", ("tests/files/test_disk.py", STEPS)),
    Plant("you are asked, and both are kept", "app/session/session.py",
          "return disk.print_of(path) not in (None, self.print)", "return False", (LOST,)),
    Plant("Only plain files of up to 20 MB are read", "files/disk.py",
          "if not stat.S_ISREG(about.st_mode):", "if False:", ("tests/files/test_disk.py",)),
    Plant("renamed NAME.unreadable, said once, and never stop the start", "files/kept.py",
          "aside = disk.set_aside(file.path)", "aside = None", (LOST,)),
    Plant("a name that a spreadsheet would take for a formula", "files/disk.py",
          'text[:1] in ("=", "+", "-", "@")', 'text[:1] in ("=", "+", "-")',
          ("tests/files/test_faults.py",)),
    Plant("taken in whole or not at all", "files/workshop/bundle.py",
          "                builds.refuse_unsound(own)\n", "                pass\n", (OTHERS,)),
    Plant("a photograph is a picture by its first bytes", "files/workshop/bundle.py",
          "or not is_image(data)", "", (OTHERS,)),
    Plant("what is in them is shown before it is taken over", "app/piece_commands.py",
          "Theirs(desk.window, words, items, partial(_take_builds, desk, bundle)).open()",
          "_take_builds(desk, bundle, list(bundle.builds))", (OPENED,)),
    Plant("nothing is estimated from them", "files/workshop/bundle.py",
          "theirs=True", "theirs=False", (OTHERS,)),
    Plant("Names are plain text wherever they stand", "app/plain_text.py",
          "self.setTextFormat(Qt.TextFormat.PlainText)", "pass",
          ("tests/app/test_names_are_text.py",)),
    Plant("what was pressed follows as soon as that is through", "app/session/workshop.py",
          "            self._again.start()\n", "", (MAKE,)),
    Plant("nothing is shown as kept before it is", "app/session/workshop.py",
          "        except Held:\n            raise\n        except DomainError as fault:\n"
          "            return fault\n        return None",
          "        except DomainError as fault:\n            return fault\n        return None",
          (MAKE,)),
    Plant("nothing is done twice", "app/session/builds.py",
          "if not builds.is_as(store, build, self.done):", "if False:", (OTHERS,)),
    Plant("A cell that is not what its column is is set aside", "files/workshop/soundness.py",
          'database.execute("INSERT INTO set_aside VALUES(?, ?, ?, ?, ?)", row)', "pass",
          (OTHERS,)),
    Plant("Only damage is mended so", "files/workshop/store.py",
          'return Held(f"another', 'return Damaged(f"another', (OTHERS,)),
    Plant("A workshop that is gone is not begun anew unawares", "files/workshop/store.py",
          "if backups_of(path) and not anew:", "if False:", (OPENED,)),
    Plant("looked at, and only then called one", "files/workshop/backups.py",
          "        unfinished.replace(copy)\n", "        pass\n", (STEPS, OTHERS)),
    Plant("the newest of seven days, four weeks and twelve months are kept",
          "files/workshop/backups.py", "(7, KEPT_MONTHS)", "(7, 2)", (OTHERS,)),
    Plant("as one change that other windows see", "files/workshop/going_back.py",
          "        source.backup(now.database)\n",
          "        now.close()\n        now.path.unlink()\n"
          "        now.path.write_bytes(source.serialize())\n", (STEPS, OPENED)),
    Plant("what was there is NAME.before-going-back", "files/workshop/going_back.py",
          "        write_copy(now.database, aside)\n", "", (OPENED,)),
    Plant("0600 in a folder of 0700", "files/workshop/store.py",
          "path.chmod(0o600)", "pass", (OTHERS,)),
    Plant("what is not saved is kept at once", "app/shell.py",
          "            self.desk.keeper.keep()\n        self._close_down()",
          "            pass\n        self._close_down()", (LOST,)),
    Plant("keeps the work, writes a report beside the kept work", "app/rescue.py",
          "            self.keep()\n", "", (LOST,)),
    Plant("no name of a file outside the program", "app/rescue.py",
          'path.relative_to(OWN) if path.is_relative_to(OWN) else "outside"', "path", (LOST,)),
)  # fmt: skip
"""In the order of the page."""


def spoilt(plant: Plant, root: Path) -> None:
    """Put it into the program that lies there. Raises ValueError if its words are not in it."""
    file = root / "src" / "maglia" / plant.file
    text = file.read_text()
    if text.count(plant.words) != 1:
        raise ValueError(f"{plant.file} holds {text.count(plant.words)} × {plant.words!r}")
    file.write_text(text.replace(plant.words, plant.instead))


def copied(folder: Path) -> Path:
    root = folder / "copy"
    root.mkdir()
    for name in COPIED:
        whole = ROOT / name
        if whole.is_dir():
            shutil.copytree(whole, root / name, ignore=shutil.ignore_patterns("__pycache__"))
        else:
            shutil.copy(whole, root / name)
    return root


def _bounded() -> None:
    """Some faults take all memory there is."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_ADDRESSES, MOST_ADDRESSES))


def red(tests: tuple[str, ...], root: Path) -> str:
    """The first test that fails there; empty if none does. Raises RuntimeError if they could not
    be run."""
    command = [sys.executable, "-m", "pytest", "-x", "-q", "--tb=no", "-n", "0", *tests]
    where = {**os.environ, "PYTHONPATH": "src", "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        command, cwd=root, env=where, capture_output=True, text=True, preexec_fn=_bounded
    )
    if done.returncode > 1:
        raise RuntimeError(done.stdout[-2000:] + done.stderr[-2000:])
    lines = [line for line in done.stdout.splitlines() if line.startswith(("FAILED", "ERROR"))]
    return (lines[0] if lines else "red") if done.returncode else ""


def main(*words: str) -> int:
    chosen = [one for one in PLANTS if all(word in one.promise for word in words)]
    unseen = 0
    with TemporaryDirectory() as folder:
        tests = tuple(dict.fromkeys(test for one in chosen for test in one.tests))
        if said := red(tests, copied(Path(folder))):
            print(f"without any fault: {said}")
            return 1
    for plant in chosen:
        with TemporaryDirectory() as folder:
            root = copied(Path(folder))
            spoilt(plant, root)
            said = red(plant.tests, root)
        unseen += not said
        print(f"{'seen  ' if said else 'UNSEEN'}  {plant.promise}  {said[:100]}", flush=True)
    print(f"{len(chosen)} faults planted, {unseen} unseen")
    return unseen or not chosen


if __name__ == "__main__":
    sys.exit(min(main(*sys.argv[1:]), 1))
