"""Units in one phrase: “new link cap + 2 amber + cap on wire 0.8, loops 2.5 wrapped 2”, “new dangle
teal on head pin, loop 2”, “new tassel floss skirt 25 wraps 36 neck 5 x 7, folded over ring 4”, “new
cluster ring 8 carrying 2 x (ring 4, teal dangle)”.

A plural makes one of each that stands between commas; what follows `on` is said of all.
"""

from collections.abc import Sequence

import msgspec
from msgspec.structs import replace

from maglia.core.parts.parts import Bead, End, Pin, Ring, Wire
from maglia.core.parts.units import (
    BeadLink,
    Dangle,
    HookLink,
    Loop,
    LoopStyle,
    Thing,
    Unit,
)
from maglia.phrases.clusters import read_cluster, read_tassel
from maglia.phrases.here import Here
from maglia.phrases.items import grouped
from maglia.phrases.names import Kinds
from maglia.phrases.unit_names import named_unit
from maglia.phrases.words import (
    Misread,
    Word,
    Words,
    at_commas,
    at_signs,
    is_sign,
    joined,
    unknown,
)

KINDS = ("link", "dangle", "tassel", "cluster")
STACKED: Kinds = (Bead, End, Ring)
SHAPES = ("loop", "loops", "far", "mid", "crosswise", "spiral", "turned", "simple", "doubled",
          "wrapped")  # fmt: skip
USUAL_LOOP_MM = 2.0
USUAL_WRAPS = 2
SPIRAL_TURNS = 3
MOST = 200


def unit_kind(words: Words) -> tuple[str, int, bool] | None:
    """The kind of unit that a phrase begins after `new`, its words, and whether it is a plural."""
    if len(words) < 2:
        return None
    hook = words[1].low == "hook" and len(words) > 2 and words[2].low.rstrip("s") == "link"
    word = words[2 if hook else 1].low
    single = word.removesuffix("s")
    if single not in KINDS:
        return None
    return ("hook link" if hook else single), 3 if hook else 2, word != single


def read_units(words: Words, here: Here, called: str) -> tuple[Unit, ...]:
    """The units that a phrase makes. Raises Misread naming the word."""
    begun = unit_kind(words)
    assert begun is not None
    kind, at, plural = begun
    rest = words[at:]
    if kind == "tassel":
        return (_sound(read_tassel(rest, here, called), words),)
    if kind == "cluster":
        return (_sound(read_cluster(rest, here, called), words),)
    if plural and called:
        raise Misread(f"“called {called}” names one, and these are several: say new {kind} of each")
    head, joins = joined(rest, ("on",))
    stacks = at_commas(head) if plural else [head]
    made: list[Unit] = []
    for stack in stacks:
        on = joins[0].words if joins else ()
        if not joins and not plural:
            stack, on = _without_on(stack)
        unit = _stacked(kind, stack, on, here, "" if plural else called, made)
        made.append(_sound(unit, words))
    if not made:
        raise Misread("name its beads, joined by +: new link cap + 2 amber + cap on wire 0.8")
    return tuple(made)


def _without_on(words: Words) -> tuple[Words, Words]:
    """A stack without `on`, and what is said of its loops after a comma."""
    cut = next((k for k, word in enumerate(words) if word.low in SHAPES), None)
    cut = cut - 1 if cut and is_sign(words[cut - 1], ",") else None
    return (words, ()) if cut is None else (words[:cut], words[cut:])


def _sound(unit: Unit, words: Words) -> Unit:
    """A unit that can be kept. Raises Misread naming the figure that is out of bounds."""
    try:
        msgspec.convert(msgspec.to_builtins(unit), type(unit))
    except msgspec.ValidationError as fault:
        bound, _, field = str(fault).partition(" - at ")
        said = field.strip("`$. ").removesuffix("_mm").replace("_", " ").replace(".", ", ")
        raise unknown(
            words, f"makes a unit whose {said} is out of bounds, {bound.lower()}"
        ) from None
    return unit


# --- beads on wire ----------------------------------------------------------------------------


class _Shape:
    """What is said of a unit's wire and loops."""

    def __init__(self) -> None:
        self.both: Loop | None = None
        self.near: Loop | None = None
        self.far: Loop | None = None
        self.style: Loop | None = None
        self.crosswise = False
        self.mid: Ring | None = None
        self.spiral: float | None = None
        self.spiralled = self.turned = False


def _stacked(
    kind: str, stack: Words, on: Words, here: Here, called: str, others: Sequence[Unit]
) -> BeadLink | Dangle:
    beads, legs = _stack(stack, here)
    wire_words, rest = _wire_words(on)
    wire = _wire(kind, wire_words, stack, here)
    shape = _shape(rest, here)
    refs = tuple(bead.id for bead in beads)
    near, far = _loops(kind, shape, wire, stack, here)
    if kind == "dangle":
        if shape.far or shape.crosswise or shape.mid:
            raise unknown(rest, "is said of a link: a dangle has one loop")
        unit: BeadLink | Dangle = Dangle(
            id="new", name="new", stack=refs, wire=wire.id, loop=near,
            spiral_mm=_spiral(shape, wire, here), crossed=legs is not None,
            legs=tuple(bead.id for bead in legs or ()),
        )  # fmt: skip
    else:
        if shape.spiralled or shape.turned:
            raise unknown(rest, "is said of a dangle: a link has a loop at its other end")
        if legs is not None:
            raise unknown(stack, "has two legs, which hang a drop drilled across: say new dangle")
        made = HookLink if kind == "hook link" else BeadLink
        unit = made(
            id="new", name="new", stack=refs, wire=wire.id, loop=near,
            far_loop=None if far == near else far,
            turned="crosswise" if shape.crosswise else "parallel",
            mid=shape.mid.id if shape.mid else None,
        )  # fmt: skip
    name = called or _called(kind, [*beads, *(legs or ())])
    return named_unit(unit, name, here, others, given=bool(called))  # type: ignore[return-value]


def _stack(words: Words, here: Here) -> tuple[list[Thing], list[Thing] | None]:
    """What stands on the wire, and on each of two legs: “2 legs (seed + amber) + leaf”."""
    found: list[Thing] = []
    legs: list[Thing] | None = None
    for part in at_signs(words, "+"):
        if len(part) > 2 and part[0].whole == 2 and part[1].low == "legs":
            group = grouped(part[2:])
            if group is None:
                raise unknown(part, "says no beads of its legs: 2 legs (seed + amber)")
            legs = _stack(group[1], here)[0]
            continue
        if group := grouped(part):
            inner = _stack(group[1], here)[0]
            if group[0] * len(inner) > MOST:
                raise unknown(part, f"is more than {MOST} beads on one wire")
            found += inner * group[0]
            continue
        count, name = 1, part
        if part[0].whole is not None and len(part) > 1:
            count, name = part[0].whole, part[2:] if part[1].low == "x" else part[1:]
        if not 1 <= count <= MOST:
            raise unknown(part, f"is no number of beads from 1 to {MOST}")
        thing = here.names.find(name, STACKED, what="on wire lie beads, caps, cones and rings")
        found += [thing] * count
    if not found:
        raise Misread("name its beads, joined by +: new link cap + 2 amber + cap on wire 0.8",
                      *(words[0][1:3] if words else (0, 0)))  # fmt: skip
    return found, legs


def _wire_words(on: Words) -> tuple[Words, Words]:
    """The wire that is named, and what follows of its loops."""
    at = next((k for k, word in enumerate(on) if is_sign(word, ",") or word.low in SHAPES), len(on))
    return on[:at], on[at:]


def _is_wire(thing: Thing) -> bool:
    return isinstance(thing, Wire) and thing.sort == "wire"


def _is_head_pin(thing: Thing) -> bool:
    return isinstance(thing, Pin) and thing.head == "head"


def _wire(kind: str, words: Words, stack: Words, here: Here) -> Wire | Pin:
    """The wire or pin that is named, else head pin for a dangle and wire for a link."""
    if words:
        kinds: Kinds = (_is_wire, Pin)
        found = here.names.find(words, kinds, what="a unit is made on wire or a pin")
        assert isinstance(found, Wire | Pin)
        return found
    order: Kinds = (_is_head_pin, _is_wire) if kind == "dangle" else (_is_wire, Pin)
    for wanted in order:
        for thing in here.things.values():
            fits = isinstance(thing, wanted) if isinstance(wanted, type) else wanted(thing)
            if fits and isinstance(thing, Wire | Pin):
                here.add(f"on {thing.name}", "since no wire is said", words=stack)
                return thing
    raise unknown(stack, "stands on nothing: say on which wire or pin it is made")


def _shape(words: Words, here: Here) -> _Shape:
    """Loops, their style, the mid ring, the foot; word by word."""
    found = _Shape()
    k = 0
    while k < len(words):
        word = words[k]
        after = words[k + 1] if k + 1 < len(words) else None
        if is_sign(word, ","):
            k += 1
        elif word.low in ("loop", "loops") or (word.low == "far" and after and after.low == "loop"):
            k = _loop_said(found, words, k)
        elif word.low in ("simple", "doubled", "wrapped"):
            style, k = _style(words, k)
            found.style = _once(found.style, style, word)
        elif word.low == "crosswise":
            found.crosswise, k = True, k + 1
        elif word.low == "mid":
            name, _ = _wire_words(words[k + 1 :])
            end = k + 1 + len(name)
            ring = here.names.find(words[k + 1 : end], (Ring,), what="say its mid ring")
            assert isinstance(ring, Ring)
            found.mid, k = ring, end
        elif word.low in ("spiral", "turned"):
            k = _foot(found, words, k)
        else:
            raise unknown([word], f"was not understood; of a unit are said {', '.join(SHAPES)}")
    return found


def _once(held: Loop | None, new: Loop, word: Word) -> Loop:
    if held is not None:
        raise unknown([word], "is said twice")
    return new


def _loop_said(found: _Shape, words: Words, k: int) -> int:
    """“loops 2.5 wrapped 2”, “far loop 3.2 doubled wrapped 2”."""
    word = words[k]
    both, far = word.low == "loops", word.low == "far"
    k += 2 if far else 1
    inner = USUAL_LOOP_MM
    if k < len(words) and words[k].amount is not None:
        inner = words[k].amount.mm("mm")  # type: ignore[union-attr]
        k += 1
    else:
        raise unknown([word], "is of no size: say its inside, such as loop 2.5")
    loop = Loop(inner_mm=inner)
    if k < len(words) and words[k].low in ("simple", "doubled", "wrapped"):
        style, k = _style(words, k)
        loop = replace(style, inner_mm=inner)
    if both:
        found.both = _once(found.both, loop, word)
    elif far:
        found.far = _once(found.far, loop, word)
    else:
        found.near = _once(found.near, loop, word)
    return k


def _style(words: Words, k: int) -> tuple[Loop, int]:
    """“doubled wrapped 2”: how a loop is made, and where the words go on."""
    style: LoopStyle = "simple"
    wraps = 0
    while k < len(words) and words[k].low in ("simple", "doubled", "wrapped"):
        low = words[k].low
        k += 1
        if low == "doubled":
            style = "doubled"
        elif low == "wrapped":
            style = "wrapped" if style == "simple" else style
            wraps = USUAL_WRAPS
            if k < len(words) and words[k].whole is not None:
                wraps, k = words[k].whole or 0, k + 1
    return Loop(style=style, inner_mm=USUAL_LOOP_MM, wraps=wraps), k


def _foot(found: _Shape, words: Words, k: int) -> int:
    spiral = words[k].low == "spiral"
    k += 1
    if k < len(words) and words[k].low == "foot":
        k += 1
    elif not spiral:
        raise unknown([words[k - 1]], "was not understood: say turned foot")
    if spiral:
        found.spiralled = True
        if k < len(words) and words[k].amount is not None:
            found.spiral, k = words[k].amount.mm("mm"), k + 1  # type: ignore[union-attr]
    else:
        found.turned = True
    return k


def _loops(
    kind: str, shape: _Shape, wire: Wire | Pin, stack: Words, here: Here
) -> tuple[Loop, Loop]:
    """Near and far loop: an eye pin brings its near one; a style said alone holds for both."""
    eye = isinstance(wire, Pin) and wire.head == "eye" and kind != "dangle"
    style = shape.style or Loop(inner_mm=USUAL_LOOP_MM)
    near, far = shape.near or shape.both, shape.far or shape.both
    if shape.style is not None and near is not None and near.style == "simple":
        near = replace(style, inner_mm=near.inner_mm)
    if shape.style is not None and far is not None and far.style == "simple":
        far = replace(style, inner_mm=far.inner_mm)
    if eye and near is None:
        near = Loop(inner_mm=wire.eye_inner_mm or USUAL_LOOP_MM) if isinstance(wire, Pin) else near
    if near is None and (kind == "dangle" or far is None):
        here.add(f"loops {USUAL_LOOP_MM:g} mm inside", "since no size is said", words=stack)
    near = near or style
    if far is None and eye and kind != "dangle":
        here.add(f"far loop {USUAL_LOOP_MM:g} mm inside", "since no size is said", words=stack)
        far = style
    return near, far or near


def _spiral(shape: _Shape, wire: Wire | Pin, here: Here) -> float | None:
    if not shape.spiralled or shape.spiral is not None:
        return shape.spiral
    if wire.wire_mm is None:
        raise Misread("say how wide its spiral foot is: the wire's thickness is not known")
    wide = round(2 * SPIRAL_TURNS * wire.wire_mm, 3)
    here.added.append(f"spiral {wide:g} mm wide, {SPIRAL_TURNS} turns of its wire")
    return wide


def _called(kind: str, things: Sequence[Thing]) -> str:
    """By its different beads and caps in order, and its kind."""
    told: list[Thing] = [
        t
        for t in things
        if isinstance(t, Bead | End) and not (isinstance(t, Bead) and t.role == "spacer")
    ]
    told = told or list(things)  # fmt: skip
    names = " ".join(dict.fromkeys(thing.name for thing in told))
    return f"{names} {kind}"
