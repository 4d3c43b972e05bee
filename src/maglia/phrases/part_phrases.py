"""New parts in one phrase: “new ring 4.2 x 0.8 inner gunmetal”, “new beads amber 6, rose 4 hole 1”.

After `new` stand words, the kind, the sizes of that kind joined by x, then further sizes each after
its word, and material, colour, price, mass and stock. What is not said stays unknown; what is not
understood is named. A part is called by the words before its first size, its kind and that size.
"""

import re
from typing import Any, NamedTuple

import msgspec
from msgspec.structs import replace

from maglia.core.parts.kinds import COLOURS, KINDS, MATERIALS, Kind
from maglia.core.parts.parts import Bead, Chain, Charm, Connector, Part, Ring, Wire
from maglia.core.values.measures import MeasureError
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import MOST, Deed, amount_of_mm, by_length, length_mm, measured_um
from maglia.phrases.hole_phrases import Rim, read_holes
from maglia.phrases.reading import Reading

HINT = "new ring 4.2 x 0.8 inner · new bead amber 6 hole 1 · new chain rolo 3.1 inside 2.3 wire 0.8"
FORMS: tuple[str, ...] = (
    "new ring 4.2 x 0.8 inner gunmetal stock 200",
    "new chain 32 links 104 mm inside 1.9 wire 0.6 lots 1000 430",
    "new beads amber 6, rose 4, all hole 1 glass",
    "new cap daisy 3 x 8 hole 1 covers 1.2 · new head pin 40 x 0.6 head 2 · new wire 20 AWG",
    "new oval 24 x 16 x 1 holes left right of 1.6, foot 0:-6 of 2",
    "new lobster 12 span 10.5 eye 2 gape 1.8 jaw 1.2 · new toggle 18 span 3",
    "new charm key 24 x 10 loop 3 x 1 · new ear hook 15 loop 2",
    "new link amber + cap on wire 0.6 wrapped 2 · new dangle rose on wire 0.6, spiral foot 6",
    "new wearer prompter neck 372 wrist 160",
)
"""One form of every kind of phrase, to be shown where nothing is written yet."""
SPRING = re.compile(r"\s*new\s+", re.IGNORECASE)
SOLID_MATERIAL = re.compile(r"\b(gold|silver)[- ]plated(?:[- ]brass)?\b", re.IGNORECASE)
KNOWN = (
    "holes",
    "price",
    "sold",
    "pack",
    "stock",
    "lots",
    "lot",
    "called",
    "pitches",
    "colour",
    "points",
    "stretch",
)


class Said(NamedTuple):
    """A part as it was said, and what lies there of it."""

    part: Part
    deeds: tuple[Deed, ...] = ()


class Unsaid(DomainError):
    """A ring whose size may be inside or outside."""


def is_part_phrase(text: str) -> bool:
    """Whether a text begins a part: `new` and the words of a kind."""
    return SPRING.match(text) is not None and _found_kind(text) is not None


def _found_kind(text: str) -> tuple[Kind, re.Match[str]] | None:
    """The kind that stands first before any size; a connector or found piece wherever it is said,
    since its outline may be called like another kind; of kinds that begin alike the longer one."""
    head = re.split(r"\d|\?", text, maxsplit=1)[0]
    places = [
        (kind.part.__struct_config__.tag not in ("connector", "found"), found.start(),
         -len(kind.words), k, found)
        for k, kind in enumerate(KINDS)
        if (found := re.search(rf"\b{kind.words}s?\b", head, re.IGNORECASE))
    ]  # fmt: skip
    if not places:
        return _bare_outline(head)
    *_, k, found = min(places, key=lambda place: place[:4])
    return KINDS[k], found


def _bare_outline(head: str) -> tuple[Kind, re.Match[str]] | None:
    """“new oval 24 x 16 holes …” is a connector, if nothing else is said."""
    kind = next(kind for kind in KINDS if kind.words == "connector")
    found = re.match(r"\s*new\s+()(?:oval|round|vee|v|frame|fan)\b", head, re.IGNORECASE)
    return None if found is None else (kind, re.match(r"\s*new\s+()", head, re.IGNORECASE))  # type: ignore[return-value]


def read_part(text: str, measured: str | None = None) -> Part:
    """The one part that a phrase describes; see `read_parts`."""
    return read_parts(text, measured)[0].part


def read_parts(text: str, measured: str | None = None) -> tuple[Said, ...]:
    """The parts that a phrase describes; `measured`, inner or outer, is taken where a ring does not
    say it. Raises Unsaid for such a ring without it, DomainError naming what is missing or was not
    understood."""
    text = SOLID_MATERIAL.sub(lambda found: f"{found[1].lower()}-plated", text)
    begun, found = SPRING.match(text), _found_kind(text)
    if begun is None or found is None:
        raise DomainError(f"say what kind of part it is, such as: {HINT}")
    kind, at = found
    words = text[begun.end() : at.start()].split()
    rest = text[at.end() :]
    try:
        if at[0].lower() != f"{kind.words}s":
            return (_Phrase(kind, words, rest, measured).read(),)
        several, shared = _several(kind, rest)
        return tuple(_Phrase(kind, words, one, measured, shared).read() for one in several)
    except MeasureError as fault:
        raise DomainError(str(fault)) from None


def _several(kind: Kind, rest: str) -> tuple[list[str], str]:
    """The parts of a plural, a comma between them, and what is said of all."""
    several: list[str] = []
    shared: list[str] = []
    sized = {*kind.further, *KNOWN, "loop"}
    for piece in re.split(r",(?!\d)", rest):
        first = (piece.split() or [""])[0].lower()  # “closed 6” is a ring of its own, “hole 6” not
        if first == "all":
            shared.append(piece.split(None, 1)[1] if len(piece.split()) > 1 else "")
        elif several and (first in sized or not re.search(r"\d|\?", piece)):
            target = shared if shared else several
            target[-1] += f", {piece}"
        elif piece.strip():
            several.append(piece)
    if not several:
        raise DomainError(f"name each with its size, such as: new {kind.words}s amber 6, rose 4")
    return several, " ".join(shared)


class _Phrase:
    """One part, read word by word."""

    def __init__(
        self, kind: Kind, words: list[str], text: str, measured: str | None, shared: str = ""
    ) -> None:
        self.kind, self.names, self.measured, self.shared = kind, words[:], measured, shared
        self.reading = Reading(text)
        self.fields: dict[str, Any] = {}
        self.said: set[str] = set()
        self.stock: list[tuple[str, float]] = []

    def read(self) -> Said:
        first = self._sizes()
        own = self.fields
        self._rest()
        if self.shared:  # what is said of all holds for what has not its own
            self.fields, self.reading = {}, Reading(self.shared)
            self._rest()
            own = {**self.fields, **own}
        self.fields = {**self.kind.fixed, **own}
        self._from_its_words()
        if self.kind.part is Ring and first is not None:
            self._inner_or_outer(first)
        if self.kind.part is Bead and self._is_round(first):
            self.fields["width_mm"] = first
        if isinstance(self.fields.get("pitches_mm"), float):
            self.fields["pitches_mm"] = (self.fields["pitches_mm"],)
        part = self._made(str(self.fields.pop("called", "") or self._called(first))[:120])
        deeds = self._deeds(part)
        if isinstance(part, Chain | Wire) and deeds:
            lots = ((length_mm(part, int(n)) if unit == "links" else n) for unit, n in self.stock)
            part = replace(part, lots_mm=tuple(mm for mm in lots if mm))
        return Said(part, deeds)

    def _is_round(self, first: float | None) -> bool:
        fields = self.fields
        return (
            first is not None
            and "width_mm" not in fields
            and fields.get("shape", "round") in ("round", "bicone")
        )

    def _sizes(self) -> float | None:
        """The words before its first size, and its sizes; the first one, mm."""
        kind, reading = self.kind, self.reading
        known = {*kind.further, *KNOWN}
        while True:
            mark = reading.at
            if kind.part is Chain and (swatch := reading.takes(r"(\d+)\s+links?\b")):
                return self._swatch(int(swatch[1]))
            if sizes := reading.joined():
                break
            word = reading.word()
            if word is None or word.lower() in known:
                reading.at = mark
                if not self.names:
                    raise DomainError(f"say its size after “{kind.words}”, mm: {self._asked()}")
                return None
            self.names.append(word)
        if len(sizes) > len(kind.sizes):
            raise DomainError(f"{len(sizes)} sizes are too many: {self._asked()}")
        given = zip(kind.sizes, sizes, strict=False)
        self.fields |= {field: mm for field, mm in given if mm is not None}
        return sizes[0]

    def _swatch(self, links: int) -> float:
        """So many links, so long: the pitch."""
        length = self.reading.needed("links")
        pitch = round(length / max(links, 1), 3)
        self.fields["pitches_mm"] = pitch
        self.fields["note"] = f"swatch: {links} links are {length:g} mm"
        return pitch

    def _rest(self) -> None:
        """Further sizes, marks, material, colour, price, mass, stock."""
        while (word := self.reading.word()) is not None:
            if not self._understood(word, word.lower()):
                raise DomainError(f"“{word}” was not understood; known here are {self._known()}")

    def _understood(self, word: str, low: str) -> bool:
        kind, fields, reading = self.kind, self.fields, self.reading
        if low in kind.further:
            fields[kind.further[low]] = reading.needed(low)
        elif low == "loop" and kind.part is Charm:
            fields.update(zip(("loop_mm", "loop_wire_mm"), reading.joined(), strict=False))
        elif low == "price":
            fields["price_per_m" if kind.part in (Chain, Wire) else "price"] = reading.needed(low)
        elif low == "sold" and kind.part in (Chain, Wire):
            fields["sold_mm"] = reading.needed(low)
        elif low == "pack" and kind.part not in (Chain, Wire):
            fields["pack"] = _bounded(reading.needed(low))
        elif low == "stretch" and kind.part in (Ring, Wire):
            fields["stretch_limit"] = reading.needed(low)
        elif low == "breaks" and kind.part is Wire:
            fields["breaking_load_g"] = self._grams(low)
        elif low == "holds":
            fields["holds_g"] = self._grams(low)
        elif low in ("inner", "outer") and kind.part is Ring:
            self.said.add(low)
        elif low in kind.marks:
            field, value = kind.marks[low]
            fields[field] = value
        elif low in MATERIALS:
            fields["material"] = MATERIALS[low]
            self.said.add("material")
        elif low == "strand" and kind.part is Bead:
            fields["on_strand"] = _bounded(reading.needed(low))
        elif low in ("stock", "lot", "lots"):
            self._stock(low)
        elif low == "pitches" and kind.part is Chain:
            fields["pitches_mm"] = self._series()
        elif low in ("holes", "hole") and issubclass(kind.part, Connector):
            rim = Rim(fields.get("width_mm"), fields.get("height_mm"), self._outline() == "vee")
            fields["holes"] = read_holes(reading, rim)
        elif low == "points" and issubclass(kind.part, Connector):
            fields["points_mm"] = self._points()
        elif low in ("colour", "color") or (low in COLOURS and "colour" in _fields(kind)):
            self._colour(low)
        elif low == "called":
            fields["called"] = reading.text[reading.at :].strip().strip('“”"')
            reading.at = len(reading.text)
        else:
            return self._weighed(word, low)
        return True

    def _outline(self) -> str:
        words = [word.lower() for word in self.names]
        known = [self.kind.marks[w][1] for w in words if w in self.kind.marks]
        return str(self.fields.get("outline") or (known[0] if known else "oval"))

    def _series(self) -> tuple[float, ...]:
        found: list[float] = []
        while (size := self.reading.size()) is not None:
            found.append(size)
        if not found:
            raise DomainError("say the pitches of one pattern, such as: pitches 6 3 3")
        return tuple(found)

    def _points(self) -> tuple[tuple[float, float], ...]:
        found: list[tuple[float, float]] = []
        number = r"-?\d+(?:[.,]\d+)?"
        while at := self.reading.takes(rf"({number})\s*:\s*({number})"):
            found.append((float(at[1].replace(",", ".")), float(at[2].replace(",", "."))))
        if len(found) < 3:
            raise DomainError("an outline has three points or more: points -10:5 10:5 0:-12")
        return tuple(found)

    def _colour(self, low: str) -> None:
        if low in COLOURS:
            self.fields["colour"] = COLOURS[low]
            return
        word = (self.reading.word() or "").lower()
        if re.fullmatch(r"#[0-9a-f]{6}", word):
            self.fields["colour"] = word
        elif word in COLOURS:
            self.fields["colour"] = COLOURS[word]
        else:
            raise DomainError(f"“{word}” is no colour: say one of {', '.join(COLOURS)} or #a1b2c3")

    def _stock(self, word: str) -> None:
        """Pieces, or lengths each of its own."""
        before = len(self.stock)
        while (amount := self.reading.amount()) is not None:
            kind = "links" if amount.kind == "links" else "mm"
            value = amount.value if amount.kind == "links" else amount.mm("mm")
            self.stock.append((kind, value))
            if word == "stock":
                break
        if len(self.stock) == before:
            raise DomainError(f"say how much after “{word}”: stock 200, lots 1000 430")

    def _weighed(self, word: str, low: str) -> bool:
        """A figure with g, kg or g/m."""
        mass = re.fullmatch(r"(\d+(?:[.,]\d+)?|[.,]\d+)(g|kg|g/m)?", low)
        if mass is None:
            return False
        unit = mass[2] or (self.reading.word() or "").lower()
        if unit not in ("g", "kg", "g/m"):
            said = f"{word} {unit}".strip()
            raise DomainError(f"“{said}” was not understood: say what the figure is")
        if (self.kind.part in (Chain, Wire)) != (unit == "g/m"):
            if self.kind.part is Wire:
                raise DomainError("wire is weighed by its size: leave the mass out")
            by = "chain is weighed by the metre: write g/m"
            raise DomainError(by if self.kind.part is Chain else "only chain is weighed in g/m")
        grams = float(mass[1].replace(",", ".")) * (1000 if unit == "kg" else 1)
        self.fields["mass_g_per_m" if self.kind.part is Chain else "mass_g"] = grams
        return True

    def _grams(self, word: str) -> float:
        amount = self.reading.amount()
        unit = self.reading.takes(r"(kg|g)\b")
        if amount is None or amount.kind != "plain" or unit is None:
            raise DomainError(f"say how much after “{word}”, in g or kg")
        return amount.value * (1000 if unit[1].lower() == "kg" else 1)

    def _from_its_words(self) -> None:
        """Material, colour, shape and outline that its name says, unless they are said apart."""
        for word in (word.lower() for word in self.names):
            if word in MATERIALS and "material" not in self.said:
                self.fields["material"] = MATERIALS[word]
            if word in COLOURS and "colour" in _fields(self.kind):
                self.fields.setdefault("colour", COLOURS[word])
            if issubclass(self.kind.part, Connector | Charm | Bead) and word in self.kind.marks:
                field, value = self.kind.marks[word]
                self.fields.setdefault(field, value)

    def _inner_or_outer(self, first: float) -> None:
        """A ring is measured inside or outside; unsaid, it is asked for."""
        fields, said = self.fields, self.said
        if self.measured and not said & {"inner", "outer"}:
            said.add(self.measured)
        wire = fields.get("wire_mm")
        if "outer" in said:
            if wire is None:
                raise DomainError(
                    "an outer size needs the wire: write it after x, such as 5.8 x 0.8 outer"
                )
            fields["inner_mm"] = round(first - 2 * wire, 6)
            if fields["inner_mm"] <= 0:
                raise DomainError(f"{first:g} mm outside leave nothing inside of {wire:g} mm wire")
        elif "inner" not in said and fields.get("closure") != "closed":
            inside = first - 2 * (wire or 0.0)
            raise Unsaid(
                f"is {first:g} mm inside or outside? Add “inner”, or “outer”"
                + (f" for {inside:g} inside" if 0 < inside < first else "")
            )

    def _made(self, name: str) -> Part:
        kind = self.kind
        if issubclass(kind.part, Connector) and "holes" not in self.fields:
            raise DomainError("say its holes: holes left right of 1.6, foot 0:-8 of 2")
        raw = {"kind": kind.part.__struct_config__.tag, "id": id_of_name(name), "name": name}
        try:
            return msgspec.convert(raw | msgspec.to_builtins(self.fields), kind.part)
        except msgspec.ValidationError as fault:
            raise DomainError(f"“{name}”: {str(fault).partition(' - at')[0].lower()}") from None

    def _deeds(self, part: Part) -> tuple[Deed, ...]:
        found = []
        for k, (unit, value) in enumerate(self.stock, 1):
            if not by_length(part):
                if value != int(value) or unit == "links":
                    raise DomainError(f"{part.name} is counted in pieces: stock {value:g} is none")
                found.append(Deed("counted", _bounded(value)))
                continue
            amount = int(value) if unit == "links" else amount_of_mm(part, value)
            if amount is None:
                raise DomainError("its pitch is not known: say the lots in links, 320 links")
            measure = 0 if unit == "links" else measured_um(part, value)
            found.append(Deed("counted", _bounded(amount), f"lot {k}", measured_um=measure))
        return tuple(found)

    def _called(self, first: float | None) -> str:
        """The words before its first size, else its material; its kind, and that size."""
        own = " ".join(self.names)
        own = own or (str(self.fields["material"]) if "material" in self.said else "")
        own = own or ("" if self.kind.named else self.kind.words)
        return " ".join(filter(None, (own, self.kind.named, f"{first:g}" if first else "")))

    def _asked(self) -> str:
        named = {"inner_mm": "inside", "pitches_mm": "pitch", "adds_mm": "what it adds"}
        return " x ".join(
            named.get(size, size.removesuffix("_mm").replace("_", " ")) for size in self.kind.sizes
        )

    def _known(self) -> str:
        more = {Ring: ("inner", "outer"), Charm: ("loop",), Wire: ("breaks",)}
        holes = ("holes", "points") if issubclass(self.kind.part, Connector) else ()
        words = (*self.kind.further, *more.get(self.kind.part, ()), *holes, *self.kind.marks)
        return ", ".join([*words, "a material", "price", "stock", "g", "called"])


def _bounded(amount: float) -> int:
    if amount > MOST:
        raise DomainError(f"{amount:.3g} are more than any bench holds")
    return int(amount)


def _fields(kind: Kind) -> tuple[str, ...]:
    return kind.part.__struct_fields__


def id_of_name(name: str) -> str:
    return re.sub(r"[^\w.]+", "-", name.lower()).strip("-")[:100] or "part"
