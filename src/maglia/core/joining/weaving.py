"""How a strip is woven, in words: what the open rings of a row take, of the strip and new."""

from collections import Counter
from collections.abc import Mapping, Sequence

from maglia.core.assembly.assembly import Assembly, InWeave, Member
from maglia.core.assembly.kinds.weave import weave_words
from maglia.core.joining.marked import place_of
from maglia.core.joining.order import Closing
from maglia.core.joining.step import Step
from maglia.core.joining.words import Taken, Words, listed
from maglia.core.weaves.kinds import SORTS
from maglia.core.weaves.pitch import pitch_of


def woven_of(assembly: Assembly, closing: Closing) -> InWeave | None:
    """Where the ring that is closed stands in a weave."""
    return assembly.members[closing.opener.member].woven


class Weaving:
    """The words for the strips of one plan, in its order."""

    def __init__(self, assembly: Assembly, words: Words) -> None:
        self.assembly, self.words = assembly, words
        self._begun: set[int] = set()
        """Rings that hang in a strip already."""

    def step(self, batch: Sequence[Closing], takes: tuple[Taken, ...], minutes: float) -> Step:
        """Rows alike as one step."""
        first = woven_of(self.assembly, batch[0])
        assert first is not None
        by_row: dict[int, list[Closing]] = {}
        for closing in batch:
            if own := woven_of(self.assembly, closing):
                by_row.setdefault(own.row, []).append(closing)
        rows, row = list(by_row), by_row[first.row]
        how = [*self._folded(first, rows), *map(self._says, row)]
        if len(rows) > 1:
            each = [*self._folded(first, rows[1:]), *map(self._says, by_row[rows[1]])]
            if each != how:
                how += [f"Then each: {each[0][0].lower()}{each[0][1:]}", *each[1:]]
        self._begun.update(member for closing in batch for member in self._members(closing))
        called = SORTS[first.item.weave].rows
        span = f"{called.removesuffix('s')} {rows[0] + 1}"
        if len(rows) > 1:
            span = f"{called} {rows[0] + 1} to {rows[-1] + 1}"
        member = self.assembly.members[batch[0].opener.member]
        says = how[0] if len(how) == 1 else f"Weave {weave_words(first.item)}, {span}."
        return Step(
            id=f"weave/{place_of(member, batch[0].opener.port)}", stage=batch[0].stage,
            verb="close", says=says, where=f"{self.words.run([member.run])}, {span}",
            how=tuple(how) if len(how) > 1 else (), count=len(rows), closings=tuple(batch),
            takes=takes, new=(member.id,), in_hand=self._in_hand(row), minutes=minutes,
        )  # fmt: skip

    def row(self, closings: Sequence[Closing]) -> list[str]:
        """One row by itself: all that lies before it in the strip is woven."""
        first = woven_of(self.assembly, closings[0])
        assert first is not None
        before = {m.id for m in self.assembly.members if m.woven is not None
                  and m.woven.weave == first.weave and m.woven.place < first.place}  # fmt: skip
        begins = not any(self.assembly.members[m].woven.opened for m in before)  # type: ignore[union-attr]
        self._begun = set() if begins else before
        return [*self._folded(first, [first.row]), *map(self._says, closings)]

    def look(self, batch: Sequence[Closing], minutes: float) -> Step:
        """After so many rows: are they all there, and do they lie as they should?"""
        own = woven_of(self.assembly, batch[-1])
        assert own is not None
        member, done = self.assembly.members[batch[-1].opener.member], own.row + 1
        pitch = pitch_of(own.item, self.assembly.things)
        so_far = pitch.mm * done if pitch else None
        about = f", about {self.words.mm(so_far)}" if so_far is not None else ""
        called = SORTS[own.item.weave].rows
        says = f"Look: {done} {called}{about}. No ring is missed, none is turned."
        name = f"look/{place_of(member, batch[-1].opener.port)}"
        return Step(name, batch[0].stage, "look", says, measure_mm=so_far,
                    in_hand=self._in_hand(batch[-1:]), minutes=minutes)  # fmt: skip

    def _members(self, closing: Closing) -> list[int]:
        """The ring that is closed, then all that it takes."""
        joints = [self.assembly.joints[n] for n in closing.joins]
        taken = [member for joint in joints for member in (joint.a, joint.b)]
        return list(dict.fromkeys([closing.opener.member, *taken]))

    def _in_hand(self, row: Sequence[Closing]) -> tuple[int, ...]:
        return tuple(dict.fromkeys(m for closing in row for m in self._members(closing)))

    def _folded(self, own: InWeave, rows: Sequence[int]) -> list[str]:
        """Rubber is folded over its ring before the small ones close."""
        if own.item.weave != "stretch triangles":
            return []
        large = self.words.part(own.item.part_of("large") or "")
        rubber = self.words.part(own.item.part_of("rubber") or "")
        over = f"the next {large}" if rows[0] else f"each of the first two {large}"
        return [f"Fold three {rubber} over {over}: each has both its ends outward."]

    def _says(self, closing: Closing) -> str:
        own = self.assembly.members[closing.opener.member]
        hanging, fresh, first = Counter[str](), Counter[str](), Counter[str]()
        for index in self._members(closing)[1:]:
            other = self.assembly.members[index]
            kind = first if _closes(own, other) else hanging if index in self._begun else fresh
            kind[self._name(other)] += 1
        self._begun.update(self._members(closing))
        both = "both ends of " if own.woven and own.woven.item.weave == "stretch triangles" else ""
        said = [f"{both}{_many(hanging)} of the strip"] if hanging else []
        said += [f"{both}{_many(fresh)}{', new' if hanging else ''}"] if fresh else []
        said += [f"{both}{_many(first)} of the first row"] if first else []
        said_own = self.words.part(own.ref)
        if own.woven is not None and len(own.woven.item.roles) > 2:
            said_own = f"{own.woven.role}, {said_own}"
        says = f"Take an open {said_own}. Let it take {listed(said)}. Close it."
        if first:
            says += " The strip closes on itself: see first that it is not twisted."
        return says

    def _name(self, member: Member) -> str:
        """A ring; in a weave of several sorts what it is there, with its letter."""
        assert member.woven is not None
        if len(member.woven.item.roles) <= 2:
            return self.words.part(member.ref)
        return f"{member.woven.role} ({self.assembly.letters.get(member.ref, '')})"


def _closes(own: Member, other: Member) -> bool:
    """Whether a ring is of the row that the strip began with, and this one of its last."""
    here, there = own.woven, other.woven
    return bool(here and there and here.item.closes and there.row == 0 and here.row > 1)


def _many(counted: Mapping[str, int]) -> str:
    return listed([f"{number} × {name}" for name, number in counted.items()])
