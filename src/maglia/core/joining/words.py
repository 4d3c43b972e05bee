"""How parts and places are called where somebody joins them, with the letter of each part."""

from collections.abc import Iterable, Sequence
from itertools import groupby
from typing import Literal, NamedTuple

from maglia.core.assembly.assembly import Assembly, Member, link_from_fold
from maglia.core.assembly.places import CLOSURE
from maglia.core.assembly.ports import Port, gap_number, mm_along, stops_of
from maglia.core.joining.openers import Opener, is_catch
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import BeadLink
from maglia.core.piece.items import Bare, Knot, StrungItem, Threaded
from maglia.core.values.measures import LengthUnit, format_length, format_links

Lies = Literal["above", "inner side", "left", "right", "outer side", "below", "beside"]
_RANK: tuple[Lies, ...] = ("above", "inner side", "left", "right", "beside", "outer side", "below")


class Taken(NamedTuple):
    """What a closing takes: a port of a member, how it lies beside the opener, and its words."""

    member: int
    port: Port
    lies: Lies
    words: str


class Words:
    """Names of the members of one assembly; `opened` are those that are closed on the piece."""

    def __init__(self, assembly: Assembly, opened: frozenset[int], unit: LengthUnit = "mm") -> None:
        self.assembly, self.opened, self.unit = assembly, opened, unit
        self._kinds = {run.name: run.kind for run in assembly.runs}

    def mm(self, length: float) -> str:
        """A length as it is shown: “62 mm”."""
        return format_length(length, self.unit, with_unit=True)

    def part(self, ref: str) -> str:
        """A part or unit with its letter: “Ring 4 (c)”."""
        letter = self.assembly.letters.get(ref)
        name = self.assembly.things[ref].name
        return f"{name} ({letter})" if letter else name

    def run(self, runs: Iterable[str]) -> str:
        """Runs in a few words, those of one row as its drops: “Fringe, drops 1 to 3”."""
        found: list[str] = []
        origins = self.assembly.origins
        named = [run for run in dict.fromkeys(runs) if run != CLOSURE]
        for owner, group in groupby(named, lambda run: origins[run].owner):
            own = list(group)
            if own == [owner]:
                found.append(owner)
            elif any(origins[run].level is not None for run in own):
                found += [_of_rows(owner, own, self.assembly)]
            else:
                found.append(owner if len(own) > 1 else self.assembly.run_words(own[0]))
        return listed(found)

    def taken(self, opener: Opener, by: Member, *, several: Sequence[Opener] = ()) -> Taken:
        """What an opener is called when another member takes it there; `several` are the openers
        that the same words must hold for."""
        member = self.assembly.members[opener.member]
        lies = self.lies(member, by)
        return Taken(member.id, opener.port, lies, self.words(opener, by, several or (opener,)))

    def words(self, opener: Opener, by: Member, several: Sequence[Opener]) -> str:
        member = self.assembly.members[opener.member]
        name = self.part(member.ref)
        if member.kind == "chain":
            return self._chain(opener, by, several)
        if member.strung is not None:
            return self._strung(opener)
        if is_catch(self.assembly, member):
            return f"the catch, {name}"
        if member.kind == "ring":
            return self._ring(member) + self._hung_from(several, by)
        if member.kind == "clasp":
            return f"the clasp, {name}, by its eye"
        if member.kind == "connector":
            holes = dict.fromkeys(str(o.port) for o in several)
            return f"the {name} at {_holes(list(holes))}"
        if member.kind in ("bead link", "hook link"):
            loops = {self.loop(o) for o in several}
            return f"the {name} by its {loops.pop() if len(loops) == 1 else 'loop'}"
        return f"the {name}" + (" by its ring" if member.kind == "tassel" else "")

    def loop(self, opener: Opener) -> str:
        """Which of its loops: near or far from the fold, or left and right on it."""
        member = self.assembly.members[opener.member]
        if member.kind == "hook link" and opener.port == "b":
            return "hook"
        if member.kind == "dangle":
            return "loop"
        near = opener.port == "a"
        if member.item == 0:
            return "left loop" if near else "right loop"
        if self._kinds.get(member.run) in ("drop", "extender"):
            return "upper loop" if near else "lower loop"
        return "inner loop" if near else "outer loop"

    def _hung_from(self, rings: Sequence[Opener], by: Member) -> str:
        """Of which run the rings are that something hangs from, if of one."""
        members = [self.assembly.members[o.member] for o in rings]
        runs = {self.run([member.run]) for member in members}
        above = self.lies(members[0], by) == "above" and members[0].made_in is None
        return f" of {runs.pop()}" if above and members[0].run != by.run and len(runs) == 1 else ""

    def _ring(self, member: Member) -> str:
        name = self.part(member.ref)
        unit = self.assembly.things.get(member.made_in or "")
        if isinstance(unit, BeadLink):
            return f"the mid ring of the {self.part(unit.id)}"
        ring = self.assembly.thing(member)
        if isinstance(ring, Ring) and ring.closure == "elastic":
            return f"the rubber ring {name}"
        return f"the {name}" if member.id in self.opened else f"a closed {name}"

    def _chain(self, opener: Opener, by: Member, several: Sequence[Opener]) -> str:
        members = self.assembly.members
        member = members[opener.member]
        name = self.part(member.ref)
        if name.endswith(")") and (links := self._links([members[o.member] for o in several])):
            name = f"{name[:-1]}, {links})"
        if stops_of(opener.port) is not None:
            return f"the {name}"
        within = member.made_in is not None and member.made_in == by.made_in
        ends = opener.port in (1, member.links) and not within
        if ends and not self._hangs_on(member, by):
            end = "top" if self._is_drop(member) and opener.port == 1 else "end"
            end = "last" if self._is_drop(member) and opener.port != 1 else end
            return f"the {end} link of the {name}"
        places = {link_from_fold(members[o.member], int(o.port)) for o in several}
        numbers = {number for _, number in places}
        of = f"the {name}"
        if numbers == {0}:
            return f"the link of {of} on the fold"
        if len(numbers) == 1 and member.item == 0:
            return f"link {numbers.pop()} from the fold of {of}"
        way = self.counted(member)
        return f"link {opener.port} {way} of {of}" if len(numbers) == 1 else f"its link of {of}"

    def counted(self, member: Member) -> str:
        """From where the links of a chain that does not lie on the fold are counted."""
        if self._is_drop(member):
            return "from the top"
        run = self.assembly.run_of.get(member.run)
        return "from the left" if run is not None and run.lies == "free" else "outward"

    def _links(self, chains: Sequence[Member]) -> str:
        """“18 links”; “20 links left, 18 links right” where the sides differ; else nothing."""
        counts = {chain.links for chain in chains}
        if len(counts) == 1:
            return format_links(counts.pop())
        sides: dict[str, set[int]] = {}
        for chain in chains:
            sides.setdefault(self._side(chain), set()).add(chain.links)
        if set(sides) != {"left", "right"} or any(len(own) > 1 for own in sides.values()):
            return ""
        return ", ".join(f"{format_links(sides[side].pop())} {side}" for side in ("left", "right"))

    def _side(self, member: Member) -> str:
        """On which side a member is; of a run of one side, that of its start."""
        run = self.assembly.run_of.get(member.run)
        start = run.start if run is not None else None
        return str(member.side if start is None or start.side is None else start.side)

    def _hangs_on(self, member: Member, by: Member) -> bool:
        """Whether `by` hangs from the member, rather than following it along its run."""
        aside = CLOSURE in (by.run, member.run)
        return member.run != by.run and not aside and not self._ends_at(member, by)

    def _ends_at(self, member: Member, by: Member) -> bool:
        run = self.assembly.run_of.get(member.run)
        places = [] if run is None else [p for p in (run.start, run.end) if p is not None]
        return any(p.run == by.run for p in places)

    def _is_drop(self, member: Member) -> bool:
        return self._kinds.get(member.run) in ("drop", "extender")

    def _strung(self, opener: Opener) -> str:
        member = self.assembly.members[opener.member]
        name = self.part(member.ref)
        if opener.port in ("a", "b"):
            return f"the end of the {name}"
        if (gap := gap_number(opener.port)) is not None:
            return f"the {name} after bead {gap}"
        if (mm := mm_along(opener.port)) is not None:
            return f"the {name} at {self.mm(mm)}"
        return f"the {name}"

    def along(self, item: StrungItem) -> str:
        """What follows along a thread, in full: “2 × Bead, then 15 × (Cluster, 3 × Bead)”."""
        if item.off:
            return ", then ".join(self._runs(item.beads))
        found: list[str] = []
        for one, times in ((item.lead, 1), (item.pattern, item.times), (item.tail, 1)):
            runs = self._runs(one) if times else []
            if times < 2 or not runs:
                found += runs
            elif len(set(one)) == 1:
                found += self._runs(one * times)
            else:
                found.append(f"{times} × ({', '.join(runs)})")
        return ", then ".join(found)

    def _runs(self, threaded: Sequence[Threaded]) -> list[str]:
        found = []
        for one, group in groupby(threaded):
            own = list(group)
            times = f"{len(own)} × " if len(own) > 1 else ""
            if isinstance(one, Bare):
                found.append(f"{self.mm(sum(b.mm for b in own if isinstance(b, Bare)))} bare")
            else:
                found.append(times + ("knot" if isinstance(one, Knot) else self.part(one)))
        return found

    def lies(self, member: Member, by: Member) -> Lies:
        """On which side of `by` a member lies that it takes."""
        if member.run == CLOSURE or by.run == CLOSURE:
            return "outer side" if member.run == CLOSURE else "inner side"
        if member.run != by.run:
            return "above" if self._ends_at(by, member) else "below"
        if member.made_in is not None and member.made_in == by.made_in:
            return "above" if (member.number, member.id) < (by.number, by.id) else "below"
        before = (member.item, member.number) < (by.item, by.number)
        if self._is_drop(by):
            return "above" if before else "below"
        if by.item == 0 and member.side in ("left", "right"):
            return member.side
        run = self.assembly.run_of.get(by.run)
        if run is not None and run.lies == "free":
            return "left" if before else "right"
        return "inner side" if before else "outer side"


def by_side(taken: Iterable[Taken]) -> tuple[Taken, ...]:
    """In threading order: what carries first, then from the inner side outward, what hangs last."""
    return tuple(sorted(taken, key=lambda one: _RANK.index(one.lies)))


def _holes(ports: Sequence[str]) -> str:
    if len(ports) == 1:
        return f"its hole {ports[0]}"
    return f"its own hole ({' or '.join(ports)})" if len(ports) == 2 else "its hole, see below"


def _of_rows(owner: str, runs: Sequence[str], assembly: Assembly) -> str:
    levels = sorted({(assembly.origins[run].level or 0) + 1 for run in runs})
    return f"{owner}, row{'s' if len(levels) > 1 else ''} {numbers(levels)}"


def listed(words: Sequence[str]) -> str:
    """“a, b and c”."""
    return (
        words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}" if words else ""
    )


def numbers(found: Sequence[int]) -> str:
    """Numbers in words, runs of three and more as a range: “1 to 4, 6 and 9”."""
    said: list[str] = []
    for _, group in groupby(enumerate(sorted(found)), lambda pair: pair[1] - pair[0]):
        run = [n for _, n in group]
        said += [f"{run[0]} to {run[-1]}"] if len(run) > 2 else [str(n) for n in run]
    return listed(said)


def a(name: str) -> str:
    """“a Ring”, “an Amber link”."""
    return f"an {name}" if name[:1].lower() in "aeiou" else f"a {name}"
