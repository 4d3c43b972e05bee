"""What a change of a piece does, in words that can be read aloud: to its readings, to what it
takes, to what was cut for it already. Each is a difference of two states; nothing is kept here.
"""

from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence

from maglia.core.assembly.assembly import Assembly
from maglia.core.cutting.day import Cutting, Making, Stretch, stretches_of
from maglia.core.log.used import Used, used_in
from maglia.core.parts.parts import Chain
from maglia.core.report import Findings
from maglia.core.sheets.cutting import stretch_words

Length = Callable[[float | None], str]
LEAST_MM, LEAST_G = 0.05, 0.05
"""What is less than this is no other figure on the screen."""
MOST_READINGS, MOST_TAKEN, MOST_CUT = 4, 3, 2


def reading_words(before: Findings, after: Findings, length: Length) -> list[str]:
    """Closed length, falls and gaps of strands, the deepest drop, weight: what is another now."""
    found = list(_lengths(before, after, length))
    more = len(found) - MOST_READINGS
    found = found[:MOST_READINGS] + ([f"{more} more readings"] if more > 0 else [])
    was, now = before.balance, after.balance
    if abs(now.total_g - was.total_g) >= LEAST_G:
        found.append(f"weight {was.total_g:.1f} → {now.sure}{now.total_g:.1f} g")
    return found


def _lengths(before: Findings, after: Findings, length: Length) -> Iterator[str]:
    one, other = before.closed_length_mm, after.closed_length_mm
    if one is None and other is None:
        known = {run.name: run.length_mm for run in before.lengths}
        pairs = [(f"length of {run.name}", known.get(run.name), run.length_mm)
                 for run in after.lengths if run.name in known]  # fmt: skip
    else:
        pairs = [("closed length", one, other)]
    called, kinds = after.assembly.run_words, {r.name: r.kind for r in after.assembly.runs}
    falls, then = before.readings.falls_mm, after.readings.falls_mm
    pairs += [(f"fall of {called(name)}", falls.get(name), mm) for name, mm in then.items()
              if kinds[name] == "strand"]  # fmt: skip
    drops = {name: mm for name, mm in then.items() if kinds[name] == "drop"}
    if drops:
        deepest = max(drops, key=drops.__getitem__)
        pairs.append((f"fall of {called(deepest)}", falls.get(deepest), drops[deepest]))
    for words, was_mm, mm in pairs:
        if (was_mm is None) != (mm is None) or (
            was_mm is not None and mm is not None and abs(mm - was_mm) >= LEAST_MM
        ):
            was, now = length(was_mm), length(mm)
            unit = now.rpartition(" ")[2]
            yield f"{words} {was.removesuffix(f' {unit}')} → {now}"


def taken_words(before: Assembly, after: Assembly) -> list[str]:
    """What it takes more and what fewer of."""
    one, other = ({own.id: own for own in used_in(state)} for state in (before, after))
    found = [_taken(one.get(ref), other.get(ref)) for ref in dict.fromkeys([*other, *one])]
    said = [words for words in found if words]
    more = len(said) - MOST_TAKEN
    return said[:MOST_TAKEN] + ([f"{more} more parts"] if more > 0 else [])


def _taken(before: Used | None, after: Used | None) -> str:
    off = (after.amount if after else 0) - (before.amount if before else 0)
    own = after or before
    if not off or own is None:
        return ""
    sign = "+" if off > 0 else "−"
    if own.is_length:
        return f"{sign}{abs(off) / 1000:.0f} mm {own.name}"
    counted = own.counted if abs(off) != 1 else own.counted.replace("links", "link")
    return f"{sign}{abs(off)} {counted}{own.name}"


def cut_already_words(after: Assembly, cut: Sequence[tuple[str, Stretch]]) -> list[str]:
    """What was cut for a piece that now wants it otherwise, with the stretch that is wanted in its
    place and what can be done."""
    left = stretches_of(Making(after))
    in_vain: dict[str, list[Stretch]] = {}
    for ref, stretch in cut:
        own = left.get(ref, Counter())
        if own[stretch] > 0:
            own[stretch] -= 1
        else:
            in_vain.setdefault(ref, []).append(stretch)
    said: Counter[str] = Counter()
    for ref, stretches in in_vain.items():
        wanted = sorted((one for one, n in left.get(ref, Counter()).items() for _ in range(n)),
                        key=lambda one: one.amount)  # fmt: skip
        for stretch in stretches:
            near = min(wanted, key=lambda one: abs(one.amount - stretch.amount), default=None)
            if near is not None:
                wanted.remove(near)
            said[_cut(after, ref, stretch, near)] += 1
    return [f"{n} × {words}" if n > 1 else words for words, n in said.items()][:MOST_CUT]


def _cut(assembly: Assembly, ref: str, cut: Stretch, wanted: Stretch | None) -> str:
    part = assembly.things.get(ref)
    name = part.name if part is not None else ref
    if not isinstance(part, Chain):
        return f"cut already {cut.amount / 10:.1f} mm of {name}, " + (
            f"{wanted.amount / 10:.1f} wanted" if wanted else "not wanted any more"
        )
    head = f"cut already {stretch_words(*cut)} of {name}"
    if wanted is None:
        return f"{head}, not wanted any more: an off-cut"
    off = wanted.amount - cut.amount
    if off > 0:
        return f"{head}, {wanted.amount} wanted: {off} more can be joined with a ring, or cut anew"
    return f"{head}, {wanted.amount} wanted: {-off} come off"


def day_words(before: Mapping[str, Cutting], after: Mapping[str, Cutting]) -> list[str]:
    """What becomes of a day's cuts: what is missing or bought now, off-cuts that are too short."""
    found = []
    for ref in dict.fromkeys([*after, *before]):
        one, other = before.get(ref), after.get(ref)
        if one is None or other is None:
            own = other or one
            assert own is not None
            found.append(f"{own.part.name} {'is cut now' if other else 'is not cut any more'}")
            continue
        counts = (("missing", len(one.missing), len(other.missing)),
                  ("lengths to buy", one.found["new"], other.found["new"]))  # fmt: skip
        for words, was, now in counts:
            if was != now:
                found.append(f"{other.part.name}: {words} {was} → {now}")
        lost = _kept(one) - _kept(other)
        short = _short(other) - _short(one)
        for amount, too_short in zip(
            sorted(lost.elements()), sorted(short.elements()), strict=False
        ):
            found.append(f"{other.part.name}: the off-cut of {_amount(one, amount)} is "
                         f"{_amount(other, too_short)} now, too short to keep")  # fmt: skip
    return found


def _kept(cutting: Cutting) -> Counter[int]:
    least = cutting.stuff.least_kept
    return Counter(b.offcut for b in cutting.bars if b.offcut and b.offcut >= least[b.offcut_phase])


def _short(cutting: Cutting) -> Counter[int]:
    least = cutting.stuff.least_kept
    return Counter(b.offcut for b in cutting.bars if b.offcut and b.offcut < least[b.offcut_phase])


def _amount(cutting: Cutting, amount: int) -> str:
    chain = isinstance(cutting.part, Chain)
    return f"{amount} links" if chain else f"{cutting.mm(amount):.0f} mm"
