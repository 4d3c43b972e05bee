"""What comes from others, and what goes wrong at night: refused at the door, costing itself alone,
and mended only by what mends it.
"""

import io
import json
import shutil
import sqlite3
import stat
import zipfile
from contextlib import closing
from datetime import date, timedelta

import pytest
from click.testing import CliRunner
from msgspec.structs import replace

from maglia.cli import main
from maglia.core.joining.ways import USUAL
from maglia.core.log.text import as_json, as_text, rows_of, years
from maglia.core.parts.parts import Chain, Ring
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import Deed
from maglia.demo import demo_path
from maglia.files.kinds import kind_of
from maglia.files.piece_json import piece_text, read_piece
from maglia.files.workshop import (
    backups,
    builds,
    bundle,
    contents,
    going_back,
    log,
    log_reading,
    stock,
    store,
)
from maglia.files.workshop.store import Damaged, open_workshop

AT = "2026-01-01T10:00:00"
PIECE = replace(read_piece(demo_path("ushers-y")), id="y")
ROLO, RING = Chain(id="rolo", name="Rolo", pitches_mm=(3.0,)), Ring(id="ring", name="Ring")
PNG = b"\x89PNG\r\n\x1a\n" + b"0" * 50


def opened(path):
    made = open_workshop(path)
    contents.change(made, [contents.added(ROLO), contents.added(RING)])
    stock.do(made, RING, Deed("bought", 40), AT)
    number = builds.begin(made, PIECE, USUAL, AT)
    log.measured(made, number, log.Measure(at=AT, what="hem", planned_mm=10.0, measured_mm=11.0))
    log.finished(made, number, 30.0, [log.Spent(kind="ring", number=9, minutes=3.3)], 4.2, "14.20")
    return made


def read_all(found):
    """Everything the rooms and commands read."""
    kept, says = log_reading.kept_builds(found, ""), log_reading.what_it_says(found)
    assert as_text(kept, says)
    as_json(kept, says)
    rows_of(kept)
    years([one.entry for one in kept])
    contents.rules(found)
    contents.saved_pieces(found)
    stock.lying(found)
    return kept


def bundled(tmp_path, change=None, members=(), photos=()):
    """A bundle with one build, changed by hand."""
    with closing(opened(tmp_path / "theirs.sqlite")) as made:
        (own,) = builds.exported(made, PIECE)
    values = json.loads(json.dumps([bundle.plain(own)]))
    values[0]["photos"] = [[name, ""] for name in photos]
    if change:
        change(values[0])
    out, file = io.BytesIO(), tmp_path / "x.maglia-bundle"
    about = {"format": "maglia-bundle", "version": 1, "name": PIECE.name}
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in (("bundle.json", json.dumps(about)), ("piece.maglia", piece_text(PIECE)),
                           ("builds.json", json.dumps(values)), *members):  # fmt: skip
            archive.writestr(name, data)
    file.write_bytes(out.getvalue())
    return file


def put(field, value):
    def change(build):
        where = build
        *path, last = field.split(".")
        for step in path:
            where = where[int(step) if step.isdigit() else step]
        where[int(last) if last.isdigit() else last] = value

    return change  # fmt: skip


@pytest.mark.parametrize(("change", "members", "photos"), [
    (put("cost", " "), (), ()), (put("cost", "sNaN"), (), ()), (put("cost", "1e99"), (), ()),
    (put("measures.0.share", 0), (), ()), (put("measures.0.measured_mm", 1e300), (), ()),
    (put("spent.0.number", 0), (), ()), (put("minutes", -1.0), (), ()),
    (put("begun", "2026-13-45T99:99:99"), (), ()), (put("begun", "yesterday"), (), ()),
    (put("marks", [["a", "", "again", "", "2026-01-01T63:00:00", 1.0]]), (), ()),
    (put("name", "two\nlines"), (), ()), (put("piece.runs", [{"name": "x", "items": 1}]), (), ()),
    (None, (("photographs/1.png", b"no picture"),), ["photographs/1.png"]),
    (None, (("../../key", PNG),), ["../../key"]), (None, (), ["photographs/gone.png"]),
    (None, tuple((f"photographs/{k}.png", PNG) for k in range(600)), []),
    (None, (("photographs/1.png", b"0" * 61_000_000),), ["photographs/1.png"]),
])  # fmt: skip
def test_a_bundle_is_taken_in_whole_or_not_at_all(tmp_path, change, members, photos):
    file = bundled(tmp_path, change, members, photos)
    with closing(opened(tmp_path / "own.sqlite")) as own:
        before = len(read_all(own))
        with pytest.raises(DomainError):
            bundle.take_in(own, bundle.read_bundle(file))
        assert len(read_all(own)) == before
    left = [p.name for p in tmp_path.rglob("*") if p.suffix == ".png" or p.name == "key"]
    assert left == []


@pytest.mark.parametrize("spoil", [
    lambda data: data[: len(data) // 2], lambda data: data.replace(b"PK\x01\x02", b"PK\x09\x09"),
    lambda data: data[:30] + bytes(200) + data[230:], lambda data: b"", lambda data: b"PK" * 500,
    lambda data: data.replace(b"\x00\x00\x08\x00", b"\x01\x00\x08\x00"),  # encrypted
    lambda data: data.replace(b"\x00\x00\x08\x00", b"\x00\x00\x63\x00"),  # an unknown method
])  # fmt: skip
def test_a_bundle_that_is_none_is_refused(tmp_path, spoil):
    file = bundled(tmp_path)
    file.write_bytes(spoil(file.read_bytes()))
    with pytest.raises(DomainError):
        bundle.read_bundle(file)


def test_what_somebody_else_made_is_seen_and_feeds_no_estimate(tmp_path):
    file = bundled(tmp_path, put("cuts", [[1, "cut/rolo/9#1"]]))
    with closing(open_workshop(tmp_path / "own.sqlite")) as own:
        assert bundle.take_in(own, bundle.read_bundle(file)) == 1
        (kept,) = read_all(own)
        assert (len(kept.measures), log_reading.what_it_says(own)) == (1, ())
        assert own.database.execute("SELECT count(*) FROM cut_for").fetchone() == (0,)


@pytest.mark.parametrize(("statement", "is_damage"), [
    ("UPDATE build SET cost = X'00ff'", False), ("UPDATE build SET minutes = 'soon'", False),
    ("UPDATE build SET begun = NULL", False), ("UPDATE mark SET at = 'never'", False),
    ("UPDATE measure SET data = '{'", False), ("UPDATE measure SET data = 7", False),
    ("UPDATE kept SET data = '[]' WHERE id = 'ring'", False),
    ("INSERT INTO setting VALUES('rule', 'tangle_mm', 'wide')", False),
    ("INSERT INTO correction VALUES('loops', 'far', 'x', '')", True),
    ("UPDATE build SET piece = '{}', given = X'ff'", False),
    ("UPDATE balance SET amount = 'many'", True), ("UPDATE account SET part = X'00'", True),
    ("ALTER TABLE build DROP COLUMN metal_g", True), ("DROP TABLE day", True),
])  # fmt: skip
def test_a_row_that_cannot_be_read_costs_itself(tmp_path, statement, is_damage):
    path = tmp_path / "own.sqlite"
    opened(path).close()
    with closing(sqlite3.connect(path)) as raw:
        raw.executescript("PRAGMA ignore_check_constraints = ON; PRAGMA writable_schema = ON;"
                          "DROP INDEX IF EXISTS build_listed;")  # fmt: skip
        if "NULL" in statement:
            return  # the schema itself refuses that
        raw.execute(statement)
        raw.commit()
    if is_damage:
        with pytest.raises(Damaged):
            open_workshop(path)
        return
    with closing(open_workshop(path)) as found:
        assert len(read_all(found)) == 1
        parts = contents.kept(found, "part")
        assert ("ring" in parts) == ("'ring'" not in statement)
        told = [*contents.faults(found), *log.faults(found)]
        assert told or statement.startswith(("INSERT INTO setting", "UPDATE mark"))
    done = CliRunner().invoke(main, ["workshop", "check", "--workshop", str(path)])
    assert isinstance(done.exception, SystemExit | None)


def test_only_damage_is_mended_by_a_backup_and_nothing_is_lost_by_it(tmp_path):
    path = tmp_path / "own.sqlite"
    opened(path).close()
    open_workshop(path).close()
    (backup,) = backups.backups_of(path)
    with closing(sqlite3.connect(path, isolation_level=None)) as other:
        other.execute("PRAGMA locking_mode = EXCLUSIVE")
        other.execute("BEGIN IMMEDIATE")
        other.execute("UPDATE build SET minutes = minutes")
        store.WAIT_S, kept = 0.1, store.WAIT_S
        with pytest.raises(DomainError, match="another window is writing") as busy:
            open_workshop(path)
        store.WAIT_S = kept
        assert not isinstance(busy.value, Damaged)
        other.execute("PRAGMA user_version = 99")
        other.execute("COMMIT")
    with pytest.raises(DomainError, match="newer Maglia") as newer:
        open_workshop(path)
    assert not isinstance(newer.value, Damaged)
    before = path.read_bytes()
    log_file = path.with_name(path.name + "-wal")
    log_file.write_bytes(b"the newest")
    going_back.put_back(path, backup)
    aside = path.with_name("own.sqlite.unreadable")
    assert aside.read_bytes() == before
    assert aside.with_name(aside.name + "-wal").read_bytes() == b"the newest"  # goes along
    with closing(open_workshop(path)) as found:
        assert len(read_all(found)) == 1
    backup.write_bytes(b"no backup")
    before = path.read_bytes()
    with pytest.raises(DomainError):
        going_back.put_back(path, backup)
    assert path.read_bytes() == before


def test_reading_only_sees_what_stands_in_the_log(tmp_path):
    path = tmp_path / "own.sqlite"
    first = opened(path)
    stock.do(first, RING, Deed("bought", 2), AT)
    assert path.with_name("own.sqlite-wal").stat().st_size
    with closing(open_workshop(path, to_read=True)) as found:
        assert stock.lying(found)["ring"].bag == 42
        with pytest.raises(DomainError, match="can only be read here"):
            stock.do(found, RING, Deed("bought", 2), AT)
        copy = found.copy.name
    first.close()
    assert not store.Path(copy).exists()


def test_backups_are_kept_by_day_week_and_month_and_no_wrong_clock_is_the_last(tmp_path):
    path = tmp_path / "own.sqlite"
    made = opened(path)
    first = date(2025, 1, 1)
    for k in range(400):
        day = first + timedelta(days=k)
        copy = path.with_name(f"own.backup-{day.isoformat()}.sqlite")
        copy.write_bytes(b"x")
    future = path.with_name("own.backup-2099-01-01.sqlite")
    future.write_bytes(b"x")
    path.with_name("own.garbage.unfinished").write_bytes(b"x")
    assert backups.back_up(path, made.database) is not None
    found = backups.backups_of(path)
    assert len(found) <= 7 + 4 + 12 + 1
    assert backups.day_of(found[-1]) == date.today().isoformat()
    assert found[0] == future or not future.exists()
    months = {backups.day_of(one)[:7] for one in found}
    assert len(months) >= 12
    assert backups.back_up(path, made.database) is None
    made.close()
    run = CliRunner().invoke
    listed = run(main, ["workshop", "backups", "--workshop", str(path)]).output
    assert listed.splitlines()[0].startswith(date.today().isoformat())
    done = run(main, ["workshop", "restore", f"{date.today():%A}", "--workshop", str(path)])
    assert "is the workshop now" in done.output
    assert run(main, ["workshop", "restore", "Noday", "--workshop", str(path)]).exit_code == 2


def test_a_workshop_is_its_maker_s_alone(tmp_path):
    path = tmp_path / "deep" / "own.sqlite"
    opened(path).close()
    open_workshop(path).close()
    for file in (path, *backups.backups_of(path)):
        assert stat.S_IMODE(file.stat().st_mode) == 0o600
    assert stat.S_IMODE(path.parent.stat().st_mode) == 0o700
    path.chmod(0o644)
    open_workshop(path).close()
    assert stat.S_IMODE(path.stat().st_mode) == 0o600


def test_an_export_of_any_size_is_read_back(tmp_path, monkeypatch):
    out = tmp_path / "out.json"
    with closing(opened(tmp_path / "own.sqlite")) as own:
        for _ in range(5):
            builds.begin(own, PIECE, USUAL, AT)
        monkeypatch.setattr("maglia.files.disk.LARGEST", 10_000)
        contents.write_whole(own, out)
        assert out.stat().st_size > 10_000
        assert kind_of(out) == "workshop"
        with closing(open_workshop(tmp_path / "copy.sqlite")) as copy:
            contents.import_whole(copy, contents.read_whole(out))
            assert contents.exported(copy) == contents.exported(own)
    strange = tmp_path / "s.json"
    for text in ('{"format": []}', "[]", "{", '{"format": 7}'):
        strange.write_text(text)
        assert kind_of(strange) == "piece"


def test_two_windows_do_not_both_cut(tmp_path, qapp):
    from maglia.app.session.session import Session
    from maglia.core.workshop.tray import Tray

    path = tmp_path / "own.sqlite"
    made = open_workshop(path)
    for part in PIECE.parts:
        if isinstance(part, Chain):
            stock.do(made, part, Deed("bought", 500), AT)
    made.close()
    windows = []
    for _ in range(2):
        session = Session(Tray())
        session.workshop.open(open_workshop(path))
        windows.append(session)
    one, other = windows
    one.builds.begin(PIECE)
    other.builds.open(one.builds.build.id)
    one.builds.do()
    before = stock.balances(one.workshop.store)
    with pytest.raises(DomainError, match="gone on with in another window"):
        other.builds.do()
    assert stock.balances(one.workshop.store) == before
    assert other.builds.done == one.builds.done  # it is shown as it is now
    other.builds.do()
    with pytest.raises(DomainError, match="in another window"):
        one.builds.finish(given_up=True)
    one.builds.finish(given_up=True)
    with pytest.raises(DomainError, match="in another window"):
        other.builds.do()
    with pytest.raises(DomainError, match="is finished"):
        other.builds.back()
    for session in windows:
        session.finish()
    shutil.rmtree(tmp_path)
