"""Parts and units as the phrases that make them: the other way round of `part_phrases` and `units`.

Each is read back before it is told; what no phrase says is named.
"""

import re
from collections.abc import Iterable
from typing import Any

from maglia.core.parts.kinds import KINDS, Kind
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    Part,
    Ring,
    Wire,
)
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    HookLink,
    Loop,
    Tassel,
    Things,
    Unit,
)
from maglia.core.piece.piece import Wearer
from maglia.core.values.record import DomainError
from maglia.phrases.names import said as named
from maglia.phrases.part_phrases import read_part

SWATCH = re.compile(r"swatch: (\d+) links are ([\d.]+) mm")
GIRTHS = ("neck", "wrist", "ankle", "hand", "head", "ease")


class Untold(DomainError):
    """Something that no phrase says."""


def figure(value: float | None) -> str:
    """A number as a phrase reads it back exactly; “?” where it is not known."""
    if value is None:
        return "?"
    short = f"{value:.12g}"
    return short if float(short) == value else repr(value)


def wearer_told(wearer: Wearer) -> str:
    """“new wearer “the lamplighter” neck 350 wrist 165”."""
    said = [f"new wearer “{wearer.role}”"]
    for word in GIRTHS:
        value = getattr(wearer, f"{word}_mm")
        if value:
            said.append(f"{word} {figure(value)}")
    return " ".join(said)


def part_told(part: Part) -> str:
    """The phrase that makes a part. Raises Untold naming what it cannot say."""
    kind = _kind_of(part)
    swatch = SWATCH.fullmatch(part.note)
    sizes = " x ".join(figure(v) for v in _sizes(part, kind))
    said = [f"new {kind.words}", f"{swatch[1]} links {swatch[2]} mm" if swatch else sizes]
    said += _marks(part, kind)
    said += [f"{word} {figure(value)}" for word, field in kind.further.items()
             if (value := getattr(part, field)) is not None]  # fmt: skip
    said += _own(part)
    said += [part.material] if _says_material(part, kind) else []
    if (colour := getattr(part, "colour", None)) and colour != _default(type(part), "colour"):
        said.append(f"colour {colour.lower()}")
    grams = part.mass_g
    said += [f"{figure(grams)} g"] if grams is not None else []
    price = getattr(part, "price_per_m", None) if isinstance(part, Chain | Wire) else part.price
    said += [f"price {figure(price)}"] if price is not None else []
    sold = getattr(part, "sold_mm", None)
    said += [f"sold {figure(sold)}"] if sold is not None else []
    said += [f"pack {part.pack}"] if part.pack is not None else []
    phrase = f"{' '.join(filter(None, said))} called {named(part.name)}"
    _read_back(part, phrase)
    return phrase


def _read_back(part: Part, phrase: str) -> None:
    try:
        read = read_part(phrase)
    except DomainError as fault:
        raise Untold(f"“{part.name}”: {fault}") from None
    for field in part.__struct_fields__:
        if field != "id" and getattr(read, field) != getattr(part, field):
            words = field.removesuffix("_mm").replace("_", " ")
            raise Untold(f"the {words} of “{part.name}”")


def _kind_of(part: Part) -> Kind:
    """The kind that says most of a part by itself."""
    fitting = [
        kind for kind in KINDS
        if kind.part is type(part)
        and all(getattr(part, field) == value for field, value in kind.fixed.items()
                if field not in ("shape", "material"))
    ]  # fmt: skip
    if not fitting:
        raise Untold(f"what kind of part “{part.name}” is")
    return max(fitting, key=lambda kind: len(kind.fixed))


def _sizes(part: Part, kind: Kind) -> list[float | None]:
    if isinstance(part, Chain):
        pitches = part.pitches_mm or ()
        return [pitches[0]] if len(pitches) == 1 else [None]
    values = [getattr(part, field) for field in kind.sizes]
    keep = 2 if isinstance(part, Bead) else 1
    while len(values) > keep and values[-1] is None:
        values.pop()
    return values


def _default(kind: type[Any], field: str) -> Any:
    names = kind.__struct_fields__
    at = names.index(field) - (len(names) - len(kind.__struct_defaults__))
    return kind.__struct_defaults__[at] if at >= 0 else None


def _marks(part: Part, kind: Kind) -> list[str]:
    """Bare words for what is not as it is unsaid."""
    found: list[str] = []
    if isinstance(part, Ring):
        found.append("inner")
    for field in dict.fromkeys(field for field, _ in kind.marks.values()):
        value = getattr(part, field)
        if value == kind.fixed.get(field, _default(type(part), field)):
            continue
        word = next((w for w, own in kind.marks.items() if own == (field, value)), None)
        found += [word] if word else []
    return found


def _own(part: Part) -> list[str]:
    """What only one kind of part says."""
    said: list[str] = []
    if isinstance(part, Chain):
        if part.mass_g_per_m is not None:
            said.append(f"{figure(part.mass_g_per_m)} g/m")
        if part.pitches_mm and len(part.pitches_mm) > 1:
            said.append("pitches " + " ".join(figure(p) for p in part.pitches_mm))
    if isinstance(part, Ring | Wire) and part.stretch_limit != 1.0:
        said.append(f"stretch {figure(part.stretch_limit)}")
    if isinstance(part, Wire) and part.breaking_load_g is not None:
        said.append(f"breaks {figure(part.breaking_load_g)} g")
    if isinstance(part, Clasp) and part.holds_g is not None:
        said.append(f"holds {figure(part.holds_g)} g")
    if isinstance(part, Bead) and part.on_strand is not None:
        said.append(f"strand {part.on_strand}")
    if isinstance(part, Charm) and (part.loop_mm or part.loop_wire_mm):
        wire = f" x {figure(part.loop_wire_mm)}" if part.loop_wire_mm else ""
        said.append(f"loop {figure(part.loop_mm)}{wire}")
    if isinstance(part, Connector):
        if part.points_mm:
            said.append("points " + " ".join(f"{figure(x)}:{figure(y)}" for x, y in part.points_mm))
        said.append("holes " + " ".join(_holes(part)))
    if isinstance(part, Chain | Wire) and part.lots_mm:
        said.append("lots " + " ".join(f"{figure(mm)} mm" for mm in part.lots_mm))
    return said


def _holes(part: Connector) -> Iterable[str]:
    for hole in part.holes:
        size = f" of {figure(hole.diameter_mm)}" if hole.diameter_mm is not None else ""
        yield f"“{hole.name}” {figure(hole.x_mm)}:{figure(hole.y_mm)}{size}"


def _says_material(part: Part, kind: Kind) -> bool:
    usual = kind.fixed.get("material", _default(type(part), "material"))
    return bool(part.material != usual)


def unit_told(unit: Unit, things: Things) -> str:
    """The phrase that makes a unit."""
    made = {
        BeadLink: _link, HookLink: _link, Dangle: _dangle, Tassel: _tassel, Cluster: _cluster,
    }[type(unit)]  # fmt: skip
    return f"{made(unit, things)}, called {named(unit.name)}"  # type: ignore[operator]


def called(ref: str, things: Things) -> str:
    """A thing by its name, in quotes where its words might mean something else."""
    return named(things[ref].name)


def _stack(refs: Iterable[str], things: Things) -> str:
    found: list[tuple[int, str]] = []
    for ref in refs:
        if found and found[-1][1] == ref:
            found[-1] = (found[-1][0] + 1, ref)
        else:
            found.append((1, ref))
    return " + ".join(f"{n} {called(r, things)}" if n > 1 else called(r, things) for n, r in found)


def _loop(loop: Loop) -> str:
    wraps = f" wrapped {loop.wraps}" if loop.wraps else ""
    style = " doubled" if loop.style == "doubled" else ""
    if loop.style == "wrapped" and not loop.wraps:
        wraps = " wrapped 0"
    return f"{figure(loop.inner_mm)}{style}{wraps}"


def _link(unit: BeadLink, things: Things) -> str:
    kind = "hook link" if isinstance(unit, HookLink) else "link"
    loops = f"loops {_loop(unit.loop)}"
    if unit.far_loop is not None and unit.far_loop != unit.loop:
        loops = f"loop {_loop(unit.loop)}, far loop {_loop(unit.far_loop)}"
    said = f"new {kind} {_stack(unit.stack, things)} on {called(unit.wire, things)}, {loops}"
    said += ", crosswise" if unit.turned == "crosswise" else ""
    return said + (f", mid {called(unit.mid, things)}" if unit.mid else "")


def _dangle(unit: Dangle, things: Things) -> str:
    stack = _stack(unit.stack, things)
    if unit.crossed:
        *above, last = unit.stack
        legs = f"2 legs ({_stack(unit.legs, things)})" if unit.legs else ""
        if not legs:
            raise Untold(f"the crossed wire of “{unit.name}” without beads on its legs")
        stack = " + ".join(filter(None, (_stack(above, things), legs, called(last, things))))
    said = f"new dangle {stack} on {called(unit.wire, things)}, loop {_loop(unit.loop)}"
    return said + (f", spiral foot {figure(unit.spiral_mm)}" if unit.spiral_mm else "")


def _tassel(unit: Tassel, things: Things) -> str:
    way = "folded over" if unit.way == "folded" else "wound through"
    said = (f"new tassel {called(unit.thread, things)} skirt {figure(unit.skirt_mm)} "
            f"wraps {unit.wraps} neck {figure(unit.neck_mm)} x {unit.neck_wraps}, "
            f"{way} {called(unit.ring, things)}")  # fmt: skip
    said += f", trim {figure(unit.trim_mm)}" if unit.trim_mm else ""
    halo = unit.halo
    return said + (f", halo {unit.halo_count} {called(halo, things)}" if halo else "")


def _cluster(unit: Cluster, things: Things) -> str:
    links = f"{unit.links} " if unit.links else ""
    by = f"{called(unit.by, things)}, " if unit.by else ""
    each = [f"({by}{called(ref, things)})" if by else called(ref, things) for ref in unit.hangs]
    carried = (" / " if unit.turns else ", ").join(each)
    foot = f" and {called(unit.foot, things)} at foot" if unit.foot else ""
    return f"new cluster {links}{called(unit.carrier, things)} carrying {carried}{foot}"
