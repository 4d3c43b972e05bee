"""What is cut, from what, and what a plan is worth.

All in whole links. A cut through a soldered link destroys it: every piece is followed by one,
unless it ends with the length's last link. An openable link is opened: nothing is lost. Wire is cut
like openable chain, its unit a step of length.
"""

from collections import Counter
from collections.abc import Sequence
from functools import cached_property
from typing import NamedTuple

from maglia.core.values.record import Value


class Kind(NamedTuple):
    """`number` stretches alike; `starts` are the phases from which a length reads as is wanted."""

    links: int
    starts: tuple[int, ...]
    number: int


class Length(NamedTuple):
    """One length on the bench, or one that is bought; `first_phase` is that of its first link."""

    name: str
    links: int
    first_phase: int = 0
    new: bool = False


class Stuff(Value, frozen=True, dict=True):
    """What is cut: the pitches of its pattern, mm; whether parting it loses nothing; off-cuts
    shorter than `keep_mm` are not kept."""

    pitches_mm: tuple[float, ...]
    openable: bool = False
    keep_mm: float = 30.0

    @property
    def period(self) -> int:
        return len(self.pitches_mm)

    @property
    def lost(self) -> int:
        """Links that a cut destroys."""
        return 0 if self.openable else 1

    def mm(self, first: int, links: int) -> float:
        """Length of so many links from a phase on, mm."""
        whole, rest = divmod(links, self.period)
        pitches = self.pitches_mm
        return whole * sum(pitches) + sum(pitches[(first + k) % self.period] for k in range(rest))

    @cached_property
    def least_kept(self) -> tuple[int, ...]:
        """By the phase it begins at, the fewest links of an off-cut that is kept."""
        found = []
        for phase in range(self.period):
            links = 1
            while self.mm(phase, links) < self.keep_mm - 1e-6:
                links += 1
            found.append(links)
        return tuple(found)

    def starts(self, links: int, wanted: int | None) -> tuple[int, ...]:
        """Phases from which a stretch reads, from one of its ends, as from `wanted` on; all of them
        for None."""
        if wanted is None:
            return tuple(range(self.period))
        read = [self._read(phase, links) for phase in range(self.period)]
        ways = (read[wanted], self._read(wanted, links, back=True))
        return tuple(phase for phase in range(self.period) if read[phase] in ways)

    def _read(self, phase: int, links: int, *, back: bool = False) -> tuple[float, ...]:
        """The first pitches of a stretch, as many as tell it from others."""
        order = range(links - 1, -1, -1) if back else range(links)
        return tuple(self.pitches_mm[(phase + k) % self.period] for k in order[: self.period])


class Placed(NamedTuple):
    """A piece on a length: its kind, by number, and the phase of its first link there."""

    kind: int
    start: int


class Laid(Value, frozen=True):
    """One length with its pieces in order from its first link; pieces + sacrificed + off-cut are
    its links. Sacrificed are cut links and those `dropped` for the pattern."""

    length: Length
    placed: tuple[Placed, ...]
    dropped: int
    sacrificed: int
    offcut_links: int
    offcut_phase: int


class Score(NamedTuple):
    """What a plan is worth, the less the better, in the order in which that counts: links that are
    missing, new lengths, links in scraps, lengths touched, links sacrificed, and less than nothing
    the longest stretch that is left."""

    missing: int
    new: int
    short: int
    touched: int
    sacrificed: int
    longest: int


def laid(stuff: Stuff, kinds: Sequence[Kind], length: Length, placed: Sequence[Placed]) -> Laid:
    """Lay pieces on a length link by link. Raises ValueError if they do not fit."""
    at = pieces = dropped = 0
    for one in placed:
        drop = (one.start - length.first_phase - at) % stuff.period
        links = kinds[one.kind].links
        dropped += drop
        pieces += links
        at += drop + links
        if at > length.links:
            raise ValueError(f"{length.name} has {length.links} links, not {at}")
        at = min(at + stuff.lost, length.links)
    phase = (length.first_phase + at) % stuff.period
    left = length.links - at
    return Laid(length, tuple(placed), dropped, at - pieces, left, phase)


def score(stuff: Stuff, lengths: Sequence[Length], rows: Sequence[Laid], missing: int) -> Score:
    """What a plan is worth; lengths that are not in it lie untouched."""
    cut = [row for row in rows if row.placed]
    names = {row.length.name for row in cut}
    left = [one.links for one in lengths if not one.new and one.name not in names]
    short = sum(row.dropped for row in cut)
    for row in cut:
        if row.offcut_links >= stuff.least_kept[row.offcut_phase]:
            left.append(row.offcut_links)
        else:
            short += row.offcut_links
    return Score(
        missing, sum(row.length.new for row in cut), short, len(cut),
        sum(row.sacrificed for row in cut), -max(left, default=0),
    )  # fmt: skip


def missing_links(kinds: Sequence[Kind], rows: Sequence[Laid]) -> tuple[int, ...]:
    """Links of every piece that no length gives, one entry a piece, the longest first."""
    had = Counter(one.kind for row in rows for one in row.placed)
    return tuple(sorted((kind.links for k, kind in enumerate(kinds)
                         for _ in range(kind.number - had[k])), reverse=True))  # fmt: skip
