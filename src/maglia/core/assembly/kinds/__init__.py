"""The kinds of items, one module each; importing the package registers them all."""

from maglia.core.assembly.kinds import (
    chain,
    connector,
    part,
    repeat,
    rings,
    strung,
    unit,
    weave,
)
from maglia.core.assembly.kinds.kind import (
    Counted,
    ItemKind,
    count_of,
    item_words,
    kind_of,
    size_of,
    span_mm,
    with_count,
)

__all__ = [
    "Counted",
    "ItemKind",
    "chain",
    "connector",
    "count_of",
    "item_words",
    "kind_of",
    "part",
    "repeat",
    "rings",
    "size_of",
    "span_mm",
    "strung",
    "unit",
    "weave",
    "with_count",
]
