"""Everything computed from one piece, and the report that says it. The end of the hallway."""

from collections.abc import Callable, Mapping
from typing import Any

from msgspec.structs import asdict

from maglia.core.assembly.assembly import Assembly, member_name
from maglia.core.assembly.expand import expand
from maglia.core.checks import Check, all_checks
from maglia.core.fit.found import Standing
from maglia.core.fit.look import Look
from maglia.core.fit.solve import standing
from maglia.core.fit.text import figures, residual_words
from maglia.core.fit.wishes import words as fit_words
from maglia.core.hang.flat import Flat, lies_flat
from maglia.core.hang.hung import Hung, hang
from maglia.core.hang.readings import BaySlack, Readings, readings
from maglia.core.joining.plan import Plan, joining_plan
from maglia.core.joining.rings import Rings, rings
from maglia.core.piece.piece import Piece
from maglia.core.sheets.as_worn import not_as_worn
from maglia.core.sheets.count import Counted, WireNeed, copies_of, counts, wire_needs
from maglia.core.sheets.cutting import ChainNeed, Cut, chain_needs, cut_list
from maglia.core.sheets.lengths import RunLength, closed_length_mm, run_lengths
from maglia.core.sheets.mass import Balance, balance
from maglia.core.sheets.symmetry import differences
from maglia.core.sheets.wear import OnBody, Worn, on_body, ways_worn, worn_lengths_mm
from maglia.core.sheets.weaves import WeaveSheet, weave_sheets
from maglia.core.values.measures import LengthUnit, format_length
from maglia.core.values.record import Value
from maglia.core.values.rules import DEFAULT_RULES, Rules
from maglia.core.weaves.kinds import SORTS
from maglia.core.workshop.lying import Lying

NOT_AS_WORN = "not hung as worn"


class Findings(Value, frozen=True):
    """All results of one piece. Each is a pure function of the assembly."""

    assembly: Assembly
    lengths: tuple[RunLength, ...]
    closed_length_mm: float | None
    worn_lengths_mm: tuple[tuple[str, float], ...]
    counts: tuple[Counted, ...]
    rings: tuple[Rings, ...]
    wire: tuple[WireNeed, ...]
    cuts: tuple[Cut, ...]
    cutting: tuple[ChainNeed, ...]
    plan: Plan
    balance: Balance
    differences: tuple[str, ...]
    on_body: OnBody | None
    ways: tuple[Worn, ...]
    weaves: tuple[WeaveSheet, ...]
    hung: Hung | None
    readings: Readings
    flat: Flat
    fits: tuple[Standing, ...]
    checks: tuple[Check, ...]


def evaluate(
    piece: Piece,
    cancelled: Callable[[], bool] = lambda: False,
    before: Findings | None = None,
    lying: Mapping[str, Lying] | None = None,
    rules: Rules = DEFAULT_RULES,
) -> Findings:
    """Expand, measure, count, hang and check one piece; `before` are the findings of an earlier
    state of it, from which the hang goes on; `lying` is what lies on the bench, `rules` are the
    maker's. Raises DomainError if the piece cannot be built."""
    assembly = expand(piece, rules)
    known = (before.assembly, before.hung) if before and before.hung else None
    plan = joining_plan(assembly)
    hung = hang(assembly, cancelled, known)
    flat, read = lies_flat(assembly, hung), readings(assembly, hung)
    if not_as_worn(assembly) is not None:  # no figure for what is not known
        flat, read = Flat(()), Readings()
    return Findings(
        assembly=assembly,
        lengths=run_lengths(assembly),
        closed_length_mm=closed_length_mm(assembly),
        worn_lengths_mm=worn_lengths_mm(assembly),
        counts=counts(assembly),
        rings=rings(assembly, plan),
        wire=wire_needs(assembly),
        cuts=cut_list(assembly, copies_of(piece)),
        cutting=chain_needs(assembly, copies_of(piece)),
        plan=plan,
        balance=balance(assembly),
        differences=differences(assembly),
        on_body=on_body(assembly),
        ways=ways_worn(piece, rules),
        weaves=weave_sheets(assembly),
        hung=hung,
        readings=read,
        flat=flat,
        fits=standing(Look(assembly, hung)),
        checks=all_checks(assembly, hung, flat, read, plan, lying),
    )


def as_json(found: Findings) -> dict[str, Any]:
    """The report as plain values; the names are a promise, see docs/report.md."""
    piece, side = found.assembly.piece, found.balance
    return {
        "piece": piece.name,
        "wearer": piece.wearer.role,
        "closed_length_mm": _rounded(found.closed_length_mm),
        "worn_lengths": [{"at": at, "length_mm": _rounded(mm)} for at, mm in found.worn_lengths_mm],
        "runs": [_run(run) for run in found.lengths],
        "counts": [_count(counted) for counted in found.counts],
        **_sheets(found),
        "balance": {
            "total_g": _rounded(side.total_g),
            "left_g": _rounded(side.left_g),
            "right_g": _rounded(side.right_g),
            "unknown": [found.assembly.things[ref].name for ref in side.unknown],
        },
        "differences": list(found.differences),
        "on_body": _on_body(found.on_body),
        "ways": [_way(worn) for worn in found.ways],
        "corrections": [
            {"what": c.what, "about": c.about, "value": c.value} for c in piece.corrections
        ],
        "weaves": [_weave(sheet) for sheet in found.weaves],
        "hang": _hang(found),
        "fits": [_fit(fit) for fit in found.fits],
        "checks": [_check(check) for check in found.checks],
    }


def _run(run: RunLength) -> dict[str, Any]:
    return {
        "name": run.name,
        "kind": run.kind,
        "lies": run.lies,
        "copies": run.copies,
        "length_mm": _rounded(run.length_mm),
        "links": run.links,
    }


def _sheets(found: Findings) -> dict[str, Any]:
    """What is readied before joining: rings, wire, cuts."""
    return {
        "rings": [
            {
                "part": r.id,
                "letter": r.letter,
                "count": r.count,
                "to_open": r.to_open,
                "leave_closed": r.leave_closed,
            }
            for r in found.rings
        ],
        "wire": [
            {
                "unit": w.unit,
                "wire": w.wire,
                "each_mm": _rounded(w.each_mm),
                "count": w.count,
                "total_mm": _rounded(w.total_mm),
            }
            for w in found.wire
        ],
        "cuts": [
            {
                "chain": cut.chain,
                "links": cut.links,
                **({"first_phase": cut.first_phase} if cut.first_phase else {}),
                "length_mm": _rounded(cut.length_mm),
                "count": cut.count,
            }
            for cut in found.cuts
        ],
        "chain": [
            {"chain": p.chain, "links_used": p.links_used, "links_needed": p.links_needed}
            for p in found.cutting
        ],
    }


def _hang(found: Findings) -> dict[str, Any]:
    read = found.readings
    by_run = ("falls_mm", "widths_mm", "sags_mm", "hems_mm", "tilts_deg", "pulls_gf")
    return {
        **_state(found),
        **{n: {run: _rounded(v) for run, v in getattr(read, n).items()} for n in by_run},
        **{
            name: [{"between": [a, b], "gap_mm": _rounded(mm)} for a, b, mm in getattr(read, name)]
            for name in ("gaps_mm", "side_gaps_mm")
        },
        "stretch": _rounded(read.stretch),
        "bays": [_bay(found, own) for own in read.bays],
        "lies_flat": found.flat.is_flat,
        "marks": [
            {"signal": m.signal, "place": m.place, "amount": _rounded(m.amount)}
            for m in found.flat.marks
        ],
    }


def _bay(found: Findings, own: BaySlack) -> dict[str, Any]:
    host, bay = found.assembly.members[own.bay.host], own.bay
    return {
        "from": member_name(host, bay.links[0]),
        "to": member_name(host, bay.links[1]),
        "row": bay.row,
        "chain_mm": _rounded(bay.chain_mm),
        "row_mm": _rounded(bay.row_mm),
        "slack_mm": _rounded(own.slack_mm),
    }


def _state(found: Findings) -> dict[str, Any]:
    """The state of the hang; what is not hung as worn is never too short, and says how it is."""
    hung, aside = found.hung, not_as_worn(found.assembly)
    if hung is None:
        return {"state": "empty", "cause": ""}
    if aside is not None:
        state = hung.state if hung.state == "converged" else NOT_AS_WORN
        return {"state": state, "cause": aside.words, "as_worn": False}
    return {"state": hung.state, "cause": hung.solution.cause, "as_worn": True}


def _fit(stand: Standing) -> dict[str, Any]:
    return {
        "name": stand.fit.name,
        "kind": stand.fit.kind,
        "wish": fit_words(stand.fit),
        "locked": stand.fit.locked,
        "met": stand.met,
        "hindrance": stand.hindrance,
        "figures": figures(stand.residuals),
    }


def _check(check: Check) -> dict[str, Any]:
    return {
        "code": check.code,
        "severity": check.severity,
        "place": check.place,
        "message": check.message,
        "repair": check.repair,
    }


def _on_body(body: OnBody | None) -> dict[str, Any] | None:
    if body is None:
        return None
    return {
        "has_mm": _rounded(body.has_mm),
        "needed_mm": _rounded(body.needed_mm),
        "at_least": body.at_least,
        "why": body.why,
    }


def _way(worn: Worn) -> dict[str, Any]:
    return {
        "name": worn.name,
        "closed_length_mm": _rounded(worn.closed_length_mm),
        "wraps": worn.wraps,
        "counts": [_count(c) for c in counts(worn.assembly)] if worn.assembly else [],
        **({"fault": worn.fault} if worn.fault else {}),
    }


def _weave(sheet: WeaveSheet) -> dict[str, Any]:
    row: dict[str, Any] = {
        "run": sheet.run,
        "item": sheet.number,
        "weave": sheet.item.weave,
        "rows": sheet.item.rows,
        "copies": sheet.copies,
        "pitch_mm": _rounded(sheet.pitch.mm) if sheet.pitch else None,
        "state": sheet.pitch.state if sheet.pitch else "unknown",
        "length_mm": _rounded(sheet.length_mm),
        "off_mm": _rounded(sheet.off_mm),
        "roles": [asdict(one) for one in sheet.roles],
    }
    if sheet.drawn_mm is not None:
        row["drawn_mm"] = _rounded(sheet.drawn_mm)
    if sheet.round_mm is not None:
        row["round_mm"] = _rounded(sheet.round_mm)
    return row


def weave_lines(sheet: WeaveSheet, unit: LengthUnit = "mm") -> list[str]:
    """A weave for people: how long, how that is known, and its rings by role."""

    def long(mm: float | None) -> str:
        return "unknown" if mm is None else format_length(mm, unit, with_unit=True)

    rows = SORTS[sheet.item.weave].rows
    off = f" ± {format_length(sheet.off_mm, unit)}" if sheet.off_mm else ""
    head = f"  {sheet.run}: {sheet.words}, {sheet.item.rows} {rows}"
    lines = [f"{head}, {long(sheet.length_mm)}{off}", f"    {sheet.known_by}"]
    beside = [f"{which} {long(mm)}" for which, mm in (("one fewer", sheet.fewer_mm),
              ("one more", sheet.more_mm)) if mm is not None]  # fmt: skip
    lines += [f"    {', '.join(beside)}"] if beside else []
    if sheet.drawn_mm is not None:
        lines.append(f"    drawn to the rubber's limit {long(sheet.drawn_mm)}")
    if sheet.round_mm is not None:
        lines.append(f"    its rubber lying round {long(sheet.round_mm)}")
    for one in sheet.roles:
        closed = one.count - one.to_open
        lines.append(f"    {one.count} × {one.role}: {one.to_open} opened, {closed} closed")
    return lines


def _count(counted: Counted) -> dict[str, Any]:
    row: dict[str, Any] = {
        "part": counted.id,
        "name": counted.name,
        "kind": counted.kind,
        "letter": counted.letter,
        "count": counted.count,
    }
    if counted.length_mm is not None:
        row["length_mm"] = _rounded(counted.length_mm)
    if counted.left_over is not None:
        row["left_over"] = counted.left_over
    return row


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 4)


def as_text(found: Findings, unit: LengthUnit = "mm") -> str:
    """The report for people, in the display unit."""
    piece = found.assembly.piece

    def length(mm: float | None) -> str:
        return "unknown" if mm is None else format_length(mm, unit, with_unit=True)

    lines = [piece.name, f"for {piece.wearer.role}", ""]
    if piece.corrections:
        lines += ["By corrections: " + ", ".join(c.words for c in piece.corrections), ""]
    weight = f"{found.balance.sure}{found.balance.total_g:.1f} g"
    lines += [f"Closed length  {length(found.closed_length_mm)}", f"Weight         {weight}"]
    lines += ["", "Runs"]
    lines += [
        f"  {r.name:<28} {length(r.length_mm):>12}  {r.links:>5} links" for r in found.lengths
    ]
    lines += ["", "Cut"]
    lines += [
        f"  {c.count} × {c.words} of {found.assembly.things[c.chain].name} ({length(c.length_mm)})"
        for c in found.cuts
    ]
    lines += ["", "Count"]
    for counted in found.counts:
        amount = f"{counted.count}" if counted.count else length(counted.length_mm)
        if counted.left_over:
            amount += f"  ({counted.left_over} over)"
        lines.append(f"  {counted.letter:>2}  {counted.name:<36} {counted.kind:<12} {amount:>9}")
    if found.weaves:
        lines += ["", "Weaves", *(line for own in found.weaves for line in weave_lines(own, unit))]
    state = _state(found)
    aside = "" if state.get("as_worn", True) else f", but {state['cause']}"
    lines += ["", f"Hang: {state['state']}{aside}"]
    called, falls = found.assembly.run_words, found.readings.falls_mm
    lines += [f"  fall of {called(run):<20} {length(mm)}" for run, mm in falls.items()]
    if found.fits:
        lines += ["", "Fits", *(line for fit in found.fits for line in fit_lines(fit, unit))]
    lines += ["", "Checks" if found.checks else "Checks: nothing to mend"]
    lines += [f"  {c.severity}: {c.place}: {c.message}" for c in found.checks]
    return "\n".join(lines) + "\n"


def fit_lines(stand: Standing, unit: LengthUnit = "mm") -> list[str]:
    """A fit for people: its wish, then each figure with what is left over."""
    lines = [f"  {fit_words(stand.fit, unit)}{' (locked)' if stand.fit.locked else ''}"]
    lines += [f"    {residual_words(r, unit)}" for r in stand.residuals]
    return lines + ([f"    stands in the way: {stand.hindrance}"] if stand.hindrance else [])
