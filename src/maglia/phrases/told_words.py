"""Things, threads and places as phrases name them, read back where there is more than one way."""

from collections.abc import Iterator, Sequence
from typing import Any

from msgspec.structs import replace

from maglia.core.assembly.places import CLOSURE, mirror_hole
from maglia.core.assembly.ports import ALONG, GAP, RIDES
from maglia.core.assembly.rows import flattened, written_out
from maglia.core.parts.parts import Connector
from maglia.core.parts.units import Things
from maglia.core.piece.items import (
    Bare,
    ChainItem,
    ConnectorItem,
    Item,
    Knot,
    PartItem,
    RepeatItem,
    RingItem,
    StrungEnd,
    StrungItem,
    UnitItem,
    WeaveItem,
    WeaveRole,
)
from maglia.core.piece.piece import (
    Piece,
    Place,
    Run,
    catalogue,
)
from maglia.core.values.record import DomainError
from maglia.core.weaves.kinds import SORTS
from maglia.core.workshop.tray import Tray
from maglia.phrases.here import Here
from maglia.phrases.items import item_for, ref_of
from maglia.phrases.names import said as named
from maglia.phrases.places import COUNTED, countable, place
from maglia.phrases.stands import standing
from maglia.phrases.told_parts import Untold, called, figure
from maglia.phrases.weaving import usual_ends
from maglia.phrases.words import words_of


def nth(number: int) -> str:
    ends = {1: "st", 2: "nd", 3: "rd"}
    return f"{number}{'th' if 10 < number % 100 < 14 else ends.get(number % 10, 'th')}"


class Wording:
    """The words for what stands in a piece: its things by their names, places on what is made so
    far."""

    things: Things
    made: Piece
    tray: Tray

    @classmethod
    def of(cls, piece: Piece) -> "Wording":
        """The words for what stands in a whole piece."""
        own = cls.__new__(cls)
        own.things, own.made, own.tray = catalogue(piece), piece, Tray()
        return own

    def name(self, ref: str | None) -> str:
        return called(ref or "", self.things)

    def items(self, items: Sequence[Item], *, hanging: bool = False) -> str:
        return ", ".join(self._item(item, hanging=hanging) for item in items)

    def _item(self, item: Item, *, hanging: bool = False) -> str:
        if isinstance(item, ChainItem):
            begun = f" from link {item.first_phase + 1}" if item.first_phase else ""
            return f"{item.links} {self.name(item.part)}{begun}"
        if isinstance(item, RingItem):
            if item.count > 1 and item.abreast > 1:
                return f"{item.count} x ({item.abreast} {self.name(item.part)} abreast)"
            if item.abreast > 1:
                return f"{item.abreast} {self.name(item.part)} abreast"
            return (
                f"{item.count} {self.name(item.part)}" if item.count > 1 else self.name(item.part)
            )
        if isinstance(item, UnitItem):
            return self.name(item.unit)
        if isinstance(item, PartItem):
            return self.name(item.part)
        if isinstance(item, RepeatItem):
            if any(isinstance(one, StrungItem) for one in flattened(item.items)):
                raise Untold("a repeat of what is strung")
            return f"{item.times} x ({self.items(item.items, hanging=hanging)})"
        if isinstance(item, ConnectorItem):
            usual = item_for(self.things[item.part], None, hanging=hanging)
            if not item.hole_in or replace(item, wound=None) == usual:
                return self.name(item.part)
            return f"{self.name(item.part)} {named(item.hole_in)} to {named(item.hole_out)}"
        raise Untold("what is strung within other things")

    def woven(self, item: WeaveItem, piece: Piece) -> str:
        """A weave in the words of its phrase."""
        said = [f"weave {item.weave} {item.rows} {SORTS[item.weave].rows}"]
        if item.abreast != SORTS[item.weave].abreast:
            many = {"shaggy loops": "tufts", "four in one": "across"}.get(item.weave, "abreast")
            said.append(f"{item.abreast} {many}")
        said += ["closed"] if item.closes and item.weave != "stretch triangles" else []
        usual = 0 if item.closes else usual_ends(item.weave, item.roles, piece)
        said += [f"{item.end_rings} ends"] if item.end_rings != usual else []
        rings = ", ".join(self._role(role) for role in item.roles)
        return f"{' '.join(said)}: {rings}"

    def _role(self, role: WeaveRole) -> str:
        word = {"end ring": "end ", "ring": ""}.get(role.role, f"{role.role} ")
        ready = f" {role.readiness}" if role.readiness else ""
        return f"{word}{self.name(role.part)}{ready}"

    def strung(self, item: StrungItem) -> str:
        ones = (*item.lead, *item.pattern * item.times, *item.tail)
        ones = ones[item.off : len(ones) - item.off] if item.off else ones
        said = ", ".join(self._ones(ones, item))
        made = "" if item.made == "plain" else f" {item.made}"
        strands = {1: "", 2: " doubled", 3: ""}.get(item.strands, "?")
        if strands == "?" or (item.strands == 3) != (item.made == "braided"):
            raise Untold(f"{item.strands} strands of “{self.things[item.thread].name}”")
        near, far = item.ends
        ends = " and ".join(dict.fromkeys(self._end(end) for end in (near, far)))
        return f"string {said} on {self.name(item.thread)}{made}{strands}, ends {ends}"

    def _ones(self, ones: Sequence[Any], item: StrungItem) -> Iterator[str]:
        """What follows along a thread, like things together; what rides stands before its host."""
        k = 0
        riding = ""
        while k < len(ones):
            one, count = ones[k], 1
            if isinstance(one, Bare):
                mm = one.mm
                while k + 1 < len(ones) and isinstance(ones[k + 1], Bare):
                    k, mm = k + 1, mm + ones[k + 1].mm
                yield f"{figure(round(mm, 6))} mm bare"
            elif isinstance(one, str) and one in item.over:
                riding = f"{self.name(one)} over "
            else:
                while not riding and k + 1 < len(ones) and ones[k + 1] == one:
                    k, count = k + 1, count + 1
                name = "knot" if isinstance(one, Knot) else self.name(one)
                yield f"{riding}{f'{count} ' if count > 1 else ''}{name}"
                riding = ""
            k += 1
        if riding:
            raise Untold("what rides over nothing")

    def _end(self, end: StrungEnd) -> str:
        name = f"{self.name(end.end)} " if end.end else ""
        finish = "slip knot" if end.finish == "slip knot" else end.finish
        if finish == "goes on":
            raise Untold("a thread that goes on through a connector")
        return f"{name}{finish}"

    def numbers(self, run: str, item: int, numbers: Sequence[int]) -> str:
        """“links 4 10 16 of “Strand””: places on one chain or ring item."""
        found = [self.place(Place(run=run, item=item, at=number)) for number in numbers]
        heads = [one.split(" of ", 1) for one in found]
        if all(head[0].startswith("link ") for head in heads):
            figures = " ".join(head[0].removeprefix("link ") for head in heads)
            return f"links {figures} of {heads[0][1]}"
        if len(found) == 1:
            return found[0]
        raise Untold(f"places of “{run}” that are no links of chain")

    def place(self, at: Place, lies: str | None = None) -> str:
        """The words for a place; read back, they are that place, where a run `lies` so. Raises
        Untold."""
        if at.run == CLOSURE:
            return at.port or "catch"
        for said in self._places(at):
            text = f"{said} of {named(at.run)}" + (f" on the {at.side}" if at.side else "")
            try:
                found = place(words_of(text), Here(self.made, self.tray, script=True))
            except DomainError:
                continue
            if _same_place(found.place, at) and lies in (None, found.lies):
                return text
        raise Untold(f"a place on “{at.run}”")

    def _places(self, at: Place) -> Iterator[str]:
        run = next((r.run for r in written_out(self.made) if r.run.name == at.run), None)
        items = dict(standing(run)) if run is not None else {}
        item = items.get(at.item)
        if run is None or item is None:
            raise Untold(f"a place on “{at.run}”")
        if isinstance(item, ChainItem | StrungItem):
            if at.port == ALONG:
                yield f"{at.at} mm"
            for kind, (wanted, port) in COUNTED.items():
                if isinstance(item, wanted) and port == (GAP if at.port == GAP else None):
                    yield from _counted(kind, wanted, items, at)
            return
        target = self.thing(run.name, at.item, at.at).removesuffix(f" of {named(run.name)}")
        thing = catalogue(self.made).get(ref_of(item))
        if at.port is None:
            yield target
        elif isinstance(thing, Connector):
            partner = mirror_hole(thing, at.port)
            yield f"{named(at.port)} of {target}"
            yield f"{named(str(partner))} and {named(at.port)} of {target}"
        else:
            words = {"a": "near loop", "b": "far loop"}.get(at.port, at.port)
            yield f"{words} of {target}"

    def made_run(self, name: str) -> Run:
        """A run of what is made so far, those that rules make among them. Raises Untold."""
        for one in written_out(self.made):
            if one.run.name == name:
                return one.run
        raise Untold(f"what is on “{name}”")

    def stands_at(self, name: str, number: int) -> Item:
        """What stands on a run at a number. Raises Untold."""
        found = dict(standing(self.made_run(name))).get(number)
        if found is None:
            raise Untold(f"item {number} of “{name}”")
        return found

    def thing(self, name: str, number: int, at: int) -> str:
        """“2nd “rose link” of “Strand””: the thing that stands at an item."""
        run = self.made_run(name)
        if (number == 0 and at == 0) or (number == 0 and not isinstance(run.centre, RingItem)):
            return f"fold of {named(name)}"
        item = self.stands_at(name, number)
        ref, own = ref_of(item), catalogue(self.made)
        passed = 0
        for k, other in standing(run):
            if ref_of(other) != ref:
                continue
            count = other.count if isinstance(other, RingItem) else 1
            if k == number:
                passed += max(at, 1) if isinstance(other, RingItem) else 1
                break
            passed += count // 2 if k == 0 else count
        return f"{nth(passed)} {called(ref, own)} of {named(name)}"


def _counted(kind: str, wanted: type[Item], items: dict[int, Item], at: Place) -> Iterator[str]:
    """“link 6”: the number of a link or bead, counted outward over all that comes before."""
    passed = 0
    for number, item in items.items():
        if not isinstance(item, wanted):
            continue
        ones = countable(item, on_fold=number == 0, knots=kind == "knot")
        if number == at.item:
            if at.at == 0:
                yield f"{kind} 0"
            elif at.at in ones:
                yield f"{kind} {passed + ones.index(at.at) + 1}"
            return
        passed += len(ones)


def _same_place(one: Place, other: Place) -> bool:
    if one.port in (RIDES, None) and other.port in (RIDES, None):
        return (one.run, one.item, one.at, one.side) == (
            other.run, other.item, other.at, other.side)  # fmt: skip
    same = replace(one, at=0) == replace(other, at=0)
    return same and (one.at == other.at or one.port not in (GAP, ALONG))
