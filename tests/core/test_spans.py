"""Lengths and counts of three pieces against sums worked by hand, and where places lead."""

import itertools
import math

import pytest

from maglia.core.assembly.assembly import member_name
from maglia.core.assembly.expand import expand
from maglia.core.assembly.rows import even_places
from maglia.core.piece.items import ConnectorItem, RepeatItem
from maglia.core.piece.piece import Closure, DropRow, Place, Run
from maglia.core.report import as_json, evaluate
from maglia.core.sheets.cutting import links_needed
from maglia.core.values.record import DomainError
from workshop import CLOSED, chain, drop, piece, ports_of, rings, strand, unit


def report(made):
    return as_json(evaluate(made))


def counted(found):
    return {c["part"]: c["count"] for c in found["counts"]}


def test_plain_chain():
    # 101 × 3 + two rings of 4 + clasp 9 + catch 5 = 303 + 8 + 14 = 325
    found = report(piece(strand(chain(101), rings())))
    assert found["closed_length_mm"] == pytest.approx(325.0)
    assert found["runs"][0]["length_mm"] == pytest.approx(311.0)
    assert counted(found) == {"chain": 101, "ring": 2, "catch": 1, "clasp": 1}
    assert found["cuts"] == [{"chain": "chain", "links": 101, "length_mm": 303.0, "count": 1}]


def test_linked_centre_with_chain_sides_and_drops():
    # Bead link: 8 + 2 × (2 + 0.6) + 2 × (2 × 0.6) = 8 + 5.2 + 2.4 = 15.6
    # Half: ring 4 + link 15.6 + ring 4 + 20 links 60 + ring 4 = 87.6; × 2 = 175.2
    # Strand 175.2 + 15.6 = 190.8; closed + 9 + 5 = 204.8
    # Dangle: 8 + 2.6 = 10.6; drop: ring 3 + 4 links 12 + 10.6 = 25.6
    tail = (rings(part="small"), chain(4), unit("dangle"))
    made = piece(
        strand(unit("link"), rings(), unit("link"), rings(), chain(20), rings()),
        drop("Middle", 0, *tail, lies="fold", port="mid"),
        drop("Side", 1, *tail, item=1),
    )
    found = report(made)
    assert found["closed_length_mm"] == pytest.approx(204.8)
    assert [r["length_mm"] for r in found["runs"]] == pytest.approx([190.8, 25.6, 25.6])
    # rings of 4: 3 a side + 3 mids; beads: 3 links + 3 dangles; chain 40 + 12
    want = {"link": 3, "dangle": 3, "chain": 52, "ring": 9, "small": 3}
    want |= {"catch": 1, "bead": 6, "wire": 0, "pin": 3, "clasp": 1}
    assert counted(found) == want
    assert [(c["links"], c["count"]) for c in found["cuts"]] == [(20, 2), (4, 3)]
    # five pieces from one length: 52 links and one lost at each of five cuts
    assert found["chain"] == [{"chain": "chain", "links_used": 52, "links_needed": 57}]
    # wire for one link: stack 8 + 2 loops π 2.6 + 4 wraps 2 π 0.6 + two grips of 35
    each = 8 + 2 * math.pi * 2.6 + 4 * 2 * math.pi * 0.6 + 70
    wire = {w["unit"]: w for w in found["wire"]}
    assert wire["link"]["each_mm"] == pytest.approx(each, abs=1e-4)
    assert wire["link"]["total_mm"] == pytest.approx(3 * each, abs=1e-4)
    # on a pin: 8 + π 2.6, nothing to grip
    assert wire["dangle"]["each_mm"] == pytest.approx(8 + math.pi * 2.6, abs=1e-4)
    # mid rings are threaded while the link is made, so they stay closed
    assert {r["part"]: r["leave_closed"] for r in found["rings"]}["ring"] == 3


def test_connectors_and_repeats():
    # Oval: 20 + 2 = 22 from hole to hole; half: 2 × (ring 4 + oval 22) + ring 4 = 56
    # Strand 22 + 112 = 134; closed + 14 = 148
    oval = ConnectorItem(part="oval", hole_in="left", hole_out="right")
    made = piece(strand(oval, RepeatItem(times=2, items=(rings(), oval)), rings()))
    found = report(made)
    assert found["closed_length_mm"] == pytest.approx(148.0)
    assert counted(found) == {"ring": 6, "catch": 1, "clasp": 1, "oval": 5}
    written = piece(strand(oval, rings(), oval, rings(), oval, rings()))
    assert report(written)["counts"] == found["counts"]
    assert [m._replace(id=0) for m in expand(written).members] == [
        m._replace(id=0) for m in expand(made).members
    ]


def test_every_joint_joins_ports_that_exist():
    made = piece(strand(chain(21), rings()), drop("D", 3, rings(), unit("dangle")))
    assembly = expand(made)
    for joint in assembly.joints:
        for index, port in ((joint.a, joint.port_a), (joint.b, joint.port_b)):
            assert port in ports_of(assembly, assembly.members[index])


def test_names_count_from_the_fold():
    assembly = expand(piece(strand(chain(21), rings()), drop("D", 3, rings(), unit("dangle"))))
    hosts = [j for j in assembly.joints if not j.inline]
    named = {member_name(assembly.members[j.a], j.port_a) for j in hosts}
    assert named == {"Strand, left, link 3", "Strand, right, link 3"}
    assert member_name(assembly.members[0], 11) == "Strand, link on the fold"


@pytest.mark.parametrize(
    ("per_side", "count", "on_fold", "places"),
    [
        (10, 3, True, (0, 10)), (10, 5, True, (0, 5, 10)), (11, 5, True, (0, 5, 11)),
        (10, 4, True, (3, 10)), (9, 4, True, (3, 9)), (10, 4, False, (4, 10)), (10, 1, True, (0,)),
        (10, 2, True, (10,)), (12, 7, True, (0, 4, 8, 12)), (14, 7, True, (0, 4, 9, 14)),
    ],
)  # fmt: skip
def test_even_drops(per_side, count, on_fold, places):
    assert even_places(per_side, count, on_fold=on_fold) == places


@pytest.mark.parametrize("per_side", range(3, 40))
@pytest.mark.parametrize("count", range(1, 12))
@pytest.mark.parametrize("on_fold", [True, False])
def test_even_spaces_never_differ_by_more_than_a_link(per_side, count, on_fold):
    if count % 2 and not on_fold:
        return
    try:
        numbers = even_places(per_side, count, on_fold=on_fold)
    except DomainError:
        assert count > 2 * per_side / 2
        return
    assert len(numbers) == (count + 1) // 2
    assert numbers[-1] <= per_side
    whole = sorted({-n if on_fold else 1 - n for n in numbers} | set(numbers))
    spaces = [b - a for a, b in itertools.pairwise(whole)]
    assert max(spaces, default=0) - min(spaces, default=0) <= 1
    outward = spaces[len(spaces) // 2 :]
    assert count % 2 == 0 or outward == sorted(outward)


def test_rows_of_drops_by_rule():
    row = DropRow(
        name="Row", run="Strand", rule="every", every=4, count=5,
        items=(rings(), chain(6), unit("dangle")), steps=(0, -1, -2),
    )  # fmt: skip
    found = report(piece(strand(chain(31)), rows=(row,)))
    assert [(r["name"], r["links"]) for r in found["runs"][1:]] == [
        ("Row 0", 6), ("Row 1", 10), ("Row 2", 8),
    ]  # fmt: skip
    assert counted(found)["dangle"] == 5


@pytest.mark.parametrize(
    ("pieces", "soldered", "remainder", "needed"),
    [([30, 30], True, True, 62), ([30, 30], True, False, 61), ([30, 30], False, True, 60)],
)
def test_a_cut_through_a_soldered_link_destroys_it(pieces, soldered, remainder, needed):
    assert links_needed(pieces, soldered=soldered, remainder=remainder) == needed


LOOSE = Run(name="Loose", kind="tie", lies="fold", items=(rings(),))


@pytest.mark.parametrize(
    ("made", "said"),
    [
        (piece(strand(chain(5, "gone"))), "“Strand”, centre uses “gone”"),
        (piece(strand(), drop("D", 99, rings())), "a half has only 25"),
        (piece(strand(), drop("D", 1, rings(), item=7)), "joins item 7 of run “Strand”"),
        (piece(strand(), drop("D", 0, rings())), "lies on the fold"),
        (piece(strand(), drop("D", 3, rings(), lies="fold")), "pair the run"),
        (piece(strand(), LOOSE), "“Loose” hangs on nothing"),
        (piece(strand(), strand()), "two runs are called “Strand”"),
        (piece(Run(name="Strand", items=(rings(),))), "needs a centre"),
        (piece(strand(unit("link")), drop("D", 1, rings(), port="c")), "loop a, loop b or mid"),
        (piece(strand(chain(20_000), RepeatItem(times=9, items=(chain(20_000),)))), "60,000"),
        (piece(strand(chain(9), unit("dangle"), rings())), "nothing can follow “Dangle”"),
        (piece(strand(), closure=Closure(kind="clasp")), "no clasp is named"),
        (
            piece(strand(ConnectorItem(part="oval", hole_in="left", hole_out="top"))),
            "no hole “top”; it has left, right, foot",
        ),
        (
            piece(strand(), Run(name="A", kind="drop", lies="fold", items=(rings(),),
                  start=Place(run="A"))),
            "“A” starts on itself",
        ),
        (
            piece(
                strand(),
                Run(name="A", kind="drop", lies="fold", items=(rings(),), start=Place(run="B")),
                Run(name="B", kind="drop", lies="fold", items=(rings(),), start=Place(run="A")),
            ),
            "in a circle: “A” on “B” on “A”",
        ),
    ],
)  # fmt: skip
def test_what_cannot_be_built_is_named(made, said):
    with pytest.raises(DomainError) as error:
        expand(made)
    assert said in str(error.value)


def test_the_clasp_may_be_on_either_side():
    left = CLOSED.__class__(kind="clasp", clasp="clasp", catch="catch", clasp_side="left")
    assert report(piece(strand(chain(101), rings()), closure=left))["closed_length_mm"] == 325.0
