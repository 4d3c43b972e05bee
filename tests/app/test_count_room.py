"""Count by keys, in the real window: a day put together, short, laid out, given up, on paper."""

import csv
import math

import pypdfium2
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QPageSize
from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PySide6.QtWidgets import QFileDialog

from maglia.app import laid_sheet
from maglia.app.cut_sheet import TITLE, blocks_of, save
from maglia.app.kit_sheet import contents_of
from maglia.app.laid_sheet import OVERLAP_MM, laid_flat
from maglia.app.make_sheet import save as save_make
from maglia.app.own_workshop import open_own
from maglia.app.painting.small import extent_mm
from maglia.app.paper import PX_PER_MM, Pages, print_on, write
from maglia.app.rooms.count import on_paper
from maglia.app.session.session import Session
from maglia.core.joining.cost import short_words, to_buy
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.text import make_sheet
from maglia.core.parts.parts import Chain
from maglia.core.values.record import DomainError
from maglia.core.values.rules import with_currency
from maglia.core.workshop.lying import Deed
from maglia.demo import demo_path, demo_tray
from maglia.files.workshop import contents, stock
from windows import in_front

KEY = Qt.Key


class Counter:
    """A window on Count, worked by keys."""

    def __init__(self, qtbot, path):
        self.qtbot = qtbot
        self.session = Session(demo_tray())
        self.session.open(demo_path("lamplighters-collar"), as_copy=True)
        self.window = in_front(qtbot, self.session)
        open_own(self.session, path, self.window.banner, demo=True)
        self.day = self.session.day
        self.said = []
        self.session.said.connect(self.said.append)
        self.window.show_room("count")
        self.room = self.window.room
        self.settle()

    @property
    def store(self):
        return self.session.workshop.store

    def settle(self):
        day = self.day
        self.qtbot.waitUntil(lambda: not day.at_work and not day.is_old, timeout=20_000)

    def press(self, *keys, modifier=Qt.KeyboardModifier.NoModifier):
        for key in keys:
            self.qtbot.keyClick(self.window.focusWidget(), key, modifier)
        self.settle()

    def add(self, letters):
        self.press(KEY.Key_A)
        self.qtbot.keyClicks(self.window.focusWidget(), letters)
        self.press(KEY.Key_Return, KEY.Key_Escape)


@pytest.fixture
def own(qtbot, tmp_path):
    made = Counter(qtbot, tmp_path / "own.sqlite")
    yield made
    made.session.finish()


def test_a_day_is_put_together_by_keys_and_counted_together(own):
    assert [e.piece.name for e in own.day.entries] == ["Lamplighter's collar"]  # the open one
    alone = own.day.cuttings["rolo-3"]
    own.press(KEY.Key_Plus)
    assert own.day.entries[0].copies == 2
    twice = own.day.cuttings["rolo-3"]
    assert sum(w.count for w in twice.wanted) == 2 * sum(w.count for w in alone.wanted)
    own.add("swag")
    own.add("usher y")
    assert [e.piece.name for e in own.day.entries][1:] == ["Spotlight swags", "Usher's Y"]
    needs = {need.thing.id: need for need in own.day.needs}
    # by hand: 24 rings of 4 mm in each collar, 17 of them opened; 9 and 3 in the others
    assert (needs["ring-4"].count, needs["ring-4"].to_open) == (2 * 24 + 9 + 3, 2 * 17 + 9 + 3)
    rows = own.room.make.rows
    assert [rows.words(row)[0] for row in rows.rows] == ["A", "B", "C"]
    assert "Rolo chain 3 mm: 1 length touched" in own.room.bars.accessibleDescription()
    shift = Qt.KeyboardModifier.ShiftModifier
    own.press(KEY.Key_Plus, modifier=shift)
    own.press(KEY.Key_Minus, KEY.Key_Minus)
    assert own.day.entries[0].copies == 5
    own.press(KEY.Key_Down, KEY.Key_Delete)
    assert [e.piece.name for e in own.day.entries] == ["Lamplighter's collar", "Usher's Y"]
    own.press(KEY.Key_B)
    assert own.day.entries[0].copies == 6


def test_what_is_short_is_said_bought_and_counted_anew(own):
    for _ in range(8):
        own.press(KEY.Key_Plus)
    rolo = own.day.cuttings["rolo-3"]
    assert rolo.missing
    assert "missing" in own.room.bars.accessibleDescription()
    part = next(p for p in own.session.tray.parts if p.id == "rolo-3")
    stock.do(own.store, part, Deed("bought", 4000), "2031-01-01T10:00")
    own.session.workshop.read()
    assert "! older than the piece or the stock" in own.room.make.title.text()
    assert own.room.bars.accessibleDescription().startswith("as it was before the last change")
    own.qtbot.keyClick(own.window.focusWidget(), KEY.Key_L)
    assert "R counts anew" in own.window.message.text()  # nothing is reserved by an old plan
    own.settle()  # it is counted anew by itself
    assert own.day.cuttings["rolo-3"].missing == ()
    assert own.room.make.title.text() == "To make"


def test_a_day_is_laid_out_by_one_event_and_another_cannot_have_it(own, qtbot, tmp_path):
    before = stock.balances(own.store)
    own.press(KEY.Key_L)
    assert own.said[-1].startswith("Laid out")
    assert own.room.make.title.text() == "To make · laid out"
    lots = {bar.lot for bar in own.day.cuttings["rolo-3"].bars}
    assert not lots & {lot.name for lot in stock.lying(own.store)["rolo-3"].lots}
    other = Counter(qtbot, tmp_path / "own.sqlite")
    other.press(KEY.Key_Plus)
    assert not lots & {bar.lot for bar in other.day.cuttings["rolo-3"].bars}
    other.window.close()
    other.session.finish()
    own.window.activateWindow()
    qtbot.waitUntil(own.window.isActiveWindow)
    own.press(KEY.Key_G)
    assert stock.balances(own.store) == before
    assert stock.faults(own.store) == []
    own.press(KEY.Key_G)
    assert "this day is not laid out" in own.window.message.text()


def test_escape_takes_what_is_found_and_an_empty_day_says_what_to_do(own):
    own.day.plan()
    own.day.stop()
    assert not own.day.at_work
    own.press(KEY.Key_Delete)
    assert own.day.entries == ()
    assert own.room.may("add")
    assert not own.room.may("lay-out")
    own.session.start_new()
    own.press(KEY.Key_B)
    assert "the bench is empty" in own.window.message.text()
    assert own.room.bars.grab().toImage().width() > 0


def test_cuts_are_written_as_a_table(own, tmp_path, monkeypatch):
    path = tmp_path / "cuts.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    own.press(KEY.Key_E)
    rows = list(csv.DictReader(path.read_text(encoding="utf-8-sig").splitlines()))
    assert {row["piece"] for row in rows if row["what"] == "cut"} == {"Lamplighter's collar"}


def test_a_day_is_kept_as_a_set_and_what_is_left_is_told(own, tmp_path, monkeypatch):
    own.press(KEY.Key_Plus)
    own.add("earrings")
    day, path = own.day.entries, str(tmp_path / "night.json")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (path, ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (path, ""))
    own.press(KEY.Key_S, KEY.Key_Delete, KEY.Key_Delete)
    assert own.day.entries == ()
    own.press(KEY.Key_O)
    assert own.day.entries == day
    own.press(KEY.Key_W)
    own.qtbot.waitUntil(lambda: own.said[-1].startswith("What is left"), timeout=30_000)
    names = {one.name for one in own.day.enough}
    assert "Spotlight swags" in names
    assert "Box keeper's ribbon" not in names  # no ribbon lies there
    before = own.day.enough
    own.press(KEY.Key_L)
    said = len(own.said)
    own.press(KEY.Key_W)
    own.qtbot.waitUntil(lambda: any(w.startswith("What is left") for w in own.said[said:]),
                        timeout=30_000)  # fmt: skip
    assert own.day.enough == before  # what is laid out is not taken off twice


def test_kit_labels_say_what_goes_into_each_bag(own, tmp_path, monkeypatch):
    own.press(KEY.Key_Plus)
    path = tmp_path / "kits.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    own.press(KEY.Key_K)
    document = pypdfium2.PdfDocument(path)
    text = " ".join(page.get_textpage().get_text_range() for page in document)
    assert "1 of 2" in text
    assert "2 of 2" in text
    inside = contents_of(own.day.making[0], "mm")
    # by hand: one collar's bag, whatever the number of copies
    assert {"2 × 37 links of Rolo chain 3 mm", "24 × Jump ring 4 mm",
            "7 × 113.5 mm of Brass wire 0.6 mm"} <= set(inside)  # fmt: skip
    document.close()


def test_another_part_of_the_tray_that_would_do_is_named(own):
    ring = next(n for n in own.day.needs if n.thing.id == "ring-4")
    near = replace(ring.thing, id="near", name="Jump ring 4.1 mm", inner_mm=4.1)
    own.session.workshop.keep(near)
    stock.do(own.store, near, Deed("bought", 500), "2031-01-01T10:00")
    own.session.workshop.read()
    bags = {ref: lying.bag for ref, lying in own.session.workshop.lying.items()}
    parts = own.session.workshop.tray.parts
    for wanted, instead in ((500, ("Jump ring 4.1 mm",)), (501, ())):
        short = replace(ring, count=wanted, lies=0)
        (said,) = to_buy((short,), {}, own.session.workshop.rules, parts, bags)
        assert said.instead == instead
    own.session.workshop.keep(replace(near, id="ring-4", name=ring.thing.name, pack=100))
    short = replace(ring, count=380, lies=377)
    (said,) = to_buy((short,), {}, own.session.workshop.rules, own.session.workshop.tray.parts)
    # 10 % of 380 and two more are spares; the tray knows that they come by the hundred
    assert short_words(said) == f"43 × {ring.thing.name}: 40 of them spares, 1 pack of 100"


def test_a_length_as_it_is_sold_is_bought_whole_and_sums_are_in_the_maker_s_currency(own):
    workshop = own.session.workshop
    chain = next(c.part for c in own.day.cuttings.values() if isinstance(c.part, Chain))
    workshop.keep(replace(chain, sold_mm=900.0))
    workshop.set_rules(with_currency(workshop.rules, " florins "))
    assert contents.rules(own.store).currency == "florins"
    own.day.set((replace(own.day.entries[0], copies=40),))
    own.settle()
    (short,) = [one for one in own.day.short if one.part.id == chain.id]
    assert not own.day.cuttings[chain.id].missing
    assert short.lengths >= 1
    assert short.length_mm <= 900.0 < short.length_mm + max(chain.pitches_mm)
    assert f"length{'s' if short.lengths > 1 else ''} of " in short_words(short)
    assert "florins" in own.room.needs._money()[0][1]


def dark_run(page, dpi, top, bottom):
    """The longest dark stretch of any row of pixels between two heights, mm."""
    picture = page.render(scale=dpi / 72).to_numpy()
    gray = picture[..., :3].mean(axis=2)
    best = 0
    for row in gray[int(top * len(gray)) : int(bottom * len(gray))] < 130:
        run = 0
        for dark in row:
            run = run + 1 if dark else 0
            best = max(best, run)
    return best * 25.4 / dpi


@pytest.mark.parametrize("ending", ["pdf", "letter.pdf"])
def test_the_bar_of_every_page_is_100_mm(own, tmp_path, ending):
    own.press(KEY.Key_Plus)
    path = tmp_path / f"cuts.{ending}"
    save(own.day.cuttings, path, "mm")
    document = pypdfium2.PdfDocument(path)
    assert len(document) > 0
    for page in document:
        assert dark_run(page, 600, 0.9, 1.0) == pytest.approx(100.0, abs=0.1)
    document.close()


@pytest.mark.parametrize("size", [QPageSize.PageSizeId.A4, QPageSize.PageSizeId.A5])
def test_a_printer_draws_it_true_whatever_its_paper(own, tmp_path, size):
    path = tmp_path / "printed.pdf"
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(path))
    printer.setPageSize(QPageSize(size))
    pages = print_on(printer, TITLE, "mm", blocks_of(own.day.cuttings, "mm"))
    document = pypdfium2.PdfDocument(path)
    assert len(document) == pages
    for page in document:
        assert dark_run(page, 600, 0.9, 1.0) == pytest.approx(100.0, abs=0.1)
    document.close()


def test_the_preview_is_the_desktop_s_own(own, monkeypatch):
    shown = []
    monkeypatch.setattr(QPrintPreviewDialog, "exec", lambda dialog: shown.append(
        (dialog.windowTitle(), dialog.printer().docName())))  # fmt: skip
    monkeypatch.setattr(on_paper, "chosen", lambda parent, offered: offered[0])
    own.press(KEY.Key_P, modifier=Qt.KeyboardModifier.ControlModifier)
    assert shown == [(TITLE, TITLE)]


@pytest.mark.parametrize(("number", "words"), [
    (0, "Cuts of the day"), (1, "cost ×"), (2, "Lamplighter's collar"), (3, "1 of 2"),
    (4, "step 10"), (5, "Lobster clasp 10 mm"),
])  # fmt: skip
def test_every_sheet_is_written_and_says_what_it_is(own, tmp_path, monkeypatch, number, words):
    own.press(KEY.Key_Plus)
    own.session.workshop.set_rules(with_currency(own.session.workshop.rules, "florins"))
    own.press(KEY.Key_R)
    path = tmp_path / "sheet.letter.pdf"
    monkeypatch.setattr(on_paper, "chosen", lambda parent, offered: offered[number])
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    own.press(KEY.Key_P)
    document = pypdfium2.PdfDocument(path)
    said = " ".join(page.get_textpage().get_text_range() for page in document)
    assert words in " ".join(said.split())
    for page in document:
        assert dark_run(page, 600, 0.9, 1.0) == pytest.approx(100.0, abs=0.1)
    document.close()


def test_each_sheet_has_a_letter_of_its_own(own):
    sheets = on_paper.sheets(own.session, 0)
    letters = [sheet.words.partition("&")[2][0].lower() for sheet in sheets]
    assert len(set(letters)) == len(sheets)


def test_tiles_show_the_piece_at_its_true_size_and_share_their_edges(own, tmp_path):
    found = laid_flat(own.day.entries[0].piece)
    path = tmp_path / "laid.pdf"
    write(path, "laid", "mm", laid_sheet.blocks_of(found))
    wide, tile = extent_mm(found.hung).width(), 210.0 - 28.0
    (blocks,) = Pages((tile, 269.0), "laid", "mm", laid_sheet.blocks_of(found)).pages
    assert len(blocks) == math.ceil((wide - OVERLAP_MM) / (tile - OVERLAP_MM)) == 3
    document = pypdfium2.PdfDocument(path)
    picture = document[0].render(scale=300 / 72).to_numpy()[..., :3].astype(float)
    gold, lit = picture.max(axis=2) - picture.min(axis=2) > 60, []
    for top, block in blocks:
        first, last = (14.0 + y / PX_PER_MM for y in (top, top + block.height))
        band = gold[round(first * 300 / 25.4) : round(last * 300 / 25.4)]
        lit.append(band.any(axis=0).nonzero()[0] * 25.4 / 300 - 14.0)
    # the first begins with the piece's edge, the last ends with it; between, each is full
    assert lit[0].min() == pytest.approx(3.0, abs=1.0)
    assert lit[1].max() - lit[1].min() == pytest.approx(tile, abs=2.5)  # the gap in a link
    end = wide - 2 * (tile - OVERLAP_MM) - 3.0
    assert lit[2].max() == pytest.approx(end, abs=2.5)  # the clasp is thicker than its line
    document.close()


def test_a_strand_is_laid_out_at_its_true_size_on_the_make_sheet(own, tmp_path):
    assembly = own.day.making[0].assembly
    path = tmp_path / "make.pdf"
    save_make(make_sheet(assembly, joining_plan(assembly)), path, None, "mm")
    document = pypdfium2.PdfDocument(path)
    page = next(p for p in document if "Laid out, true size" in p.get_textpage().get_text_range())
    dpi = 300
    picture = page.render(scale=dpi / 72).to_numpy()[..., :3].astype(float)
    gold = picture.max(axis=2) - picture.min(axis=2) > 60
    wide = [row.nonzero()[0] for row in gold if row.sum() > 40]
    longest = max(columns.max() - columns.min() + 1 for columns in wide) * 25.4 / dpi
    # A4 less its margins: the strand of 399.2 mm goes on in a second and a third row
    assert longest == pytest.approx(210.0 - 28.0, abs=1.0)
    document.close()


def test_a_cut_is_drawn_at_its_true_length(own, tmp_path):
    one = {"rolo-3": own.day.cuttings["rolo-3"]}
    path = tmp_path / "cuts.pdf"
    save(one, path, "mm")
    document = pypdfium2.PdfDocument(path)
    dpi = 600
    picture = document[0].render(scale=dpi / 72).to_numpy()[..., :3].astype(float)
    # the chain is drawn in gold: columns with saturated pixels are chain, ink and paper are gray
    gold = picture.max(axis=2) - picture.min(axis=2) > 60
    rows = gold.sum(axis=1) > 40
    found = set()
    start = None
    for y, on in enumerate([*rows, False]):
        if on and start is None:
            start = y
        elif not on and start is not None:
            columns = gold[start:y].any(axis=0).nonzero()[0]
            found.add(round((columns.max() - columns.min() + 1) * 25.4 / dpi, 2))
            start = None
    part = one["rolo-3"].part
    assert isinstance(part, Chain)
    # a stretch of n links is n pitches from crown to crown, and a wire more at its ends
    wanted = {n * part.pitches_mm[0] for n in (37, 9, 7, 5, 3)}
    for mm in wanted:
        assert any(abs(long - mm - 2 * part.wire_mm) < 0.25 for long in found), (mm, found)
    document.close()


def test_a_sheet_that_cannot_be_written_is_said(own, tmp_path):
    with pytest.raises(DomainError, match="cannot be saved"):
        save(own.day.cuttings, tmp_path / "no" / "cuts.pdf", "mm")
