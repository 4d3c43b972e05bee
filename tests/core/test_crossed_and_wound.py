"""Two legs through a drop drilled across, cones that cover, frames that are wound."""

import math

import pytest
from msgspec.structs import replace

from maglia.core.edits.spots import Spot
from maglia.core.parts.parts import Bead, Connector, End, Hole, Wire
from maglia.core.parts.units import (
    BeadLink,
    Dangle,
    Loop,
    unit_mass_g,
    unit_span_mm,
    wire_needed_mm,
)
from maglia.core.piece.items import ConnectorItem, UnitItem, Winding
from maglia.core.piece.piece import Closure, Form, Run
from maglia.core.report import as_json, evaluate
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text
from saying import said, unit_said
from workshop import PARTS, UNITS, piece

DROP = Bead(id="drop", name="Drop 8", length_mm=8.0, width_mm=14.0, hole_mm=1.0, mass_g=2.0)
SEED = Bead(id="seed", name="Seed 2", length_mm=2.0, width_mm=2.0, hole_mm=0.9, mass_g=0.02)
CONE = End(id="cone", name="Cone 16", sort="cone", adds_mm=16.0, covers_mm=5.0, mass_g=1.0)
FINE = Wire(id="fine", name="Wire 0.4", wire_mm=0.4)
FRAME = Connector(
    id="frame", name="Frame 20", outline="frame", width_mm=20.0, height_mm=20.0, thickness_mm=1.6,
    mass_g=1.5, holes=(Hole(name="top", x_mm=0, y_mm=9, diameter_mm=2),
                       Hole(name="foot", x_mm=0, y_mm=-9, diameter_mm=2)),
)  # fmt: skip
MORE = (*PARTS, DROP, SEED, CONE, FINE, FRAME)
THINGS = {thing.id: thing for thing in (*MORE, *UNITS)}
CROSSED = Dangle(
    id="crossed", name="Crossed", stack=("bead", "drop"), wire="wire", crossed=True,
    legs=("seed", "seed"), loop=Loop(style="wrapped", inner_mm=2.0, wraps=2),
)  # fmt: skip


def hung(*items, units=()):
    run = Run(name="Host", kind="strand", lies="fold", items=items)
    made = piece(run, parts=MORE, closure=Closure())
    return replace(made, units=(*UNITS, *units), form=Form(kind="board"), sort="pendant")


def test_two_legs_come_up_from_a_drop_drilled_across():
    """Loop 2.6, two wraps 1.2, bead 8, two seeds 4 beside each other, the drop's height 14; wire
    through the drop's 8, both legs, and with both of them through the bead."""
    assert unit_span_mm(CROSSED, THINGS) == pytest.approx(2.6 + 1.2 + 8 + 4 + 14)
    loop = math.pi * 2.6 + 2 * 2 * math.pi * 0.6 + 35
    assert wire_needed_mm(CROSSED, THINGS) == pytest.approx(2 * 8 + 2 * 4 + 8 + loop)
    of = hung(UnitItem(unit="crossed"), units=(CROSSED,))
    counts = {c["part"]: c["count"] for c in as_json(evaluate(of))["counts"]}
    assert (counts["seed"], counts["drop"], counts["bead"]) == (4, 1, 1)
    plain = replace(CROSSED, legs=())
    assert unit_mass_g(CROSSED, THINGS) - unit_mass_g(plain, THINGS) == pytest.approx(
        4 * 0.02 + 8 * math.pi / 4 * 0.36 * 8.5e-3
    )
    assert piece_from(piece_text(of)) == of
    pinned = hung(UnitItem(unit="crossed"), units=(replace(CROSSED, wire="pin"),))
    assert "legs-on-pin" in {c.code for c in evaluate(pinned).checks}


def test_a_cone_covers_what_hangs_in_it():
    link = BeadLink(id="trumpet", name="Trumpet", stack=("cone",), wire="wire",
                    loop=Loop(inner_mm=2.0))  # fmt: skip
    assert unit_span_mm(link, THINGS) == pytest.approx(2 * 2.6 + 16 - 5)
    with pytest.raises(DomainError, match="cannot cover 16 mm"):
        End(id="x", name="Cone", adds_mm=16.0, covers_mm=16.0)


def test_a_frame_is_wound():
    """24 turns of π × (1.6 + 0.4), twelve seeds on them."""
    winding = Winding(wire="fine", turns=24, bead="seed", beads=12)
    item = ConnectorItem(part="frame", hole_in="top", hole_out="foot", wound=winding)
    bare = evaluate(hung(replace(item, wound=None)))
    found = evaluate(hung(item))
    counts = {c["part"]: c for c in as_json(found)["counts"]}
    # 24 turns round 1.6 and 0.4, through 12 beads of 2, and 25 at each end to hold it by
    along = 24 * math.pi * 2.0 + 12 * 2
    assert counts["fine"]["length_mm"] == pytest.approx(along + 50, abs=1e-3)
    assert counts["seed"]["count"] == 12
    wire = along * math.pi / 4 * 0.16 * 8.5e-3
    more = found.balance.total_g - bare.balance.total_g
    assert more == pytest.approx(12 * 0.02 + wire)
    assert found.closed_length_mm == bare.closed_length_mm
    assert piece_from(piece_text(found.assembly.piece)) == found.assembly.piece


def test_winding_in_a_phrase():
    tray, item = Tray(parts=MORE), ConnectorItem(part="frame", hole_in="top", hole_out="foot")
    of = hung(item)
    wound = said("wind 24 turns of wire 0.4, 12 seed", of, tray, Spot("Host", (0,)))
    made = wound.piece.runs[0].items[0]
    assert made.wound == Winding(wire="fine", turns=24, bead="seed", beads=12)
    with pytest.raises(DomainError, match="put the cursor on the connector"):
        said("wind 3 wire 0.4", of, tray)


def test_two_legs_in_a_phrase():
    tray = Tray(parts=MORE, units=UNITS)
    things = {t.id: t for t in (*tray.parts, *tray.units)}
    made = unit_said("dangle bead + 2 legs (seed + seed) + drop on wire 0.6, loop 2 wrapped 2",
                     things)  # fmt: skip
    assert (made.stack, made.legs, made.crossed) == (("bead", "drop"), ("seed", "seed"), True)
    plain = unit_said("dangle bead on wire 0.6, loop 2, turned foot", things)
    assert (plain.stack, plain.spiral_mm) == (("bead",), None)
    with pytest.raises(DomainError, match="say new dangle"):
        unit_said("link bead + 2 legs (seed) + drop on wire 0.6", things)
