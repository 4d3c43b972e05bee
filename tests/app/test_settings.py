"""Settings: one page for all that can be set; it acts at once, is taken back, is kept."""

import json

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLabel

from maglia.app.own_keys import Choice
from maglia.app.rooms.settings.page import SettingsRoom
from maglia.app.settings import Settings
from maglia.app.theme import at_own_size, font, set_text_scale
from maglia.core.joining.ways import WORDS
from maglia.core.values.record import DomainError
from maglia.core.values.rules import RULES
from windows import Hands

KEY, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def hands(qtbot, tmp_path):
    made = Hands(qtbot, tmp_path / "w.sqlite", "ushers-y", demo=False)
    made.press(KEY.Key_Comma, modifier=CTRL)
    assert isinstance(made.window.room, SettingsRoom)
    yield made
    set_text_scale(1.0)


def page(hands):
    return hands.window.room


def shown(hands):
    return {name for name, row in page(hands).shown.items() if not row.widgets[0].isHidden()}


def test_everything_is_there_with_what_is_usual_and_why(hands):
    rows = page(hands).shown
    assert {rule.field for rule in RULES} < set(rows)
    assert {f"working {name}" for name in WORDS} < set(rows)
    assert {"theme", "text", "motion", "unit", "wire_unit", "caliper", "scale"} < set(rows)
    for own in rows.values():
        labels = [label.text() for label in own.widgets[0].findChildren(QLabel)]
        assert all(labels)
        assert own.control.accessibleName()
        assert own.control.accessibleDescription()


@pytest.mark.parametrize(
    ("typed", "left"),
    [
        ("glue", {"working glue_holds_min", "working glue_cures_min"}),
        ("text size", {"text"}),
        ("crowded", {"crowded"}),
        ("nothing of the sort", set()),
    ],
)
def test_typing_narrows_it(hands, typed, left):
    hands.type(typed)
    assert shown(hands) == left
    assert page(hands).none.isHidden() is bool(left)
    hands.press(KEY.Key_Escape)
    assert len(shown(hands)) == len(page(hands).shown)


def test_a_figure_is_set_by_keys_says_what_it_was_and_is_taken_back(hands):
    hands.type("crowded")
    hands.press(KEY.Key_Down)
    hands.type("70")
    hands.press(KEY.Key_Return)
    rules = hands.session.workshop
    assert rules.rules.crowded == pytest.approx(0.7)
    assert page(hands).shown["crowded"].was.text() == "was 65 %"
    assert "it was 65 %" in hands.said[-1]
    hands.press(KEY.Key_Z, modifier=CTRL)
    assert rules.rules.crowded == pytest.approx(0.65)
    hands.press(KEY.Key_Z, modifier=CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert rules.rules.crowded == pytest.approx(0.7)
    page(hands).shown["crowded"].control.setText("7000")
    page(hands).shown["crowded"].control.setModified(True)
    hands.press(KEY.Key_Return)
    assert "is from 0.1 to 1" in hands.said[-1]
    assert rules.rules.crowded == pytest.approx(0.7)


def test_a_choice_is_made_by_arrows_and_acts_at_once(hands):
    hands.type("mat ")
    page(hands).shown["theme"].control.setFocus()
    hands.press(KEY.Key_Left)
    assert hands.window.desk.theme.name == "slate"
    assert hands.window.desk.settings["theme"] == "slate"
    hands.press(KEY.Key_Z, modifier=CTRL)
    assert hands.window.desk.settings["theme"] == ""


def test_text_grows_at_once_and_paper_does_not(hands, tmp_path):
    before = font(13).pixelSize()
    page(hands).set(page(hands).shown["text"].row, 200)
    assert font(13).pixelSize() == 2 * before
    assert "font-size: 28px" in QApplication.instance().styleSheet()  # the piece's name, 14
    with at_own_size():
        assert font(13).pixelSize() == before


def test_motion_habits_and_units_act_at_once(hands):
    room = page(hands)
    bench = hands.window.made["bench"]
    room.set(room.shown["motion"].row, False)
    assert bench.form.moves is False
    room.set(room.shown["unit"].row, "cm")
    assert hands.session.unit == "cm"
    room.set(room.shown["wire_unit"].row, "AWG")
    bench.side.ready.unfold()
    hands.qtbot.waitUntil(lambda: hands.session.at_rest, timeout=15_000)
    assert hands.session.wire_unit == "AWG"
    hands.window.show_room("make")
    room.set(room.shown["working loops"].row, "looper")
    room.set(room.shown["working glue_holds_min"].row, 25.0)
    working = hands.session.builds.working
    assert (working.loops, working.glue_holds_min) == ("looper", 25.0)


def test_escape_goes_back_to_the_room_one_came_from(hands):
    hands.window.show_room("tray")
    hands.press(KEY.Key_R)
    assert isinstance(hands.window.room, SettingsRoom)
    hands.press(KEY.Key_Escape)
    assert hands.window.room is hands.window.made["tray"]
    assert hands.window.buttons["tray"].isChecked()


def test_nothing_to_take_back_is_said(hands):
    with pytest.raises(DomainError, match="nothing was set"):
        page(hands).step(-1)
    assert not page(hands).can_step(1)


def test_down_walks_through_every_row(hands):
    room, seen = page(hands), []
    for _ in range(len(room.shown)):
        hands.press(KEY.Key_Down)
        seen.append(hands.window.focusWidget())
    controls = [own.control for own in room.shown.values()]
    assert [type(one) in (Choice, type(controls[-1])) for one in seen] == [True] * len(seen)
    assert seen == controls


@pytest.mark.parametrize("text", [50, 1000, "large", True])
def test_a_text_size_that_is_none_keeps_the_usual_one(tmp_path, text):
    path = tmp_path / "settings.json"
    path.write_text(json.dumps({"text": text}))
    assert Settings(path)["text"] == 100
