"""The mouse is the second way: pointing, pulling, turning the wheel; and what asks back."""

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

from maglia.app.desk import Desk
from maglia.app.rooms.bench import commands
from maglia.app.rooms.bench.regrade_table import RegradeTable
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import Edited, Spot
from maglia.core.piece.piece import Form
from maglia.core.values.record import DomainError
from maglia.demo import demo_path, demo_wearers
from maglia.files.tables import regrade_csv

KEY = Qt.Key
LEFT = Qt.MouseButton.LeftButton


def opened(bench, name):
    bench.session.open(demo_path(name), as_copy=True)
    bench.room.form.moves = False
    return bench.settled()


def place_of(bench, name):
    """Where a run's first drawn member lies on the form, in pixels."""
    form, found = bench.room.form, bench.session.findings
    member = next(m for m in found.assembly.members if m.run == name and m.id in found.hung.drawn)
    points = form._points(found, member)
    x, y = points[len(points) // 2]
    return form.view().map(QPointF(x, y)).toPoint()


def hover(widget, at):
    """Move the mouse over a widget, no button held."""
    none = Qt.MouseButton.NoButton
    where, everywhere = QPointF(at), QPointF(widget.mapToGlobal(at))
    kind, free = QEvent.Type.MouseMove, Qt.KeyboardModifier.NoModifier
    QApplication.sendEvent(widget, QMouseEvent(kind, where, everywhere, none, none, free))


def wheel(widget, at, turns, modifier=Qt.KeyboardModifier.NoModifier):
    """Turn the wheel by notches over a point of a widget."""
    event = QWheelEvent(
        QPointF(at), QPointF(widget.mapToGlobal(at)), QPoint(), QPoint(0, 120 * turns),
        Qt.MouseButton.NoButton, modifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(widget, event)


def pulled(bench, kind, name, by):
    """Pull the end of a dimension line down by pixels, and wait for the answer. Returns mm."""
    form = bench.room.form
    form.grab()
    one = next(d for d in form.dimensions() if d.kind == kind and name in d.names)
    end = QPoint(round(one.x), round(one.low))
    hover(form, end)
    assert form.cursor().shape() == Qt.CursorShape.SizeVerCursor
    QTest.mousePress(form, LEFT, pos=end)
    QTest.mouseMove(form, end + QPoint(0, by))
    wished = form.pulled[1]
    assert "let go to fit it" in bench.window.message.text()
    QTest.mouseRelease(form, LEFT, pos=end + QPoint(0, by))
    bench.settled()
    return wished


def test_a_pulled_fall_is_met_to_half_a_step(bench):
    opened(bench, "ushers-y")
    states = len(bench.session.history.states)
    wished = pulled(bench, "fall", "Tail", 20)
    found = bench.session.findings
    assert len(bench.session.history.states) == states + 1  # a drag is one undo step
    chain = max(p.pitches_mm[0] for p in bench.session.piece.parts if hasattr(p, "pitches_mm"))
    assert found.readings.falls_mm["Tail"] == pytest.approx(wished, abs=chain)
    bench.session.step(-1)
    assert len(bench.session.piece.fits) == len(bench.session.history.states[0].piece.fits)


def test_a_pulled_sag_is_met_and_escape_lets_a_line_go(bench):
    opened(bench, "spotlight-swags")
    form, piece = bench.room.form, bench.session.piece
    bench.session.go(next(s for s in bench.session.by_spot if s.owner == "Swag 1"))
    wished = pulled(bench, "sag", "Swag 1", 8)
    assert bench.session.findings.readings.sags_mm["Swag 1"] == pytest.approx(wished, abs=2.0)
    bench.session.step(-1)
    assert bench.session.piece == piece
    bench.settled()
    form.grab()
    one = form.dimensions()[0]
    form.setFocus()
    form.pulled = (one, one.mm + 9)
    QTest.keyClick(form, KEY.Key_Escape)
    form.let_go()
    assert bench.session.piece == piece


def test_what_is_pointed_at_lights_up_and_says_its_letter(bench):
    found = opened(bench, "ushers-y")
    form = bench.room.form
    hover(form, place_of(bench, "Tail"))
    assert form.pointed is not None
    assert form.pointed.run == "Tail"
    assert found.assembly.letters[form.pointed.ref]
    hover(form, QPoint(3, form.height() - 3))
    assert form.pointed is None
    assert form.cursor().shape() == Qt.CursorShape.ArrowCursor


def test_the_wheel_holds_what_it_is_over_and_a_double_click_shows_all(bench):
    opened(bench, "ushers-y")
    form = bench.room.form
    at = place_of(bench, "Tail")
    for _ in range(4):
        wheel(form, at, 1)
    assert form.zoom == pytest.approx(1.2**4)
    assert (place_of(bench, "Tail") - at).manhattanLength() <= 3
    empty = QPoint(form.width() - 20, 20)
    QTest.mousePress(form, LEFT, pos=empty)
    QTest.mouseMove(form, empty - QPoint(30, 0))
    QTest.mouseRelease(form, LEFT, pos=empty - QPoint(30, 0))
    assert place_of(bench, "Tail").x() == pytest.approx(at.x() - 30, abs=3)
    QTest.mouseDClick(form, LEFT, pos=empty)
    assert (form.zoom, form.shift) == (1.0, QPointF(0, 0))


def test_the_wheel_on_the_rule_scrolls_and_zooms(bench):
    opened(bench, "gallery-tiers")
    rule, at = bench.room.rule, QPoint(400, 100)
    wheel(rule, at, 3, Qt.KeyboardModifier.ControlModifier)
    assert rule.zoom == pytest.approx(1.2**3)
    before = rule.origin()
    wheel(rule, at, -2, Qt.KeyboardModifier.ShiftModifier)
    assert rule.origin().x() < before.x()
    wheel(rule, at, -1)
    assert rule.origin().y() <= before.y()


def test_ends_of_chains_show_that_they_can_be_drawn(bench):
    opened(bench, "gallery-tiers")
    rule = bench.room.rule
    rule.grab()
    shapes = set()
    for x in range(95, rule.width(), 2):
        for lane in rule.rule.lanes:
            hover(rule, QPoint(x, round(rule.origin().y() + lane.y * rule.scale())))
            shapes.add(rule.cursor().shape())
    assert Qt.CursorShape.SizeHorCursor in shapes
    assert Qt.CursorShape.ArrowCursor in shapes


def test_checks_are_walked_and_clicked(bench):
    opened(bench, "gallery-tiers")
    heavy = replace(bench.session.piece, fits=(), heaviest_g=5.0)
    even = set_count(heavy, Spot("Tier 2", (-1,)), 114).piece
    bench.session.apply(Edited(even, "too heavy, and even"))
    bench.settled()
    checks = bench.room.side.checks
    assert len(checks.rows) > 1
    checks.setFocus()
    bench.press(KEY.Key_Up, KEY.Key_Down)
    assert checks.current == 1
    visited = []
    checks.visit_wanted.connect(visited.append)
    bench.press(KEY.Key_Return)
    QTest.mouseClick(checks.viewport(), LEFT, pos=QPoint(40, 10))
    assert visited == [checks.rows[1], checks.rows[0]]
    placed = next((c for c in checks.rows if c.run is not None), None)
    assert placed is not None
    commands.visit(bench.room, placed)
    assert bench.session.spot.owner == placed.run


def test_fits_are_walked_locked_and_taken_away(bench):
    opened(bench, "gallery-tiers")
    fits = bench.room.side.fits
    names = [one.fit.name for one in fits.rows]
    assert len(names) == 2
    QTest.mouseClick(fits.viewport(), LEFT, pos=QPoint(40, fits.height() - 8))
    bench.press(KEY.Key_Up, KEY.Key_Down, KEY.Key_L)
    bench.settled()
    assert [f.locked for f in bench.session.piece.fits] == [n == names[1] for n in names]
    bench.press(KEY.Key_L, KEY.Key_Delete)
    bench.settled()
    assert [f.name for f in bench.session.piece.fits] == names[:1]
    bench.press(KEY.Key_Plus)
    bench.settled()
    fit = bench.session.piece.fits[0]
    assert fit.locked or "no such answer yet" in bench.window.message.text()


def test_solving_is_stopped_by_escape(bench):
    opened(bench, "curtain-bib")
    assert not bench.session.stop_solving()  # nothing is being solved
    piece = bench.session.piece
    bench.session.apply(Edited(replace(piece, note="again"), "a note"))
    bench.qtbot.waitUntil(
        lambda: (
            bench.session.findings.assembly.piece is bench.session.piece or bench.session.at_rest
        ),
        timeout=15_000,
    )
    if not bench.session.at_rest:
        QTest.keyClick(bench.window, KEY.Key_Escape)
        assert "Stopped: the fits stay as they were" in bench.window.message.text()
    bench.settled()
    assert bench.session.piece.runs == piece.runs


def test_leaving_asks_before_edits_are_lost(bench, monkeypatch):
    opened(bench, "ushers-y")
    saved = []
    own = bench.desk.ask
    bench.desk.ask = lambda *words: Desk.ask(bench.desk, *words)
    may_leave = lambda: bench.desk.may_leave(lambda: saved.append(1) or True)  # noqa: E731
    assert may_leave()
    bench.press(KEY.Key_Plus)
    answers = (("Stay", False), ("", False), ("Give the edits up", True), ("Save", True))
    for words, leaves in answers:

        def clicked(box, words=words):
            return next((button for button in box.buttons() if button.text() == words), None)

        monkeypatch.setattr(QMessageBox, "exec", lambda _: None)
        monkeypatch.setattr(QMessageBox, "clickedButton", clicked)
        assert may_leave() is leaves
    assert saved == [1]
    bench.desk.ask = own


def test_the_table_for_every_wearer_is_saved_put_on_the_bench_or_stopped(
    bench, qtbot, tmp_path, monkeypatch
):
    opened(bench, "ushers-y")
    piece, wearers = bench.session.piece, demo_wearers()
    table = RegradeTable(piece, wearers, bench.session.jobs, bench.window)
    table.show()
    qtbot.waitUntil(lambda: bool(table.graded), timeout=30_000)
    path = tmp_path / "table.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    table.save_csv()
    assert path.read_text() == regrade_csv(table.graded)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "a" / "b"), ""))
    table.save_csv()
    assert "choose another place" in table.words.text()
    taken = []
    table.taken.connect(taken.append)
    table.cards.setCurrentRow(len(wearers) - 1)
    table.take.click()
    assert taken[0].wearer == wearers[-1]
    halted = RegradeTable(piece, wearers, bench.session.jobs, bench.window)
    halted.show()
    qtbot.keyClick(halted, KEY.Key_Escape)
    bench.qtbot.waitUntil(lambda: bench.session.jobs.is_idle("regrade"), timeout=5000)
    assert halted.graded == ()


@pytest.mark.parametrize("form", ["bust", "board"])
def test_postures_and_necklines_go_round(bench, form):
    opened(bench, "ushers-y")
    bench.session.apply(Edited(replace(bench.session.piece, form=Form(kind=form)), "on it"))
    field = "posture" if form == "bust" else "neckline"
    seen = []
    for _ in range(3):
        commands.next_posture(bench.room)
        seen.append(getattr(bench.session.piece.form, field))
    assert len(set(seen)) == 3
    assert seen[-1] == getattr(Form(kind=form), field)


@pytest.mark.qt_log_ignore("QSvgGenerator", "could not open", "QPainter::begin", extend=True)
def test_a_picture_that_cannot_be_written_says_so(bench, tmp_path, monkeypatch):
    opened(bench, "ushers-y")
    for name in ("picture.png", "picture.svg"):
        there = str(tmp_path / "no" / name)
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, there=there: (there, ""))
        with pytest.raises(DomainError, match=r"cannot be saved: .*; choose another place"):
            commands.save_picture(bench.room)


def test_a_refused_entry_is_typed_over(bench):
    opened(bench, "gallery-tiers")
    bench.session.go(next(s for s in bench.session.by_spot if s.path == (0,)))
    bench.type("4.5 cm")
    bench.press(KEY.Key_Return)
    assert "only chain takes a length" in bench.window.message.text()
    bench.type("2")
    bench.press(KEY.Key_Return)
    assert not bench.room.rule.entry.isVisible()
    assert "2" in bench.window.message.text()


def test_what_was_pointed_at_is_forgotten_with_its_piece(bench, qtbot):
    opened(bench, "lamplighters-collar")
    form = bench.room.form
    hover(form, place_of(bench, "Strand"))
    assert form.pointed is not None
    opened(bench, "hedge-bracelet")  # its parts are others
    with qtbot.captureExceptions() as raised:
        form.grab()
    assert raised == []
