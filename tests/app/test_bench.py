"""The Bench by keyboard: the window is real, only the screen is missing."""

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog

from maglia.app.house import ACTIONS, ROOMS
from maglia.app.icon import FOLDER
from maglia.app.theme import THEMES
from maglia.core.edits.spots import CENTRE, Spot, count_at, item_of
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import read_piece

KEY, CTRL, SHIFT = Qt.Key, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
CHAIN = Spot("Strand", (7,))


def links(bench):
    return item_of(bench.session.piece, CHAIN).links


def test_walking_and_counting(bench):
    bench.press(*[KEY.Key_Right] * 8)
    assert bench.session.spot == CHAIN
    bench.press(KEY.Key_Plus)
    assert links(bench) == 38
    bench.press(KEY.Key_Minus, modifier=SHIFT)
    assert links(bench) == 33
    closed = bench.settled().closed_length_mm
    assert closed == pytest.approx(413.2 - 2 * 4 * 3)
    bench.press(KEY.Key_Home)
    assert bench.session.spot == Spot("Strand", (CENTRE,))
    bench.press(KEY.Key_Down)
    assert bench.session.spot.owner == "Middle drop"


@pytest.mark.parametrize(
    ("written", "count"), [("120", 40), ("31 links", 31), ("12cm", 40), ("=90/2", 15), ('4.5"', 38)]
)
def test_digits_write_a_length_or_a_count(bench, written, count):
    bench.press(*[KEY.Key_Right] * 8)
    if written[0].isdigit():
        bench.type(written)
    else:
        bench.room.rule.start_entry(written)
    bench.press(KEY.Key_Return)
    assert links(bench) == count
    assert bench.window.focusWidget() is bench.room.rule


def test_a_length_keeps_a_link_on_the_fold(bench):
    bench.session.start_new()
    bench.insert("31 cable 4")
    bench.insert("drop leaf")
    bench.press(KEY.Key_Up)
    bench.type("160")  # 40 links would be exact, but 39 or 41 leave one on the fold
    bench.press(KEY.Key_Return)
    assert item_of(bench.session.piece, Spot("Strand", (CENTRE,))).links == 39
    assert bench.window.message.text() == "Strand: 31 → 39 links, 4.0 mm short."


def test_what_cannot_be_read_is_said_and_nothing_changes(bench):
    before = bench.session.piece
    bench.press(*[KEY.Key_Right] * 8)
    bench.type("12 ells")
    bench.press(KEY.Key_Return)
    assert bench.session.piece is before
    assert "“ells”" in bench.window.message.text()
    bench.press(KEY.Key_Escape)
    assert bench.window.focusWidget() is bench.room.rule


def test_undo_and_redo_go_all_the_way(bench):
    first = bench.session.piece
    bench.press(*[KEY.Key_Right] * 8)
    bench.press(*[KEY.Key_Plus] * 6, KEY.Key_Delete)
    last = bench.session.piece
    for _ in range(9):
        bench.session.step(-1)
    assert bench.session.piece is first
    assert bench.window.message.text() == "Nothing to undo."
    for _ in range(9):
        bench.session.step(1)
    assert bench.session.piece is last
    assert bench.settled().hung.state == "too short"  # without its sides


def test_an_edit_that_cannot_be_built_is_refused(bench):
    before = bench.session.piece
    bench.press(KEY.Key_Delete)  # the mid ring of the centre link carries the middle drop
    assert bench.session.piece is before
    assert bench.window.message.text().startswith("Not done: ")


def test_a_necklace_from_an_empty_bench(bench):
    bench.session.start_new()
    assert bench.session.piece.runs == ()
    bench.insert("31 cable 4")
    bench.insert("ring 4 mm")
    bench.insert("lobster")
    bench.press(KEY.Key_Home)
    bench.insert("drops every 5 amber")
    found = bench.settled()
    # 31 × 4 + 2 × 4 + lobster 9 + catch 4 = 145
    assert found.closed_length_mm == pytest.approx(145.0)
    assert {r.name for r in found.lengths} == {"Strand", "Drops 0", "Drops 1", "Drops 2", "Drops 3"}
    counted = {c.id: c.count for c in found.counts}
    assert counted["amber-dangle"] == 7
    assert found.hung.state == "too short"  # 145 mm go round no neck, and it says so


def test_a_drop_hangs_at_the_mark(bench):
    bench.press(*[KEY.Key_Right] * 8)
    bench.press(*[KEY.Key_Right] * 4, modifier=CTRL)
    bench.insert("drop leaf")
    new = bench.session.piece.runs[-1]
    assert (new.lies, new.start.item, new.start.at) == ("paired", 8, 4)
    assert bench.session.spot == Spot("Strand", (7,))  # and the next one hangs beside it
    assert bench.session.cursor.mark == 4


def test_after_a_repeat_is_made_the_cursor_walks_and_counts(bench):
    bench.press(*[KEY.Key_Right] * 2)
    bench.press(KEY.Key_X)
    spot = bench.session.spot
    assert bench.session.members_at(spot)
    bench.press(KEY.Key_Plus)
    assert count_at(bench.session.piece, spot) == (3, "repeats")
    bench.press(KEY.Key_Right)
    assert bench.session.spot.path[0] == spot.path[0] + 1
    bench.press(KEY.Key_Left)
    assert bench.session.spot.within(spot)


def test_wire_and_beads_are_unfolded_by_a_key(bench):
    ready = bench.room.side.ready
    folded = len(ready.rows)
    assert ready.rows[-1].amount == "W"
    bench.press(KEY.Key_W)
    assert len(ready.rows) > folded
    assert all(row.amount != "W" for row in ready.rows)
    bench.press(KEY.Key_W)
    assert len(ready.rows) == folded


def test_nothing_is_called_right_while_it_is_still_being_looked_at(bench):
    assert "Nothing to mend" in bench.room.side.checks.empty
    bench.press(KEY.Key_Right, KEY.Key_Plus)
    assert bench.room.side.checks.empty == "…"
    bench.settled()
    assert bench.room.side.checks.empty != "…"


def test_pointing_lights_up_the_same_part_in_both_views(bench):
    bench.settled()
    view = bench.room.form.view()
    found = bench.session.findings
    target = next(m for m in found.assembly.members if m.run == "Drop 2" and m.kind == "dangle")
    x, _, y = found.hung.points_of(target.id).mean(axis=0)
    at = view.map(QPointF(x, -y))
    bench.qtbot.mouseClick(bench.room.form, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert bench.session.spot == Spot("Drop 2", (2,))
    assert target in bench.session.members_at(bench.session.spot)
    laid = next(one for one in bench.room.rule.rule.laid if one.member.run == "Drop 3")
    box = laid.box
    rule = bench.room.rule
    place = rule.origin() + QPointF((box[0] + box[2]) / 2, (box[1] + box[3]) / 2) * rule.scale()
    bench.qtbot.mouseClick(rule, Qt.MouseButton.LeftButton, pos=place.toPoint())
    assert bench.session.spot.owner == "Drop 3"


def test_saving_opening_and_lists(bench, tmp_path, monkeypatch):
    for name, path in (("getSaveFileName", "a.json"), ("getOpenFileName", "a.json")):
        chosen = (str(tmp_path / path), "")
        monkeypatch.setattr(QFileDialog, name, lambda *a, chosen=chosen: chosen)
    bench.press(*[KEY.Key_Right] * 8, KEY.Key_Plus)
    assert bench.session.edited
    bench.press(KEY.Key_S, modifier=CTRL)
    assert not bench.session.edited
    assert read_piece(tmp_path / "a.json") == bench.session.piece
    bench.press(KEY.Key_O, modifier=CTRL)
    assert links(bench) == 38
    bench.settled()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "cuts.csv"), ""))
    bench.press(KEY.Key_E, modifier=CTRL)
    lines = (tmp_path / "cuts.csv").read_text().splitlines()
    assert lines[:2] == ["chain,letter,links,length_mm,count", "Rolo chain 3 mm,b,38,114.00,2"]


def test_a_bad_file_leaves_the_open_piece(bench, tmp_path, monkeypatch):
    before = bench.session.piece
    (tmp_path / "bad.json").write_text("{")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(tmp_path / "bad.json"), ""))
    bench.press(KEY.Key_O, modifier=CTRL)
    assert bench.session.piece is before
    assert "bad.json" in bench.window.message.text()


def test_of_a_held_key_no_press_is_lost_and_shapes_come_on_the_way(bench):
    """A hang that was begun is shown; the last one shown is that of the piece as it is now."""
    bench.press(*[KEY.Key_Right] * 8)
    shapes = []
    bench.session.found.connect(lambda: shapes.append(bench.session.findings.assembly.piece))
    for _ in range(12):
        bench.press(KEY.Key_Plus)
        bench.qtbot.wait(20)
    found = bench.settled()
    assert links(bench) == 49
    assert found.assembly.piece is bench.session.piece is shapes[-1]
    assert len(shapes) > 2  # not only the last one
    assert len({id(piece) for piece in shapes}) < 13  # and not every one


def test_a_check_is_visited_and_repaired_by_key(bench):
    bench.session.start_new()
    bench.insert("30 cable 4")
    bench.press(KEY.Key_Home)
    bench.insert("drop leaf")
    bench.settled()
    panel = bench.room.side.checks
    assert panel.rows[0].code in ("no-link-on-fold", "hang-too-short")
    panel.current = [c.code for c in panel.rows].index("no-link-on-fold")
    panel.setFocus()
    bench.press(KEY.Key_R)
    assert item_of(bench.session.piece, Spot("Strand", (CENTRE,))).links == 31


@pytest.mark.parametrize("theme", THEMES)
@pytest.mark.parametrize("unit", ["mm", "cm", "in"])
@pytest.mark.parametrize("size", [(1280, 800), (1024, 700)])
def test_every_theme_unit_and_size_is_painted(bench, theme, unit, size):
    bench.desk.set_theme(THEMES[theme])
    bench.session.show_in(unit)
    bench.window.resize(*size)
    image = bench.window.grab().toImage()
    assert (image.width(), image.height()) == size
    mat = THEMES[theme].colour("mat").rgb()
    form = bench.room.form
    corner = form.mapTo(bench.window, form.rect().topLeft())
    plain = image.convertToFormat(QImage.Format.Format_RGB32)
    assert plain.pixel(corner.x() + 3, corner.y() + 3) == mat


@pytest.mark.parametrize("name", demo_names())
def test_every_demo_piece_is_shown_from_both_sides(bench, name):
    bench.session.open(demo_path(name), as_copy=True)
    assert bench.settled().hung.state == "converged"
    front = bench.room.form.grab().toImage()
    bench.press(KEY.Key_I, modifier=CTRL)
    side = bench.room.form.grab().toImage()
    assert (front != side) == (bench.settled().hung.form is not None)
    bench.press(KEY.Key_G, modifier=CTRL)
    bench.room.form.grab()


def test_every_action_has_its_own_key_words_and_an_icon():
    every = [*ACTIONS, *(action for room in ROOMS for action in room.actions)]
    for room in ROOMS:  # the keys of one room and of the house do not meet
        keys = [a.keys for a in (*ACTIONS, *room.actions)] + [other.key for other in ROOMS]
        assert len(set(keys)) == len(keys), room.id
    assert len({a.id for a in every}) == len({a.words for a in every}) == len(every)
    assert all((FOLDER / f"{a.icon}.svg").exists() for a in every)


def test_what_was_kept_on_an_empty_bench_stays_to_be_read(bench):
    bench.session.start_new()
    bench.insert("new beads ember 3, ash 7, all hole 1 glass")
    assert bench.window.message.text() == "ember 3, ash 7 kept."
