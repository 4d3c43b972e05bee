"""Places in words: “fold”, “link 6 past 1st ring on the right”, “far loop of 18th pop”, “waist of
lyre”. Links, beads and rings are counted outward from the fold; if the run is free from the left,
on what hangs from the top.

Without a run's name it is looked for in the run under the cursor first, then in the others.
"""

from collections.abc import Iterator
from typing import NamedTuple

from msgspec.structs import replace

from maglia.core.assembly.places import CLOSURE, mirror_hole
from maglia.core.assembly.ports import ALONG, GAP
from maglia.core.assembly.rows import flattened
from maglia.core.edits.spots import WHOLE, first_number, item_of, owner_of
from maglia.core.parts.parts import Connector, Hole
from maglia.core.parts.units import BeadLink, Things
from maglia.core.piece.items import (
    Bare,
    ChainItem,
    ConnectorItem,
    Item,
    Knot,
    PartItem,
    RepeatItem,
    RingItem,
    StrungItem,
    UnitItem,
)
from maglia.core.piece.piece import Lies, Place, Run, Side, TiedRows
from maglia.core.piece.strung import along_mm
from maglia.core.values.measures import Amount
from maglia.phrases.here import Here
from maglia.phrases.items import holes_named
from maglia.phrases.names import means
from maglia.phrases.stands import (
    Stand,
    every_of,
    is_nth,
    low_of,
    run_named,
    runs_near,
    runs_of,
    split_of,
    stand_of,
    standing,
    thing_at,
)
from maglia.phrases.words import Misread, Word, Words, at_signs, is_length, unknown

LOOPS = {"near": "a", "upper": "a", "left": "a", "far": "b", "lower": "b", "right": "b",
         "a": "a", "b": "b"}  # fmt: skip
"""How the loops of a bead link are called: on a run the near one is named first."""
COUNTED: dict[str, tuple[type[Item], str | None]] = {
    "link": (ChainItem, None), "bead": (StrungItem, None), "gap": (StrungItem, GAP),
    "knot": (StrungItem, None),
}  # fmt: skip
EXAMPLES = "link 6, bead 9, fold, 2nd ring, catch, right end, far loop of 2nd link, foot of lyre"


class At(NamedTuple):
    """A place, how a run that hangs there lies, and what stands there."""

    place: Place
    lies: Lies
    item: Item | None = None


def places(words: Words, here: Here) -> tuple[At, ...]:
    """The places that words name, in order. Raises Misread naming what is not there."""
    words, side = side_of(words)
    if not words:
        raise Misread(f"say where, such as: {EXAMPLES}")
    first = words[0].low
    if first in ("catch", "clasp") and len(words) == 1 and not _hole_at_cursor(words, here):
        return (At(Place(run=CLOSURE, port=first), "free"),)
    head, of = split_of(words)
    if ends := _ends(head, of, here):
        return tuple(_sided(at, end or side) for at, end in ends)
    if low_of(head) == "fold":
        return (_sided(_at_fold(of, here), side),)
    if len(head) == 2 and is_nth(head[0]) and (kind := _plural(head[1].low)):
        counted = _counted_nth(kind, head[0], of, here)
        if counted is not None:
            return (_sided(counted, side),)
    if (kind := _plural(first)) and len(head) > 1:
        return tuple(_sided(at, side) for at in _numbered(kind, head, of, here))
    if is_length(words[0]) and len(head) == 1:
        return (_sided(_so_far(words[0], of, here), side),)
    if of and (not is_nth(head[0]) or low_of(head[1:]) == "hole"):
        named = run_named(of, here)
        if named is not None and head[-1].low not in ("loop", "mid") and len(
            list(standing(named))
        ) > 1:  # fmt: skip
            return tuple(_ported((), stand_of(words, here), side, here))
        return tuple(_ported(head, stand_of(of, here), side, here))
    return tuple(_bare_place(words, head, side, here))


def place(words: Words, here: Here) -> At:
    """The one place that words name."""
    found = places(words, here)
    if len(found) == 2 and (both := as_pair(*found, here.things)):
        return both
    if len(found) > 1:
        raise unknown(words, "is more than one place: say which")
    return found[0]


def as_pair(one: At, other: At, things: Things) -> At | None:
    """Two mirrored holes of one connector on the fold as one pair; None if they are none."""
    connector = things.get(one.item.part) if isinstance(one.item, ConnectorItem) else None
    port = one.place.port
    if not isinstance(connector, Connector) or port is None or one.lies != "free":
        return None
    same = replace(one.place, port=None) == replace(other.place, port=None)
    if not same or one.lies != other.lies or other.place.port == port:
        return None
    mirrored = mirror_hole(connector, port) == other.place.port
    return At(other.place, "paired", other.item) if mirrored else None


def side_of(words: Words) -> tuple[Words, Side | None]:
    """Words without “on the left” or “on the right” at their end, and that side."""
    if len(words) >= 2 and words[-2].low == "on" and words[-1].low in ("left", "right"):
        return words[:-2], "left" if words[-1].low == "left" else "right"
    return words, None


def _bare_place(words: Words, head: Words, side: Side | None, here: Here) -> Iterator[At]:
    """A loop or hole of what is at the cursor, or a thing that stands once."""
    if _hole_at_cursor(words, here) or (words[-1].low in ("loop", "mid") and not of_thing(words)):
        yield from _ported(words, _cursor_stand(here), side, here)
        return
    stand = stand_of(words, here)
    yield from _ported((), stand, side, here)


def of_thing(words: Words) -> bool:
    return any(word.low == "of" for word in words)


def _plural(word: str) -> str:
    single = word.removesuffix("s")
    return single if single in COUNTED else ""


# --- the places themselves --------------------------------------------------------------------


def _sided(at: At, side: Side | None) -> At:
    """A place on one side alone, where it stands on both. Raises Misread where it does not."""
    if side is None:
        return at
    if at.lies != "paired":
        where = "lies on the fold" if at.lies == "fold" else "stands once"
        raise Misread(f"“on the {side}” is said of what stands left and right, and this {where}")
    return At(replace(at.place, side=side), "free", at.item)


def _lies(run: Run, *, on_fold: bool) -> Lies:
    if run.lies == "free":
        return "free"
    return "fold" if on_fold or run.lies == "fold" else "paired"


def _ends(head: Words, of: Words, here: Here) -> list[tuple[At, Side | None]]:
    """“right end”, “left end”, “end”: what stands outermost, by its outer side."""
    said = low_of(head)
    sides: dict[str, Side | None] = {"right end": "right", "left end": "left", "end": None}
    if said not in sides or (said == "end" and _hole_at_cursor(head, here)):
        return []
    run = runs_of(of, here)[0]
    stands = [Stand(run, number, item) for number, item in standing(run)]
    if not stands:
        raise unknown(head, f"is not there: “{run.name}” is empty")
    left = sides[said] == "left" and run.lies == "free"
    run, number, item, _ = stands[0 if left else -1]
    port: str | None = None
    at = 1
    if isinstance(item, ChainItem):
        at = 1 if left else item.links // 2 if number == 0 else item.links
    elif isinstance(item, RingItem):
        at = 1 if left else item.count // 2 if number == 0 else item.count
    elif isinstance(item, StrungItem):
        at = 1 if left else len(item.beads) // 2 if number == 0 else len(item.beads)
    elif isinstance(item, ConnectorItem):
        port = item.hole_in if left else item.hole_out
    elif isinstance(thing_at(item, here), BeadLink):
        port = "a" if left else "b"
    lies = _lies(run, on_fold=False)
    side = sides[said] if lies == "paired" else None
    return [(At(Place(run=run.name, item=number, at=at, port=port), lies, item), side)]


def _at_fold(of: Words, here: Here) -> At:
    for run in runs_of(of, here):
        if run.centre is None or run.lies != "across":
            continue
        item = run.centre
        if isinstance(item, ConnectorItem | UnitItem):
            return next(iter(_ported((), Stand(run, 0, item, 0), None, here)))
        port = None
        if isinstance(item, StrungItem) and len(item.beads) % 2 == 0:
            port = GAP
        return At(Place(run=run.name, item=0, at=0, port=port), "fold", item)
    raise Misread("nothing lies across the fold here: say 1st ring, link 6, right end")


def _numbered(kind: str, head: Words, of: Words, here: Here) -> Iterator[At]:
    """“link 6”, “links 1 to 7”, “links 4 10 16”, “bead 9”, “link 6 past 1st ring”."""
    wanted, port = COUNTED[kind]
    past: Stand | None = None
    cut = next((k for k, word in enumerate(head) if word.low == "past"), None)
    if cut is not None:
        past = stand_of(head[cut + 1 :] + ((*_OF, *of) if of else ()), here)
        head, runs = head[:cut], [past.run]
    else:
        runs = runs_of(of, here)
    run = next((r for r in runs if any(isinstance(i, wanted) for _, i in standing(r))), None)
    if run is None:
        raise unknown(head, f"is not there: no {kind} lies in {runs[0].name}")
    for number in numbers(head[1:]):
        found = _count_out(run, wanted, number, past, knots=kind == "knot")
        if found is None:
            most = _most(run, wanted)
            raise unknown(head, f"is not there: counted outward “{run.name}” has {kind} {most} "
                          "last")  # fmt: skip
        item_number, at = found
        item = dict(standing(run))[item_number]
        on_fold = item_number == 0 and at == 0
        held = Place(run=run.name, item=item_number, at=at, port=port)
        yield At(held, _lies(run, on_fold=on_fold), item)


def _counted_nth(kind: str, nth: Word, of: Words, here: Here) -> At | None:
    """“2nd link”, “last link of Extender”: counted outward; None where no chain or thread is."""
    wanted, _ = COUNTED[kind]
    for run in runs_of(of, here)[:1]:
        most = _most(run, wanted)
        if most:
            number = {"first": 1, "last": most}.get(nth.low, nth.nth)
            figure = nth._replace(sort="number", amount=Amount(number, "plain", nth.text))
            return next(_numbered(kind, (nth, figure), of, here))
    return None


_OF = (Word("of", 0, 0, "word", "of"),)


def numbers(words: Words) -> list[int]:
    """“4 10 16”, “1 to 7”, “4, 10 and 16”."""
    found: list[int] = []
    k = 0
    while k < len(words):
        word = words[k]
        if word.whole is not None:
            found.append(word.whole)
        elif word.low == "to" and found and k + 1 < len(words) and words[k + 1].whole is not None:
            last = words[k + 1].whole or 0
            if last < found[-1] or last - found[-1] > 1000:
                raise unknown(words, "does not run outward")
            found += range(found[-1] + 1, last + 1)
            k += 1
        elif word.low not in (",", "and"):
            raise unknown([word], "is no number of a link, bead or gap")
        k += 1
    if not found:
        raise unknown(words, "says no number")
    return found


def _count_out(
    run: Run, wanted: type[Item], number: int, past: Stand | None, *, knots: bool = False
) -> tuple[int, int] | None:
    """Item and place in it of a link or bead, counted outward, of all that follow a stand."""
    passed = 0
    for k, item in standing(run):
        if not isinstance(item, wanted) or (past is not None and k <= past.number):
            continue
        ones = countable(item, on_fold=k == 0, knots=knots)
        if number == 0 and k == 0 and past is None:
            return 0, 0
        if 0 < number - passed <= len(ones):
            return k, ones[number - passed - 1]
        passed += len(ones)
    return None


def _most(run: Run, wanted: type[Item]) -> int:
    return sum(len(countable(item, on_fold=k == 0))
               for k, item in standing(run) if isinstance(item, wanted))  # fmt: skip


def countable(item: Item, *, on_fold: bool, knots: bool = False) -> list[int]:
    """Places of links or beads of an item outward; of a thread those where a bead lies, bare steps
    and knots left out."""
    if isinstance(item, ChainItem):
        size = item.links // 2 if on_fold else item.links
        return list(range(1, size + 1))
    assert isinstance(item, StrungItem)
    beads = item.beads
    if on_fold:
        half, odd = divmod(len(beads), 2)
        beads = beads[half + odd :]
    wanted = Knot if knots else str
    return [k for k, one in enumerate(beads, 1) if isinstance(one, wanted)]


def _so_far(word: Word, of: Words, here: Here) -> At:
    """“12 cm”: so far from the fold along cord, ribbon or a strung section."""
    assert word.amount is not None
    mm = round(word.amount.mm("mm"))
    for run in runs_of(of, here):
        for number, item in standing(run):
            if isinstance(item, StrungItem):
                held = Place(run=run.name, item=number, at=mm, port=ALONG)
                return At(held, _lies(run, on_fold=number == 0 and mm == 0), item)
    raise unknown([word], "is no place: so far along lies cord, ribbon or what is strung; on chain "
                  "say link 12")  # fmt: skip


def _cursor_stand(here: Here) -> Stand:
    spot = here.spot
    if spot is None:
        raise Misread("there is nothing to hang from yet: begin with what lies on the fold")
    owner = owner_of(here.piece, spot.owner)
    if spot.path == WHOLE or not isinstance(owner, Run | TiedRows):
        raise Misread(f"“{spot.owner}” is made by its rule: name a place on a run")
    item, number = item_of(here.piece, spot), first_number(here.piece, spot)
    run = next(run for run in runs_near(here) if run.name == owner.written_as)
    if isinstance(item, RepeatItem):
        number += len(list(flattened((item,)))) - 1
        item = dict(standing(run))[number]
    return Stand(run, number, item)


def at_cursor(here: Here) -> At:
    """The last thing at the cursor, by the link or ring that is marked there."""
    stand = _cursor_stand(here)
    item, central = stand.item, stand.number == 0
    if isinstance(item, ChainItem | RingItem | StrungItem):
        at = here.mark if central else max(here.mark, 1)
        on_fold = central and at == 0
        held = Place(run=stand.run.name, item=stand.number, at=at)
        if isinstance(item, StrungItem) and (mm := _bare_mm(item, at, here, central=central)):
            held = replace(held, at=round(mm), port=ALONG)
        return At(held, _lies(stand.run, on_fold=on_fold), item)
    return next(iter(_ported((), stand, None, here)))


def _bare_mm(item: StrungItem, at: int, here: Here, *, central: bool) -> float | None:
    """How far along bare thread a step of it lies that is counted outward, mm; None for a bead."""
    half, odd = divmod(len(item.beads), 2)
    outward = item.beads[half + odd :] if central else item.beads
    if not at or at > len(outward) or not isinstance(outward[at - 1], Bare):
        return None
    inner = along_mm(item, item.beads[half : half + 1], here.things) if central and odd else 0.0
    before = along_mm(item, outward[: at - 1], here.things)
    own = along_mm(item, outward[at - 1 : at], here.things)
    if inner is None or before is None or own is None:
        return None
    return inner / 2 + before + own / 2


def places_of_each(words: Words, here: Here) -> tuple[At, ...]:
    """“each end”, “each rose link”: both ends, or everything of a name on the nearest run that has
    it."""
    if low_of(words) in ("end", "ends"):
        return places((words[0]._replace(low="end"),), here)
    head, of = split_of(words)
    for run in runs_of(of, here):
        found = [stand for stand in every_of(run) if means(head, thing_at(stand.item, here))]
        if found:
            return tuple(at for stand in found for at in _ported((), stand, None, here))
    raise unknown(words, "stands nowhere here")


def _hole_at_cursor(words: Words, here: Here) -> bool:
    """Whether words name a hole of the connector at the cursor."""
    spot = here.spot
    if spot is None or not spot.path:
        return False
    thing = thing_at(item_of(here.piece, spot), here)
    held = isinstance(thing, Connector)
    return held and all(holes_named(thing, part) for part in at_signs(words, "and", ","))  # type: ignore[arg-type]


def _ported(words: Words, stand: Stand, side: Side | None, here: Here) -> Iterator[At]:
    """Loops, mids and holes of what stands somewhere; unsaid, the one that is free."""
    thing = thing_at(stand.item, here)
    if isinstance(thing, Connector):
        for part in at_signs(words, "and", ",") or [()]:
            yield from _at_holes(part, thing, stand, side, here)
        return
    central = stand.number == 0
    held = Place(run=stand.run.name, item=stand.number, at=stand.at)
    if isinstance(thing, BeadLink):
        port = _loop(words, thing)
        held = replace(held, at=1, port=port)
        yield _sided(
            At(held, _lies(stand.run, on_fold=central and port == "mid"), stand.item), side
        )
        return
    if words:
        name = thing.name if thing else "what is strung"
        raise unknown(words, f"is nothing that “{name}” has to hang from")
    if isinstance(stand.item, ChainItem | StrungItem):
        raise Misread("say which link or bead: at link 6, at bead 9")
    if isinstance(stand.item, UnitItem | PartItem):
        held = replace(held, at=1)
    on_fold = (central and stand.at == 0) or (central and not isinstance(stand.item, RingItem))
    yield _sided(At(held, _lies(stand.run, on_fold=on_fold), stand.item), side)


def _loop(words: Words, unit: BeadLink) -> str:
    """The mid of a bead link, or the loop that was asked for."""
    said = [word.low for word in words]
    if not said:
        if unit.mid is None:
            raise Misread(f"say where on “{unit.name}”: near loop, far loop")
        return "mid"
    if said == ["mid"] or said == ["mid", "ring"]:
        return "mid"
    if len(said) == 2 and said[1] == "loop" and said[0] in LOOPS:
        return LOOPS[said[0]]
    raise unknown(words, f"is no place on “{unit.name}”: say near loop, far loop or mid")


def _at_holes(
    words: Words, connector: Connector, stand: Stand, side: Side | None, here: Here
) -> Iterator[At]:
    """One hole, or a mirrored pair: both on the fold of what is mirrored, each where it is free."""
    found = holes_named(connector, words) if words else _free_hole(connector, stand, here)
    if side is not None and len(found) == 2:
        found = (found[0 if side == "left" else 1],)
    if not found:
        names = ", ".join(hole.name for hole in connector.holes)
        raise unknown(words, f"is no hole of “{connector.name}”: it has {names}")
    if len(found) > 2:
        raise unknown(words, "is more than two holes: say which")
    run, on_line = stand.run, stand.number == 0 or stand.run.lies == "fold"
    held = Place(run=run.name, item=stand.number, at=0 if stand.number == 0 else 1)
    one = found[-1]
    paired = len(found) == 2 and mirror_hole(connector, found[0].name) == one.name
    if run.lies == "free" or (len(found) == 2 and not paired):
        yield from (At(replace(held, port=h.name), "free", stand.item) for h in found)
    elif not on_line:
        for hole in found:
            yield _sided(At(replace(held, port=hole.name), "paired", stand.item), side)
    elif paired or (not words and mirror_hole(connector, one.name) not in (None, one.name)):
        yield At(replace(held, port=one.name), "paired", stand.item)
    else:
        middle = mirror_hole(connector, one.name) == one.name
        yield At(replace(held, port=one.name), "fold" if middle else "free", stand.item)


def _free_hole(connector: Connector, stand: Stand, here: Here) -> tuple[Hole, ...]:
    """The free hole nearest the middle, the right one of two."""
    assert isinstance(stand.item, ConnectorItem)
    taken = {
        run.start.port
        for run in here.piece.runs
        if run.start and (run.start.run, run.start.item) == (stand.run.name, stand.number)
    } | {stand.item.hole_in}
    free = [hole for hole in connector.holes if hole.name not in taken and hole.x_mm >= 0]
    order = sorted(free, key=lambda hole: (abs(hole.x_mm), hole.y_mm))
    names = {hole.name: hole for hole in connector.holes}
    return (order[0] if order else names[stand.item.hole_out],)


def on_one_chain(spots: tuple[At, ...]) -> bool:
    """Whether places are links or rings of one item."""
    hosts = {(at.place.run, at.place.item, at.place.side, at.place.port) for at in spots}
    return len(hosts) == 1 and isinstance(spots[0].item, ChainItem | RingItem)
