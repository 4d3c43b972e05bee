"""A build made already, in one line: “75 min, closed length 413.5, the clasp was stiff”."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from maglia.core.log.records import Measure
from maglia.core.values.measures import Length, LengthUnit, parse_length
from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.core.report import Findings

TIME = re.compile(r"(?:(\d+(?:[.,]\d+)?)\s*h(?:ours?)?)?\s*(?:(\d+(?:[.,]\d+)?)\s*min(?:utes?)?)?")
LENGTH = re.compile(r"(closed length|fall of .+?|fall|length of .+?)\s+(\d.*)", re.IGNORECASE)


def read_entry(
    text: str, found: Findings | None, unit: LengthUnit
) -> tuple[float, tuple[Measure, ...], str]:
    """Minutes, measures and a note. Raises DomainError naming what was not understood."""
    minutes, measures, notes = 0.0, [], []
    for part in filter(None, (one.strip() for one in text.split(","))):
        time = TIME.fullmatch(part)
        if time and (time[1] or time[2]):
            hours, more = (float((one or "0").replace(",", ".")) for one in time.groups())
            minutes += 60 * hours + more
        elif length := LENGTH.fullmatch(part):
            measures.append(_measure(length[1].lower(), length[2], found, unit))
        else:
            notes.append(part)
    if not minutes:
        raise DomainError("say how long it took, such as: 75 min, or 1 h 15 min")
    return minutes, tuple(measures), ", ".join(notes)


def _measure(name: str, text: str, found: Findings | None, unit: LengthUnit) -> Measure:
    said = parse_length(text, unit)
    if not isinstance(said, Length):
        raise DomainError(f"“{text}” is no length")
    what, _, about = name.partition(" of ")
    planned = _planned(what, about, found)
    if planned is None:
        raise DomainError(f"nothing is planned for “{name}”, so it cannot be held against anything")
    run, mm = planned
    return Measure(at="", what=what, about=run, planned_mm=mm, measured_mm=said.mm)  # type: ignore[arg-type]


def _planned(what: str, about: str, found: Findings | None) -> tuple[str, float] | None:
    if found is None:
        return None
    if what == "closed length":
        mm = found.closed_length_mm
        return None if mm is None else ("", mm)
    known = found.readings.falls_mm if what == "fall" else {
        run.name: run.length_mm for run in found.lengths if run.length_mm is not None
    }  # fmt: skip
    return next(((name, mm) for name, mm in known.items()
                 if not about or name.lower().startswith(about)), None)  # fmt: skip
