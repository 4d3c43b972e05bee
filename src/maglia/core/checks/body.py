"""Does it go on, and does it sit as it should? Geometry of the body's girths."""

from collections.abc import Iterator

from msgspec.structs import replace

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.rows import flattened
from maglia.core.checks.found import Check
from maglia.core.parts.parts import Chain
from maglia.core.parts.units import Things
from maglia.core.piece.items import ChainItem, Item, StrungItem, WeaveItem
from maglia.core.piece.strung import along_mm
from maglia.core.sheets.lengths import closed_length_mm
from maglia.core.sheets.wear import OnBody, on_body
from maglia.core.sheets.weaves import weave_mm
from maglia.core.weaves.kinds import SORTS

LOOSE_MM = 25.0
"""The loosest ease of a bracelet (trade custom)."""
SNUG_MM = 3.0
"""Half an ease step: a fitted bracelet this far off is not mentioned."""


def check(assembly: Assembly) -> Iterator[Check]:
    body = on_body(assembly)
    if body is None:
        yield from _hand_unknown(assembly)
        return
    yield from _too_wide(assembly, body)
    off = abs(body.spare_mm)
    if body.at_least and body.spare_mm < 0:
        yield Check(
            code="does-not-go-on",
            severity="stop",
            place="the whole piece",
            message=(
                f"It reaches {body.has_mm:.1f} mm and needs {body.needed_mm:.1f} mm: {body.why}; "
                f"{off:.1f} mm are missing."
            ),
            repair="make it longer, or close it with a clasp",
        )
    elif body.turn_mm is not None:
        yield from _coil(assembly, body, body.turn_mm)
    elif not body.at_least and off > max(SNUG_MM, _finest_mm(assembly) / 2 + 1e-6):
        way = "short" if body.spare_mm < 0 else "long"
        yield Check(
            code=f"too-{way}-for-wearer",
            severity="attention",
            place="the whole piece",
            message=(
                f"Its {body.has_mm:.1f} mm are {off:.1f} mm too {way}: {body.needed_mm:.1f} mm "
                f"are right for {assembly.piece.wearer.role} ({body.why})."
            ),
            repair=f"{'add' if way == 'short' else 'take off'} {off:.1f} mm",
        )


def _finest_mm(assembly: Assembly) -> float:
    """The least by which what goes round can be made longer: a link or bead at each end, or as many
    rows as a weave takes; what is off by less than half of it is as near as it comes."""
    main = assembly.main
    run = assembly.piece.run(main.run) if main is not None else None
    if run is None:
        return 0.0
    sides = 2 if run.lies == "across" else 1
    items = [item for item in (run.centre, *flattened(run.items)) if item is not None]
    steps = [mm * (1 if isinstance(item, WeaveItem) else sides)
             for item in items if (mm := _step_mm(item, assembly.things)) is not None]  # fmt: skip
    return min(steps, default=0.0)


def _step_mm(item: Item, things: Things) -> float | None:
    if isinstance(item, WeaveItem):
        rows = item.rows + SORTS[item.weave].step
        now, more = weave_mm(item, things), weave_mm(replace(item, rows=rows), things)
        return None if now is None or more is None else more - now
    thing = things.get(item.part) if isinstance(item, ChainItem) else None
    if isinstance(thing, Chain) and thing.pitches_mm:
        return min(thing.pitches_mm)
    if isinstance(item, StrungItem):
        long = [mm for ref in set(item.refs) if (mm := along_mm(item, (ref,), things))]
        return min(long, default=None)
    return None


def _coil(assembly: Assembly, body: OnBody, turn_mm: float) -> Iterator[Check]:
    """A coil is right by its turns, to the nearest repeat of its beads."""
    repeat = body.repeat_mm or turn_mm
    repeats = round(body.spare_mm / repeat)
    if not repeats:
        return
    more, fewer = ("long", "take off") if repeats > 0 else ("short", "string")
    yield Check(
        code=f"too-{more}-for-wearer",
        severity="attention",
        place="the whole piece",
        message=(
            f"It makes {body.has_mm / turn_mm:.2f} turns of {turn_mm:.1f} mm, and "
            f"{assembly.piece.wraps:g} are meant."
        ),
        repair=f"{fewer} {abs(repeats)} repeat{'s' if abs(repeats) > 1 else ''} of its beads",
    )


def _hand_unknown(assembly: Assembly) -> Iterator[Check]:
    piece = assembly.piece
    round_hand = piece.closure.kind in ("over the hand", "continuous") and piece.sort == "bracelet"
    if round_hand and piece.wearer.hand_mm is None and assembly.main is not None:
        yield Check(
            code="hand-unknown",
            severity="attention",
            place="the whole piece",
            message=(
                f"It goes over the hand, and the hand girth of {piece.wearer.role} is not known."
            ),
            repair="measure the hand where it is widest, thumb laid in",
        )


def _too_wide(assembly: Assembly, body: OnBody) -> Iterator[Check]:
    """What has to pass the hand may be wider than it, but not so wide that it falls off."""
    piece = assembly.piece
    wrist, rest = piece.wearer.wrist_mm, closed_length_mm(assembly)
    if piece.sort != "bracelet" or not body.at_least or wrist is None or rest is None:
        return
    most = max(body.needed_mm, wrist) + LOOSE_MM
    if rest <= most:
        return
    yield Check(
        code="falls-off",
        severity="attention",
        place="the whole piece",
        message=(
            f"Its {rest:.1f} mm are {rest - most:.1f} mm more than hand or wrist and the loosest "
            f"ease: it falls off {piece.wearer.role}."
        ),
        repair=f"take off {rest - most:.1f} mm",
    )
