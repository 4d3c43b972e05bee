"""The workshop file: opened, kept, backed up, refused; its stock by double entry."""

import json
import os
import sqlite3
import subprocess
import sys
from datetime import date

import pytest
from click.testing import CliRunner
from hypothesis import given, settings
from hypothesis import strategies as st

from maglia.cli import main
from maglia.core.values.record import DomainError
from maglia.demo import demo_tray
from maglia.files.workshop import contents, stock, store
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
        ({"version": 2}, "no exported workshop"),
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
        monkeypatch.setattr(store, "date", fake)
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
    with pytest.raises(DomainError, match="spool has 0 of “rolo-3”, and 1 are wanted"):
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
    database.executescript(MIGRATIONS[0])
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
