"""Lists as CSV: what to cut and what to count, in millimetres, one heading line."""

import csv
import io

from maglia.core.report import Findings


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


def _csv(rows: list[list[object]]) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(rows)
    return out.getvalue()
