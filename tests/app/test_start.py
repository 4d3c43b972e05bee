"""From the command line to a standing window: which piece is open, and what is offered."""

import json

import pytest
from PySide6.QtWidgets import QApplication

from maglia.app import start
from maglia.app.settings import Settings
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece, write_piece


@pytest.fixture
def begun(qtbot, tmp_path, monkeypatch):
    """Starts the program as from the command line, with a home of its own; the event loop ends at
    once. Returns the window."""
    windows = []
    monkeypatch.setattr(start, "settings_path", lambda: tmp_path / "settings.json")
    monkeypatch.setattr(start, "kept_folders", lambda: (tmp_path / "kept",))
    monkeypatch.setattr(QApplication, "exec", lambda *_: 0)
    made = start.Shell

    class Noted(made):
        def __init__(self, desk, room):
            super().__init__(desk, room)
            desk.may_leave = lambda save: True
            windows.append(self)
            qtbot.addWidget(self)

    monkeypatch.setattr(start, "Shell", Noted)

    def begin(path=None, *, as_copy=False, theme=None):
        wishes = start.Wishes(path, as_copy, None, (1280, 800), "bench", theme)
        assert start.run_window(wishes) == 0
        return windows[-1]

    yield begin
    for window in windows:
        window.session.finish()


def test_the_demo_the_first_time_then_the_last_piece(begun, tmp_path):
    first = begun()
    assert first.session.piece.name == "Lamplighter's collar"
    assert first.session.path is None  # a copy: the demo itself is never overwritten
    own = tmp_path / "own.json"
    write_piece(read_piece(demo_path("ushers-y")), own)
    assert begun(own).session.path == own
    assert begun().session.path == own.resolve()
    own.write_text("{")
    assert begun().session.piece.name == "Lamplighter's collar"  # it broke since: the demo is there


def test_settings_are_kept_and_faults_in_them_are_not(begun, tmp_path):
    path = tmp_path / "settings.json"
    path.write_text(json.dumps({"unit": "in", "theme": "slate", "motion": 7, "strange": True}))
    window = begun()
    assert (window.session.unit, window.desk.theme.name) == ("in", "slate")
    assert window.room.form.moves is True
    assert begun(theme="felt").desk.theme.name == "felt"
    path.write_text("[]")
    assert begun().session.unit == "mm"
    settings = Settings(tmp_path / "no" / "folder.json")
    settings["unit"] = "cm"
    assert Settings(settings.path)["unit"] == "cm"
