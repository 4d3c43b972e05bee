"""Work that is not saved: kept within seconds, offered after a cut, never lost to an answer."""

import json
import os
import subprocess
import sys
import time
from random import Random

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog

from anything import Anything, back_to_the_start
from maglia.app import keeper as keepers
from maglia.app import own_workshop
from maglia.app import rescue as rescue_module
from maglia.app.keeper import Keeper
from maglia.app.own_workshop import open_own
from maglia.app.rescue import MOST_REPORTS, Rescue
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.app.told_to_go import SIGNALS
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import Spot
from maglia.core.values.record import DomainError
from maglia.demo import demo_path, demo_tray
from maglia.files import kept as kept_files
from maglia.files.kept import cut_off
from maglia.files.piece_json import read_piece, write_piece
from windows import shell

KEY = Qt.Key


class Home:
    """A folder for kept work, and windows that live and are cut off."""

    def __init__(self, folder, qtbot):
        self.folder, self.qtbot, self.windows = folder, qtbot, []

    def window(self, name="ushers-y", path=None):
        session = Session(demo_tray())
        session.open(path or demo_path(name), as_copy=path is None)
        window = shell(session, Keeper(session, (self.folder,)))
        self.qtbot.addWidget(window)
        self.windows.append(window)
        return window

    def edit(self, window, links=3):
        assert window.session.apply(set_count(window.session.piece, Spot("Tail", (0,)), links))

    def cut(self, window):
        """As a kill does: what is on disk stays, and nobody holds it any more."""
        window.desk.keeper._timer.stop()
        if window.desk.keeper.file:
            window.desk.keeper.file.release()
            window.desk.keeper.file = None

    def files(self):
        return sorted(self.folder.glob("*.json")) if self.folder.exists() else []

    def texts(self):
        return [json.loads(path.read_text())["piece"] for path in self.files()]


@pytest.fixture
def home(tmp_path, qtbot):
    made = Home(tmp_path / "state" / "kept", qtbot)
    yield made
    for window in made.windows:
        window.session.finish()


def press(window, label):
    button = next(one for one in window.banner.buttons if one.text() == label)
    button.click()


def test_an_edit_is_on_disk_after_a_pause_and_edits_without_a_pause_are_too(home, qtbot):
    window = home.window()
    home.edit(window)
    qtbot.waitUntil(lambda: len(home.files()) == 1, timeout=keepers.MOST_MS)
    home.cut(window)
    first = home.files()
    other = home.window()
    began = time.monotonic()
    links = 3
    while len(home.files()) == len(first) and time.monotonic() - began < 5:
        home.edit(other, links := links + 1)  # faster than the pause, without end
        qtbot.wait(keepers.PAUSE_MS // 3)
    assert time.monotonic() - began < keepers.MOST_MS / 1000 + 1


def test_the_kept_copy_goes_with_the_save_and_none_is_written_after_it(home, qtbot, tmp_path):
    window = home.window()
    home.edit(window)
    qtbot.waitUntil(lambda: len(home.files()) == 1, timeout=keepers.MOST_MS)
    window.session.save(tmp_path / "saved.json")
    assert home.files() == []
    home.edit(window, 5)
    window.session.step(-1)  # as it is saved
    qtbot.wait(2 * keepers.PAUSE_MS)
    assert home.files() == []


def test_taking_up_keeps_a_copy_at_every_moment(home, monkeypatch):
    cut = home.window()
    home.edit(cut, 7)
    cut.desk.keeper.keep()
    home.cut(cut)
    window = home.window("curtain-bib")
    found, troubles = window.desk.keeper.found()
    assert [kept.piece for _, kept in found] == [cut.session.piece]
    assert troubles == []
    window.offer(found)
    seen = []
    forget = kept_files.KeptFile.forget
    monkeypatch.setattr(
        kept_files.KeptFile, "forget", lambda file: (seen.append(len(home.files())), forget(file))
    )
    press(window, "Take it up")
    assert min(seen) >= 2  # before the old copy goes there is a new one
    assert window.session.piece == cut.session.piece
    assert window.session.edited
    assert len(home.files()) == 1
    home.cut(window)
    assert [kept.piece for _, kept in cut_off((home.folder,))[0]] == [cut.session.piece]


def test_a_question_without_an_answer_loses_nothing(home):
    cut = home.window()
    home.edit(cut, 7)
    cut.desk.keeper.keep()
    home.cut(cut)
    window = home.window("ushers-y")
    window.offer(window.desk.keeper.found()[0])
    home.edit(window, 9)
    window.desk.keeper.keep()
    assert len(home.files()) == 2  # new edits are kept beside the old work
    asked = []
    window.desk.ask = lambda words, *answers: asked.append(words) or len(answers) - 1
    press(window, "Take it up")
    assert "has edits" in asked[0]
    assert window.session.piece.runs != cut.session.piece.runs  # stayed
    assert window.banner.isVisibleTo(window)
    window.desk.ask = lambda words, *answers: 1
    window.close()
    for file, _ in cut_off((home.folder,))[0]:
        file.release()
    assert len(home.files()) == 1
    press(window, "Give it up")
    assert home.files() == []


def test_living_work_is_not_offered_and_not_taken_away(home):
    living, other = home.window(), home.window()
    home.edit(living, 7)
    living.desk.keeper.keep()
    assert other.desk.keeper.found() == ([], [])
    home.edit(other, 9)
    other.desk.keeper.keep()
    other.desk.ask = lambda *_: 1
    other.close()
    assert len(home.files()) == 1
    home.cut(living)
    first, second = home.window(), home.window()
    assert len(first.desk.keeper.found()[0]) == 1
    assert second.desk.keeper.found()[0] == []  # offered once


@pytest.mark.parametrize(
    "text",
    [
        "{", "[" * 100_000, "null", '{"path": "", "when": 1, "piece": 7}',
        '{"path": [], "when": {}, "piece": ""}', "\x00\xff",
    ],
)  # fmt: skip
def test_kept_work_that_cannot_be_read_is_set_aside_and_said(home, text):
    home.folder.mkdir(parents=True)
    (home.folder / "x.json").write_text(text)
    os.mkfifo(home.folder / "y.json")
    found, troubles = cut_off((home.folder,))
    assert found == []
    assert len(troubles) == 2
    assert home.files() == []
    assert (home.folder / "x.json.unreadable").read_text() == text
    assert cut_off((home.folder,)) == ([], [])


@pytest.mark.parametrize("when", ["1e300", "NaN", "-1e18", "null", "true", '"now"'])
@pytest.mark.parametrize("own", ['"a\\u0000b"', '"\\ud800"', "null", '"caf\\udce9.json"'])
def test_strange_times_and_paths_do_not_stop_the_offer(home, when, own):
    window = home.window()
    home.edit(window, 7)
    window.desk.keeper.keep()
    home.cut(window)
    data = json.loads(home.files()[0].read_text())
    text = json.dumps(data | {"when": "WHEN", "path": "OWN"})
    home.files()[0].write_text(text.replace('"WHEN"', when).replace('"OWN"', own))
    found, troubles = window.desk.keeper.found()
    assert troubles == []
    window.offer(found)
    assert "was cut off" in window.banner.words.text()
    window.desk.ask = lambda *_: 1
    press(window, "Take it up")
    assert (window.session.path is not None) == ("caf" in own)


def test_the_one_kept_file_of_an_earlier_version_is_offered_too(home):
    home.folder.mkdir(parents=True)
    text = demo_path("ushers-y").read_text()
    old = home.folder.parent / "kept-work.json"
    old.write_text(json.dumps({"path": "", "when": 5.0, "piece": text}))
    window = home.window("curtain-bib")
    window.offer(window.desk.keeper.found()[0])
    press(window, "Take it up")
    assert replace(window.session.piece, id="") == read_piece(demo_path("ushers-y"))
    assert not old.exists()
    assert len(home.files()) == 1


def test_where_the_first_folder_cannot_be_written_the_next_one_is(home, tmp_path):
    window = home.window()
    (tmp_path / "file").write_text("")
    window.desk.keeper.folders = (tmp_path / "file" / "kept", tmp_path / "other" / "kept")
    home.edit(window, 7)
    assert window.desk.keeper.keep()
    assert f"The work is kept in {tmp_path / 'other'}" in window.message.text()
    window.desk.keeper.folders = (tmp_path / "file" / "kept",)
    window.desk.keeper.forget()
    assert not window.desk.keeper.keep()
    assert "could not be kept" in window.message.text()


def test_a_folder_of_another_user_is_neither_written_nor_read(home, tmp_path, monkeypatch):
    first = home.window()
    home.edit(first)
    first.desk.keeper.keep()
    home.cut(first)
    other = os.getuid() + 1
    monkeypatch.setattr("maglia.files.kept.os.getuid", lambda: other)
    window = home.window()
    home.edit(window)
    assert window.desk.keeper.found() == ([], [])
    assert not window.desk.keeper.keep()
    assert "another user" in window.message.text()
    assert len(home.files()) == 1


def test_a_file_with_a_name_that_is_no_text_has_its_work_kept(home, tmp_path):
    path = tmp_path / os.fsdecode(b"caf\xe9.json")
    write_piece(read_piece(demo_path("ushers-y")), path)
    window = home.window(path=path)
    home.edit(window, 7)
    assert window.desk.keeper.keep()
    home.cut(window)
    assert cut_off((home.folder,))[0][0][1].path == path
    window.session.save(path)
    assert "Saved as caf\ufffd.json" in window.message.text()


# --- saving -------------------------------------------------------------------------------------


@pytest.fixture
def saved(home, tmp_path):
    path = tmp_path / "mine.json"
    write_piece(read_piece(demo_path("ushers-y")), path)
    window = home.window(path=path)
    home.edit(window, 7)
    return window, path


def do(window, name):
    window._menu_action(name).trigger()


@pytest.mark.parametrize(
    ("answer", "mine", "others"),
    [
        (0, "mine-mine.json", "mine.json"),
        (1, "mine.json", "mine-other.json"),
        (2, None, "mine.json"),
    ],
)
def test_a_file_that_others_changed_is_asked_about_and_both_stay(saved, answer, mine, others):
    window, path = saved
    theirs = read_piece(demo_path("curtain-bib"))
    write_piece(theirs, path)
    asked = []
    window.desk.ask = lambda words, *answers: asked.append(words) or answer
    do(window, "save")
    assert "mine.json was changed elsewhere" in asked[0]
    assert read_piece(path.with_name(others)) == theirs
    assert window.session.edited == (mine is None)
    if mine:
        assert read_piece(path.with_name(mine)) == window.session.piece
        assert window.session.path == path.with_name(mine)
        do(window, "save")
        assert len(asked) == 1


def test_two_windows_on_one_piece_tell_the_second_to_save(saved, home):
    window, path = saved
    second = home.window(path=path)
    home.edit(second, 9)
    do(window, "save")
    asked = []
    second.desk.ask = lambda words, *answers: asked.append(words) or 2
    do(second, "save")
    assert len(asked) == 1
    assert read_piece(path) == window.session.piece


def test_leaving_stays_when_saving_fails_and_offers_another_place(saved, tmp_path, monkeypatch):
    window, path = saved
    path.chmod(0o444)
    asked, answers = [], iter([0, 1])  # save; stay
    window.desk.ask = lambda words, *_: asked.append(words) or next(answers)
    window.show()
    assert not window.close()
    assert window.isVisible()
    assert "read-only" in window.message.text()
    other = tmp_path / "other.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(other), ""))
    answers = iter([0, 0])  # save; another place
    assert window.close()
    assert read_piece(other) == window.session.piece


TOLD_TO_GO = """
import os, sys
from pathlib import Path
from PySide6.QtCore import QTimer
from maglia.app import shell
from maglia.demo import demo_path
from maglia.app.start import Wishes, run_window
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import Spot

class Shell(shell.Shell):
    def showEvent(self, event):
        super().showEvent(event)
        QTimer.singleShot(200, self.edit)

    def edit(self):
        assert self.session.apply(set_count(self.session.piece, Spot("Tail", (0,)), 3))
        os.kill(os.getpid(), int(sys.argv[1]))

from maglia.app import start
start.Shell = Shell
sys.exit(run_window(Wishes(demo_path("ushers-y"), True, None, (900, 600), "bench", None)))
"""


@pytest.mark.parametrize("number", SIGNALS, ids=lambda number: number.name)
def test_told_to_go_the_window_keeps_and_goes(tmp_path, number):
    places = {"HOME": tmp_path, "XDG_STATE_HOME": tmp_path / "state", "TMPDIR": tmp_path,
              "XDG_DATA_HOME": tmp_path / "data", "XDG_CONFIG_HOME": tmp_path / "c"}  # fmt: skip
    told = [sys.executable, "-c", TOLD_TO_GO, str(int(number))]
    done = subprocess.run(
        told, env=os.environ | {name: str(place) for name, place in places.items()},
        capture_output=True, text=True, timeout=60,
    )  # fmt: skip
    assert (done.returncode, "Traceback" in done.stderr) == (0, False), done.stderr
    ((_, kept),), troubles = cut_off((tmp_path / "state" / "maglia" / "kept",))
    assert (kept.piece.run("Tail").items[0].count, troubles) == (3, [])


@pytest.mark.parametrize(
    "text",
    ["{", "[" * 100_000, "null", "\x00", '{"used": {"a": null}}', '{"last_piece": "\\ud800"}'],
)
def test_settings_that_cannot_be_read_are_set_aside_and_never_stop_the_start(tmp_path, text):
    path = tmp_path / "settings.json"
    path.write_text(text)
    settings = Settings(path)
    assert settings["unit"] == "mm"
    assert bool(settings.trouble) == ("used" not in text and "last" not in text)
    assert (tmp_path / "settings.json.unreadable").exists() == bool(settings.trouble)
    settings.count_use("a")
    assert Settings(path)["used"] == {"a": 1}


def test_what_nobody_foresaw_keeps_the_work_is_reported_and_does_not_end_the_window(
    home, tmp_path, monkeypatch
):
    window = home.window()
    home.edit(window, 7)
    session, folder = window.session, tmp_path / "faults"
    rescue = Rescue(folder, window.desk.keeper.keep, session.said.emit)
    monkeypatch.setattr(rescue_module.sys, "excepthook", sys.excepthook)
    rescue.install()
    for k in range(MOST_REPORTS + 3):
        try:
            raise RuntimeError(f"/home/somebody/secret-{k}.json")
        except RuntimeError as fault:
            sys.excepthook(RuntimeError, fault, fault.__traceback__)
    assert len(home.files()) == 1
    assert "The work is kept; a report of it is in" in window.message.text()
    reports = list(folder.iterdir())
    assert len(reports) == MOST_REPORTS
    assert "RuntimeError" in reports[0].read_text()
    assert "/" not in reports[0].read_text().replace("app/", "")
    rescue.folder = home.files()[0]  # a file where the folder should be
    sys.excepthook(RuntimeError, RuntimeError("x"), None)
    assert "a report could not be written" in window.message.text()
    home.edit(window, 8)


@pytest.mark.qt_log_ignore("This plugin does not support")
def test_whatever_is_done_nothing_is_raised_and_undoing_leads_back(bench, monkeypatch):
    monkeypatch.setattr(own_workshop, "chosen_of", lambda *_: None)
    asked = ((QInputDialog, "getText"),
             (QFileDialog, "getSaveFileName"), (QFileDialog, "getOpenFileName"))  # fmt: skip
    for dialog, name in asked:
        monkeypatch.setattr(dialog, name, lambda *_, **__: ("", False))
    anything = Anything(bench.window, Random(5))
    for _ in range(3):
        anything.begin_again()
        for _ in range(60):
            anything.one()
            QApplication.processEvents()
        now, first = back_to_the_start(bench.session)
        assert now is first, anything.done


def test_what_is_new_on_the_bench_is_there_in_the_next_window(bench, tmp_path, monkeypatch):
    path = tmp_path / "own.sqlite"
    open_own(bench.session, path)
    bench.insert("new ring 9.9 x 0.7 inner closed")
    assert "ring 9.9" in {part.name for part in bench.session.piece.parts}
    bench.insert("new wearer prompter neck 372 wrist 160")
    assert bench.session.piece.wearer.role == "Prompter"
    later = Session(demo_tray())
    open_own(later, path)
    assert later.tray.parts[-1].inner_mm == 9.9
    assert later.tray.wearers[-1].neck_mm == 372
    later.finish()
    said = []
    bench.session.said.connect(said.append)
    monkeypatch.setattr("maglia.files.workshop.contents.change", refused)
    bench.insert("new ring 8.8 x 0.7 inner closed")
    assert "not kept: the disk is full" in said[-1]
    assert "ring 8.8" in {part.name for part in bench.session.tray.parts}


def test_a_workshop_that_is_none_does_not_stop_the_window(bench, tmp_path):
    path = tmp_path / "own.sqlite"
    path.write_bytes(b"nothing of the kind" * 50)
    open_own(bench.session, path)
    assert "New parts are not kept" in bench.window.message.text()


def refused(*_):
    raise DomainError("the disk is full")
