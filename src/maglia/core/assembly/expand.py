"""Piece -> assembly: write out rows, lay every part, join the runs, close the piece.

Raises DomainError naming run and item for anything that cannot be built: a part that is not in
the piece, a place or hole that does not exist, a cycle, a run on itself, a paired run on the fold.
"""

from collections.abc import Iterable, Sequence
from itertools import pairwise
from string import ascii_uppercase

from maglia.core.assembly.assembly import Assembly, Joint, Member, Path, Station, Where
from maglia.core.assembly.corrected import corrected_rules, corrected_things
from maglia.core.assembly.hooking import hook
from maglia.core.assembly.kinds import kind_of, size_of
from maglia.core.assembly.layer import FREE, Layer, reversed_stations, turned
from maglia.core.assembly.laying import lay
from maglia.core.assembly.places import CLOSURE, FIRST_AT_CLOSURE, Places, place_words
from maglia.core.assembly.rows import Written, flattened, written_out
from maglia.core.parts.parts import Clasp, Ring
from maglia.core.parts.units import BeadLink, Thing, Things, loops_of
from maglia.core.piece.items import MOST_PARTS
from maglia.core.piece.piece import Closure, Piece, Place, Run, catalogue
from maglia.core.values.record import DomainError
from maglia.core.values.rules import DEFAULT_RULES, Rules

UNIT_KINDS = ("bead link", "hook link", "dangle", "tassel")


def expand(piece: Piece, rules: Rules = DEFAULT_RULES) -> Assembly:
    """Every physical part and joint of the piece, to be checked and counted by some rules. Cost is
    linear in the number of parts."""
    things = corrected_things(_things(piece), piece.corrections)
    rules = corrected_rules(rules, piece.corrections)
    written = written_out(piece)
    runs = {run.name: run for run, _ in written}
    _refuse_too_many(runs.values(), things)
    closing = sum(size_of(i, things) for i in (*piece.closure.at_clasp, *piece.closure.at_catch))
    if closing > MOST_PARTS:
        raise DomainError(f"the closure brings more than {MOST_PARTS:,} parts and links")
    _refuse_cycles(runs)
    laid = Layer(things)
    for run in runs.values():
        lay(laid, run)
    return _Joiner(piece, laid, written, rules).joined()


def _things(piece: Piece) -> dict[str, Thing]:
    things = catalogue(piece)
    if len(things) < len(piece.parts) + len(piece.units):
        seen: set[str] = set()
        for thing in (*piece.parts, *piece.units):
            if thing.id in seen:
                raise DomainError(f"two parts or units share the id “{thing.id}”: rename one")
            seen.add(thing.id)
    return things


def _refuse_too_many(runs: Iterable[Run], things: Things) -> None:
    total = 0
    for run in runs:
        copies = 1 if run.lies in ("fold", "free") else 2
        total += copies * sum(size_of(item, things) for item in run.items)
        total += size_of(run.centre, things) if run.centre else 0
        if total > MOST_PARTS:
            raise DomainError(
                f"run “{run.name}” brings the piece to more than {MOST_PARTS:,} parts and "
                "links; lower a count or a repeat"
            )


def _refuse_cycles(runs: dict[str, Run]) -> None:
    for run in runs.values():
        for place, verb in ((run.start, "starts"), (run.end, "ends")):
            if place is not None and place.run == run.name:
                raise DomainError(f"run “{run.name}” {verb} on itself: name another run")
        trail = [run.name]
        while (start := runs[trail[-1]].start) is not None and start.run != CLOSURE:
            if start.run not in runs:
                raise DomainError(
                    f"run “{trail[-1]}” starts on run “{start.run}”, which does not exist"
                )
            if start.run in trail:
                ring = " on ".join(f"“{name}”" for name in [*trail, start.run])
                raise DomainError(f"runs start on each other in a circle: {ring}")
            trail.append(start.run)


class _Joiner:
    """Second half of expansion: joins laid runs to each other and closes the piece."""

    def __init__(self, piece: Piece, laid: Layer, written: Sequence[Written], rules: Rules) -> None:
        self.piece, self.rules = piece, rules
        self.laid = laid
        self.origins = {run.name: origin for run, origin in written}
        self.runs = {run.name: run for run, _ in written}
        self.places = Places(laid, self.runs)
        self.paths = {(path.run, path.side): path for path in laid.paths}

    @property
    def clasp(self) -> int | None:
        return self.places.clasp

    def joined(self) -> Assembly:
        runs = tuple(self.runs.values())
        main = next((r for r in runs if r.kind == "strand" and r.start is None), None)
        if main is not None:
            self._close(main)
        for run in runs:
            if run is not main:
                self._attach(run)
        closure = self.piece.closure
        if closure.hooked is not None and self.clasp is not None:
            hook(self.laid, self.places, self.clasp, closure.clasp_side, closure.hooked)
        neighbours = _neighbours(len(self.laid.members), self.laid.joints)
        self._refuse_loose(neighbours)
        return Assembly(
            piece=self.piece,
            runs=runs,
            origins=self.origins,
            things=self.laid.things,
            members=tuple(self.laid.members),
            joints=tuple(self.laid.joints),
            paths=tuple(self.laid.paths),
            clasp=self.clasp,
            catch=self.places.catch,
            letters=letters(self.laid.members),
            neighbours=neighbours,
            rules=self.rules,
        )

    def _refuse_loose(self, neighbours: tuple[tuple[int, ...], ...]) -> None:
        """Every member must hang together with the first one."""
        seen, stack = {0}, [0]
        while stack and neighbours:
            for other in neighbours[stack.pop()]:
                if other not in seen:
                    seen.add(other)
                    stack.append(other)
        for member in self.laid.members:
            if member.id not in seen:
                raise DomainError(
                    f"run “{member.run}” hangs on nothing: give it a place to start or end on"
                )

    def _close(self, run: Run) -> None:
        """Join the two ends of the main strand as the closure says."""
        closure = self.piece.closure
        if closure.kind == "open" or run.lies in ("fold", "paired"):
            if run.end is not None:
                self._attach(run)
            return
        where = f"closure of run “{run.name}”"
        at = next(k for k, path in enumerate(self.laid.paths) if path.run == run.name)
        path = self.laid.paths[at]
        catch = self._catch_ring(where)
        loop = list(path.stations)
        if closure.kind == "clasp":
            bite = self._clasp(where)
            first, last = self._ends(closure, where)
            if not catch and last:
                last[-1] = self._wide_loop_out(last[-1])
            loop = (
                [*catch, *reversed_stations(last), *loop, *first, bite]
                if closure.clasp_side == "right"
                else [turned(bite), *reversed_stations(first), *loop, *last, *catch]
            )
        else:
            if closure.at_clasp or closure.at_catch:
                raise DomainError(f"{where}: what stands at its clasp needs a clasp: name one")
            loop += catch
        inner = {id(station) for station in path.stations}
        for one, other in zip(loop, [*loop[1:], loop[0]], strict=True):
            if other is one:  # a bangle is closed in itself
                continue
            if (id(one) not in inner or id(other) not in inner) or other is loop[0]:
                self.laid.join(one, other, where)
        if self.places.catch is None and self.clasp is not None:
            self.places.catch = loop[0 if closure.clasp_side == "right" else -1].members[0]
        self.laid.paths[at] = Path(path.run, path.kind, path.side, tuple(loop), closed=True)

    def _wide_loop_out(self, station: Station) -> Station:
        """A bead link as the catch offers its wider loop."""
        thing = self.laid.things.get(self.laid.members[station.members[0]].ref)
        if not isinstance(thing, BeadLink):
            return station
        near, far = loops_of(thing)
        return turned(station) if near.inner_mm > far.inner_mm else station

    def _ends(self, closure: Closure, where: str) -> tuple[list[Station], list[Station]]:
        """What stands at the clasp and at the catch, each outward from the strand."""
        number, found = FIRST_AT_CLOSURE, []
        for items in (closure.at_clasp, closure.at_catch):
            stations: list[Station] = []
            for item in flattened(items):
                laid = kind_of(item).lay
                assert laid is not None  # repeats are written out
                stations += laid(self.laid, item, (CLOSURE, "whole", number))
                number += 1
            for one, other in pairwise(stations):
                if FREE in (one.port_out, other.port_in):
                    self.laid.join(one, other, where)  # says what hangs free
            found.append(stations)
        return found[0], found[1]

    def _clasp(self, where: str) -> Station:
        ref = self.piece.closure.clasp
        if ref is None:
            raise DomainError(f"{where}: it closes with a clasp, but no clasp is named")
        clasp = self.laid.thing(ref, Clasp, where)
        index = self.laid.add((CLOSURE, "whole", 1), 1, clasp.id, "clasp")
        self.places.clasp = index
        return Station((index,), "eye", "bite", clasp.span_mm)

    def _catch_ring(self, where: str) -> list[Station]:
        if self.piece.closure.catch is None:
            return []
        ring = self.laid.thing(self.piece.closure.catch, Ring, where)
        index = self.laid.add((CLOSURE, "whole", 2), 1, ring.id, "ring")
        self.places.catch = index
        return [Station((index,), "ring", "ring", ring.inner_mm)]

    def _attach(self, run: Run) -> None:
        """Join both ends of every copy of a run to the places it names."""
        if run.lies == "across":
            if run.start is not None:
                raise DomainError(f"run “{run.name}” lies across the fold: it has no start")
            if run.end is None and run.kind in ("strand", "swag"):
                raise DomainError(
                    f"run “{run.name}” does not say where its ends are joined: name a place, "
                    "such as the last ring of the strand above it"
                )
        if run.kind == "drop" and run.start is None:
            raise DomainError(f"drop “{run.name}” does not say where it hangs: name a place")
        sides: tuple[Where, ...] = ("left", "right")  # the order of an across path's two ends
        if run.lies in ("fold", "free"):
            sides = ("fold",) if run.lies == "fold" else ("whole",)
        for side in sides:
            if run.start is not None:
                self._attach_end(run, side, run.start, last=False)
            if run.end is not None:
                self._attach_end(run, side, run.end, last=True)

    def _attach_end(self, run: Run, side: Where, place: Place, *, last: bool) -> None:
        key: Where = "fold" if run.lies == "across" else side
        path = self.paths[(run.name, key)]
        outermost = last and not (run.lies == "across" and side == "left")
        station = path.stations[-1 if outermost else 0]
        port = station.port_out if outermost else station.port_in
        where = f"run “{run.name}”"
        hosts, host_port, on_fold = self.places.resolve(place, side, where)
        if on_fold and run.lies == "paired" and run.kind == "drop":
            raise DomainError(
                f"{where} is paired, but {place_words(place)} lies on the fold: "
                "let it lie on the fold, or move it outward"
            )
        if port == FREE:
            raise DomainError(f"{where}: its end hangs free and cannot be joined to a place")
        for host in hosts:
            for index in station.members:
                self.laid.joints.append(Joint(host, host_port, index, port, False))


def _neighbours(count: int, joints: Iterable[Joint]) -> tuple[tuple[int, ...], ...]:
    found: list[list[int]] = [[] for _ in range(count)]
    for joint in joints:
        found[joint.a].append(joint.b)
        found[joint.b].append(joint.a)
    return tuple(map(tuple, found))


def letters(members: Iterable[Member]) -> dict[str, str]:
    """A letter for every chain, ring size, unit and connector in order of first use.

    Units get capitals and everything else small letters, the same on every sheet.
    """
    found: dict[str, str] = {}
    small = large = 0
    for member in members:
        for ref in (member.made_in, member.ref):
            if ref is None or ref in found:
                continue
            if ref == member.made_in or member.kind in UNIT_KINDS:
                found[ref] = _letter(large)
                large += 1
            else:
                found[ref] = _letter(small).lower()
                small += 1
    return found


def _letter(k: int) -> str:
    return ascii_uppercase[k % 26] + (str(k // 26 + 1) if k >= 26 else "")
