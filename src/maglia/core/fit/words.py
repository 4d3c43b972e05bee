"""Wishes as people write them: “tiers first 40 gaps 25 30”, “hem of Fringe V 12”.

Names of runs and rows are found wherever they stand; a number without a unit is in the display
unit. `EXAMPLES` lists every form. Raises DomainError naming what was not understood.
"""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

from msgspec.structs import replace

from maglia.core.edit import CENTRE, Spot, owner_of, quantity_at
from maglia.core.measures import Length, LengthUnit, parse_length
from maglia.core.piece import DropRow, Piece, RepeatItem, Run, SwagRow, TiedRows
from maglia.core.record import DomainError
from maglia.core.renumber import items_of
from maglia.core.wishes import (
    ClearFit,
    Fit,
    FlatFit,
    HemFit,
    HemPoint,
    LengthFit,
    MatchFit,
    NestedFit,
    PatternFit,
    PlacesFit,
    Quantity,
    RingsFit,
    SagFit,
    TiersFit,
)

EXAMPLES = (
    ("length", "closed length from the wearer's girth and ease"),
    ("length 450", "closed length, or “length of NAME 300”"),
    ("fall of NAME 60", "lowest point so far below the pit of the neck"),
    ("tiers first 40 gaps 25 30", "falls of all strands; “growing 5” makes gaps larger"),
    ("nested clear 3", "air between nested strands at the centre front"),
    ("even 9 of NAME", "drops spread evenly; “every 4, 9 of NAME”; “worn 9 of NAME”"),
    ("hem of NAME V 12", "feet level, V, arc, strand or drawn 0:0 20:5; “at 90” sets its depth"),
    ("sag of NAME 18", "depth of swags; “step 4” for nested ones; “slack of NAME 10 %”"),
    ("clear 3 around NAME", "air on all sides of a drop in a frame"),
    ("flat NAME", "rings between bead links and rows, so that they lie flat"),
    ("beads of NAME 180", "beads with their pattern whole, nearest a length"),
    ("rings of NAME 200", "a chain of rings alone, nearest a length"),
    ("match NAME to NAME", "feet level; “match length …”, “match mirror …”"),
)
_NUMBER = re.compile(
    r"""(?P<value>-?(?:\d+\ \d+/\d+|\d+/\d+|\d+(?:\.\d+)?|\.\d+))\s*"""
    r"""(?P<unit>mm\b|cm\b|in\b|inch(?:es)?\b|links?\b|["″%])?""",
    re.VERBOSE,
)
_LINES = {
    "level": "level", "v": "vee", "vee": "vee", "arc": "arc", "strand": "strand",
    "parallel": "strand", "drawn": "drawn",
}  # fmt: skip
_SILENT = {
    "of", "to", "the", "at", "and", "with", "a", "in", "is", "be", "wearer", "between", "around",
    "every", "equal", "equally", "drops", "mm", "links", "hangs", "lies", "strands", "as",
}  # fmt: skip


@dataclass
class _Said:
    """A wish taken apart: its words, the names in it, and the number after each word."""

    text: str
    piece: Piece
    unit: LengthUnit
    names: list[str] = field(default_factory=list)
    words: list[str] = field(default_factory=list)
    numbers: list[tuple[str, str]] = field(default_factory=list)
    """(word before it, number as written)"""

    def mm(self, text: str) -> float:
        sign = -1.0 if text.startswith("-") else 1.0
        if re.fullmatch(r"-?0(\.0*)?\s*(mm|cm|in)?", text):
            return 0.0
        found = parse_length(text.lstrip("-"), self.unit)
        if not isinstance(found, Length):
            raise DomainError(f"“{self.text}”: {text} is counted in links; write a length")
        return sign * found.mm

    def after(self, *words: str) -> list[float]:
        """Lengths that follow one of some words, mm."""
        return [self.mm(text) for word, text in self.numbers if word in words]

    def plain(self) -> list[str]:
        """Numbers that no word of their own precedes."""
        own = ("first", "gaps", "gap", "growing", "step", "within", "at", "every", "rise")
        return [text for word, text in self.numbers if word not in own]

    def length(self) -> float:
        lengths = self.plain()
        if not lengths:
            raise DomainError(f"“{self.text}” does not say how much: add a length, such as 40 mm")
        return self.mm(lengths[0])

    def count(self) -> int:
        numbers = self.plain()
        if not numbers:
            raise DomainError(f"“{self.text}” does not say how many: add a number, such as 7")
        return self.whole(numbers[0])

    def whole(self, text: str) -> int:
        found = re.fullmatch(r"(\d+)(\s*links?)?", text)
        if found is None or int(found[1]) < 1:
            raise DomainError(f"“{text}” in “{self.text}” is no whole number: write one, such as 7")
        return int(found[1])

    def one(self, kind: type | tuple[type, ...], what: str) -> str:
        """The name in it, or the only one of its kind in the piece."""
        if self.names:
            return self.names[0]
        owners = (*self.piece.runs, *self.piece.rows)
        fitting = [o.name for o in owners if isinstance(o, kind)]
        if len(fitting) == 1:
            return fitting[0]
        known = ", ".join(f"“{name}”" for name in fitting) or "none in this piece"
        raise DomainError(f"“{self.text}” does not name {what}; there is {known}")


def read_fit(text: str, piece: Piece, unit: LengthUnit = "mm") -> Fit:
    """The fit that a wish in words asks for. Raises DomainError naming what is missing."""
    words = set(re.findall(r"[^\W\d]+", text.lower()))
    if not words & set(_MAKERS):
        forms = "; ".join(form for form, _ in EXAMPLES)
        raise DomainError(f"“{text.strip()}” is no wish known here. Write one of: {forms}")
    said = _taken_apart(text, piece, unit)
    for word, make in _MAKERS.items():
        if word in said.words:
            made = make(said)
            within = said.after("within")
            return replace(made, tolerance_mm=within[0]) if within else made
    raise DomainError(f"“{text.strip()}” was not understood: begin with what you want")


def written(fit: Fit) -> str:
    """A fit as `read_fit` reads it, mm: what is put into the line to be changed."""
    within = f" within {fit.tolerance_mm:g} mm" if fit.tolerance_mm is not None else ""
    return _WRITTEN[fit.kind](fit) + within


def _written_tiers(fit: TiersFit) -> str:
    first = "" if fit.first_fall_mm is None else f"first {fit.first_fall_mm:g} mm "
    gaps = " ".join(f"{gap:g} mm" for gap in fit.gaps_mm)
    grow = f" growing {fit.growth_mm:g} mm" if fit.growth_mm else ""
    return f"tiers of {', '.join(fit.strands)}: {first}gaps {gaps}{grow}"


def _written_length(fit: LengthFit) -> str:
    of = f" of {fit.run}" if fit.run else ""
    amount = "" if fit.mm is None else f" {fit.mm:g} mm"
    return f"{'fall' if fit.to == 'fall' else 'length'}{of}{amount}"


def _written_places(fit: PlacesFit) -> str:
    if fit.rule == "every":
        return f"every {fit.every}, {fit.count} of {fit.row}"
    return f"{fit.rule} {fit.count} of {fit.row}"


def _written_hem(fit: HemFit) -> str:
    line = {"vee": "V", "strand": "strand"}.get(fit.line, fit.line)
    rise = f" {fit.rise_mm:g} mm" if fit.rise_mm else ""
    points = "".join(f" {p.out_mm:g} mm:{p.below_mm:g} mm" for p in fit.drawn)
    depth = "" if fit.foot_mm is None else f" at {fit.foot_mm:g} mm"
    return f"hem of {fit.row} {line}{rise}{points}{depth}"


def _written_sag(fit: SagFit) -> str:
    names = ", ".join(fit.swags)
    if fit.slack is not None:
        return f"slack of {names} {fit.slack * 100:g} %"
    step = f" step {fit.step_mm:g} mm" if fit.step_mm else ""
    return f"sag of {names} {fit.sag_mm or 0:g} mm{step}"


_WRITTEN: dict[str, Callable[[Any], str]] = {
    "length": _written_length,
    "tiers": _written_tiers,
    "nested": lambda f: f"nested {', '.join(f.strands)} clear {f.clear_mm:g} mm",
    "places": _written_places,
    "hem": _written_hem,
    "sag": _written_sag,
    "clearance": lambda f: f"clear {f.clear_mm:g} mm around {f.drop}",
    "flat": lambda f: f"flat {f.row}",
    "pattern": lambda f: f"beads of {f.section.run} {f.mm:g} mm",
    "rings": lambda f: f"rings of {f.stretch.run} {f.mm:g} mm",
    "match": lambda f: f"match {'' if f.how == 'level' else f.how + ' '}{f.run} to {f.to}",
}


def is_wish(text: str) -> bool:
    """Whether a text begins like a wish."""
    first = text.strip().lower().split(maxsplit=1)
    return bool(first) and first[0] in _MAKERS


def _taken_apart(text: str, piece: Piece, unit: LengthUnit) -> _Said:
    said = _Said(text.strip(), piece, unit)
    first = text.lower().split(maxsplit=1)[:1]
    own = len(first[0]) if first and first[0] in _MAKERS else 0  # “rings 200” names no run Rings
    rest = " " * own + text.strip()[own:]
    found: list[tuple[int, str]] = []
    for name in sorted(_names(piece), key=len, reverse=True):
        pattern = re.compile(rf"[“\"']?(?<!\w){re.escape(name)}(?!\w)[”\"']?", re.IGNORECASE)
        while (at := pattern.search(rest)) is not None:
            found.append((at.start(), name))
            rest = rest[: at.start()] + " " * (at.end() - at.start()) + rest[at.end() :]
    said.names = [name for _, name in sorted(found)]
    rest = text.strip()[:own] + rest[own:]
    _read_tokens(said, rest)
    return said


def _names(piece: Piece) -> Iterator[str]:
    yield from (owner.name for owner in (*piece.runs, *piece.rows))


def _read_tokens(said: _Said, rest: str) -> None:
    at, word = 0, ""
    while at < len(rest):
        number = _NUMBER.match(rest, at)
        letters = re.compile(r"[^\W\d]+").match(rest, at)
        if number:
            said.numbers.append((word, number[0].strip()))
            at = number.end()
        elif letters and not (letters[0].lower() in "x" and said.numbers):
            word = letters[0].lower()
            said.words.append(word)
            at = letters.end()
        elif rest[at] in ",;":
            word = word if word in _LISTS else ""
            at += 1
        elif rest[at] in " :.+×xX“”\"'":
            at += 1
        else:
            raise DomainError(f"“{rest[at:].strip()}” in “{said.text}” was not understood")
    known = set(_MAKERS) | set(_LINES) | _SILENT | set(_OWN)
    strange = next((w for w in said.words if w not in known), None)
    if strange is not None:
        names = ", ".join(f"“{name}”" for name in _names(said.piece))
        raise DomainError(f"“{strange}” in “{said.text}” was not understood; runs are {names}")


_LISTS = ("gaps", "gap")
"""Words whose numbers run on over commas."""
_OWN = (
    "first", "gaps", "gap", "growing", "step", "within", "rise", "mirror", "given", "clear",
)  # fmt: skip


def _length(said: _Said) -> Fit:
    run = said.names[0] if said.names else None
    name = f"length of {run}" if run else "closed length"
    if not said.plain():
        return LengthFit(name=name, run=run, to="wearer")
    return LengthFit(name=name, run=run, to="given", mm=said.length())


def _fall(said: _Said) -> Fit:
    run = said.names[0] if said.names else None
    return LengthFit(name=f"fall of {run or 'the strand'}", run=run, to="fall", mm=said.length())


def _tiers(said: _Said) -> Fit:
    strands = said.names or [r.name for r in said.piece.runs if r.kind == "strand"]
    if len(strands) < 2:
        raise DomainError(f"“{said.text}”: tiers need two strands or more; this piece has one")
    plain = [said.mm(text) for text in said.plain()]
    first = said.after("first") or plain[:1]
    gaps = said.after("gaps", "gap") or (plain[1:] if not said.after("first") else plain)
    if not gaps:
        raise DomainError(f"“{said.text}” gives no gap: write “tiers first 40 gaps 25”")
    growth = said.after("growing")
    return TiersFit(
        name="tiers", strands=tuple(strands), first_fall_mm=first[0] if first else None,
        gaps_mm=tuple(gaps), growth_mm=growth[0] if growth else 0.0,
    )  # fmt: skip


def _nested(said: _Said) -> Fit:
    strands = said.names or [r.name for r in said.piece.runs if r.kind == "strand"]
    if len(strands) < 2:
        raise DomainError(f"“{said.text}”: nested strands are two or more; this piece has one")
    return NestedFit(name="nested", strands=tuple(strands), clear_mm=said.length())


def _places(said: _Said) -> Fit:
    row = said.one(DropRow, "a row of drops")
    name = f"places of {row}"
    every = [text for word, text in said.numbers if word == "every"]
    counts = said.plain()
    if every:
        own = next(r for r in said.piece.rows if r.name == row)
        count = said.whole(counts[0]) if counts else getattr(own, "count", 1) or 1
        step = said.whole(every[0])
        return PlacesFit(name=name, row=row, rule="every", every=step, count=count)
    rule = "worn" if "worn" in said.words else "even"
    return PlacesFit(name=name, row=row, rule=rule, count=said.count())  # type: ignore[arg-type]


def _hem(said: _Said) -> Fit:
    row = said.one(DropRow, "a row of drops")
    line = next((_LINES[w] for w in said.words if w in _LINES), "level")
    depth = said.after("at")
    made = HemFit(
        name=f"hem of {row}", row=row, line=line,  # type: ignore[arg-type]
        foot_mm=depth[0] if depth else None,
    )  # fmt: skip
    plain = [said.mm(text) for text in said.plain()]
    if line == "drawn":
        if len(plain) < 4 or len(plain) % 2:
            raise DomainError(f"“{said.text}”: draw it as out:below, such as drawn 0:0 20:5 40:12")
        pairs = zip(plain[::2], plain[1::2], strict=True)
        return replace(made, drawn=tuple(HemPoint(out_mm=a, below_mm=b) for a, b in pairs))
    if line in ("vee", "arc") and not plain:
        raise DomainError(f"“{said.text}” does not say how much higher the outermost drop ends")
    return replace(made, rise_mm=plain[0] if plain else 0.0)


def _sag(said: _Said) -> Fit:
    swags = said.names or [
        o.name
        for o in (*said.piece.runs, *said.piece.rows)
        if isinstance(o, SwagRow) or (isinstance(o, Run) and o.kind == "swag")
    ]
    if not swags:
        raise DomainError(f"“{said.text}”: this piece has no swags")
    name = f"sag of {', '.join(swags)}"[:120]
    if "slack" in said.words:
        plain = said.plain()
        if not plain:
            raise DomainError(f"“{said.text}” does not say how much slack: write 10 %")
        slack = float(plain[0].rstrip(" %")) / 100
        return SagFit(name=name, swags=tuple(swags), slack=slack)
    step = said.after("step")
    return SagFit(
        name=name, swags=tuple(swags), sag_mm=said.length(), step_mm=step[0] if step else 0.0
    )


def _clear(said: _Said) -> Fit:
    drops = [r.name for r in said.piece.runs if r.kind == "drop" and r.lies == "fold"]
    if not said.names and len(drops) != 1:
        raise DomainError(f"“{said.text}” does not name the drop: {', '.join(drops) or 'none'}")
    drop = said.names[0] if said.names else drops[0]
    return ClearFit(name=f"air around {drop}", drop=drop, clear_mm=said.length())


def _flat(said: _Said) -> Fit:
    row = said.one(TiedRows, "tied rows")
    return FlatFit(name=f"{row} flat", row=row)


def _beads(said: _Said) -> Fit:
    at = _item(said, ("strung",), "strung section")
    return PatternFit(name=f"beads of {at.run}", section=at, mm=said.length())


def _rings(said: _Said) -> Fit:
    at = _item(said, ("repeat", "rings"), "chain of rings")
    return RingsFit(name=f"rings of {at.run}", stretch=at, mm=said.length())


def _item(said: _Said, kinds: tuple[str, ...], what: str) -> Quantity:
    """The first item of some kinds in the named run, or in the whole piece."""
    owners: list[Any] = [owner_of(said.piece, n) for n in said.names] or list(said.piece.runs)
    for kind in kinds:
        for owner in owners:
            if getattr(getattr(owner, "centre", None), "kind", "") == kind:
                return quantity_at(Spot(owner.name, (CENTRE,)))
            for k, item in enumerate(items_of(owner)):
                if item.kind == kind and (isinstance(item, RepeatItem) or kind != "repeat"):
                    return quantity_at(Spot(owner.name, (k,)))
    raise DomainError(f"“{said.text}”: there is no {what} in {', '.join(said.names) or 'it'}")


def _match(said: _Said) -> Fit:
    if len(said.names) != 2:
        raise DomainError(f"“{said.text}” needs two runs: match NAME to NAME")
    run, to = said.names
    how = next((h for h in ("mirror", "length") if h in said.words), "level")
    return MatchFit(name=f"{run} as {to}", run=run, to=to, how=how)  # type: ignore[arg-type]


_MAKERS: dict[str, Callable[[_Said], Fit]] = {
    "tiers": _tiers,
    "match": _match,
    "nested": _nested,
    "fall": _fall,
    "hem": _hem,
    "sag": _sag,
    "slack": _sag,
    "clear": _clear,
    "flat": _flat,
    "beads": _beads,
    "rings": _rings,
    "even": _places,
    "evenly": _places,
    "every": _places,
    "worn": _places,
    "length": _length,
}
