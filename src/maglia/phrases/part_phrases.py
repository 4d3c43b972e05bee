"""A new part in one phrase: “new ring 4.2 x 0.8 inner gunmetal”, “new bead amber 6 x 8 hole 1”.

After `new` stand words, the kind, the sizes of that kind joined by x, then further sizes each after
its word, and material, price and mass. What is not said stays unknown; what is not understood is
named. A part is called by the words before its first size, its kind and that size.
"""

import re
from typing import Any, NamedTuple

import msgspec
from msgspec.structs import replace

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
from maglia.core.piece.piece import Wearer
from maglia.core.values.materials import DENSITY_G_CM3
from maglia.core.values.measures import MM_PER, MeasureError, amount_at
from maglia.core.values.record import DomainError

AWG_MM, AWG_RATIO = 0.127, 92.0
SWG_MM = {
    10: 3.251, 12: 2.642, 14: 2.032, 16: 1.626, 18: 1.219, 19: 1.016, 20: 0.914, 21: 0.813,
    22: 0.711, 23: 0.610, 24: 0.559, 25: 0.508, 26: 0.457, 28: 0.376, 30: 0.315,
}  # fmt: skip
MARKS = {"closed": "closed", "open": "open", "split": "split", "elastic": "elastic"}
TEMPERS = ("soft", "hard", "half-hard")
LOOKS = ("round", "oval", "flat", "twisted", "ball")
SHAPES = ("round", "oval", "drop", "bicone", "tube", "disc")


class Kind(NamedTuple):
    """words: what it is called after `new` · named: what stands in its name, or nothing · sizes:
    the fields of its joined sizes, in order · further: the word before each other size, and its
    field · fixed: fields that the word itself says."""

    words: str
    part: type[Part]
    named: str
    sizes: tuple[str, ...]
    further: dict[str, str]
    fixed: dict[str, Any]


def _kind(
    words: str, part: type[Part], named: str, sizes: str, further: str = "", **fixed: Any
) -> Kind:
    pairs = dict(pair.split(":") for pair in further.split())
    return Kind(words, part, named, tuple(sizes.split()), pairs, fixed)


_RUBBER = {"closure": "elastic", "material": "rubber"}
_ENDS = ("crimp", "tip", "cone", "cord end")
_CLASP = "span:span_mm eye:eye_mm gape:gape_mm jaw:jaw_wire_mm wide:width_mm"
_END = "loop:loop_mm takes:takes_mm wide:width_mm"
_EAR = "loop:loop_mm wire:wire_mm"
KINDS: tuple[Kind, ...] = (
    _kind("rubber ring", Ring, "rubber ring", "inner_mm wire_mm", **_RUBBER),
    _kind("bangle", Ring, "bangle", "inner_mm wire_mm", closure="closed"),
    _kind("ring", Ring, "ring", "inner_mm wire_mm"),
    _kind("chain", Chain, "", "pitches_mm", "inside:inner_width_mm wire:wire_mm"),
    _kind("cap", Bead, "cap", "length_mm width_mm", "hole:hole_mm thick:thickness_mm",
          role="cap", shape="cap"),
    _kind("spacer", Bead, "spacer", "length_mm width_mm", "hole:hole_mm",
          role="spacer", shape="disc"),
    _kind("bar", Bead, "bar", "length_mm width_mm", "hole:hole_mm", role="bar", shape="tube"),
    _kind("bead", Bead, "", "length_mm width_mm", "hole:hole_mm thick:thickness_mm"),
    _kind("head pin", Pin, "head pin", "length_mm wire_mm", "head:head_mm", head="head"),
    _kind("eye pin", Pin, "eye pin", "length_mm wire_mm", "eye:eye_inner_mm", head="eye"),
    *(
        _kind(sort, Wire, sort, "wire_mm", sort=sort)
        for sort in ("wire", "cable", "thread", "cord", "ribbon", "elastic")
    ),
    _kind("coil", Wire, "coil", "coil_mm wire_mm", sort="memory coil"),
    *(_kind(sort, End, sort, "adds_mm", _END, sort=sort) for sort in _ENDS),
    _kind("clamp", End, "clamp", "adds_mm", _END, sort="cord end"),
    _kind("lobster", Clasp, "lobster", "width_mm", _CLASP, sort="lobster"),
    _kind("spring ring", Clasp, "spring ring", "width_mm", _CLASP, sort="spring ring"),
    _kind("toggle", Clasp, "toggle", "bar_mm", _CLASP, sort="toggle"),
    _kind("hook clasp", Clasp, "hook clasp", "width_mm", _CLASP, sort="hook"),
    _kind("magnet", Clasp, "magnet", "width_mm", _CLASP, sort="magnet"),
    _kind("ear hook", EarFinding, "ear hook", "below_mm", _EAR, sort="hook"),
    _kind("ear post", EarFinding, "ear post", "below_mm", _EAR, sort="post"),
    _kind("ear hoop", EarFinding, "ear hoop", "below_mm", _EAR, sort="hoop"),
    _kind("lever back", EarFinding, "lever back", "below_mm", _EAR, sort="leverback"),
    _kind("charm", Charm, "", "height_mm width_mm", ""),
)  # fmt: skip
HINT = "new ring 4.2 x 0.8 inner · new bead amber 6 hole 1 · new chain rolo 3.1 inside 2.3 wire 0.8"
SPRING = re.compile(r"\s*new\s+", re.IGNORECASE)


def is_part_phrase(text: str) -> bool:
    """Whether a text begins a part: `new` and the words of a kind."""
    return SPRING.match(text) is not None and _found_kind(text) is not None


def _found_kind(text: str) -> tuple[Kind, re.Match[str]] | None:
    """The kind that stands first in a text; of kinds that begin alike the longer one."""
    places = [
        (found.start(), -len(kind.words), k, found)
        for k, kind in enumerate(KINDS)
        if (found := re.search(rf"\b{kind.words}s?\b", text, re.IGNORECASE))
    ]
    if not places:
        return None
    _, _, k, found = min(places, key=lambda place: place[:3])
    return KINDS[k], found


class _Size(NamedTuple):
    """A size as written: its number, and mm for one of it; None for a bare number."""

    number: float
    factor: float | None

    def mm(self, factor: float = 1.0) -> float:
        size = round(self.number * (factor if self.factor is None else self.factor), 6)
        if size <= 0:
            raise DomainError(f"{size:g} mm is no size: write one above zero")
        return size


class _Reading:
    """The words and sizes of a phrase in order, taken one by one."""

    def __init__(self, text: str) -> None:
        self.text, self.at = text, 0

    def _skip(self) -> None:
        while self.at < len(self.text) and self.text[self.at] in " ,\t":
            self.at += 1

    def _size(self) -> _Size | None:
        """The size here, if there is one; a gauge names its system."""
        self._skip()
        if not re.match(r"[-\d.=½¼¾]", self.text[self.at :]):
            return None
        found = amount_at(self.text, self.at)
        if found is None:
            return None
        amount, end = found
        gauge = re.match(r"\s*(AWG|SWG)\b", self.text[end:], re.IGNORECASE)
        self.at = end + (gauge.end() if gauge else 0)
        if gauge:
            return _Size(_gauge_mm(amount.whole, gauge[1].upper()), 1.0)
        mm = amount.mm("mm")
        if amount.kind == "plain":
            return _Size(mm, None)
        word = re.search(r"(cm|mm|m|in\w*|[\"″”]|'')$", amount.text.strip(), re.IGNORECASE)
        inches = word is not None and word[1][0].lower() not in "cm"
        factor = 25.4 if inches else MM_PER[word[1].lower()] if word else 1.0
        return _Size(mm / factor, factor)

    def size(self) -> float | None:
        """The size here, mm; a bare one is in mm. None if there is none."""
        found = self._size()
        return None if found is None else found.mm()

    def joined(self) -> list[float]:
        """Sizes joined by x, mm; one unit said holds for all of them that have none."""
        sizes: list[_Size] = []
        while (found := self._size()) is not None:
            sizes.append(found)
            joint = re.match(r"\s*[x×]\s*(?=[\d.½¼¾])", self.text[self.at :], re.IGNORECASE)
            if joint is None:
                break
            self.at += joint.end()
        units = {size.factor for size in sizes if size.factor not in (None, 1.0)}
        shared = units.pop() if len(units) == 1 else None
        return [size.mm(shared or 1.0) for size in sizes]

    def word(self) -> str | None:
        self._skip()
        found = re.match(r"[^\s,]+", self.text[self.at :])
        if found is None:
            return None
        self.at += found.end()
        return found[0]


def _gauge_mm(number: int, system: str) -> float:
    """Diameter of a wire gauge, mm: AWG by ASTM B258, SWG by BS 3737."""
    if system == "AWG":
        return round(float(AWG_MM * AWG_RATIO ** ((36 - number) / 39)), 3)
    if number not in SWG_MM:
        raise DomainError(f"{number} SWG is not in the table: write its diameter in mm")
    return SWG_MM[number]


class Unsaid(DomainError):
    """A ring whose size may be inside or outside."""


def read_part(text: str, measured: str | None = None) -> Part:
    """The part that a phrase describes; `measured`, inner or outer, is taken where a ring does not
    say it. Raises Unsaid for such a ring without it, DomainError naming what is missing or was not
    understood."""
    begun, found = SPRING.match(text), _found_kind(text)
    if begun is None or found is None:
        raise DomainError(f"say what kind of part it is, such as: {HINT}")
    kind, at = found
    words = text[begun.end() : at.start()].split()
    reading = _Reading(text[at.end() :])
    try:
        return _read(kind, words, reading, measured)
    except MeasureError as fault:
        raise DomainError(str(fault)) from None


def _read(kind: Kind, words: list[str], reading: _Reading, measured: str | None) -> Part:
    fields: dict[str, Any] = dict(kind.fixed)
    names = words[:]
    while not (sizes := reading.joined()):
        word = reading.word()
        if word is None:
            raise DomainError(f"say its size after “{kind.words}”, mm: {_asked(kind)}")
        names.append(word)
    if len(sizes) > len(kind.sizes):
        raise DomainError(f"{len(sizes)} sizes are too many: {_asked(kind)}")
    first = sizes[0]
    fields |= dict(zip(kind.sizes, sizes, strict=False))
    said = _rest(kind, fields, reading)
    for word in names:
        if word.lower() in DENSITY_G_CM3 and "material" not in said:
            fields["material"] = word.lower()
    if kind.part is Ring:
        if measured and not said & {"inner", "outer"}:
            said.add(measured)
        _inner_or_outer(fields, said, first)
    if kind.part is Chain:
        fields["pitches_mm"] = (fields["pitches_mm"],)
    if kind.part is Bead and len(sizes) == 1 and fields.get("shape", "round") == "round":
        fields["width_mm"] = first
    name = str(fields.pop("called", "") or _called(names, fields, kind, first, said))[:120]
    try:
        return msgspec.convert({"kind": kind.part.__struct_config__.tag, "id": _id(name),
                                "name": name, **fields}, kind.part)  # fmt: skip
    except msgspec.ValidationError as fault:
        raise DomainError(f"“{name}”: {str(fault).partition(' - at')[0].lower()}") from None


def _asked(kind: Kind) -> str:
    named = {"inner_mm": "inside", "pitches_mm": "pitch", "adds_mm": "what it adds"}
    return " x ".join(
        named.get(size, size.removesuffix("_mm").replace("_", " ")) for size in kind.sizes
    )


def _inner_or_outer(fields: dict[str, Any], said: set[str], first: float) -> None:
    """A ring is measured inside or outside; unsaid, it is asked for."""
    if "outer" in said:
        wire = fields.get("wire_mm")
        if wire is None:
            raise DomainError(
                "an outer size needs the wire: write it after x, such as 5.8 x 0.8 outer"
            )
        fields["inner_mm"] = round(first - 2 * wire, 6)
        if fields["inner_mm"] <= 0:
            raise DomainError(f"{first:g} mm outside leave nothing inside of {wire:g} mm wire")
    elif "inner" not in said and fields.get("closure") != "closed":
        wire = fields.get("wire_mm") or 0.0
        raise Unsaid(
            f"is {first:g} mm inside or outside? Add “inner”, or “outer”"
            + (f" for {first - 2 * wire:g} inside" if 0 < 2 * wire < first else "")
        )


def _rest(kind: Kind, fields: dict[str, Any], reading: _Reading) -> set[str]:
    """Further sizes, marks, material, price and mass. Returns the bare words that were said."""
    said: set[str] = set()
    while (word := reading.word()) is not None:
        low = word.lower()
        if low in kind.further:
            fields[kind.further[low]] = _needed(reading, low)
        elif low == "loop" and kind.part is Charm:
            sizes = reading.joined()
            fields |= dict(zip(("loop_mm", "loop_wire_mm"), sizes, strict=False))
        elif low == "price":
            fields["price_per_m" if kind.part in (Chain, Wire) else "price"] = _needed(reading, low)
        elif low == "stretch" and kind.part in (Ring, Wire):
            fields["stretch_limit"] = _needed(reading, low)
        elif low in ("inner", "outer") and kind.part is Ring:
            said.add(low)
        elif low in MARKS and kind.part is Ring:
            fields["closure"] = MARKS[low]
        elif low in TEMPERS and kind.part in (Ring, Wire):
            fields["temper"] = low
        elif low in ("soldered", "openable") and kind.part is Chain:
            fields["openable"] = low == "openable"
        elif low in LOOKS and kind.part is Chain:
            fields["look"] = low
        elif low in SHAPES and kind.part is Bead:
            fields["shape"] = low
        elif low in DENSITY_G_CM3:
            fields["material"] = low
            said.add("material")
        elif mass := re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*(g|g/m)", low):
            _weigh(kind, fields, float(mass[1].replace(",", ".")), mass[2])
        elif re.fullmatch(r"\d+(?:[.,]\d+)?", low):
            unit = (reading.word() or "").lower()
            if unit not in ("g", "g/m"):
                raise DomainError(f"“{word} {unit}” was not understood: say what the figure is")
            _weigh(kind, fields, float(low.replace(",", ".")), unit)
        elif low == "called":
            fields["called"] = reading.text[reading.at :].strip()
            reading.at = len(reading.text)
        else:
            raise DomainError(f"“{word}” was not understood; known here are {_known(kind)}")
    return said


def _weigh(kind: Kind, fields: dict[str, Any], grams: float, unit: str) -> None:
    if kind.part is Chain and unit != "g/m":
        raise DomainError("chain is weighed by the metre: write g/m")
    fields["mass_g_per_m" if kind.part is Chain else "mass_g"] = grams


def _needed(reading: _Reading, word: str) -> float:
    size = reading.size()
    if size is None:
        raise DomainError(f"say a figure after “{word}”")
    return size


def _known(kind: Kind) -> str:
    more = {Ring: ("inner", "outer", *MARKS), Chain: ("soldered", "openable", *LOOKS), Bead: SHAPES}
    return ", ".join([*kind.further, *more.get(kind.part, ()), "a material", "price", "g"])


def _called(
    names: list[str], fields: dict[str, Any], kind: Kind, first: float, said: set[str]
) -> str:
    """The words before its first size, else its material; its kind, and that size."""
    own = " ".join(names) or (str(fields["material"]) if "material" in said else "")
    own = own or ("" if kind.named else kind.words)
    return " ".join(filter(None, (own, kind.named, f"{first:g}")))


def _id(name: str) -> str:
    return re.sub(r"[^\w.]+", "-", name.lower()).strip("-")[:100] or "part"


GIRTHS = ("neck", "wrist", "ankle", "hand", "head", "ease")
WEARER = re.compile(
    rf"\s*new\s+wearer\s+(?P<role>.*?)(?=\s+(?:{'|'.join(GIRTHS)})\b|$)", re.IGNORECASE
)


def read_wearer(text: str) -> Wearer | None:
    """The wearer that a phrase describes; None if it begins none. Raises DomainError."""
    begun = WEARER.match(text)
    if begun is None:
        return None
    role = begun["role"].strip(" ,")
    if not role:
        raise DomainError("say who it is: a role, such as “new wearer prompter neck 372 wrist 160”")
    reading, fields = _Reading(text[begun.end() :]), dict[str, float]()
    while (word := reading.word()) is not None:
        if word.lower() not in GIRTHS:
            raise DomainError(f"“{word}” was not understood; a wearer has {', '.join(GIRTHS)}")
        fields[f"{word.lower()}_mm"] = _needed(reading, word)
    return replace(Wearer(role=role[0].upper() + role[1:]), **fields)
