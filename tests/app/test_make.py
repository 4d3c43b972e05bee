"""Make by keys, in the real window: whole builds, changes on the mat, kills, waits, the sheet."""

import html
import json
import os
import re
import signal
import sqlite3
import subprocess
import sys
from contextlib import closing
from datetime import datetime, timedelta
from pathlib import Path
from random import Random

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QPushButton

from maglia.app.make_sheet import save
from maglia.core.assembly.expand import expand
from maglia.core.joining.marked import finished
from maglia.core.joining.rings import rings as rings_of
from maglia.core.sheets.count import copies_of
from maglia.core.values.record import DomainError
from maglia.files.workshop import build_stock, builds, stock
from windows import Hands

KEY, MOST_TURNS = Qt.Key, 150


class Maker(Hands):
    """In Make."""

    def __init__(self, qtbot, path, name):
        super().__init__(qtbot, path, name)
        self.window.show_room("make")
        self.room, self.builds = self.window.room, self.session.builds

    @property
    def card(self):
        """What the card says, in lines."""
        words = self.room.card.words.text().replace("</p>", "\n").replace("&nbsp;", " ")
        lines = html.unescape(re.sub("<[^>]+>", "", words)).strip().split("\n")
        build = self.builds.build
        if build is None:
            return lines
        assert lines[0].startswith(f"{build.name} · build {build.id} · ")
        lines[0] = lines[0].split(" · ", 2)[2]
        return lines[lines[0] in ("kept", "waits", "to its end") :]

    def until(self, there, key=KEY.Key_Space):
        """Space, until the step is one for which `there` is true."""
        for _ in range(MOST_TURNS):
            if self.builds.step is None or there(self.builds.step):
                return
            self.press(key)
        raise AssertionError(self.card)

    def change(self, text, place):
        """C, what was changed, and down to the place."""
        self.press(KEY.Key_C)
        rows = [row.words for row in self.room.said.rows.rows]
        at = next(k for k, words in enumerate(rows) if re.search(place, words))
        self.type(text)
        self.press(*[KEY.Key_Down] * at, KEY.Key_Return)

    def joints_left(self):
        """Joints to make that no mark has made."""
        assembly = expand(self.builds.build.piece)
        plan = self.builds.sheet.plan
        made = finished(assembly, plan.joints, self.builds.done).made
        return set(plan.joints.to_make) - set(made) - set(plan.stuck)


@pytest.fixture
def maker(qtbot, tmp_path):
    made = []

    def begin(name, path="own.sqlite"):
        made.append(Maker(qtbot, tmp_path / path, name))
        return made[-1]

    yield begin
    for one in made:
        one.session.finish()


@pytest.mark.parametrize("name", ["spotlight-swags", "trapdoor-earrings", "box-keepers-ribbon"])
def test_a_whole_piece_is_made_by_keys_and_every_joint_with_it(maker, name):
    own = maker(name)
    rings, copies = stock.lying(own.store)["ring-4"], copies_of(own.session.piece)
    own.press(KEY.Key_Return)
    assert own.builds.build.name == own.session.piece.name
    said = set()
    for _ in range(MOST_TURNS):
        if own.builds.turn is None:
            break
        words = own.card
        assert words[0].startswith(f"{own.builds.turn.step + 1} of {len(own.builds.sheet.steps)}")
        assert any(own.builds.turn.says.rstrip(".") in line or own.builds.step.says[:20] in line
                   for line in words)  # fmt: skip
        said.update(line for line in words if line.startswith("!"))
        own.press(KEY.Key_Space)
        if own.builds.turn is not None and own.builds.turn.step in own.builds.held():
            own.press(KEY.Key_Space)  # it holds already
    assert own.joints_left() == set()
    assert any("Local rules" in line for line in said)
    assert own.card[0] == "Everything is done."
    own.wanted = rings_of(own.builds.sheet.assembly, own.builds.sheet.plan, copies)
    own.press(KEY.Key_Space)
    assert own.said[-1] == "Finished. It is kept among the builds."
    listed = builds.listed(own.store)[0]
    assert listed.ended
    assert build_stock.laid_out(own.store, listed.id) == {}
    used = rings.total - stock.lying(own.store)["ring-4"].total
    assert used == sum(r.count for r in own.wanted if r.id == "ring-4")
    assert stock.faults(own.store) == []


def test_a_build_goes_on_where_it_lay_with_its_change_and_what_must_be_undone(maker):
    own = maker("spotlight-swags")
    own.press(KEY.Key_Return)
    own.until(lambda step: step.stage == "attach")
    own.press(KEY.Key_Space)
    first = own.builds.build
    own.change("20", r"Swag 1, left, chain 1: here only")
    assert own.said[-1] == "Swag 1 left: 18 → 20 links, left only. 2 to undo first."
    again = maker("spotlight-swags")  # another window, as after a closed lid
    again.press(KEY.Key_Down, KEY.Key_Return)
    assert again.card[:2] == ["changed on the mat: undo this first",
                              "Open Jump ring 4 mm of Strand, left, ring 1."]  # fmt: skip
    again.press(KEY.Key_Space, KEY.Key_Space)
    assert again.builds.step.says.startswith("Cut 1 × 20 links")
    lots = stock.lying(again.store)["cable-2"].lots
    assert 18 in [lot.amount for lot in lots]  # what was cut in vain lies there
    again.press(KEY.Key_Space)
    assert "Only Strand, left, ring 1 is left to do" in again.card
    again.until(lambda step: False)
    assert again.joints_left() == set()
    assert again.builds.build.given == first.piece
    links = [m.links for m in again.builds.sheet.assembly.members if m.ref == "cable-2"]
    assert sorted(links) == [18, 18, 18, 20]
    sorts = [note.sort for note in again.builds.notes()]
    assert sorts == ["changed", "undone", "undone"]


def test_the_window_goes_on_while_another_writes_and_what_was_pressed_follows(maker, qtbot):
    own = maker("spotlight-swags")
    own.press(KEY.Key_Return)
    waiting = own.session.workshop
    with closing(sqlite3.connect(own.store.path, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        own.press(KEY.Key_Space, KEY.Key_Space)
        assert "follows as soon as it is through" in own.said[-1]
        assert builds.marks(own.store, own.builds.build.id) == {} == own.builds.done
        own.press(KEY.Key_Right)  # looking goes on
        assert own.builds.turn.step == 1
        with pytest.raises(DomainError, match="try again"):
            waiting.set_rules(replace(waiting.rules, tangle_mm=11.0))
        part = replace(waiting.tray.parts[0], name="A name of now")
        assert not own.session.keep_offered([part], words="Kept: it.")
        assert "Kept: it." not in own.said  # nor said to be
        assert waiting.part(part.id).name != part.name  # not shown before it is kept
        assert waiting.rules.tangle_mm != 11.0
        other.execute("ROLLBACK")
    qtbot.waitUntil(lambda: waiting.part(part.id).name == part.name)
    assert "Kept: it." in own.said
    assert len(builds.marks(own.store, own.builds.build.id)) >= 2
    assert stock.faults(own.store) == []


def test_what_waits_for_another_window_is_asked_but_once(maker, qtbot):
    own = maker("spotlight-swags")
    own.press(KEY.Key_Return)
    number, asked = own.builds.build.id, []
    own.window.desk.ask = lambda *words: asked.append(words) or 0
    with closing(sqlite3.connect(own.store.path, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        own.press(KEY.Key_Delete, modifier=Qt.KeyboardModifier.ControlModifier)
        qtbot.wait(700)  # tried again meanwhile
        assert own.builds.build is not None
        other.execute("ROLLBACK")
    qtbot.waitUntil(lambda: own.builds.build is None)
    assert len(asked) == 1
    assert builds.read(own.store, number).ended


def test_back_takes_a_mark_and_its_cut_back_and_arrows_do_nothing(maker):
    own = maker("spotlight-swags")
    before = stock.lying(own.store)["curb-5"].lots
    own.press(KEY.Key_Return)
    own.press(KEY.Key_Backspace)
    assert own.said[-1] == "This is the first step."
    own.press(KEY.Key_Space)
    assert stock.lying(own.store)["curb-5"].lots != before
    own.press(KEY.Key_PageUp)
    assert stock.lying(own.store)["curb-5"].lots == before
    assert builds.marks(own.store, own.builds.build.id) == {}
    own.press(*[KEY.Key_Right] * 5)
    assert own.builds.turn.step == 5
    own.press(*[KEY.Key_Right] * 40, KEY.Key_Left, KEY.Key_Home)
    assert own.builds.at == 0
    assert builds.marks(own.store, own.builds.build.id) == {}
    own.press(KEY.Key_Right, KEY.Key_PageDown)  # the second step first
    assert own.builds.turn.step == 0
    done, back = (b for w in ("Done", "Back") for b in own.room.findChildren(QPushButton)
                  if b.text() == w)  # fmt: skip
    own.qtbot.mouseClick(done, Qt.MouseButton.LeftButton)
    assert own.builds.turn.step == 2
    own.qtbot.mouseClick(back, Qt.MouseButton.LeftButton)
    assert own.builds.turn.step == 1
    shift = Qt.KeyboardModifier.ShiftModifier
    own.until(lambda step: step.verb == "make")
    own.press(KEY.Key_Space, modifier=shift)
    assert own.builds.turn.step == 5


def test_notes_measures_and_spoilt_parts_are_kept(maker):
    own = maker("spotlight-swags")
    own.press(KEY.Key_Return, KEY.Key_S)
    assert own.window.message.text().endswith("nothing that is counted is in hand at this step.")
    own.until(lambda step: step.stage == "attach")
    bag = stock.lying(own.store)["ring-4"].bag
    own.press(KEY.Key_S)
    assert own.room.said.rows.rows[0].words == "one Jump ring 4 mm"
    own.press(KEY.Key_Return)
    assert stock.lying(own.store)["ring-4"].bag == bag - 1
    own.press(KEY.Key_N, KEY.Key_Return)
    assert own.room.said.hint.text() == "Write it first, or Esc leaves."
    own.type("sprung")
    own.press(KEY.Key_Return, KEY.Key_M)
    own.type("long")
    own.press(KEY.Key_Return)
    assert own.room.said.isVisible()
    own.room.said.line.clear()
    own.type("1 3/4 in")
    own.press(KEY.Key_Return)
    own.change("used the old pliers", "only note it")
    notes = own.builds.notes()
    assert [(n.sort, n.words, n.value) for n in notes] == [
        ("spoilt", "Jump ring 4 mm", 1.0), ("note", "sprung", None),
        ("measured", "measured 44.5 mm", 44.45),
        ("note", "changed on the mat: used the old pliers", None),
    ]  # fmt: skip
    assert own.window.focusWidget() is own.room


def test_what_the_mat_refuses_changes_nothing(maker):
    own = maker("spotlight-swags")
    own.press(KEY.Key_Return)
    own.until(lambda step: step.stage == "attach")
    piece = own.builds.build.piece
    for text in ("replace ring 4 by nonsense", "99999999", "0"):
        own.change(text, "Fine cable chain 2 mm, Swag 1, left, chain 1: the mirror too")
        assert own.room.said.hint.text().startswith("Not done: ")
        assert own.room.said.line.text() == text  # what was written stays to be mended
        assert own.builds.build.piece == piece
        own.press(KEY.Key_Escape)
    assert own.builds.notes() == ()


def test_another_school_and_other_habits_are_kept_and_leave_what_is_done(maker):
    own = maker("gallery-tiers")
    own.press(KEY.Key_Return)
    own.until(lambda step: step.stage == "attach")
    done, said = dict(own.builds.done), own.builds.step.says
    own.press(KEY.Key_F)
    assert own.builds.build.working.order == "carrier"
    assert own.builds.undos == ()
    assert own.builds.done == done
    own.press(KEY.Key_F)
    assert own.builds.step.says == said
    own.room._work("loops", "looper")
    assert own.window.desk.settings["working"] == {"order": "flat", "loops": "looper"}
    assert builds.read(own.store, own.builds.build.id).working.loops == "looper"


def test_a_wait_lets_other_work_come_and_says_when_it_is_over(maker, monkeypatch):
    own = maker("box-keepers-ribbon")
    own.press(KEY.Key_Return)
    own.until(lambda step: step.verb == "glue")
    own.press(KEY.Key_Space)
    wait = next(k for k, s in enumerate(own.builds.sheet.steps) if s.verb == "wait")
    assert wait in own.builds.held()
    assert own.builds.turn.step in own.builds.held()  # nothing else is left to do
    own.room.on_tick()
    assert own.builds.until(wait) > datetime.now()
    own.builds._until[wait] = datetime.now() - timedelta(seconds=1)
    own.room.on_tick()
    assert own.said[-1] == "The glue holds: it can go on."
    assert own.builds.turn.step == wait + 1


def test_a_finished_build_is_looked_at_and_one_given_up_gives_its_parts_back(maker):
    own = maker("orchestra-bangle")
    before = {part: lying.bag for part, lying in stock.lying(own.store).items()}
    own.press(KEY.Key_Return)
    own.window.desk.ask = lambda words, *answers: 0
    own.press(KEY.Key_Delete, modifier=Qt.KeyboardModifier.ControlModifier)
    after = {part: lying.bag for part, lying in stock.lying(own.store).items()}
    assert {p: n for p, n in after.items() if n} == {p: n for p, n in before.items() if n}
    own.press(KEY.Key_Down, KEY.Key_Return)
    assert own.card[0].startswith("Given up ")
    own.press(KEY.Key_Space)
    assert "this build is finished" in own.window.message.text()
    own.press(KEY.Key_Escape)
    assert own.window.focusWidget() is own.room.list.list


@pytest.mark.parametrize("name", ["curtain-bib", "hedgerow-strand", "trapdoor-earrings"])
def test_every_step_of_a_piece_is_drawn_and_said_to_those_who_do_not_see_it(maker, name):
    own = maker(name)
    own.press(KEY.Key_Return)
    canvas = own.room.canvas
    own.qtbot.waitUntil(lambda: canvas.hung is not None, timeout=15_000)
    for at in range(len(own.builds.turns) + 1):
        own.builds.go(at)
        picture = canvas.grab().toImage()
        colours = {picture.pixel(x, y) for x in range(0, picture.width(), 7)
                   for y in range(0, picture.height(), 7)}  # fmt: skip
        step = own.builds.step
        assert len(colours) > 3, step
        if step is not None:
            assert step.says in canvas.accessibleDescription()
    own.press(KEY.Key_L)
    assert canvas.layout_shown
    own.press(KEY.Key_B)
    own.window.resize(1024, 700)
    assert own.room.list.facts.text().endswith(".")


def test_what_cannot_be_joined_is_said_to_the_end(maker, tmp_path):
    own = maker("ushers-y")
    soldered = Path(__file__).parents[1] / "data" / "joining"
    path = next(p for p in sorted(soldered.glob("*.expected.json"))
                if not json.loads(p.read_text())["feasible"])  # fmt: skip
    own.session.open(path.with_name(path.name.replace(".expected", "")), as_copy=True)
    own.room.list.refresh()
    own.press(KEY.Key_Return)
    says = own.builds.sheet.culprits[0].says
    assert f"! {says}" in own.card
    own.until(lambda step: False, KEY.Key_PageDown)
    assert own.card[:2] == ["All that can be joined is done.", f"! {says}"]


def test_words_are_as_large_as_there_is_room_for(maker):
    own = maker("box-keepers-ribbon")
    own.press(KEY.Key_Return)
    own.until(lambda step: step.stage == "try", KEY.Key_PageDown)
    card = own.room.card
    high = card.viewport().height()
    assert card.words.heightForWidth(card.viewport().width() - 44) <= high
    before = card.pixels
    own.press(KEY.Key_N, KEY.Key_Escape)
    own.builds.go(3)
    own.press(KEY.Key_Plus, modifier=Qt.KeyboardModifier.ControlModifier)
    assert card.pixels > before or card.own == 2


@pytest.mark.parametrize("ending", ["pdf", "letter.pdf", "svg"])
@pytest.mark.parametrize("name", ["spotlight-swags", "trapdoor-earrings"])
def test_the_make_sheet_is_written_at_its_true_size(maker, tmp_path, monkeypatch, name, ending):
    own = maker(name)
    own.press(KEY.Key_Return)
    own.qtbot.waitUntil(lambda: own.room.canvas.hung is not None, timeout=15_000)
    path = tmp_path / f"sheet.{ending}"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    own.press(KEY.Key_P)
    data = path.read_bytes()
    if ending == "svg":
        assert b"<svg" in data
        return
    assert data.startswith(b"%PDF")
    box = re.search(rb"/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]", data)
    wide, high = (float(one) / 72 * 25.4 for one in box.groups())
    paper = (215.9, 279.4) if ending == "letter.pdf" else (210.0, 297.0)
    assert (wide, high) == pytest.approx(paper, abs=0.5)


def test_a_sheet_that_cannot_be_written_is_said(maker, tmp_path):
    own = maker("orchestra-bangle")
    own.press(KEY.Key_Return)
    with pytest.raises(DomainError, match="cannot be saved"):
        save(own.builds.sheet, tmp_path / "no" / "where" / "a.pdf", None, "mm")


KILLED = """
import sys
from pathlib import Path
from PySide6.QtWidgets import QApplication
app = QApplication([])
from maglia.app.own_workshop import open_own
from maglia.app.session.session import Session
from maglia.demo import demo_path, demo_tray
session = Session(demo_tray(), app)
session.open(demo_path("ushers-y"), as_copy=True)
open_own(session, Path(sys.argv[1]), demo=True)
found = session.builds
listed = [one for one in found.listed() if not one.ended]
found.open(listed[0].id) if listed else found.begin(session.piece)
found.changed.connect(lambda: print(found.at, len(found.done), flush=True))
print(found.at, len(found.done), flush=True)
while found.turn is not None:
    sys.stdin.readline()
    found.do()
"""


def test_a_kill_at_any_step_comes_back_there(tmp_path):
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    shown, steps = None, 0
    for presses in (3, 6, 4):
        line = [sys.executable, "-c", KILLED, str(tmp_path / "own.sqlite")]
        with subprocess.Popen(line, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
                              env=env) as making:  # fmt: skip
            first = making.stdout.readline()
            assert shown in (None, first)
            for _ in range(presses):
                making.stdin.write("\n")
                making.stdin.flush()
                shown = making.stdout.readline()  # the next picture: the mark is on disk
            os.kill(making.pid, signal.SIGKILL)
        steps += presses
        assert int(shown.split()[0]) == steps


@pytest.mark.parametrize(("name", "seed"), [("gallery-tiers", 1), ("box-office-pearls", 2),
                                            ("curtain-bib", 3), ("lamp-room", 4)])  # fmt: skip
def test_whatever_is_pressed_it_can_be_finished_and_every_joint_is_made(maker, name, seed):
    own, random = maker(name), Random(seed)
    own.press(KEY.Key_Return)
    began = {part: lying.total for part, lying in stock.lying(own.store).items()}
    keys = [*[KEY.Key_Space] * 6, KEY.Key_Backspace, KEY.Key_Right, KEY.Key_Left, KEY.Key_Home,
            KEY.Key_F, KEY.Key_L, KEY.Key_C, KEY.Key_C, KEY.Key_S, KEY.Key_B]  # fmt: skip
    changed = 0
    for _ in range(160):
        key = random.choice(keys)
        over = own.builds.turn is None and not own.builds.undos
        if (key == KEY.Key_Space and over) or (key == KEY.Key_C and changed == 3):
            continue  # it would be put away, or grow for ever
        own.press(key)
        said = own.room.said
        if said.isVisible():
            said.line.setText(random.choice(["2", "3", "4", "reverse", "nonsense"]))
            own.press(*[KEY.Key_Down] * random.randrange(max(said.rows.rowCount(), 1)))
            piece = own.builds.build.piece
            own.press(KEY.Key_Return)
            changed += own.builds.build.piece != piece
            if said.isVisible():
                assert own.builds.build.piece == piece
                own.press(KEY.Key_Escape)
        if own.builds.build is None:
            own.press(KEY.Key_Return)  # the one that was left
    assert changed
    assert stock.faults(own.store) == []
    own.press(KEY.Key_Home)
    for _ in range(3 * MOST_TURNS):
        if own.builds.turn is None and not own.builds.undos:
            break
        own.press(KEY.Key_Space)
    assert own.joints_left() == set()
    own.press(KEY.Key_Space)
    assert builds.listed(own.store)[0].ended
    assert stock.faults(own.store) == []
    after = {part: lying.total for part, lying in stock.lying(own.store).items()}
    assert all(n <= began[part] for part, n in after.items())
