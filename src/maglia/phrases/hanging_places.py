"""Where a drop hangs that is put in at the cursor: its place, and how it lies."""

import re
from typing import NamedTuple

from maglia.core.assembly.places import CLOSURE, mirror_hole
from maglia.core.assembly.ports import ALONG, GAP, RIDES
from maglia.core.edits.spots import Spot, first_number, item_of, owner_of
from maglia.core.parts.parts import Chain, Connector, Ring
from maglia.core.parts.units import BeadLink, Things
from maglia.core.piece.items import ChainItem, ConnectorItem, Item, RingItem, StrungItem, UnitItem
from maglia.core.piece.piece import Lies, Piece, Place, Run, catalogue
from maglia.core.piece.strung import cord_mm, is_bare
from maglia.core.values.measures import MM_PER
from maglia.core.values.record import DomainError

AT = re.compile(
    r"\bat\s+(?:(link|bead|gap)\s+(\d+)|(\d+(?:\.\d+)?)\s*(mm|cm|in)|(?:the\s+)?([\w-]+)\s+loop"
    r"|(?:hole\s+)?([\w-]+))\s*$"
)
"""Where a drop hangs, at the end of what is written."""
AT_CLOSURE = ("clasp", "catch")
LOOPS = {"a": "a", "near": "a", "upper": "a", "left": "a",
         "b": "b", "far": "b", "lower": "b", "right": "b"}  # fmt: skip
"""How the loops of a bead link are called: on a run the near one is named first."""


class SaidPlace(NamedTuple):
    """What was said of a place: its port, and the link, bead or gap counted from the fold."""

    port: str | None = None
    number: int | None = None


def place_said(text: str) -> tuple[str, SaidPlace]:
    """A text without the place at its end, and that place."""
    found = AT.search(text)
    if found is None:
        return text, SaidPlace()
    if found[3]:
        mm = float(found[3]) * MM_PER[found[4]]
        return text[: found.start()].rstrip(), SaidPlace(ALONG, round(mm))
    port = found[5] or found[6] or (GAP if found[1] == "gap" else None)
    return text[: found.start()].rstrip(), SaidPlace(port, int(found[2]) if found[2] else None)


def place_at(
    piece: Piece, spot: Spot, host: Item, mark: int, wanted: str | None
) -> tuple[Place, Lies]:
    """The place at a spot, or what was `wanted` of it (a hole, a loop, a gap, the clasp or the
    catch), and how a run that hangs there lies. Raises DomainError naming what is not there."""
    owner = owner_of(piece, spot.owner)
    if wanted in AT_CLOSURE and not _has_hole(piece, host, wanted):
        return Place(run=CLOSURE, port=wanted), "free"
    if not isinstance(owner, Run):
        raise DomainError("hang it from a run; a row's drops are made by its rule")
    number = first_number(piece, spot)
    central = number == 0
    port = None
    at = 1 if not central else 0
    on_fold = central or owner.lies == "fold"
    if isinstance(host, ChainItem | RingItem | StrungItem):
        at = mark if central else max(mark, 1)
        if wanted == RIDES:
            port, at = RIDES, 0 if central else 1
        elif wanted in (GAP, ALONG) and isinstance(host, StrungItem):
            port = wanted
        elif wanted is not None:
            raise DomainError(
                f"there is no “{wanted}” here: say which link, bead or gap: at link 3"
            )
        on_fold = (central and at == 0) or owner.lies == "fold"
    elif isinstance(host, UnitItem):
        port = _loop(piece, host, wanted)
        on_fold = on_fold and (port == "mid" or owner.lies == "fold")
    elif isinstance(host, ConnectorItem):
        port = _free_hole(piece, owner, number, host, wanted)
        connector = catalogue(piece)[host.part]
        middle = isinstance(connector, Connector) and mirror_hole(connector, port) == port
        on_fold = on_fold and middle
    lies: Lies = "fold" if on_fold else "free" if owner.lies == "free" else "paired"
    return Place(run=spot.owner, item=number, at=at, port=port), lies


def _has_hole(piece: Piece, host: Item, name: str) -> bool:
    held = catalogue(piece).get(host.part) if isinstance(host, ConnectorItem) else None
    return isinstance(held, Connector) and any(hole.name == name for hole in held.holes)


def _loop(piece: Piece, host: UnitItem, wanted: str | None) -> str:
    """The mid of a bead link, or the loop that was asked for."""
    unit = catalogue(piece)[host.unit]
    if wanted is None:
        return "mid"
    if not isinstance(unit, BeadLink):
        raise DomainError(f"“{unit.name}” has no “{wanted}” to hang from")
    if wanted == "mid" or wanted in LOOPS:
        return LOOPS.get(wanted, "mid")
    raise DomainError(f"“{unit.name}” has no “{wanted}”: say near loop, far loop or mid")


def _free_hole(
    piece: Piece, owner: Run, number: int, host: ConnectorItem, wanted: str | None
) -> str:
    """The hole that was asked for, else the free one nearest the middle, the right one of two."""
    connector = catalogue(piece)[host.part]
    assert isinstance(connector, Connector)
    names = [h.name for h in connector.holes]
    if wanted is not None:
        if wanted not in names:
            raise DomainError(
                f"“{connector.name}” has no hole “{wanted}”; it has {', '.join(names)}"
            )
        return wanted
    taken = {
        r.start.port
        for r in piece.runs
        if r.start and (r.start.run, r.start.item) == (owner.name, number)
    }
    free = [h for h in connector.holes if h.name not in taken | {host.hole_in} and h.x_mm >= 0]
    order = sorted(free, key=lambda h: (abs(h.x_mm), h.y_mm))
    return order[0].name if order else host.hole_out


def wide_at(piece: Piece, spot: Spot, things: Things) -> float:
    """How wide what lies at a spot is across its line, mm. Raises DomainError for what nothing can
    slide on."""
    host = item_of(piece, spot) if spot.path else None
    if isinstance(host, ChainItem):
        chain = things.get(host.part)
        if isinstance(chain, Chain) and chain.inner_width_mm and chain.wire_mm:
            return chain.inner_width_mm + 2 * chain.wire_mm
        raise DomainError("how wide the chain is is not known: say its inside and its wire")
    if isinstance(host, StrungItem):
        widths = [getattr(things.get(ref), "width_mm", None) or 0.0 for ref in host.refs]
        cord = cord_mm(host, things)[1] if is_bare(host) else 0.0
        return max([cord, *widths])
    raise DomainError("it slides on a chain or a strung section: put the cursor on one")


def sliding_ring(things: Things, wide: float) -> Ring:
    """The smallest ring that slides over what is so wide, mm."""
    rings = [
        ring
        for ring in things.values()
        if isinstance(ring, Ring) and ring.wire_mm and (ring.inner_mm or 0.0) > wide + 0.3
        and ring.closure in ("open", "split", "closed")
    ]  # fmt: skip
    if not rings:
        raise DomainError(f"no ring in the tray slides over {wide:.1f} mm: add a larger one")
    return min(rings, key=lambda ring: (ring.inner_mm or 0.0, ring.closure == "closed"))
