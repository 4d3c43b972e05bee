"""What hangs by two places, at loops, at the clasp, and as a drop: where it lies, by hand."""

import math

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.spots import CENTRE, Spot
from maglia.core.piece.items import ConnectorItem
from maglia.core.piece.piece import Closure, Place, Run
from maglia.core.report import evaluate
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text
from saying import said as said_
from workshop import OVAL, PARTS, UNITS, chain, drop, piece, rings, strand, unit

ARCH = replace(OVAL, id="arch", name="Arch", mass_g=2.0)
MORE = (*PARTS, ARCH)
TRAY = Tray(parts=MORE, units=UNITS)
OPEN = Closure(kind="open")


def held(part="oval"):
    return ConnectorItem(part=part, hole_in="left", hole_out="right")


def arched(*runs):
    return piece(strand(held("arch"), rings(), chain(40)), *runs, closure=OPEN, parts=MORE)


def on(text, of, spot, mark=0):
    return said_(text, of, TRAY, spot, mark).piece


def points(found, run, ref):
    return {m.side: found.hung.points_of(m.id) for m in found.assembly.members
            if (m.run, m.ref) == (run, ref)}  # fmt: skip


def test_two_links_from_one_hole_spread_to_an_oval():
    """Each leg is 1 + 4 of ring, a link of 15.6, 4 + 1 of ring, drawn straight by a heavy oval
    whose holes are 20 apart."""
    bare = arched()
    bare = replace(bare, parts=(*PARTS[:-2], replace(OVAL, mass_g=400.0), PARTS[-1], ARCH))
    of = on("drop ring 4, bead link, ring 4, oval by left and right at foot", bare,
            Spot("Strand", (CENTRE,)))  # fmt: skip
    run = of.runs[-1]
    assert (run.lies, run.start, run.end.port) == ("across", None, "foot")
    found = evaluate(of)
    assert found.hung.state == "converged"
    assert not [c for c in found.checks if c.severity == "stop"]
    oval = points(found, run.name, "oval")["fold"]
    leg = 2 * (4.0 + 1.0) + 15.6
    link = points(found, run.name, "link")
    assert [link["right"][k][0] > 0 > link["left"][k][0] for k in (0, 1)] == [True, True]
    top = max(p[1] for p in points(found, run.name, "ring")["right"])
    assert oval[1][0] == pytest.approx(10.0, abs=0.01)
    foot = points(found, "Strand", "arch")["fold"]
    assert top - oval[0][1] == pytest.approx(math.sqrt(leg**2 - 100), abs=0.05)
    assert foot[0][0] == pytest.approx(-foot[1][0], abs=0.05)
    assert piece_from(piece_text(of)) == of


def test_off_the_fold_both_copies_hang_on_two_legs():
    of = on("drop 6 chain 3, oval by left and right at link 12", piece(strand(), closure=OPEN),
            Spot("Strand", (CENTRE,)))  # fmt: skip
    run = of.runs[-1]
    assert (run.lies, run.start, run.end) == ("paired", run.end, Place(run="Strand", item=0, at=12))
    found = evaluate(of)
    assert found.hung.state == "converged"
    ovals = points(found, run.name, "oval")
    for right, left in zip(ovals["right"], ovals["left"][[1, 0, 2]], strict=True):
        assert right[0] == pytest.approx(-left[0], abs=0.05)
    chains = [m for m in found.assembly.members if m.run == run.name and m.kind == "chain"]
    assert len(chains) == 4


@pytest.mark.parametrize(("left", "lies"), [("4", "across"), ("6", "free")])
def test_a_vee_hangs_from_a_link_on_either_side(left, lies):
    of = on(f"swag ring 4, oval, ring 4 from link {left} on the left to link 4 on the right",
            piece(strand(), closure=OPEN), Spot("Strand", (CENTRE,)))  # fmt: skip
    assert of.runs[-1].lies == lies
    found = evaluate(of)
    assert found.hung.state == "converged"
    [oval] = points(found, "Swag", "oval").values()
    middle = (oval[0][0] + oval[1][0]) / 2
    assert abs(middle) < 0.01 if lies == "across" else -8.0 < middle < -1.0


@pytest.mark.parametrize("port", ["a", "b", "left", "right"])
def test_what_hangs_left_and_right_is_never_crossed(port):
    """Whichever of two mirrored loops or holes is named, the right copy hangs on the right."""
    host = unit("link") if port in ("a", "b") else held()
    of = piece(strand(host, rings(), chain(40)), drop("D", 1, rings(), unit("dangle"), port=port),
               closure=OPEN)  # fmt: skip
    ends = points(evaluate(of), "D", "dangle")
    assert ends["right"][0][0] > 5
    assert ends["left"][0][0] < -5


def test_the_clasp_is_a_place_and_bears_what_hangs_from_it():
    of = piece(strand(chain(51), rings()))
    hung = on("drop dangle at clasp", of, Spot("Strand", (0,)))
    assert hung.runs[-1].start == Place(run="closure", port="clasp")
    found = evaluate(hung)
    assert found.hung.state == "converged"
    clasp = found.hung.points_of(found.assembly.clasp)
    ring = points(found, "Drop", "ring")
    top = (next(iter(ring.values())) if ring else points(found, "Drop", "dangle")["whole"])[0]
    assert min(abs(top - p).sum() for p in clasp) == pytest.approx(0.0, abs=1e-6)
    wrong = replace(hung.runs[-1], start=Place(run="closure", port="jaw"))
    with pytest.raises(DomainError, match="say its catch or its clasp"):
        expand(replace(hung, runs=(*hung.runs[:-1], wrong)))


@pytest.mark.parametrize(("said", "port"), [("near loop", "a"), ("far loop", "b"), ("mid", "mid")])
def test_a_drop_hangs_at_the_loop_that_is_said(said, port):
    of = piece(strand(chain(11), rings(), unit("link"), rings(), chain(30)), closure=OPEN)
    made = on(f"drop dangle at {said}", of, Spot("Strand", (1,)))
    assert made.runs[-1].start == Place(run="Strand", item=2, at=1, port=port)
    assert evaluate(made).hung.state == "converged"


@pytest.mark.parametrize("name", ["bead link", "oval", "lobster"])
def test_a_bead_link_a_connector_and_a_clasp_hang_as_drops(name):
    of = piece(strand(), closure=OPEN)
    made = on(f"drop {name}", of, Spot("Strand", (CENTRE,)), 6)
    assert made.runs[-1].kind == "drop"
    assert evaluate(made).hung.state == "converged"


@pytest.mark.parametrize(("text", "why"), [
    ("drop ring 4, oval by left and nose", "“nose” is no hole of “.*”: it has left, right, foot"),
    ("drop ring 4, charm by left and right", "is said of a connector"),
    ("drop brass 7, oval by left and right", "“brass” is not known"),
])  # fmt: skip
def test_what_cannot_hang_by_two_is_named(text, why):
    with pytest.raises(DomainError, match=why):
        on(text, piece(strand()), Spot("Strand", (CENTRE,)))


@pytest.mark.parametrize(("text", "why"), [
    ("drop ring 4, oval by left and right at nose", "“nose” is not known|“nose” is no place"),
    ("swag ring 4 from link 0 on the left to link 4 on the right", "lies on the fold"),
])  # fmt: skip
def test_what_is_missing_is_said(text, why):
    with pytest.raises(DomainError, match=why):
        on(text, piece(strand()), Spot("Strand", (CENTRE,)))


def test_a_run_does_not_hang_from_itself():
    start, end = Place(run="Strand", item=0, at=4), Place(run="Self", item=1, at=3)
    odd = Run(name="Self", kind="swag", lies="paired", items=(chain(9),), start=start, end=end)
    with pytest.raises(DomainError, match="“Self” ends on itself"):
        expand(piece(strand(), odd, closure=OPEN))
