"""Every write is cut off at every one of its steps: what is on the disk is as before, or as it
should be then, and nothing in between.
"""

import os
import shutil
from contextlib import closing
from itertools import count

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QObject

from maglia.app.session import builds as session_builds
from maglia.app.session import day as session_day
from maglia.app.session import workshop as session_workshop
from maglia.app.session.builds import Builds
from maglia.app.session.workshop import Workshop
from maglia.app.settings import Settings
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import Spot
from maglia.core.joining.ways import USUAL
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import Deed
from maglia.demo import demo_path, demo_tray
from maglia.files import disk
from maglia.files.kept import Kept, KeptFile
from maglia.files.piece_json import piece_text, read_piece, write_piece
from maglia.files.workshop import backups, builds, contents, going_back, log, stock
from maglia.files.workshop.bundle import gathered, read_bundle, take_in, write_bundle
from maglia.files.workshop.store import open_workshop
from stopped import stopped_before

AT = "2026-01-01T10:00:00"
PIECE = replace(read_piece(demo_path("ushers-y")), id="p")
OTHER = replace(PIECE, name="Another")
PNG = b"\x89PNG\r\n\x1a\n" + b"0" * 50


def at_every_step(tmp_path, begun, work, look):
    """How many steps it has. `begun` is the folder before; `look` gives what is there after each,
    in a folder of its own."""
    found = [look(shutil.copytree(begun, tmp_path / "0"))]
    for step in count(1):
        folder = shutil.copytree(begun, tmp_path / str(step))
        done = stopped_before(step, lambda folder=folder: work(folder))
        found.append(look(folder))
        shutil.rmtree(folder)
        if done:
            break
    assert found[0] != found[-1], "nothing was done"
    for step, one in enumerate(found):
        assert one in (found[0], found[-1]), f"neither as before nor as after, at step {step}"
    return len(found) - 2


# --- files ----------------------------------------------------------------------------------------


def several_names(folder):
    os.link(folder / "a.json", folder / "b.json")


def through_a_link(folder):
    (folder / "a.json").rename(folder / "real.json")
    (folder / "a.json").symlink_to("real.json")


WRITES = {
    "a new piece": (lambda f: (f / "a.json").unlink(), lambda f: write_piece(OTHER, f / "a.json")),
    "a piece": (None, lambda f: write_piece(OTHER, f / "a.json")),
    "a piece through a link": (through_a_link, lambda f: write_piece(OTHER, f / "a.json")),
    "settings": (lambda f: Settings(f / "a.json").__setitem__("theme", "slate"),
                 lambda f: Settings(f / "a.json").__setitem__("theme", "felt")),
    "a bundle": (None, lambda f: write_bundle(f / "a.json", gathered(OTHER, None))),
    "a list": (None, lambda f: disk.write_table(f / "a.json", [["=1", 2]] * 50)),
    "a picture": (None, lambda f: disk.write_bytes(f / "a.json", PNG)),
    "kept work": (None, lambda f: KeptFile(f / "a.json").write(Kept(OTHER, None, None, 5.0))),
}  # fmt: skip


@pytest.mark.parametrize("name", WRITES)
def test_a_file_is_the_old_or_the_new_one_at_every_step(tmp_path, name):
    prepare, work = WRITES[name]
    begun = tmp_path / "begun"
    begun.mkdir()
    write_piece(PIECE, begun / "a.json")
    if prepare:
        prepare(begun)

    def look(folder):
        path = folder / "a.json"
        found = path.read_bytes() if path.exists() else None
        disk.sweep(folder)
        names = {own.name for own in folder.iterdir()} - {"a.lock"}
        assert names <= {"a.json", "real.json"}  # nothing is left over
        return found

    assert at_every_step(tmp_path, begun, work, look) >= 6


def test_a_file_of_several_names_stays_one_and_a_whole_copy_lies_beside_it(tmp_path):
    begun = tmp_path / "begun"
    begun.mkdir()
    write_piece(PIECE, begun / "a.json")
    whole = {(begun / "a.json").read_bytes(), piece_text(OTHER).encode()}

    for step in count(1):
        folder = shutil.copytree(begun, tmp_path / str(step))
        several_names(folder)
        done = stopped_before(step, lambda folder=folder: write_piece(OTHER, folder / "a.json"))
        disk.sweep(folder)
        assert (folder / "a.json").stat().st_nlink == 2
        texts = [own.read_bytes() for own in folder.iterdir()]
        assert set(texts) & whole, step
        if (folder / "a.json").read_bytes() not in whole:
            with pytest.raises(DomainError, match=r"a\.whole\.json"):
                read_piece(folder / "a.json")
            write_piece(read_piece(folder / "a.whole.json"), folder / "a.json")
        if done:
            assert not (folder / "a.whole.json").exists()
            break
    assert step > 8


# --- the workshop ---------------------------------------------------------------------------------


class Maker:
    """A workshop and a build of it, worked without a window."""

    def __init__(self, folder):
        self.owner = QObject()
        self.workshop = Workshop(demo_tray(), self.owner)
        self.workshop.open(open_workshop(folder / "w.sqlite"))
        self.builds = Builds(self.workshop, self.owner)
        self.store, self.part = self.workshop.store, self.workshop.tray.parts[0]

    def going(self):
        self.builds.open(1)
        return self.builds


def begin(maker):
    maker.builds.begin(PIECE)


def changed(maker):
    own = maker.going()
    own.change(set_count(own.build.piece, Spot("Tail", (0,)), 7).piece, "7 links")


def brought(folder):
    with closing(open_workshop(folder / "w.sqlite")) as store:
        take_in(store, read_bundle(folder / "b.maglia-bundle"))


def back(folder):
    going_back.put_back(folder / "w.sqlite", backups.backups_of(folder / "w.sqlite")[-1])


def by(act):
    return lambda folder: act(Maker(folder))


CHANGES = {
    "a part kept": (None, by(lambda m: m.workshop.keep(replace(m.part, name="Another")))),
    "bought": (None, by(lambda m: m.workshop.do(m.part, Deed("bought", 20)))),
    "a build begun": (None, by(begin)),
    "a cut": (begin, by(lambda m: m.going().do())),
    "a cut taken back": (lambda m: (begin(m), m.going().do()), by(lambda m: m.going().back())),
    "spoilt": (begin, by(lambda m: m.going().spoilt("ring-4"))),
    "changed on the mat": (lambda m: (begin(m), m.going().do()), by(changed)),
    "given up": (lambda m: (begin(m), m.going().do()),
                 by(lambda m: m.going().finish(given_up=True))),
    "finished": (lambda m: (begin(m), m.going().do()), by(lambda m: m.going().finish())),
    "brought by a bundle": (None, brought),
    "gone back to a backup": (lambda m: m.workshop.keep(replace(m.part, name="Later")), back),
}  # fmt: skip


@pytest.fixture(scope="module")
def workshops(tmp_path_factory):
    folder = tmp_path_factory.mktemp("w")
    with closing(open_workshop(folder / "w.sqlite")) as store:
        contents.change(store, [contents.added(own) for own in (*PIECE.parts, *PIECE.units)])
        for part in PIECE.parts:
            stock.do(store, part, Deed("bought", 200), AT)
    open_workshop(folder / "w.sqlite").close()  # which backs it up
    with closing(open_workshop(folder / "others.sqlite")) as others:
        number = builds.begin(others, PIECE, USUAL, AT)
        (folder / "p.png").write_bytes(PNG)
        log.photographed(others, number, str(folder / "p.png"))
        write_bundle(folder / "b.maglia-bundle", gathered(PIECE, others))
    return folder


def as_it_stands(folder):
    """All that a workshop holds; it is sound, each mark with its cut."""
    with closing(open_workshop(folder / "w.sqlite")) as store:
        assert [*stock.faults(store), *contents.faults(store), *log.faults(store)] == []
        for copy in backups.backups_of(store.path):
            open_workshop(copy, to_read=True).close()
        for (photograph,) in store.database.execute("SELECT file FROM photo").fetchall():
            assert disk.read_file(folder / "photographs" / os.path.basename(photograph)) == PNG
        return contents.exported(store).replace(str(folder), "FOLDER")


@pytest.fixture
def _at_rest(monkeypatch, qapp):
    """The same time whenever it is asked."""
    for module in (session_workshop, session_builds, session_day):
        monkeypatch.setattr(module, "now", lambda: AT)


@pytest.mark.usefixtures("_at_rest")
@pytest.mark.parametrize("name", CHANGES)
def test_a_workshop_is_as_before_or_as_it_should_be_at_every_step(tmp_path, workshops, name):
    prepare, work = CHANGES[name]
    begun = tmp_path / "begun"
    shutil.copytree(workshops, begun)
    if prepare:
        maker = Maker(begun)
        prepare(maker)
        maker.workshop.close()
    assert at_every_step(tmp_path, begun, work, as_it_stands) >= 5
