"""Fits on the bench: written in the insert line, pulled on the form, pinned by hand."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from maglia.app.rooms.bench.readings import gauges
from maglia.core.edits.spots import Spot, count_at
from maglia.core.fit.hold import held
from maglia.core.fit.pull import fall_pulled, gap_pulled, sag_pulled
from maglia.core.piece.wishes import HemFit, LengthFit, SagFit, TiersFit
from maglia.core.report import evaluate
from maglia.core.values.record import DomainError
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece

KEY = Qt.Key


def demo(name):
    return read_piece(demo_path(name))


def solved(bench):
    """Wait until the fits of the piece as it is now are solved and it hangs so."""
    return bench.settled()


def test_a_wish_in_the_insert_line_is_solved_and_is_one_step(bench):
    before = bench.session.piece
    bench.insert("length 450")
    found = solved(bench)
    assert found.closed_length_mm == pytest.approx(449.2)
    assert len(bench.session.history.states) == 2
    row = gauges(found, str)[0]
    assert row.target == 450
    assert row.hint == "-0.8 mm"
    assert "-0.8" in bench.room.side.fits.accessibleDescription()
    bench.session.step(-1)
    assert bench.session.piece == before


def test_forms_of_a_wish_are_offered_and_filled_in(bench):
    bench.press(KEY.Key_Return)
    bench.type("fall")
    bench.press(KEY.Key_Return)
    assert bench.room.insert.line.text() == "fall of NAME 60"
    assert bench.room.insert.line.selectedText() == "NAME"
    bench.type("Strand")
    bench.press(KEY.Key_Return)
    assert any(fit.name == "fall of Strand" for fit in bench.session.piece.fits)


def test_pulling_a_dimension_line_fits_what_is_behind_it(bench):
    bench.session.open(demo_path("gallery-tiers"), as_copy=True)
    solved(bench)
    form = bench.room.form
    gap = next(d for d in form.dimensions() if d.names == ("Tier 2", "Tier 3"))
    at = QPoint(round(gap.x), round(gap.low))
    QTest.mousePress(form, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(form, at + QPoint(0, 24))
    assert form.pulled is not None
    assert len(bench.session.history.states) == 1
    QTest.mouseRelease(form, Qt.MouseButton.LeftButton, pos=at + QPoint(0, 24))
    found = solved(bench)
    fit = next(f for f in bench.session.piece.fits if f.kind == "tiers")
    wished = gap.mm + 24 / gap.scale
    assert fit.gaps_mm[0] == 49.0
    assert sum(fit.gaps_mm) + fit.first_fall_mm == pytest.approx(
        found.readings.falls_mm["Tier 2"] + wished, abs=1.0
    )
    assert found.readings.gaps_mm[1][2] == pytest.approx(wished, abs=4.5)  # half a step of 8 mm
    assert len(bench.session.history.states) == 2


def test_every_reading_can_be_pulled():
    tiers = demo("gallery-tiers")
    read = evaluate(tiers).readings
    first = fall_pulled(tiers, read, "Tier 1", 12.2)
    assert isinstance(first, TiersFit)
    assert first.first_fall_mm == 12.0
    foot = fall_pulled(tiers, read, "Fringe 0", 80)
    assert foot == HemFit(name="hem of Fringe", row="Fringe", foot_mm=80.0)
    with pytest.raises(DomainError, match="above zero"):
        gap_pulled(tiers, read, "Tier 1", "Tier 2", -3)
    pearls = demo("box-office-pearls")
    gap = gap_pulled(pearls, evaluate(pearls).readings, "Upper", "Middle", 20)
    assert (gap.strands, gap.gaps_mm[0]) == (("Upper", "Middle", "Lower"), 20.0)
    assert sag_pulled(demo("spotlight-swags"), "Swag 1", 7.3) == SagFit(
        name="sag of Swag 1, Swag 2", swags=("Swag 1", "Swag 2"), sag_mm=7.5
    )
    assert fall_pulled(demo("ushers-y"), read, "Y", 70) == LengthFit(
        name="fall of Y", run="Y", to="fall", mm=70.0
    )


def test_the_hand_wins_over_a_fit(bench):
    bench.session.open(demo_path("gallery-tiers"), as_copy=True)
    solved(bench)
    bench.room.rule.setFocus()
    bench.press(KEY.Key_Down)
    assert bench.session.spot == Spot("Tier 2", (-1,))
    bench.press(KEY.Key_Plus, KEY.Key_Plus)
    solved(bench)
    assert count_at(bench.session.piece, bench.session.spot)[0] == 115
    assert [q.run for q in bench.session.piece.pinned] == ["Tier 2"]
    assert "Not met: tiers" in bench.window.message.text()
    bench.press(KEY.Key_P)  # free again: the fit takes it back
    solved(bench)
    assert bench.session.piece.pinned == ()
    assert count_at(bench.session.piece, Spot("Tier 2", (-1,)))[0] == 113


def test_rows_changed_by_hand_lock_their_fit():
    from msgspec.structs import replace

    piece = demo("gallery-tiers")
    changed = replace(piece, rows=(replace(piece.rows[0], every=5),))
    fit = next(f for f in held(piece, changed, None).fits if f.kind == "places")
    assert fit.locked


def test_the_list_of_fits_locks_takes_beside_and_takes_away(bench):
    solved(bench)
    bench.insert("length 450")
    solved(bench)
    bench.press(KEY.Key_J, modifier=Qt.KeyboardModifier.ControlModifier)
    fits = bench.room.side.fits
    assert fits.hasFocus()
    bench.press(KEY.Key_Plus)
    assert solved(bench).closed_length_mm == pytest.approx(455.2)
    assert bench.session.piece.fits[0].locked
    bench.press(KEY.Key_L)
    assert solved(bench).closed_length_mm == pytest.approx(449.2)
    bench.press(KEY.Key_Return)
    assert bench.room.insert.line.text() == "length 450 mm"
    bench.press(KEY.Key_Escape)
    fits.setFocus()
    bench.press(KEY.Key_Delete)
    assert bench.session.piece.fits == ()


def test_the_table_for_every_wearer(bench):
    bench.session.open(demo_path("ushers-y"), as_copy=True)
    bench.press(KEY.Key_W, modifier=Qt.KeyboardModifier.ControlModifier)
    from maglia.app.rooms.bench.regrade_table import RegradeTable

    table = bench.window.findChild(RegradeTable)
    bench.qtbot.waitUntil(lambda: bool(table.graded), timeout=15_000)
    assert table.table.columnCount() == 3
    assert "of 3 wearers" in table.words.text()
    said = [table.cards.item(row).text() for row in range(table.cards.count())]
    assert said[0].startswith("the lamplighter\n")  # then the figures that differ, and no other
    assert "role" not in " ".join(said)
    assert table.table.isHidden()
    table.all.click()
    assert table.table.isVisible()
    table.all.click()
    bench.qtbot.waitUntil(lambda: not table.cards.item(2).icon().isNull(), timeout=15_000)
    table.cards.setCurrentRow(2)
    table.take_current()
    assert bench.session.piece.wearer == bench.session.tray.wearers[2]
