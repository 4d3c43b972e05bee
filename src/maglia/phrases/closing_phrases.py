"""Closing in one phrase, “close ring 4, lobster into ring 9, 2 ring 4”, once round the strand:
right end, clasp, catch, left end; and ways to wear, “way Long: hooked at link 9 of Extender,
without Bar, only 12 repeats of Strand, 3 turns”.
"""

import re

from msgspec.structs import replace

from maglia.core.assembly.kinds import kind_of
from maglia.core.assembly.rows import flattened, written_out
from maglia.core.edits.spots import Edited, Spot
from maglia.core.parts.parts import Clasp, Ring
from maglia.core.parts.units import Things
from maglia.core.piece.items import ChainItem, Item, RepeatItem, RingItem
from maglia.core.piece.piece import Closure, Piece, Place, Run, Way, WornCount
from maglia.core.piece.wishes import Quantity
from maglia.core.sheets.wear import as_worn
from maglia.core.values.record import DomainError
from maglia.core.values.references import things_named
from maglia.core.workshop.tray import Tray
from maglia.phrases.item_phrases import item_said
from maglia.phrases.offers import Offer, best_match, known_things, with_needed
from maglia.phrases.part_offers import refused

CLOSE = re.compile(r"^close\s+(.+)$", re.IGNORECASE)
WAY = re.compile(r"^way\s+([^:]+):\s*(.*)$", re.IGNORECASE)
TURNS = re.compile(r"^(\d+)\s+turns?$", re.IGNORECASE)
HINT = "close ring 4, lobster into ring 9, 2 ring 4"
WAY_HINT = "way Long: hooked at link 9 of Extender, without Bar, only 12 repeats of Strand, 3 turns"


def closing_offers(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """The closure or the way that a text says; empty if it begins neither."""
    if way := WAY.match(text.strip()):
        try:
            made = read_way(way[1].strip(), way[2], piece)
        except DomainError as fault:
            return [replace(refused(str(fault)), hint=WAY_HINT)]
        others = tuple(own for own in piece.ways if own.name != made.name)
        changed = replace(piece, ways=(*others, made))
        words = f"Way to wear: {made.name}"
        return [Offer(words, None, None, lambda: Edited(changed, f"way {made.name}", spot))]
    if turned := TURNS.match(text.strip()):
        return [_turned(int(turned[1]), piece, spot)]
    close = CLOSE.match(text.strip())
    things = known_things(piece, tray)
    if close is None or not _clasp_within(close[1], things):
        return []
    try:
        closure = read_closing(close[1], things)
    except DomainError as fault:
        return [replace(refused(str(fault)), hint=HINT)]
    return [_closing(closure, piece, things, spot)]


def _turned(turns: int, piece: Piece, spot: Spot | None) -> Offer:
    """“3 turns”: so often round the wrist or ankle."""
    if not 1 <= turns <= 20:
        return refused(f"{turns} turns: once to 20 times")
    words = "worn once round" if turns == 1 else f"wound {turns} times"
    changed = replace(piece, wraps=float(turns))
    return Offer(words.capitalize(), None, None, lambda: Edited(changed, words, spot))


def _closing(closure: Closure, piece: Piece, things: Things, spot: Spot | None) -> Offer:
    beside = [_name(item, things) for item in (*closure.at_clasp, *closure.at_catch)]
    clasp = things[closure.clasp or ""]
    catch = things[closure.catch].name if closure.catch else "the end"
    said = f"Close with {clasp.name} into {catch}" + (f", {', '.join(beside)}" if beside else "")

    def close() -> Edited:
        if not piece.runs and not piece.rows:
            raise DomainError("there is nothing to close yet: begin with what lies on the fold")
        changed = piece
        for ref in sorted(things_named(closure)):
            changed = with_needed(changed, things[ref], things)
        return Edited(replace(changed, closure=closure), f"closed with {clasp.name}", spot)

    return Offer(said, None, clasp, close)


def _name(item: Item, things: Things) -> str:
    return kind_of(item).words(item, things)


def _clasp_within(text: str, things: Things) -> bool:
    return any(_clasp(part, things) for part in text.split(","))


def _clasp(text: str, things: Things) -> Clasp | None:
    return best_match(re.split(r"\binto\b", text)[0].strip(), things.values(), Clasp)


def read_closing(text: str, things: Things) -> Closure:
    """Right end, clasp into catch, left end. Raises DomainError naming what is not known."""
    parts = [part.strip() for part in text.split(",") if part.strip()]
    into = [k for k, part in enumerate(parts) if re.search(r"\binto\b", part, re.IGNORECASE)]
    at = into[0] if into else next(k for k, part in enumerate(parts) if _clasp(part, things))
    clasp = _clasp(parts[at], things)
    if clasp is None:
        raise DomainError(f"no clasp is called “{parts[at]}”")
    said = re.split(r"\binto\b", parts[at], maxsplit=1, flags=re.IGNORECASE)
    catch: Ring | None = None
    if len(said) > 1 and said[1].strip().lower() not in ("end", "the end"):
        catch = best_match(said[1].strip(), things.values(), Ring)
        if catch is None:
            raise DomainError(f"no ring is called “{said[1].strip()}”")
    before = tuple(item_said(part, things) for part in parts[:at])
    after = tuple(item_said(part, things) for part in parts[at + 1 :])
    return Closure(kind="clasp", clasp=clasp.id, catch=catch.id if catch else None,
                   at_clasp=before, at_catch=after[::-1])  # fmt: skip


def read_way(name: str, text: str, piece: Piece) -> Way:
    """A way to wear a piece. Raises DomainError naming the word, or why it cannot be."""
    without: list[str] = []
    taken: list[str] = []
    only: list[WornCount] = []
    hooked, turns = None, 1
    for part in (part.strip() for part in text.split(",") if part.strip()):
        if found := re.fullmatch(r"without\s+(.+)", part, re.IGNORECASE):
            without += [_owner(one, piece) for one in re.split(r"\s+and\s+", found[1])]
        elif found := re.fullmatch(r"taking\s+out\s+(.+)", part, re.IGNORECASE):
            taken += [_owner(one, piece) for one in re.split(r"\s+and\s+", found[1])]
        elif found := re.fullmatch(r"(\d+)\s+turns?", part, re.IGNORECASE):
            turns = int(found[1])
        elif found := re.fullmatch(r"only\s+(\d+)\s+(?:\w+\s+)?of\s+(.+)", part, re.IGNORECASE):
            only.append(_only(int(found[1]), _owner(found[2], piece), piece))
        elif found := re.fullmatch(
            r"hooked\s+at\s+(?:(link|ring)\s+(\d+)|last\s+(link|ring))\s+of\s+(.+)", part,
            re.IGNORECASE,
        ):  # fmt: skip
            kind = (found[1] or found[3]).lower()
            hooked = _hook(
                kind, int(found[2]) if found[2] else None, _owner(found[4], piece), piece
            )
        else:
            raise DomainError(f"“{part}” was not understood")
    if not 1 <= turns <= 20:
        raise DomainError(f"{turns} turns: once to 20 times")
    way = Way(name=name[:120], without=tuple(without), hooked=hooked, wraps=turns, only=tuple(only),
              taken_out=tuple(taken))  # fmt: skip
    as_worn(piece, way)  # what does not exist is said now
    return way


def _owner(said: str, piece: Piece) -> str:
    names = [own.name for own in piece.owners]
    names += [run.name for run, _ in written_out(piece) if run.name not in names]
    low = said.strip().lower()
    exact = [name for name in names if name.lower() == low]
    if found := exact or [name for name in names if name.lower().startswith(low)]:
        return found[0]
    raise DomainError(f"no run or row is called “{said.strip()}”; there is {', '.join(names[:8])}")


def _only(count: int, owner: str, piece: Piece) -> WornCount:
    """Of the first thing of a run that has a count above one."""
    held = piece.owner(owner)
    if held is None:
        raise DomainError(f"“{owner}” is made by a rule: say it of a run")
    spots: list[tuple[int, Item]] = [(k, item) for k, item in enumerate(held.own_items, 1)]
    if held.on_fold is not None:
        spots.insert(0, (0, held.on_fold))
    for kinds in ((RepeatItem,), (ChainItem,), (RingItem,)):
        for number, item in spots:
            if isinstance(item, kinds):
                return WornCount(of=Quantity(run=owner, item=number), count=count)
    raise DomainError(f"nothing of “{owner}” has a count")


def _hook(kind: str, number: int | None, owner: str, piece: Piece) -> Place:
    """A link or ring of a run, counted outward; none: the last."""
    run = piece.run(owner)
    if not isinstance(run, Run):
        raise DomainError(f"“{owner}” is made by a rule: hook it at a run")
    wanted = ChainItem if kind == "link" else RingItem
    items = list(enumerate(flattened(run.items), 1))
    fitting = [(k, item) for k, item in items if isinstance(item, wanted)]
    if not fitting:
        raise DomainError(f"“{owner}” has no {kind}")
    at, item = fitting[-1] if number is None else fitting[0]
    size = item.links if isinstance(item, ChainItem) else getattr(item, "count", 1)
    place = size if number is None else number
    if not 1 <= place <= size:
        raise DomainError(f"{kind} {place} of “{owner}”: it has {size}")
    return Place(run=owner, item=at, at=place)
