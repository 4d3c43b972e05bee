"""One build told: what was planned and measured, what was changed, the time by kinds of step."""

from __future__ import annotations

from html import escape

from maglia.app.plain_text import strong
from maglia.app.session.log_book import LogBook
from maglia.core.log.records import Entry, Measure
from maglia.core.values.measures import LengthUnit, format_length


def detail_html(book: LogBook, entry: Entry, unit: LengthUnit) -> str:
    """The build as rich text."""
    state = "given up" if entry.given_up else "finished" if entry.ended else "going on"
    parts = [f"<h3>{strong(entry.piece)}</h3>"]
    parts.append(f"<p>for {escape(entry.wearer or 'anyone')} · {state} {entry.at[:10]} · "
                 f"{entry.minutes:.0f} minutes · {entry.metal_g:g} g of metal"
                 + (f" · cost {escape(entry.cost)}" if entry.cost else "") + "</p>")  # fmt: skip
    measures = book.measures_of(entry)
    if measures:
        rows = "".join(_measure(one, unit) for one in measures)
        parts.append("<table cellspacing='0' cellpadding='3'><tr><td></td><td align='right'>planned"
                     "</td><td align='right'>measured</td><td align='right'>off</td></tr>"
                     f"{rows}</table>")  # fmt: skip
    said = {"changed": "changed", "spoilt": "spoilt", "undone": "undone"}
    against = {round(one.measured_mm, 2) for one in measures}
    for note in book.notes_of(entry):
        if note.sort == "measured" and round(note.value or 0.0, 2) in against:
            continue
        if note.words != "given up":
            head = f"{strong(said[note.sort])} " if note.sort in said else ""
            parts.append(f"<p>{head}{escape(note.words)}</p>")
    spent = book.spent_of(entry)
    if spent:
        most = sorted(spent, key=lambda own: -own[1])
        times = " · ".join(f"{escape(kind)} {minutes:.0f} min" for kind, minutes in most)
        parts.append(f"<p>{times}</p>")
    used = " · ".join(
        escape(f"{one.words} {one.name}").replace(" ", "\N{NO-BREAK SPACE}")
        for one in book.used_by(entry)
    )
    if used:
        parts.append(f"<p>took {used}</p>")
    cut = book.cut_from(entry)
    if cut:
        parts.append(f"<p>cut from {escape(' · '.join(cut))}</p>")
    parts += [f"<p>photograph: {escape(file)}</p>" for file, _ in book.photos_of(entry)]
    return "".join(parts)


def _measure(one: Measure, unit: LengthUnit) -> str:
    name = escape(one.name)
    off = one.measured_mm - one.planned_mm
    sign = "+" if off >= 0 else "−"
    cells = (format_length(one.planned_mm, unit), format_length(one.measured_mm, unit),
             f"{sign}{format_length(abs(off), unit)}")  # fmt: skip
    return f"<tr><td>{name}</td>" + "".join(f"<td align='right'>{c}</td>" for c in cells) + "</tr>"
