"""Closing in one phrase, “close ring 4, lobster into ring 9, 2 ring 4”, once round the strand:
right end, clasp, catch, left end; and ways to wear, “way Long: hooked at last ring of Extender,
without Bar, only 1st to 12th hook link, 3 turns”.
"""

from msgspec.structs import replace

from maglia.core.assembly.rows import written_out
from maglia.core.edits.spots import Edited
from maglia.core.parts.parts import Clasp, Ring
from maglia.core.parts.units import BeadLink
from maglia.core.piece.items import ChainItem, RepeatItem, RingItem
from maglia.core.piece.piece import Closure, ClosureKind, FormKind, Piece, Way, WornCount
from maglia.core.piece.wishes import Quantity
from maglia.core.sheets.wear import as_worn
from maglia.core.values.record import DomainError
from maglia.phrases.here import Here, Offer
from maglia.phrases.items import ALONG, Said, items_of, ref_of, said_words, sequence
from maglia.phrases.names import means
from maglia.phrases.places import place
from maglia.phrases.words import Misread, Words, at_commas, at_signs, joined, text_of, unknown

FORMS_OF_BODY: dict[str, FormKind] = {
    "board": "board", "bust": "bust", "neck": "bust", "wrist": "wrist", "ankle": "ankle",
    "mat": "mat",
}  # fmt: skip
PASSED: dict[tuple[str, ...], ClosureKind] = {
    ("over", "head"): "over the head", ("over", "hand"): "over the hand",
    ("on", "itself"): "continuous", ("continuous",): "continuous", ("open",): "open",
}  # fmt: skip
HINT = "close ring 4, lobster into ring 9, 2 ring 4 · close on itself with ring 4 · leave open"


def close_offer(words: Words, here: Here) -> Offer:
    """How the piece closes. Raises Misread naming the word."""
    rest = words[1:]
    if not rest:
        raise Misread(f"say how it closes: {HINT}", words[0].start, words[0].end)
    lows = tuple(word.low for word in rest)
    passed = next((kind for said, kind in PASSED.items() if lows[: len(said)] == said), None)
    if passed is not None:
        return _without_clasp(passed, rest, here)
    if lows[0] in ("through", "over", "on"):
        raise unknown(rest, f"cannot be said of a closure here: {HINT}")
    if here.piece.sort == "earring":
        raise unknown(words, "is said of a strand: an earring hangs from the ear and is not closed")
    return _with_clasp(rest, here)


def leave_offer(words: Words, here: Here) -> Offer:
    """“leave open”."""
    if tuple(word.low for word in words[1:]) != ("open",):
        raise unknown(words, "was not understood: say leave open")
    return _without_clasp("open", words[1:], here)


def _without_clasp(kind: ClosureKind, words: Words, here: Here) -> Offer:
    """Over the head, on itself, open: with a joining ring if one is said."""
    size = next(len(said) for said, one in PASSED.items() if one == kind
                and tuple(w.low for w in words[: len(said)]) == said)  # fmt: skip
    rest = words[size:]
    ring: Ring | None = None
    if rest:
        if rest[0].low != "with" or kind == "open":
            raise unknown(rest)
        found = here.names.find(rest[1:], (Ring,), what="say the ring that joins it")
        assert isinstance(found, Ring)
        ring = found
    label = "Leave it open" if kind == "open" else f"Close {_said(kind)}"
    label += f" with {ring.name}" if ring else ""

    def do() -> Edited:
        closure = Closure(kind=kind, catch=ring.id if ring else None)
        piece = here.with_all(here.piece, closure)
        done = "left open" if kind == "open" else f"closed {_said(kind)}"
        return Edited(replace(piece, closure=closure), done, here.spot)

    return Offer(label, do, ring)


def _said(kind: str) -> str:
    return "on itself" if kind == "continuous" else kind


def _with_clasp(words: Words, here: Here) -> Offer:
    """Right end, clasp into catch, left end."""
    parts = at_commas(words)
    into = [k for k, part in enumerate(parts) if any(word.low == "into" for word in part)]
    if len(into) > 1:
        raise unknown(words, "says “into” twice")
    if into:
        at = into[0]
        head, joins = joined(parts[at], ("into",))
    else:
        at = next((k for k, part in enumerate(parts) if here.names.fits(part, (Clasp,))), 0)
        head, joins = parts[at], []
    clasp = here.names.find(head, (Clasp,), what=f"say the clasp: {HINT}")
    assert isinstance(clasp, Clasp)
    bitten = joins[0].words if joins else ()
    linked = _linked(bitten, here)
    catch = None if linked else _catch(clasp, bitten, words, here)
    right = sequence(_together(parts[:at]), here, ALONG) if at else ()
    left = sequence(_together(parts[at + 1 :]), here, ALONG) if parts[at + 1 :] else ()
    closure = Closure(
        kind="clasp", clasp=clasp.id, catch=catch.id if catch else None,
        at_clasp=items_of(right), at_catch=(*items_of(left)[::-1], *items_of(linked)),
    )  # fmt: skip
    beside = [said_words(one, here) for one in (right, left) if one]
    what = said_words(linked, here) if linked else catch.name if catch else "the end"
    label = f"Close with {clasp.name} into {what}"

    def do() -> Edited:
        piece = here.with_all(here.piece, closure)
        return Edited(replace(piece, closure=closure), f"closed with {clasp.name}", here.spot)

    return Offer(label + "".join(f", {one}" for one in beside), do, clasp)


def _together(parts: list[Words]) -> Words:
    """Parts as one list again; they are cut at the same commas."""
    from maglia.phrases.words import Word

    found: list[Word] = []
    for part in parts:
        found += [*part, Word(",", part[-1].end, part[-1].end, "sign", ",")]
    return tuple(found)


def _is_end(words: Words) -> bool:
    """Whether what is bitten is what stands there."""
    return len(words) == 1 and words[0].low == "end"


def _linked(words: Words, here: Here) -> Said:
    """A bead link that the clasp bites by its loop; empty if it is none."""
    names = here.names
    if not words or _is_end(words) or names.fits(words, (Ring,)):
        return ()
    return sequence(words, here, ALONG) if names.fits(words, (BeadLink,)) else ()


def _catch(clasp: Clasp, words: Words, all_words: Words, here: Here) -> Ring | None:
    """The ring it bites; `end` bites what is there; unsaid, the smallest that it can bite."""
    if _is_end(words):
        return None
    if words:
        what = "say what it bites: a ring, a bead link, or into end"
        ring = here.names.find(words, (Ring,), what=what)
        assert isinstance(ring, Ring)
        return ring
    found = smallest_catch(clasp, here)
    if found is None:
        here.add("into end", "since no open ring here is one it can bite", words=all_words)
        return None
    here.add(f"into {found.name}", "the smallest ring it can bite", words=all_words)
    return found


def smallest_catch(clasp: Clasp, here: Here) -> Ring | None:
    rings = [t for t in here.things.values() if isinstance(t, Ring) and t.inner_mm and t.wire_mm]
    least = 2 * clasp.jaw_wire_mm + 1 if clasp.jaw_wire_mm else 0.0
    for ring in sorted(rings, key=lambda r: (r.inner_mm or 0.0, r.name)):
        bar = clasp.sort != "toggle" or (clasp.bar_mm or 0) >= 1.3 * (ring.inner_mm or 0)
        big = (ring.inner_mm or 0) >= (8 if clasp.sort == "toggle" else least)
        if big and bar and (clasp.gape_mm is None or (ring.wire_mm or 0) <= clasp.gape_mm):
            return ring
    return None


def turns_offer(words: Words, here: Here) -> Offer:
    """“3 turns”: so often round the wrist or ankle."""
    turns = words[0].whole or 0
    if not 1 <= turns <= 20:
        raise unknown(words, "is not once to 20 times round")
    if words[2:]:
        raise unknown(words[2:])
    said = "worn once round" if turns == 1 else f"wound {turns} times"
    changed = replace(here.piece, wraps=float(turns))
    return Offer(said.capitalize(), lambda: Edited(changed, said, here.spot))


# --- ways -------------------------------------------------------------------------------------


def way_offer(text: str, words: Words, here: Here) -> Offer:
    """“way Long: hooked at last ring of Extender, without Bar”; the name goes up to the colon."""
    at = text.find(":", words[0].end)
    name = (text[words[0].end :] if at < 0 else text[words[0].end : at]).strip().strip('“”"')
    if not name:
        raise Misread("say what the way is called: way Long: hooked at last ring of Extender",
                      words[0].start, words[0].end)  # fmt: skip
    rest = tuple(word for word in words if at >= 0 and word.start > at)
    way = read_way(name, rest, here)
    others = tuple(own for own in here.piece.ways if own.name != way.name)
    changed = replace(here.piece, ways=(*others, way))
    label = f"Way to wear “{way.name}”" + (f": {text_of(rest)}" if rest else "")
    return Offer(label, lambda: Edited(changed, f"way {way.name}", here.spot))


def read_way(name: str, words: Words, here: Here) -> Way:
    """A way to wear a piece. Raises Misread naming the word, or DomainError why it cannot be."""
    way = Way(name=name[:120])
    for part in at_commas(words):
        way = _way_part(way, part, here)
    as_worn(here.piece, way)  # what does not exist is said now
    return way


def _way_part(way: Way, part: Words, here: Here) -> Way:
    low = [word.low for word in part]
    if low[0] == "without":
        return replace(way, without=(*way.without, *_owners(part[1:], here)))
    if low[:2] == ["taking", "out"]:
        return replace(way, taken_out=(*way.taken_out, *_owners(part[2:], here)))
    if low[0] == "only":
        return replace(way, only=(*way.only, _only(part[1:], here)))
    if low[:2] == ["hooked", "at"]:
        return replace(way, hooked=place(part[2:], here).place)
    if part[0].whole and len(part) == 2 and low[1] in ("turn", "turns"):
        if not 1 <= part[0].whole <= 20:
            raise unknown(part, "is not once to 20 times round")
        return replace(way, wraps=part[0].whole)
    if low[0] == "on" and len(part) == 2 and low[1] in FORMS_OF_BODY:
        return replace(way, on=FORMS_OF_BODY[low[1]])
    raise unknown(part, "was not understood; of a way are said without, taking out, hooked at, "
                  "only, 3 turns, on bust or wrist")  # fmt: skip


def _owners(words: Words, here: Here) -> list[str]:
    return [owner_named(part, here.piece) for part in at_signs(words, "and")]


def owner_named(words: Words, piece: Piece) -> str:
    """The run or row that words name: exactly, else the one that begins so. Raises Misread."""
    names = [own.name for own in piece.owners]
    names += [run.name for run, _ in written_out(piece) if run.name not in names]
    low = " ".join(word.low for word in words)
    exact = [name for name in names if name.lower() == low]
    found = exact or [name for name in names if low and name.lower().startswith(low)]
    if not found:
        raise unknown(words, f"is no run or row; there is {', '.join(names[:8]) or 'none'}")
    if len(found) > 1 and not exact:
        raise unknown(words, f"may be {' or '.join(found[:4])}: say more of its name")
    return found[0]


def _only(words: Words, here: Here) -> WornCount:
    """“12 repeats of Strand”, “1st to 12th hook link”: of the first thing that has a count."""
    if words and words[0].sort == "nth":
        if len(words) < 3 or words[0].nth != 1 or words[1].low != "to" or words[2].sort != "nth":
            raise unknown(words, "says no count: only 1st to 12th hook link")
        return _repeat_of(words[2].nth, words[3:], here)
    head: Words = words
    of: Words = ()
    at = next((k for k, word in enumerate(words) if word.low == "of"), None)
    if at is not None:
        head, of = words[:at], words[at + 1 :]
    if not head or not head[0].whole or not of:
        raise unknown(words, "says no count: only 12 repeats of Strand")
    count, owner = head[0].whole, owner_named(of, here.piece)
    held = here.piece.owner(owner)
    if held is None:
        raise DomainError(f"“{owner}” is made by a rule: say it of a run")
    spots = [*([(0, held.on_fold)] if held.on_fold is not None else []),
             *enumerate(held.own_items, 1)]  # fmt: skip
    named = head[1].low.rstrip("s") if len(head) > 1 else ""
    kinds = {"link": (ChainItem,), "ring": (RingItem,), "repeat": (RepeatItem,)}
    for kind in kinds.get(named, (RepeatItem, ChainItem, RingItem)):
        for number, item in spots:
            if isinstance(item, kind):
                return WornCount(of=Quantity(run=owner, item=number), count=count)
    raise DomainError(f"nothing of “{owner}” has a count")


def _repeat_of(count: int, words: Words, here: Here) -> WornCount:
    """The repeat whose things words name: so many of them are worn."""
    for owner in here.piece.owners:
        for number, item in enumerate(owner.own_items, 1):
            thing = here.things.get(ref_of(item)) if isinstance(item, RepeatItem) else None
            if thing is not None and means(words, thing):
                return WornCount(of=Quantity(run=owner.name, item=number), count=count)
    raise unknown(words, "is nothing that is repeated here")
