"""Strips of weave within a plan: which closings make one step, row after row."""

from collections.abc import Mapping, Sequence

from maglia.core.assembly.assembly import Assembly, InWeave
from maglia.core.joining.openers import Ends, Opener

LOOK_EVERY = 10
"""Rows of a weave that are done before it is looked at."""
Place = tuple[int, int, int]
"""Row, place and which one abreast."""


def segments(
    assembly: Assembly, at: Mapping[Opener, Sequence[int]], ends: Sequence[Ends]
) -> dict[Opener, tuple[int, Place]]:
    """Every ring that is opened within a weave: the step it belongs to, and where it stands there.
    Rows that are done alike are one step, of ten rows at most."""
    rows: dict[tuple[int, int], list[Opener]] = {}
    signs: dict[Opener, tuple[object, ...]] = {}
    for opener, joints in at.items():
        own = assembly.members[opener.member].woven
        if own is None:
            continue
        others = [assembly.members[o.member].woven for n in joints for o in ends[n] if o != opener]
        if any(other is None or other.weave != own.weave for other in others):
            continue
        rows.setdefault((own.weave, own.row), []).append(opener)
        inside = sorted((o.role, _further(own, o)) for o in others if o)
        signs[opener] = (own.role, own.abreast, tuple(inside))
    found: dict[Opener, tuple[int, Place]] = {}
    number, length = -1, 0
    before: object = None
    for (weave, _), openers in sorted(rows.items()):
        openers.sort(key=lambda opener: place_in(assembly, opener))
        sign = (weave, tuple(signs[opener] for opener in openers))
        if sign != before or length == LOOK_EVERY:
            number, before, length = number + 1, sign, 0
        length += 1
        found.update({opener: (number, place_in(assembly, opener)) for opener in openers})
    return found


def _further(own: InWeave, other: InWeave) -> int:
    """How many places further along the strip a ring stands; of one at its other end, far back."""
    return other.place - own.place


def place_in(assembly: Assembly, opener: Opener) -> Place:
    own = assembly.members[opener.member].woven
    assert own is not None
    return own.row, own.place, own.abreast
