"""Sizes that are not known, and what cannot be computed without them."""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly
from maglia.core.checks.found import Check
from maglia.core.parts.parts import Part
from maglia.core.parts.sizes import Size, missing
from maglia.core.piece.needed import made_of
from maglia.core.sheets.mass import balance
from maglia.core.values.references import things_named


def check(assembly: Assembly) -> Iterator[Check]:
    used = _used(assembly)
    for part in assembly.piece.parts:
        if part.id not in used:
            continue
        for size in missing(part):
            if size.stops:
                yield _missing(part, size)
    for ref in balance(assembly).unknown:
        thing = assembly.things[ref]
        yield Check(
            code="mass-unknown",
            severity="note",
            place=thing.name,
            thing=thing.id,
            message=f"The mass of “{thing.name}” is not known: weight, balance and hang are "
            "of what is known.",
            repair="weigh it, or give its sizes",
        )


def _missing(part: Part, size: Size) -> Check:
    return Check(
        code="size-unknown",
        severity="stop",
        place=part.name,
        thing=part.id,
        message=f"The {size.words} of “{part.name}” is not known, so {size.needed_for} cannot be "
        "computed.",
        repair=f"measure it and write the {size.words} into the tray",
    )


def _used(assembly: Assembly) -> set[str]:
    refs = {m.ref for m in assembly.members}
    refs |= things_named(tuple(m.strung for m in assembly.members if m.strung is not None))
    return {thing.id for thing in made_of(refs, assembly.things)}
