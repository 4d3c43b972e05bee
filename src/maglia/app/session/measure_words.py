"""Measures by name, and a build made already in one line: “75 min, closed length 413.5, hem of
fringe 62, the clasp was stiff”.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from maglia.core.log.records import Measure
from maglia.core.values.measures import Length, LengthUnit, parse_length
from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.core.report import Findings

TIME = re.compile(r"(?:(\d+(?:[.,]\d+)?)\s*h(?:ours?)?)?\s*(?:(\d+(?:[.,]\d+)?)\s*min(?:utes?)?)?")
NAMED = re.compile(r"(closed length|(fall|hem|length)\b( of .+?)?)\s+\d.*", re.IGNORECASE)
BEFORE_FIGURE = re.compile(r"\s+(?=\d)")


def is_named(text: str) -> bool:
    """Whether a measure says what it is of."""
    return NAMED.fullmatch(text.strip()) is not None


def read_measure(text: str, found: Findings | None, unit: LengthUnit) -> Measure:
    """A measure that says what it is of, against what is planned there: “hem of drop 1 38”. Raises
    DomainError naming what was not understood or is not planned."""
    text = text.strip()
    fault = f"“{text}” says no measure; such as: fall of Tier 2 61"
    best: Measure | None = None
    for gap in BEFORE_FIGURE.finditer(text) if is_named(text) else ():
        try:
            said = parse_length(text[gap.end() :], unit)
        except DomainError as why:  # a name may end with a number
            fault = str(why)
            continue
        what, _, about = text[: gap.start()].lower().partition(" of ")
        planned = _planned(what, about, found)
        if planned is None or not isinstance(said, Length):
            fault = (f"nothing is planned for “{text[:gap.start()]}”, so it cannot be held against "
                     "anything")  # fmt: skip
            continue
        one = Measure(at="", what=what, about=planned[0], planned_mm=planned[1],  # type: ignore[arg-type]
                      measured_mm=said.mm)  # fmt: skip
        if best is None or planned[0].lower() == about:
            best = one
    if best is None:
        raise DomainError(fault)
    return best


def read_entry(
    text: str, found: Findings | None, unit: LengthUnit
) -> tuple[float, tuple[Measure, ...], str]:
    """Minutes, measures and a note. Raises DomainError naming what was not understood."""
    minutes, measures, notes = 0.0, [], []
    for part in filter(None, (one.strip() for one in re.split(r",(?!\d)", text))):
        time = TIME.fullmatch(part)
        if time and (time[1] or time[2]):
            hours, more = (float((one or "0").replace(",", ".")) for one in time.groups())
            minutes += 60 * hours + more
        elif is_named(part):
            measures.append(read_measure(part, found, unit))
        else:
            notes.append(part)
    if not minutes:
        raise DomainError("say how long it took, such as: 75 min, or 1 h 15 min")
    return minutes, tuple(measures), ", ".join(notes)


def _planned(what: str, about: str, found: Findings | None) -> tuple[str, float] | None:
    """The run that is meant and what it comes to, mm; None if nothing is planned."""
    if found is None:
        return None
    if what == "closed length":
        mm = found.closed_length_mm
        return None if mm is None else ("", mm)
    if what == "length":
        known = {run.name: run.length_mm for run in found.lengths if run.length_mm is not None}
    else:
        known = found.readings.falls_mm if what == "fall" else found.readings.hems_mm
    called = found.assembly.run_words
    return next(((name, mm) for name, mm in known.items() if not about
                 or name.lower().startswith(about) or called(name).lower().startswith(about)),
                None)  # fmt: skip
