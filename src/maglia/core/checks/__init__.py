"""Checks: what is wrong or doubtful, by how much, where, and what repairs it.

One module per subject; `all_checks` runs them over one assembly and its hang, worst first. Each
check names its ground: geometry is exact, trade custom is a default the maker may accept.
"""

from collections.abc import Iterable, Mapping

from maglia.core.assembly.assembly import Assembly
from maglia.core.checks import (
    body,
    carriers,
    catches,
    drops,
    ends,
    fold,
    in_stock,
    joinable,
    openings,
    reads_alike,
    riders,
    rings,
    stringing,
    unknown,
    weaves,
    weight,
)
from maglia.core.checks.found import SEVERITIES, Check, Repair
from maglia.core.checks.too_short import longer
from maglia.core.hang.flat import Flat
from maglia.core.hang.hung import Hung
from maglia.core.hang.readings import Readings
from maglia.core.joining.plan import Plan, joining_plan
from maglia.core.sheets.as_worn import not_as_worn, turns_of
from maglia.core.workshop.lying import Lying

__all__ = ["Check", "Repair", "all_checks"]

SUBJECTS = (
    unknown, fold, openings, catches, stringing, ends, body, drops, carriers, riders,
    reads_alike,
)  # fmt: skip


def all_checks(
    assembly: Assembly, hung: Hung | None, flat: Flat, read: Readings, plan: Plan | None = None,
    lying: Mapping[str, Lying] | None = None,
) -> tuple[Check, ...]:  # fmt: skip
    """Every finding, worst first, then in the order of the piece; what the maker has accepted
    is not said again."""
    found: list[Check] = [c for subject in SUBJECTS for c in subject.check(assembly)]
    found += joinable.check(assembly, plan or joining_plan(assembly))
    found += [*rings.check(assembly, hung), *weaves.check(assembly, hung)]
    found += [*weight.check(assembly, read)]
    found += in_stock.check(assembly, lying)
    found += carriers.check_hung(assembly, read)
    found += [*_hang_state(assembly, hung), *_not_flat(flat)]
    accepted = {(a.code, a.place) for a in assembly.piece.accepted}
    found = [c for c in _once(found) if (c.code, c.place) not in accepted]
    return tuple(sorted(found, key=lambda c: SEVERITIES.index(c.severity)))


def _hang_state(assembly: Assembly, hung: Hung | None) -> Iterable[Check]:
    aside = not_as_worn(assembly)
    if aside is not None:
        yield Check(
            code="not-hung-as-worn",
            severity="note",
            place="the form",
            message=f"Not hung as worn: {aside.words}. No falls are given.",
        )
    elif (turns := turns_of(assembly)) > 1 and hung is not None and hung.state == "converged":
        yield Check(
            code="wound-evenly",
            severity="note",
            place="the form",
            message=(
                f"Its {turns} turns are shown with the slack shared evenly, each held on top; left "
                "to itself one turn takes nearly all of it and the others lie tight."
            ),
        )
    elif hung is not None and hung.state != "converged":
        short = hung.solution.short_by_mm if hung.state == "too short" else 0.0
        repairs = longer(assembly, short) if short > 0 else ()
        yield Check(
            code=f"hang-{hung.state.replace(' ', '-')}",
            severity="stop",
            place="the form",
            message=f"The piece cannot hang: {hung.solution.cause}.",
            repair=repairs[0].words if repairs else None,
            repairs=repairs,
            run=repairs[0].run if repairs else None,
            item=repairs[0].item if repairs else 0,
        )


SIGNALS = {
    "slack": ("hangs loose by", "mm", "take off a ring"),
    "pressed": ("is pressed together with", "gf", "put in a ring, or take a wider one"),
    "overlap": ("stands into the row beside it by", "mm", "put in a ring between the rows"),
    "tilted": ("is turned against its neighbours by", "°", "change the rings beside it"),
}


def _not_flat(flat: Flat) -> Iterable[Check]:
    """What the hang shows of rows that do not lie flat. Mechanics: figures are estimates."""
    for mark in flat.marks:
        what, unit, repair = SIGNALS[mark.signal]
        yield Check(
            code=f"not-flat-{mark.signal}",
            severity="attention",
            place=mark.place,
            message=f"It does not lie flat here: it {what} about {mark.amount:.1f} {unit}.",
            repair=repair,
            run=mark.run,
            item=mark.item,
        )


def _once(found: Iterable[Check]) -> Iterable[Check]:
    """One finding for many equal joints: the first, with how often it occurs."""
    groups: dict[tuple[str, str], list[Check]] = {}
    for check in found:
        groups.setdefault((check.code, check.message), []).append(check)
    for same in groups.values():
        yield same[0].times(len(same))
