"""What a clasp can close on: a ring, a loop, a link or a hole, by one rule for each.

Trade custom for lobster and toggle, geometry for the rest. lobster: opening ≥ 2 × jaw wire + 1 mm
and its wire ≤ gape · toggle: bar ≥ 1.3 × opening, and the last bar's length before it passes ·
hook: wire ≤ gape · a magnet holds its own half only.
"""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, Member
from maglia.core.assembly.ports import Port
from maglia.core.parts.parts import (
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    End,
    Ring,
    Wire,
    hole_of,
)
from maglia.core.parts.units import (
    BeadLink,
    Dangle,
    Tassel,
    far_loop,
    loop_inner_mm,
    wire_mm_of,
)
from maglia.core.sheets.lengths import member_width_mm
from maglia.core.values.rules import Rules

Reason = tuple[str, str]
"""Why not, and what mends it."""


def opening_mm(assembly: Assembly, member: Member, port: Port) -> float | None:
    """Diameter or width of the opening at a port, mm; None if unknown."""
    thing = assembly.thing(member)
    if member.strung is not None:
        end = _end_at(assembly, member, port)
        return end.loop_mm if end else None
    if isinstance(thing, Chain):
        return thing.inner_width_mm
    if isinstance(thing, Ring):
        return min(thing.inner_mm or 0.0, thing.inner_width_mm or 1e9) or None
    if isinstance(thing, Connector):
        hole = hole_of(thing, str(port))
        return hole.diameter_mm if hole else None
    if isinstance(thing, BeadLink | Dangle):
        if port == "mid":
            return None
        wire = assembly.things.get(thing.wire)
        if isinstance(thing, BeadLink) and port == "b":
            return far_loop(thing).inner_mm
        return loop_inner_mm(wire, thing.loop, first=True)
    if isinstance(thing, Clasp):
        return thing.eye_mm if port == "eye" else None
    if isinstance(thing, Charm | EarFinding | End):
        return thing.loop_mm
    if isinstance(thing, Tassel):
        ring = assembly.things.get(thing.ring)
        return ring.inner_mm if isinstance(ring, Ring) else None
    return None


def _end_at(assembly: Assembly, member: Member, port: Port) -> End | None:
    """The finding at an end of a strung section, whose loop is borne on there."""
    if member.strung is None or port not in (1, member.links):
        return None
    end = assembly.things.get(member.strung.ends[0 if port == 1 else 1].end or "")
    return end if isinstance(end, End) else None


def thickness_at(assembly: Assembly, member: Member, port: Port) -> float:
    """How thick the wire or edge is that a member puts into a ring, mm; 0 where unknown."""
    thing = assembly.thing(member)
    if member.strung is not None and (end := _end_at(assembly, member, port)):
        thread = thing.wire_mm if isinstance(thing, Wire) else None
        return (thread or 0.0) if end.sort == "crimp" else 0.0
    if isinstance(thing, Chain | Ring | EarFinding):
        return thing.wire_mm or 0.0
    if isinstance(thing, BeadLink | Dangle):
        return 0.0 if port == "mid" else wire_mm_of(assembly.things.get(thing.wire)) or 0.0
    if isinstance(thing, Connector):
        return thing.thickness_mm or 0.0
    if isinstance(thing, Charm):
        return thing.loop_wire_mm or 0.0
    if isinstance(thing, Clasp):
        return (thing.jaw_wire_mm if port == "bite" else None) or 0.0
    return (thing.wire_mm or 0.0) if isinstance(thing, Wire) else 0.0


def cannot_bite(
    clasp: Clasp, inner: float | None, wire: float | None, rules: Rules
) -> Iterator[Reason]:
    """Why a clasp cannot close on an opening of that size and thickness, mm."""
    if clasp.sort in ("lobster", "spring ring") and clasp.jaw_wire_mm and inner is not None:
        least = rules.jaw_times * clasp.jaw_wire_mm + rules.jaw_more_mm
        if inner < least:
            yield (
                f"its opening of {inner:.1f} mm is {least - inner:.1f} mm too small for the jaw",
                f"take a catch ring of at least {least:.1f} mm inside",
            )
    if clasp.sort != "toggle" and clasp.gape_mm and wire is not None and wire > clasp.gape_mm:
        yield (
            f"its wire of {wire:.2f} mm is thicker than the gape of {clasp.gape_mm:.2f} mm",
            f"take a catch ring of at most {clasp.gape_mm:.2f} mm wire",
        )
    if clasp.sort == "toggle" and clasp.bar_mm and inner is not None:
        least = rules.bar_times * inner
        if clasp.bar_mm < least:
            yield (
                f"its bar of {clasp.bar_mm:.1f} mm slips back through a ring of {inner:.1f} mm",
                f"take a bar of at least {least:.1f} mm, or a smaller ring",
            )


def cannot_pass(assembly: Assembly, clasp: Clasp, inner: float | None) -> Iterator[Reason]:
    """Why a toggle's bar cannot be drawn through an opening: what stands before it is too wide."""
    if clasp.sort != "toggle" or not clasp.bar_mm or inner is None or assembly.main is None:
        return
    stations = list(assembly.main.stations)
    at = next((k for k, s in enumerate(stations) if assembly.clasp in s.members), None)
    if at is None:
        return
    before = stations[:at][::-1] if at > len(stations) / 2 else stations[at + 1 :]
    gone = 0.0
    for station in before:
        if gone >= clasp.bar_mm / 2:
            return
        member = assembly.members[station.members[0]]
        width = member_width_mm(assembly, member)
        if member.made_in is None and width > inner:
            yield (
                f"“{assembly.thing(member).name}”, {width:.1f} mm wide, stands {gone:.0f} mm from "
                f"the bar and does not pass the ring of {inner:.1f} mm",
                "put a few small rings before the bar",
            )
            return
        gone += station.span_mm or 0.0


def can_bite(assembly: Assembly, member: Member, port: Port) -> bool:
    """Whether the clasp of the piece can be hooked there."""
    clasp = assembly.thing(assembly.members[assembly.clasp]) if assembly.clasp is not None else None
    if not isinstance(clasp, Clasp) or clasp.sort == "magnet":
        return False
    inner, wire = opening_mm(assembly, member, port), thickness_at(assembly, member, port) or None
    return not any(
        (*cannot_bite(clasp, inner, wire, assembly.rules), *cannot_pass(assembly, clasp, inner))
    )
