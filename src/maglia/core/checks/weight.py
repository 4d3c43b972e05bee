"""Weight, balance and closeness, as worn.

Trade custom: say so when an earring is above 8 g, a piece above 150 g, left and right differ by
more than 5 % of the whole, tiers hang closer than 12 mm. Mechanics: a free bar settles level within
2°, else the hang says which side to lighten; a magnet holds three times what hangs on it.
"""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, member_name
from maglia.core.checks.found import Check
from maglia.core.hang.readings import Readings
from maglia.core.parts.parts import Clasp
from maglia.core.sheets.mass import balance
from maglia.core.sheets.symmetry import differences

LEVEL_DEG = 2.0


def check(assembly: Assembly, read: Readings) -> Iterator[Check]:
    yield from _heavy(assembly)
    yield from _uneven(assembly)
    yield from _tilted(assembly, read)
    yield from _tangling(assembly, read)
    yield from _magnet(assembly)


def heaviest_g(assembly: Assembly) -> float:
    """What a piece may weigh before it is said: its own limit, else the custom."""
    piece, rules = assembly.piece, assembly.rules
    return piece.heaviest_g or (rules.earring_g if piece.sort == "earring" else rules.strand_g)


def _heavy(assembly: Assembly) -> Iterator[Check]:
    found, limit = balance(assembly), heaviest_g(assembly)
    total = found.total_g
    if total <= limit:
        return
    what = "An earring" if assembly.piece.sort == "earring" else "A piece"
    yield Check(
        code="heavy",
        severity="attention",
        place="the whole piece",
        message=f"{what} of {found.sure}{total:.1f} g is above {limit:g} g: it pulls.",
        repair="take lighter parts, or keep it with a note",
    )


def _uneven(assembly: Assembly) -> Iterator[Check]:
    found = balance(assembly)
    apart = abs(found.left_g - found.right_g)
    swings = any(run.lies == "free" and run.kind == "strand" for run in assembly.runs)
    if not found.total_g or apart <= assembly.rules.uneven * found.total_g or swings:
        return
    heavier = "left" if found.left_g > found.right_g else "right"
    yield Check(
        code="left-right-balance",
        severity="note",
        place="the whole piece",
        message=(
            f"The {heavier} side is {apart:.1f} g heavier, {apart / found.total_g:.0%} of the "
            f"whole{', as far as it is known' if found.unknown else ''}: {_creeps(assembly)}."
        ),
        repair=f"lighten the {heavier} side, or keep it with a note",
    )


def _creeps(assembly: Assembly) -> str:
    """What comes of it: an earring hangs in its lobe, and cannot go round."""
    hangs = assembly.piece.sort == "earring" or assembly.piece.form.kind == "board"
    return "it hangs askew" if hangs else "it will creep round"


def _tilted(assembly: Assembly, read: Readings) -> Iterator[Check]:
    """Of what stands left and right, each is held on both its sides by something else."""
    form = assembly.piece.form.kind
    if form in ("wrist", "ankle"):
        return  # round a limb a flat part follows the limb
    mirrored = form == "board" and not differences(assembly)
    for index, angle in read.tilt_of.items():
        member = assembly.members[index]
        if abs(angle) <= LEVEL_DEG or member.side in ("left", "right"):
            continue
        if mirrored and member.side == "fold" and assembly.run_of[member.run].kind == "strand":
            continue  # what pulls it aside is where clasp and catch are pinned to the board
        heavier = "right" if angle > 0 else "left"
        yield Check(
            code="bar-tilts",
            severity="attention",
            place=member_name(member),
            message=f"It hangs about {abs(angle):.1f}° out of level, {heavier} side down.",
            repair=f"lighten what hangs on its {heavier}, or move it inward",
            run=member.run,
            item=member.item,
        )


def _tangling(assembly: Assembly, read: Readings) -> Iterator[Check]:
    strung = {m.run for m in assembly.members if m.kind in ("strung", "connector")}
    tangle = assembly.rules.tangle_mm
    rows = {run for run, origin in assembly.origins.items() if origin.level is not None}
    for upper, lower, gap in read.gaps_mm:
        tied = any(run in rows for run in (upper, lower))
        if gap >= tangle or lower in strung or tied:
            continue
        yield Check(
            code="tiers-tangle",
            severity="attention",
            place=f"{upper} and {lower}",
            message=f"They hang {gap:.1f} mm apart; tiers closer than {tangle:g} mm tangle.",
            repair=f"widen the gap by {tangle - gap:.1f} mm",
            run=lower,
        )


def _magnet(assembly: Assembly) -> Iterator[Check]:
    clasp = assembly.thing(assembly.members[assembly.clasp]) if assembly.clasp is not None else None
    if not isinstance(clasp, Clasp) or clasp.sort != "magnet" or clasp.holds_g is None:
        return
    found, times = balance(assembly), assembly.rules.magnet_times
    total = found.total_g
    if clasp.holds_g >= times * total:
        return
    yield Check(
        code="magnet-too-weak",
        severity="stop",
        place=clasp.name,
        thing=clasp.id,
        message=(
            f"It holds {clasp.holds_g:.0f} g; {times:g} times the {found.sure}{total:.0f} g that "
            f"hang on it are {times * total:.0f} g."
        ),
        repair="take a stronger magnet or another clasp",
    )
