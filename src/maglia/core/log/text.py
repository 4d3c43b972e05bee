"""The log as text, as JSON (docs/log.md) and as a table; finding in it; a year at a glance."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal, InvalidOperation
from typing import Any, NamedTuple

from maglia.core.log.concerns import Concern
from maglia.core.log.records import Entry, Measure
from maglia.core.log.used import Used

MONTHS = ("january", "february", "march", "april", "may", "june", "july", "august", "september",
          "october", "november", "december")  # fmt: skip


class Kept(NamedTuple):
    """A build with what it left: measures, changes, and what it took."""

    entry: Entry
    measures: tuple[Measure, ...]
    changes: tuple[str, ...]
    parts: tuple[Used, ...]


class Year(NamedTuple):
    """What a year took: pieces made, hours, metal and cost."""

    year: str
    pieces: int
    hours: float
    metal_g: float
    cost: Decimal

    @property
    def words(self) -> str:
        many = f"{self.pieces} piece{'' if self.pieces == 1 else 's'}"
        return f"{many} · {self.hours:g} hours · {self.metal_g:g} g of metal · cost {self.cost}"


def haystack(entry: Entry, said: str = "") -> str:
    """What a build is found by: its piece, wearer, parts, month and notes."""
    number = int(entry.at[5:7]) if entry.at[5:7].isdecimal() else 0
    month = MONTHS[number - 1] if 1 <= number <= len(MONTHS) else ""
    words = (entry.piece, entry.wearer, entry.things, entry.at[:10], month, said, f"#{entry.id}")
    return " ".join(words).lower()


def found(entries: Sequence[Entry], hay: Mapping[int, str], text: str) -> tuple[Entry, ...]:
    """The entries that hold every word of a text."""
    words = text.lower().split()
    return tuple(one for one in entries if all(word in hay[one.id] for word in words))


def years(entries: Iterable[Entry]) -> tuple[Year, ...]:
    """Year by year, the latest first; what was given up is left out."""
    by_year: dict[str, list[Entry]] = defaultdict(list)
    for entry in entries:
        if entry.ended and not entry.given_up:
            by_year[entry.at[:4]].append(entry)
    return tuple(
        Year(year, len(own), round(sum(e.minutes for e in own) / 60, 1),
             round(sum(e.metal_g for e in own), 1), sum((_money(e.cost) for e in own), Decimal()))
        for year, own in sorted(by_year.items(), reverse=True)
    )  # fmt: skip


def _money(text: str) -> Decimal:
    try:
        amount = Decimal((text.split() or ["0"])[0])
    except InvalidOperation:
        return Decimal()
    return amount if amount.is_finite() else Decimal()


def as_json(kept: Iterable[Kept], concerns: Iterable[Concern]) -> dict[str, Any]:
    """Plain values; the names are a promise, see docs/log.md."""
    return {
        "builds": [_build(one) for one in kept],
        "corrections": [
            {"what": f"{c.what} {c.about}".strip(), "value": round(c.estimate.value, 4),
             "low": round(c.estimate.low, 4), "high": round(c.estimate.high, 4),
             "n": c.estimate.n, "unit": c.unit, "taken": c.taken is not None}
            for c in concerns if c.estimate is not None
        ],
    }  # fmt: skip


def _build(kept: Kept) -> dict[str, Any]:
    entry = kept.entry
    return {
        "id": entry.id, "piece": entry.piece, "wearer": entry.wearer, "at": entry.at,
        "begun": entry.begun, "ended": entry.ended, "given_up": entry.given_up,
        "minutes": round(entry.minutes, 1), "metal_g": round(entry.metal_g, 2), "cost": entry.cost,
        "measures": [{"what": m.name, "planned_mm": round(m.planned_mm, 2),
                      "measured_mm": round(m.measured_mm, 2)} for m in kept.measures],
        "changes": list(kept.changes),
        "parts": [{"name": one.name, "length_mm": one.length_mm} if one.is_length else
                  {"name": one.name, "count": one.amount} for one in kept.parts],
    }  # fmt: skip


def rows_of(kept: Iterable[Kept]) -> list[list[str]]:
    """A table, a build a row."""
    rows = [["id", "piece", "wearer", "begun", "ended", "minutes", "metal_g", "cost", "measures",
             "changes"]]  # fmt: skip
    for one in kept:
        e = one.entry
        measured = "; ".join(f"{m.name} {m.planned_mm:.1f} {m.measured_mm:.1f}"
                             for m in one.measures)  # fmt: skip
        rows.append([str(e.id), e.piece, e.wearer, e.begun, e.ended, f"{e.minutes:.1f}",
                     f"{e.metal_g:.2f}", e.cost, measured, "; ".join(one.changes)])  # fmt: skip
    return rows


def as_text(kept: Sequence[Kept], concerns: Sequence[Concern]) -> str:
    """The log in lines of at most 100 characters."""
    lines = ["BUILDS"] if kept else ["BUILDS", "  none yet"]
    for one in kept:
        e = one.entry
        state = "given up" if e.given_up else "" if e.ended else "going on"
        head = f"  {e.id:>4}  {e.at[:10]}  {e.piece[:30]:<30}  {e.wearer[:18]:<18}"
        lines.append(f"{head} {e.minutes:6.0f} min  {state}".rstrip())
        lines += [f"          {m.name}: planned {m.planned_mm:.1f}, measured {m.measured_mm:.1f} mm"
                  for m in one.measures]  # fmt: skip
        lines += [f"          changed: {words}"[:100] for words in one.changes]
    lines += ["", "WHAT IT SAYS"] if concerns else []
    for concern in concerns:
        taken = f" · taken over: {concern.taken.words}" if concern.taken else ""
        lines += [f"  {concern.name}{taken}", f"      {concern.words}"]
    glance = years(one.entry for one in kept)
    lines += ["", "BY YEAR"] if glance else []
    lines += [f"  {year.year}  {year.words}" for year in glance]
    return "\n".join(lines) + "\n"
