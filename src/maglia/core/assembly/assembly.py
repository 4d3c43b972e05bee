"""The flat truth of a piece: every physical part and every joint, in plain immutable values.

Made only by `maglia.core.assembly.expand`; everything downstream reads it and never the piece, so
that a number cannot differ between two screens. A stretch of chain or of strung beads is one member
whose links are its ports 1…n; every other physical part is a member of its own.
"""

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Literal, NamedTuple

from maglia.core.assembly.ports import Port
from maglia.core.assembly.rows import Origin
from maglia.core.parts.units import Thing, Things
from maglia.core.piece.items import StrungItem, WeaveItem, Winding
from maglia.core.piece.piece import Piece, Run
from maglia.core.values.record import Value
from maglia.core.values.rules import DEFAULT_RULES, Rules

Where = Literal["fold", "left", "right", "whole"]

KIND_WORDS = {"strung": "strung section", "end": "end finding"}


class InWeave(NamedTuple):
    """Where a ring stands in a weave, which is named by its first member."""

    weave: int
    item: WeaveItem
    role: str
    row: int
    place: int
    abreast: int
    opened: bool
    """Whether it is opened on the strip; else it is closed beforehand."""
    leads: bool
    """Whether it is the first of its row."""
    host: int
    """The member that it hangs from aside, bearing nothing; -1 if it bears."""


class Member(NamedTuple):
    """One physical part: where it stands in the piece and what it is."""

    id: int
    run: str
    side: Where
    item: int
    number: int
    ordinal: int
    """k-th of its kind in this run and side, from 1; with the run and side it is the name."""
    ref: str
    kind: str
    links: int = 0
    made_in: str | None = None
    """The cluster or link it was made into before assembly."""
    strung: StrungItem | None = None
    wound: Winding | None = None
    first_phase: int = 0
    """Of chain: the place of its link 1 in the pattern, from 0."""
    woven: InWeave | None = None


class Joint(NamedTuple):
    """Two members that bear on each other, each at one of its ports."""

    a: int
    port_a: Port
    b: int
    port_b: Port
    inline: bool = True
    """Whether they follow each other along a run; else one hangs from a place of the other."""


class Station(NamedTuple):
    """One step along a path: the members abreast in it, where it is entered and left."""

    members: tuple[int, ...]
    port_in: Port
    port_out: Port
    span_mm: float | None


class Path(Value, frozen=True):
    """The stations of one physical copy of a run, in order; left to right if across."""

    run: str
    kind: str
    side: Where
    stations: tuple[Station, ...]
    closed: bool = False

    @property
    def length_mm(self) -> float | None:
        """Sum of spans, or None where one is unknown."""
        spans = [s.span_mm for s in self.stations]
        return None if None in spans else sum(s for s in spans if s is not None)


class Assembly(Value, frozen=True, dict=True):
    """Every physical part (`members`), joint and path of one piece."""

    piece: Piece
    runs: tuple[Run, ...]
    origins: Mapping[str, Origin]
    """Where each run comes from, by its name."""
    things: Things
    members: tuple[Member, ...]
    joints: tuple[Joint, ...]
    paths: tuple[Path, ...]
    clasp: int | None
    catch: int | None
    letters: Mapping[str, str]
    neighbours: tuple[tuple[int, ...], ...]
    """Members that each member is joined to, by index."""
    rules: Rules = DEFAULT_RULES
    """The customs by which it is checked and counted."""

    @cached_property
    def main(self) -> Path | None:
        """The path that goes round the wearer: the first strand."""
        return next((p for p in self.paths if p.kind == "strand"), None)

    @cached_property
    def tally(self) -> tuple[tuple[Member, int], ...]:
        """Members that are alike but for their place, one of each, with their number."""
        first: dict[tuple[object, ...], Member] = {}
        number: dict[tuple[object, ...], int] = {}
        for member in self.members:
            key = (member.ref, member.made_in, member.links, member.strung, member.wound,
                   member.first_phase)  # fmt: skip
            if key in number:
                number[key] += 1
            else:
                first[key], number[key] = member, 1
        return tuple((first[key], number[key]) for key in first)

    @cached_property
    def joints_of(self) -> tuple[tuple[Joint, ...], ...]:
        """Joints by member index."""
        found: list[list[Joint]] = [[] for _ in self.members]
        for joint in self.joints:
            found[joint.a].append(joint)
            if joint.b != joint.a:
                found[joint.b].append(joint)
        return tuple(map(tuple, found))

    def thing(self, member: Member) -> Thing:
        return self.things[member.ref]

    @cached_property
    def run_of(self) -> Mapping[str, Run]:
        """Every run as written out, by its name."""
        return {run.name: run for run in self.runs}

    def made_by(self, owner: str, run: str) -> bool:
        """Whether a run is, or is written out from, that run or row."""
        return run in self.origins and self.origins[run].owner == owner

    def run_words(self, run: str) -> str:
        """What a run is called: the drop of a row on the fold by that, the others as they are."""
        origin = self.origins.get(run)
        made = origin is not None and origin.owner != run and origin.level is None
        return f"{origin.owner}, on the fold" if made and origin.ordinal == 0 else run  # type: ignore[union-attr]

    def paths_of(self, run: str) -> Iterator[Path]:
        return (path for path in self.paths if path.run == run)


def link_from_fold(member: Member, link: int) -> tuple[Where, int]:
    """Side and number counted from the fold of a link of a member's 1…links."""
    if member.side != "fold" or member.item != 0:
        return member.side, link
    half, odd = divmod(member.links, 2)
    offset = link - half - 1 if odd else (link - half if link > half else link - half - 1)
    return ("fold" if offset == 0 else "right" if offset > 0 else "left"), abs(offset)


def member_name(member: Member, port: Port | None = None) -> str:
    """A stable, readable name: “Tier 2, left, link 14”, “Collar, right, ring 3”."""
    word = KIND_WORDS.get(member.kind, member.kind)
    if isinstance(port, int) and member.links:
        side, number = link_from_fold(member, port)
        what = "bead" if member.kind == "strung" else "link"
        tail = f"{what} on the fold" if side == "fold" and number == 0 else f"{what} {number}"
        if member.ordinal > 1:
            tail = f"{word} {member.ordinal} {tail}"
        return ", ".join(_words(member.run, side, tail))
    tail = f"{word} {member.ordinal}" if member.item or member.ordinal > 1 else word
    return ", ".join(_words(member.run, member.side, tail))


def _words(run: str, side: Where, tail: str) -> tuple[str, ...]:
    return (run, tail) if side in ("fold", "whole") else (run, side, tail)
