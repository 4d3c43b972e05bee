"""Calling things otherwise: runs and rows, parts and units, the piece. Everything that names them
follows, what their rules write out included.
"""

import re

from msgspec.structs import replace

from maglia.core.assembly.places import CLOSURE
from maglia.core.assembly.rows import runs_of, written_out
from maglia.core.edits.spots import Edited, owner_of
from maglia.core.parts.units import Unit
from maglia.core.piece.piece import Accepted, Piece, Run, catalogue
from maglia.core.values.record import DomainError
from maglia.core.values.references import exchanged

LONGEST = 120


def _fit_name(text: str) -> str:
    name = " ".join(text.split())
    if not name:
        raise DomainError("a name has at least one letter: write one")
    if len(name) > LONGEST:
        raise DomainError(f"a name of {len(name)} letters is too long: at most {LONGEST}")
    return name


def piece_renamed(piece: Piece, text: str) -> Edited:
    name = _fit_name(text)
    return Edited(replace(piece, name=name), f"named {name}")


def run_renamed(piece: Piece, old: str, text: str) -> Edited:
    """A run or row under another name, with every place, row, way, fit and pin that names it or
    what it is written out into. Raises DomainError for a name that is taken."""
    owner, name = owner_of(piece, old), _fit_name(text)
    if name == CLOSURE:
        raise DomainError(f"“{CLOSURE}” stands for the catch: choose another name")
    owners = {own.name for own in piece.owners if own is not owner}
    others = {run.name for run, origin in written_out(piece) if origin.owner != old}
    renamed = replace(owner, name=name)
    if name in owners or (isinstance(owner, Run) and name in others):
        raise DomainError(f"there is a run “{name}” already: choose another name")
    before, after = ([run.name for run, _ in runs_of(own, piece)] for own in (owner, renamed))
    if set(after) & others:
        clash = min(set(after) & others)
        raise DomainError(f"there is a run “{clash}” already: choose another name")
    made = dict(zip(before, after, strict=True))
    changed = exchanged(piece.replaced(owner, renamed), "run", made)
    changed = exchanged(changed, "owner", {old: name})
    free = {run: new for run, new in made.items() if run not in owners}
    changed = exchanged(changed, "name", free | {old: name})
    changed = replace(
        changed,
        accepted=tuple(_accepted(a, made.get(b.run or "", ""), b.run or "")
                       for a, b in zip(changed.accepted, piece.accepted, strict=True)),
        fits=tuple(replace(f, name=_said(f.name, old, name)[:LONGEST]) for f in changed.fits),
    )  # fmt: skip
    return Edited(changed, f"{old} is now {name}")


def thing_renamed(piece: Piece, ref: str, text: str) -> Edited:
    """A part or unit under another name; its id, by which everything refers to it, stays."""
    known, name = catalogue(piece), _fit_name(text)
    if ref not in known:
        raise DomainError(f"“{ref}” is not among the parts of the piece")
    old = known[ref]
    if any(thing.name == name for thing in known.values() if thing is not old):
        raise DomainError(f"there is a “{name}” already: choose another name")
    renamed = replace(old, name=name)
    field = "units" if isinstance(old, Unit) else "parts"
    things = tuple(renamed if own is old else own for own in getattr(piece, field))
    accepted = tuple(_accepted(a, name if a.thing == ref else "", old.name) for a in piece.accepted)
    changed = replace(piece, **{field: things}, accepted=accepted)
    return Edited(changed, f"{old.name} is now {name}")


def _accepted(kept: Accepted, new: str, old: str) -> Accepted:
    """An accepted check follows what its place names."""
    return replace(kept, place=_said(kept.place, old, new)[:300]) if new and old else kept


def _said(text: str, old: str, new: str) -> str:
    return re.sub(rf"(?<!\w){re.escape(old)}(?!\w)", lambda _: new, text)
