"""A day's cuts as text fit for paper, as JSON (docs/count.md) and as a table."""

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any

from maglia.core.cutting.day import Bar, Cutting, Making, Stretch, words_of
from maglia.core.parts.parts import Chain
from maglia.core.sheets.count import counts
from maglia.core.sheets.cutting import stretch_words
from maglia.core.values.measures import LengthUnit, format_length


def as_json(day: Sequence[Making], cuttings: Mapping[str, Cutting]) -> dict[str, Any]:
    """Plain values; the names are a promise, see docs/count.md."""
    chains = [c for c in cuttings.values() if isinstance(c.part, Chain)]
    wires = [c for c in cuttings.values() if not isinstance(c.part, Chain)]
    return {
        "pieces": [{"piece": making.name, "copies": making.copies} for making in day],
        "parts": [{"part": ref, "name": name, "count": n}
                  for (ref, name), n in parts_of(day).items()],
        "chains": [_chain(one) for one in chains],
        "wires": [_wire(one) for one in wires],
    }  # fmt: skip


def parts_of(day: Sequence[Making]) -> Counter[tuple[str, str]]:
    """What is counted by the piece: bought parts and units, of the whole day."""
    found: Counter[tuple[str, str]] = Counter()
    for making in day:
        for one in counts(making.assembly, making.copies):
            if one.length_mm is None and one.count:
                found[one.id, one.name] += one.count
    return found


def wanted_of(cutting: Cutting) -> Counter[Stretch]:
    """How often each stretch is wanted."""
    found: Counter[Stretch] = Counter()
    for one in cutting.wanted:
        found[one.stretch] += one.count
    return found


def _goals(cutting: Cutting) -> list[dict[str, Any]]:
    return [{"goal": name, "found": found, "bound": cutting.bound[name]}
            for name, found in cutting.found.items() if name != "missing"]  # fmt: skip


def _chain(cutting: Cutting) -> dict[str, Any]:
    return {
        "chain": cutting.part.id,
        "name": cutting.part.name,
        "openable": cutting.stuff.openable,
        "cuts": [{"links": one.amount, "first_phase": one.first_phase, "count": k,
                  "length_mm": round(cutting.mm(*one), 3)}
                 for one, k in wanted_of(cutting).items()],
        "lots": [{
            "lot": bar.lot, "links": bar.amount,
            "pieces": [{"piece": p.piece, "links": p.amount, "first_phase": p.first_phase}
                       for p in bar.pieces],
            "sacrificed": bar.sacrificed, "offcut_links": bar.offcut,
            "offcut_phase": bar.offcut_phase, "new": bar.new,
        } for bar in cutting.bars],
        "missing": list(cutting.missing),
        "goals": _goals(cutting),
        "proven": cutting.proven,
        "words": words_of(cutting),
    }  # fmt: skip


def _wire(cutting: Cutting) -> dict[str, Any]:
    def mm(amount: int) -> float:
        return round(cutting.mm(amount), 1)

    return {
        "wire": cutting.part.id,
        "name": cutting.part.name,
        "cuts": [{"length_mm": mm(one.amount), "count": k}
                 for one, k in wanted_of(cutting).items()],
        "lots": [{"lot": bar.lot, "length_mm": mm(bar.amount),
                  "pieces": [{"piece": p.piece, "length_mm": mm(p.amount)} for p in bar.pieces],
                  "offcut_mm": mm(bar.offcut), "new": bar.new} for bar in cutting.bars],
        "missing_mm": [mm(n) for n in cutting.missing],
        "goals": _goals(cutting),
        "proven": cutting.proven,
        "words": words_of(cutting),
    }  # fmt: skip


def as_text(day: Sequence[Making], cuttings: Mapping[str, Cutting], unit: LengthUnit = "mm") -> str:
    """The day's cuts, chain by chain, in lines of at most 100 characters."""
    lines = ["TO MAKE"]
    lines += [f"  {making.name}" + (f" × {making.copies}" if making.copies > 1 else "")
              for making in day]  # fmt: skip
    for cutting in cuttings.values():
        lines += ["", cutting.part.name.upper(), f"  {words_of(cutting)}"]
        for bar in cutting.bars:
            lines += [f"  {bar_head(cutting, bar, unit)}"]
            lines += [f"     {n} × {stretch_said(cutting, stretch, unit)}"
                      for stretch, n in Counter(p.stretch for p in bar.pieces).items()]  # fmt: skip
        lines += [f"  {cut_words(cutting, unit)}"] if cutting.cut else []
        missing = Counter(cutting.missing)
        lines += [f"  ! missing: {n} × {stretch_said(cutting, Stretch(amount), unit)}"
                  for amount, n in missing.items()]  # fmt: skip
    return "\n".join(lines) + "\n"


def stretch_said(cutting: Cutting, stretch: Stretch, unit: LengthUnit) -> str:
    """“37 links, 111.0 mm”, “9 links from link 2, 60.0 mm”, “72.3 mm”."""
    long = format_length(cutting.mm(*stretch), unit, with_unit=True)
    return f"{stretch_words(*stretch)}, {long}" if isinstance(cutting.part, Chain) else long


def cut_words(cutting: Cutting, unit: LengthUnit) -> str:
    """What is cut already, and what of that is not wanted so any more: “cut already: 2 × 37 links,
    111.0 mm”."""

    def listed(stretches: Sequence[Stretch]) -> str:
        return ", ".join(f"{n} × {stretch_said(cutting, one, unit)}"
                         for one, n in Counter(stretches).items())  # fmt: skip

    said = f"cut already: {listed(cutting.cut)}"
    if cutting.in_vain:
        said += f" · ! not wanted so any more: {listed(cutting.in_vain)}"
    return said


def bar_head(cutting: Cutting, bar: Bar, unit: LengthUnit) -> str:
    """A length, what is lost of it and what is left over."""
    said = [f"{bar.lot}: {stretch_said(cutting, Stretch(bar.amount, bar.first_phase), unit)}"]
    left = Stretch(bar.offcut, bar.offcut_phase)
    if bar.sacrificed:
        said.append(f"{bar.sacrificed} lost")
    said.append(f"off-cut {stretch_said(cutting, left, unit)}" if bar.offcut else
                "nothing left over")  # fmt: skip
    return " · ".join(said)


def rows_of(cuttings: Mapping[str, Cutting]) -> list[list[str]]:
    """A table: each piece on its length, then each off-cut, then what is missing."""
    rows = [["part", "lot", "what", "piece", "links", "length_mm", "first_phase"]]
    for cutting in cuttings.values():
        chain = isinstance(cutting.part, Chain)

        def row(lot: str, what: str, piece: str, amount: int, phase: int,
                own: Cutting = cutting, linked: bool = chain) -> list[str]:  # fmt: skip
            return [own.part.name, lot, what, piece, str(amount) if linked else "",
                    f"{own.mm(amount, phase):.1f}", str(phase) if linked else ""]  # fmt: skip

        for bar in cutting.bars:
            lot = f"{bar.lot}, to buy" if bar.new else bar.lot
            rows += [row(lot, "cut", p.piece, p.amount, p.first_phase) for p in bar.pieces]
            if bar.offcut:
                rows.append(row(lot, "off-cut", "", bar.offcut, bar.offcut_phase))
        rows += [row("", "missing", "", amount, 0) for amount in cutting.missing]
    return rows
