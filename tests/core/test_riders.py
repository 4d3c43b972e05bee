"""What slides on a chain or a strung section rests where the hang says, between its stops."""

import math

import numpy as np
import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import Spot
from maglia.core.parts.parts import Bead, Ring, Wire
from maglia.core.piece.items import StrungItem
from maglia.core.piece.piece import Closure, Place, Run
from maglia.core.report import evaluate
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text
from saying import said
from workshop import PARTS, UNITS, chain, piece, rings, strand, unit

WIDE = Ring(id="wide", name="Wide ring 10", wire_mm=1.0, inner_mm=10.0, mass_g=0.5)
BIG = Bead(id="big", name="Big bead", length_mm=14.0, width_mm=14.0, hole_mm=1.0)
SILK = Wire(id="silk", name="Silk", sort="thread", wire_mm=0.5)
MORE = (*PARTS, WIDE, BIG, SILK)
OPEN = Closure(kind="open")


def slide(host=0, ring="wide", *, lies="fold", side=None):
    return Run(name="Slide", kind="drop", lies=lies, items=(rings(part=ring), unit("dangle")),
               start=Place(run="Strand", item=host, port="rides", side=side))  # fmt: skip


def rider(found):
    member = next(m for m in found.assembly.members if m.run == "Slide")
    return found.hung.points_of(member.id)[0]


def test_a_ring_on_a_chain_rests_at_its_lowest_place():
    of = piece(strand(chain(81)), slide(), parts=MORE, closure=OPEN, pins=120.0)
    found = evaluate(of)
    assert found.hung.state == "converged"
    at = rider(found)
    assert at[0] == pytest.approx(0.0, abs=0.2)
    line = found.hung.points_of(found.assembly.members[0].id)
    assert at[1] <= line[:, 1].min() + 0.01
    assert piece_from(piece_text(of)) == of
    # it pulls the chain to a point there: far heavier, both halves would be straight
    heavy = replace(of, parts=(*PARTS, replace(WIDE, mass_g=400.0), BIG, SILK))
    deep = rider(evaluate(heavy))
    half = 81 * 3 / 2
    assert deep[1] == pytest.approx(-math.sqrt(half**2 - 60**2), abs=0.5)


def test_it_runs_down_to_the_stop_of_the_side_it_lies_on():
    """On the right half of an open strand, between a ring 14 mm long and the pin: it slides inward
    until the big bead's link stops it."""
    of = piece(strand(rings(), chain(40)), slide(host=1, lies="paired"), parts=MORE, closure=OPEN,
               pins=160.0)  # fmt: skip
    found = evaluate(of)
    assert found.hung.state == "converged"
    places = [found.hung.points_of(m.id)[0] for m in found.assembly.members
              if m.run == "Slide" and m.ref == "wide"]  # fmt: skip
    side = sorted(float(p[0]) for p in places)
    assert side[0] == pytest.approx(-side[1], abs=0.05)
    # the lowest of the chain on each side is its inner end, at the middle ring
    inner = [m for m in found.assembly.members if m.kind == "chain"]
    for place, member in zip(sorted(places, key=lambda p: p[0]),
                             sorted(inner, key=lambda m: m.side), strict=True):  # fmt: skip
        line = found.hung.points_of(member.id)
        ends = line[[0, -1]]
        low = ends[ends[:, 1].argmin()]
        assert np.linalg.norm(place - low) < 0.1


def test_it_slides_on_beads_of_different_lengths():
    section = StrungItem(thread="silk", pattern=("bead", "bead"), times=12, lead=("bead",))
    of = piece(strand(section), slide(), parts=MORE, closure=OPEN, pins=100.0)
    found = evaluate(of)
    assert found.hung.state == "converged"
    assert rider(found)[0] == pytest.approx(0.0, abs=0.3)


@pytest.mark.parametrize(
    ("item", "ring", "codes"),
    [
        # chain 3.6 mm wide: ring 4 passes it, and the catch of 5 + 2 stops it at both ends
        (chain(81), "wide", {"rider-without-stop"}),
        (chain(81), "small", {"rider-too-narrow"}),
    ],
)
def test_what_does_not_slide_or_is_not_stopped_is_said(item, ring, codes):
    found = evaluate(piece(strand(item, rings()), slide(ring=ring), parts=MORE, pins=100.0))
    said = {c.code for c in found.checks if c.code.startswith("rider")}
    assert said == codes
    assert not {"ring-too-thick", "cannot-be-joined"} & {
        c.code for c in found.checks if "Slide" in c.place
    }


def test_stops_at_both_ends_are_enough():
    of = piece(
        strand(chain(41), unit("link"), rings()), slide(ring="catch"), parts=MORE, pins=100.0
    )
    codes = {c.code for c in evaluate(of).checks}
    assert "rider-without-stop" not in codes  # a bead of 8 mm on each side, and a ring of 5 inside
    assert "rider-too-narrow" not in codes


def test_a_slide_in_a_phrase():
    tray = Tray(parts=MORE, units=UNITS)
    of = piece(strand(chain(81), rings()), parts=MORE)
    slid = said("slide dangle", of, tray, Spot("Strand", (-1,)))
    made = slid.piece.runs[-1]
    assert made.start.port == "rides"
    assert made.items[0].part == "ring"  # 4 mm inside, over a chain of 2 + 2 · 0.8 = 3.6
    assert "the smallest that slides there" in slid.words
    assert expand(slid.piece)
