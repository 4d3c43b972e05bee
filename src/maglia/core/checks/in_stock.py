"""Whether the stock covers the piece."""

from collections.abc import Iterator, Mapping

from maglia.core.assembly.assembly import Assembly
from maglia.core.checks.found import Check
from maglia.core.cutting.day import Making, lacking
from maglia.core.joining.needs import needs_of
from maglia.core.workshop.lying import Lying

MOST_NAMED = 4


def check(assembly: Assembly, lying: Mapping[str, Lying] | None) -> Iterator[Check]:
    """What the bench lacks; nothing where no stock is kept."""
    if not lying:
        return
    bags = {ref: own.bag for ref, own in lying.items()}
    day = [Making(assembly)]
    said = [f"{need.short} {need.thing.name}" for need in needs_of(day, bags) if need.short]
    said += [f"{mm:.0f} mm of {assembly.things[ref].name}"
             for ref, mm in lacking(day, lying).items()]  # fmt: skip
    if said:
        more = len(said) - MOST_NAMED
        named = ", ".join(said[:MOST_NAMED]) + (f" and {more} more" if more > 0 else "")
        yield Check(
            code="short-in-stock",
            severity="note",
            place="the stock",
            message=f"Not on the bench: {named}.",
            repair="Count (Ctrl+3) has the shopping list.",
        )
