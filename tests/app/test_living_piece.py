"""One living piece through all rooms, by keys: what is changed in one is so in every other, and
what is older than the piece says so.
"""

import re
from contextlib import closing

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QFileDialog

from maglia.core.assembly.expand import expand
from maglia.core.cutting.day import Making, stretches_of
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import Spot
from maglia.core.log.used import used_in
from maglia.core.sheets.count import counts
from maglia.demo import demo_path
from maglia.files.workshop import build_stock, builds, day_stock, stock
from maglia.files.workshop.store import open_workshop
from windows import Hands

KEY, MOD = Qt.Key, Qt.KeyboardModifier


class Maker(Hands):
    """In every room."""

    def to(self, room):
        self.window.show_room(room)
        return self.window.room

    @property
    def day(self):
        return self.session.day

    def counted(self):
        """Wait until Count is of the piece and the stock as they are now."""
        day = self.day
        self.qtbot.waitUntil(lambda: not day.at_work and not day.is_old, timeout=20_000)
        return {(ref, one.stretch.amount): one.count for ref, cutting in day.cuttings.items()
                for one in cutting.wanted}  # fmt: skip

    def settled(self):
        self.qtbot.waitUntil(lambda: self.session.at_rest, timeout=20_000)

    def less(self, by=-2):
        """So many links fewer of the first chain of the strand, as by hand."""
        piece = self.session.piece
        run = piece.runs[0]
        spot = Spot(run.name, (next(k for k, item in enumerate(run.items)
                                    if getattr(item, "links", 0) > 5),))  # fmt: skip
        self.session.attempt(lambda: set_count(piece, spot, run.items[spot.path[0]].links + by))

    def make_all(self, until=lambda step: False):
        work = self.session.builds
        for _ in range(400):
            if work.build is None or work.turn is None or until(work.step):
                return
            self.press(KEY.Key_Space)

    @staticmethod
    def card_has(room, words):
        return words in room.card.words.text()

    def whole(self):
        """All there is of every part, wherever it lies: nothing appears or vanishes."""
        found = {}
        for (account, part), n in stock.balances(self.store).items():
            if account.sort != "outside":
                found[part] = found.get(part, 0) + n
        return found


@pytest.fixture
def maker(qtbot, tmp_path):
    made = []

    def begin(name="lamplighters-collar", path="own.sqlite", demo=True):
        made.append(Maker(qtbot, tmp_path / path, name, demo=demo))
        return made[-1]

    yield begin
    for one in made:
        one.session.finish()


def test_count_follows_the_piece_on_the_bench(maker):
    own = maker()
    own.to("count")
    assert own.counted()["rolo-3", 37] == 2
    own.to("bench")
    own.less()
    room = own.to("count")
    assert own.day.is_old
    assert "! older than the piece" in room.make.title.text()  # the old one is never as new
    own.press(KEY.Key_E)
    assert "counted anew" in own.window.message.text()  # nor goes it on paper
    wanted = own.counted()
    assert wanted["rolo-3", 35] == 2
    assert ("rolo-3", 37) not in wanted
    own.press(KEY.Key_B)
    assert [(e.piece.id, e.copies) for e in own.day.entries] == [(own.session.piece.id, 2)]
    own.session.step(-1)
    assert own.counted()["rolo-3", 37] == 4


def test_a_second_piece_is_another_whatever_it_is_called(maker):
    own = maker()
    own.to("count")
    own.counted()
    first = own.session.piece
    own.session.open(demo_path("lamplighters-collar"), as_copy=True)
    room = own.to("count")
    assert [e.piece for e in own.day.entries] == [first]
    own.press(KEY.Key_B)
    own.less()
    wanted = own.counted()
    assert (wanted["rolo-3", 37], wanted["rolo-3", 35]) == (2, 2)
    assert [room.make.rows.words(row)[0] for row in room.make.rows.rows] == ["A", "B"]
    makings = {p.making for c in own.day.cuttings.values() for bar in c.bars for p in bar.pieces}
    assert makings == {0, 1}
    own.press(KEY.Key_Up, KEY.Key_B, modifier=MOD.ShiftModifier)  # the first one onto the bench
    assert own.session.piece == first


def test_what_was_laid_out_is_settled_to_the_last_ring_when_the_piece_is_made(maker):
    own = maker("spotlight-swags")
    before, lots = own.whole(), dict(own.session.workshop.lying)
    own.to("count")
    own.counted()
    own.press(KEY.Key_L)
    assert own.day.laid_out
    own.settled()
    codes = [check.code for check in own.session.findings.checks]
    assert "short-in-stock" not in codes  # what is laid out for it is there for it
    own.to("make")
    own.press(KEY.Key_Return)
    assert own.session.builds.build.day == own.day.id
    own.make_all()
    used = {one.id: one.amount for one in used_in(own.session.builds.sheet.assembly)}
    own.press(KEY.Key_Space)
    assert "Its day is made" in own.said[-1] or "The day is made" in own.said[-1]
    assert not own.day.laid_out
    after = own.session.workshop.lying
    assert not any(own.session.workshop.lying_of(ref).laid_out for ref in lots)
    for ref, lying in lots.items():  # gone is what it took, and the links that went with cuts
        lost = lying.total - after[ref].total - used.get(ref, 0)
        assert 0 <= lost <= (8 if after[ref].lots else 0), ref
    assert own.whole() == before
    names = {lot.name for lot in after["cable-2"].lots} - {lot.name for lot in lots["cable-2"].lots}
    assert all(re.fullmatch(r"off-cut( \d+)?", name) for name in names)  # however often it is cut
    notes = [event.note for event in own.session.workshop.events_of("cable-2")]
    assert notes[0] == "" or "Spotlight swags" in notes[1]
    assert not any("/" in note or "#" in note for note in notes)


def test_copies_of_a_day_are_made_one_by_one_and_it_can_be_changed_meanwhile(maker):
    own = maker("spotlight-swags")
    own.to("count")
    own.press(KEY.Key_Plus)
    own.counted()
    own.press(KEY.Key_L)
    own.press(KEY.Key_Plus, KEY.Key_Plus)  # other copies: it is the same day
    own.counted()
    assert own.day.laid_out
    own.press(KEY.Key_Minus, KEY.Key_Minus)
    own.to("make")
    own.press(KEY.Key_Return)
    own.make_all()
    own.press(KEY.Key_Space)
    own.counted()
    assert [(e.copies, e.begun, e.ended) for e in own.day.entries] == [(2, 0, 1)]
    room = own.to("count")
    assert room.make.rows.words(own.day.entries[0]).endswith("× 2   ·   1 made")
    own.press(KEY.Key_G)
    assert not own.day.laid_out
    assert not any(a.sort == "plan" for a, _ in stock.balances(own.store))
    assert stock.faults(own.store) == []


def test_a_laid_out_day_is_there_again_the_next_day(maker):
    own = maker("spotlight-swags")
    own.to("count")
    own.counted()
    own.press(KEY.Key_L)
    laid = own.day.id, own.day.entries
    own.window.close()
    again = maker("curtain-bib")  # the next day, with another piece on the bench
    again.to("count")
    assert (again.day.id, again.day.entries, again.day.laid_out) == (*laid, True)
    again.counted()
    again.press(KEY.Key_B)
    again.counted()
    again.press(KEY.Key_L)
    assert again.said[-1].startswith("Laid out anew")
    with closing(open_workshop(again.store.path)) as store:
        assert len(day_stock.read_day(store, laid[0]).pieces) == 2
    again.press(KEY.Key_G)
    assert not any(a.sort == "plan" for a, _ in stock.balances(again.store))


def test_make_says_what_it_makes_and_what_the_bench_has_otherwise(maker):
    own = maker("spotlight-swags")
    room = own.to("make")
    own.press(KEY.Key_Return)
    build = own.session.builds.build
    assert f"Spotlight swags</span> · build {build.id}" in room.card.words.text()
    own.make_all(lambda step: step.stage != "ready")
    own.to("bench")
    own.settled()
    said = len(own.said)
    own.less(2)
    own.settled()
    line = next(words for words in own.said[said:] if "cut already" in words)
    assert f"Build {build.id}: " in line
    assert "2 more can be joined with a ring, or cut anew" in line
    own.to("make")
    assert "The bench has it otherwise" in room.card.words.text()
    own.press(KEY.Key_U)
    assert own.session.builds.build.piece == own.session.piece
    assert "The bench has it otherwise" not in room.card.words.text()
    assert own.session.builds.undos  # the stretch that is too short now
    own.make_all()
    own.press(KEY.Key_Space)
    own.session.open(demo_path("ushers-y"), as_copy=True)
    own.to("make")
    assert own.session.builds.build is None  # keys go to no other piece's build


def test_what_is_changed_on_the_mat_is_changed_on_the_bench_and_in_the_day(maker):
    own = maker("spotlight-swags")
    own.to("count")
    own.counted()
    room = own.to("make")
    own.press(KEY.Key_Return)
    own.make_all(lambda step: step.stage == "attach")
    own.press(KEY.Key_C)
    rows = [row.words for row in room.said.rows.rows]
    at = next(k for k, words in enumerate(rows) if "the mirror too" in words and "Swag 1" in words)
    own.qtbot.keyClicks(own.window.focusWidget(), "20")
    own.press(*[KEY.Key_Down] * at, KEY.Key_Return)
    assert own.session.builds.build.piece.runs == own.session.piece.runs
    assert own.day.entries[0].piece == own.session.piece
    assert own.session.history.state.words.startswith("on the mat: ")
    assert own.session.builds.bench_differs == ()
    own.session.step(-1)  # taken back on the bench alone: that is said
    assert own.session.builds.bench_differs


def test_what_a_build_took_is_what_the_log_and_count_and_the_stock_say(maker):
    own = maker("trapdoor-earrings")
    piece = own.session.piece
    assert piece.pair
    before = own.session.workshop.lying
    own.to("make")
    own.press(KEY.Key_Return)
    number = own.session.builds.build.id
    own.make_all()
    own.press(KEY.Key_Space)
    assembly, after = expand(piece), own.session.workshop.lying
    used = {one.id: one.amount for one in used_in(assembly)}
    cut = stretches_of(Making(assembly))
    for one in counts(assembly):
        if one.count and one.id in before and one.id not in cut:
            assert before[one.id].bag - after[one.id].bag == one.count == used[one.id], one.name
    entry = next(e for e in own.session.log_book.kept() if e.entry.id == number)
    assert {one.id: one.amount for one in entry.parts} == used
    assert all(n for n in (one.amount for one in entry.parts if one.is_length))
    # by hand: of both, what is metal weighs less than all of it twice
    assert 0 < entry.entry.metal_g < 2 * 100
    assert build_stock.laid_out(own.store, number) == {}


def test_no_menu_takes_a_key_away(maker):
    own = maker("spotlight-swags")
    rooms = ("tray", "bench", "count", "make", "log")

    def every_menu():
        for menu in own.window._menus.values():
            menu.aboutToShow.emit()
            menu.aboutToHide.emit()
        own.qtbot.wait(1)

    def asleep():
        keys = [made for made in own.window.findChildren(QAction) if not made.shortcut().isEmpty()]
        assert len(keys) > 80
        return [made.text() for made in keys if not made.isEnabled()]

    def states():
        own.session.start_new()
        yield "empty"
        own.session.open(demo_path("spotlight-swags"), as_copy=True)
        yield "untouched"
        own.less()
        yield "edited"
        own.session.builds.begin(own.session.piece)
        yield "building"

    for state in states():
        for room in rooms:
            own.to(room)
            every_menu()
            assert asleep() == [], (state, room)
    own.to("bench")
    own.press(KEY.Key_Z, modifier=MOD.ControlModifier)
    assert own.said[-1].startswith("Undone")
    own.press(KEY.Key_Z, modifier=MOD.ControlModifier | MOD.ShiftModifier)
    assert own.said[-1].startswith("Redone")
    own.to("make")
    at = own.session.builds.at
    own.press(KEY.Key_Space)
    assert own.session.builds.at == at + 1


def test_names_of_files_are_whole_and_nothing_is_asked_for_nothing(maker, tmp_path, monkeypatch):
    own = maker("spotlight-swags")
    asked = []
    own.window.desk.ask = lambda words, *answers: asked.append(words) or 1
    begun = []
    folder = tmp_path / "pieces"
    folder.mkdir()

    def save_name(parent, title, start, kinds):
        begun.append(start)
        return str(folder / "anna three strands"), ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", save_name)
    own.session.start_new()
    own.session.start_as_it_is(replace(own.session.piece, name="Untitled", note="a"), "begun")
    own.press(KEY.Key_S, modifier=MOD.ControlModifier)
    saved = folder / "anna three strands.maglia"
    assert (saved.exists(), own.session.path, own.session.piece.name) == (
        True, saved, "anna three strands",
    )  # fmt: skip
    assert begun[0].startswith("/")
    assert own.window.desk.folder == str(folder)
    own.to("log")
    own.session.attempt(lambda: set_count(own.session.piece, Spot("no such", (0,)), 3))
    own.press(KEY.Key_N, modifier=MOD.ControlModifier)
    assert own.window.room is own.window.made["bench"]  # its keys go where it is seen
    own.session.apply(replace_parts(own))
    assert not own.session.edited  # parts alone are in the tray
    own.press(KEY.Key_Escape)
    own.session.open(demo_path("spotlight-swags"), as_copy=True)
    own.less()
    own.window.desk.settings.note_piece(saved)
    own.press(KEY.Key_O, modifier=MOD.ControlModifier | MOD.ShiftModifier)
    assert asked == []  # the list is there first
    own.press(KEY.Key_Return)
    assert len(asked) == 1
    assert own.session.path == saved


def replace_parts(own):
    from maglia.core.edits.spots import Edited

    parts = own.session.tray.parts[:1]
    return Edited(replace(own.session.piece, parts=parts), "a part more")


def test_a_build_is_found_by_its_piece_and_not_by_its_name(maker):
    own = maker("spotlight-swags")
    room = own.to("make")
    own.press(KEY.Key_Return)
    number = own.session.builds.build.id
    assert builds.running(own.store, own.session.piece.id) == (number,)
    piece = own.session.piece
    own.session.open(demo_path("spotlight-swags"), as_copy=True)  # of the same name
    own.to("make")
    assert room.list.chosen.build is None
    assert "on the bench" not in " ".join(row.words for row in room.list.rows.rows)
    own.session.start_as_it_is(piece, "taken up again")
    own.to("make")
    assert room.list.chosen.build == number
    assert "on the bench" in room.list.chosen.words


def test_a_necklace_from_an_empty_workshop_to_the_log(maker, tmp_path):
    """Designed, counted, laid out, begun, changed after its first cut, changed again on the mat,
    left and taken up the next day with another piece made in part between, finished, logged."""
    own = maker(demo=False)
    own.session.start_new()
    bench = own.to("bench")

    def say(text):
        if not bench.insert.isVisible():
            own.press(KEY.Key_Return)
        own.qtbot.keyClicks(own.window.focusWidget(), text)
        own.press(KEY.Key_Return)
        own.settled()

    for text in ("new chain rolo 3 inside 2 wire 0.8 16 g/m, soldered, lots 1000",
                 "new ring 4 x 0.8 inner, stock 20", "new ring 6 x 1 inner closed, stock 5",
                 "new lobster 12 span 10.5 eye 2 gape 1.8 jaw 1.2, 0.6 g, stock 3",
                 "new charm key 24 x 10 loop 3 x 1, 1.2 g, stock 4"):  # fmt: skip
        say(text)
        own.press(KEY.Key_Escape)
    say("begin necklace")
    for text in ("61 rolo, ring 4", "close lobster into ring 6",
                 "drop key at fold with ring 4"):  # fmt: skip
        say(text)
    own.press(KEY.Key_Escape)
    piece = own.session.piece
    assert {o.name for o in piece.owners} >= {"Strand"}
    start = own.session.workshop.lying
    ref = {part.name: part.id for part in own.session.tray.parts}
    assert start[ref["rolo 3"]].total == 333  # 1 m by a pitch of 3

    own.to("count")
    assert own.counted()[ref["rolo 3"], 61] == 1
    own.press(KEY.Key_L)
    own.to("make")
    own.press(KEY.Key_Return)
    own.make_all(lambda step: step.verb != "cut")  # its first cut is made
    assert own.session.workshop.lying_of(ref["rolo 3"]).laid_out == 333 - 61 - 1

    own.to("bench")  # two links more after the cut
    centre = Spot("Strand", (-1,))
    own.session.attempt(lambda: set_count(own.session.piece, centre, 63))
    own.settled()
    assert any("cut already 61 links of rolo 3, 63 wanted: 2 more" in words for words in own.said)
    assert own.counted()[ref["rolo 3"], 63] == 1
    (cutting,) = own.day.cuttings.values()
    assert [one.amount for one in cutting.in_vain] == [61]
    room = own.to("make")
    own.press(KEY.Key_U)
    assert own.card_has(room, "changed on the mat: undo this first")
    own.make_all(lambda step: step.stage in ("attach", "row", "close"))
    own.press(KEY.Key_Escape)  # it is left
    mine = own.session.piece

    own.session.open(demo_path("scene-change-anklet"), as_copy=True)  # another in between
    own.to("make")
    own.press(KEY.Key_Return)
    own.press(KEY.Key_Space, KEY.Key_Space)
    other = own.session.builds.build.id
    own.window.close()

    again = maker("curtain-bib", demo=False)  # the next day
    again.session.start_as_it_is(mine, "taken up")
    room = again.to("make")
    assert again.session.builds.build is None
    again.press(KEY.Key_Return)  # the one of the piece on the bench is chosen
    assert again.session.builds.build.id != other
    again.make_all(lambda step: step.stage in ("attach", "close"))
    again.press(KEY.Key_C)
    rows = [row.words for row in room.said.rows.rows]
    at = next((k for k, words in enumerate(rows) if "ring 4" in words), None)
    if at is not None:
        again.qtbot.keyClicks(again.window.focusWidget(), "2")
        again.press(*[KEY.Key_Down] * at, KEY.Key_Return)
    changed = again.session.builds.build.piece
    assert changed.runs == again.session.piece.runs
    again.make_all()
    assert again.session.builds.turn is None
    again.press(KEY.Key_Space)

    room = again.to("log")
    entry = next(e for e in again.session.log_book.kept() if e.entry.ended)
    assembly = expand(changed)
    used = {one.id: one.amount for one in used_in(assembly)}
    assert {one.id: one.amount for one in entry.parts} == used
    lying = stock.lying(again.store)
    # by hand: of 333 links 61 were cut in vain and lie there, then 63; a link went with each cut
    lots = {lot.name: lot.amount for lot in lying[ref["rolo 3"]].lots}
    assert sorted(lots.values()) == sorted([61, 333 - 61 - 1 - 63 - 1])
    elsewhere = build_stock.laid_out(again.store, other)  # for the one that is made in part
    for name in ("ring 4", "ring 6", "lobster 12", "key 24"):
        one = ref[name]
        assert start[one].bag - lying[one].bag - elsewhere.get(one, 0) == used[one], name
        assert lying[one].laid_out == elsewhere.get(one, 0)
    assert stock.faults(again.store) == []


def test_a_file_that_was_copied_by_hand_is_a_piece_of_its_own(maker, tmp_path):
    own = maker("spotlight-swags")
    first = tmp_path / "first.maglia"
    own.session.save(first)
    mine = own.session.piece
    own.to("count")
    own.counted()
    second = tmp_path / "second.maglia"
    second.write_bytes(first.read_bytes())
    own.session.open(second)
    assert own.said[-1] == "A copy of first.maglia: a piece of its own from here on."
    assert own.session.piece.id != mine.id
    own.less()
    assert own.day.entries[0].piece == mine  # nothing of the first is changed by it
    assert not own.session.changed_by_others(second)
    own.session.save(second)
    own.session.open(first)
    assert own.session.piece == mine
    own.session.open(second)
    assert own.session.piece.id != mine.id
    own.session.save(tmp_path / "third.maglia")
    assert own.said[-1].endswith("It is a piece of its own from here on.")


def test_a_part_of_ones_own_is_not_taken_for_one_of_the_same_name(maker):
    own = maker("spotlight-swags")  # its workshop has a ring 4 of its own, of another id
    own.session.start_new()
    bench = own.to("bench")
    own.press(KEY.Key_Return)
    own.qtbot.keyClicks(own.window.focusWidget(), "new ring 4 x 0.9 inner")
    own.press(KEY.Key_Return)
    names = [part.id for part in own.session.tray.parts if part.name == "ring 4"]
    assert len(names) == 1
    assert own.session.differing() == ()
    assert bench.insert.isVisible()
