"""Names are plain text everywhere: markup, escapes and very long ones through every room, print,
export and command; characters that cannot be seen are refused at the door.
"""

import html
import json
import re
import xml.etree.ElementTree as ElementTree
from pathlib import Path

import pypdfium2
import pytest
from click.testing import CliRunner
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel

from maglia.app.customer_sheet import save_customer, save_kit
from maglia.app.cut_sheet import save as save_cuts
from maglia.app.make_sheet import save as save_make
from maglia.app.plain_text import tip
from maglia.app.still_picture import save_picture
from maglia.cli import main
from maglia.core.edits.rename import run_renamed, thing_renamed
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.text import make_sheet
from maglia.core.piece.piece import Piece
from maglia.core.report import evaluate
from maglia.core.values.record import DomainError, as_plain
from maglia.demo import demo_path
from maglia.files import disk
from maglia.files.piece_json import piece_from, piece_text, read_piece, write_piece
from maglia.files.tables import counts_csv, cut_list_csv
from windows import Hands

FORMS = [Qt.TextFormat.PlainText, Qt.TextFormat.RichText]
NAMES = ['<img src="/dev/zero">', "<b>&amp;</b> [*] & {0} %s", "=1+2", "'; --", "W" * 120,
         "ܫܠܡܐ \u200f אבג"]  # fmt: skip


def named(text):
    """A piece in which everything bears a name."""
    made = read_piece(demo_path("gallery-tiers"))
    own = text[:110]
    for k, run in enumerate(made.runs[:3]):
        made = run_renamed(made, run.name, f"{own} {k}").piece
    for k, part in enumerate((*made.parts, *made.units)):
        made = thing_renamed(made, part.id, f"{own} p{k}").piece
    wearer = replace(made.wearer, role=own)
    return replace(made, name=text, wearer=wearer, note=f"{text}\nand more")


@pytest.mark.parametrize("text", NAMES)
def test_a_name_is_shown_as_it_is_in_every_room(qtbot, tmp_path, text):
    path = tmp_path / "own.maglia"
    write_piece(named(text), path)
    own = Hands(qtbot, tmp_path / "w.sqlite", "spotlight-swags")
    own.session.open(path)
    assert own.window.windowTitle().replace("[*][*]", "[*]") == f"{text} — Maglia"
    own.session.keep_offered([*own.session.piece.parts, own.session.piece.wearer])
    own.window.banner.ask(f"Work on “{text}” was cut off.", (f"Take {text} up", lambda: None))
    for room in ("tray", "bench", "count", "make", "log", "settings"):
        own.window.show_room(room)
        if room == "make":
            own.press(Qt.Key.Key_Return, Qt.Key.Key_Space)
            assert html.escape(text, quote=True) in own.window.room.card.words.text()
        own.qtbot.waitUntil(lambda: own.session.at_rest, timeout=20_000)
        own.window.grab()
    own.window.show_room("bench")
    for key in (Qt.Key.Key_U, Qt.Key.Key_F2, Qt.Key.Key_Return):
        own.press(key)
        own.press(Qt.Key.Key_Escape)
    labels = own.window.findChildren(QLabel)
    assert len(labels) > 40
    assert [label.text() for label in labels if label.textFormat() not in FORMS] == []
    for rows in own.window.findChildren(object):
        model = getattr(rows, "model", None)
        if callable(model) and (model := rows.model()) is not None and model.rowCount():
            told = model.index(0, 0).data(Qt.ItemDataRole.ToolTipRole) or ""
            assert "<" not in told.removeprefix("<qt>").replace("<br>", "").removesuffix("</qt>")
    own.session.finish()


@pytest.mark.parametrize("text", NAMES)
def test_a_name_is_written_as_it_is_on_paper_and_in_files(qapp, tmp_path, text):
    made = named(text)
    assert piece_from(piece_text(made)) == made
    found = evaluate(made)
    sheet = make_sheet(found.assembly, joining_plan(found.assembly))
    for ending in ("svg", "pdf"):
        files = [tmp_path / f"{name}.{ending}" for name in ("customer", "kit", "make")]
        save_customer(found, files[0], "mm")
        save_kit(found, files[1], "mm")
        save_make(sheet, files[2], found, "mm")
        for file in files:
            if ending == "svg":
                for page in file.parent.glob(f"{file.stem}*.svg"):
                    ElementTree.parse(page)
            else:
                document = pypdfium2.PdfDocument(file)
                shown = document[0].get_textpage().get_text_range()
                document.close()
                if text.isascii() and len(text) < 30:
                    assert re.sub(r"\s", "", text) in re.sub(r"\s", "", shown)
    save_picture(found, tmp_path / "alone.svg", mat=False)
    ElementTree.parse(tmp_path / "alone.svg")
    for table in (counts_csv(found), cut_list_csv(found)):
        assert not any(line.startswith(("=", "+", "@")) for line in table.splitlines())
    save_cuts({}, tmp_path / "cuts.pdf", "mm")


@pytest.mark.parametrize("text", NAMES)
def test_every_command_says_a_name_as_it_is(tmp_path, text):
    path = tmp_path / "own.maglia"
    write_piece(named(text), path)
    out = tmp_path / "out.csv"
    for words in (["report"], ["report", "--json"], ["plan"], ["count"], ["count", "--csv", out],
                  ["phrases"], ["fit"], ["buy"]):  # fmt: skip
        done = CliRunner().invoke(main, [words[0], str(path), *map(str, words[1:])])
        assert done.exception is None or isinstance(done.exception, SystemExit), (
            words,
            done.output,
        )
        assert not re.search(r"[\x00-\x08\x0b-\x1f\x7f]", done.output)
    assert not any(cell.startswith(("=", "+", "-", "@"))
                   for line in out.read_text(encoding="utf-8-sig").splitlines()
                   for cell in line.split(",") if not re.fullmatch(r"-?[\d.]+", cell))  # fmt: skip
    values = json.loads(CliRunner().invoke(main, ["report", str(path), "--json"]).output)
    assert values["piece"] == text


@pytest.mark.parametrize("bad", [
    "two\nlines", "bell\x07", "esc\x1b[31m", "turned\u202eround", "a\n", "isolated\u2066",
    "line\u2028line", "\x85",
])  # fmt: skip
def test_what_cannot_be_seen_is_refused_at_the_door(bad):
    with pytest.raises(DomainError, match="cannot be seen, or that turn the writing round"):
        piece_from(json.dumps({"format": "maglia-piece", "version": 5, "name": bad}))
    mended = Piece(name=as_plain(f"a{bad}"))
    assert mended == piece_from(piece_text(mended))


def test_a_name_of_ten_thousand_letters_is_refused():
    with pytest.raises(DomainError):
        piece_from(json.dumps({"format": "maglia-piece", "version": 5, "name": "x" * 10_000}))
    assert len(tip("<" * 10_000)) > 40_000


def test_labels_are_made_plain():
    """No label of the window guesses whether its words are markup."""
    source = Path(demo_path()).parents[2] / "app"
    for file in source.rglob("*.py"):
        for match in re.finditer(r"(?<!\w)QLabel\(\)?[^\n]*\n[^\n]*", file.read_text()):
            plain = file.name in ("plain_text.py",) or match[0].startswith("QLabel):")
            assert plain or "RichText" in match[0], file


def test_a_drawing_that_cannot_be_written_says_so(qapp, tmp_path, monkeypatch):
    found = evaluate(read_piece(demo_path("spotlight-swags")))

    def full(target, data):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(disk, "_write", full)
    for ending in ("pdf", "svg"):
        for save in (save_customer, save_kit):
            with pytest.raises(DomainError, match="cannot be saved: No space left"):
                save(found, tmp_path / f"sheet.{ending}", "mm")
    for name in ("a.svg", "a.png"):
        with pytest.raises(DomainError, match="No space left"):
            save_picture(found, tmp_path / name, mat=False)
    assert list(tmp_path.iterdir()) == []
