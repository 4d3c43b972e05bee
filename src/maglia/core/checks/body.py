"""Does it go on, and does it sit as it should? Geometry of the body's girths."""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly
from maglia.core.checks.found import Check
from maglia.core.sheets.wear import on_body

SNUG_MM = 3.0
"""Half an ease step: a fitted bracelet this far off is not mentioned."""


def check(assembly: Assembly) -> Iterator[Check]:
    body = on_body(assembly)
    if body is None:
        return
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
    elif not body.at_least and off > SNUG_MM:
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
