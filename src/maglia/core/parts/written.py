"""A part changed by what is written over one of its figures."""

import re

from msgspec.structs import replace

from maglia.core.parts.parts import Chain, Part, Ring
from maglia.core.parts.sizes import with_field
from maglia.core.values.measures import amount_at
from maglia.core.values.record import DomainError

UNKNOWN = ("", "?", "-", "unknown")
OUTER = "outer_mm"


def read_mm(text: str) -> float | None:
    """A size as it is written, mm where no unit is said; None for “?” and nothing. Raises
    DomainError."""
    if text.strip().lower() in UNKNOWN:
        return None
    found = amount_at(text.strip(), 0)
    if found is None or found[1] < len(text.strip()):
        raise DomainError(f"“{text.strip()}” is no size: write one, such as 4.2 or 1/4 in")
    return found[0].mm("mm")


def with_written(part: Part, field: str, text: str) -> Part:
    """The part with a size as it is written over its figure: a ring's outer size too, a chain's
    pitches or its swatch, “32 links 104 mm”. Raises DomainError naming what is wrong."""
    if isinstance(part, Chain) and field == "pitches_mm":
        return _pitched(part, text)
    if isinstance(part, Ring) and field in ("inner_mm", OUTER):
        return _ring(part, field, text)
    return with_field(part, field, read_mm(text))


def _ring(ring: Ring, field: str, text: str) -> Part:
    found = re.fullmatch(r"(.*?)\s*\b(inner|inside|outer|outside)", text.strip(), re.IGNORECASE)
    if found:
        text = found[1]
        field = OUTER if found[2].lower().startswith("out") else "inner_mm"
    mm = read_mm(text)
    if field != OUTER or mm is None:
        return with_field(ring, "inner_mm", mm)
    if ring.wire_mm is None:
        raise DomainError("an outer size needs the wire: measure the wire first")
    inner = round(mm - 2 * ring.wire_mm, 6)
    if inner <= 0:
        raise DomainError(f"{mm:g} mm outside leave nothing inside of {ring.wire_mm:g} mm wire")
    return with_field(ring, "inner_mm", inner)


def _pitched(chain: Chain, text: str) -> Part:
    swatch = re.fullmatch(r"(\d+)\s*(?:links?|x|×)\s*(.+)", text.strip(), re.IGNORECASE)
    if swatch:
        length = read_mm(swatch[2])
        if not length or not int(swatch[1]):
            raise DomainError("a swatch is so many links and their length: 32 links 104 mm")
        pitch = round(length / int(swatch[1]), 3)
        noted = f"swatch: {swatch[1]} links are {length:g} mm"
        kept = "\n".join(
            line for line in chain.note.split("\n") if line and not line.startswith("swatch: ")
        )
        changed = with_field(chain, "pitches_mm", [pitch])
        return replace(changed, note=f"{kept}\n{noted}".strip())
    if text.strip().lower() in UNKNOWN:
        return with_field(chain, "pitches_mm", None)
    sizes = [read_mm(word) for word in re.split(r"[\s,;]+(?=[\d.])", text.strip())]
    return with_field(chain, "pitches_mm", [size for size in sizes if size is not None])
