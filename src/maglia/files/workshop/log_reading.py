"""The log read whole: builds with what they left, and what all of them say."""

from contextlib import suppress
from typing import TYPE_CHECKING

from maglia.core.log.concerns import Concern, concerns
from maglia.core.log.records import Entry, Measure
from maglia.core.log.text import Kept, found, haystack
from maglia.files.workshop import builds, log
from maglia.files.workshop.store import Workshop

if TYPE_CHECKING:
    from maglia.core.log.used import Used


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
    from maglia.core.log.used import used_in
    from maglia.core.values.record import DomainError

    changes = tuple(n.words for n in builds.notes(workshop, entry.id) if n.sort == "changed")
    parts: tuple[Used, ...] = ()
    with suppress(DomainError):  # what cannot be read any more is still listed
        parts = used_in(expand(builds.read(workshop, entry.id).piece))
    return Kept(entry, measured, changes, parts)


def what_it_says(workshop: Workshop) -> tuple[Concern, ...]:
    """Everything measured and timed, over all builds of one's own."""
    measured, spent = log.measures(workshop, own=True), log.spent(workshop, own=True)
    return concerns(measured, spent, log.corrections(workshop))
