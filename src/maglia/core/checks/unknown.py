"""Sizes that are not known, and what cannot be computed without them."""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly
from maglia.core.checks.found import Check
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    EarFinding,
    End,
    Part,
    Pin,
    Ring,
    Wire,
)
from maglia.core.piece.needed import made_of
from maglia.core.sheets.mass import balance
from maglia.core.values.references import things_named

NEEDED: tuple[tuple[type, str, str, str], ...] = (
    (Chain, "pitches_mm", "pitch", "the length of its runs"),
    (Ring, "inner_mm", "inner diameter", "the length of its runs"),
    (Ring, "wire_mm", "wire", "whether it passes what it joins"),
    (Bead, "length_mm", "length", "the length of its units"),
    (Pin, "wire_mm", "wire", "the length of its units"),
    (Wire, "wire_mm", "wire", "the length of its units"),
    (End, "adds_mm", "added length", "the length of its runs"),
    (Clasp, "span_mm", "span", "the closed length"),
    (EarFinding, "below_mm", "drop below the lobe", "how far the piece hangs"),
    (Charm, "height_mm", "height", "how far it hangs"),
)


def check(assembly: Assembly) -> Iterator[Check]:
    used = _used(assembly)
    for part in assembly.piece.parts:
        if part.id not in used:
            continue
        for kind, field, words, needed_for in NEEDED:
            if isinstance(part, kind) and getattr(part, field) is None:
                yield _missing(part, words, needed_for)
    for ref in balance(assembly).unknown:
        thing = assembly.things[ref]
        yield Check(
            code="mass-unknown",
            severity="note",
            place=thing.name,
            thing=thing.id,
            message=f"The mass of “{thing.name}” is not known; it hangs as if almost weightless.",
            repair="weigh it, or give its sizes",
        )


def _missing(part: Part, words: str, needed_for: str) -> Check:
    return Check(
        code="size-unknown",
        severity="stop",
        place=part.name,
        thing=part.id,
        message=f"The {words} of “{part.name}” is not known, so {needed_for} cannot be computed.",
        repair=f"measure it and write the {words} into the tray",
    )


def _used(assembly: Assembly) -> set[str]:
    refs = {m.ref for m in assembly.members}
    refs |= things_named(tuple(m.strung for m in assembly.members if m.strung is not None))
    return {thing.id for thing in made_of(refs, assembly.things)}
