"""The house: rooms and actions as data, calling things otherwise, what a view tells those who do
not see it."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QToolButton

from maglia.app.guide import ROOM_KEYS, keys_page
from maglia.app.house import ROOMS
from maglia.app.settings import Settings
from maglia.core.edits.spots import Spot
from maglia.core.piece.piece import catalogue
from maglia.core.values.references import references
from maglia.demo import demo_names, demo_path

KEY, CTRL, SHIFT = Qt.Key, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def opened(bench, name):
    bench.session.open(demo_path(name), as_copy=True)
    bench.settled()


def typed(bench, text):
    """Write over what a line holds, and take it."""
    line = bench.window.focusWidget()
    line.selectAll()
    bench.type(text)
    bench.press(KEY.Key_Return)


def test_a_run_is_called_otherwise_by_keys_and_everything_follows(bench):
    opened(bench, "gallery-tiers")
    bench.press(KEY.Key_Down)
    assert bench.session.spot.owner == "Tier 2"
    bench.press(KEY.Key_F2)
    naming = bench.room.naming
    assert [row.what for row in naming.rows.rows] == ["the chain", "the run"]
    bench.press(KEY.Key_Down)
    assert naming.line.text() == "Tier 2"
    typed(bench, "Middle")
    assert naming.isHidden()
    assert bench.window.focusWidget() is bench.room.rule
    assert bench.session.spot.owner == "Middle"
    assert ("run", "Tier 2") not in set(references(bench.session.piece))
    assert bench.session.piece.owner("Fringe").run == "Middle"
    assert "Middle" in bench.settled().readings.falls_mm
    bench.press(KEY.Key_Z, modifier=CTRL)
    assert bench.session.piece.run("Tier 2") is not None


def test_a_part_and_the_piece_are_called_otherwise_and_a_taken_name_is_written_over(bench):
    ref = bench.session.members_at(bench.session.spot)[0].ref
    bench.press(KEY.Key_F2)
    typed(bench, "Rolo chain 3 mm")
    assert "already: choose another name" in bench.window.message.text()
    assert bench.room.naming.line.selectedText() == "Rolo chain 3 mm"  # typed over next
    typed(bench, "Lamp link")
    assert catalogue(bench.session.piece)[ref].name == "Lamp link"
    bench.press(KEY.Key_F2, modifier=SHIFT)
    typed(bench, "Lanterns")
    assert bench.session.piece.name == "Lanterns"
    assert bench.window.name.text() == "Lanterns · edited"
    bench.press(KEY.Key_F2)
    bench.press(KEY.Key_Escape)
    assert bench.room.naming.isHidden()


def test_what_uses_a_part_is_listed_and_gone_to(bench):
    bench.press(*[KEY.Key_Right] * 8)
    bench.press(KEY.Key_U)
    uses = bench.room.uses
    assert "Rolo chain 3 mm is used in" in uses.title.text()
    assert len(uses.rows.rows) > 1
    bench.press(KEY.Key_Down, KEY.Key_Return)
    use = uses.rows.rows[1]
    assert bench.session.spot == Spot(use.owner, use.path)
    assert uses.isHidden()


def test_names_on_an_empty_bench_are_refused_in_words(bench):
    bench.session.start_new()
    bench.press(KEY.Key_F2)
    assert "nothing under the cursor yet" in bench.window.message.text()
    bench.press(KEY.Key_U)
    assert "there is no part under the cursor" in bench.window.message.text()


def test_rooms_are_data_and_the_shell_switches_them(bench):
    for room in ROOMS:
        bench.room.letters.setFocus()
        bench.qtbot.keyClick(bench.window, getattr(KEY, f"Key_{room.key[-1]}"), CTRL)
        assert bench.window.room is bench.window.made[room.id]
        assert bench.window.buttons[room.id].isChecked()
        shown = bench.window.room
        home = {"bench": lambda r: r.rule, "tray": lambda r: r.tiles,
                "count": lambda r: r.make.list,
                "make": lambda r: r.list.list, "log": lambda r: r.list}[room.id](shown)  # fmt: skip
        assert bench.window.focusWidget() is home
        assert all(action.room == room.id for action in room.actions)


def test_menus_show_icons_and_grey_what_cannot_be_done(bench):
    bench.window._menus["Edit"].aboutToShow.emit()
    undo = bench.window._menu_action("undo")
    assert not undo.isEnabled()  # nothing was done yet
    assert not undo.icon().isNull()
    bench.press(*[KEY.Key_Right] * 8, KEY.Key_Plus)
    bench.window._menus["Edit"].aboutToShow.emit()
    assert undo.isEnabled()
    assert not bench.window._menu_action("redo").isEnabled()


@pytest.mark.parametrize("name", demo_names())
def test_half_rule_form_and_lists_say_what_they_show(bench, name):
    opened(bench, name)
    session, room = bench.session, bench.room
    said = room.rule.accessibleDescription()
    assert said.startswith(f"{session.spot.owner}, ")
    bench.press(KEY.Key_Right)
    if len(room.rule.order()) > 1:
        assert room.rule.accessibleDescription() != said
        assert " of " in room.rule.accessibleDescription()
    found = bench.settled()
    form = room.form.accessibleDescription()
    assert form.startswith(f"{session.spot.owner}, ")
    for run, mm in found.readings.falls_mm.items():
        assert f"fall of {found.assembly.run_words(run)} {session.length(mm)}" in form
    for part, rows in ((room.side.checks, found.checks), (room.side.fits, found.fits)):
        model = part.model()
        assert model.rowCount() == len(rows)
        for k in range(model.rowCount()):
            assert model.index(k, 0).data(Qt.ItemDataRole.DisplayRole)


def test_what_changes_is_announced_to_whoever_listens(bench, monkeypatch):
    told = []
    monkeypatch.setattr(QAccessible, "isActive", lambda: True)
    monkeypatch.setattr(QAccessible, "updateAccessibility", lambda event: told.append(event))
    bench.press(*[KEY.Key_Right] * 8)
    told.clear()
    bench.press(KEY.Key_Plus)
    announced = [e.message() for e in told if e.type() == QAccessible.Event.Announcement]
    assert any("38 links Rolo chain 3 mm" in words for words in announced)
    bench.press(KEY.Key_Home, KEY.Key_Home)
    count = len(told)
    bench.press(KEY.Key_Home)  # nothing changed: nothing is said
    assert len(told) == count


def test_every_control_of_the_top_line_has_a_name(bench):
    for button in bench.window.findChildren(QToolButton):
        assert button.accessibleName() or button.text()


def test_settings_that_cannot_be_written_are_said_once(bench, tmp_path):
    (tmp_path / "file").write_text("")
    settings = Settings(tmp_path / "file" / "settings.json")  # its folder is a file
    settings.faulty = bench.desk.say
    settings["unit"] = "cm"
    assert "Settings are not kept" in bench.window.message.text()
    bench.desk.say("else")
    settings["unit"] = "in"
    assert bench.window.message.text() == "else"
    assert settings["unit"] == "in"


def test_the_guide_has_the_keys_of_every_room_once():
    said = keys_page([])
    for heading, keys in ROOM_KEYS:
        assert said.count(f"## {heading}\n") == 1
        assert all(f" | {words} |" in said for _, words in keys)
