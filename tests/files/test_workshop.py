"""The workshop file: opened, kept, backed up, refused; its stock by double entry."""

import contextlib
import json
import os
import sqlite3
import subprocess
import sys
from datetime import date
from pathlib import Path

import pytest
from click.testing import CliRunner
from hypothesis import given, settings
from hypothesis import strategies as st

from maglia.cli import main
from maglia.core.parts.parts import Chain, Ring
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import Deed
from maglia.demo import demo_names, demo_tray, fill
from maglia.files.workshop import backups, contents, day_stock, going_back, log, stock, store
from maglia.files.workshop.schema import APPLICATION, MIGRATIONS, VERSION
from maglia.files.workshop.stock import BENCH, LOST, OUTSIDE, Account, Movement
from maglia.files.workshop.store import open_workshop

TRAY = demo_tray()
AT = "2026-01-01T10:00"


@pytest.fixture
def own(tmp_path):
    made = open_workshop(tmp_path / "own" / "workshop.sqlite")
    yield made
    made.close()


def filled(workshop):
    for part in TRAY.parts:
        contents.keep(workshop, "part", part.id, part)
    for unit in TRAY.units:
        contents.keep(workshop, "unit", unit.id, unit)
    for wearer in TRAY.wearers:
        contents.keep(workshop, "wearer", wearer.role, wearer)
    contents.set_value(workshop, "rule", "knot tail, mm", 75.5)
    contents.set_value(workshop, "about", "name", "Die Laterne — Werkstatt")
    lot = Account("lot", "rolo-3", "spool", first_phase=1)
    stock.record(workshop, "bought", [Movement("rolo-3", 384, OUTSIDE, lot)], AT)
    cut = [
        Movement("rolo-3", 36, lot, Account("build", name="Collar")),
        Movement("rolo-3", 1, lot, LOST),
        Movement("rolo-3", 347, lot, Account("lot", "rolo-3", "spool, rest")),
    ]
    stock.record(workshop, "cut", cut, AT, plan="Tuesday", note="first of two")
    return lot


def run(*words):
    return CliRunner().invoke(main, ["workshop", *map(str, words)])


def test_what_is_kept_is_there_again_and_the_newer_takes_the_place_of_the_older(own):
    filled(own)
    again = open_workshop(own.path)
    assert tuple(contents.kept(again, "part").values()) == TRAY.parts
    assert tuple(contents.kept(again, "unit").values()) == TRAY.units
    assert contents.values(again, "rule") == {"knot tail, mm": 75.5}
    part = TRAY.parts[3]
    contents.keep(again, "part", part.id, TRAY.parts[4])
    assert list(contents.kept(own, "part").values())[3] == TRAY.parts[4]


def test_exporting_what_was_imported_gives_the_same_bytes(own, tmp_path):
    filled(own)
    first, second, other = tmp_path / "a.json", tmp_path / "b.json", tmp_path / "other.sqlite"
    assert run("export", first, "--workshop", own.path).exit_code == 0
    done = run("import", first, "--workshop", other)
    assert (done.exit_code, "2 stock events" in done.output) == (0, True)
    assert run("export", second, "--workshop", other).exit_code == 0
    assert first.read_bytes() == second.read_bytes()
    assert run("check", "--workshop", other).output == "whole; the stock adds up\n"
    twice = run("import", first, "--workshop", other)
    assert (twice.exit_code, "is not empty" in twice.output) == (2, True)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"format": "maglia-piece"}, "no exported workshop"),
        ({"version": 3}, "no exported workshop"),
        ({"strange": 1}, "unknown field `strange`"),
        ({"parts": [{"kind": "ring", "id": "a", "name": "A"}] * 2}, "two parts are called “a”"),
        ({"events": [{"id": 1, "at": AT, "sort": "use", "movements": [
            {"part": "x", "amount": 5, "source": 2, "target": 1}]}]}, "does not add up"),
    ],
)  # fmt: skip
def test_a_bad_export_is_refused_and_nothing_is_imported(tmp_path, change, said):
    accounts = [{"id": 1, "sort": "outside"}, {"id": 2, "sort": "bench"}]
    whole = {"format": "maglia-workshop", "version": 1, "accounts": accounts} | change
    (tmp_path / "in.json").write_text(json.dumps(whole))
    done = run("import", tmp_path / "in.json", "--workshop", tmp_path / "w.sqlite")
    assert (done.exit_code, said in done.output) == (2, True), done.output
    assert not contents.kept(open_workshop(tmp_path / "w.sqlite"), "part")


@pytest.mark.parametrize(
    ("make", "said"),
    [
        (lambda path: path.write_bytes(b"no database at all" * 100), "is no whole workshop"),
        (lambda path: sqlite3.connect(path).execute("CREATE TABLE a(b)"), "another program"),
        (lambda path: sqlite3.connect(path).executescript(
            f"PRAGMA application_id = {APPLICATION}; PRAGMA user_version = {VERSION + 1};"
            "CREATE TABLE a(b)"), "open it with a newer Maglia"),
        (lambda path: path.mkdir(), "is no file"),
        (lambda path: None, "does not exist"),
    ],
)  # fmt: skip
def test_what_is_no_workshop_is_said_and_left_as_it_is(tmp_path, make, said):
    path = tmp_path / "w.sqlite"
    make(path)
    before = path.read_bytes() if path.is_file() else None
    for command in (("check",), ("export", tmp_path / "out.json")):
        done = run(*command, "--workshop", path)
        assert (done.exit_code, said in done.output) == (2, True), done.output
    assert (path.read_bytes() if path.is_file() else None) == before


def test_a_damaged_page_is_named_with_the_last_backup(own):
    filled(own)
    own.database.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    own.close()
    open_workshop(own.path).close()  # makes today's backup
    data = bytearray(own.path.read_bytes())
    data[4096 : 4096 * 6] = b"\x55" * 4096 * 5
    own.path.write_bytes(data)
    for side in ("-wal", "-shm"):
        own.path.with_name(own.path.name + side).unlink(missing_ok=True)
    with pytest.raises(
        DomainError, match=r"no whole workshop.*the last backup is workshop\.backup-"
    ):
        open_workshop(own.path)


def test_backups_are_made_once_a_day_and_before_a_migration_and_seven_are_kept(own, monkeypatch):
    filled(own)
    for day in range(10, 20):
        fake = type("Day", (date,), {"today": classmethod(lambda cls, d=day: date(2026, 3, d))})
        monkeypatch.setattr(backups, "date", fake)
        for _ in range(2):
            open_workshop(own.path).close()
    copies = sorted(path.name for path in own.path.parent.glob("*.backup-*"))
    assert copies == [f"workshop.backup-2026-03-{day}.sqlite" for day in range(13, 20)]
    newest = open_workshop(own.path.parent / copies[-1])
    assert tuple(contents.kept(newest, "part").values()) == TRAY.parts
    more = (*MIGRATIONS, "CREATE TABLE further(a)")
    monkeypatch.setattr(store, "MIGRATIONS", more)
    monkeypatch.setattr(store, "VERSION", len(more))
    later = open_workshop(own.path)
    assert later.database.execute("SELECT * FROM further").fetchall() == []
    assert own.path.with_name(f"workshop.backup-2026-03-19-before-{len(more)}.sqlite").exists()
    assert tuple(contents.kept(later, "part").values()) == TRAY.parts


OLDER = sorted((Path(__file__).parents[1] / "data" / "workshops").glob("*.sql"))


@pytest.mark.parametrize("script", OLDER, ids=lambda path: path.stem)
def test_a_workshop_of_every_older_version_is_brought_to_today_s(tmp_path, script):
    path = tmp_path / "w.sqlite"
    with contextlib.closing(sqlite3.connect(path)) as database:
        database.executescript(script.read_text())
    found = open_workshop(path)
    assert found.database.execute("PRAGMA user_version").fetchone() == (VERSION,)
    assert contents.kept(found, "part")["ring-4"].inner_mm == 4.0
    assert contents.kept(found, "wearer")["Prompter"].neck_mm == 372.0
    assert contents.rules(found).tangle_mm == 15.0
    assert stock.lying(found)["ring-4"].bag == 200
    contents.note_piece(found, "a.json", "A", ["ring-4"])
    assert contents.saved_pieces(found)[0].things == {"ring-4"}
    assert [copy.name for copy in backups.backups_of(path)] == [
        f"w.backup-{date.today().isoformat()}-before-{VERSION}.sqlite"
    ]
    for one in log.entries(found):  # builds begin with the third
        assert (one.piece, one.wearer, one.minutes) == ("Usher's Y", "the stage hand", 1.5)
        assert "Little key" in one.things
    for day in day_stock.open_days(found):  # what was laid out by a name can still be given up
        day_stock.give_up(found, day, AT)
        assert stock.lying(found)["rolo"].total in (181, 200)
    assert not any(account.sort == "plan" for account, _ in stock.balances(found))


def test_there_is_an_older_workshop_for_every_migration():
    assert [path.stem for path in OLDER] == [f"v{k}" for k in range(1, VERSION)]


def test_a_broken_workshop_is_put_back_from_its_backup(own):
    filled(own)
    own.close()
    open_workshop(own.path).close()
    (backup,) = backups.backups_of(own.path)
    for side in ("-wal", "-shm"):
        own.path.with_name(own.path.name + side).unlink(missing_ok=True)
    own.path.write_bytes(b"scribbled over" * 500)
    with pytest.raises(DomainError, match="no whole workshop"):
        open_workshop(own.path)
    looked = open_workshop(backup, to_read=True)
    assert tuple(contents.kept(looked, "part").values()) == TRAY.parts
    with pytest.raises(DomainError, match="can only be read here"):
        contents.set_value(looked, "rule", "tangle_mm", 1.0)
    going_back.put_back(own.path, backup)
    again = open_workshop(own.path)
    assert tuple(contents.kept(again, "part").values()) == TRAY.parts
    assert own.path.with_name("workshop.sqlite.unreadable").exists()
    contents.set_value(again, "rule", "tangle_mm", 1.0)


def test_changes_that_belong_together_are_kept_or_not_together(own):
    with pytest.raises(DomainError, match="has 0 of"):
        kept_and_used(own)
    assert contents.kept(own, "part") == {}
    assert contents.is_empty(own)


def test_the_demo_s_workshop_is_the_lantern_house_s_and_adds_up(own):
    fill(own)
    assert tuple(contents.kept(own, "part").values()) == TRAY.parts
    assert stock.faults(own) == []
    there = stock.lying(own)
    assert there["ring-4"].bag == 400 - 23 - 2
    # 1 m of rolo is 333 links; 41 cut off and one lost
    assert {lot.name: lot.amount for lot in there["rolo-3"].lots} == {
        "end of the spool": 143, "spool, rest": 333 - 41 - 1,
    }  # fmt: skip
    assert len(contents.saved_pieces(own)) == len(demo_names())
    text = contents.exported(own)
    other = open_workshop(own.path.with_name("other.sqlite"))
    path = own.path.with_name("whole.json")
    path.write_text(text)
    contents.import_whole(other, contents.read_whole(path))
    assert contents.exported(other) == text


def kept_and_used(own):
    with own.changing():
        contents.keep(own, "part", TRAY.parts[0].id, TRAY.parts[0])
        stock.record(own, "use", [Movement("x", 1, BENCH, LOST)], AT)


KEEPING = """
import sys
from pathlib import Path
from maglia.core.parts.parts import Ring
from maglia.files.workshop import contents
from maglia.files.workshop.store import open_workshop
own = open_workshop(Path(sys.argv[1]))
for k in range(100_000):
    contents.keep(own, "part", f"r{k}", Ring(id=f"r{k}", name="R"))
    print(k, flush=True)
"""


def test_a_kill_loses_nothing_that_was_kept(own):
    line = [sys.executable, "-c", KEEPING, str(own.path)]
    with subprocess.Popen(line, stdout=subprocess.PIPE, text=True) as keeping:
        told = [int(keeping.stdout.readline()) for _ in range(40)]
        keeping.kill()
        told += [int(rest) for rest in keeping.stdout.read().split()]
    found = contents.kept(open_workshop(own.path), "part")
    assert len(found) >= len(told) > 30
    assert run("check", "--workshop", own.path).exit_code == 0


# --- what a maker says of her stock ---------------------------------------------------------------

ROLO = Chain(id="rolo", name="Rolo", pitches_mm=(3.0,))
PATTERN = Chain(id="ls", name="Long-short", pitches_mm=(7.0, 3.0, 3.0), openable=True)
BAGGED = Ring(id="ring", name="Ring")


def lots_of(own, part):
    found = stock.lying(own).get(part.id)
    return {lot.name: (lot.amount, lot.first_phase) for lot in found.lots} if found else {}


def test_deeds_become_events_that_add_up(own):
    for part, deed in (
        (BAGGED, Deed("bought", 200)), (BAGGED, Deed("spoilt", 3)), (BAGGED, Deed("use", 12)),
        (ROLO, Deed("bought", 333)), (ROLO, Deed("bought", 143)),
        (ROLO, Deed("cut", 36, lot="lot 1")), (ROLO, Deed("cut", 143, lot="lot 2")),
        (PATTERN, Deed("bought", 30, first_phase=1)), (PATTERN, Deed("cut", 4)),
    ):  # fmt: skip
        stock.do(own, part, deed, AT)
    assert stock.lying(own)["ring"].bag == 185
    # of 333 links 36 are cut and one is lost; a whole length loses none; an openable link none
    assert lots_of(own, ROLO) == {"off-cut": (296, 0)}
    assert lots_of(own, PATTERN) == {"off-cut": (26, (1 + 4) % 3)}
    stock.do(own, BAGGED, Deed("counted", 180), AT)
    stock.do(own, BAGGED, Deed("counted", 190), AT)
    assert [event.amount for event in stock.events_of(own, "ring")] == [10, -5, -12, -3, 200]
    stock.name_lot(own, "rolo", "off-cut", "blue end")
    assert lots_of(own, ROLO) == {"blue end": (296, 0)}
    assert stock.faults(own) == []


@pytest.mark.parametrize(
    ("part", "deed", "said"),
    [
        (BAGGED, Deed("spoilt", 4), "the bag holds 3, and 4 are wanted"),
        (BAGGED, Deed("use", 0), "say how many"),
        (BAGGED, Deed("counted", 3), "that is what is on record already"),
        (ROLO, Deed("cut", 5), "say which length: there is “lot 1”, “lot 2”"),
        (ROLO, Deed("cut", 99, lot="lot 1"), "“lot 1” holds 10 links, 30 mm, and 99 links"),
        (ROLO, Deed("cut", 9, lot="lot 9"), "say which length"),
    ],
)  # fmt: skip
def test_a_deed_that_cannot_be_is_refused_and_nothing_is_recorded(own, part, deed, said):
    stock.do(own, BAGGED, Deed("bought", 3), AT)
    stock.do(own, ROLO, Deed("bought", 10), AT)
    stock.do(own, ROLO, Deed("bought", 10), AT)
    before = stock.balances(own)
    with pytest.raises(DomainError, match=said):
        stock.do(own, part, deed, AT)
    assert stock.balances(own) == before
    with pytest.raises(DomainError, match="is or was called “lot 2” already"):
        stock.name_lot(own, "rolo", "lot 1", "lot 2")


def test_a_workshop_that_cannot_be_written_is_read(own):
    filled(own)
    own.close()
    own.path.chmod(0o444)
    script = (
        "import sys; from pathlib import Path; from maglia.files.workshop import contents;"
        "from maglia.files.workshop.store import open_workshop\n"
        "w = open_workshop(Path(sys.argv[1])); print(len(contents.kept(w, 'part')))\n"
        "try: contents.set_value(w, 'rule', 'a', 1)\n"
        "except Exception as fault: print(fault)\n"
    )
    line = [sys.executable, "-c", script, str(own.path)]
    if os.getuid() == 0:
        line = ["unshare", "-U", "--map-user=1000", "--map-group=1000", *line]
    done = subprocess.run(line, capture_output=True, text=True, check=False)
    if "unshare" in done.stderr:
        pytest.skip("no namespace here")
    assert done.stdout.splitlines() == [
        str(len(TRAY.parts)), "the workshop workshop.sqlite can only be read here",
    ], done.stderr  # fmt: skip


def test_two_windows_see_each_other_s_changes_and_wait_for_each_other(own):
    other = open_workshop(own.path)
    contents.set_value(own, "rule", "a", 1)
    assert contents.values(other, "rule") == {"a": 1}
    contents.set_value(other, "rule", "a", 2)
    assert contents.values(own, "rule") == {"a": 2}
    other.database.execute("PRAGMA busy_timeout = 10")
    with own.changing(), pytest.raises(DomainError, match="another window is writing"):
        contents.set_value(other, "rule", "a", 3)
    assert contents.values(other, "rule") == {"a": 2}


# --- stock ----------------------------------------------------------------------------------------


def test_a_cut_is_one_event_and_every_link_is_somewhere(own):
    lot = filled(own)
    found = {(a.sort, a.name): n for (a, _), n in stock.balances(own).items()}
    assert found == {
        ("outside", ""): -384,
        ("build", "Collar"): 36,
        ("lost", ""): 1,
        ("lot", "spool, rest"): 347,
    }
    with pytest.raises(DomainError, match="spool has 0 of “Rolo chain 3 mm”, and 1 are wanted"):
        stock.record(own, "use", [Movement("rolo-3", 1, lot, LOST)], AT)
    assert stock.faults(own) == []


def test_an_event_is_reversed_once_and_not_under_what_was_made_of_it(own):
    filled(own)
    with pytest.raises(DomainError, match=r"event 2 \(Tuesday\) has used what event 1 brought"):
        stock.reverse(own, 1, AT)
    third = stock.reverse(own, 2, AT, "cut wrong")
    with pytest.raises(DomainError, match="event 2 is reversed already"):
        stock.reverse(own, 2, AT)
    with pytest.raises(DomainError, match="is itself a reversal"):
        stock.reverse(own, third, AT)
    stock.reverse(own, 1, AT)
    assert stock.balances(own) == {}
    with pytest.raises(DomainError, match="there is no event 99"):
        stock.reverse(own, 99, AT)


@pytest.mark.parametrize("what", ["UPDATE movement SET amount = 1", "DELETE FROM movement",
                                  "UPDATE event SET note = 'x'", "DELETE FROM event"])  # fmt: skip
def test_the_log_is_never_changed(own, what):
    filled(own)
    with pytest.raises(sqlite3.DatabaseError, match="is never"):
        own.database.execute(what)


def test_a_balance_that_is_not_what_the_movements_say_is_found(own):
    filled(own)
    own.database.execute("UPDATE balance SET amount = amount + 1 WHERE amount = 36")
    done = run("check", "--workshop", own.path)
    assert done.exit_code == 2
    assert "“rolo-3” is kept as 37 and is 36" in done.output


PLACES = (OUTSIDE, BENCH, LOST, Account("build", name="A"), Account("lot", "c", "1"))


@settings(max_examples=25, deadline=None)
@given(
    st.lists(
        st.tuples(st.sampled_from("abc"), st.integers(1, 9), st.sampled_from(PLACES),
                  st.sampled_from(PLACES)),
        max_size=30,
    )
)  # fmt: skip
def test_whatever_is_moved_nothing_appears_or_vanishes(moves):
    path = store.Path("/nowhere")
    database = sqlite3.connect(":memory:", isolation_level=None)
    database.executescript(";".join(MIGRATIONS))
    workshop = store.Workshop(path, database, read_only=False)
    expected = {}
    for part, amount, source, target in moves:
        has = expected.get((source, part), 0)
        move = [Movement(part, amount, source, target)]
        if source == target or (source is not OUTSIDE and has < amount):
            with pytest.raises(DomainError):
                stock.record(workshop, "use", move, AT)
            continue
        stock.record(workshop, "use", move, AT)
        expected[(source, part)] = has - amount
        expected[(target, part)] = expected.get((target, part), 0) + amount
    assert stock.balances(workshop) == {key: n for key, n in expected.items() if n}
    assert stock.faults(workshop) == []
    assert all(sum(n for (_, p), n in expected.items() if p == part) == 0 for part in "abc")
