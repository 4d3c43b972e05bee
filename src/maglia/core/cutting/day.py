"""A day: what several pieces, so many of each, take of every chain and wire, cut from what lies
there.
"""

import math
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import NamedTuple

from msgspec.structs import replace

from maglia.core.assembly.assembly import Assembly
from maglia.core.cutting.lengths import Kind, Length, Stuff
from maglia.core.cutting.plan import GOALS, Plan, lacks, plans
from maglia.core.parts.parts import Chain, Part, Pin, Wire
from maglia.core.parts.units import Tassel, tassel_thread_mm
from maglia.core.sheets.count import copies_of, threads_cut, unit_counts, wire_needs
from maglia.core.sheets.cutting import cut_list
from maglia.core.sheets.lengths import wound_mm
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.lying import NOTHING, Lot, Lying, amount_of_mm

STEP_MM = 0.1
"""Wire and thread are cut in whole steps of this length."""
KEEP_MM = 30.0


class Stretch(NamedTuple):
    """What is cut: so many links or steps, the first of which has this place in the pattern."""

    amount: int
    first_phase: int = 0


class Wanted(Value, frozen=True):
    """Stretches alike of one chain or wire for one piece, how many; `making` is the number of that
    piece in the day."""

    piece: str
    stretch: Stretch
    count: int
    making: int = 0


class Piece(Value, frozen=True):
    """A stretch on a length: for which piece, so long, its first link's place in the pattern."""

    piece: str
    amount: int
    first_phase: int
    making: int = 0

    @property
    def stretch(self) -> Stretch:
        return Stretch(self.amount, self.first_phase)


class Bar(Value, frozen=True):
    """One length that is cut: its pieces in order; pieces + sacrificed + off-cut = amount."""

    lot: str
    amount: int
    first_phase: int
    pieces: tuple[Piece, ...]
    sacrificed: int
    offcut: int
    offcut_phase: int
    new: bool


class Cutting(Value, frozen=True):
    """The plan of one chain or wire. `found` and `bound` are by goal; what is `missing` nothing
    gives, one entry a stretch. What was `cut` already for the pieces of the day is in no bar;
    what of that they no longer want is `in_vain`."""

    part: Part
    stuff: Stuff
    wanted: tuple[Wanted, ...]
    bars: tuple[Bar, ...]
    untouched: tuple[Length, ...]
    missing: tuple[int, ...]
    found: dict[str, int]
    bound: dict[str, int]
    cut: tuple[Stretch, ...] = ()
    in_vain: tuple[Stretch, ...] = ()

    @property
    def proven(self) -> bool:
        return self.found == self.bound

    def mm(self, amount: int, first_phase: int = 0) -> float:
        """How long an amount is, from a place in the pattern on."""
        return self.stuff.mm(first_phase, amount)


class Making(Value, frozen=True):
    """One piece of a day, and how many of it."""

    assembly: Assembly
    copies: int = 1

    @property
    def name(self) -> str:
        return self.assembly.piece.name


Wants = dict[str, list[Wanted]]


def wants_of(day: Sequence[Making]) -> tuple[dict[str, Part], Wants]:
    """Every chain and wire of a day with the stretches that are wanted, in the order of the pieces.
    Raises DomainError where two pieces carry one part otherwise."""
    parts: dict[str, Part] = {}
    wants: Wants = {}
    for number, making in enumerate(day):
        for ref, stretches in stretches_of(making).items():
            part = making.assembly.things[ref]
            assert isinstance(part, Chain | Wire)
            if _cut_of(parts.setdefault(ref, part)) != _cut_of(part):
                raise DomainError(f"“{making.name}” holds {part.name} otherwise than another piece "
                                  "of the day: take its part over from the tray first")  # fmt: skip
            wants.setdefault(ref, []).extend(
                Wanted(making.name, stretch, n, number) for stretch, n in stretches.items()
            )
    return parts, wants


def _cut_of(part: Part) -> object:
    """What of a part makes its cuts."""
    return (part.pitches_mm, part.openable) if isinstance(part, Chain) else None


def stretches_of(making: Making) -> dict[str, Counter[Stretch]]:
    """Every stretch that is cut, by its chain or wire: how long (links, steps), how many."""
    assembly, copies = making.assembly, making.copies * copies_of(making.assembly.piece)
    found: dict[str, Counter[Stretch]] = {}
    for cut in cut_list(assembly, copies):
        found.setdefault(cut.chain, Counter())[Stretch(cut.links, cut.first_phase)] += cut.count
    for ref, mm, number in threads_cut(assembly):
        found.setdefault(ref, Counter())[stretch_of_mm(mm)] += number * copies
    for need in wire_needs(assembly, making.copies):
        if need.each_mm is not None and not isinstance(assembly.things[need.wire], Pin):
            found.setdefault(need.wire, Counter())[stretch_of_mm(need.each_mm)] += need.count
    for ref, number in unit_counts(assembly).items():
        unit = assembly.things[ref]
        if isinstance(unit, Tassel):
            mm = tassel_thread_mm(unit, assembly.rules)
            found.setdefault(unit.thread, Counter())[stretch_of_mm(mm)] += number * copies
    for member, number in assembly.tally:
        if member.wound is not None:
            mm = wound_mm(assembly, member)
            found.setdefault(member.wound.wire, Counter())[stretch_of_mm(mm)] += number * copies
    return found


def stretch_of_mm(mm: float) -> Stretch:
    """A length of wire or thread in whole steps, none too few."""
    return Stretch(max(1, math.ceil(mm / STEP_MM - 1e-6)))


def stuff_of(part: Part, keep_mm: float = KEEP_MM) -> Stuff | None:
    """How a part is cut; None for a chain whose pitch is not known."""
    if isinstance(part, Wire):
        return Stuff((STEP_MM,), openable=True, keep_mm=keep_mm)
    assert isinstance(part, Chain)
    return Stuff(part.pitches_mm, part.openable, keep_mm) if part.pitches_mm else None


def amount_in(part: Part, lot: Lot) -> int:
    """Links or steps in a length that lies in the stock (there wire counts in µm)."""
    return math.floor(lot.amount / (1000 * STEP_MM) + 1e-9) if isinstance(part, Wire) else (
        lot.amount
    )  # fmt: skip


def amount_of(part: Part, stretch: Stretch) -> int:
    """A stretch as the stock counts it: links, or µm of wire and thread."""
    return round(stretch.amount * 1000 * STEP_MM) if isinstance(part, Wire) else stretch.amount


def sold_in(parts: Mapping[str, Part], held: Mapping[str, Part]) -> dict[str, int]:
    """Links or steps in one length as it is sold, by part, where that is known. The tray (`held`)
    knows it better than a piece."""
    found = {}
    for ref, part in parts.items():
        mm = getattr(held.get(ref), "sold_mm", None) or getattr(part, "sold_mm", None)
        amount = None
        if mm is not None:
            amount = int(mm / STEP_MM + 1e-6) if isinstance(part, Wire) else amount_of_mm(part, mm)
        if amount:
            found[ref] = amount
    return found


def cuttings(
    day: Sequence[Making],
    lots: Mapping[str, Sequence[Length]],
    sold: Mapping[str, int],
    keep_mm: float = KEEP_MM,
    seconds: float = 20.0,
    stop: Callable[[], bool] = lambda: False,
    already: Mapping[str, Sequence[Stretch]] | None = None,
    *,
    first_only: bool = False,
) -> Iterator[tuple[str, Cutting]]:
    """Better and better plans, chain by chain and wire by wire; the last of each is the best. Lots
    and lengths as sold are in links, or in steps of wire. What was cut `already` is not cut again.
    """
    parts, wants = wants_of(day)
    for ref, wanted in wants.items():
        stuff = stuff_of(parts[ref], keep_mm)
        if stuff is None or stop():
            continue
        cut = tuple((already or {}).get(ref, ()))
        kinds, queues, in_vain = _kinds(stuff, wanted, cut)
        own = list(lots.get(ref, ()))
        for plan in plans(stuff, kinds, own, sold.get(ref), seconds, stop):
            told = _told(parts[ref], stuff, wanted, kinds, queues, own, plan)
            yield ref, replace(told, cut=cut, in_vain=in_vain) if cut else told
            if first_only:
                break


def first_cuttings(
    day: Sequence[Making],
    lots: Mapping[str, Sequence[Length]],
    sold: Mapping[str, int],
    already: Mapping[str, Sequence[Stretch]] | None = None,
) -> dict[str, Cutting]:
    """The first plan of each chain and wire: a good one, there at once."""
    found: dict[str, Cutting] = {}
    for ref, cutting in cuttings(day, lots, sold, already=already, first_only=True):
        found[ref] = cutting
    return found


def lacking(day: Sequence[Making], lying: Mapping[str, Lying]) -> dict[str, float]:
    """How much of each chain and wire the stock does not give, mm, by its id."""
    parts, wants = wants_of(day)
    found = {}
    for ref, wanted in wants.items():
        stuff = stuff_of(parts[ref])
        if stuff is None:
            continue
        kinds, _, _ = _kinds(stuff, wanted)
        lots = lengths_in(parts[ref], lying.get(ref, NOTHING))
        mm = sum(stuff.mm(0, amount) for amount in lacks(stuff, kinds, lots))
        if mm:
            found[ref] = mm
    return found


def lengths_in(part: Part, lying: Lying) -> list[Length]:
    """The lengths of a part that lie on the bench, in links or steps."""
    return [Length(lot.name, amount_in(part, lot), lot.first_phase) for lot in lying.lots]


def _kinds(
    stuff: Stuff, wanted: Sequence[Wanted], cut: Sequence[Stretch] = ()
) -> tuple[list[Kind], list[list[Wanted]], tuple[Stretch, ...]]:
    """Stretches that read alike together, less those that were cut; for which pieces, in order; and
    what was cut of which none is wanted."""
    queues: dict[tuple[int, tuple[int, ...]], list[Wanted]] = {}
    for one in wanted:
        links, first = one.stretch
        queues.setdefault((links, stuff.starts(links, first)), []).extend([one] * one.count)
    in_vain = []
    for stretch in cut:
        links, first = stretch
        there = next((queue for (n, starts), queue in queues.items()
                      if n == links and first in starts and queue), None)  # fmt: skip
        if there is None:
            in_vain.append(stretch)
        else:
            there.pop(0)
    order = sorted((own for own in queues if queues[own]), key=lambda own: (-own[0], own[1]))
    kinds = [Kind(links, starts, len(queues[links, starts])) for links, starts in order]
    return kinds, [queues[own] for own in order], tuple(in_vain)


def _told(
    part: Part, stuff: Stuff, wanted: Sequence[Wanted], kinds: Sequence[Kind],
    queues: Sequence[Sequence[Wanted]], lots: Sequence[Length], plan: Plan,
) -> Cutting:  # fmt: skip
    left = [list(queue) for queue in queues]
    bars = tuple(
        Bar(row.length.name, row.length.links, row.length.first_phase,
            tuple(_piece(left[p.kind].pop(0), kinds[p.kind].links, p.start) for p in row.placed),
            row.sacrificed, row.offcut_links, row.offcut_phase, row.length.new)
        for row in plan.rows
    )  # fmt: skip
    used = {bar.lot for bar in bars}
    found, bound = (dict(zip(GOALS, one, strict=True)) for one in (plan.found, plan.bound))
    found["longest"], bound["longest"] = -found["longest"], -bound["longest"]
    return Cutting(part, stuff, tuple(wanted), bars,
                   tuple(lot for lot in lots if lot.name not in used), plan.missing,
                   found, bound)  # fmt: skip


def _piece(wanted: Wanted, links: int, start: int) -> Piece:
    return Piece(wanted.piece, links, start, wanted.making)


def words_of(cutting: Cutting) -> str:
    """The plan in a line: “two lengths touched, 9 links lost, cannot be bettered”."""
    one = "link" if isinstance(cutting.part, Chain) else "step"
    found, bound = cutting.found, cutting.bound

    def many(number: int, word: str) -> str:
        return f"{number} {word}{'' if number == 1 else 's'}"

    said = [many(found["touched"], "length") + " touched"]
    if found["new"]:
        said.insert(0, f"{many(found['new'], 'length')} to buy")
    if isinstance(cutting.part, Chain):
        said.append(f"{many(found['sacrificed'], 'link')} lost")
        if found["short"]:
            said.append(f"{many(found['short'], 'link')} in scraps")
    if cutting.missing:
        number = len(cutting.missing)
        lack = f"{number} {'stretch' if number == 1 else 'stretches'} missing"
        return ", ".join([lack, *said])
    gap = next((name for name in GOALS if found[name] != bound[name]), None)
    if gap is None:
        return ", ".join([*said, "cannot be bettered"])
    what = {"missing": f"{one}s missing", "new": "lengths to buy", "short": f"{one}s in scraps",
            "touched": "lengths touched", "sacrificed": f"{one}s lost",
            "longest": f"{one}s in the longest stretch left"}[gap]  # fmt: skip
    limit = "more" if gap == "longest" else "fewer"
    return ", ".join(said) + f"; no plan can have {limit} {what} than {bound[gap]}"
