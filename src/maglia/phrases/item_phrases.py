"""Things in a row as they are said, “2 ring 4, 9 rolo, rose link”: the items they make."""

import re

from maglia.core.parts.parts import Chain, Charm, Clasp, Connector, Ring
from maglia.core.parts.units import BeadLink, Thing, Things
from maglia.core.piece.items import Item
from maglia.core.values.record import DomainError
from maglia.phrases.offers import as_item, best_match

RUNS_ON: tuple[type[Thing], ...] = (Ring, Chain, BeadLink, Connector, Charm)
"""What stands in a line."""


def item_said(text: str, things: Things) -> Item:
    """The item that is said, with its count before it. Raises DomainError naming the word."""
    counted = re.match(r"(\d+)\s+(?=\D)", text)
    name = text[counted.end() :] if counted else text
    known = [
        t for t in things.values() if as_item(t, None) is not None and not isinstance(t, Clasp)
    ]
    tried = (best_match(name, known, kind) for kind in RUNS_ON)
    found = next((thing for thing in tried if thing is not None), None)
    item = None if found is None else as_item(found, int(counted[1]) if counted else None)
    if item is None:
        raise DomainError(f"nothing that can stand there is called “{name}”")
    return item


def items_said(text: str, things: Things) -> list[Item]:
    """Several, with commas or “then” between them."""
    parts = re.split(r",|\bthen\b", text, flags=re.IGNORECASE)
    return [item_said(part.strip(), things) for part in parts if part.strip()]
