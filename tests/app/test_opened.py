"""Pieces that come from outside: dropped, by name, recent ones, bundles and their builds."""

import shutil
import zipfile
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent

from maglia.app import piece_commands
from maglia.app.rooms.log.log import LogRoom
from maglia.core.joining.marked import Mark
from maglia.core.joining.ways import USUAL
from maglia.core.values.record import DomainError
from maglia.demo import demo_path
from maglia.files.kinds import kind_of
from maglia.files.piece_json import read_piece, write_piece
from maglia.files.set_json import Entry, Set, write_set
from maglia.files.workshop import builds, log
from maglia.files.workshop.bundle import gathered, read_bundle, take_in, write_bundle
from maglia.files.workshop.contents import exported
from maglia.files.workshop.store import open_workshop
from windows import Hands

LIST = "name;kind;inner;wire\nTiny ring;ring;2.5;0.5\nLarge ring;ring;9;1.2\n"


@pytest.fixture
def hands(qtbot, tmp_path):
    return Hands(qtbot, tmp_path / "w.sqlite", "ushers-y", demo=False)


def drop(hands, *paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    event = QDropEvent(
        QPointF(300, 300), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )  # fmt: skip
    hands.window.dropEvent(event)
    hands.qtbot.wait(1)


def piece_file(folder, name="mine.maglia", demo="gallery-tiers"):
    path = folder / name
    shutil.copyfile(demo_path(demo), path)
    return path


def test_a_piece_is_dropped_and_the_next_start_begins_with_it(hands, tmp_path):
    path = piece_file(tmp_path)
    drop(hands, path)
    assert hands.session.path == path
    settings = hands.window.desk.settings
    assert (settings["last_piece"], settings["recent"]) == (str(path), [str(path)])


def test_every_further_piece_has_a_window_of_its_own(hands, tmp_path, monkeypatch):
    begun = []
    monkeypatch.setattr(
        piece_commands.QProcess, "startDetached", lambda *line: begun.append(line) or (True, 1)
    )
    one, two = piece_file(tmp_path), piece_file(tmp_path, "two.json")
    drop(hands, one, two)
    assert hands.session.path == one
    assert [line[1][-2:] for line in begun] == [["open", str(two)]]


def test_a_suppliers_list_is_dropped(hands, tmp_path):
    path = tmp_path / "list.csv"
    path.write_text(LIST)
    drop(hands, path)
    panel = hands.window.room.importing
    assert panel.isVisible()
    hands.qtbot.waitUntil(lambda: panel.take_key.isEnabled())
    panel.take_key.click()
    hands.qtbot.waitUntil(lambda: any(p.name == "Tiny ring" for p in hands.session.tray.parts))


def test_a_set_is_dropped_and_is_what_is_to_be_made(hands, tmp_path):
    path = tmp_path / "day.json"
    own, plain = replace(read_piece(demo_path()), id="own"), read_piece(demo_path("ushers-y"))
    write_set(Set("Saturday", tuple(map(Entry, (own, own, plain, plain), (3, 1, 1, 2)))), path)
    drop(hands, path)
    entries = hands.session.day.entries
    assert [entry.copies for entry in entries] == [3, 1, 1, 2]
    assert len({entry.piece.id for entry in entries} - {""}) == 4  # copies of one file, told apart
    assert [hands.window.room.make.rows.words(one)[0] for one in entries] == list("ABCD")
    path.write_text(path.read_text().replace("Saturday", "Satur\\nday"))
    drop(hands, path)
    assert "cannot be seen" in hands.said[-1]


def test_an_exported_workshop_fills_an_empty_one_and_is_offered_to_a_full_one(
    hands, qtbot, tmp_path
):
    other = Hands(qtbot, tmp_path / "other.sqlite", "ushers-y")
    path = tmp_path / "workshop.json"
    path.write_text(exported(other.store))
    before = exported(hands.store)
    drop(hands, path)
    assert exported(hands.store) == before  # asked first
    take, leave = hands.window.banner.buttons
    assert leave.text() == "Leave it"
    take.click()
    assert hands.session.workshop.lying_of("ring-4") == other.session.workshop.lying_of("ring-4")
    hands.session.workshop.keep(replace(hands.session.tray.parts[0], id="own", name="Own"))
    some = hands.session.tray.parts[:2]
    assert len(some) == 2
    drop(hands, path)
    assert "has all parts" in hands.said[-1]


@pytest.mark.parametrize(("name", "said"), [("a.pdf", "nothing that can be taken"),
                                            ("b.json", "not a piece"),
                                            ("c.png", "let it fall on the Log")])  # fmt: skip
def test_what_belongs_nowhere_is_said_and_what_is_open_stays(hands, tmp_path, name, said):
    path = tmp_path / name
    path.write_text("{}")
    before = hands.session.piece
    drop(hands, path)
    assert said in hands.said[-1]
    assert hands.session.piece is before


def test_recent_pieces_stand_with_their_pictures(hands, tmp_path):
    path = piece_file(tmp_path)
    drop(hands, path)
    hands.press(Qt.Key.Key_O, modifier=Qt.KeyboardModifier.ControlModifier
                | Qt.KeyboardModifier.ShiftModifier)  # fmt: skip
    panel = hands.window.room.start
    assert panel.list.currentItem().text() == "mine"
    hands.qtbot.waitUntil(lambda: any(str(path) in key for key in panel.pictures.known))
    hands.session.start_new()
    hands.press(Qt.Key.Key_Return)
    assert hands.session.path == path


def test_none_recent_is_said(hands):
    with pytest.raises(DomainError, match="Ctrl\\+O opens one"):
        piece_commands.recent_pieces(hands.window.desk)


# --- bundles --------------------------------------------------------------------------------------


def built(store, folder, name="Usher's Y"):
    """A build of the piece with a mark and two photographs, one of them gone since."""
    piece = replace(read_piece(demo_path("ushers-y")), name=name)
    number = builds.begin(store, piece, USUAL, "2026-11-02T10:00:00")
    builds.mark(
        store,
        number,
        [Mark(place="a", sign="b", sort="ring", words="c")],
        "2026-11-02T10:01:00",
        60.0,
    )
    photo = folder / "front.png"
    photo.write_bytes(b"\xff\xd8\xff a picture")
    log.photographed(store, number, str(photo), "from the front")
    log.photographed(store, number, str(folder / "gone.png"))
    return piece


def test_a_bundle_carries_the_piece_its_builds_and_photographs(tmp_path):
    here = open_workshop(tmp_path / "here.sqlite")
    piece = built(here, tmp_path)
    built(here, tmp_path, "Another")
    path = tmp_path / "y.maglia-bundle"
    packed = gathered(piece, here)
    assert [Path(one).name for one in packed.missing] == ["gone.png"]
    write_bundle(path, packed)
    first = path.read_bytes()
    write_bundle(path, packed)
    assert path.read_bytes() == first
    opened = read_bundle(path)
    assert opened.piece == piece
    (tmp_path / "there").mkdir()
    there = open_workshop(tmp_path / "there" / "w.sqlite")
    assert take_in(there, opened) == 1
    assert take_in(there, opened) == 0  # known already
    (one,) = builds.listed(there)
    assert (one.name, one.marks, one.seconds) == (piece.name, 1, 60.0)
    ((file, words),) = log.photos(there, one.id)
    assert (Path(file).read_bytes(), words) == (b"\xff\xd8\xff a picture", "from the front")
    assert Path(file).parent == tmp_path / "there" / "photographs"


def test_a_bundle_is_opened_whole_in_the_window(hands, tmp_path):
    source = open_workshop(tmp_path / "source.sqlite")
    path = tmp_path / "y.maglia-bundle"
    write_bundle(path, gathered(built(source, tmp_path), source))
    drop(hands, path)
    assert hands.session.path is None
    assert hands.session.piece.name == "Usher's Y"
    assert any("1 of its 1 builds are new" in said for said in hands.said)
    hands.window.show_room("log")
    assert isinstance(hands.window.room, LogRoom)
    assert [entry.piece for entry in hands.window.room.book.entries] == ["Usher's Y"]


def test_a_bundle_whose_piece_cannot_be_built_leaves_the_bench_as_it_is(hands, tmp_path):
    path = tmp_path / "y.maglia-bundle"
    made = read_piece(demo_path("ushers-y"))
    missing = replace(made, parts=made.parts[1:])  # what hangs on it is gone
    write_bundle(path, gathered(missing, None))
    before = (hands.session.piece, hands.session.path, hands.session.assembly)
    drop(hands, path)
    assert hands.said[-1].startswith("Not done: ")
    assert (hands.session.piece, hands.session.path, hands.session.assembly) == before


def test_builds_that_cannot_be_kept_are_said_and_the_piece_is_there(hands, tmp_path):
    source = open_workshop(tmp_path / "source.sqlite")
    path = tmp_path / "y.maglia-bundle"
    write_bundle(path, gathered(built(source, tmp_path), source))
    (tmp_path / "photographs").write_text("a file where the folder should be")
    drop(hands, path)
    assert hands.session.piece.name == "Usher's Y"
    assert "Its builds are not in the log" in hands.said[-1]
    assert builds.listed(hands.store) == ()


def spoilt(path, **members):
    with zipfile.ZipFile(path) as old:
        kept = {name: old.read(name) for name in old.namelist()}
    kept |= {name.replace("_", "."): data for name, data in members.items()}
    with zipfile.ZipFile(path, "w") as new:
        for name, data in kept.items():
            if data is not None:
                new.writestr(name, data)


@pytest.mark.parametrize(
    ("members", "said"),
    [
        ({"bundle_json": b"{}"}, "no bundle of a piece"),
        ({"bundle_json": b'{"format": "maglia-bundle", "version": 9}'}, "version 9 is not known"),
        ({"bundle_json": b"["}, "y.maglia-bundle"),
        ({"piece_maglia": b"{}"}, "lacks"),
        ({"piece_maglia": None}, "“piece.maglia” is missing"),
        ({"builds_json": b'[{"name": 3}]'}, "y.maglia-bundle"),
    ],
)
def test_a_spoilt_bundle_says_what_is_wrong(tmp_path, members, said):
    path = tmp_path / "y.maglia-bundle"
    write_bundle(path, gathered(read_piece(demo_path("ushers-y")), None))
    spoilt(path, **members)
    with pytest.raises(DomainError, match=said):
        read_bundle(path)


def test_what_is_no_archive_and_what_would_burst_is_refused(tmp_path):
    path = tmp_path / "y.maglia-bundle"
    path.write_bytes(b"not a zip")
    with pytest.raises(DomainError, match="no whole bundle"):
        read_bundle(path)
    write_bundle(path, gathered(read_piece(demo_path("ushers-y")), None))
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("bundle.json", b" " * 25_000_000)
    with pytest.raises(DomainError, match="larger than 20 MB"):
        read_bundle(path)


def test_kinds_of_files(tmp_path):
    write_piece(read_piece(demo_path()), tmp_path / "a.json")
    named = {"a.json": "piece", "x.maglia": "piece", "x.csv": "list", "x.jpg": "photograph",
             "x.maglia-bundle": "bundle", "x.pdf": ""}  # fmt: skip
    assert {name: kind_of(tmp_path / name) for name in named} == named
