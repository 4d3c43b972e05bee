"""What is said of a build before it is begun, and of one that lies: its steps, what the stock lacks
for it, how far it is.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.expand import expand
from maglia.core.joining.marked import Mark
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.progress import is_done, turns_of
from maglia.core.joining.text import MakeSheet, make_sheet
from maglia.core.joining.ways import Working
from maglia.core.parts.parts import Chain, Wire
from maglia.core.parts.units import BeadLink, Cluster, Dangle, Tassel
from maglia.core.piece.piece import Piece
from maglia.core.sheets.count import counts
from maglia.core.values.measures import LengthUnit

if TYPE_CHECKING:
    from maglia.files.workshop.build_stock import Short
    from maglia.files.workshop.store import Workshop as Store

MOST_NAMED, MOST_CULPRITS = 4, 2


def what_it_takes(piece: Piece, working: Working, unit: LengthUnit, store: Store | None) -> str:
    """Steps and minutes of a piece, and what the stock lacks for it. Raises DomainError."""
    from maglia.files.workshop import build_stock

    sheet = _sheet(piece, working, unit)
    said = [f"{len(sheet.steps)} steps, about {round(sheet.minutes)} minutes"]
    said += [f"! {culprit.says.rstrip('.')}" for culprit in sheet.culprits[:MOST_CULPRITS]]
    if store is not None and (short := build_stock.short_of(store, counted(sheet.assembly))):
        said.append(f"Not on record in the stock: {short_words(sheet.assembly, short)}")
    return ". ".join(said) + "."


def how_far(store: Store, number: int, unit: LengthUnit) -> tuple[Piece, str]:
    """The piece of a build, and how far it is. Raises DomainError if it is not sound."""
    from maglia.files.workshop import builds

    build, done = builds.read(store, number), builds.marks(store, number)
    sheet = _sheet(build.piece, build.working, unit, done)
    left = {turn.step for turn in turns_of(sheet) if not is_done(turn, done)}
    steps = len(sheet.steps)
    given_up = any(note.words == builds.GIVEN_UP for note in builds.notes(store, number))
    if not left or (build.ended and not given_up):
        return build.piece, "Everything is done."
    if build.ended:
        return build.piece, f"Given up when {steps - len(left)} of {steps} steps were done."
    says = sheet.steps[min(left)].says
    return build.piece, f"{steps - len(left)} of {steps} steps are done. It goes on with: {says}"


def _sheet(
    piece: Piece, working: Working, unit: LengthUnit, done: Mapping[str, Mark] | None = None
) -> MakeSheet:
    assembly = expand(piece)
    return make_sheet(assembly, joining_plan(assembly, working, done), unit)


def counted(assembly: Assembly) -> dict[str, int]:
    """What a build takes of parts that are counted by the piece."""
    aside = (Chain, Wire, BeadLink, Dangle, Tassel, Cluster)
    return {one.id: one.count for one in counts(assembly)
            if one.count and not isinstance(assembly.things[one.id], aside)}  # fmt: skip


def short_words(assembly: Assembly, short: Sequence[Short]) -> str:
    """What is short: “3 Ring 4, 1 Hook 16 mm and 2 more”."""
    names = [f"{s.needed - s.lies} {assembly.things[s.part].name}" for s in short[:MOST_NAMED]]
    more = len(short) - MOST_NAMED
    return ", ".join(names) + (f" and {more} more" if more > 0 else "")


def differing(one: Piece, other: Piece) -> tuple[str, ...]:
    """What of a piece another state of it makes otherwise: “Tier 2: 113 → 115 links”; nothing for
    what is only noted, wished or shown otherwise."""
    from maglia.core.fit.solve import differences

    if made_from(one) == made_from(other):
        return ()
    return differences(one, other) or ("its parts or its closing",)


def made_from(piece: Piece) -> tuple[object, ...]:
    """All of a piece that says how it is made."""
    made = (piece.parts, piece.units, piece.runs, piece.rows, piece.closure)
    return (*made, piece.pair, piece.wraps, piece.wire_from)
