"""For everybody: contrast in both themes, names for what is shown, keys alone through all rooms,
and nothing by colour alone."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QListView, QWidget

from maglia.app.house import BESIDE, ROOMS
from maglia.app.rooms.bench.check_list import SIGNS
from maglia.app.theme import FAINT_INK, THEMES, set_text_scale
from maglia.core.checks.found import SEVERITIES
from windows import Hands

KEY, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier
TEXT, MARK = 4.5, 3.0
"""Web content accessibility guidelines 2.1: contrast of text (1.4.3) and of marks (1.4.11)."""


def light(colour):
    """Relative luminance, as the guidelines define it."""
    parts = (part / 255 for part in colour)
    linear = (p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
    return sum(weight * p for weight, p in zip((0.2126, 0.7152, 0.0722), linear, strict=True))


def contrast(one, other):
    high, low = sorted((light(one), light(other)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def rgb(theme, role):
    return theme.colour(role).getRgb()[:3]


def test_contrast_is_measured_as_the_guidelines_say():
    assert contrast((0, 0, 0), (255, 255, 255)) == pytest.approx(21)
    assert contrast((119, 119, 119), (255, 255, 255)) == pytest.approx(4.48, abs=0.01)


@pytest.mark.parametrize("theme", THEMES.values(), ids=THEMES)
@pytest.mark.parametrize(
    ("role", "ground"),
    [(role, ground) for role in ("ink", "quiet", "fold", "good", "attention")
     for ground in ("paper", "paper_edge")]
    + [("ink", ground) for ground in ("mat", "mat_deep", "board")]
    + [("paper", ground) for ground in ("fold", "good", "attention", "quiet")],
)  # fmt: skip
def test_text_can_be_read(theme, role, ground):
    assert contrast(rgb(theme, role), rgb(theme, ground)) >= TEXT


@pytest.mark.parametrize("theme", THEMES.values(), ids=THEMES)
@pytest.mark.parametrize(
    ("role", "ground"),
    [(role, ground) for role in ("fold", "good", "attention", "chosen")
     for ground in ("paper", "mat", "mat_deep", "board")]
    + [("field", "paper"), ("quiet", "paper")],
)  # fmt: skip
def test_marks_can_be_seen(theme, role, ground):
    assert contrast(rgb(theme, role), rgb(theme, ground)) >= MARK


@pytest.mark.parametrize("theme", THEMES.values(), ids=THEMES)
def test_faint_ink_on_the_mat_can_be_read(theme):
    share = FAINT_INK / 255
    mixed = [share * i + (1 - share) * m
             for i, m in zip(rgb(theme, "ink"), rgb(theme, "mat"), strict=True)]  # fmt: skip
    assert contrast(mixed, rgb(theme, "mat")) >= TEXT


def test_severity_is_a_sign_and_not_only_a_colour():
    shown = {severity: SIGNS[severity] for severity in SEVERITIES}
    assert len(set(shown.values())) == len(SEVERITIES)
    assert all(sign for sign, _ in shown.values())


@pytest.fixture
def hands(qtbot, tmp_path):
    yield Hands(qtbot, tmp_path / "w.sqlite", "gallery-tiers")
    set_text_scale(1.0)


@pytest.mark.parametrize("room", [own.id for own in (*ROOMS, *BESIDE)])
def test_everything_that_takes_the_keys_has_a_name(hands, room):
    hands.window.show_room(room)
    hands.qtbot.waitUntil(lambda: hands.session.at_rest, timeout=15_000)
    named = (QLineEdit, QListView, QComboBox, QAbstractButton)
    for widget in hands.window.findChildren(QWidget):
        takes = widget.focusPolicy() != Qt.FocusPolicy.NoFocus and widget.isVisible()
        if takes and isinstance(widget, named):
            words = widget.accessibleName() or getattr(widget, "text", str)()
            spoken = QAccessible.queryAccessibleInterface(widget)
            assert words or (spoken and spoken.text(QAccessible.Text.Name)), widget


@pytest.mark.parametrize("room", ROOMS, ids=[own.id for own in ROOMS])
def test_a_room_is_reached_and_walked_by_keys_alone(hands, room):
    number = getattr(KEY, f"Key_{room.key[-1]}")
    hands.press(number, modifier=CTRL)
    assert hands.window.buttons[room.id].isChecked()
    at = hands.window.focusWidget()
    assert at is not None
    assert hands.window.room.isAncestorOf(at) or at is hands.window.room
    seen = [at]
    for _ in range(60):
        hands.press(KEY.Key_Tab)
        seen.append(hands.window.focusWidget())
        if seen[-1] in seen[:-1]:
            break
    assert seen[-1] in seen[:-1]  # it comes round: the keys are caught nowhere
    assert any(isinstance(widget, QAbstractButton) for widget in seen)  # the menus at the top too


def test_what_the_cursor_stands_on_and_what_changed_can_be_heard(hands):
    rule = hands.window.room.rule
    hands.qtbot.waitUntil(lambda: hands.session.at_rest, timeout=15_000)

    def heard():
        spoken = QAccessible.queryAccessibleInterface(rule)
        return spoken.text(QAccessible.Text.Description) or rule.accessibleDescription()

    rule.setFocus()
    first = heard()
    hands.press(KEY.Key_Down)
    second = heard()
    assert first
    assert second
    assert first != second
    hands.press(KEY.Key_Plus)
    assert heard() != second
    message = hands.window.message
    assert message.accessibleName() == "Message"
    hands.press(KEY.Key_Delete)
    assert message.accessibleDescription() == message.text() != ""


@pytest.mark.parametrize("size", [100, 150, 200])
def test_no_line_of_text_is_cut_at_any_size(hands, size):
    hands.window.desk.put("text", size)
    for room in ROOMS:
        hands.window.show_room(room.id)
        hands.qtbot.wait(20)
        for label in hands.window.findChildren(QLabel):
            if label.isVisible() and label.text() and not label.wordWrap():
                assert label.height() >= label.fontMetrics().ascent(), label.text()
