"""So many times the items within. It is written out before anything is laid."""

from maglia.core.assembly.kinds.kind import (
    Counted,
    ItemKind,
    item_words,
    register,
    size_of,
    span_mm,
)
from maglia.core.parts.units import Things
from maglia.core.piece.items import RepeatItem


def span(item: RepeatItem, things: Things) -> float | None:
    spans = [span_mm(inner, things) for inner in item.items]
    return None if None in spans else item.times * sum(s for s in spans if s is not None)


register(
    RepeatItem,
    ItemKind(
        lay=None,
        size=lambda item, things: item.times * sum(size_of(one, things) for one in item.items),
        span=span,
        words=lambda item, things: (
            f"{item.times} × ({', '.join(item_words(one, things) for one in item.items)})"
        ),
        counted=Counted("times", "repeats"),
    ),
)
