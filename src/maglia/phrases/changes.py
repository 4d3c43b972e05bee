"""Changes in words: “replace ring 4 by ring 5”, “rename Drop 2 to Long”, “take out last ring”,
“make rolo 45 links”, “free Strand”, “split at link 12”, “turn 2nd rose link round”, “wind 24 turns
of wire 0.4, 12 seed”.
"""

from collections.abc import Callable
from functools import partial

from msgspec.structs import replace

from maglia.core.assembly.kinds import kind_of
from maglia.core.edits.edit import delete, put, remove_run, set_count, set_length
from maglia.core.edits.rearrange import (
    freed_or_mirrored,
    replaced_everywhere,
    reversed_,
    split,
)
from maglia.core.edits.rename import piece_renamed, run_renamed, thing_renamed
from maglia.core.edits.spots import CENTRE, Edited, Spot, item_of
from maglia.core.fit.kept_lengths import replaced_keeping_lengths
from maglia.core.parts.parts import Bead, Wire
from maglia.core.parts.units import Thing, Unit
from maglia.core.piece.items import ChainItem, ConnectorItem, RepeatItem, RingItem, Winding
from maglia.core.piece.piece import DropRow, Override, Run, Side, catalogue
from maglia.core.values.record import DomainError
from maglia.phrases.closing import owner_named
from maglia.phrases.here import Here, Offer, staying
from maglia.phrases.items import (
    HANGING,
    Said,
    hanging_items,
    items_of,
    ref_of,
    said_words,
    sequence,
)
from maglia.phrases.names import means
from maglia.phrases.places import place, side_of
from maglia.phrases.put_in import spot_of_place
from maglia.phrases.stands import run_named, runs_near
from maglia.phrases.units import read_units, unit_kind
from maglia.phrases.words import Words, at_commas, is_length, joined, text_of, unknown

KEEPING = ("keeping",)


def replace_offer(words: Words, here: Here, called: str) -> Offer:
    """“replace ring 4 by ring 5” everywhere; “drop 3 of Fringe by teal” alone; “replace rose link
    by new link amber + rose on wire, loops 2” makes a unit otherwise. Lengths are kept, unless it
    ends “keeping counts”."""
    said, kept = joined(words, KEEPING)
    words = said if kept else words
    by_count = bool(kept) and _keeps_counts(kept[0].words)
    head, joins = joined(words[1:], ("by",))
    if not head or len(joins) != 1:
        raise unknown(words, "is not whole: say replace ring 4 by ring 5")
    if head[0].low == "drop" and len(head) > 1 and head[1].whole is not None:
        return _one_drop(head, joins[0].words, here)
    own = catalogue(here.piece)
    old = here.names.find(head, (lambda thing: thing.id in own,), what="nothing of this piece")
    if joins[0].words and joins[0].words[0].low == "new":
        return _made_otherwise(old, joins[0].words, here, called)
    if called:
        raise unknown(joins[0].words, f"is there already, and is not called “{called}” by this")
    same = type(old)
    new = here.names.find(joins[0].words, (same, lambda thing: thing.kind == old.kind),
                          what=f"say another {old.kind}")  # fmt: skip
    if new.id == old.id:
        raise unknown(joins[0].words, "is what is there already")

    exchange = replaced_everywhere if by_count else replaced_keeping_lengths

    def do() -> Edited:
        return staying(exchange(here.with_all(here.piece, (), new), old.id, new), here.spot)

    how = "counts kept" if by_count else "lengths kept"
    return Offer(f"Replace {old.name} by {new.name} everywhere, {how}", do, new)


def _keeps_counts(words: Words) -> bool:
    """What a substitution keeps: counts or lengths. Raises DomainError for anything else."""
    if len(words) == 1 and words[0].low in ("counts", "count", "lengths", "length"):
        return words[0].low.startswith("count")
    raise unknown(words, "is not kept by itself: say keeping lengths or keeping counts")


def _made_otherwise(old: Thing, words: Words, here: Here, called: str) -> Offer:
    """A unit made otherwise, in the place of one, wherever that stands."""
    if unit_kind(words) is None or not isinstance(old, Unit):
        raise unknown(words, "makes no unit: say replace rose link by new link amber on wire")
    units = read_units(words, here, called)
    if len(units) > 1:
        raise unknown(words, "makes several units: say one")
    new = units[0]
    if new.id == old.id:
        raise unknown(words, "is what is there already")

    def do() -> Edited:
        piece = here.with_all(here.piece, (), new)
        return staying(replaced_everywhere(piece, old.id, new), here.spot)

    return Offer(f"Replace {old.name} by {new.name} everywhere", do, new, keeps=(new,))


def _drop_of_row(words: Words, here: Here) -> tuple[DropRow, int, Side | None]:
    """“drop 3 of Fringe on the left”: a row, which of its drops, on which side."""
    words, side = side_of(words)
    number = words[1].whole if len(words) > 1 else None
    if number is None or len(words) < 4 or words[2].low != "of":
        raise unknown(words, "does not say of which row: drop 3 of Drops")
    row = here.piece.owner(owner_named(words[3:], here.piece))
    if not isinstance(row, DropRow):
        raise unknown(words[3:], "is no row of drops")
    return row, number, side


def _otherwise(
    row: DropRow, number: int, side: Side | None, said: Said, here: Here
) -> Callable[[], Edited]:
    """One drop of a row done otherwise; of nothing it is left out."""

    def do() -> Edited:
        piece = here.with_all(here.piece, items_of(said))
        others = tuple(o for o in row.overrides if (o.number, o.side) != (number, side))
        own = Override(number=number, side=side, items=items_of(said))
        changed = replace(row, overrides=(*others, own))
        words = f"drop {number} of {row.name} {'done otherwise' if said else 'left out'}"
        return Edited(piece.replaced(row, changed), words, here.spot)

    return do


def _one_drop(head: Words, by: Words, here: Here) -> Offer:
    """One drop of a row done otherwise."""
    row, number, side = _drop_of_row(head, here)
    said = hanging_items(sequence(by, here, last=HANGING), here)
    return Offer(f"Drop {number} of {row.name}: {said_words(said, here)}",
                 _otherwise(row, number, side, said, here))  # fmt: skip


def rename_offer(text: str, words: Words, here: Here) -> Offer:
    """“rename Drop 2 to Long”: a run, a part or unit, or `piece`."""
    head, joins = joined(words[1:], ("to",))
    if not head or not joins:
        raise unknown(words, "is not whole: say rename Drop 2 to Long")
    new = text[joins[0].join.end :].strip().strip('“”"')
    if not new:
        raise unknown(words, "says no new name")
    low = " ".join(word.low for word in head)
    if low == "piece":
        return Offer(f"Call the piece {new}",
                     lambda: staying(piece_renamed(here.piece, new), here.spot))  # fmt: skip
    owner = next((own.name for own in here.piece.owners if own.name.lower() == low), None)
    if owner is not None:
        renamed = partial(run_renamed, here.piece, owner, new)
        return Offer(f"Rename {owner} to {new}", lambda: _moved(renamed(), here.spot, owner, new))
    own = catalogue(here.piece)
    mine = (lambda one: one.id in own,)
    thing = here.names.find(head, mine, what="no run or part is called so")
    said = f"Rename {thing.name} to {new}"
    return Offer(said, lambda: staying(thing_renamed(here.piece, thing.id, new), here.spot), thing)


def _moved(edited: Edited, spot: Spot | None, old: str, new: str) -> Edited:
    """The cursor goes with a run that is called otherwise."""
    if spot is not None and spot.owner == old:
        spot = Spot(new, spot.path)
    return staying(edited, spot)


def take_out_offer(words: Words, here: Here) -> Offer:
    """“take out last ring”, “take out Drop 2”, “take out piece of stock”: a run, or a thing."""
    if len(words) < 3 or words[1].low != "out":
        raise unknown(words, "is not whole: say take out last ring, or take out Drop 2")
    rest = words[2:]
    if rest[0].low == "drop" and len(rest) > 2 and rest[2].low == "of":
        row, number, side = _drop_of_row(rest, here)
        return Offer(f"Take out {text_of(rest)}", _otherwise(row, number, side, (), here))
    low = " ".join(word.low for word in rest)
    owner = next((own.name for own in here.piece.owners if own.name.lower() == low), None)
    if owner is not None:
        return Offer(f"Take out {owner}", lambda: _kept_spot(remove_run(here.piece, owner), here))
    at = place(rest, here)
    spot = spot_of_place(here.piece, at)
    item = item_of(here.piece, spot)
    what = kind_of(item).words(item, here.things)
    return Offer(f"Take out {text_of(rest)}: {what}",
                 lambda: _kept_spot(delete(here.piece, spot), here))  # fmt: skip


def _kept_spot(edited: Edited, here: Here) -> Edited:
    """The cursor stays if what it stands on is still there."""
    spot = here.spot
    try:
        if spot is not None and spot.path:
            item_of(edited.piece, spot)
            return Edited(edited.piece, edited.words, spot)
    except DomainError:
        pass
    return edited


def make_offer(words: Words, here: Here) -> Offer:
    """“make rolo 45 links”, “make rolo 45 cm”: the count of the chain, rings or repeat so named."""
    rest = words[1:]
    links = rest[-1].low in ("link", "links", "rings", "times") if rest else False
    number = rest[-2] if links and len(rest) > 1 else rest[-1] if rest else None
    name = rest[: -2 if links else -1]
    if number is None or number.amount is None or not name:
        raise unknown(words, "is not whole: say make rolo 45 links")
    spot = _counted_spot(name, here)
    said = f"Make {text_of(name)} {text_of(rest[len(name) :])}"
    if is_length(number):
        mm = number.amount.mm("mm")
        return Offer(said, lambda: staying(set_length(here.piece, spot, mm), here.spot))
    count = number.whole
    if count is None:
        raise unknown([number], "is no whole number")
    return Offer(said, lambda: staying(set_count(here.piece, spot, count), here.spot))


def _counted_spot(words: Words, here: Here) -> Spot:
    """The chain, rings or repeat that words name, nearest first. Raises Misread if several are."""
    found: list[Spot] = []
    for run in runs_near(here):
        owner = here.piece.owner(run.name)
        if not isinstance(owner, Run):
            continue
        spots = [(Spot(run.name, (CENTRE,)), run.centre)] if run.centre is not None else []
        spots += [(Spot(run.name, (k,)), item) for k, item in enumerate(owner.items)]
        for spot, item in spots:
            thing = here.things.get(ref_of(item))
            counted = isinstance(item, ChainItem | RingItem | RepeatItem)
            if counted and thing is not None and means(words, thing):
                found.append(spot)
        if found:
            break
    if not found:
        raise unknown(words, "is no chain, ring or repeat of this piece")
    if len(found) > 1:
        raise unknown(words, f"stands {len(found)} times on “{found[0].owner}”: go there and type "
                      "the number")  # fmt: skip
    return found[0]


def free_offer(words: Words, here: Here) -> Offer:
    """“free Strand”, “mirror”: a run's two sides apart, or one side as on the other."""
    name = owner_named(words[1:], here.piece) if words[1:] else here.spot.owner if here.spot else ""
    run = here.piece.run(name)
    if run is None:
        raise unknown(words, "says no run: free Strand")
    wanted = words[0].low == "free"
    if wanted != (run.lies in ("across", "paired")):
        raise unknown(words, f"is done already: “{name}” {'is free' if wanted else 'is mirrored'}")
    return Offer(f"{'Free' if wanted else 'Mirror'} {name}",
                 lambda: freed_or_mirrored(here.piece, name))  # fmt: skip


def split_offer(words: Words, here: Here) -> Offer:
    """“split at link 12”: the chain in two at a link."""
    if len(words) < 3 or words[1].low != "at":
        raise unknown(words, "is not whole: say split at link 12")
    at = place(words[2:], here)
    if not isinstance(at.item, ChainItem):
        raise unknown(words[2:], "is no link of chain")
    spot = spot_of_place(here.piece, at)
    return Offer(f"Split {at.place.run} at {text_of(words[2:])}",
                 lambda: split(here.piece, spot, at.place.at))  # fmt: skip


def turn_offer(words: Words, here: Here) -> Offer:
    """“turn 2nd rose link round”."""
    if words[-1].low != "round" or len(words) < 3:
        raise unknown(words, "is not whole: say turn 2nd rose link round")
    rest = words[1:-1]
    named = run_named(rest, here)
    if named is not None:
        raise unknown(rest, "is a run: say what of it is turned round")
    at = place(rest, here)
    spot = spot_of_place(here.piece, at)

    def do() -> Edited:
        edited = reversed_(here.piece, spot)
        if edited.piece == here.piece:
            raise DomainError(f"{text_of(rest)} is the same either way round")
        return staying(edited, here.spot)

    return Offer(f"Turn {text_of(rest)} round", do)


def wind_offer(words: Words, here: Here) -> Offer:
    """“wind 24 turns of wire 0.4, 12 seed”: round the connector at the cursor."""
    parts = at_commas(words[1:])
    if not parts or not parts[0][0].whole:
        raise unknown(words, "does not say how many turns: wind 24 turns of wire 0.4, 12 seed")
    turns = parts[0][0].whole
    name = tuple(w for w in parts[0][1:] if w.low not in ("turns", "turn", "of"))
    wire = here.names.find(name, (Wire,), what="it is wound with wire")
    bead = None
    beads = 0
    if len(parts) > 2:
        raise unknown(parts[2])
    if len(parts) > 1:
        beads = parts[1][0].whole or 0
        if not beads:
            raise unknown(parts[1], "says no number of beads")
        bead = here.names.find(parts[1][1:], (Bead,), what="say the beads on the wire")
    winding = Winding(wire=wire.id, turns=turns, bead=bead.id if bead else None, beads=beads)
    return Offer(f"Wind {turns} turns of {wire.name}", partial(_wound, winding, here), wire)


def _wound(winding: Winding, here: Here) -> Edited:
    spot = here.spot
    host = item_of(here.piece, spot) if spot is not None and spot.path else None
    if spot is None or not isinstance(host, ConnectorItem):
        raise DomainError("put the cursor on the connector that is to be wound")
    changed = put(here.with_all(here.piece, winding), spot, replace(host, wound=winding))
    return Edited(changed, f"{spot.owner}: wound {winding.turns} times", spot)
