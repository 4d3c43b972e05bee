"""Checks: what is wrong or doubtful, by how much, where, and what repairs it.

One module per subject; `all_checks` runs them over one assembly and its hang, worst first. Each
check names its ground: geometry is exact, trade custom is a default the maker may accept.
"""

from collections.abc import Iterable

from maglia.core.assembly import Assembly
from maglia.core.checks import body, catches, drops, fold, openings, unknown
from maglia.core.checks.found import SEVERITIES, Check, Repair
from maglia.core.hang.hung import Hung

__all__ = ["Check", "Repair", "all_checks"]

SUBJECTS = (unknown, fold, openings, catches, body, drops)


def all_checks(assembly: Assembly, hung: Hung | None) -> tuple[Check, ...]:
    """Every finding, worst first, then in the order of the piece."""
    found: list[Check] = [c for subject in SUBJECTS for c in subject.check(assembly)]
    found += _hang_state(hung)
    accepted = {(a.code, a.place) for a in assembly.piece.accepted}
    found = [c for c in _once(found) if (c.code, c.place) not in accepted]
    return tuple(sorted(found, key=lambda c: SEVERITIES.index(c.severity)))


def _hang_state(hung: Hung | None) -> Iterable[Check]:
    if hung is not None and hung.state != "converged":
        yield Check(
            code=f"hang-{hung.state.replace(' ', '-')}",
            severity="stop",
            place="the form",
            message=f"The piece cannot hang: {hung.solution.cause}.",
        )


def _once(found: Iterable[Check]) -> Iterable[Check]:
    """One finding for many equal joints: the first, with how often it occurs."""
    groups: dict[tuple[str, str], list[Check]] = {}
    for check in found:
        groups.setdefault((check.code, check.message), []).append(check)
    for same in groups.values():
        yield same[0].times(len(same))
