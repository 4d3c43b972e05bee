"""Taking parts over from the tray: a piece holds copies; the tray may know them better by now."""

from msgspec.structs import asdict, replace

from maglia.core.edits.spots import Edited
from maglia.core.parts.parts import Part
from maglia.core.parts.sizes import figure, sizes_of
from maglia.core.parts.units import Thing, Unit
from maglia.core.piece.corrections import Correction
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError

SILENT = ("note", "price", "price_per_m", "pack", "sold_mm", "on_strand", "lots_mm")
"""What may differ without the piece being another."""


def differs(own: Thing, held: Thing) -> bool:
    """Whether a part of the piece is another than the tray's of the same id."""
    if type(own) is not type(held):
        return True
    return own != held and bool(_changed(own, held))


def _changed(own: Thing, held: Thing) -> list[str]:
    before, after = asdict(own), asdict(held)
    return [f for f in after if f not in SILENT and before[f] != after[f]]


def difference_words(own: Thing, held: Thing) -> str:
    """“pitch 3.1 in the tray, 3 here”."""
    if type(own) is not type(held):
        return f"a {held.kind} in the tray, a {own.kind} here"
    words = {} if isinstance(held, Unit) else {s.field: s.words for s in sizes_of(held)}
    said = []
    for field in _changed(own, held):
        new, old = getattr(held, field), getattr(own, field)
        if field in words or isinstance(new, str | int | float | None):
            name = words.get(field, field.removesuffix("_mm").replace("_", " "))
            plain = [figure(v) if not isinstance(v, str) else v for v in (new, old)]
            said.append(f"{name} {plain[0]} in the tray, {plain[1]} here")
        else:
            said.append(f"other {field.replace('_', ' ')}")
    return "; ".join(said)


def taken_over(
    piece: Piece, things: tuple[Thing, ...], corrections: tuple[Correction, ...] = ()
) -> Edited:
    """The piece with parts and units as the tray has them, computed with its corrections. Raises
    DomainError where one has become another kind of thing."""
    by_id = {thing.id: thing for thing in things}
    known = {own.id: own for own in (*piece.parts, *piece.units)}
    for ref, thing in by_id.items():
        if ref in known and known[ref].kind != thing.kind:
            raise DomainError(
                f"“{thing.name}” is a {thing.kind} in the tray and a {known[ref].kind} here: "
                "replace it instead"
            )
    parts: tuple[Part, ...] = tuple(by_id.get(own.id, own) for own in piece.parts)  # type: ignore[misc]
    units: tuple[Unit, ...] = tuple(by_id.get(own.id, own) for own in piece.units)  # type: ignore[misc]
    said = [f"{', '.join(thing.name for thing in things)} as in the tray"] if things else []
    if corrections != piece.corrections:
        said.append("computed " + correction_words(corrections))
    changed = replace(piece, parts=parts, units=units, corrections=corrections)
    return Edited(changed, " · ".join(said))


def correction_words(corrections: tuple[Correction, ...]) -> str:
    """“with wrapped loop +0.4 mm, yours”, or that there are none."""
    if not corrections:
        return "without corrections"
    return "with " + "; ".join(one.words for one in corrections)
