"""Drops beside each other: room between them, and none that sticks out below its neighbours.

Trade custom: two drops side by side need a space of at least the mean of their widths + 1 mm.
Among drops that end in the same part, none beside the fold may hang below both its neighbours,
and the one on the fold by no more than its neighbours' own step outward: more is a link too many.
A drop that ends in another part than its neighbours is taken as meant.
"""

import itertools
from collections import defaultdict
from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Path
from maglia.core.assembly.ports import stops_of
from maglia.core.checks.found import Check
from maglia.core.parts.parts import Chain
from maglia.core.piece.wishes import HemFit
from maglia.core.sheets.lengths import member_width_mm, reach_mm
from maglia.core.values.record import Value

STICKS_OUT_MM = 0.05


class _Drop(Value, frozen=True):
    path: Path
    at_mm: float
    length_mm: float
    width_mm: float
    foot: str
    meant: bool
    """A fit gives the line its feet lie on."""


def check(assembly: Assembly) -> Iterator[Check]:
    for drops in _beside_each_other(assembly).values():
        drops.sort(key=lambda drop: drop.at_mm)
        yield from _too_close(drops, assembly.rules.drop_room_mm)
        yield from _sticking_out(assembly, drops)


def _beside_each_other(assembly: Assembly) -> dict[int, list[_Drop]]:
    """Drops by the chain they hang from, with their place along it, mm."""
    first = {
        path.stations[0].members[0]: path
        for path in assembly.paths
        if path.kind == "drop" and path.length_mm is not None
    }
    found: dict[int, list[_Drop]] = defaultdict(list)
    hemmed = {fit.row for fit in assembly.piece.fits if isinstance(fit, HemFit)}
    for joint in assembly.joints:
        host = assembly.members[joint.a]
        if host.run not in assembly.run_of:
            continue
        path = first.get(joint.b)
        level = assembly.run_of[host.run].lies in ("across", "free", "paired")
        hangs = assembly.run_of[host.run].kind == "drop" or not level
        slides = stops_of(joint.port_a) is not None
        if joint.inline or path is None or not host.links or hangs or slides:
            continue  # down a chain that hangs itself they lie one below the other
        at = reach_mm(assembly, host, joint.port_a)
        if at is not None:
            members = [assembly.members[i] for s in path.stations for i in s.members]
            meant = assembly.origins[path.run].owner in hemmed
            width = max(member_width_mm(assembly, m) for m in members)
            found[host.id].append(
                _Drop(path, at, path.length_mm or 0.0, width, members[-1].ref, meant)
            )
    return found


def _too_close(drops: list[_Drop], room: float) -> Iterator[Check]:
    for one, other in itertools.pairwise(drops):
        space, need = other.at_mm - one.at_mm, (one.width_mm + other.width_mm) / 2 + room
        if 0 < space < need - 1e-9:  # on both sides of one link they hang back to back
            yield Check(
                code="drops-too-close",
                severity="attention",
                place=f"{one.path.run} and {other.path.run}",
                message=(
                    f"Drops of {one.width_mm:.1f} and {other.width_mm:.1f} mm hang {space:.1f} mm "
                    f"apart; they need {need:.1f} mm."
                ),
                repair="set them further apart, or take narrower ones",
                run=one.path.run,
                item=1,
            )


def _sticking_out(assembly: Assembly, drops: list[_Drop]) -> Iterator[Check]:
    for k in range(1, len(drops) - 1):
        before, drop, after = drops[k - 1 : k + 2]
        if drop.meant or not before.foot == drop.foot == after.foot:
            continue
        allowed = 0.0
        if drop.path.side == "fold" and k + 2 < len(drops):
            allowed = max(after.length_mm - drops[k + 2].length_mm, 0.0)
        below = drop.length_mm - max(before.length_mm, after.length_mm)
        if below > allowed + STICKS_OUT_MM:
            yield _sticks_out(assembly, drop, below - allowed)


def _sticks_out(assembly: Assembly, drop: _Drop, below: float) -> Check:
    made = assembly.origins[drop.path.run].ordinal is not None
    chains = [assembly.thing(assembly.members[s.members[0]]) for s in drop.path.stations]
    chain = next((c for c in chains if isinstance(c, Chain) and c.pitches_mm), None)
    repair = "shorten it"
    if chain is not None and chain.pitches_mm:
        links = max(1, round(below / (sum(chain.pitches_mm) / len(chain.pitches_mm))))
        repair = f"take {links} link{'s' if links > 1 else ''} off its chain"
        if made:
            repair = f"take {links} off its step in the row, or do this one drop otherwise"
    return Check(
        code="drop-sticks-out",
        severity="attention",
        place=drop.path.run if drop.path.side == "fold" else f"{drop.path.run}, {drop.path.side}",
        message=f"It hangs {below:.1f} mm below both its neighbours, out of the row's line.",
        repair=repair,
        run=drop.path.run,
        item=1,
    )
