"""Log by keys, in the real window: from the making to a correction and back into the next piece."""

import json

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from maglia.core.piece.corrections import Correction
from maglia.core.report import evaluate
from maglia.demo import demo_path
from maglia.files.workshop import builds, log
from windows import Hands

KEY = Qt.Key


class Keeper(Hands):
    """In whatever room is shown."""

    @property
    def room(self):
        return self.window.room

    def to(self, room):
        self.window.show_room(room)
        return self.room

    def told(self):
        return self.room.detail.text()


@pytest.fixture
def keeper(qtbot, tmp_path):
    made = []

    def begin(name="lamplighters-collar", **options):
        made.append(Keeper(qtbot, tmp_path / "own.sqlite", name, **options))
        return made[-1]

    yield begin
    for one in made:
        one.session.finish()


def built(own):
    """The collar made in the window, with two measures and a change on the mat."""
    make = own.to("make")
    own.press(KEY.Key_Return)
    own.press(KEY.Key_M)
    own.type("hem of drop 1 38")
    own.press(KEY.Key_Return)
    assert own.said[-1] == "Kept: hem of drop 1 38."
    work, wanted = own.session.builds, ["the mirror too", "20.4"]
    for _ in range(400):
        if work.turn is None:
            break
        if wanted[0] == "20.4" and "Smoked" in work.step.says:
            own.press(KEY.Key_M)
            own.type("20.4")
            own.press(KEY.Key_Return)
            wanted[0] = ""
        elif wanted[0] == "the mirror too" and work.step.verb == "cut":
            own.press(KEY.Key_C)
            rows = [row.words for row in make.said.rows.rows]
            at = next((k for k, words in enumerate(rows) if wanted[0] in words), None)
            own.type("9")
            own.press(*[KEY.Key_Down] * (at or 0), KEY.Key_Return)
            assert work.build.given != work.build.piece == own.session.piece  # the bench follows
            wanted = wanted[1:]
        own.press(KEY.Key_Space)
    assert (work.turn, wanted) == (None, [""])
    own.press(KEY.Key_Space)


def test_from_the_mat_to_the_log_and_into_the_next_piece(keeper):
    own = keeper()
    built(own)
    plain = evaluate(own.session.piece)
    room = own.to("log")
    assert room.entry.id == 65  # the latest stands first
    for words in ("20.4", "hem", "changed</span>", "Rolo"):
        assert words in own.told(), words
    measured = [one for _, one in log.measures(own.store, 65)]
    assert {(m.what, m.measured_mm) for m in measured} == {("span", 20.4), ("hem", 38.0)}

    own.press(KEY.Key_Tab)
    at = next(k for k, one in enumerate(room.says.rows) if one.about == "wrapped loop"
              and one.what == "span")  # fmt: skip
    own.press(*[KEY.Key_Down] * at, KEY.Key_T)
    (taken,) = own.session.workshop.corrections
    assert room.concern.taken == taken
    assert own.said[-1] == f"Taken over: {taken.words}. B takes it back."

    # the piece that is open stays as it was until it is told to; planned again it differs by this
    assert own.session.piece.corrections == ()
    own.press(KEY.Key_R, modifier=Qt.KeyboardModifier.ControlModifier
              | Qt.KeyboardModifier.ShiftModifier)  # fmt: skip
    other = evaluate(own.session.piece)
    assert other.closed_length_mm - plain.closed_length_mm == pytest.approx(14 * taken.value)
    assert [(c.id, c.count) for c in other.counts] == [(c.id, c.count) for c in plain.counts]
    bench = own.to("bench")
    own.qtbot.waitUntil(lambda: own.session.at_rest, timeout=15_000)
    assert bench.side.own.text() == f"Computed with {taken.words}"
    own.to("make")
    own.press(KEY.Key_Home)
    own.session.builds.begin(own.session.piece)
    while "Smoked" not in own.session.builds.step.says:
        own.press(KEY.Key_Space)
    assert taken.words in own.room.card.words.text()

    own.to("log")
    own.press(KEY.Key_Tab, KEY.Key_B)
    assert own.session.workshop.corrections == ()


def test_builds_are_found_copied_and_opened_as_they_were(keeper):
    own = keeper()
    room = own.to("log")
    everything = room.rows.rowCount()
    own.press(KEY.Key_Slash)
    own.type("usher")
    assert 0 < room.rows.rowCount() < everything
    assert all("usher" in own.session.log_book._hay[one.id] for one in room.rows.rows)
    own.type(" nothing like it")
    assert (room.rows.rowCount(), "None of them" in own.told()) == (0, True)
    own.press(KEY.Key_Escape)
    assert room.rows.rowCount() == everything
    own.press(KEY.Key_H)
    assert {one.piece for one in room.rows.rows} == {room.entry.piece}
    own.press(KEY.Key_H)
    assert room.rows.rowCount() == everything

    built = builds.read(own.store, room.entry.id).piece
    own.press(KEY.Key_O)
    assert replace(own.session.piece, id=built.id) == built
    own.session.workshop.correct(Correction(what="span", about="wrapped loop", value=0.5))
    own.session.open(demo_path("ushers-y"), as_copy=True)
    wearer = own.session.piece.wearer
    own.to("log")
    own.press(KEY.Key_C)
    copied = own.session.piece
    assert (copied.name, copied.wearer, copied.corrections[0].value) == (built.name, wearer, 0.5)
    assert own.window.room is own.to("bench")


def test_a_build_made_already_is_entered_in_one_line(keeper):
    own = keeper(demo=False)
    room = own.to("log")
    assert (room.rows.rowCount(), "No builds yet" in own.told()) == (0, True)
    own.press(KEY.Key_T)
    assert own.said[-1].startswith("Not done: nothing is measured yet")
    own.qtbot.waitUntil(lambda: own.session.at_rest, timeout=15_000)
    own.press(KEY.Key_N)
    own.type("closed length 413.5")
    own.press(KEY.Key_Return)
    assert own.said[-1].startswith("Not done: say how long it took")
    room.entry_line.setText("1 h 15,5 min, closed length 413.5, hem of nobody 3")
    own.press(KEY.Key_Return)
    assert own.said[-1].startswith("Not done: nothing is planned for “hem of nobody”")
    room.entry_line.setText("1 h 15,5 min, closed length 413.5, the clasp was stiff")
    own.press(KEY.Key_Return)
    assert (room.entry.piece, room.entry.minutes) == (own.session.piece.name, 75.5)
    (measure,) = [one for _, one in log.measures(own.store, room.entry.id)]
    assert measure.planned_mm == pytest.approx(own.session.findings.closed_length_mm)
    assert "stiff" in own.told()


def test_photographs_are_linked_or_copied_and_builds_go_out(keeper, tmp_path, monkeypatch):
    own = keeper()
    room = own.to("log")
    picture = tmp_path / "far" / "a b.png"
    picture.parent.mkdir()
    own.window.grab().save(str(picture))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(picture), ""))

    def photographed():
        own.press(KEY.Key_F)
        own.qtbot.waitUntil(lambda: own.session.jobs.is_idle("photographs"))

    photographed()
    room.copy_photos()
    photographed()
    photographed()
    kept = [file for file, _ in log.photos(own.store, room.entry.id)]
    beside = tmp_path / "photographs"
    names = sorted(path.name for path in beside.iterdir())
    assert kept[0] == str(picture)
    assert len(names) == len(set(kept[1:])) == 2
    assert {str(beside / name) for name in names} == set(kept[1:])
    assert (beside / names[0]).read_bytes() == picture.read_bytes()
    picture.unlink()
    photographed()
    assert own.said[-1].startswith("Not kept: ")
    assert len(log.photos(own.store, room.entry.id)) == 3

    for key, name in ((KEY.Key_J, "b.json"), (KEY.Key_E, "b.csv"), (KEY.Key_P, "b.pdf")):
        monkeypatch.setattr(QFileDialog, "getSaveFileName",
                            lambda *_, name=name: (str(tmp_path / name), ""))  # fmt: skip
        own.press(key)
        assert own.said[-1] == f"{room.rows.rowCount()} builds in {name}."
    data = json.loads((tmp_path / "b.json").read_text())
    assert len(data["builds"]) == room.rows.rowCount()
    assert (tmp_path / "b.csv").read_text("utf-8-sig").startswith("id,piece,wearer")
    assert (tmp_path / "b.pdf").read_bytes().startswith(b"%PDF")
