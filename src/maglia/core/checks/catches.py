"""Can the clasp bite its catch? Trade custom for lobster and toggle, geometry for the rest.

lobster: catch inner ≥ 2 × jaw wire + 1 mm and catch wire ≤ gape · toggle: bar ≥ 1.3 × ring inner
· hook: catch wire ≤ opening.
"""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly, member_name
from maglia.core.checks.found import Check
from maglia.core.parts.parts import Chain, Clasp, Ring
from maglia.core.sheets.lengths import member_width_mm


def check(assembly: Assembly) -> Iterator[Check]:
    if assembly.clasp is None or assembly.catch is None:
        return
    yield from _no_mending_ring(assembly)
    clasp = assembly.thing(assembly.members[assembly.clasp])
    catch_member = assembly.members[assembly.catch]
    catch = assembly.thing(catch_member)
    if not isinstance(clasp, Clasp) or not isinstance(catch, Ring | Chain):
        return
    inner = catch.inner_mm if isinstance(catch, Ring) else catch.inner_width_mm
    for reason, repair in _reach(assembly, clasp, inner):
        yield Check(
            code="toggle-cannot-reach",
            severity="stop",
            place=member_name(catch_member),
            message=f"The bar cannot be drawn through its ring: {reason}.",
            repair=repair,
            run=catch_member.run,
            item=catch_member.item,
        )
    for reason, repair in _reasons(clasp, inner, catch.wire_mm):
        yield Check(
            code="clasp-cannot-bite",
            severity="stop",
            place=member_name(catch_member),
            message=f"“{clasp.name}” cannot bite “{catch.name}”: {reason}.",
            repair=repair,
            run=catch_member.run,
            item=catch_member.item,
        )


def _no_mending_ring(assembly: Assembly) -> Iterator[Check]:
    """One plain ring at each end, so that a length can be mended without restringing."""
    main = assembly.main
    if main is None or not main.closed:
        return
    own = [s for s in main.stations if assembly.members[s.members[0]].run == main.run]
    for station in dict.fromkeys((own[0], own[-1])):
        member = assembly.members[station.members[0]]
        if member.strung is not None:
            yield Check(
                code="no-mending-ring",
                severity="note",
                place=member_name(member),
                message="The strung end is joined to the clasp: to mend it, all is restrung.",
                repair="put a plain ring between them",
                run=member.run,
                item=member.item,
            )


def _reach(assembly: Assembly, clasp: Clasp, inner: float | None) -> Iterator[tuple[str, str]]:
    """The last bar's length before a toggle's bar must pass its ring."""
    if clasp.sort != "toggle" or not clasp.bar_mm or inner is None or assembly.main is None:
        return
    stations = list(assembly.main.stations)
    at = next(k for k, s in enumerate(stations) if assembly.clasp in s.members)
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


def _reasons(clasp: Clasp, inner: float | None, wire: float | None) -> Iterator[tuple[str, str]]:
    if clasp.sort in ("lobster", "spring ring") and clasp.jaw_wire_mm and inner is not None:
        least = 2 * clasp.jaw_wire_mm + 1
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
        least = 1.3 * inner
        if clasp.bar_mm < least:
            yield (
                f"its bar of {clasp.bar_mm:.1f} mm slips back through a ring of {inner:.1f} mm",
                f"take a bar of at least {least:.1f} mm, or a smaller ring",
            )
