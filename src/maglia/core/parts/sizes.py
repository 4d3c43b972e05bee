"""What a part's sizes are called, and what cannot be computed while one is not known.

A maker reads and writes these words: on a part's sheet, in a check, at the head of a list.
"""

from collections.abc import Iterable
from typing import Any, Literal, get_args, get_type_hints

import msgspec

from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    End,
    Part,
    Pin,
    Ring,
    Wire,
)
from maglia.core.values.record import DomainError, Value


class Size(Value, frozen=True):
    """A size of a kind of part: its field, its words, what needs it (none: nothing does), and
    whether the lack of it stops the piece."""

    field: str
    words: str
    needed_for: str = ""
    stops: bool = False


def _size(field: str, words: str, needed_for: str = "", *, stops: bool = False) -> Size:
    return Size(field, words, needed_for, stops)


_PASSES = "whether it passes what it joins"
SIZES: dict[type[Part], tuple[Size, ...]] = {
    Chain: (
        _size("pitches_mm", "pitch", "the length of its runs", stops=True),
        _size("inner_width_mm", "inside", "what passes its links"),
        _size("wire_mm", "wire", "what its links pass"),
    ),
    Ring: (
        _size("inner_mm", "inner diameter", "the length of its runs", stops=True),
        _size("wire_mm", "wire", _PASSES, stops=True),
        _size("inner_width_mm", "inner width, if oval"),
    ),
    Bead: (
        _size("length_mm", "length", "the length of its units", stops=True),
        _size("width_mm", "width", "its weight and its room"),
        _size("hole_mm", "hole", "what wire and thread pass it"),
        _size("thickness_mm", "thickness, if flat"),
        _size("covers_mm", "covers", "how deep a cap sits over the bead beside it"),
    ),
    Pin: (
        _size("length_mm", "length", "whether it is long enough"),
        _size("wire_mm", "wire", "the length of its units", stops=True),
        _size("head_mm", "head", "whether it stops at a hole"),
        _size("eye_inner_mm", "eye inside", "what its eye takes"),
    ),
    Wire: (
        _size("wire_mm", "wire", "the length of its units", stops=True),
        _size("width_mm", "width"),
        _size("coil_mm", "coil inside", "its length on the wrist"),
    ),
    End: (
        _size("adds_mm", "added length", "the length of its runs", stops=True),
        _size("takes_mm", "takes", "whether what it ends fits in"),
        _size("width_mm", "width", "its room"),
        _size("loop_mm", "loop inside", "what its loop takes"),
        _size("covers_mm", "covers"),
    ),
    Connector: (
        _size("width_mm", "width", "its weight and its room"),
        _size("height_mm", "height", "its weight and its room"),
        _size("thickness_mm", "thickness", "what rings close round it"),
    ),
    Clasp: (
        _size("span_mm", "span, done up", "the closed length", stops=True),
        _size("eye_mm", "eye inside", "what its eye takes"),
        _size("width_mm", "width"),
        _size("jaw_wire_mm", "jaw", "what ring it can bite"),
        _size("gape_mm", "gape", "what wire it can bite"),
        _size("bar_mm", "bar", "what ring holds it"),
    ),
    EarFinding: (
        _size("below_mm", "drop below the lobe", "how far the piece hangs", stops=True),
        _size("wire_mm", "wire", _PASSES),
        _size("loop_mm", "loop inside", "what its loop takes"),
    ),
    Charm: (
        _size("height_mm", "height", "how far it hangs", stops=True),
        _size("width_mm", "width", "its room"),
        _size("loop_mm", "loop inside", "what its loop takes"),
        _size("loop_wire_mm", "loop wire", _PASSES),
    ),
}


def sizes_of(part: Part) -> tuple[Size, ...]:
    """The sizes a part can have, the first one first."""
    found = next(sizes for kind, sizes in SIZES.items() if isinstance(part, kind))
    return tuple(size for size in found if _applies(part, size.field))


FLAT = ("ribbon", "cord")
"""What may be wider than thick."""


def _applies(part: Part, field: str) -> bool:
    if isinstance(part, Bead):
        return field != "covers_mm" or part.role == "cap" or part.covers_mm is not None
    if isinstance(part, End):
        return field != "covers_mm" or part.sort == "cone" or part.covers_mm is not None
    if isinstance(part, Pin):
        return field != ("eye_inner_mm" if part.head == "head" else "head_mm")
    if isinstance(part, Wire):
        flat = part.sort in FLAT or part.width_mm is not None
        return {"coil_mm": part.sort == "memory coil", "width_mm": flat}.get(field, True)
    if isinstance(part, Clasp):
        unlike = ("jaw_wire_mm", "gape_mm") if part.sort in ("toggle", "magnet") else ("bar_mm",)
        return field not in unlike
    return True


def missing(part: Part) -> tuple[Size, ...]:
    """Sizes that something needs and that are not known."""
    found = tuple(s for s in sizes_of(part) if s.needed_for and getattr(part, s.field) is None)
    if isinstance(part, Connector):
        bare = (hole.name for hole in part.holes if hole.diameter_mm is None)
        found += tuple(
            _size("holes", f"hole {name}", "the length of its runs", stops=True) for name in bare
        )
    return found


MASS = "weight of all it is in"
_CHOSEN = ("closure", "temper", "look", "role", "shape", "head", "sort", "outline")


def choices_of(part: Part) -> dict[str, tuple[str, ...]]:
    """What of a part is one of a few words, with the words."""
    hints = get_type_hints(type(part))
    return {name: get_args(hints[name]) for name in ("material", *_CHOSEN) if name in hints}


def with_field(part: Part, field: str, value: Any) -> Part:
    """The part with one field set otherwise. Raises DomainError naming the field and its bounds."""
    raw = {**msgspec.to_builtins(part), field: value}
    try:
        return msgspec.convert(raw, type(part))
    except msgspec.ValidationError as fault:
        words = next((s.words for s in sizes_of(part) if s.field == field), field.split("_")[0])
        why = str(fault).partition(" - at")[0].lower()
        raise DomainError(f"the {words} of “{part.name}”: {why}") from None


Held = Literal["inner", "outer"]


def outer_mm(ring: Ring) -> float | None:
    """A ring measured outside, mm."""
    if ring.inner_mm is None or ring.wire_mm is None:
        return None
    return ring.inner_mm + 2 * ring.wire_mm


def size_words(part: Part) -> str:
    """The sizes that tell a part from its like, as one says them: “4 × 0.8”, “3”, “20 × 14”."""
    fields = {
        Chain: ("pitches_mm",),
        Ring: ("inner_mm", "wire_mm"),
        Bead: ("length_mm", "width_mm"),
        Pin: ("length_mm", "wire_mm"),
        Wire: ("width_mm", "wire_mm") if isinstance(part, Wire) and part.width_mm else ("wire_mm",),
        End: ("adds_mm",),
        Connector: ("width_mm", "height_mm"),
        Clasp: ("bar_mm",) if isinstance(part, Clasp) and part.sort == "toggle" else ("width_mm",),
        EarFinding: ("below_mm",),
        Charm: ("height_mm",),
    }
    own = next(names for kind, names in fields.items() if isinstance(part, kind))
    said = [figure(getattr(part, name)) for name in own]
    if isinstance(part, Bead) and part.length_mm == part.width_mm:
        said = said[:1]
    return " × ".join(said)


def described(part: Part) -> str:
    """A part in a few words: every size that is known, what is not usual, its holes."""
    said = [f"{s.words} {figure(value)}" for s in sizes_of(part)
            if (value := getattr(part, s.field)) is not None]  # fmt: skip
    if isinstance(part, Connector):
        said.append("holes " + ", ".join(hole.name for hole in part.holes))
    usual = {name: words[0] for name, words in choices_of(part).items() if name in _CHOSEN}
    said += [str(getattr(part, name)) for name in usual
             if name not in ("role", "sort", "head", "temper")
             and getattr(part, name) != type(part).__struct_defaults__[
                 _default_at(type(part), name)]]  # fmt: skip
    return ", ".join([*said, part.material])


def _default_at(kind: type[Part], name: str) -> int:
    """Where the default of a field stands among a kind's defaults."""
    names = kind.__struct_fields__
    return names.index(name) - (len(names) - len(kind.__struct_defaults__))


def figure(value: float | Iterable[float] | None) -> str:
    """A size as it is written, without unit; “?” where it is not known."""
    if value is None:
        return "?"
    if isinstance(value, int | float):
        return f"{round(value, 3):g}"
    return " ".join(f"{round(one, 3):g}" for one in value)


def sort_key(part: Part) -> tuple[float, ...]:
    """Smaller before larger, unknown last."""
    sizes = [getattr(part, size.field) for size in sizes_of(part)[:2]]
    flat = [(size[0] if size else None) if isinstance(size, tuple) else size for size in sizes]
    return tuple(float("inf") if size is None else size for size in flat)
