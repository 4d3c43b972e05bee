"""Whole runs from the insert line, and the views that show them."""

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPixmap
from PySide6.QtTest import QTest

from maglia.app.painting.stamps import stamped
from maglia.app.rooms.bench.dimensions import Dimension
from maglia.app.rooms.bench.form_canvas import in_sight
from maglia.app.rooms.bench.letters import _widest
from maglia.app.rooms.bench.start_panel import idea_of
from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import Spot, opening_spot
from maglia.core.piece.piece import Form, Piece
from maglia.core.report import evaluate
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_path, demo_tray
from maglia.files.piece_json import read_piece
from saying import offers, said

TRAY = demo_tray()
KEY = Qt.Key


def demo(name):
    return read_piece(demo_path(name))


def grown(*lines, form="bust"):
    """A piece made of insert-line texts, the cursor where each left it."""
    piece, spot = Piece(form=Form(kind=form), wearer=TRAY.wearers[0]), None
    for line in lines:
        edited = said(line, piece, TRAY, spot)
        piece, spot = edited.piece, edited.spot or spot
    return piece, spot


def test_what_a_unit_is_made_of_comes_with_it():
    piece, _ = grown("smoked glass link")
    ids = {p.id for p in piece.parts} | {u.id for u in piece.units}
    assert {"lantern-link", "glass-8", "spacer-2", "wire-06", "ring-4"} <= ids
    expand(piece)


@pytest.mark.parametrize(
    ("clasp", "span"),
    [("lobster", 9.0), ("toggle clasp", 3.0), ("hook 16", 13.0), ("magnet", 12.0)],
)
def test_closing_finds_a_catch_that_it_can_bite(clasp, span):
    piece, _ = grown("101 rolo", "ring 4", clasp)
    found = evaluate(piece)
    catch = next(p for p in piece.parts if p.id == piece.closure.catch)
    assert found.closed_length_mm == pytest.approx(303 + 8 + span + catch.inner_mm)
    assert "clasp-cannot-bite" not in {c.code for c in found.checks}


def test_an_earring_begins_at_its_finding():
    piece, spot = grown(
        "ear hook", "ring 3", "seven-hole bar", "2 drops rose on 8 cable 2 at h2 and h6"
    )
    assert (piece.sort, piece.form.kind, piece.pair) == ("earring", "ear", True)
    assert piece.runs[0].lies == "fold"
    assert evaluate(piece).hung.state == "converged"
    assert spot == Spot("Earring", (2,))
    assert (piece.runs[1].lies, piece.runs[1].start.port) == ("paired", "h6")
    fine = next(p for p in piece.parts if p.id == piece.runs[1].items[0].part)
    assert fine.wire_mm <= 1.3 - 0.05 or piece.runs[1].items[0].kind == "chain"


def test_strands_are_joined_below_the_first():
    piece, spot = grown("201 cable 2", "ring 4", "lobster", "strand 105 cable 4", "strand 150 rolo")
    assert [r.name for r in piece.runs] == ["Strand", "Strand 2", "Strand 3"]
    assert spot == Spot("Strand 3", (-1,))
    assert piece.run("Strand 3").end.item == 1
    found = evaluate(piece)
    assert found.hung.state == "converged"
    assert [c.code for c in found.checks if c.severity == "stop"] == []


def test_swags_take_the_links_that_hang_a_quarter_deeper():
    piece, _ = grown("61 rolo", "ring 4", "lobster")
    (offer,) = offers("swags cable 2 between links 4 10 16", piece, TRAY, Spot("Strand", (-1,)))
    assert "a quarter longer" in offer.added
    row = offer.do().piece.rows[0]
    assert (row.places, row.items[0].links) == ((4, 10, 16), round(1.25 * 6 * 3 / 2))


def test_tied_rows_bands_and_their_refusals():
    piece, spot = grown("triangle 4 rose bib", "40 rolo", "ring 4", "lobster")
    assert piece.rows[0].rows == (4, 3, 2, 1)
    assert spot == Spot("Rows", (1,))
    assert evaluate(piece).closed_length_mm == pytest.approx(4 * 21.2 + 3 * 6 + 240 + 8 + 9 + 4)
    band, _ = grown("band 3 5 rose bib")
    assert band.rows[0].rows == (3,) * 5
    with pytest.raises(DomainError, match="without a mid ring"):
        grown("triangle 3 amber link")
    with pytest.raises(DomainError, match="empty bench"):
        said("triangle 3 rose bib", piece, TRAY, spot)


@pytest.mark.parametrize("name", demo_names())
def test_every_demo_piece_has_an_idea_among_the_starting_points(name):
    assert idea_of(demo(name)) in {
        "single", "tiers", "nested", "triangle", "swags", "linked", "lariat", "bracelet", "anklet",
        "earrings", "cluster",
    }  # fmt: skip


# --- the views ------------------------------------------------------------------------------------


def test_the_form_is_zoomed_about_the_pointer_and_moved(bench):
    form = bench.room.form
    there = QPointF(300, 200)
    inverse, _ = form.view().inverted()
    before = inverse.map(there)
    form.zoom_at(there, 3.0)
    inverse, _ = form.view().inverted()
    after = inverse.map(there)
    assert (after.x(), after.y()) == pytest.approx((before.x(), before.y()), abs=0.01)
    assert form.view().m11() == pytest.approx(3 * form.view().m11() / form.zoom)
    QTest.mousePress(form, Qt.MouseButton.MiddleButton, pos=QPoint(100, 100))
    QTest.mouseMove(form, QPoint(140, 90))
    QTest.mouseRelease(form, Qt.MouseButton.MiddleButton, pos=QPoint(140, 90))
    inverse, _ = form.view().inverted()
    moved = inverse.map(there + QPointF(40, -10))
    assert (moved.x(), moved.y()) == pytest.approx((before.x(), before.y()), abs=0.01)
    form.zoom_at(there, 0.01)
    assert (form.zoom, form.shift) == (1.0, QPointF(0, 0))


def test_the_loupe_shows_the_form_nearer(bench):
    form = bench.room.form
    plain = form.grab().toImage()
    form.toggle_loupe()
    near = form.grab().toImage()
    changed = sum(
        plain.pixel(x, y) != near.pixel(x, y)
        for x in range(0, plain.width(), 8)
        for y in range(0, plain.height(), 8)
    )
    assert changed > 50


def test_keys_on_the_form_are_those_of_the_rule(bench):
    bench.room.form.setFocus()
    links = lambda: bench.session.piece.runs[0].items[7].links  # noqa: E731
    bench.session.go(Spot("Strand", (7,)))
    bench.press(KEY.Key_Plus)
    assert links() == 38


def test_a_pull_is_left_by_escape(bench):
    form = bench.room.form
    one = form.dimensions()[0]
    form.setFocus()
    form.pulled = (one, one.mm)
    form.pull_to(QPointF(one.x, one.low + 30))
    assert form.pulled[1] == pytest.approx(one.mm + 30 / one.scale, abs=0.5)
    bench.press(KEY.Key_Escape)
    assert form.pulled is None
    assert len(bench.session.history.states) == 1


def test_dimension_lines_know_their_lower_end():
    one = Dimension("fall", ("A",), "A", 100, 50, 90, 20, 2.0, -40)
    assert one.holds(QPointF(103, 95))
    assert not one.holds(QPointF(103, 50))
    assert one.at(25).low == 100


def test_the_sag_of_a_chosen_swag_is_a_dimension_line(bench):
    bench.session.open(demo_path("spotlight-swags"), as_copy=True)
    bench.settled()
    assert [d.kind for d in bench.room.form.dimensions()].count("sag") == 0
    bench.session.go(Spot("Swag 1", (0,)))
    sag = next(d for d in bench.room.form.dimensions() if d.kind == "sag")
    assert sag.mm == pytest.approx(bench.session.findings.readings.sags_mm["Swag 1"])
    assert sag.low - sag.top == pytest.approx(sag.mm * sag.scale)


def test_only_one_half_is_on_the_rule(bench):
    """What a cluster carries left of the fold belongs to the other half."""
    bench.session.open(demo_path("hedge-bracelet"), as_copy=True)
    rule = bench.room.rule.rule
    assert rule.left > -8
    assert all(min(x for x, _ in laid.points) > -1e-6 for laid in rule.laid if laid.hangs)


def test_ranges_in_sight():
    gone = np.array([0, 0, 1, 1, 0, 0, 0, 1, 0], dtype=bool)
    assert in_sight(gone) == [(0, 2), (4, 7)]  # one point alone draws nothing


def test_a_stamp_prints_what_is_drawn_and_paper_gets_lines(qtbot):
    drawn = []

    def square(painter):
        drawn.append(1)
        painter.fillRect(QRectF(0, 0, 2, 2), QColor("red"))

    def picture(target):
        painter = QPainter(target)
        painter.scale(10, 10)
        painter.translate(1, 1)
        stamped(painter, ("test", len(drawn)), QRectF(0, 0, 2, 2), square)
        stamped(painter, ("test", 0), QRectF(0, 0, 2, 2), square)
        painter.end()

    image = QPixmap(40, 40)
    image.fill(QColor("white"))
    picture(image)
    shown: QImage = image.toImage()
    assert shown.pixelColor(20, 20) == QColor("red")
    assert shown.pixelColor(35, 35) == QColor("white")
    assert len(drawn) == 1  # the second one came from the stamp


def test_only_long_names_are_cut():
    assert _widest([50, 60, 70], 300) == 70
    assert _widest([40, 40, 200], 160) <= 80
    assert _widest([], 100) == 0


def test_units_change_what_is_left_over_too(bench):
    bench.settled()
    bench.press(KEY.Key_U, modifier=Qt.KeyboardModifier.ControlModifier)
    assert bench.session.unit == "cm"
    assert "-0.08" in bench.room.side.fits.accessibleDescription()
    assert bench.room.side.readings.rows[0].hint == "-0.08 cm"


def test_a_new_piece_keeps_the_wearer_and_begins_on_the_bust(bench):
    bench.session.apply(commands_dressed(bench.session.piece, bench.session.tray.wearers[1]))
    bench.session.start_new()
    assert bench.session.piece.wearer == bench.session.tray.wearers[1]
    assert bench.session.piece.form.kind == "bust"
    assert opening_spot(bench.session.piece) is None


def commands_dressed(piece, wearer):
    from maglia.core.edits.spots import Edited

    return Edited(replace(piece, wearer=wearer), f"for {wearer.role}")
