"""What starting points are made from: parts chosen from the tray, noted as they are used.

Raises DomainError naming what the tray lacks.
"""

from collections.abc import Iterable
from typing import Any

from msgspec.structs import replace

from maglia.core.parts.parts import Chain, Charm, Clasp, Connector, Ring
from maglia.core.parts.units import BeadLink, Dangle
from maglia.core.piece.piece import Closure, Piece, Wearer
from maglia.core.piece.wishes import Fit, LengthFit
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.tray import Tray


class Asked(Value, frozen=True):
    """The short question: for whom, how long (mm; none: as the wearer's girth asks), how many."""

    wearer: Wearer
    length_mm: float | None = None
    count: int | None = None


class Kit:
    """Finds parts in the tray and notes what a skeleton used."""

    def __init__(self, tray: Tray, asked: Asked) -> None:
        self.tray, self.asked = tray, asked
        self.things: dict[str, Any] = {t.id: t for t in (*tray.parts, *tray.units)}
        self.used: dict[str, Any] = {}

    def packed(self, piece: Piece) -> Piece:
        """The piece with copies of everything it uses."""
        parts: list[Any] = []
        units: list[Any] = []
        for thing in self.used.values():
            (units if hasattr(thing, "stack") or hasattr(thing, "hangs") else parts).append(thing)
        return replace(piece, parts=tuple(parts), units=tuple(units))

    def use(self, thing: Any) -> str:
        for ref in (*getattr(thing, "stack", ()), *getattr(thing, "hangs", ())):
            self.use(self.things[ref])
        for field in ("wire", "mid", "carrier"):
            ref = getattr(thing, field, None)
            if isinstance(ref, str):
                self.use(self.things[ref])
        self.used[thing.id] = thing
        return str(thing.id)

    def first(self, what: str, found: Iterable[Any]) -> Any:
        thing = next(iter(found), None)
        if thing is None:
            raise DomainError(f"the tray holds no {what}: add one, or start from an empty bench")
        return thing

    def chain(self, pitch_mm: float) -> str:
        """The plain chain whose pitch is nearest."""
        plain = [
            c for c in self.tray.parts if isinstance(c, Chain) and len(c.pitches_mm or ()) == 1
        ]
        order = sorted(plain, key=lambda c: abs((c.pitches_mm or (99.0,))[0] - pitch_mm))
        return self.use(self.first("plain chain", order))

    def ring(self, inner_mm: float, wire_mm: float = 9.0) -> str:
        """The open ring nearest to a size, of at most so thick wire."""
        rings = [
            r
            for r in self.tray.parts
            if isinstance(r, Ring) and r.closure == "open" and (r.wire_mm or 99) <= wire_mm
        ]
        order = sorted(rings, key=lambda r: abs((r.inner_mm or 99) - inner_mm))
        return self.use(self.first("open ring", order))

    def dangle(self) -> str:
        return self.use(self.first("dangle", (u for u in self.tray.units if isinstance(u, Dangle))))

    def link(self, *, mid: bool) -> str:
        links = [u for u in self.tray.units if type(u) is BeadLink]
        order = sorted(links, key=lambda u: (u.mid is not None) is not mid)
        return self.use(self.first("bead link", order))

    def charm(self) -> str:
        charms = [c for c in self.tray.parts if isinstance(c, Charm)]
        order = sorted(charms, key=lambda c: abs((c.height_mm or 99) - 18.0))
        return self.use(self.first("charm", order))

    def connector(self, holes: int, outline: str) -> Connector:
        found = [c for c in self.tray.parts if isinstance(c, Connector) and len(c.holes) >= holes]
        order = sorted(found, key=lambda c: (c.outline != outline, len(c.holes)))
        thing: Connector = self.first(f"connector with {holes} holes", order)
        self.use(thing)
        return thing

    def closure(self) -> Closure:
        """A lobster clasp and the smallest open ring it bites."""
        clasps = [c for c in self.tray.parts if isinstance(c, Clasp) and c.sort == "lobster"]
        clasp = self.first("lobster clasp", clasps)
        least = 2 * (clasp.jaw_wire_mm or 1.0) + 1
        fit = [
            r
            for r in self.tray.parts
            if isinstance(r, Ring) and r.closure == "open" and (r.inner_mm or 0) >= max(least, 4.5)
        ]
        catch = self.first("ring the clasp can bite", sorted(fit, key=lambda r: r.inner_mm or 0))
        return Closure(kind="clasp", clasp=self.use(clasp), catch=self.use(catch))

    def to_length(self, name: str = "closed length", run: str | None = None) -> LengthFit:
        """To the length asked for, else to the wearer."""
        if self.asked.length_mm is None:
            return LengthFit(name=name, run=run)
        return LengthFit(name=name, run=run, to="given", mm=self.asked.length_mm)

    def necklace(self, usual_mm: float, *fits: Fit) -> tuple[Fit, ...]:
        """The length of a necklace: as asked, else the usual one longer than the neck."""
        neck = self.asked.wearer.neck_mm or 350.0
        length = self.asked.length_mm or round(neck + usual_mm)
        return (LengthFit(name="closed length", to="given", mm=length), *fits)
