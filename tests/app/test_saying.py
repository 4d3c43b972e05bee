"""Pieces said in the window: typed, pointed at, chosen from menus, seen before they are done."""

import json
import re
from pathlib import Path

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from maglia.app.painting.small import extent_mm
from maglia.app.rooms.bench.fresh import fresh_members
from maglia.app.rooms.bench.here_menu import menu_here
from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import CENTRE, Spot
from maglia.core.report import as_json, evaluate
from maglia.core.workshop.tray import Tray
from maglia.demo import demo_path
from maglia.phrases.script import lines_of

SCRIPTS = sorted((Path(__file__).parent.parent / "data" / "scripts").glob("*.txt"))
OWN = sorted((Path(__file__).parent.parent / "data" / "own_scripts").glob("*.txt"))
KEY = Qt.Key


def plain(name):
    return re.sub(r"\s*mm\b", "", name.lower()).strip()


def say(bench, phrase):
    """Type a phrase at once, Enter."""
    if not bench.room.insert.isVisible():
        bench.press(KEY.Key_Return)
    bench.room.insert.line.setText(phrase)
    bench.press(KEY.Key_Return)


@pytest.mark.parametrize("script", [*SCRIPTS, *OWN], ids=lambda path: path.stem)
def test_a_script_typed_in_the_window_gives_its_sums(bench, script):
    bench.session.workshop._show(Tray())
    bench.session.start_new()
    text = script.read_text()
    for _, phrase in lines_of(text):
        say(bench, phrase)
        said = bench.window.message.text()
        assert not said.startswith(("Not done", "Nothing is done")), (phrase, said)
    first = next(line for line in text.splitlines() if line.startswith("# expect:"))
    expected = json.loads(first[9:])
    report = as_json(evaluate(bench.session.piece))
    assert report["closed_length_mm"] == (
        None if expected["closed_length_mm"] is None
        else pytest.approx(expected["closed_length_mm"], abs=0.06)
    )  # fmt: skip
    counts = {plain(one["name"]): one["count"] for one in report["counts"]}
    assert {name: counts.get(plain(name)) for name in expected["counts"]} == expected["counts"]


def test_what_a_phrase_would_make_is_drawn_before_it_is_done(bench):
    line, rule = bench.room.insert, bench.room.rule
    bench.press(KEY.Key_Return)
    line.line.setText("drop teal on 9 rolo at link 3 past 3rd ring")
    bench.qtbot.waitUntil(lambda: rule.trial is not None, timeout=2000)
    fresh = fresh_members(bench.session.assembly, rule.trial)
    assert {rule.trial.members[k].run for k in fresh} == {"Drop"}
    assert "since nothing opens there" in line.added.text()
    line.line.setText("drop teal at nose")
    bench.qtbot.waitUntil(lambda: rule.trial is None, timeout=2000)
    line.line.setText("ring 4, 9 rolo, teal dangle, ring 4")
    bench.qtbot.waitUntil(lambda: "cannot be done" in line.added.text(), timeout=2000)
    bench.press(KEY.Key_Escape)
    assert rule.trial is None
    assert len(bench.session.history.states) == 1


def test_a_place_is_pointed_at_while_a_phrase_is_written(bench):
    rule, line = bench.room.rule, bench.room.insert
    bench.press(KEY.Key_Return)
    line.line.setText("drop teal with ring 4")
    laid = next(one for one in rule.rule.laid if one.member.links == 37)
    at = rule.origin() + QPointF(*rule.rule.at[(laid.member.id, 9)]) * rule.scale()
    spot = bench.session.spot
    QTest.mouseClick(rule, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert line.line.text() == "drop teal with ring 4 at link 9"
    assert bench.session.spot == spot  # the cursor stays
    bench.press(KEY.Key_Return)
    assert bench.session.piece.runs[-1].start.at == 9
    assert bench.session.piece.runs[-1].start.item == 8


def test_the_menu_of_a_place_says_what_can_be_said_there(bench):
    menu = menu_here(bench.room)
    said = [action.text().split("\t") for action in menu.actions() if "\t" in action.text()]
    assert ["One more", "+"] in said
    phrases = [words[1] for words in said if len(words[1]) > 6]
    assert any(phrase.startswith("drop ") for phrase in phrases)
    next(a for a in menu.actions() if "\tdrop " in a.text()).trigger()
    line = bench.room.insert
    assert line.isVisible()
    assert line.found.offers[0].fault is None  # what is offered can be done as it stands
    bench.press(KEY.Key_Return)
    assert bench.session.piece.runs[-1].kind == "drop"


@pytest.mark.parametrize("name", ["lamplighters-collar", "hedgerow-strand", "trapdoor-earrings",
                                  "curtain-bib", "lamp-room", "props-table-bracelet"])  # fmt: skip
def test_every_example_of_every_place_can_be_done(bench, name):
    bench.session.open(demo_path(name), as_copy=True)
    line = bench.room.insert
    for spot in list(bench.session.by_spot)[:40]:
        bench.session.go(spot)
        bench.press(KEY.Key_Return)
        for row in line.rows.rows:
            phrase = row.words.split("    ")[0]
            offer = line_offer(bench, phrase)
            assert offer.fault is None, (spot, phrase, offer.words)
        bench.press(KEY.Key_Escape)


def line_offer(bench, phrase):
    from maglia.phrases.line import understood

    return understood(phrase, bench.room.insert.here()).offers[0]


def test_one_fewer_and_one_more_are_tried_by_eye(bench):
    bench.session.go(Spot("Middle drop", (1,)))
    bench.press(KEY.Key_Y)
    eye = bench.room.eye
    bench.qtbot.waitUntil(lambda: all(t.found for t in eye.trials.values()), timeout=10_000)
    falls = [t.found.readings.falls_mm["Middle drop"] for t in eye.trials.values()]
    assert falls == pytest.approx([falls[1] - 3, falls[1], falls[1] + 3], abs=0.1)
    assert "Middle drop falls 51.1 mm" in eye.trials["now"].figures
    assert len({t.scale for t in eye.trials.values()}) == 1  # to be compared, at one scale
    bench.press(KEY.Key_Plus)
    assert not eye.isVisible()
    assert bench.session.piece.run("Middle drop").items[1].links == 10
    bench.session.go(Spot("Strand", (CENTRE,)))
    bench.press(KEY.Key_Y)
    assert "one part lies on the fold" in eye.trials["more"].figures
    bench.press(KEY.Key_Escape)
    assert len(bench.session.history.states) == 2


def test_what_cannot_hang_on_its_wearer_hangs_on_the_board_one_key_from_its_repair(bench):
    say(bench, "for stage hand")
    form = bench.room.form
    bench.qtbot.waitUntil(lambda: form.instead is not None, timeout=10_000)
    assert bench.settled().hung.state == "too short"
    assert form.instead.assembly.piece.form.kind == "board"
    assert extent_mm(form.instead.hung).width() > 50
    bench.press(KEY.Key_K, modifier=Qt.KeyboardModifier.ControlModifier)
    bench.press(KEY.Key_R)
    assert bench.settled().hung.state == "converged"


def test_starting_points_are_shown_as_they_hang(bench):
    bench.desk.begin_wanted.emit(False)
    start = bench.room.start
    count = start.list.count()
    bench.qtbot.waitUntil(lambda: len(start.pictures.known) == count, timeout=60_000)
    names = [start.list.item(row).text() for row in range(count)]
    assert "Lamplighter's collar" in names
    before = start.list.item(0).icon().cacheKey()
    start.pictures.hung.emit("start single", start.pictures.known["lamp-room"])
    assert start.list.item(0).icon().cacheKey() != before
    assert expand(bench.session.piece) is not None
    bench.press(KEY.Key_Escape)


def chosen(bench, begins):
    """Choose an entry of the menu of a place, then click what the line understands first."""
    line = bench.room.insert
    action = next(a for a in menu_here(bench.room).actions()
                  if "\t" in a.text() and a.text().split("\t")[1].startswith(begins))  # fmt: skip
    action.trigger()
    if line.isVisible():
        box = line.list.visualRect(line.rows.index(0))
        QTest.mouseClick(line.list.viewport(), Qt.MouseButton.LeftButton, pos=box.center())
    return bench.session.piece


def test_a_piece_is_made_by_mouse_alone(bench):
    bench.session.start_new()
    assert chosen(bench, "41 ").runs[0].centre.links == 41
    for _ in range(3):
        chosen(bench, "+")
    assert chosen(bench, "−").runs[0].centre.links == 43
    ringed = chosen(bench, "Jump ring")  # a ring and further chain, outward
    assert [item.kind for item in ringed.runs[0].items] == ["rings", "chain"]
    hung = chosen(bench, "drop ")
    assert hung.runs[-1].kind == "drop"
    closed = chosen(bench, "close Lobster")
    assert closed.closure.kind == "clasp"
    longer = chosen(bench, "extender ")
    assert longer.runs[-1].kind == "extender"
    assert chosen(bench, "way Long").ways[0].hooked is not None
    assert bench.settled().hung is not None


def test_a_phrase_for_several_wearers_shows_the_piece_for_each(bench):
    from maglia.app.rooms.bench.regrade_table import RegradeTable

    say(bench, "for the lamplighter and the understudy")
    table = bench.window.findChild(RegradeTable)
    bench.qtbot.waitUntil(lambda: bool(table.graded), timeout=15_000)
    assert [one.piece.wearer.role for one in table.graded] == ["the lamplighter", "the understudy"]
    assert len(bench.session.history.states) == 1
    table.close()
