"""The first hour of the guide, gone through by keys in an empty workshop: what the page says to be
typed is typed, and in the end a made piece lies in the log."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from maglia.app.own_workshop import open_own
from maglia.app.session.session import Session
from maglia.core.workshop.tray import Tray
from maglia.demo import demo_path
from maglia.guide.book import examples, page
from windows import in_front

KEY, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def hour(qtbot, tmp_path):
    session = Session(Tray())
    session.open(demo_path(), as_copy=True)
    window = in_front(qtbot, session)
    open_own(session, tmp_path / "own.sqlite", window.banner)

    def press(*keys, modifier=Qt.KeyboardModifier.NoModifier):
        for key in keys:
            at = QApplication.focusWidget() or window.focusWidget()
            qtbot.keyClick(at, key, modifier)

    def say(text):
        qtbot.keyClicks(QApplication.focusWidget() or window.focusWidget(), text)

    def rest():
        qtbot.waitUntil(lambda: session.at_rest, timeout=20_000)

    return session, window, press, say, rest


def test_the_first_hour_leads_to_a_made_piece(qtbot, hour):
    session, window, press, say, rest = hour
    strand, close, drop, wish = (block.strip() for block in examples(page("first-hour")))
    # 1 the tray: the shelf, and a metre of chain
    press(KEY.Key_1, modifier=CTRL)
    press(KEY.Key_S)
    assert len(session.tray.parts) > 100
    press(KEY.Key_Slash)
    say("rolo 3")
    press(KEY.Key_Return, KEY.Key_B)
    say("1 m")
    press(KEY.Key_Return)
    # 2 a strand, and its name
    press(KEY.Key_2, KEY.Key_N, modifier=CTRL)
    press(KEY.Key_Escape, KEY.Key_Return)
    say(strand)
    press(KEY.Key_Return)
    press(KEY.Key_F2, modifier=Qt.KeyboardModifier.ShiftModifier)
    press(KEY.Key_A, modifier=CTRL)
    say("First strand")
    press(KEY.Key_Return)
    assert session.piece.name == "First strand"
    # 3 to 5 closed, a drop, a wish
    for phrase, first in ((close, KEY.Key_Return), (drop, KEY.Key_Home), (wish, KEY.Key_Return)):
        press(first)
        if first == KEY.Key_Home:
            press(KEY.Key_Return)
        say(phrase)
        press(KEY.Key_Return)
        rest()
    assert session.findings.closed_length_mm == pytest.approx(420, abs=1.5)
    assert [run.kind for run in session.piece.runs] == ["strand", "drop"]
    press(KEY.Key_K, modifier=CTRL)
    asked = []
    window.desk.guide_wanted.disconnect()
    window.desk.guide_wanted.connect(asked.append)
    press(KEY.Key_Question)
    assert asked == ["checks#Short in stock"]
    # 6 counted and laid out
    press(KEY.Key_3, modifier=CTRL)
    qtbot.waitUntil(lambda: not session.day.at_work and bool(session.day.cuttings), timeout=20_000)
    (cutting,) = session.day.cuttings.values()
    assert not cutting.missing
    press(KEY.Key_L)
    assert "Laid out" in window.message.text()
    # 7 made, measured, and in the log
    press(KEY.Key_4, modifier=CTRL)
    press(KEY.Key_Return)
    for _ in range(40):
        if session.builds.build is None:
            break
        step = session.builds.step
        if step is not None and step.measure_mm is not None:
            press(KEY.Key_M)
            say("419")
            press(KEY.Key_Return)
        press(KEY.Key_Space)
    press(KEY.Key_5, modifier=CTRL)
    (entry,) = window.room.book.entries
    assert (entry.piece, bool(entry.ended), entry.given_up) == ("First strand", True, False)
    (measure,) = window.room.book.measures_of(entry)
    assert (measure.what, measure.measured_mm) == ("closed length", 419.0)
