"""Builds: pieces in the making, kept per closing, with their notes and their time.

A build holds the piece as it was when it was begun and as it is now. Every mark is on disk before
the function returns.
"""

import json
import sqlite3
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Annotated, Any, Literal, NamedTuple

import msgspec
from msgspec import Meta, field

from maglia.core.assembly.expand import expand
from maglia.core.joining.marked import Mark
from maglia.core.joining.ways import Working
from maglia.core.log.records import Measure, Spent
from maglia.core.piece.piece import Piece
from maglia.core.values.record import (
    DomainError,
    Minutes,
    Moment,
    MomentOrNone,
    Name,
    Record,
    Text,
    as_plain,
    in_words,
)
from maglia.files import disk
from maglia.files.piece_json import plain
from maglia.files.workshop import log
from maglia.files.workshop.store import Workshop

NOTED = "INSERT INTO build_note(build, at, step, sort, words, value) VALUES(?, ?, ?, ?, ?, ?)"
MARKED = """INSERT INTO mark(build, place, sign, sort, words, at, seconds, took)
    VALUES(?, ?, ?, ?, ?, ?, ?, ?)"""
ASIDE = "\u0000"
NoteSort = Literal["note", "changed", "measured", "spoilt", "undone"]
GIVEN_UP = "given up"


class Build(NamedTuple):
    """One build: its piece as begun and as it is now, how it is worked, when it was begun and
    ended (empty: it is not), and the day that it is for."""

    id: int
    name: str
    begun: str
    ended: str
    given: Piece
    piece: Piece
    working: Working
    day: str = ""


class Listed(NamedTuple):
    """A build as it is listed: which piece is made, how many marks it has, the seconds of its work,
    and whether it was given up."""

    id: int
    piece_id: str
    name: str
    begun: str
    ended: str
    marks: int
    seconds: float
    given_up: bool


class Note(NamedTuple):
    """What was said of a build at a step: a note, a change, a measure (`value`), a spoilt part."""

    at: str
    step: str
    sort: NoteSort
    words: str
    value: float | None


def _text(record: object) -> str:
    return json.dumps(plain(record), ensure_ascii=False)


def _found_by(piece: Piece) -> tuple[str, str]:
    """What a build is found by: its wearer and the names of its parts."""
    return piece.wearer.role, " · ".join(part.name for part in piece.parts)


BEGIN = """INSERT INTO build(name, begun, ended, given, piece, working, wearer, things, piece_id,
    day) VALUES(?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"""


def begin(workshop: Workshop, piece: Piece, working: Working, at: str, day: str = "") -> int:
    """A new build of a piece as it is, for a day if that has it. Returns its number."""
    with workshop.changing() as database:
        text = _text(piece)
        row = (piece.name, at, "", text, text, _text(working), *_found_by(piece), piece.id, day)
        found = database.execute(BEGIN, row).lastrowid
    assert found is not None
    return found


def running(
    workshop: Workshop, piece_id: str, days: Sequence[str] | None = None
) -> tuple[int, ...]:
    """The builds of a piece that are not ended, the latest first; of some days only (an empty one:
    of none)."""
    rows = workshop.database.execute(
        "SELECT id, day FROM build WHERE piece_id = ? AND piece_id <> '' AND ended = '' "
        "ORDER BY id DESC", (piece_id,),
    )  # fmt: skip
    return tuple(number for number, day in rows if days is None or day in days)


def ended_of(workshop: Workshop, piece_id: str, day: str) -> int:
    """How many builds of a piece for a day were finished or given up."""
    (number,) = workshop.database.execute(
        "SELECT count(*) FROM build WHERE piece_id = ? AND day = ? AND ended <> ''",
        (piece_id, day),
    ).fetchone()
    return int(number)


def listed(workshop: Workshop) -> tuple[Listed, ...]:
    """All builds, those that are not ended first, the latest first."""
    rows = workshop.database.execute(
        "SELECT b.id, b.piece_id, b.name, b.begun, b.ended, count(m.place), "
        "coalesce(sum(m.seconds), 0), "
        "EXISTS(SELECT 1 FROM build_note n WHERE n.build = b.id AND n.step = '' AND n.words = ?) "
        "FROM build b LEFT JOIN mark m ON m.build = b.id GROUP BY b.id "
        "ORDER BY b.ended <> '', b.id DESC",
        (GIVEN_UP,),
    )
    return tuple(Listed._make((*row[:7], bool(row[7]))) for row in rows)


def read(workshop: Workshop, build: int) -> Build:
    """One build whole. Raises DomainError if it is not there or not sound."""
    row = workshop.database.execute(
        "SELECT id, name, begun, ended, given, piece, working, day FROM build WHERE id = ?",
        (build,),
    ).fetchone()
    if row is None:
        raise DomainError(f"there is no build {build}")
    try:
        given, piece = (msgspec.json.decode(text, type=Piece) for text in row[4:6])
        working = msgspec.json.decode(row[6], type=Working)
        return Build(row[0], row[1], row[2], row[3], given, piece, working, row[7])
    except msgspec.MsgspecError as fault:
        where = disk.shown(workshop.path)
        raise DomainError(f"{where}: build {build} is not sound ({in_words(fault)})") from None


def is_as(workshop: Workshop, build: Build, done: Mapping[str, Mark]) -> bool:
    """Whether the file holds a build as it was read: its piece, its marks, and that it goes on."""
    query = workshop.database.execute
    row = query("SELECT ended, piece, working FROM build WHERE id = ?", (build.id,)).fetchone()
    if row is None or row[0] != build.ended:
        return False
    kept = query("SELECT place, sign FROM mark WHERE build = ?", (build.id,)).fetchall()
    same = (row[1], row[2]) == (_text(build.piece), _text(build.working)) or (
        read(workshop, build.id)[4:7] == build[4:7]
    )
    return same and dict(kept) == {place: mark.sign for place, mark in done.items()}


def marks(workshop: Workshop, build: int) -> dict[str, Mark]:
    """What is done of a build, by place, in the order in which it was done."""
    rows = workshop.database.execute(
        "SELECT place, sign, sort, words, took FROM mark WHERE build = ? ORDER BY rowid", (build,)
    )
    return {place: Mark(place=place, sign=sign, sort=sort, words=words, took=_split(took))
            for place, sign, sort, words, took in rows}  # fmt: skip


def _split(took: str) -> tuple[str, ...]:
    """Where stands what a mark took, as it is written in the file: a line each."""
    return tuple(took.split("\n")) if took else ()


def mark(workshop: Workshop, build: int, done: Sequence[Mark], at: str, seconds: float) -> None:
    """Something is done; the seconds are shared among its marks."""
    each = seconds / max(len(done), 1)
    with workshop.changing() as database:
        for one in done:
            database.execute(
                f"{MARKED} ON CONFLICT DO UPDATE SET "
                "sign = excluded.sign, sort = excluded.sort, words = excluded.words, "
                "at = excluded.at, seconds = mark.seconds + excluded.seconds, took = excluded.took",
                (build, one.place, one.sign, one.sort, one.words, at, each, "\n".join(one.took)),
            )


def unmark(workshop: Workshop, build: int, places: Sequence[str]) -> None:
    """Something is not done any more."""
    with workshop.changing() as database:
        for place in places:
            database.execute("DELETE FROM mark WHERE build = ? AND place = ?", (build, place))


def move(
    workshop: Workshop, build: int, moved: Mapping[str, str], took: Mapping[str, Sequence[str]]
) -> None:
    """Places bear other names, all at once; the order in which they were done stays. `took` says by
    their old places of what is marked there where that stands now."""
    rename = "UPDATE mark SET place = ? WHERE build = ? AND place = ?"
    with workshop.changing() as database:
        for place, far in took.items():
            database.execute("UPDATE mark SET took = ? WHERE build = ? AND place = ?",
                             ("\n".join(far), build, place))  # fmt: skip
        for old, new in moved.items():  # aside first, as one may take the name of another
            database.execute(rename, (f"{ASIDE}{new}", build, old))
        for new in moved.values():
            database.execute(rename, (new, build, f"{ASIDE}{new}"))


def seconds(workshop: Workshop, build: int) -> float:
    """The time that a build has taken, s."""
    (total,) = workshop.database.execute(
        "SELECT coalesce(sum(seconds), 0) FROM mark WHERE build = ?", (build,)
    ).fetchone()
    return float(total)


def note(
    workshop: Workshop, build: int, step: str, sort: NoteSort, words: str, at: str,
    value: float | None = None,
) -> None:  # fmt: skip
    """Something to be remembered of a step."""
    with workshop.changing() as database:
        database.execute(NOTED, (build, at, step, sort, as_plain(words)[:10_000], value))


def notes(workshop: Workshop, build: int) -> tuple[Note, ...]:
    """All notes of a build, in order."""
    rows = workshop.database.execute(
        "SELECT at, step, sort, words, value FROM build_note WHERE build = ? ORDER BY id", (build,)
    )
    return tuple(Note(*row) for row in rows)


def change(workshop: Workshop, build: int, piece: Piece, working: Working) -> None:
    """The piece of a build as it is now, and how it is worked."""
    _set(workshop, "UPDATE build SET piece = ?, working = ?, wearer = ?, things = ? WHERE id = ?",
         (_text(piece), _text(working), *_found_by(piece), build))  # fmt: skip


def end(workshop: Workshop, build: int, at: str) -> None:
    """A build is finished or given up; empty: it goes on."""
    _set(workshop, "UPDATE build SET ended = ? WHERE id = ?", (at, build))


def _set(workshop: Workshop, statement: str, values: tuple[object, ...]) -> None:
    with workshop.changing() as database:
        cursor: sqlite3.Cursor = database.execute(statement, values)
        if not cursor.rowcount:
            raise DomainError(f"there is no build {values[-1]}")


# --- as JSON --------------------------------------------------------------------------------------


MONEY = r"^(\d{1,12}(\.\d{1,4})?( [^\x00-\x1f]{1,30})?)?$(?!\n)"
"""“14.20”, “14.20 florins”, or nothing."""
Seconds = Annotated[float, Meta(ge=0, le=10_000_000)]


class Exported(Record, frozen=True, kw_only=True):
    """A build with its marks (place, sign, sort, words, at, seconds; `took` by the place), its cuts
    (event of the stock, place) and notes (at, step, sort, words, value)."""

    name: Name
    begun: Moment
    ended: MomentOrNone = ""
    given: Piece
    piece: Piece
    working: Working = Working()
    marks: tuple[tuple[Text, Text, Text, Text, Moment, Seconds], ...] = ()
    cuts: tuple[tuple[int, Text], ...] = ()
    notes: tuple[tuple[MomentOrNone, Text, NoteSort, Text, float | None], ...] = ()
    minutes: Minutes = 0.0
    metal_g: Annotated[float, Meta(ge=0, le=1_000_000)] = 0.0
    cost: Annotated[str, Meta(pattern=MONEY)] = ""
    measures: tuple[Measure, ...] = ()
    spent: tuple[Spent, ...] = ()
    photos: tuple[tuple[str, str], ...] = ()
    day: Text = ""
    took: dict[str, tuple[str, ...]] = field(default_factory=dict)


def exported(workshop: Workshop, of: Piece | None = None) -> tuple[Exported, ...]:
    """Every build, or those of a piece, in the order in which they were begun. Builds of before
    pieces had ids are found by what they are called."""
    found = []
    query = workshop.database.execute
    row = (None, None) if of is None else (of.id, of.name)
    numbers = query("SELECT id FROM build WHERE ?1 IS NULL OR (piece_id = ?1 AND piece_id <> '') "
                    "OR (piece_id = '' AND name = ?2) ORDER BY id", row).fetchall()  # fmt: skip
    for (number,) in numbers:
        one = read(workshop, number)
        done = query("SELECT place, sign, sort, words, at, seconds FROM mark WHERE build = ? "
                     "ORDER BY rowid", (number,))  # fmt: skip
        cuts = query("SELECT event, place FROM cut_for WHERE build = ? ORDER BY event", (number,))
        found.append(Exported(
            name=one.name, begun=one.begun, ended=one.ended, given=one.given, piece=one.piece,
            working=one.working, marks=tuple(done), cuts=tuple(cuts),
            notes=tuple((*said,) for said in notes(workshop, number)), day=one.day,
            took={m.place: m.took for m in marks(workshop, number).values() if m.took},
            **_logged(workshop, number),
        ))  # fmt: skip
    return tuple(found)


def _logged(workshop: Workshop, build: int) -> dict[str, Any]:
    minutes, metal, cost = workshop.database.execute(
        "SELECT minutes, metal_g, cost FROM build WHERE id = ?", (build,)
    ).fetchone()
    return {
        "minutes": minutes, "metal_g": metal, "cost": cost,
        "measures": tuple(one for _, one in log.measures(workshop, build)),
        "spent": tuple(one for _, one in log.spent(workshop, build)),
        "photos": log.photos(workshop, build),
    }  # fmt: skip


def refuse_unsound(one: Exported) -> None:
    """What its types do not say: each time is one, each piece can be built. Raises DomainError."""
    times = [one.begun, one.ended, *(mark[4] for mark in one.marks), *(n[0] for n in one.notes)]
    try:
        for at in filter(None, times):
            datetime.fromisoformat(at)
    except ValueError:
        raise DomainError(f"build “{one.name}”: “{at}” is no time") from None
    for piece in (one.given, one.piece):
        try:
            expand(piece)
        except DomainError as fault:
            raise DomainError(f"build “{one.name}”: {fault}") from None


def imported(workshop: Workshop, builds: Sequence[Exported], *, theirs: bool = False) -> None:
    """Put exported builds into a workshop, within its change. Their cuts name events of the stock
    they came with. What somebody else made is `theirs`: nothing is estimated from it."""
    database = workshop.database
    for one in builds:
        refuse_unsound(one)
        row = (one.name, one.begun, one.ended, _text(one.given), _text(one.piece),
               _text(one.working), *_found_by(one.piece), one.piece.id, one.day)  # fmt: skip
        number = database.execute(BEGIN, row).lastrowid
        assert number is not None
        database.execute("UPDATE build SET theirs = ? WHERE id = ?", (theirs, number))
        log.finished(workshop, number, one.minutes, one.spent, one.metal_g, one.cost)
        for measure in one.measures:
            log.measured(workshop, number, measure)
        database.executemany("INSERT INTO photo(build, file, words) VALUES(?, ?, ?)",
                             [(number, *photo) for photo in one.photos])  # fmt: skip
        for line in one.marks:
            database.execute(MARKED, (number, *line, "\n".join(one.took.get(line[0], ()))))
        for event, place in one.cuts:
            database.execute("INSERT INTO cut_for VALUES(?, ?, ?)", (event, number, place))
        for said in one.notes:
            database.execute(NOTED, (number, *said))
