"""Designing from nothing by keyboard: pieces are built, changed, undone, kept and found again."""

import json
import random

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QObject, QPoint, QPointF, QProcess, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QInputDialog, QWidget

from maglia.app.guide import Guide
from maglia.app.panel import Panel
from maglia.app.rooms.bench import commands
from maglia.app.session.session import Session
from maglia.app.settings import DEFAULTS, Settings
from maglia.app.start import Wishes, open_first
from maglia.app.theme import THEMES
from maglia.app.trade_words import explained
from maglia.core.checks.found import Check
from maglia.core.edits.spots import Spot
from maglia.core.fit.solve import solve
from maglia.core.piece.piece import Way
from maglia.core.report import as_json, evaluate
from maglia.core.workshop.skeleton_kit import Asked
from maglia.core.workshop.skeletons import SKELETONS, started
from maglia.demo import demo_path, demo_tray
from maglia.files.piece_json import read_piece

KEY = Qt.Key
CONTROL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


def empty(bench):
    bench.press(KEY.Key_N, modifier=CONTROL)
    bench.press(KEY.Key_Escape)
    assert bench.room.rule.hasFocus()


def at(bench, owner, path):
    """Walk to a spot by keys alone."""
    for _ in range(40):
        if bench.session.spot.owner == owner:
            break
        bench.press(KEY.Key_Up)
    for _ in range(40):
        if bench.session.spot.owner == owner:
            break
        bench.press(KEY.Key_Down)
    bench.press(KEY.Key_Home)
    for _ in range(400):
        if bench.session.spot.path == path:
            return
        bench.press(KEY.Key_Right)
    raise AssertionError(f"{owner} has no {path}: {bench.window.message.text()}")


def test_the_demo_necklace_from_an_empty_bench(bench):
    empty(bench)
    bench.insert("smoked glass link")
    for _ in range(3):
        bench.insert("ring 4")
        bench.insert("smoked glass link")
    for words in ("ring 4", "37 links rolo", "ring 4", "close lobster into ring 5"):
        bench.insert(words)
    at(bench, "Strand", (-1,))
    bench.insert("drop teal on 9 rolo with ring 4")
    for item, links in ((0, 7), (2, 5), (4, 3)):
        at(bench, "Strand", (item,))
        bench.insert(f"drop amber dangle on {links} rolo with ring 4")
    made = as_json(bench.settled())
    shipped = as_json(evaluate(read_piece(demo_path())))
    assert made["closed_length_mm"] == shipped["closed_length_mm"]
    count = {c["part"]: c["count"] for c in made["counts"]}
    assert count == {c["part"]: c["count"] for c in shipped["counts"]}
    key = lambda c: (c["chain"], c["links"])  # noqa: E731
    assert sorted(made["cuts"], key=key) == sorted(shipped["cuts"], key=key)
    assert made["balance"] == shipped["balance"]
    falls = sorted(made["hang"]["falls_mm"].values())
    assert falls == pytest.approx(sorted(shipped["hang"]["falls_mm"].values()), abs=0.05)
    assert made["checks"] == []
    steps = len(bench.session.history.states)
    for _ in range(steps - 1):
        bench.press(KEY.Key_Z, modifier=CONTROL)
    assert bench.session.piece.runs == ()
    for _ in range(steps - 1):
        bench.press(KEY.Key_Z, modifier=CONTROL | SHIFT)
    assert as_json(bench.settled())["counts"] == made["counts"]


def test_four_pieces_in_a_few_lines_each(bench):
    def build(*lines):
        for line in lines:
            bench.insert(line)
            assert not bench.room.insert.isVisible(), (line, bench.window.message.text())
        return bench.settled()

    empty(bench)
    build("201 cable 2", "ring 4", "lobster", "strand 119 cable 4", "strand 133 cable 4")
    build("tiers first 10 gaps 35")
    at(bench, "Strand 2", (-1,))
    found = build("7 drops every 4 amber on 6 cable 2", "hem V 12")
    assert (found.checks, all(fit.met for fit in found.fits)) == ((), True)
    empty(bench)
    found = build("triangle 4 rose bib", "40 rolo", "ring 4", "lobster", "flat", "length 430")
    assert (found.checks, found.flat.is_flat) == ((), True)
    assert found.closed_length_mm == pytest.approx(430, abs=3)
    empty(bench)
    build("ear hook", "ring 3", "seven-hole bar", "drop rose on 8 cable 2")
    for holes, links in (("h3 and h5", 6), ("h2 and h6", 4)):
        found = build(f"2 drops rose on {links} cable 2 at {holes}")
    assert (found.checks, found.assembly.piece.pair) == ((), True)
    assert {c.id: c.count for c in found.counts}["rose-dangle"] == 10
    empty(bench)
    bench.press(KEY.Key_F, modifier=CONTROL)  # from the bust to the wrist
    links = ("amber link", *("ring 4", "amber link") * 4, "ring 4", "8 rolo", "ring 4")
    found = build(*links, "lobster", "length")
    assert found.on_body is not None
    assert abs(found.on_body.spare_mm) <= 3
    assert found.checks == ()


@pytest.mark.parametrize("k", range(len(SKELETONS)))
def test_every_skeleton_is_chosen_by_arrows(bench, k):
    bench.press(KEY.Key_N, modifier=CONTROL)
    assert bench.room.start.list.hasFocus()
    bench.room.start.list.setCurrentRow(0)
    bench.press(*[KEY.Key_Right] * k)
    assert bench.room.start.skeleton() is SKELETONS[k]
    bench.press(KEY.Key_Return)
    assert bench.session.piece.name == SKELETONS[k].name.capitalize()
    assert bench.session.edited
    assert bench.room.rule.hasFocus()


def test_the_short_question_is_answered_in_place(bench):
    bench.press(KEY.Key_N, modifier=CONTROL)
    bench.press(KEY.Key_9)
    assert bench.room.start.count.text() == "9"
    bench.room.start.length.setText("forty")
    bench.press(KEY.Key_Return)
    assert "not understood" in bench.room.start.said.text()
    bench.room.start.length.setText("46 cm")
    bench.press(KEY.Key_Return)
    assert bench.session.piece.rows[0].count == 9
    assert bench.session.piece.fits[0].mm == 460
    bench.press(KEY.Key_D, modifier=CONTROL)
    bench.press(KEY.Key_Return)
    assert bench.session.piece.name == read_piece(demo_path()).name


def test_selecting_copying_moving_and_splitting_by_keys(bench):
    strand = bench.session.piece.runs[0]
    at(bench, "Strand", (0,))
    bench.press(KEY.Key_Right, modifier=SHIFT)
    assert bench.session.cursor.stretch() == (Spot("Strand", (0,)), 2)
    bench.press(KEY.Key_C, modifier=CONTROL)
    bench.press(KEY.Key_End)
    bench.press(KEY.Key_V, modifier=CONTROL)
    assert bench.session.piece.runs[0].items == (*strand.items, *strand.items[:2])
    bench.press(KEY.Key_Z, modifier=CONTROL)
    at(bench, "Strand", (6,))
    bench.press(KEY.Key_D)
    assert bench.session.piece.runs[0].items[7] == strand.items[6]
    bench.press(KEY.Key_Z, modifier=CONTROL)
    at(bench, "Strand", (7,))
    bench.press(*[KEY.Key_Right] * 2, modifier=CONTROL)
    bench.press(KEY.Key_S)
    assert [i.links for i in bench.session.piece.runs[0].items if i.kind == "chain"] == [2, 35]
    bench.press(KEY.Key_Z, modifier=CONTROL)
    bench.press(KEY.Key_X)
    assert bench.session.piece.runs[0].items[7].kind == "repeat"
    at(bench, "Drop 1", (0,))
    bench.press(KEY.Key_M)
    assert bench.session.piece.run("Drop 1 left") is not None
    bench.press(KEY.Key_X, modifier=CONTROL)
    bench.press(KEY.Key_G)
    assert "Replace" in bench.room.insert.line.placeholderText()
    bench.press(KEY.Key_Return)
    assert "replaced by" in bench.window.message.text()


def test_the_end_of_a_chain_is_drawn_to_whole_links(bench):
    rule = bench.room.rule
    laid = next(x for x in rule.rule.laid if x.member.links == 37)
    _, top, right, bottom = laid.box
    end = (rule.origin() + QPointF(right, (top + bottom) / 2) * rule.scale()).toPoint()
    step = QPoint(round(4.2 * 3 * rule.scale()), 0)
    QTest.mousePress(rule, Qt.MouseButton.LeftButton, pos=end)
    QTest.mouseMove(rule, end + step)
    assert "41 links" in bench.window.message.text()
    assert len(bench.session.history.states) == 1
    QTest.mouseRelease(rule, Qt.MouseButton.LeftButton, pos=end + step)
    assert bench.session.piece.runs[0].items[7].links == 41
    assert bench.session.piece.pinned  # the hand wins over the fitted length


def test_a_unit_is_made_in_the_insert_line(bench):
    at(bench, "Strand", (7,))
    bench.insert("new dangle teal on head pin, loop 2.5, called plum")
    assert "plum" in [unit.name for unit in bench.session.piece.units]
    bench.type("drop plum")
    bench.press(KEY.Key_Return)
    assert bench.session.piece.runs[-1].kind == "drop"
    assert bench.session.piece.runs[-1].start.item == 8
    bench.insert("new link rose + rose on brass 0.6, mid ring 4, loops 2")
    bench.press(KEY.Key_Return)  # again: it is put in
    assert bench.session.piece.runs[0].items[8].unit == bench.session.piece.units[-1].id
    unit = bench.session.piece.units[-1]
    assert (unit.stack, unit.mid) == (("glass-4", "glass-4"), "ring-4")


@pytest.mark.parametrize(("said", "why"), [
    ("new dangle rose on brass 0.6, spiral foot 99999", "whose spiral is out of bounds"),
    ("new link rose on brass 0.6, far loop 3 wrapped 99", "whose far loop, wraps is out of bounds"),
    ("new cluster 30000 cable 4 carrying rose", "whose links is out of bounds"),
    ("30000 cable 4", "“30000” is no whole number"),
])  # fmt: skip
def test_what_could_not_be_opened_again_is_not_put_in(bench, said, why):
    before = bench.session.piece
    at(bench, "Strand", (7,))
    bench.insert(said)
    assert why in bench.window.message.text()
    assert bench.session.piece == before


def test_what_fits_alike_is_chosen_and_what_is_used_most_stands_first(bench):
    line, words = bench.room.insert, lambda: [row.words for row in bench.room.insert.rows.rows]
    at(bench, "Strand", (7,))
    bench.insert("ring 6")
    assert line.isVisible()  # two are called so: nothing is guessed
    assert line.added.text() == "several fit alike: ↓ chooses"
    assert [name.split(" ")[0] for name in words()[:2]] == ["Closed", "Jump"]
    bench.press(KEY.Key_Down, KEY.Key_Down, KEY.Key_Return)
    assert bench.session.piece.runs[0].items[8].part == "ring-6"
    bench.press(KEY.Key_Return)
    bench.type("ring 6")
    assert words()[0].startswith("Jump ring 6 mm")  # in the piece by now
    bench.press(KEY.Key_Escape)
    before = bench.session.piece
    bench.insert("9 cable 4; ring 5; drop nobody")
    assert (bench.session.piece, line.isVisible()) == (before, True)
    assert any(row.startswith("“nobody” is not known here") for row in words())
    bench.press(KEY.Key_Escape)
    bench.insert("9 cable 4; ring 5")
    assert len(bench.session.history.states) == 4
    bench.press(KEY.Key_Return)
    bench.press(KEY.Key_Up, modifier=CONTROL)
    assert line.line.text() == "9 cable 4; ring 5"
    line.line.setText("9 fine chain")
    bench.press(KEY.Key_Tab)
    assert line.line.text() == "9 Fine cable chain 2 mm"


def test_every_action_runs_and_leaves_the_bench_in_order(bench, monkeypatch, tmp_path):
    own = tmp_path / "own.json"
    own.write_text(demo_path().read_text())
    answers = {"getSaveFileName": str(tmp_path / "x.png"), "getOpenFileName": str(own)}
    for name, path in answers.items():
        monkeypatch.setattr(QFileDialog, name, lambda *a, p=path: (p, ""))
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Named", True))
    beside = []
    monkeypatch.setattr(QProcess, "startDetached", lambda *command: beside.append(command) or [1])
    for theme in ("felt", "slate"):
        bench.desk.set_theme(THEMES[theme])
        for action, where in bench.window._all_actions():
            if action.id == "leave":
                continue
            bench.window.do(action, where)
            for panel in bench.window.findChildren(QWidget):
                if panel.isWindow() and panel.isVisible() and panel is not bench.window:
                    panel.close()
            for panel in bench.room.findChildren(Panel):
                if panel.isVisible():
                    panel.leave()
            assert bench.session.assembly is not None
    bench.settled()
    assert (tmp_path / "x.png").exists()
    assert len(beside) == 2  # a window of its own, in either theme


def test_pictures_are_saved_and_copied(bench, monkeypatch, tmp_path):
    path = tmp_path / "piece.svg"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(path), "SVG (*.svg)"))
    commands.save_picture(bench.room)
    assert "<svg" in path.read_text()[:300]
    assert len(path.read_text()) > 20_000
    commands.copy_picture(bench.room)
    size = QGuiApplication.clipboard().pixmap().size()
    assert size == bench.room.form.size() * 2


def test_history_is_a_strip_to_compare_with_and_go_back_to(bench):
    at(bench, "Strand", (7,))
    bench.press(KEY.Key_Plus, KEY.Key_Plus, KEY.Key_Plus)
    bench.press(KEY.Key_H, modifier=CONTROL)
    strip = bench.room.history
    assert len(strip.rows.rows) == 4
    assert "37 → 38" in strip.rows.words(strip.rows.rows[1])
    bench.press(KEY.Key_Left, KEY.Key_Left)
    bench.press(KEY.Key_Space)
    bench.qtbot.waitUntil(lambda: bench.room.form.shows_ghost, timeout=5000)
    assert bench.room.form.ghost.assembly.piece.runs[0].items[7].links == 38
    bench.press(KEY.Key_Return)
    assert bench.session.piece.runs[0].items[7].links == 38
    bench.press(KEY.Key_Z, modifier=CONTROL | SHIFT)
    assert bench.session.piece.runs[0].items[7].links == 39


def test_the_last_piece_opens_under_its_own_name_and_a_lost_one_does_not_stop_it(tmp_path):
    mine, settings = tmp_path / "mine.json", Settings(tmp_path / "settings.json")
    mine.write_bytes(demo_path("ushers-y").read_bytes())

    def opened(path):
        session = Session(demo_tray())
        open_first(session, Wishes(path, False, None, (900, 600), "bench", None), settings)
        session.finish()
        return session.piece.name, session.path

    assert opened(mine) == ("Usher's Y", mine)
    assert opened(None) == ("Usher's Y", mine.resolve())
    mine.write_text("{")
    assert opened(None) == (read_piece(demo_path()).name, None)


def test_settings_keep_what_is_sound(tmp_path):
    path = tmp_path / "settings.json"
    settings = Settings(path)
    settings["unit"] = "in"
    settings.count_use("ring-4")
    assert Settings(path)["unit"] == "in"
    assert Settings(path)["used"] == {"ring-4": 1}
    path.write_text(json.dumps({"unit": "furlong", "theme": 7, "motion": False}))
    assert Settings(path).values == DEFAULTS | {"motion": False}
    path.write_text("nonsense")
    assert Settings(path).values == DEFAULTS


def test_a_check_is_kept_with_a_note(bench, monkeypatch):
    heavy = replace(bench.session.piece, heaviest_g=1.0)
    bench.session.start_new(heavy)
    bench.settled()
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("it is meant", True))
    bench.press(KEY.Key_K, modifier=CONTROL)
    bench.press(KEY.Key_A)
    assert bench.session.piece.accepted[0].note == "it is meant"
    assert bench.settled().checks == ()


def test_ways_to_wear_are_shown_in_place(bench):
    piece = replace(
        bench.session.piece, ways=(Way(name="without drops", without=("Drop 1", "Drop 2")),)
    )
    bench.session.start_new(piece)
    bench.press(KEY.Key_Y, modifier=CONTROL)
    assert bench.window.ways.text() == "without drops ▾"
    assert all(m.run != "Drop 1" for m in bench.session.assembly.members)
    bench.press(KEY.Key_Y, modifier=CONTROL)
    assert any(m.run == "Drop 1" for m in bench.session.assembly.members)


def test_help_explains_keys_words_and_hovered_readings(bench):
    bench.press(KEY.Key_F1)
    guide = bench.window.findChild(Guide)
    assert guide.text.toPlainText().startswith("How the bench works")
    guide.line.setText("too full")
    guide.list.setCurrentRow(0)
    assert guide.text.textCursor().block().text() == "Ring too full"
    guide.go("checks#Drops too close")
    block = guide.text.textCursor().block()
    top = guide.text.document().documentLayout().blockBoundingRect(block).top()
    assert abs(guide.text.verticalScrollBar().value() - top) < 2
    guide.go("*phrases")
    assert guide.phrases.isVisible()
    guide.close()
    checks = bench.room.side.checks
    asked = []
    bench.desk.guide_wanted.connect(asked.append)
    checks.why_wanted.emit("checks#Heavy")
    bench.room.side.readings.setFocus()
    bench.press(KEY.Key_Down, KEY.Key_Question)
    assert asked == ["checks#Heavy", "readings#Fall"]
    rows = checks.model_rows
    rows.show((Check("heavy", "note", "the fold", "It pulls at the fold."),))
    tip = rows.data(rows.index(0), Qt.ItemDataRole.ToolTipRole)
    assert tip.endswith("\n\nfold: the mirror line through the centre")
    assert explained("fall, Tier 2") == (
        "fall: how far below the pit of the neck the lowest point lies\n"
        "tier: a strand in a set that lies one below the other"
    )
    assert explained("closed length").startswith("closed length: ")


def test_what_hangs_is_folded_away_and_shown_again(bench):
    rule = bench.room.rule
    shown = len(rule.rule.laid)
    bench.press(KEY.Key_B, modifier=CONTROL)
    assert len(rule.rule.laid) < shown
    bench.press(KEY.Key_Down)
    assert any(laid.member.run == bench.session.spot.owner for laid in rule.rule.laid)
    bench.press(KEY.Key_B, modifier=CONTROL)
    assert len(rule.rule.laid) == shown


def test_a_thousand_random_edits_leave_nothing_behind(bench):
    piece = solve(started(SKELETONS[0], demo_tray(), Asked(demo_tray().wearers[0]))).piece
    bench.session.start_new(piece)
    bench.room.form.hide()  # its picture is not what is tested here
    bench.room.rule.setFocus()
    chance = random.Random(7)
    keys = [
        KEY.Key_Left, KEY.Key_Right, KEY.Key_Up, KEY.Key_Down, KEY.Key_Plus, KEY.Key_Minus,
        KEY.Key_D, KEY.Key_X, KEY.Key_T, KEY.Key_S, KEY.Key_M, KEY.Key_P, KEY.Key_Home, KEY.Key_End,
    ]  # fmt: skip
    controls = [KEY.Key_Z, KEY.Key_C, KEY.Key_V, KEY.Key_X, KEY.Key_Right]
    before = None
    for k in range(1000):
        if k == 200:
            before = len(bench.window.findChildren(QObject))
        if chance.random() < 0.2:
            bench.press(chance.choice(controls), modifier=CONTROL)
        else:
            bench.press(chance.choice(keys))
        if len(bench.session.assembly.members) > 400:
            bench.session.start_new(piece)
        assert bench.room.rule.hasFocus()
    assert len(bench.window.findChildren(QObject)) <= before + 5
    bench.settled()
