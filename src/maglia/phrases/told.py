"""A piece as the phrases that make it: what is new on the bench, how it is begun, its runs and rows
in the order in which they hang from each other, how it closes, its wishes, what was kept.

Every phrase is said as it is told, so that the next one is told of what is there. What no phrase
says is named.
"""

from collections import Counter
from collections.abc import Sequence
from typing import Any

from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.assembly.places import CLOSURE, mirror_hole
from maglia.core.assembly.ports import RIDES
from maglia.core.assembly.rows import flattened, written_out
from maglia.core.edits.rearrange import turned
from maglia.core.edits.spots import Spot
from maglia.core.fit.wishes import written
from maglia.core.parts.parts import Connector
from maglia.core.piece.items import (
    ChainItem,
    ConnectorItem,
    Item,
    RepeatItem,
    RingItem,
    StrungItem,
    WeaveItem,
)
from maglia.core.piece.needed import made_of
from maglia.core.piece.piece import (
    DropRow,
    Owner,
    Piece,
    Place,
    Run,
    SwagRow,
    TiedRows,
    catalogue,
)
from maglia.core.values.record import DomainError
from maglia.core.values.references import things_named
from maglia.core.weaves.kinds import SORTS
from maglia.core.weaves.pitch import is_void
from maglia.core.workshop.tray import Tray
from maglia.phrases.beginning import HANGS_ON
from maglia.phrases.here import Here
from maglia.phrases.items import ref_of
from maglia.phrases.names import said as named
from maglia.phrases.phrase import only_offer
from maglia.phrases.same import differs
from maglia.phrases.script import with_kept
from maglia.phrases.told_parts import Untold, called, figure, part_told, unit_told, wearer_told
from maglia.phrases.told_words import Wording


def told(piece: Piece) -> list[str]:
    """The phrases that make a piece. Raises Untold naming what no phrase says."""
    teller = _Teller(piece)
    teller.bench()
    teller.begin()
    teller.owners()
    teller.rest()
    if difference := differs(piece, teller.made):
        raise Untold(difference)
    return teller.phrases


class _Teller(Wording):
    """Tells a piece phrase by phrase, and makes it again by them."""

    def __init__(self, piece: Piece) -> None:
        self.piece, self.things = piece, catalogue(piece)
        self.phrases: list[str] = []
        self.made, self.tray = Piece(), Tray()
        self.spot: Spot | None = None
        names = Counter(thing.name.lower() for thing in self.things.values())
        twice = [thing.name for thing in self.things.values() if names[thing.name.lower()] > 1]
        if twice:
            raise Untold(f"two things of one name, “{twice[0]}”: rename one")

    def say(self, phrase: str) -> None:
        """Tell a phrase, and do what it says. Raises Untold if it cannot be done."""
        try:
            offer = only_offer(phrase, Here(self.made, self.tray, self.spot, script=True))
            edited = offer.do()
            expand(edited.piece)
        except DomainError as fault:
            raise Untold(f"“{phrase}”: {fault}") from None
        self.phrases.append(phrase)
        self.made, self.spot = edited.piece, edited.spot
        self.tray = with_kept(self.tray, offer.keeps)

    # --- the bench, and how it is begun -------------------------------------------------------

    def bench(self) -> None:
        self.say(wearer_told(self.piece.wearer))
        used = made_of(sorted(things_named((self.piece.owners, self.piece.closure))), self.things)
        kept = {thing.id for thing in used}
        ordered = [*used, *(t for t in self.things.values() if t.id not in kept)]
        parts = {part.id for part in self.piece.parts}
        for thing in made_of([thing.id for thing in ordered], self.things):
            self.say(part_told(thing) if thing.id in parts else unit_told(thing, self.things))  # type: ignore[arg-type]

    def begin(self) -> None:
        piece = self.piece
        sort = "earrings" if piece.pair and piece.sort == "earring" else piece.sort
        first = next((run for run in piece.runs if run.kind == "strand"), None)
        free = " free" if not piece.rows and first is not None and first.lies == "free" else ""
        said = f"begin {sort}{free} for “{piece.wearer.role}”"
        said += f", {piece.wraps:g} turns" if piece.wraps != 1.0 else ""
        said += ", wire from the spool" if piece.wire_from == "spool" else ""
        self.say(f"{said}, called {named(piece.name)}")
        form = piece.form
        if form != type(form)(kind=HANGS_ON[piece.sort]):
            parts = [f"hang on {form.kind}"]
            parts += [f"pins {figure(form.pins_mm)}"] if form.pins_mm is not None else []
            parts += [f"{form.neckline} neckline"] if form.neckline != "straight" else []
            parts += [form.posture] if form.posture != "easy" else []
            parts += [form.laid] if form.laid != "open" else []
            shifts = (("neck", form.neck_shift_mm), ("chest", form.chest_shift_mm))
            parts += [f"{word} shift {figure(value)}" for word, value in shifts if value]
            self.say(", ".join(parts))

    # --- runs and rows ------------------------------------------------------------------------

    def owners(self) -> None:
        """Each once what it hangs from is there. What hangs from the catch waits for it."""
        left: list[Owner] = list(self.piece.owners)
        there: set[str] = set()
        closed = False
        while left:
            ready = next((o for o in left if self._hosts(o) <= there), None)
            if ready is None and not closed:
                self.close()
                closed = True
                there.add(CLOSURE)
                continue
            if ready is None:
                raise Untold(f"how “{left[0].name}” hangs")
            left.remove(ready)
            self.owner(ready)
            there |= {ready.name, *(r.run.name for r in written_out(self.made))}
        if not closed:
            self.close()

    def _hosts(self, owner: Owner) -> set[str]:
        if isinstance(owner, Run):
            return {at.run for at in (owner.start, owner.end) if at is not None}
        if isinstance(owner, TiedRows):
            places = (owner.carried, owner.end)
            return {at.run for at in places if at is not None}
        return {owner.run}

    def owner(self, owner: Owner) -> None:
        if isinstance(owner, DropRow):
            self._drop_row(owner)
        elif isinstance(owner, SwagRow):
            host = self.numbers(owner.run, owner.item, owner.places)
            self.say(f"swags {self.items(owner.items)} between {host}, called {named(owner.name)}")
            if owner.overrides:
                raise Untold(f"single swags of “{owner.name}” done otherwise")
        elif isinstance(owner, TiedRows):
            self._tied(owner)
        elif not self.made.runs and not self.made.rows:
            self._first(owner)
        else:
            self._run(owner)

    def _first(self, run: Run) -> None:
        if run.start is not None or run.end is not None:
            raise Untold(f"“{run.name}”, which comes before what it hangs from")
        items = ([run.centre] if run.centre is not None else []) + list(run.items)
        if run.lies != "fold" and self.piece.sort in ("earring", "pendant"):
            head, items = (items[:1], items[1:])
            first = head[0]
            said = self.strung(first) if isinstance(first, StrungItem) else self.items(head)
            self.say(f"strand {said.removeprefix('string ')}")
        self._along(items)
        self._rename(self.made.runs[0].name, run.name)

    def _rename(self, now: str, wanted: str) -> None:
        if now != wanted:
            self.say(f"rename {now} to {wanted}")

    def _weave(self, item: WeaveItem) -> None:
        self.say(self.woven(item, self.piece))
        if item.swatch is not None:
            if is_void(item.swatch, item, self.things):
                raise Untold("a swatch of other rings")
            rows = SORTS[item.weave].rows
            self.say(f"swatch {item.swatch.rows} {rows} {figure(item.swatch.mm)} mm")

    def _along(self, items: Sequence[Item]) -> None:
        """Items one after the other: things in one phrase, what is strung in one of its own."""
        together: list[Item] = []
        for item in items:
            if isinstance(item, StrungItem):
                if together:
                    self.say(f"put {self.items(together)}")
                    together = []
                self.say(self.strung(item))
            elif isinstance(item, WeaveItem):
                if together:
                    self.say(f"put {self.items(together)}")
                    together = []
                self._weave(item)
            else:
                together.append(item)
                if isinstance(item, ConnectorItem) and item.wound is not None:
                    self.say(f"put {self.items(together)}")
                    together = []
                    self._wind(item)
        if together:
            self.say(f"put {self.items(together)}")

    def _wind(self, item: ConnectorItem) -> None:
        wound = item.wound
        assert wound is not None
        beads = f", {wound.beads} {self.name(wound.bead)}" if wound.bead else ""
        self.say(f"wind {wound.turns} turns of {self.name(wound.wire)}{beads}")

    def _run(self, run: Run) -> None:
        name = f", called {named(run.name)}"
        if run.kind == "extender" and run.start is not None and run.start.run == CLOSURE:
            head, tail = self._head(run.items, run)
            self.say(f"extender {self.items(head)}{name}")
        elif run.kind == "strand":
            self._strand(run, name)
            return
        elif run.kind in ("swag", "tie"):
            head, tail = list(run.items), []
            self._swag(run, name)
        elif run.start is not None and (run.start.port or "").startswith(RIDES):
            head, tail = self._head(run.items, run)
            self.say(f"slide {self.items(head)} {self._rides(run.start)}{name}")
        elif run.start is not None and run.kind == "drop":
            head, tail = self._head(run.items, run)
            where = self.place(run.start, _wanted(run))
            said = f"{self.items(head, hanging=True)} at {where}{name}"
            try:
                self.say(f"drop {said}")
            except Untold as fault:
                if "nothing opens" not in str(fault):
                    raise
                self.say(f"drop straight {said}")
        else:
            raise Untold(f"how “{run.name}” hangs")
        if tail:
            self.say(f"at end of {named(run.name)}")
            self._along(tail)
        for number, item in enumerate(flattened(run.items), 1):
            if isinstance(item, ConnectorItem) and item.wound is not None and item in head:
                self.say(f"at {self.thing(run.name, number, 1)}")
                self._wind(item)

    def _head(self, items: Sequence[Item], run: Run) -> tuple[list[Item], list[Item]]:
        """What stands before the first thing that is strung, and the rest."""
        cut = next((k for k, item in enumerate(items) if isinstance(item, StrungItem)), len(items))
        if cut == 0:
            raise Untold(f"“{run.name}”, which begins with what is strung")
        return list(items[:cut]), list(items[cut:])

    def _strand(self, run: Run, name: str) -> None:
        items = ([run.centre] if run.centre is not None else []) + list(run.items)
        if run.start is not None and run.end is not None:
            where = f"from {self.place(run.start)} to {self.place(run.end)}"
        elif run.end is not None:
            where = f"at {self.place(run.end)}"
        else:
            raise Untold(f"“{run.name}”, a strand that ends nowhere")
        first, rest = items[0], items[1:]
        if isinstance(first, StrungItem):
            self.say(f"{self.strung(first).replace('string', 'strand', 1)}, {where}{name}")
            self._along(rest)
        elif any(isinstance(item, StrungItem) for item in rest):
            raise Untold(f"“{run.name}”, strung behind other things")
        else:
            self.say(f"strand {self.items(items)} {where}{name}")

    def _swag(self, run: Run, name: str) -> None:
        verb = run.kind
        if run.centre is not None and run.end is not None and run.start is None:
            legs = [turned(item) for item in reversed(run.items)]
            end = run.end
            two = isinstance(run.centre, ConnectorItem) and (end.at == 0 or end.port is not None)
            if two:
                item = self.stands_at(end.run, end.item)
                held = catalogue(self.made).get(ref_of(item))
                pair = isinstance(held, Connector) and (
                    mirror_hole(held, end.port or "") not in (None, end.port)
                )
                self._two_legs([*legs, run.centre], end, "paired" if pair else None, name)
                return
            items = [*legs, run.centre, *run.items]
            left, right = (f"{self.place(end)} on the {side}" for side in ("left", "right"))
            self.say(f"{verb} {self.items(items)} from {left} to {right}{name}")
            return
        if run.start is None or run.end is None:
            raise Untold(f"how “{run.name}” hangs")
        middle = run.items[len(run.items) // 2]
        if run.start == run.end and isinstance(middle, ConnectorItem):
            self._two_legs(
                list(run.items[: len(run.items) // 2 + 1]), run.start, _wanted(run), name
            )
            return
        where = f"from {self.place(run.start, _wanted(run))} to {self.place(run.end, _wanted(run))}"
        self.say(f"{verb} {self.items(run.items)} {where}{name}")

    def _two_legs(self, items: list[Item], at: Place, lies: str | None, name: str) -> None:
        last = items[-1]
        assert isinstance(last, ConnectorItem)
        by = f"{named(last.hole_in)} and {named(last.hole_out)}"
        legs = [*items[:-1], replace(last, hole_in="", hole_out="")]
        self.say(f"drop {self.items(legs)} by {by} at {self.place(at, lies)}{name}")

    def _rides(self, at: Place) -> str:
        item = self.stands_at(at.run, at.item)
        if at.until is not None:
            ends = [self.place(replace(at, port=None, until=None, at=n))
                    for n in (at.at, at.until)]  # fmt: skip
            sides = (" on the left", " on the right") if at.item == 0 and at.side is None else (
                "", "")  # fmt: skip
            return f"from {ends[0]}{sides[0]} to {ends[1]}{sides[1]}"
        ref = item.thread if isinstance(item, StrungItem) else ref_of(item)
        return f"on {called(ref, catalogue(self.made))} of {named(at.run)}"

    def _drop_row(self, row: DropRow) -> None:
        counts = self._turns_of(row)
        made = row.overrides
        items = self.items(row.items, hanging=True)
        if counts:
            first = next(item for item in row.items if isinstance(item, ChainItem))
            said = f"{first.links} {self.name(first.part)}"
            turns = f"{' '.join(map(str, counts))} {self.name(first.part)}"
            items = items.replace(said, turns, 1)
        name = f", called {named(row.name)}"
        if row.rule == "places":
            self.say(f"drops {items} at {self.numbers(row.run, row.item, row.places)}{name}")
        else:
            host = self.numbers(row.run, row.item, (0 if row.item == 0 else 1,))
            self.say(f"at {host}")
            count = f"{row.count} " if row.count else ""
            rule = f"every {row.every} links" if row.rule == "every" else "spread evenly"
            self.say(f"{count}drops {items} {rule}{name}")
        for one in made:
            side = f" on the {one.side}" if one.side else ""
            if not one.items:
                self.say(f"take out drop {one.number} of {named(row.name)}{side}")
            else:
                self.say(f"replace drop {one.number} of {named(row.name)}{side} by "
                         f"{self.items(one.items, hanging=True)}")  # fmt: skip

    def _turns_of(self, row: DropRow) -> list[int]:
        """Links of the first chain of each drop outward, where steps make them differ."""
        if not row.steps:
            return []
        first = next((item for item in row.items if isinstance(item, ChainItem)), None)
        if first is None:
            return []
        names = [one for one in written_out(self.piece) if one.origin.owner == row.name]
        most = 1 + max((one.origin.ordinal or 0 for one in names), default=0)
        steps = [row.steps[min(k, len(row.steps) - 1)] for k in range(most)]
        return [first.links + step for step in steps]

    def _tied(self, row: TiedRows) -> None:
        if row.but:
            raise Untold(f"single places of “{row.name}” with other rings")
        parts: list[str] = []
        for level, count in enumerate(row.rows):
            unit = self.name(row.unit_of(level))
            if parts and parts[-1].endswith(f" {unit}"):
                parts[-1] = f"{parts[-1].removesuffix(unit)}{count} {unit}"
            else:
                parts.append(f"{count} {unit}")
        said = f"rows {', '.join(parts)}"
        said += f", joined by {' '.join(map(str, row.between))} {self.name(row.ring)}"
        said += f", hung by {' '.join(map(str, row.hang))} {self.name(row.hang_ring)}"
        if row.carried is not None:
            host = self.numbers(row.carried.run, row.carried.item, row.carried.places)
            said += f", at {host} with {row.carried.rings} {self.name(row.carried.ring)}"
        elif row.end is not None:
            said += f", at {self.place(row.end)}"
        self.say(f"{said}, called {named(row.name)}")
        if row.sides:
            if self.spot is None or self.spot.owner != row.name:
                raise Untold(f"what follows “{row.name}” outward")
            self._along(row.sides)

    # --- how it closes, and what is wished ----------------------------------------------------

    def close(self) -> None:
        closure = self.piece.closure
        if closure.hooked is not None or closure.clasp_side != "right":
            raise Untold("a clasp that is hooked elsewhere, or sits on the left")
        ring = f" with {self.name(closure.catch)}" if closure.catch else ""
        if closure.kind == "clasp":
            if closure.clasp is None:
                raise Untold("a closure by a clasp that is not chosen")
            right = [self.items(closure.at_clasp)] if closure.at_clasp else []
            left = [self.items(closure.at_catch[::-1])] if closure.at_catch else []
            into = self.name(closure.catch) if closure.catch else "end"
            middle = f"{self.name(closure.clasp)} into {into}"
            self.say(f"close {', '.join([*right, middle, *left])}")
        elif closure.kind == "continuous":
            self.say(f"close on itself{ring}")
        elif closure.kind != "open":
            self.say(f"close {closure.kind}{ring}")

    def rest(self) -> None:
        """Ways, wishes, findings that are kept, the note."""
        piece = self.piece
        for way in piece.ways:
            said = [f"without {' and '.join(named(n) for n in way.without)}"] if way.without else []
            said += [f"taking out {' and '.join(named(n) for n in way.taken_out)}"] if (
                way.taken_out) else []  # fmt: skip
            said += [f"hooked at {self.place(way.hooked)}"] if way.hooked else []
            said += [self._only(one) for one in way.only]
            said += [f"{way.wraps} turns"] if way.wraps != 1 else []
            said += [f"on {way.on}"] if way.on else []
            self.say(f"way {way.name}" + (f": {', '.join(said)}" if said else ""))
        for fit in piece.fits:
            self.say(written(fit))
            if fit.locked:
                self.say(f"keep {fit.name}")
        for kept in piece.accepted:
            self.say(
                f"accept {kept.code} at “{kept.place}”" + (f": {kept.note}" if kept.note else "")
            )
        for line in piece.note.splitlines():
            self.say(f"note: {line}")
        for told_of, words in ((piece.pinned, "counts that no fit may change"),
                               (piece.heaviest_g, "how heavy it may be")):  # fmt: skip
            if told_of:
                raise Untold(words)

    def _only(self, one: Any) -> str:
        item = self.piece.owner(one.of.run)
        held = item.own_items[one.of.item - 1] if item and one.of.item else None
        kinds = ((RepeatItem, "repeats "), (ChainItem, "links "), (RingItem, "rings "))
        words = next((word for kind, word in kinds if isinstance(held, kind)), "")
        return f"only {one.count} {words}of {named(one.of.run)}"


def _wanted(run: Run) -> str | None:
    """How a place must lie for a run to hang there: paired, if both its copies do."""
    return "paired" if run.lies == "paired" else None
