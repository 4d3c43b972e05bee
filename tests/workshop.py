"""Small parts and pieces for tests; every size is round, so that sums can be done in the head."""

from maglia.core.parts.parts import Bead, Chain, Charm, Clasp, Connector, Hole, Pin, Ring, Wire
from maglia.core.parts.units import BeadLink, Dangle, Loop
from maglia.core.piece.items import ChainItem, RingItem, UnitItem
from maglia.core.piece.piece import Closure, Form, Piece, Place, Run

CHAIN = Chain(id="chain", name="Chain 3", pitches_mm=(3.0,), inner_width_mm=2.0, wire_mm=0.8)
RING = Ring(id="ring", name="Ring 4", wire_mm=0.8, inner_mm=4.0)
SMALL = Ring(id="small", name="Ring 3", wire_mm=0.5, inner_mm=3.0)
CATCH = Ring(id="catch", name="Catch 5", wire_mm=1.0, inner_mm=5.0)
BEAD = Bead(id="bead", name="Bead 8", length_mm=8.0, width_mm=8.0, hole_mm=1.0)
WIRE = Wire(id="wire", name="Wire 0.6", wire_mm=0.6)
PIN = Pin(id="pin", name="Head pin", wire_mm=0.6, length_mm=40.0)
CLASP = Clasp(
    id="clasp",
    name="Lobster",
    span_mm=9.0,
    eye_mm=1.6,
    gape_mm=1.6,
    jaw_wire_mm=1.0,
    mass_g=0.5,
)
OVAL = Connector(
    id="oval",
    name="Oval",
    width_mm=24.0,
    height_mm=12.0,
    thickness_mm=1.0,
    holes=(
        Hole(name="left", x_mm=-10, y_mm=0, diameter_mm=2.0),
        Hole(name="right", x_mm=10, y_mm=0, diameter_mm=2.0),
        Hole(name="foot", x_mm=0, y_mm=-4, diameter_mm=2.0),
    ),
)
CHARM = Charm(id="charm", name="Charm", height_mm=20.0, width_mm=8.0, loop_mm=2.0, mass_g=1.5)
LINK = BeadLink(
    id="link",
    name="Bead link",
    stack=("bead",),
    wire="wire",
    loop=Loop(style="wrapped", inner_mm=2.0, wraps=2),
    mid="ring",
)
DANGLE = Dangle(
    id="dangle", name="Dangle", stack=("bead",), wire="pin", loop=Loop(style="simple", inner_mm=2.0)
)
PARTS = (CHAIN, RING, SMALL, CATCH, BEAD, WIRE, PIN, CLASP, OVAL, CHARM)
UNITS = (LINK, DANGLE)
CLOSED = Closure(kind="clasp", clasp="clasp", catch="catch")


def chain(links, part="chain"):
    return ChainItem(part=part, links=links)


def rings(count=1, part="ring", abreast=1):
    return RingItem(part=part, count=count, abreast=abreast)


def unit(name):
    return UnitItem(unit=name)


def piece(*runs, closure=CLOSED, parts=PARTS, pins=100.0, **more):
    return Piece(
        name="Test", parts=parts, units=UNITS, runs=runs, closure=closure,
        form=Form(pins_mm=pins), **more,
    )  # fmt: skip


def strand(centre=None, *items, **more):
    return Run(name="Strand", centre=centre or chain(51), items=items, **more)


def drop(name, at, *items, item=0, lies="paired", port=None, side=None):
    place = Place(run="Strand", item=item, at=at, port=port, side=side)
    return Run(name=name, kind="drop", lies=lies, start=place, items=items)


def ports_of(assembly, member):
    """Every port a joint may use on a member."""
    thing = assembly.thing(member)
    if member.links:
        return set(range(1, member.links + 1))
    if isinstance(thing, Connector):
        return {hole.name for hole in thing.holes}
    by_kind = {BeadLink: {"a", "b", "mid"}, Clasp: {"eye", "bite"}, Ring: {"ring"}}
    return next((p for kind, p in by_kind.items() if isinstance(thing, kind)), {"loop"})
