"""The log: builds as they are looked up, what they showed, and the corrections taken from them."""

import json
from collections.abc import Iterable, Sequence
from contextlib import suppress
from datetime import datetime

import msgspec

from maglia.core.log.records import Entry, Measure, Spent
from maglia.core.piece.corrections import Correction
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError, in_words
from maglia.files.piece_json import plain
from maglia.files.workshop import stock
from maglia.files.workshop.store import Workshop

LISTED = """
    SELECT id, name, wearer, begun, ended,
        CASE WHEN ended <> '' THEN minutes
             ELSE (SELECT coalesce(sum(seconds), 0) / 60 FROM mark WHERE mark.build = build.id) END,
        metal_g, cost, things,
        EXISTS(SELECT 1 FROM build_note n
               WHERE n.build = build.id AND n.step = '' AND n.words = 'given up')
    FROM build ORDER BY coalesce(nullif(ended, ''), begun) DESC, id DESC
"""
NOTE = "INSERT INTO build_note(build, at, step, sort, words, value) VALUES(?, ?, '', ?, ?, NULL)"


def entries(workshop: Workshop) -> tuple[Entry, ...]:
    """Every build, the latest first."""
    return tuple(
        Entry(id=row[0], piece=row[1], wearer=row[2], begun=row[3], ended=row[4],
              minutes=round(row[5], 2), metal_g=row[6], cost=row[7], things=row[8],
              given_up=bool(row[9]))
        for row in workshop.database.execute(LISTED)
    )  # fmt: skip


def said(workshop: Workshop) -> dict[int, str]:
    """All that was noted of each build, as one text, to be searched."""
    rows = workshop.database.execute(
        "SELECT build, group_concat(words, ' · ') FROM build_note GROUP BY build"
    )
    return dict(rows.fetchall())


OWN = "WHERE build IN (SELECT id FROM build WHERE theirs = 0) "


def measures(
    workshop: Workshop, build: int | None = None, *, own: bool = False
) -> tuple[tuple[int, Measure], ...]:
    """What was measured, with the build it is of; of one build or of all, or of one's own."""
    where = OWN if own else "" if build is None else "WHERE build = ? "
    rows = workshop.database.execute(
        f"SELECT build, data FROM measure {where}ORDER BY id", () if build is None else (build,)
    )
    decode = msgspec.json.Decoder(Measure).decode
    found = []
    for number, text in rows:
        with suppress(msgspec.MsgspecError):  # a row that cannot be read costs itself: see faults
            found.append((number, decode(text)))
    return tuple(found)


def faults(workshop: Workshop) -> list[str]:
    """What of builds and what they left cannot be read any more, and is left out where it is."""
    from maglia.files.workshop import builds

    found = []
    query = workshop.database.execute
    for (number,) in query("SELECT id FROM build ORDER BY id").fetchall():
        try:
            builds.read(workshop, number)
        except DomainError as fault:
            found.append(str(fault))
    for row, number, text in query("SELECT id, build, data FROM measure ORDER BY id").fetchall():
        try:
            msgspec.json.decode(text, type=Measure)
        except msgspec.MsgspecError as fault:
            found.append(f"measure {row} of build {number} is not sound ({in_words(fault)})")
    for number, kind, times, minutes in query("SELECT build, kind, number, minutes FROM spent"):
        if _spent(kind, times, minutes) is None:
            found.append(f"the minutes of “{kind}” in build {number} are not sound")
    for number, place, at in query("SELECT build, place, at FROM mark"):
        if moment(at) is None:
            found.append(f"build {number}: “{at}” at {place} is no time")
    return found


def _spent(kind: str, number: float, minutes: float) -> Spent | None:
    try:
        return msgspec.convert({"kind": kind, "number": number, "minutes": minutes}, Spent)
    except msgspec.ValidationError:
        return None


def moment(text: str) -> datetime | None:
    """A time as it is kept; None if it is none."""
    try:
        return datetime.fromisoformat(text)
    except (ValueError, TypeError):
        return None


def spent(
    workshop: Workshop, build: int | None = None, *, own: bool = False
) -> tuple[tuple[int, Spent], ...]:
    """Minutes by kinds of step, with the build they are of; of one build or of all, or of one's
    own."""
    where = OWN if own else "" if build is None else "WHERE build = ? "
    rows = workshop.database.execute(
        f"SELECT build, kind, number, minutes FROM spent {where}ORDER BY build, kind",
        () if build is None else (build,),
    )
    return tuple((b, one) for b, *row in rows if (one := _spent(*row)) is not None)


def measured(workshop: Workshop, build: int, measure: Measure) -> None:
    """Keep a measure of a build."""
    with workshop.changing() as database:
        text = json.dumps(plain(measure), ensure_ascii=False)
        database.execute("INSERT INTO measure(build, data) VALUES(?, ?)", (build, text))


def finished(
    workshop: Workshop, build: int, minutes: float, took: Iterable[Spent], metal_g: float, cost: str
) -> None:
    """What a build came to."""
    with workshop.changing() as database:
        database.execute("UPDATE build SET minutes = ?, metal_g = ?, cost = ? WHERE id = ?",
                         (minutes, metal_g, cost, build))  # fmt: skip
        database.execute("DELETE FROM spent WHERE build = ?", (build,))
        for own in took:
            database.execute("INSERT INTO spent VALUES(?, ?, ?, ?)",
                             (build, own.kind, own.number, own.minutes))  # fmt: skip


def entered(
    workshop: Workshop, piece: Piece, at: str, minutes: float, *, found: Sequence[Measure] = (),
    took: Iterable[Spent] = (), notes: Sequence[tuple[str, str]] = (), metal_g: float = 0.0,
    cost: str = "",
) -> int:  # fmt: skip
    """A build that was made without being followed; `notes` are (sort, words). Returns its
    number."""
    from maglia.core.joining.ways import USUAL
    from maglia.files.workshop import builds

    with workshop.changing() as database:
        number = builds.begin(workshop, piece, USUAL, at)
        builds.end(workshop, number, at)
        finished(workshop, number, minutes, took, metal_g, cost)
        for one in found:
            measured(workshop, number, one)
        for sort, words in notes:
            database.execute(NOTE, (number, at, sort, words))
    return number


def cut_from(workshop: Workshop, build: int) -> tuple[str, ...]:
    """The lots of the stock that were cut for a build, by part and name."""
    rows = workshop.database.execute(
        "SELECT DISTINCT a.part, CASE a.sort WHEN 'lot' THEN a.name ELSE a.lot END AS length "
        "FROM cut_for c JOIN movement m ON m.event = c.event JOIN account a ON a.id = m.source "
        "WHERE c.build = ? AND a.sort IN ('lot', 'plan') AND NOT EXISTS("
        "SELECT 1 FROM event r WHERE r.reverses = c.event) ORDER BY a.part, length", (build,),
    )  # fmt: skip
    found = [(stock.name_of(workshop.database, part), lot) for part, lot in rows]
    return tuple(f"{name}, {lot}" if lot else name for name, lot in found)


def photos(workshop: Workshop, build: int) -> tuple[tuple[str, str], ...]:
    """The photographs of a build: file and words."""
    rows = workshop.database.execute(
        "SELECT file, words FROM photo WHERE build = ? ORDER BY id", (build,)
    )
    return tuple(rows.fetchall())


def photographed(workshop: Workshop, build: int, file: str, words: str = "") -> None:
    """A photograph by its file."""
    with workshop.changing() as database:
        if not database.execute("SELECT 1 FROM build WHERE id = ?", (build,)).fetchone():
            raise DomainError(f"there is no build {build}")
        database.execute("INSERT INTO photo(build, file, words) VALUES(?, ?, ?)",
                         (build, file, words))  # fmt: skip


# --- corrections ----------------------------------------------------------------------------------


def corrections(workshop: Workshop) -> tuple[Correction, ...]:
    """What was taken over."""
    rows = workshop.database.execute(
        "SELECT what, about, value FROM correction ORDER BY what, about"
    )
    found = []
    for what, about, value in rows:
        with suppress(msgspec.ValidationError):
            row = {"what": what, "about": about, "value": value}
            found.append(msgspec.convert(row, Correction))
    return tuple(found)


def take(workshop: Workshop, correction: Correction, at: str) -> None:
    """Compute with a correction from now on."""
    with workshop.changing() as database:
        database.execute(
            "INSERT INTO correction VALUES(?, ?, ?, ?) ON CONFLICT DO UPDATE SET "
            "value = excluded.value, at = excluded.at",
            (correction.what, correction.about, correction.value, at),
        )


def take_back(workshop: Workshop, what: str, about: str) -> bool:
    """Compute without it again. False if there was none."""
    with workshop.changing() as database:
        cursor = database.execute("DELETE FROM correction WHERE what = ? AND about = ?",
                                  (what, about))  # fmt: skip
        return bool(cursor.rowcount)
