"""Lengths on the bench and as sold, from a table: part, links or length_mm, first_phase."""

from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from maglia.core.cutting.day import STEP_MM
from maglia.core.cutting.lengths import Length, Stuff
from maglia.core.parts.parts import Chain, Part
from maglia.core.values.record import DomainError
from maglia.files import disk
from maglia.files.parts_csv import read_table

MOST_LINKS = 10_000_000


class Lengths(NamedTuple):
    """Lengths by the id of their part, in the order of the file; what was passed over, in words."""

    by_part: dict[str, list[Length]]
    passed: list[str]


def read_lengths(path: Path, parts: Mapping[str, Part], stuff: Mapping[str, Stuff]) -> Lengths:
    """A table of lengths; a part is named by its id or its name. Raises DomainError naming line and
    cell; a part that is not cut that day is passed over and told."""
    table = read_table(disk.read_file(path))
    where = disk.shown(path)
    head = [name.strip().lower() for name in table.head]
    if "part" not in head or not {"links", "length_mm"} & set(head):
        raise DomainError(f"{where}: it needs the columns part and links, or part and length_mm")
    ids = {name: ref for ref, part in parts.items() for name in (ref, part.name.lower())}
    found = Lengths({}, [])
    for number, row in enumerate(table.rows, 1):
        cells = dict(zip(head, row, strict=True))
        line = f"{where}, line {number + 1}"
        ref = ids.get(cells["part"], ids.get(cells["part"].lower()))
        if ref is None:
            found.passed.append(f"{line}: “{cells['part']}” is not cut for these pieces")
            continue
        if ref not in stuff:
            found.passed.append(f"{line}: the pitch of {parts[ref].name} is not known")
            continue
        phase = _whole(cells.get("first_phase") or "0", f"{line}: first_phase")
        if phase >= stuff[ref].period:
            raise DomainError(f"{line}: first_phase {phase} is not within its pattern of "
                              f"{stuff[ref].period}, counted from 0")  # fmt: skip
        amount = _amount(cells, parts[ref], stuff[ref], phase, line)
        found.by_part.setdefault(ref, []).append(Length(f"lot {number}", amount, phase))
    return found


def _amount(cells: Mapping[str, str], part: Part, stuff: Stuff, phase: int, line: str) -> int:
    if cells.get("links"):
        if not isinstance(part, Chain):
            raise DomainError(f"{line}: {part.name} has no links: give its length_mm")
        return _whole(cells["links"], f"{line}: links")
    text = cells.get("length_mm") or ""
    try:
        mm = float(text.replace(",", "."))
    except ValueError:
        raise DomainError(f"{line}: length_mm “{text}” is no length") from None
    if not 0 < mm <= MOST_LINKS * STEP_MM:
        raise DomainError(f"{line}: length_mm “{text}” is no length that lies on a bench")
    whole, rest = divmod(mm + 1e-6, sum(stuff.pitches_mm))
    links = 0
    while links < stuff.period and stuff.mm(phase, links + 1) <= rest:
        links += 1
    return int(whole) * stuff.period + links


def _whole(text: str, what: str) -> int:
    try:
        number = int(text)
    except ValueError:
        raise DomainError(f"{what} “{text}” is no whole number") from None
    if not 0 <= number <= MOST_LINKS:
        raise DomainError(f"{what} “{text}” is none that can lie there")
    return number
