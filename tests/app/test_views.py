"""What the views say and where they lay things, checked against the core's own numbers."""

from itertools import pairwise

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt

from maglia.app import piece_commands
from maglia.app.painting.body import HIDDEN_MM, is_hidden
from maglia.app.painting.ruler import names_width
from maglia.app.rooms.bench.readings import gauges
from maglia.app.rooms.bench.rule_layout import is_unfolded, lay_out
from maglia.app.session.session import Session
from maglia.core.assembly.assembly import link_from_fold
from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import WHOLE, Spot
from maglia.core.hang.forms import bust, sight
from maglia.core.piece.items import PartItem
from maglia.core.piece.piece import Form
from maglia.core.report import evaluate
from maglia.core.values.measures import format_length
from maglia.demo import demo_names, demo_path, demo_tray
from maglia.files.piece_json import read_piece
from maglia.files.tables import counts_csv, cut_list_csv
from windows import shell
from workshop import chain, drop, piece, rings, strand, unit

KEY = Qt.Key


def demo(name):
    return read_piece(demo_path(name))


@pytest.mark.parametrize("name", demo_names())
def test_every_lane_has_the_true_length_of_its_run(name):
    assembly = expand(demo(name))
    rule = lay_out(assembly)
    by_run = {path.run: path for path in assembly.paths}
    for lane in rule.lanes:
        path = by_run[lane.name]
        whole = path.length_mm
        assert lane.end - lane.start <= whole + 1e-6
        if path.side == "fold" and not is_unfolded(assembly) and not path.closed:
            assert lane.end == pytest.approx(whole / 2)


@pytest.mark.parametrize("name", demo_names())
def test_nothing_is_left_off_the_rule(name):
    assembly = expand(demo(name))
    rule = lay_out(assembly)
    shown = {laid.member.id for laid in rule.laid}
    mirrored = {
        joint.b
        for joint in assembly.joints
        if not joint.inline
        and isinstance(joint.port_a, int)
        and link_from_fold(assembly.members[joint.a], joint.port_a)[0] == "left"
    }
    left_out = [
        m for m in assembly.members
        if m.id not in shown and m.side != "left" and m.run != "closure" and m.id not in mirrored
    ]  # fmt: skip
    assert left_out == []
    for laid in rule.laid:
        left, top, right, bottom = laid.box
        assert left <= right
        assert top <= bottom


def test_drops_stand_at_their_places_on_the_ruler():
    # Fringe: every fourth link of 4 mm from the fold, link 0 on it
    rule = lay_out(expand(demo("gallery-tiers")))
    at = {
        laid.member.run: laid.points[0][0]
        for laid in rule.laid
        if laid.member.run.startswith("Fringe") and laid.member.kind == "ring"
    }
    assert at == pytest.approx({"Fringe 0": 0, "Fringe 1": 16, "Fringe 2": 32, "Fringe 3": 48})


def test_a_piece_with_sides_of_their_own_is_unfolded():
    assert is_unfolded(expand(demo("props-table-bracelet")))
    assert not is_unfolded(expand(demo("spotlight-swags")))  # an extender alone does not
    assert lay_out(expand(demo("props-table-bracelet"))).left < -50


def test_gauges_read_what_the_core_computed():
    found = evaluate(demo("lamplighters-collar"))
    rows = {g.name: g for g in gauges(found, lambda mm: format_length(mm, "in"))}
    assert rows["closed length"].words == "16¼″"
    assert rows["closed length"].value == pytest.approx(413.2)
    assert rows["weight"].value == pytest.approx(found.balance.total_g)
    assert rows["fall, Middle drop"].value == pytest.approx(found.readings.falls_mm["Middle drop"])
    named = evaluate(demo("curtain-bib"))
    closed = gauges(named, str)[0]
    assert (closed.hint, closed.band) == ("princess", (430, 490))


def test_lists_as_csv():
    found = evaluate(demo("lamplighters-collar"))
    cuts = cut_list_csv(found).splitlines()
    assert cuts[1] == "Rolo chain 3 mm,b,37,111.00,2"
    assert len(cuts) == 1 + len(found.cuts)
    rows = {line.split(",")[0]: line.split(",") for line in counts_csv(found).splitlines()}
    assert rows["Jump ring 4 mm"][3:] == ["24", "", "17", "7"]
    assert rows["Brass wire 0.6 mm"][3] == "0"
    assert float(rows["Brass wire 0.6 mm"][4]) > 700


def test_the_rule_keeps_the_cursor_in_sight_when_close(bench):
    rule = bench.room.rule
    for _ in range(8):
        rule.zoom_by(1.25)
    bench.press(KEY.Key_End)
    box = rule._cursor_box()
    assert box.right() <= rule.width()
    bench.press(KEY.Key_Home)
    assert rule._cursor_box().right() > 90
    for _ in range(20):
        rule.zoom_by(0.8)
    assert rule.zoom == 1.0
    assert rule.moved_by == QPointF(0, 0)


def pixels(picture):
    image = picture.toImage()
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), -1)
    return rows.astype(int)


@pytest.mark.parametrize("name", ["gallery-tiers", "curtain-bib", "footlight-cones"])
def test_scrolling_paints_what_painting_afresh_does(bench, name):
    bench.session.open(demo_path(name), as_copy=True)
    rule = bench.room.rule
    rule.zoom_by(4.0)
    bench.press(KEY.Key_Home)
    for step in (7.0, 100.0, -31.0, 55.5, -12.0):
        rule.grab()
        rule.scroll_by(step, 0.0)
        kept, afresh = pixels(rule._picture), pixels(rule._drawn())
        assert np.abs(kept - afresh).max() <= 2, step  # of 255: roundings of where a stamp lies


def test_zoom_holds_what_the_cursor_is_on(bench):
    rule = bench.room.rule
    bench.press(KEY.Key_End)
    before = rule._cursor_box().center().x()
    rule.zoom_by(1.5)
    assert rule._cursor_box().center().x() == pytest.approx(before, abs=40)  # kept in sight, too
    assert rule.origin().x() < names_width()  # the fold is away: it is marked at the edge


def test_the_mark_walks_along_the_links(bench):
    control = Qt.KeyboardModifier.ControlModifier
    bench.press(*[KEY.Key_Right] * 8)
    bench.press(KEY.Key_Right, KEY.Key_Right, modifier=control)
    assert bench.session.cursor.mark == 2
    one = bench.room.rule.mark_place()
    bench.press(KEY.Key_Right, modifier=control)
    assert bench.room.rule.mark_place().x() - one.x() == pytest.approx(3 * bench.room.rule.scale())
    bench.press(*[KEY.Key_Left] * 9, modifier=control)
    assert bench.session.cursor.mark == 1


def test_tied_rows_are_counted_as_a_whole(bench):
    bench.session.open(demo_path("curtain-bib"), as_copy=True)
    bench.room.rule.setFocus()
    assert bench.session.spot == Spot("Bib", WHOLE)
    bench.press(KEY.Key_Minus)
    assert bench.session.piece.rows[0].rows == (4, 3, 2, 1)
    assert {c.id: c.count for c in bench.settled().counts}["bib-link"] == 10
    assert "rows of 4, 3, 2, 1" in bench.room.rule.accessibleDescription()


def test_wearer_form_units_and_theme_follow_at_once(bench):
    control = Qt.KeyboardModifier.ControlModifier
    wearer = bench.session.tray.wearers[2]
    before = bench.settled().readings.falls_mm["Strand"]
    piece_commands.dress(bench.desk, wearer)
    assert bench.settled().assembly.piece.wearer.role == "the stage hand"
    assert bench.session.findings.readings.falls_mm.get("Strand", -99) < before
    bench.press(KEY.Key_U, modifier=control)
    assert bench.window.units.text().startswith("cm")
    theme = bench.desk.theme.name
    bench.press(KEY.Key_T, modifier=control)
    assert bench.desk.theme.name != theme
    bench.press(KEY.Key_F, modifier=control)
    assert bench.session.piece.form.kind == "wrist"
    assert bench.settled().hung.form.kind == "wrist"


def test_every_widget_that_takes_keys_has_a_name(bench):
    from PySide6.QtWidgets import QAbstractButton, QLineEdit, QWidget

    for widget in bench.window.findChildren(QWidget):
        takes = widget.focusPolicy() & Qt.FocusPolicy.TabFocus
        if takes and isinstance(widget, QLineEdit | QAbstractButton) and widget.isVisible():
            assert widget.accessibleName() or getattr(widget, "text", str)(), widget


def test_the_insert_line_runs_actions_too(bench):
    bench.press(KEY.Key_Return)
    bench.type("felt")
    assert "felt, slate" in bench.room.insert.rows.words(bench.room.insert.rows.rows[0])
    bench.press(KEY.Key_Escape)
    assert bench.window.focusWidget() is bench.room.rule
    bench.press(KEY.Key_Return)
    bench.type("qqqq")
    bench.press(KEY.Key_Return)
    assert bench.room.insert.isVisible()
    assert "“qqqq” is not known here" in bench.room.insert.rows.words(
        bench.room.insert.rows.rows[0]
    )


def test_what_the_body_hides_is_what_stands_behind_its_surface():
    # second method: a line of sight for each point instead of the raster of the picture
    body = bust(350.0, Form(kind="bust"))
    x, z = np.random.default_rng(7).uniform((-160, -250), (160, 100), (400, 2)).T
    y, nearest = sight(body, x, z)
    points = np.stack([x, y, z], axis=1)
    plain = (nearest < 0.05) & (body.evaluate(points).gradient[:, 1] > 0.4)  # not at its outline
    assert plain.sum() > 150
    before, behind = points[plain] + (0, 1 - HIDDEN_MM, 0), points[plain] - (0, 1 + HIDDEN_MM, 0)
    assert not is_hidden(body, before, side=False).any()
    assert is_hidden(body, behind, side=False).all()
    assert not is_hidden(body, points + np.array([400, 0, 0]), side=False).any()  # beside the body


@pytest.mark.parametrize("size", [(1280, 800), (1024, 700), (900, 600)])
def test_many_checks_never_run_over_what_is_below_them(qtbot, size):
    """Six checks with long words, at a height that brings a bar for scrolling and takes width."""
    many = piece(
        strand(chain(51), rings(), unit("link"), rings(), chain(20)),
        *(drop(f"D{k}", 10 + k, rings(), unit("dangle"), lies="free", side="left") for k in (1, 2)),
        drop("C", 0, PartItem(part="charm"), lies="fold"),
    )
    bad = {
        "pin": {"length_mm": 14.0, "name": "A head pin with a long name"},
        "bead": {"hole_mm": 0.6},
        "clasp": {"jaw_wire_mm": 3.0, "gape_mm": 0.5},
    }
    parts = tuple(replace(part, **bad.get(part.id, {})) for part in many.parts)
    session = Session(demo_tray())
    session._reset(replace(many, parts=parts), None)
    window = shell(session)
    qtbot.addWidget(window)
    window.resize(*size)
    window.show()
    qtbot.waitUntil(lambda: session.at_rest, timeout=15_000)
    qtbot.wait(20)
    checks = window.room.side.checks
    assert len(checks.rows) >= 6
    delegate, width = checks.itemDelegate(), checks.viewport().width()
    bottoms = []
    for k, row in enumerate(checks.rows):
        box = checks.visualRect(checks.model_rows.index(k))
        assert box.height() >= delegate.height(row, width)
        bottoms.append(box.bottom())
    assert bottoms == sorted(bottoms)
    assert bottoms[-1] < checks.height()
    session.finish()


def test_only_necklaces_are_called_by_a_necklace_s_length():
    names = {
        name: gauges(evaluate(read_piece(demo_path(name))), str, "mm")[0].hint
        for name in ("hedge-bracelet", "ushers-y")
    }
    assert "matinee" not in names["hedge-bracelet"]
    wide = replace(read_piece(demo_path("ushers-y")), sort="bracelet", fits=())
    assert gauges(evaluate(wide), str, "mm")[0].hint == ""
    assert gauges(evaluate(replace(wide, sort="necklace")), str, "mm")[0].hint == "matinee"


def test_nothing_on_the_rule_lies_over_its_twin():
    """Dangles of one link stand on both its sides; drops of one ring beside each other."""
    assembly = expand(read_piece(demo_path("hedge-bracelet")))
    laid = lay_out(assembly).laid
    carried = [one for one in laid if one.member.kind == "dangle"]
    lane = next(one for one in laid if one.member.kind == "chain").points[0][1]
    up = [one for one in carried if one.points[-1][1] < lane]
    assert 0 < len(up) < len(carried)
    star = expand(read_piece(demo_path("star-shower-pendant")))
    charms = sorted(one.box for one in lay_out(star).laid if one.member.kind == "charm")
    assert len(charms) == 5
    assert all(one[2] <= other[0] + 1e-6 for one, other in pairwise(charms))
