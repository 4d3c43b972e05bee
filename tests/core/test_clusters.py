"""Clusters whose parts hang by rings of their own, by turns along links, and one at the foot: what
they take, where they hang, how they are said. Counts by hand.
"""

import json
from pathlib import Path

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.assembly.kinds.unit import size
from maglia.core.edits.spots import CENTRE, Spot
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.rings import rings
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import Cluster, hangs_at
from maglia.core.piece.items import UnitItem
from maglia.core.piece.piece import Closure
from maglia.core.report import as_json, evaluate
from maglia.core.sheets.count import counts
from maglia.core.sheets.mass import balance
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.files.piece_json import piece_from, piece_text, read_piece
from saying import offers, unit_said
from saying import said as said_
from workshop import DANGLE, PARTS, chain, drop, piece, strand, unit
from workshop import rings as ring_item

CLOSED = Ring(id="soldered", name="Soldered 8", wire_mm=1.0, inner_mm=8.0, closure="closed")
SECOND = replace(DANGLE, id="second", name="Second dangle")
MORE = (*PARTS, CLOSED)
THINGS = {thing.id: thing for thing in (*MORE, DANGLE, SECOND)}
OPEN = Closure(kind="open")
DATA = Path(__file__).parent.parent / "data" / "pieces"


def of(cluster):
    made = piece(strand(), drop("D", 0, ring_item(), unit(cluster.id), lies="fold"), closure=OPEN,
                 parts=MORE)  # fmt: skip
    return replace(made, units=(*made.units, SECOND, cluster))


def said(text):
    return unit_said(f"cluster {text}", THINGS)


def test_each_hangs_by_a_ring_of_its_own():
    cluster = said("soldered carrying 2 x (ring 3, dangle), (ring 3, second)")
    assert (cluster.hangs, cluster.by) == (("dangle", "dangle", "second"), "small")
    whole = of(cluster)
    found = {c.id: c.count for c in counts(expand(whole))}
    assert (found["small"], found["soldered"], found["ring"]) == (3, 1, 1)
    assert (found["dangle"], found["second"], found[cluster.id]) == (2, 1, 1)
    built = expand(whole)
    by_size = {r.id: (r.to_open, r.leave_closed) for r in rings(built, joining_plan(built))}
    assert by_size["small"] == (3, 0)
    assert by_size["soldered"] == (0, 1)
    hung = evaluate(whole)
    assert hung.hung.state == "converged"
    assert not [c for c in hung.checks if c.severity == "stop"]
    assert piece_from(piece_text(whole)) == whole
    members = {m.ref: hung.hung.points_of(m.id) for m in hung.assembly.members if m.run == "D"}
    # 4 of the upper ring, 8 of the carrier, 3 of its own ring down to a dangle's loop
    assert members["ring"][0][1] - members["dangle"][0][1] == pytest.approx(15.0, abs=1.0)


def test_by_turns_along_links_and_one_at_the_foot():
    cluster = said("5 chain 3 carrying dangle / second and charm at foot")
    assert (cluster.links, cluster.turns, cluster.foot) == (5, True, "charm")
    assert [hangs_at(cluster, k) for k in range(5)] == [
        ("dangle",), ("second",), ("dangle",), ("second",), ("dangle", "charm"),
    ]  # fmt: skip
    whole = of(cluster)
    found = {c.id: c.count for c in counts(expand(whole))}
    assert (found["dangle"], found["second"], found["charm"], found["chain"]) == (3, 2, 1, 56)
    hung = evaluate(whole)
    assert hung.hung.state == "converged"
    ends = {m.ref: hung.hung.points_of(m.id)[-1][1] for m in hung.assembly.members if m.run == "D"}
    assert ends["charm"] == min(ends.values())
    assert piece_from(piece_text(whole)) == whole


def test_each_link_carries_all_without_turns():
    found = {c.id: c.count for c in counts(expand(of(said("4 chain 3 carrying 2 dangle each"))))}
    assert found["dangle"] == 8


def test_a_charm_on_a_closed_ring_cannot_be_joined_but_by_a_ring_it_can():
    bare = Cluster(id="bare", name="Bare", carrier="soldered", hangs=("charm",))
    assert "cannot-be-joined" in {c.code for c in evaluate(of(bare)).checks}
    by_ring = replace(bare, by="small")
    assert "cannot-be-joined" not in {c.code for c in evaluate(of(by_ring)).checks}


def test_clusters_over_tubes_of_a_strand_with_all_their_rings():
    """Nine dangles, each on its soldered ring by a ring of its own, and four at the ends: 13. What
    rides over a tube takes no thread: the closed length is that of the beads alone, 424."""
    found = evaluate(read_piece(DATA / "r05.json"))
    report = as_json(found)
    number = {c["part"]: c["count"] for c in report["counts"]}
    assert (number["r6"], number["sold"], number["d"], number["dr"]) == (13, 5, 9, 9)
    assert report["closed_length_mm"] == pytest.approx(424.0, abs=0.05)
    kept = json.loads((DATA / "r05.json").read_text())
    less = [{**u, "by": None} if u["kind"] == "cluster" else u for u in kept["units"]]
    without = balance(expand(piece_from(json.dumps({**kept, "units": less}))))
    assert balance(found.assembly).total_g > without.total_g


@pytest.mark.parametrize(("text", "why"), [
    ("soldered", "says not what carries what"),
    ("soldered carrying dangle at foot", "a ring has no foot"),
    ("soldered carrying dangle / second", "by turns"),
    ("soldered carrying (ring 3, dangle), second", "some by a ring and some without"),
    ("soldered carrying bauble", "“bauble” is not known"),
    ("5 hawser carrying dangle", "“hawser” is not known"),
    ("soldered carrying 61 dangle", "more than 60"),
    ("soldered carrying (dangle", "opens a bracket that is not closed"),
])  # fmt: skip
def test_what_is_no_cluster_is_named(text, why):
    tray, spot = Tray(parts=MORE, units=(DANGLE, SECOND)), Spot("Strand", (CENTRE,))
    [offer] = offers(f"new cluster {text}", piece(strand()), tray, spot)
    with pytest.raises(DomainError, match=why):
        offer.do()


@pytest.mark.parametrize("text", [
    "5 chain 3 carrying dangle / second and charm at foot", "3 chain 3 carrying charm",
    "soldered carrying 4 x (ring 3, dangle)", "1 chain 3 carrying 2 dangle",
])  # fmt: skip
def test_its_parts_are_counted_before_they_are_laid(text):
    cluster = said(text)
    laid = [m for m in expand(of(cluster)).members if m.made_in == cluster.id]
    parts = sum(m.links or 1 for m in laid)
    assert size(UnitItem(unit=cluster.id), {**THINGS, cluster.id: cluster}) == parts


def test_a_cluster_is_kept_and_then_hung_at_the_mark():
    tray, spot = Tray(parts=MORE, units=(DANGLE, SECOND)), Spot("Strand", (CENTRE,))
    text = "new cluster soldered carrying 3 x (ring 3, dangle), called bunch"
    kept = said_(text, piece(strand(chain(51)), closure=OPEN), tray, spot, 6)
    made = said_("drop bunch", kept.piece, tray, spot, 6).piece
    assert (made.runs[-1].kind, made.runs[-1].start.at) == ("drop", 6)
    assert evaluate(made).hung.state == "converged"
