"""The clasp hooked elsewhere than on its catch: on the strand, or on a run that hangs from it.

What then goes round the wearer leads from the place that is bitten to the clasp; what is beyond it
hangs free.
"""

from collections.abc import Iterable

from maglia.core.assembly.assembly import Joint, Path, Station
from maglia.core.assembly.layer import Layer, reversed_stations, turned
from maglia.core.assembly.places import Places, place_words
from maglia.core.assembly.ports import Port
from maglia.core.parts.parts import Chain, chain_length_mm
from maglia.core.piece.piece import Place, Side
from maglia.core.values.record import DomainError


def hook(laid: Layer, places: Places, clasp: int, clasp_side: Side, place: Place) -> None:
    """Change paths and joints of a closed piece for a clasp hooked at a place. Raises DomainError
    if the place does not exist or does not lead back to the strand."""
    far: Side = "left" if clasp_side == "right" else "right"
    (bitten, *_), port, _ = places.resolve(place, place.side or far, "the clasp, hooked elsewhere,")
    if bitten == places.catch:
        return
    if laid.members[bitten].made_in is not None:
        raise DomainError(
            f"the clasp cannot be hooked at {place_words(place)}, "
            "a ring within a unit: name one of its loops, a or b"
        )
    at = next(k for k, path in enumerate(laid.paths) if path.closed)
    strand = laid.paths[at]
    loop = list(strand.stations) if clasp_side == "right" else reversed_stations(strand.stations)
    on_strand = next((k for k, s in enumerate(loop) if bitten in s.members), None)
    beyond: list[Station] = []
    if on_strand is not None:
        begins, free = on_strand, loop[:on_strand]
        line = _from(laid, loop[begins], port)
    else:
        begins, line, beyond = _along_run(laid, loop, bitten, port, place)
        free = loop[:begins]
    joints = [joint for joint in laid.joints if (clasp, "bite") not in _ends(joint)]
    laid.joints[:] = [*joints, Joint(clasp, "bite", bitten, port)]
    whole = [*line, *loop[begins + 1 :]]
    if not line:  # bitten by the near loop: that part hangs with what is beyond it
        free = loop[: begins + 1] if on_strand is not None else free
    stations = whole if clasp_side == "right" else reversed_stations(whole)
    laid.paths[at] = Path(strand.run, strand.kind, strand.side, tuple(stations), closed=True)
    for rest in (reversed_stations(free), beyond):
        if rest:
            run = laid.members[rest[0].members[0]].run
            _hang(laid, rest)
            laid.paths.append(Path(run, "tie", strand.side, tuple(rest)))


def _ends(joint: Joint) -> tuple[tuple[int, Port], ...]:
    return (joint.a, joint.port_a), (joint.b, joint.port_b)


def _from(laid: Layer, station: Station, port: Port) -> list[Station]:
    """What of a step lies between the place that is bitten and the clasp."""
    member = laid.members[station.members[0]]
    chain, out = laid.things[member.ref], station.port_out
    if isinstance(chain, Chain) and isinstance(port, int):
        if port == station.port_in:
            return [station]
        links = member.links - port + 1 if out == member.links else port
        first = port if out == member.links else 1
        return [
            Station(
                station.members,
                port,
                out,
                chain_length_mm(chain, links, first + member.first_phase),
            )
        ]
    return [] if port == out != station.port_in else [station]


def _along_run(
    laid: Layer, loop: list[Station], bitten: int, port: Port, place: Place
) -> tuple[int, list[Station], list[Station]]:
    """Where on the loop the run of the bitten part hangs, the way there, and what hangs beyond."""
    for at, path in enumerate(laid.paths):
        k = next((k for k, s in enumerate(path.stations) if bitten in s.members), None)
        if k is None:
            continue
        first = path.stations[0].members[0]
        for joint in laid.joints:
            host = next((n for n, s in enumerate(loop) if joint.a in s.members), None)
            if joint.inline or joint.b != first or host is None:
                continue
            back = [turned(station) for station in reversed(path.stations[: k + 1])]
            del laid.paths[at]
            line = [*_from(laid, back[0], port), *back[1:], *_from(laid, loop[host], joint.port_a)]
            return host, line, list(path.stations[k + 1 :])
    raise DomainError(
        f"the clasp cannot be hooked at {place_words(place)}: it does not hang from the strand"
    )


def _hang(laid: Layer, rest: Iterable[Station]) -> None:
    """Let the first of the stations hang from what it followed."""
    first = next(iter(rest))
    own = set(first.members)
    for k, joint in enumerate(laid.joints):
        for (a, port_a), (b, port_b) in (_ends(joint), _ends(joint)[::-1]):
            if joint.inline and b in own and port_b == first.port_in and a not in own:
                laid.joints[k] = Joint(a, port_a, b, port_b, False)
