"""Places: from “link 3 of item 0 of run Collar” to a member and its port, for either side.

Links of a run across the fold are counted from the fold outward; inside the assembly they are
counted along the path. Everything that translates between the two is here.
"""

from msgspec.structs import replace

from maglia.core.assembly.assembly import Member, Station, Where
from maglia.core.assembly.layer import Layer, require_hole
from maglia.core.assembly.ports import (
    ALONG,
    GAP,
    RIDES,
    Port,
    along_port,
    gap_port,
    rides_between,
)
from maglia.core.parts.parts import Connector, hole_of
from maglia.core.parts.units import BeadLink
from maglia.core.piece.piece import Place, Run
from maglia.core.values.record import DomainError

CLOSURE = "closure"
"""The run name by which a place points at the catch."""
FIRST_AT_CLOSURE = 3
"""Its items: the clasp, the catch, and from here what stands beside them."""


Found = tuple[tuple[int, ...], Port, bool]
"""Members, port, and whether it lies on the fold."""


class Places:
    """Finds places among laid members. `where` in messages is the run that asks."""

    def __init__(self, laid: Layer, runs: dict[str, Run]) -> None:
        self.laid = laid
        self.by_name = runs
        self.catch: int | None = None
        self.clasp: int | None = None

    def resolve(self, place: Place, side: Where, where: str) -> Found:
        """Members (several for rings abreast), port, and whether it lies on the fold, for one
        side's copy of a place."""
        if place.run == CLOSURE:
            return self._resolve_closure(place, where)
        host = self.by_name.get(place.run)
        if host is None:
            raise DomainError(f"{where} joins run “{place.run}”, which does not exist")
        own: Where = place.side or side
        if host.lies == "fold" or place.item == 0:
            own_key: Where = "fold"
        else:
            own_key = "whole" if host.lies == "free" else own
        if own_key in ("fold", "whole") and host.lies in ("across", "paired") and place.item:
            raise DomainError(
                f"{where} lies on the fold, but {place_words(place)} stands left and right: "
                "pair the run, or name a place on the fold"
            )
        stations = self.laid.placed.get((host.name, own_key, place.item))
        if stations is None:
            count = max((k for name, _, k in self.laid.placed if name == host.name), default=0)
            raise DomainError(
                f"{where} joins item {place.item} of run “{host.name}”, which has items "
                f"{'0' if host.centre else '1'} to {count}"
            )
        return self._resolve_within(place, own, stations, own_key == "fold", where)

    def _resolve_closure(self, place: Place, where: str) -> Found:
        """The catch, or the eye of the clasp."""
        if place.port not in (None, "catch", "clasp"):
            raise DomainError(
                f"{where} joins “{place.port}” of the closure: say its catch or its clasp"
            )
        index = self.clasp if place.port == "clasp" else self.catch
        if index is None:
            raise DomainError(f"{where} joins the {place.port or 'catch'}, but the piece has none")
        return (index,), self._default_port(index), True

    def _resolve_within(
        self, place: Place, side: Where, stations: list[Station], central: bool, where: str
    ) -> Found:
        first = self.laid.members[stations[0].members[0]]
        if place.port == RIDES and first.kind in ("chain", "strung"):
            return self._resolve_ride(place, side, first, central, where)
        if place.port == ALONG and first.kind == "strung":
            return self._resolve_along(place, side, stations[0], central, where)
        if place.port == GAP and first.kind == "strung":
            return self._resolve_gap(place, side, first, central, where)
        if first.kind in ("chain", "strung"):
            size = first.links
        elif first.kind == "ring" and first.made_in is None:
            size = len(stations)
        else:
            return self._resolve_port(place, side, first, central, where)
        on_centre = central and place.item == 0
        if not on_centre and not 1 <= place.at <= size:
            raise DomainError(
                f"{where} joins {place_words(place)}, but there are only {size}: take 1 to {size}"
            )
        k = _from_fold(place, side, size, where) if on_centre else place.at
        on_fold = place.at == 0 if on_centre else central
        if first.kind in ("chain", "strung"):
            return (first.id,), k, on_fold
        return stations[k - 1].members, "ring", on_fold

    def _resolve_ride(
        self, place: Place, side: Where, member: Member, central: bool, where: str
    ) -> Found:
        """What slides: along all of it, or between two of its links or beads; on the fold from one
        on the left to one on the right."""
        if place.until is None:
            return (member.id,), RIDES, central
        size, on_centre = member.links, central and place.item == 0
        stops = []
        for number, own in ((place.at, "left"), (place.until, "right")):
            at = replace(place, at=number)
            if on_centre:
                side_of: Where = own if side in ("fold", "whole") else side  # type: ignore[assignment]
                stops.append(_from_fold(at, side_of, size, where))
            elif 1 <= number <= size:
                stops.append(number)
            else:
                raise DomainError(
                    f"{where} slides to {place_words(at)}, but there are only {size}: take 1 to "
                    f"{size}"
                )
        first, last = sorted(stops)
        if last - first < 2:
            raise DomainError(
                f"{where} slides between number {place.at} and {place.until} of run "
                f"“{place.run}”, and nothing lies between them: let them stand further apart"
            )
        return (member.id,), rides_between(first, last), central

    def _resolve_along(
        self, place: Place, side: Where, station: Station, central: bool, where: str
    ) -> Found:
        """So many mm from the fold, or from the inner end of what stands beside it."""
        member, long = station.members[0], station.span_mm
        if long is None:
            raise DomainError(f"{where} joins {place_words(place)}, whose length is not known")
        on_centre = central and place.item == 0
        if place.at > (long / 2 if on_centre else long):
            raise DomainError(
                f"{where} joins {place_words(place)}, but it is only "
                f"{long / 2 if on_centre else long:.0f} mm to its end"
            )
        if not on_centre:
            return (member,), along_port(float(place.at)), central
        if place.at and side not in ("left", "right"):
            raise DomainError(f"{where} joins {place_words(place)}, which stands left and right")
        from_left = long / 2 + (place.at if side == "right" else -place.at)
        return (member,), along_port(from_left), place.at == 0

    def _resolve_gap(
        self, place: Place, side: Where, member: Member, central: bool, where: str
    ) -> Found:
        """A place between two beads: gap k lies outward of bead k; on the fold of an even number
        lies gap 0."""
        size = member.links
        if not (central and place.item == 0):
            if not 1 <= place.at < size:
                raise DomainError(
                    f"{where} joins {place_words(place)}, but there are only {size - 1} between "
                    f"{size} beads"
                )
            return (member.id,), gap_port(place.at), central
        half, odd = divmod(size, 2)
        if place.at == 0:
            if odd:
                raise DomainError(f"{where}: a bead lies on the fold of {size}, and no gap")
            return (member.id,), gap_port(half), True
        if side not in ("left", "right"):
            raise DomainError(f"{where} joins {place_words(place)}, which stands left and right")
        most = half if odd else half - 1
        if place.at > most:
            raise DomainError(f"{where} joins {place_words(place)}, but a half has only {most}")
        right = half + place.at
        return (member.id,), gap_port(right if side == "right" else size - right), False

    def _resolve_port(
        self, place: Place, side: Where, member: Member, central: bool, where: str
    ) -> Found:
        thing = self.laid.things[member.ref]
        if isinstance(thing, Connector):
            if place.port is None:
                known = ", ".join(hole.name for hole in thing.holes)
                raise DomainError(f"{where}: say which hole of “{thing.name}”: {known}")
            require_hole(thing, place.port, where)
            hole = place.port
            if central and side in ("left", "right"):
                hole = self._hole_of_side(thing, place, side, where)
            return (member.id,), hole, central and mirror_hole(thing, hole) == hole
        if isinstance(thing, BeadLink):
            return self._resolve_link_port(place, side, member, thing, central, where)
        port = self._default_port(member.id)
        if place.port is not None and place.port != port:
            raise DomainError(
                f"{where} joins “{place.port}” of “{thing.name}”, which has only its {port}"
            )
        return (member.id,), port, central

    def _hole_of_side(self, connector: Connector, place: Place, side: Where, where: str) -> str:
        """Of a hole on the fold and its partner the one that lies on a side, whichever was named;
        unless the place points across, what hangs left then hangs left."""
        assert place.port is not None
        partner = mirror_hole(connector, place.port)
        if partner is None:
            raise DomainError(
                f"{where}: hole “{place.port}” of “{connector.name}” has no partner on the other "
                "side of the fold; free the run or choose another hole"
            )
        if place.side is not None:
            return partner if side == "left" else place.port
        order = sorted((place.port, partner), key=lambda name: _x_mm(connector, name))
        return order[0 if side == "left" else 1]

    def _resolve_link_port(
        self,
        place: Place,
        side: Where,
        member: Member,
        unit: BeadLink,
        central: bool,
        where: str,
    ) -> Found:
        if place.port == "mid":
            if unit.mid is None:
                raise DomainError(
                    f"{where} joins the mid of “{unit.name}”, which is made without a mid ring: "
                    "add one to the unit"
                )
            return (member.id + 1,), "ring", central
        if place.port not in ("a", "b"):
            raise DomainError(f"{where}: say where on “{unit.name}”: loop a, loop b or mid")
        port = place.port
        if central and place.item == 0 and side in ("left", "right"):
            outer = place.side is None or port == "b"  # a lies left, as a link on the fold is laid
            port = "b" if outer == (side == "right") else "a"
        return (member.id,), port, False

    def _default_port(self, index: int) -> Port:
        member = self.laid.members[index]
        if member.links:
            return 1
        if member.kind == "clasp" and index != self.clasp:
            return "bite"  # what comes off hangs in it; what closes the piece bites its catch
        return {"ring": "ring", "clasp": "eye", "connector": "a"}.get(member.kind, "loop")


def _from_fold(place: Place, side: Where, size: int, where: str) -> int:
    """Position 1…size, from the left, of place.at counted from the fold."""
    half, odd = divmod(size, 2)
    if place.at == 0:  # of an even number the link beside the fold; a check says so
        return half + 1
    if side not in ("left", "right"):
        raise DomainError(
            f"{where} joins {place_words(place)}, which stands left and right: pair the run, "
            "or name a side"
        )
    if place.at > half:
        raise DomainError(f"{where} joins {place_words(place)}, but a half has only {half}")
    if side == "right":
        return half + place.at + (1 if odd else 0)
    return half + 1 - place.at


def _x_mm(connector: Connector, name: str) -> float:
    hole = hole_of(connector, name)
    return hole.x_mm if hole else 0.0


def mirror_hole(connector: Connector, name: str) -> str | None:
    """The hole that lies where this one lies in a mirror on the connector's own middle."""
    hole = hole_of(connector, name)
    if hole is None:
        return None
    for other in connector.holes:
        if abs(other.x_mm + hole.x_mm) < 1e-6 and abs(other.y_mm - hole.y_mm) < 1e-6:
            return other.name
    return None


def place_words(place: Place) -> str:
    what = f"“{place.port}”" if place.port else f"number {place.at}"
    if place.port == ALONG:
        what = f"{place.at} mm"
    elif place.port == RIDES and place.until is not None:
        what = f"number {place.at}"
    item = "the centre" if place.item == 0 else f"item {place.item}"
    return f"{what} of {item} of run “{place.run}”"
