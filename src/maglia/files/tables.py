"""Lists as CSV: what to cut and what to count, in millimetres, one heading line."""

import csv
import io
from collections.abc import Sequence
from pathlib import Path

import msgspec

from maglia.core.fit.regrade import Graded
from maglia.core.piece.piece import Wearer
from maglia.core.report import Findings
from maglia.core.values.record import DomainError
from maglia.files import disk


def cut_list_csv(found: Findings) -> str:
    """chain, letter, links, length_mm, count: one line for each kind of stretch."""
    rows: list[list[object]] = [["chain", "letter", "links", "length_mm", "count"]]
    things, letters = found.assembly.things, found.assembly.letters
    for cut in found.cuts:
        length = "" if cut.length_mm is None else f"{cut.length_mm:.2f}"
        name = things[cut.chain].name
        rows.append([name, letters.get(cut.chain, ""), cut.links, length, cut.count])
    return _csv(rows)


def counts_csv(found: Findings) -> str:
    """part, letter, kind, count, length_mm, to_open, leave_closed: one line for each part."""
    head: list[object] = ["part", "letter", "kind", "count", "length_mm", "to_open", "leave_closed"]
    rings = {r.id: r for r in found.rings}
    rows: list[list[object]] = [head]
    for c in found.counts:
        ring = rings.get(c.id)
        opened = [ring.to_open, ring.leave_closed] if ring else ["", ""]
        length = "" if c.length_mm is None else f"{c.length_mm:.2f}"
        rows.append([c.name, c.letter, c.kind, c.count, length, *opened])
    return _csv(rows)


def regrade_table(graded: Sequence[Graded]) -> list[list[str]]:
    """One heading and one line for each wearer: closed length, then each run's length and links
    (of one copy's chain times its copies), rings by size, falls of strands, the cuts, what is
    wanting. Lengths in mm."""
    runs = list(dict.fromkeys(run.name for g in graded for run in g.runs))
    rings = list(dict.fromkeys((r.id, r.name) for g in graded for r in g.rings))
    strands = [r.name for r in graded[0].runs if r.kind == "strand"] if graded else []
    head = ["wearer", "closed_length_mm"]
    head += [f"{run} {what}" for run in runs for what in ("length_mm", "links")]
    head += [name for _, name in rings]
    head += [*(f"fall {name} mm" for name in strands), "cut", "fits met", "note"]
    return [head, *(_regrade_row(g, runs, rings, strands) for g in graded)]


def _regrade_row(
    graded: Graded, runs: list[str], rings: list[tuple[str, str]], strands: list[str]
) -> list[str]:
    row = [graded.wearer.role, _mm(graded.closed_length_mm)]
    lengths = {run.name: run for run in graded.runs}
    for name in runs:
        run = lengths.get(name)
        row += [_mm(run.length_mm), str(run.links)] if run else ["", ""]
    counts = {r.id: r.count for r in graded.rings}
    row += [str(counts.get(ref, 0)) for ref, _ in rings]
    row += [_mm(graded.falls_mm.get(name)) for name in strands]
    names = {thing.id: thing.name for thing in graded.piece.parts}
    row.append("; ".join(f"{c.count} x {c.words} {names[c.chain]}" for c in graded.cuts))
    met = sum(fit.met for fit in graded.fitted)
    return [*row, f"{met} of {len(graded.fitted)}", graded.hindrance]


def regrade_csv(graded: Sequence[Graded]) -> str:
    return _csv(regrade_table(graded))


def columns(rows: Sequence[Sequence[str]]) -> str:
    """A table turned on its side for reading: a line for each column, a column for each row."""
    turned = list(zip(*rows, strict=True))
    widths = [max(len(cell) for cell in row) for row in rows]
    shown = [
        "  ".join(
            cell.ljust(width) if k == 0 else cell.rjust(min(width, 28))
            for k, (cell, width) in enumerate(zip(line, widths, strict=True))
        ).rstrip()
        for line in turned
        if line[0] not in ("cut", "note")
    ]
    for row in rows[1:]:
        shown.append(f"cut for {row[0]}: {row[rows[0].index('cut')]}")
        if row[-1]:
            shown.append(f"  {row[-1]}")
    return "\n".join(shown)


GIRTHS = ("neck_mm", "wrist_mm", "ankle_mm", "hand_mm", "head_mm", "ease_mm")


def read_wearers(path: Path) -> tuple[Wearer, ...]:
    """Wearers from a CSV with the headings role, neck_mm, wrist_mm, ankle_mm, hand_mm, head_mm,
    ease_mm, of which any but the role may be missing. Raises DomainError naming file and line."""
    name = disk.shown(path)
    text = disk.read_text(path)
    try:
        return _wearers(name, text)
    except csv.Error as fault:
        raise DomainError(f"{name} is not a table of wearers: {fault}") from None


def _wearers(name: str, text: str) -> tuple[Wearer, ...]:
    lines = csv.DictReader(io.StringIO(text))
    if "role" not in (lines.fieldnames or ()):
        raise DomainError(f"{name}: the first line must name its columns, one of them role")
    strange = [str(n) for n in lines.fieldnames or () if n != "role" and n not in GIRTHS]
    if strange:
        raise DomainError(f"{name}: column “{strange[0][:40]}” is not known; there are {GIRTHS}")
    found = []
    for number, line in enumerate(lines, 2):
        try:
            girths = {k: float(v) for k in GIRTHS if (v := (line.get(k) or "").strip())}
            found.append(msgspec.convert({"role": line["role"], **girths}, Wearer))
        except ValueError:
            raise DomainError(
                f"{name}, line {number}: write each girth in mm, such as 350, and a role"
            ) from None
    if not found:
        raise DomainError(f"{name} names no wearers: add a line for each")
    return tuple(found)


def _mm(value: float | None) -> str:
    return "" if value is None else f"{value:.1f}"


def _csv(rows: Sequence[Sequence[object]]) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(
        [disk.harmless(cell) for cell in r] for r in rows
    )
    return out.getvalue()
