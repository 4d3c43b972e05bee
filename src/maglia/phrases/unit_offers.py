"""Making a unit there and then: “new link amber + spacer + amber on brass 0.6 wrapped 2”.

Beads are named by a few letters and joined by +; `on` names wire or pin; loops are simple, doubled
or wrapped (so many wraps), `loop 2.5` their inside. The unit is drawn and measured as it grows.
"""

import re
from functools import partial

import msgspec
from msgspec.structs import replace

from maglia.core.edits.spots import Edited, Spot
from maglia.core.parts.parts import Bead, End, Pin, Ring, Wire
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    HookLink,
    Loop,
    LoopStyle,
    Tassel,
    Things,
    Unit,
    tassel_span_mm,
    unit_span_mm,
)
from maglia.core.piece.items import UnitItem
from maglia.core.piece.needed import made_of
from maglia.core.piece.piece import Piece, Run
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.phrases.cluster_phrases import CLUSTER_HINT, read_cluster
from maglia.phrases.offers import (
    Offer,
    Wish,
    best_match,
    free_id,
    hang,
    known_things,
    put_in,
    with_needed,
)

BEGINS = re.compile(
    r"^new\s+(link|dangle|hook(?:\s+link)?|tassel|cluster)\b\s*(.*)$", re.IGNORECASE
)
NUMBER = r"\d+(?:\.\d+)?"
TASSEL_HINT = "new tassel floss skirt 25 wraps 36 neck 5 x 7, folded over ring 4, halo 12 seed"
ENDS_FREE = ("drop", "extender")
HINT = "new link amber + spacer + amber on brass 0.6 wrapped 2 · new dangle teal on head pin"


def unit_offers(
    text: str, piece: Piece, tray: Tray, spot: Spot | None, mark: int = 0
) -> list[Offer]:
    """The unit as far as it is written; empty if the text does not begin one. What only hangs is
    hung at the mark, unless the cursor stands where a drop ends."""
    begun = BEGINS.match(text.strip())
    if begun is None:
        return []
    things = known_things(piece, tray)
    try:
        unit = read_unit(begun[1].lower(), begun[2], things)
        _refuse_out_of_bounds(unit)
    except DomainError as fault:
        hint = {"tassel": TASSEL_HINT, "cluster": CLUSTER_HINT}.get(begun[1].lower(), HINT)
        return [Offer(f"{fault}", None, None, partial(_refuse, str(fault)), hint)]

    def make() -> Edited:
        known = {**things, unit.id: unit}
        changed = with_needed(piece, unit, known)
        if hangs:
            return hang(Wish(words=(), drop=True), unit, changed, known, spot, mark)
        return put_in(unit, UnitItem(unit=unit.id), changed, known, spot)

    hangs = isinstance(unit, Dangle | Tassel | Cluster) and not _ends_free(piece, spot)
    words = f"Make and {'hang here' if hangs else 'put in'}: {unit.name}"
    size = _span_mm(unit, things)
    needed = made_of([unit.id], {**things, unit.id: unit})
    own = {t.id for t in (*tray.parts, *tray.units)}
    keeps = tuple(thing for thing in needed if thing.id not in own)
    return [Offer(words, size, unit, make, keeps=keeps)]


def _refuse_out_of_bounds(unit: Unit) -> None:
    """Raise DomainError naming the figure for a unit that could not be read again once kept."""
    try:
        msgspec.convert(msgspec.to_builtins(unit), type(unit))
    except msgspec.ValidationError as fault:
        bound, _, field = str(fault).partition(" - at ")
        said = field.strip("`$. ").removesuffix("_mm").replace("_", " ").replace(".", ", ")
        raise DomainError(f"“{unit.name}”: its {said} is out of bounds, {bound.lower()}") from None


def _ends_free(piece: Piece, spot: Spot | None) -> bool:
    """Whether what is put in at a spot ends what hangs, or begins it."""
    owner = piece.owner(spot.owner) if spot is not None else None
    if spot is None or owner is None or not spot.path:
        return True
    hangs = not isinstance(owner, Run) or owner.lies == "fold" or owner.kind in ENDS_FREE
    return hangs and spot.path[-1] == len(owner.own_items) - 1


def _span_mm(unit: BeadLink | Dangle | Tassel | Cluster, things: Things) -> float | None:
    if isinstance(unit, Cluster):
        return None
    if isinstance(unit, Tassel):
        return tassel_span_mm(unit, things)
    return unit_span_mm(unit, things)


def _refuse(words: str) -> Edited:
    raise DomainError(words)


def read_unit(kind: str, text: str, things: Things) -> BeadLink | Dangle | Tassel | Cluster:
    """The unit that a text describes. Raises DomainError naming what is missing."""
    if kind == "tassel":
        return read_tassel(text, things)
    if kind == "cluster":
        return read_cluster(text, things)
    kind = kind.split()[0]
    style_said = r"(?:\s+(?:simple|doubled|wrapped(?:\s+\d+)?))?"
    text, far = _taken(text, rf"\bfar\s+loop\s+({NUMBER}{style_said})")
    text, spiral = _taken(text, rf"\bspiral(?:\s+foot)?\s+({NUMBER})")
    text, _ = _taken(text, r",?\s*\b(turned\s+foot)\b")  # as the end of any wire is
    text, crosswise = _taken(text, r"\b(crosswise)\b")
    text, legs_said = _taken(text, r"\b2\s+legs\s*\(([^)]*)\)\s*\+?")
    text, mid = _taken(text, r"\bmid\s+(.+)$")
    text, loop_mm = _taken(text, r"\bloops?\s+(\d+(?:\.\d+)?)")
    text, wraps = _taken(text, r"\bwrapped\b\s*(\d*)", empty="2")
    text, doubled = _taken(text, r"\b(doubled)\b")
    text, _ = _taken(text, r"\b(simple)\b")
    text, wire_words = _taken(text, r"\bon\s+(.+)$")
    names = [part.strip(" ,") for part in text.split("+") if part.strip(" ,")]
    if not names:
        raise DomainError("name its beads, joined by +")
    beads = [_bead(name, things) for name in names]
    legs = [_bead(name.strip(), things) for name in (legs_said or "").split("+") if name.strip()]
    if legs_said is not None and kind != "dangle":
        raise DomainError("two legs hang a drop that is drilled across: say new dangle")
    wire = _wire(kind, (wire_words or "").strip(" ,"), things)
    style: LoopStyle = "wrapped" if wraps is not None else "doubled" if doubled else "simple"
    loop = Loop(style=style, inner_mm=float(loop_mm or 2.0), wraps=int(wraps or 0))
    if kind == "dangle" and (far or crosswise):
        raise DomainError("a dangle has one loop: far loop and crosswise are said of a link")
    short = " + ".join(bead.name for bead in beads)
    unit_id = free_id(f"{kind}-{'-'.join(bead.id for bead in beads)}"[:100], things)
    stack = tuple(bead.id for bead in beads)
    if kind == "dangle":
        name = f"Dangle of {short}"[:120]
        coil = float(spiral) if spiral else None
        return Dangle(
            id=unit_id, name=name, stack=stack, wire=wire.id, loop=loop, spiral_mm=coil,
            crossed=legs_said is not None, legs=tuple(bead.id for bead in legs),
        )  # fmt: skip
    if spiral:
        raise DomainError("a spiral stops a dangle: a link has a loop at its other end")
    ring = best_match(mid, things.values(), Ring) if mid else None
    if mid and ring is None:
        raise DomainError(f"no ring is called “{mid}”")
    made = HookLink if kind == "hook" else BeadLink
    return made(
        id=unit_id,
        name=f"Link of {short}"[:120],
        stack=stack,
        wire=wire.id,
        loop=loop,
        far_loop=_far(far, loop) if far else None,
        turned="crosswise" if crosswise else "parallel",
        mid=ring.id if ring else None,
    )


def _far(said: str, near: Loop) -> Loop:
    """The loop at the other end: its inside, and how it is made if that differs."""
    inner, *more = said.split()
    if not more:
        return replace(near, inner_mm=float(inner))
    style: LoopStyle = "wrapped" if more[0] == "wrapped" else "doubled"
    style = "simple" if more[0] == "simple" else style
    wraps = int(more[1]) if len(more) > 1 else 2
    return Loop(style=style, inner_mm=float(inner), wraps=wraps if style == "wrapped" else 0)


def read_tassel(text: str, things: Things) -> Tassel:
    """“floss skirt 25 wraps 36 neck 5 x 7, folded over ring 4, trim 2, halo 12 seed”."""
    folded = re.search(r"\bfolded\s+over\b", text, re.IGNORECASE) is not None
    text, ring_said = _taken(text, r"\b(?:folded\s+over|wound\s+through)\s+([^,]+)")
    text, halo_said = _taken(text, r"\bhalo\s+(\d+\s+[^,]+)")
    text, neck = _taken(text, rf"\bneck\s+({NUMBER}(?:\s*[x×]\s*\d+)?)")
    text, skirt = _taken(text, rf"\bskirt\s+({NUMBER})")
    text, wraps = _taken(text, r"\bwraps\s+(\d+)")
    text, trim = _taken(text, rf"\btrim\s+({NUMBER})")
    thread = best_match(text.strip(" ,"), things.values(), Wire) if text.strip(" ,") else None
    if thread is None:
        raise DomainError(f"no thread is called “{text.strip(' ,')}”: say of what it is wound")
    for word, said in (("skirt", skirt), ("wraps", wraps), ("neck", neck)):
        if not said or float(re.split(r"[x×]", said)[0]) <= 0:
            raise DomainError(f"say its {word}: {TASSEL_HINT}")
    assert skirt is not None and wraps is not None and neck is not None  # noqa: PT018
    ring = best_match(ring_said, things.values(), Ring) if ring_said else None
    if ring is None:
        raise DomainError(f"say the ring that carries it, as in: {TASSEL_HINT}")
    width, *turns = re.split(r"\s*[x×]\s*", neck)
    halo, count = _halo(halo_said, things)
    unit_id = free_id(f"tassel-{thread.id}"[:100], things)
    return Tassel(
        id=unit_id, name=f"Tassel of {thread.name}"[:120], thread=thread.id, ring=ring.id,
        skirt_mm=float(skirt), wraps=int(wraps), neck_mm=float(width),
        neck_wraps=int(turns[0]) if turns else 6, way="folded" if folded else "wound",
        trim_mm=float(trim or 0), halo=halo, halo_count=count,
    )  # fmt: skip


def _halo(said: str | None, things: Things) -> tuple[str | None, int]:
    if not said:
        return None, 0
    number, name = said.split(maxsplit=1)
    bead = best_match(name, things.values(), Bead)
    if bead is None:
        raise DomainError(f"no bead is called “{name}”")
    return bead.id, int(number)


def _bead(name: str, things: Things) -> Bead | End | Ring:
    """What a name on a stack means: a bead before an end before a ring."""
    known = things.values()
    found = (
        best_match(name, known, Bead)
        or best_match(name, known, End)
        or best_match(name, known, Ring)
    )
    if found is None:
        raise DomainError(f"no bead is called “{name}”")
    return found


def _wire(kind: str, words: str, things: Things) -> Wire | Pin:
    """The wire or pin that is named, else head pin for a dangle and wire for a link."""
    if words:
        known = things.values()
        found = best_match(words, known, Wire) or best_match(words, known, Pin)
        if found is None:
            raise DomainError(f"no wire or pin is called “{words}”")
        return found
    pins = [t for t in things.values() if isinstance(t, Pin) and t.head == "head"]
    wires = [t for t in things.values() if isinstance(t, Wire) and t.sort == "wire"]
    order: list[Wire | Pin] = [*pins, *wires] if kind == "dangle" else [*wires, *pins]
    if not order:
        raise DomainError("there is no wire or pin in the tray: say on what it is made")
    return order[0]


def _taken(text: str, pattern: str, empty: str = "") -> tuple[str, str | None]:
    """The text without what a pattern matches, and what that says."""
    found = re.search(pattern, text, re.IGNORECASE)
    if found is None:
        return text, None
    return (text[: found.start()] + text[found.end() :]).strip(), found[1].strip() or empty
