"""The Tray by keys, in the real window: what lies there, its sheet, stock, instruments, lists."""

import re

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtWidgets import QApplication, QFileDialog

from maglia.app.own_workshop import open_own
from maglia.app.rooms.tray.compartments import Heading
from maglia.app.session.session import Session
from maglia.app.theme import THEMES, load_fonts
from maglia.core.parts.parts import Chain, Connector, Ring
from maglia.core.values.record import DomainError
from maglia.core.values.rules import RULES
from maglia.core.workshop.compartments import id_of, name_of
from maglia.core.workshop.tray import Tray
from maglia.demo import demo_path, demo_tray, empty_file
from maglia.files.workshop.backups import backups_of
from maglia.files.workshop.store import open_workshop
from saying import plain
from windows import shell

KEY, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier


class Hands:
    """A window on the Tray, worked by keys."""

    def __init__(self, qtbot, path, *, demo):
        load_fonts()
        self.qtbot = qtbot
        self.session = Session(demo_tray() if demo else Tray())
        self.session.open(demo_path(), as_copy=True)
        self.window = shell(self.session)
        qtbot.addWidget(self.window)
        self.window.resize(1280, 800)
        self.window.show()
        qtbot.waitExposed(self.window)
        open_own(self.session, path, self.window.banner, demo=demo)
        self.window.show_room("tray")
        self.tray, self.shop = self.window.room, self.session.workshop
        self.said = []
        self.session.said.connect(self.said.append)

    def press(self, *keys, modifier=Qt.KeyboardModifier.NoModifier):
        for key in keys:
            self.qtbot.keyClick(QApplication.focusWidget(), key, modifier)

    def type(self, text):
        self.qtbot.keyClicks(QApplication.focusWidget(), text)

    def new(self, *phrases):
        """N, then each phrase with Enter; the line is ready for the next."""
        self.press(KEY.Key_N)
        for phrase in phrases:
            self.type(phrase)
            self.press(KEY.Key_Return)
        self.press(KEY.Key_Escape)

    def over(self, field, text):
        """Type over a figure of the sheet."""
        box = self.tray.sheet.boxes[field]
        box.setFocus()
        self.press(KEY.Key_A, modifier=CTRL)
        self.type(text) if text else self.press(KEY.Key_Delete)
        self.press(KEY.Key_Return)

    def part(self, ref):
        return self.shop.part(own(self.shop, ref))


def own(shop, ref):
    """The id of a part of the tray, whatever tells it from others of its name."""
    tray = (*shop.tray.parts, *shop.tray.units)
    return next((one.id for one in tray if plain(one.id) == ref), ref)


@pytest.fixture
def hands(qtbot, tmp_path):
    made = Hands(qtbot, tmp_path / "demo.sqlite", demo=True)
    yield made
    made.session.finish()


@pytest.fixture
def bare(qtbot, tmp_path):
    made = Hands(qtbot, tmp_path / "own.sqlite", demo=False)
    yield made
    made.tray.close_down()
    made.session.finish()


def shown(hands):
    rows = hands.tray.tiles.model_rows.rows
    return [id_of(row.thing) for row in rows if not isinstance(row, Heading)]


def test_narrowing_walks_and_says_what_lies_there(hands):
    everything = shown(hands)
    assert len(everything) == 59 + 13 + 3
    hands.press(KEY.Key_Slash)
    hands.type("ring 4")
    assert shown(hands) == ["ring-4"]
    assert hands.tray.count.text() == "1 of 75"
    hands.press(KEY.Key_Return)
    assert hands.tray.tiles.thing.id == "ring-4"
    # 400 bought, 23 used, 2 spoilt
    assert hands.tray.stock_words(hands.tray.tiles.thing) == "375"
    assert "375 in the bag" in hands.tray.sheet.lies.there.text()
    hands.press(KEY.Key_Escape)
    assert shown(hands) == everything
    hands.press(KEY.Key_Slash)
    hands.type("no such thing")
    assert (shown(hands), "fewer letters" in hands.tray.tiles.empty) == ([], True)


def test_a_unit_is_kept_by_name_and_none_that_could_not_be_read_again(hands):
    before = shown(hands)
    hands.press(KEY.Key_N)
    hands.type("dangle rose on brass 0.6, spiral 99999")
    hands.press(KEY.Key_Return)
    assert "whose spiral is out of bounds" in hands.window.message.text()
    hands.press(KEY.Key_A, modifier=CTRL)
    hands.type("new dangle rose on brass 0.6, spiral 6")
    hands.press(KEY.Key_Return)
    assert hands.window.message.text() == "Kept: Rose glass 4 mm dangle."
    hands.press(KEY.Key_Escape)
    assert len(shown(hands)) == len(before) + 1


def test_what_cannot_be_kept_is_not_said_to_be(hands, monkeypatch):
    def refused(*_):
        raise DomainError("the disk is full")

    monkeypatch.setattr("maglia.files.workshop.contents.change", refused)
    hands.press(KEY.Key_N)
    hands.press(KEY.Key_A, modifier=CTRL)
    hands.type("new ring 9.9 x 0.7 inner")
    hands.press(KEY.Key_Return)
    assert "not kept: the disk is full" in hands.window.message.text()
    assert not any(said.startswith("Kept") for said in hands.said)


def test_a_form_of_her_own_is_fitted_beside_the_window_and_kept(hands):
    hands.press(KEY.Key_N)
    hands.press(KEY.Key_A, modifier=CTRL)
    hands.type("new form shop bust neck 360, 450 falls 14, 600 falls 103")
    hands.press(KEY.Key_Return)
    assert "…" in hands.window.message.text()
    hands.qtbot.waitUntil(lambda: "shop bust" in hands.shop.forms, timeout=20_000)
    assert hands.window.message.text() == "The form shop bust is kept."


def test_a_sheet_that_was_hidden_and_resized_shows_another_kind(hands):
    tiles, sheet = hands.tray.tiles, hands.tray.sheet
    kinds = {}
    for row in tiles.model_rows.rows:
        if not isinstance(row, Heading):
            kinds.setdefault(type(row.thing), row.thing)
    wearer = hands.session.tray.wearers[0]
    for k, thing in enumerate([*kinds.values()] * 2):
        sheet.show_thing(wearer)
        hands.window.resize(1200 + k % 2 * 80, 760 + k % 3 * 40)
        QApplication.processEvents()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        sheet.show_thing(thing)
        QApplication.processEvents()
        assert sheet.drawing.isVisible() or isinstance(thing, type(wearer))


def test_arrows_pass_over_headings_and_every_tile_says_itself(hands):
    tiles = hands.tray.tiles
    seen = []
    for _ in range(75):
        seen.append(id_of(tiles.thing))
        words = tiles.model_rows.data(tiles.currentIndex())
        assert words.startswith(name_of(tiles.thing))
        hands.press(KEY.Key_Right)
    assert list(dict.fromkeys(seen)) == shown(hands)
    row = tiles.currentIndex().row()
    hands.press(KEY.Key_Up)
    assert tiles.currentIndex().row() < row
    assert tiles.thing is not None


def test_a_figure_typed_over_changes_the_part_and_undo_brings_it_back(hands):
    hands.tray.tiles.show_thing("ring-4")
    hands.press(KEY.Key_Return)
    assert QApplication.focusWidget() is hands.tray.sheet.boxes["inner_mm"]
    hands.over("inner_mm", "1/4 in")
    assert hands.part("ring-4").inner_mm == 6.35
    hands.over("outer_mm", "5.8")  # less twice 0.8
    assert hands.part("ring-4").inner_mm == 4.2
    hands.over("wire_mm", "?")
    assert hands.part("ring-4").wire_mm is None
    assert "wire ?  whether it passes what it joins needs it" in hands.tray.sheet.unknown.text()
    assert hands.tray.sheet.boxes["wire_mm"].property("unknown") is True
    hands.over("outer_mm", "6")
    assert "an outer size needs the wire" in hands.said[-1]
    hands.press(KEY.Key_Escape)
    for _ in range(3):
        hands.press(KEY.Key_Z, modifier=CTRL)
    assert hands.part("ring-4") == next(p for p in demo_tray().parts if p.id == "ring-4")
    hands.press(KEY.Key_Z, modifier=CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert hands.part("ring-4").inner_mm == 6.35


@pytest.mark.parametrize(
    ("ref", "field", "text", "said"),
    [
        ("ring-4", "inner_mm", "four", "“four” is no size"),
        ("ring-4", "inner_mm", "-3", "expected `float` > 0"),
        ("ring-4", "mass", "much", "“much” is no mass"),
        ("rolo-3", "pitches_mm", "0 links 20", "a swatch is so many links"),
        ("oval-20", "hole_name", "right", "a hole has a name of its own"),
        ("glass-6", "colour", "puce", "colour"),
    ],
)  # fmt: skip
def test_what_cannot_be_taken_is_said_and_the_old_figure_is_there_again(
    hands, ref, field, text, said
):
    before = hands.part(ref)
    hands.tray.tiles.show_thing(ref)
    hands.over(field, text)
    assert "Not done" in hands.said[-1]
    assert said in hands.said[-1]
    assert hands.part(ref) == before
    hands.press(KEY.Key_Escape)
    assert hands.tray.sheet.boxes[field].text() == hands.tray.sheet.boxes[field].shown


def test_a_swatch_gives_the_pitch_and_is_noted(hands):
    hands.tray.tiles.show_thing("rolo-3")
    hands.over("pitches_mm", "32 links 104 mm")
    assert hands.part("rolo-3").pitches_mm == (3.25,)
    assert hands.part("rolo-3").note == "swatch: 32 links are 104 mm"


def test_stock_is_said_in_words_and_taken_back_by_a_key(hands):
    hands.tray.tiles.show_thing("ring-4")
    for said, bag in (("200", 575), ("spoilt 3 bent", 572), ("counted 560", 560)):
        hands.press(KEY.Key_B)
        hands.type(said)
        hands.press(KEY.Key_Return)
        assert hands.shop.lying_of("ring-4").bag == bag
        hands.tray.tiles.setFocus()
    assert "counted anew −12" in hands.tray.sheet.lies.past.text()
    assert "spoilt −3 · bent" in hands.tray.sheet.lies.past.text()
    for bag in (572, 575, 375):
        hands.press(KEY.Key_Backspace)
        assert hands.shop.lying_of("ring-4").bag == bag
    hands.press(KEY.Key_B)
    hands.type("spoilt 9999")
    hands.press(KEY.Key_Return)
    assert "the bag holds 375, and 9999 are wanted" in hands.said[-1]


def test_an_off_cut_is_a_length_of_its_own_that_can_be_named(hands):
    hands.tray.tiles.show_thing("rolo-3")
    hands.press(KEY.Key_B)
    hands.type("cut 36 from end of the spool called short end for the usher")
    hands.press(KEY.Key_Return)
    lots = {lot.name: lot.amount for lot in hands.shop.lying_of("rolo-3").lots}
    assert lots["short end"] == 143 - 36 - 1
    hands.type("name short end as blue")
    hands.press(KEY.Key_Return)
    assert "blue" in {lot.name for lot in hands.shop.lying_of("rolo-3").lots}
    hands.tray.tiles.setFocus()
    hands.press(KEY.Key_Backspace)
    assert {lot.amount for lot in hands.shop.lying_of("rolo-3").lots} == {143, 291}


def test_ten_are_weighed_and_then_the_bag(hands):
    hands.tray.tiles.show_thing("glass-8")
    hands.press(KEY.Key_B)
    hands.type("10 weigh 6.70 g")
    hands.press(KEY.Key_Return)
    assert hands.part("glass-8").mass_g == pytest.approx(0.67)
    hands.type("bag 100.5 g")  # 150, to 150 · ½·0.01/6.7 = 0.11
    hands.press(KEY.Key_Return)
    assert hands.shop.lying_of("glass-8").bag == 150
    hands.press(KEY.Key_Escape)
    hands.tray.tiles.show_thing("ring-25")
    hands.press(KEY.Key_B)
    hands.type("10 weigh 0.16 g")
    hands.press(KEY.Key_Return)
    hands.type("bag 8 g")  # 500 ± 16: nobody can tell
    hands.press(KEY.Key_Return)
    assert re.search(r"about 500 ± 16: 10 are too few to tell; weigh 401 first", hands.said[-1])


def test_holes_are_moved_by_keys_and_the_outline_drawn_by_points(hands):
    hands.tray.tiles.show_thing("oval-20")
    hands.press(KEY.Key_H)
    before = hands.part("oval-20")
    hands.press(KEY.Key_Space, KEY.Key_Up, KEY.Key_Up)
    hands.press(KEY.Key_Left, modifier=Qt.KeyboardModifier.ShiftModifier)
    moved = hands.part("oval-20").holes[1]
    assert (moved.x_mm, moved.y_mm) == (before.holes[1].x_mm - 0.1, before.holes[1].y_mm + 1.0)
    hands.press(KEY.Key_Plus)
    assert hands.part("oval-20").holes[-1].diameter_mm is None
    assert "hole hole 1 ?" in hands.tray.sheet.unknown.text()
    hands.press(KEY.Key_Minus, KEY.Key_O, KEY.Key_Plus)
    assert len(hands.part("oval-20").points_mm) == 4
    hands.press(KEY.Key_Plus, KEY.Key_Right)
    assert len(hands.part("oval-20").points_mm) == 5
    while hands.shop.done:
        hands.tray.step(-1)
    assert hands.part("oval-20") == before


def test_a_part_that_the_piece_holds_otherwise_is_taken_over_as_one_edit(hands):
    hands.tray.tiles.show_thing("rolo-3")
    hands.over("pitches_mm", "3.1")
    assert "Ctrl+Shift+R takes it over" in hands.said[-1]
    row = hands.tray.sheet.stands.list.rows[0].words
    assert row.endswith("open on the bench: pitch 3.1 in the tray, 3 here")
    hands.press(KEY.Key_R, modifier=CTRL | Qt.KeyboardModifier.ShiftModifier)
    own = {part.id: part for part in hands.session.piece.parts}
    assert own["rolo-3"].pitches_mm == (3.1,)
    assert not hands.session.differing()
    hands.session.step(-1)
    assert [old.id for old, _ in hands.session.differing()] == ["rolo-3"]
    hands.qtbot.waitUntil(lambda: hands.session.at_rest, timeout=15_000)


def test_two_windows_on_one_workshop_see_each_other(hands, qtbot):
    other = Session(Tray())
    open_own(other, hands.shop.store.path)
    hands.new("ring 9.5 x 1 inner closed")
    other.workshop.look()
    ref = own(hands.shop, "ring-9.5")
    assert other.workshop.part(ref).inner_mm == 9.5
    other.workshop.keep(other.workshop.part(ref).__class__(id="x", name="X"))
    hands.shop.look()
    assert hands.part("x").name == "X"
    other.workshop.do(other.workshop.part(ref), *deeds("7", ref, other))
    hands.shop.look()
    assert hands.shop.lying_of(ref).bag == 7
    changed = Ring(id=ref, name="Other")
    other.workshop.keep(changed)
    hands.shop.look()
    hands.press(KEY.Key_Z, modifier=CTRL)  # the part is another window's by now
    assert "was changed since in another window" in hands.said[-1]
    assert hands.shop.part(ref) == changed
    other.finish()


def deeds(text, ref, session):
    from maglia.phrases.stock_phrases import read_stock

    return read_stock(text, session.workshop.part(ref))


def test_an_empty_tray_says_three_ways_to_begin_and_each_begins(bare, tmp_path, monkeypatch):
    assert shown(bare) == []
    for way in ("write what lies on the mat", "shelf of common sizes", "import a supplier's list"):
        assert way in bare.tray.tiles.empty
    bare.press(KEY.Key_S)
    assert len(shown(bare)) == 112
    bare.press(KEY.Key_Z, modifier=CTRL)
    assert shown(bare) == []
    rows = "".join(f"Jump ring {k};{k % 9 + 2},5;0,8;brass;{k}\n" for k in range(300))
    (tmp_path / "list.csv").write_text(f"Name;Inner (mm);Wire;Metal;Qty\n{rows}", "latin-1")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "list.csv"), ""))
    bare.press(KEY.Key_I)
    bare.qtbot.waitUntil(lambda: bare.tray.importing.brought is not None, timeout=10_000)
    assert bare.tray.importing.words.text() == "300 new parts"
    bare.press(KEY.Key_Return)
    assert len(shown(bare)) == 300
    assert bare.part("jump-ring-7").inner_mm == 9.5
    assert bare.shop.lying_of(own(bare.shop, "jump-ring-7")).bag == 7
    assert open_workshop(bare.shop.store.path).database.execute(
        "SELECT count(*) FROM kept").fetchone() == (300,)  # fmt: skip


def test_a_list_with_refused_rows_imports_nothing_until_they_are_left_out(bare, tmp_path):
    bad = "kind,name,inner,wire\nring,A,4,0.8\nring,B,x,0.8\nwidget,C,4,1\n"
    (tmp_path / "l.csv").write_text(bad)
    bare.tray.import_list(tmp_path / "l.csv")
    panel = bare.tray.importing
    bare.qtbot.waitUntil(lambda: panel.brought is not None, timeout=10_000)
    assert panel.words.text() == "1 new parts, 2 rows refused"
    panel.take()
    assert shown(bare) == []
    panel.leave_key.setFocus()
    bare.press(KEY.Key_Return)
    aside = (tmp_path / "l.refused.csv").read_text().splitlines()
    assert aside[1] == "ring,B,x,0.8,3,“x” is no size"
    assert aside[2].startswith("widget,C,4,1,4,")
    bare.press(KEY.Key_Return)
    assert shown(bare) == ["a"]


def test_instruments_read_into_the_figure_that_has_the_focus(bare):
    bare.new("ring ? x ? gunmetal called Old ring", "bead amber ?")
    bare.tray.tiles.show_thing("old-ring")
    bare.press(KEY.Key_F7)
    made = bare.tray.instruments
    made.timer.stop()

    def settled(steps=12):
        for _ in range(steps):
            made.tick()
            QApplication.processEvents()

    bare.press(KEY.Key_Return)
    assert QApplication.focusWidget() is bare.tray.sheet.boxes["inner_mm"]
    made.caliper.stand_in.instrument.jitter = 0
    made.tick()
    QApplication.processEvents()
    bare.press(KEY.Key_F8)
    assert "settling" in bare.said[-1]
    settled(30)
    bare.press(KEY.Key_F8)
    inner = bare.part("old-ring").inner_mm
    assert 3.6 < inner < 4.4
    assert f"{inner:.2f} mm ± 0.005, from the caliper" in bare.said[-1]
    bare.tray.sheet.boxes["wire_mm"].setFocus()
    made.caliper.stand_in.instrument.next_unit()  # inches come as inches
    settled(30)
    bare.press(KEY.Key_F8)
    assert 0.7 < bare.part("old-ring").wire_mm < 0.9
    bare.tray.sheet.boxes["price"].setFocus()
    bare.press(KEY.Key_F8)
    assert bare.part("old-ring").price is None
    bare.tray.sheet.boxes["mass"].setFocus()
    made.put_on(1)
    made.scale.stand_in.instrument.jitter = 0
    settled(60)
    bare.press(KEY.Key_F8)
    assert bare.part("old-ring").mass_g == pytest.approx(made.scale.reading.value)
    for fault, words in ((1, "battery low"), (3, "overload")):
        own = made.scale
        own._fault(fault)
        settled(40)
        assert own.words == words
        bare.press(KEY.Key_F8)
        assert f"the scale shows no figure: {words}" in bare.said[-1]
    made.caliper._fault(4)
    made.caliper.listen()
    assert made.caliper.words == "unplugged"
    assert "The caliper is unplugged" in bare.said[-1]


def test_a_rule_that_is_set_otherwise_is_what_checks_go_by(hands):
    hands.window.show_room("bench")
    hands.qtbot.waitUntil(lambda: hands.session.at_rest, timeout=15_000)
    assert not [c for c in hands.session.findings.checks if c.code == "heavy"]
    hands.window.show_room("tray")
    hands.press(KEY.Key_R)
    page = hands.window.room
    box = page.shown["strand_g"].control
    box.setFocus()
    hands.press(KEY.Key_A, modifier=CTRL)
    hands.type("5")
    hands.press(KEY.Key_Return)
    hands.qtbot.waitUntil(lambda: hands.session.at_rest, timeout=15_000)
    assert [c for c in hands.session.findings.checks if c.code == "heavy"]
    again = Session(Tray())
    open_own(again, hands.shop.store.path)
    assert again.workshop.rules.strand_g == 5
    again.finish()
    box.setFocus()
    box.clear()
    box.setModified(True)
    hands.press(KEY.Key_Return)
    assert hands.shop.rules.strand_g == 150
    for rule in RULES:
        with pytest.raises(DomainError, match="is from"):
            page._take(page.shown[rule.field].row, str(rule.most * 200 + 1000))


def test_a_piece_from_elsewhere_gives_its_parts_to_the_tray_by_one_key(bare):
    assert shown(bare) == []
    bare.press(KEY.Key_T, modifier=CTRL | Qt.KeyboardModifier.ShiftModifier)
    own = {thing.id for thing in (*bare.session.piece.parts, *bare.session.piece.units)}
    assert set(shown(bare)) == own
    bare.press(KEY.Key_T, modifier=CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert "has every part of the piece already" in bare.said[-1]


def test_parts_stand_in_saved_pieces_and_enter_opens_one(hands):
    hands.tray.tiles.show_thing("vee-30")
    rows = [row.words for row in hands.tray.sheet.stands.list.rows]
    assert "Spotlight swags" in " ".join(rows)
    hands.tray.sheet.stands.list.setFocus()
    hands.press(KEY.Key_Return)
    assert hands.session.piece.name in rows
    assert hands.window.room.__class__.__name__ == "Bench"


def test_a_necklace_from_an_empty_workshop(bare):
    """Swags, V and oval connectors, two toggles, three kinds of bead link: every part in a phrase,
    one measured afterwards, and the piece begun with them."""
    bare.new(
        "chain rolo 3 inside 2.2 wire 0.8 16 g/m lots 1000 430",
        "rings 4 x 0.8, 6 x 1, all inner stock 200",
        "vee 30 x 20 x 1.2 holes left right of 1.8, foot of 2",
        "oval 24 x 16 x 1 holes left right of 1.8, foot 0:-6 of 2",
        "toggle 14 span 3 eye 1.5",
        "toggle 18 span 3 eye 1.5",
        "ring toggle 10 x 1.5 inner closed called Toggle ring 10",
        "beads amber 6, rose 4, teal 8, all hole 1 glass stock 60",
        "cap daisy 2 x 6 hole 1 brass",
        "wire 0.6",
        "link amber on wire loop 2 wrapped 2",
        "link cap + teal + cap on wire loop 2",
        "link rose + rose on wire loop 2",
        "wearer prompter neck 372 wrist 160",
    )  # fmt: skip
    kinds = [thing.kind for thing in (*bare.session.tray.parts, *bare.session.tray.units)]
    assert kinds.count("bead link") == 3
    assert (kinds.count("clasp"), kinds.count("connector"), kinds.count("chain")) == (2, 2, 1)
    assert [wearer.role for wearer in bare.session.tray.wearers] == ["Prompter"]
    assert isinstance(bare.part("vee-30"), Connector)
    assert isinstance(bare.part("rolo-3"), Chain)
    assert bare.shop.lying_of(own(bare.shop, "rolo-3")).total == 333 + 143
    bare.session.start_new()
    bare.window.show_room("bench")
    bench = bare.window.room

    def put(*phrases):
        for phrase in phrases:
            bench.rule.setFocus()
            bare.press(KEY.Key_Return)
            bare.type(phrase)
            bare.press(KEY.Key_Return)

    put("vee 30", "ring 4", "12 rolo", "ring 4", "amber link", "20 rolo", "ring 4", "toggle 14")
    put("swag 24 rolo 1")
    bare.qtbot.waitUntil(lambda: bare.session.at_rest, timeout=20_000)
    assert plain(bare.session.piece.closure.clasp) == "toggle-14"
    assert {run.kind for run in bare.session.piece.runs} >= {"strand"}
    assert bare.session.findings.hung is not None


def test_both_themes_and_a_small_window_show_every_kind_of_thing(hands):
    for theme in THEMES.values():
        hands.tray.tiles.set_theme(theme)
        hands.window.resize(1024, 700)
        for ref in shown(hands):
            hands.tray.tiles.show_thing(ref)
            assert not hands.window.grab().isNull()
    hands.tray.tiles.zoom(3)
    hands.tray.tiles.zoom(-9)
    assert not hands.window.grab().isNull()


@pytest.fixture
def broken(qtbot, tmp_path):
    """A window whose workshop was scribbled over, with a backup of today beside it."""
    path = tmp_path / "own.sqlite"
    own = open_workshop(path)
    own.close()
    first = Session(Tray())
    open_own(first, path)
    first.workshop.keep(Ring(id="r", name="R"))
    first.workshop.close()
    open_workshop(path).close()
    for copy in backups_of(path):
        copy.unlink()
    open_workshop(path).close()  # today's backup
    for side in ("-wal", "-shm"):
        path.with_name(path.name + side).unlink(missing_ok=True)
    path.write_bytes(b"scribbled over" * 900)
    made = Hands(qtbot, path, demo=False)
    yield made
    first.finish()
    made.session.finish()


@pytest.mark.parametrize(
    ("answer", "kept", "said"),
    [(0, True, "to read only"), (1, True, "is your workshop now"), (2, False, "not kept")],
)
def test_a_broken_workshop_offers_its_backup(broken, answer, kept, said):
    banner = broken.window.banner
    assert "is no whole workshop" in banner.words.text()
    assert [button.text()[:4] for button in banner.buttons] == ["Look", "Put ", "Go o"]
    banner.buttons[answer].click()
    assert (broken.part("r") is not None) is kept
    broken.new("ring 9 x 1 inner closed")
    assert broken.part("ring-9") is not None  # there until the window closes, whatever came of it
    assert any(said in line for line in [*broken.said, "not kept"])
    path = broken.tray.window().desk.session.workshop.store
    assert (path is not None) is kept


def test_the_demo_begins_anew_only_when_that_is_asked_for(hands, tmp_path):
    hands.new("ring 9 x 1 inner closed")
    path = hands.shop.store.path
    hands.shop.close()
    again = Session(demo_tray())
    open_own(again, path, demo=True)
    assert again.workshop.part(own(again.workshop, "ring-9")) is not None
    again.finish()
    empty_file(path)
    fresh = Session(demo_tray())
    open_own(fresh, path, demo=True)
    assert fresh.workshop.part(own(fresh.workshop, "ring-9")) is None
    assert len(fresh.tray.parts) == 59
    fresh.finish()


def test_letters_and_delete_stay_where_they_are_typed(hands):
    """A choice, the drawing and a line have their own letters; none of them takes the shelf."""
    hands.tray.tiles.show_thing("oval-20")
    count = len(shown(hands))
    hands.tray.sheet.choices["material"].setFocus()
    hands.type("snied")
    hands.tray.sheet.drawing.setFocus()
    hands.press(KEY.Key_Delete)
    assert len(hands.part("oval-20").holes) == 2
    hands.press(KEY.Key_B)
    assert len(shown(hands)) == count
    for text in ("nan", "inf", "1e3", "--"):
        hands.over("mass", text)
        assert "is no mass" in hands.said[-1]
    hands.press(KEY.Key_Escape, KEY.Key_Escape)  # the old figure again, then the parts
    hands.new(f"ring 8.8 x 1 inner stock {10**30}")
    assert "more than any bench holds" in hands.said[-1]
    assert hands.part("ring-8.8") is None


def test_what_is_far_too_high_for_its_row_is_drawn_smaller_and_says_so(hands):
    tiles = hands.tray.tiles
    bangle = next(p for p in demo_tray().parts if p.id == "bangle-66")
    ring = next(p for p in demo_tray().parts if p.id == "ring-4")
    assert "drawn at 1 : 4" in tiles.said_of(bangle)
    assert "drawn" not in tiles.said_of(ring)
