"""The log read whole: builds with what they left, and what all of them say."""

from collections import Counter

import msgspec

from maglia.core.log.concerns import Concern, concerns
from maglia.core.log.records import Entry, Measure
from maglia.core.log.text import Kept, found, haystack
from maglia.files.workshop import builds, log
from maglia.files.workshop.store import Workshop


def kept_builds(workshop: Workshop, words: str = "") -> tuple[Kept, ...]:
    """Builds that hold every word, the latest first, each with what it left."""
    entries, said = log.entries(workshop), log.said(workshop)
    hay = {one.id: haystack(one, said.get(one.id, "")) for one in entries}
    measured: dict[int, list[Measure]] = {}
    for build, one in log.measures(workshop):
        measured.setdefault(build, []).append(one)
    return tuple(kept_of(workshop, one, tuple(measured.get(one.id, ())))
                 for one in found(entries, hay, words))  # fmt: skip


def kept_of(workshop: Workshop, entry: Entry, measured: tuple[Measure, ...]) -> Kept:
    """A build with its measures, changes and parts."""
    from maglia.core.assembly.expand import expand
    from maglia.core.sheets.count import copies_of, counts
    from maglia.core.values.record import DomainError

    changes = tuple(n.words for n in builds.notes(workshop, entry.id) if n.sort == "changed")
    parts: Counter[str] = Counter()
    try:
        piece = builds.read(workshop, entry.id).piece
        built = expand(piece)
        for one in counts(built, copies_of(piece) if piece.pair else 1):
            if one.count:
                parts[one.name] += one.count
    except (DomainError, msgspec.MsgspecError):
        pass  # what cannot be read any more is still listed
    return Kept(entry, measured, changes, parts)


def what_it_says(workshop: Workshop) -> tuple[Concern, ...]:
    """Everything measured and timed, over all builds."""
    return concerns(log.measures(workshop), log.spent(workshop), log.corrections(workshop))
