"""Pieces that come from outside: dropped, by name, recent ones, bundles and their builds."""

import shutil
import zipfile
from contextlib import closing
from datetime import date
from functools import partial
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent

from maglia.app import own_workshop, piece_commands
from maglia.app.rooms.log.log import LogRoom
from maglia.app.theirs import Theirs
from maglia.core.joining.marked import Mark
from maglia.core.joining.ways import USUAL
from maglia.core.parts.parts import Ring
from maglia.core.values.record import DomainError
from maglia.core.values.references import things_named
from maglia.demo import demo_path
from maglia.files.kinds import kind_of
from maglia.files.piece_json import read_piece, write_piece
from maglia.files.set_json import Entry, Set, write_set
from maglia.files.workshop import builds, log
from maglia.files.workshop.backups import backups_of
from maglia.files.workshop.bundle import gathered, read_bundle, take_in, write_bundle
from maglia.files.workshop.contents import exported, kept
from maglia.files.workshop.going_back import put_back
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
    jobs = hands.session.jobs
    hands.qtbot.waitUntil(lambda: jobs.is_idle("theirs") and jobs.is_idle("photographs"),
                          timeout=20_000)  # fmt: skip


def theirs(hands):
    """What is shown before it is taken over."""
    return next(own for own in hands.window.findChildren(Theirs) if own.isVisible())


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
    drop(hands, path)
    assert "has all parts" in hands.said[-1]


def test_parts_of_others_are_taken_over_one_by_one_and_units_with_what_they_are_made_of(
    hands, qtbot, tmp_path
):
    other = Hands(qtbot, tmp_path / "other.sqlite", "ushers-y")
    path = tmp_path / "workshop.json"
    path.write_text(exported(other.store))
    made = other.session.tray
    hands.session.workshop.keep(Ring(id="own", name="Own", inner_mm=3.0, wire_mm=1.0))
    drop(hands, path)
    shown = theirs(hands)
    names = [shown.list.item(k).text() for k in range(shown.list.count())]
    unit = next(k for k, own in enumerate(shown.own) if own in made.units)
    assert names[unit].endswith("with its parts")
    shown.all.click()  # none
    assert not shown.taken.isEnabled()
    shown.list.setCurrentRow(unit)
    qtbot.keyClick(shown.list, Qt.Key.Key_Space)
    assert shown.taken.text() == f"Take over 1 of {len(names)}"
    qtbot.keyClick(shown.list, Qt.Key.Key_Return)
    tray = hands.session.tray
    assert tray.units == (shown.own[unit],)
    assert {own.id for own in tray.parts} == {"own"} | things_named(tray.units[0])
    drop(hands, path)
    qtbot.keyClick(theirs(hands).list, Qt.Key.Key_Escape)
    assert hands.session.tray == tray


def test_the_workshop_goes_back_to_another_day_and_a_second_window_follows(
    hands, qtbot, tmp_path, monkeypatch
):
    own = hands.session.workshop
    own.keep(Ring(id="own", name="Own", inner_mm=3.0, wire_mm=1.0))
    days = []

    def choose(window, words, items):
        days.extend(items)
        return items[-1]

    monkeypatch.setattr(own_workshop, "chosen_of", choose)
    go_back = partial(hands.window.do, *next(
        one for one in hands.window._all_actions() if one[0].id == "go-back"))  # fmt: skip
    go_back()
    assert "no backup yet" in hands.said[-1]
    other = Hands(qtbot, hands.store.path, "ushers-y", demo=False)  # which backs it up
    own.keep(Ring(id="later", name="Later", inner_mm=3.0, wire_mm=1.0))
    go_back()
    assert days == [f"{date.today().isoformat()}, {date.today():%A}"]
    assert [part.id for part in own.tray.parts] == ["own"]
    assert "what was there is w.sqlite.before-going-back beside it" in hands.said[-1]
    aside = hands.store.path.with_name("w.sqlite.before-going-back")
    with closing(open_workshop(aside, to_read=True)) as before:
        assert set(kept(before, "part")) == {"own", "later"}
    other.session.workshop.look()
    (part,) = other.session.tray.parts
    other.session.workshop.keep(replace(part, name="Now"))
    own.look()
    assert own.tray.parts[0].name == "Now"
    other.session.finish()
    own.store.path.rename(tmp_path / "elsewhere")  # as after damage: another file is there then
    put_back(own.store.path, backups_of(own.store.path)[-1])
    with pytest.raises(DomainError, match="another file has taken the place"):
        own.keep(replace(part, name="Into what is gone"))
    own.look()
    assert "is shown now" in hands.said[-1]
    own.keep(replace(part, name="Again"))
    own.store.path.unlink()
    with pytest.raises(DomainError, match="is gone, and backups of it are there"):
        open_workshop(own.store.path)


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
    assert builds.listed(hands.store) == ()  # shown first
    theirs(hands).taken.click()
    assert hands.said[-1] == "1 of 1 builds are new in the log."
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
    theirs(hands).taken.click()
    assert "photographs cannot be made" in hands.said[-1]
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
