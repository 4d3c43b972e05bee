"""Checks that say what is so: silent where nothing is wrong, and heard where it matters."""

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.checks import all_checks, fold, weight
from maglia.core.fit.lever import mirror_true
from maglia.core.hang.flat import lies_flat
from maglia.core.hang.hung import hang
from maglia.core.hang.readings import Readings
from maglia.core.parts.parts import Clasp, Connector, EarFinding, Hole, Pin, Wire
from maglia.core.parts.units import Dangle, Loop
from maglia.core.piece.items import ConnectorItem, PartItem, StrungItem
from maglia.core.piece.piece import Closure, Form, Place, Run, TiedRows, Way, Wearer
from maglia.core.report import as_json, as_text, evaluate
from maglia.core.sheets.as_worn import not_as_worn
from maglia.core.sheets.bays import bays as bays_of
from maglia.core.sheets.symmetry import differences
from maglia.core.sheets.wear import as_worn
from maglia.core.values.record import DomainError
from maglia.demo import demo_path
from maglia.files.piece_json import read_piece
from workshop import CHARM, CLOSED, DANGLE, LINK, chain, drop, piece, rings, strand, unit


def said(made):
    assembly = expand(made)
    hung = hang(assembly)
    found = all_checks(assembly, hung, lies_flat(assembly, hung), Readings())
    return {check.code: check for check in found}


def with_parts(made, *parts):
    ids = {part.id for part in parts}
    return replace(made, parts=(*(p for p in made.parts if p.id not in ids), *parts))


# --- what was said and is not so ------------------------------------------------------------------


def test_a_linked_centre_of_wrapped_loops_can_be_joined():
    plain = replace(LINK, mid=None)
    made = replace(piece(strand(unit("link"), unit("link"), rings()), pins=30), units=(plain,))
    assert "cannot-be-joined" not in said(made)


def test_a_clasp_at_the_start_of_a_run_bites_what_it_starts_on():
    bar = Clasp(id="bar", name="Bar", sort="toggle", span_mm=3.0, bar_mm=18.0)
    off = Run(name="Off", kind="extender", lies="free", start=Place(run="closure"),
              items=(PartItem(part="bar"), rings(2)))  # fmt: skip
    made = with_parts(piece(strand(chain(51), rings()), off), bar)
    assert "cannot-be-joined" not in said(made)
    joint = next(j for j in expand(made).joints if not j.inline)
    assert joint.port_b == "bite"


@pytest.mark.parametrize("links", [48, 49, 50, 51, 53])
def test_a_snug_plain_bracelet_does_not_stand_on_its_head(links):
    """From 166 mm, a hair longer than a wrist of 160 with links 0.8 mm off the skin, upward."""
    made = replace(
        piece(strand(chain(links), rings())), sort="bracelet", form=Form(kind="wrist"),
        wearer=Wearer(wrist_mm=160, ease_mm=5),
    )  # fmt: skip
    assert not {"hang-unstable", "hang-too-short"} & set(said(made))


def test_an_ear_finding_alone_hangs():
    ear = EarFinding(id="ear", name="Hook", wire_mm=0.8, loop_mm=2, below_mm=20, mass_g=0.3)
    made = piece(Run(name="Ear", lies="fold", items=(PartItem(part="ear"),)), closure=Closure())
    made = replace(with_parts(made, ear), sort="earring", form=Form(kind="ear"))
    assert "hang-slides-off" not in said(made)


def test_dangles_on_both_sides_of_a_link_or_down_a_hanging_chain_are_not_too_close():
    both = [drop(f"D{side}", 10, rings(), unit("dangle"), lies="free", side=side)
            for side in ("left", "left")]  # fmt: skip
    both[1] = replace(both[1], name="D2")
    assert "drops-too-close" not in said(piece(strand(chain(51), rings()), *both))
    beside = drop("D3", 11, rings(), unit("dangle"), lies="free", side="left")
    assert "drops-too-close" in said(piece(strand(chain(51), rings()), both[0], beside))
    down = drop("Down", 0, chain(9), lies="fold")
    hung = [
        Run(name=f"On {k}", kind="drop", lies="fold", items=(rings(), unit("dangle")),
            start=Place(run="Down", item=1, at=k))
        for k in (3, 4)
    ]  # fmt: skip
    assert "drops-too-close" not in said(piece(strand(chain(51), rings()), down, *hung))


@pytest.mark.parametrize(
    ("runs", "lines"),
    [
        # a pendant hangs by one end: it has no sides
        ((Run(name="P", lies="free", items=(rings(), chain(9), PartItem(part="charm"))),), 0),
        # one ring more at the clasp is one difference
        (
            (
                Run(
                    name="S",
                    lies="free",
                    items=(rings(2), unit("link"), chain(9), unit("link"), rings(3)),
                ),
            ),
            1,
        ),
        # a run without a mirror is one line, not one for every part
        (
            (
                Run(
                    name="S",
                    lies="free",
                    items=tuple(i for k in range(1, 20) for i in (chain(k), rings())),
                ),
            ),
            1,
        ),
    ],
)
def test_differences_are_few_and_so(runs, lines):
    closure = Closure() if lines == 0 else CLOSED
    assert len(differences(expand(piece(*runs, closure=closure)))) == lines


def test_a_large_loop_is_a_catch_or_a_bail_and_else_unusual():
    wide = Dangle(id="dangle", name="Dangle", stack=("bead",), wire="pin", loop=Loop(inner_mm=6))
    long = Pin(id="pin", name="Pin", wire_mm=0.6, length_mm=60)
    made = with_parts(
        piece(strand(rings(11), chain(20)), drop("D", 0, unit("dangle"), lies="fold")), long
    )
    bail = replace(made, units=(LINK, wide))
    assert "loop-size" not in said(bail)
    hung = replace(bail, runs=(bail.runs[0], drop("D", 0, rings(), unit("dangle"), lies="fold")))
    assert "loop-size" in said(hung)


WORN_ON = Wearer(wrist_mm=170, hand_mm=200)


def test_what_is_not_hung_as_worn_says_so_and_gives_no_figure():
    rope = read_piece(demo_path("rope-and-pulley-wrap"))
    found = evaluate(replace(rope, form=Form(kind="bust")))
    assert not_as_worn(found.assembly).what == "wrap"
    report = as_json(found)
    assert report["hang"]["as_worn"] is False
    assert report["hang"]["falls_mm"] == {}
    codes = {check.code for check in found.checks}
    assert "not-hung-as-worn" in codes
    assert not {"hang-too-short", "hang-unstable", "does-not-go-on"} & codes
    assert "fall of" not in as_text(found)


def test_a_coil_too_long_counts_turns_and_repeats():
    """44 + 6 beads of 6 mm: 300 mm are 1.72 turns of π × 55.6; 38 mm over are six beads."""
    coil = read_piece(demo_path("spiral-stair-coil"))
    run = coil.runs[0]
    item = replace(run.items[0], times=run.items[0].times * 50 // 44)
    made = replace(coil, runs=(replace(run, items=(item,)),))
    check = said(made)["too-long-for-wearer"]
    assert "1.72 turns of 174.7 mm, and 1.5 are meant" in check.message
    assert check.repair == "take off 6 repeats of its beads"


# --- what was silent ------------------------------------------------------------------------------

HOLE = Connector(
    id="hole", name="Tag", width_mm=20, height_mm=10, thickness_mm=1,
    holes=(Hole(name="left", x_mm=-8, y_mm=0, diameter_mm=1.0),
           Hole(name="right", x_mm=8, y_mm=0, diameter_mm=1.0)),
)  # fmt: skip
TAG = ConnectorItem(part="hole", hole_in="left", hole_out="right")


@pytest.mark.parametrize(
    ("code", "bad", "good", "words"),
    [
        (  # stack 8 + π (2 + 0.6) = 16.2 mm
            "pin-too-short",
            Pin(id="pin", name="Head pin", wire_mm=0.6, length_mm=16.0),
            Pin(id="pin", name="Head pin", wire_mm=0.6, length_mm=16.5),
            "0.2 mm too short: stack and loop take 16.2 mm",
        ),
        (
            "loop-too-thick",
            Wire(id="wire", name="Wire", wire_mm=1.0),
            Wire(id="wire", name="Wire", wire_mm=0.9),
            "1.00 mm wire does not pass the 1.00 mm opening of “Tag”",
        ),
        (
            "loop-of-thread",
            Wire(id="wire", name="Elastic", wire_mm=0.6, sort="elastic"),
            Wire(id="wire", name="Wire", wire_mm=0.6),
            "Its loops are of elastic",
        ),
        (
            "bail-too-narrow",
            CHARM,
            replace(CHARM, loop_mm=3.7),
            "3.6 mm wide, does not pass the 2.0 mm of “Charm”",
        ),
    ],
)
def test_what_cannot_be_made_is_said(code, bad, good, words):
    plain = replace(LINK, mid=None, loop=Loop(inner_mm=2.0))
    made = piece(
        strand(chain(41), rings(part="small"), TAG, unit("link"), rings()),
        drop("D", 5, rings(), unit("dangle")), drop("C", 0, PartItem(part="charm"), lies="fold"),
    )  # fmt: skip
    made = with_parts(replace(made, units=(plain, DANGLE)), HOLE)
    found = said(with_parts(made, bad))
    assert words in found[code].message
    assert code not in said(with_parts(made, good))


def test_several_loops_in_one_opening_count_together():
    three = [
        Run(name=f"D{k}", kind="drop", lies="fold", items=(unit("dangle"),),
            start=Place(run="Top", item=1, port="right"))
        for k in range(2)
    ]  # fmt: skip
    top = Run(name="Top", lies="fold", items=(TAG,))
    made = with_parts(piece(top, *three, closure=Closure()), HOLE)
    check = said(made)["opening-too-full"]  # 2 × 0.6 mm in 1.0 mm
    assert "2 rings and loops share the 1.00 mm opening of “Tag”; their wires take 1.20 mm" in (
        check.message
    )


@pytest.mark.parametrize(
    ("catch", "bitten"), [(None, False), ("catch", True)], ids=["a link of 2 mm", "a ring of 5 mm"]
)
def test_a_catch_that_is_a_link_is_bitten_or_not(catch, bitten):
    made = piece(strand(chain(51)), closure=replace(CLOSED, catch=catch))
    assert ("clasp-cannot-bite" in said(made)) is not bitten


def test_a_band_far_too_big_and_a_hand_unknown():
    made = replace(
        piece(strand(chain(101)), closure=Closure(kind="continuous", catch="ring")),
        sort="bracelet", form=Form(kind="wrist"), wearer=Wearer(wrist_mm=160),
    )  # fmt: skip
    assert "hand-unknown" in said(made)
    known = replace(made, wearer=Wearer(wrist_mm=160, hand_mm=200))
    check = said(known)["falls-off"]  # 303 + 4 against 200 + 25
    assert "82.0 mm more" in check.message
    snug = replace(known, runs=(strand(chain(71)),))
    assert not {"falls-off", "hand-unknown"} & set(said(snug))


def test_a_carrier_that_hangs_loose_between_the_places_of_its_row():
    """Links of 8 + 2 × 2.6 + 4 × 0.6 = 15.6 mm and rings of 4: neighbours 19.6 mm apart, and 7
    links of 3 mm between the places: 1.4 mm over; ten links: 10.4 mm, nine of them as it hangs."""
    slack = {}
    for links in (7, 10):
        row = TiedRows(name="Bib", unit="link", rows=(3,), ring="ring", hang_ring="ring",
                       end=Place(run="Strand", item=0, at=2 * links))  # fmt: skip
        ties = [
            Run(
                name=f"Tie {at}",
                kind="tie",
                lies="paired" if at else "fold",
                items=(rings(),),
                start=Place(run="Strand", item=0, at=at),
                end=Place(run="Bib 1", item=2 if at else 0, at=1 if at else 0, port="mid"),
            )
            for at in (0, links)
        ]
        made = piece(strand(chain(101), rings()), *ties, rows=(row,))
        found = evaluate(made)
        bays = {(b.chain_mm, b.row_mm) for b in bays_of(found.assembly)}
        assert (3.0 * links, 19.6) in {(round(a, 6), round(b, 6)) for a, b in bays}
        slack[links] = max(own.slack_mm for own in found.readings.bays)
        told = [check for check in found.checks if check.code == "carrier-loose"]
        assert f"hangs loose by {slack[links]:.1f} mm" in " ".join(c.message for c in told)
    assert slack[10] - slack[7] == pytest.approx(9.0, abs=1.0)


def test_a_swag_shorter_than_what_it_runs_beside_and_one_written_over_another():
    def swag(name, links):
        start, end = (Place(run="Strand", item=item, at=1) for item in (1, 3))
        return Run(
            name=name, kind="swag", lies="paired", items=(chain(links),), start=start, end=end
        )

    base = strand(chain(41), rings(), unit("link"), rings(), chain(20))
    found = said(piece(base, swag("A", 5)))  # 15 mm beside 15.6
    assert "0.6 mm are missing" in found["swag-too-short"].message
    assert "swag-too-short" not in said(piece(base, swag("A", 6)))
    assert "written-twice" in said(piece(base, swag("A", 7), swag("B", 7)))
    assert "written-twice" not in said(piece(base, swag("A", 7), swag("B", 8)))


# --- advice and names -----------------------------------------------------------------------------


def told(made, read):
    return {check.code for check in weight.check(expand(made), read)}


def test_the_top_row_of_a_bib_does_not_tangle_with_its_carrier():
    row = TiedRows(name="Bib", unit="link", rows=(3,), ring="ring", hang_ring="ring",
                   end=Place(run="Strand", item=0, at=20))  # fmt: skip
    made = piece(strand(chain(101), rings()), rows=(row,))
    assert "tiers-tangle" not in told(made, Readings(gaps_mm=(("Strand", "Bib 1", 5.0),)))
    two = piece(strand(chain(101), rings()), Run(name="Low", centre=chain(151), end=Place(
        run="Strand", item=1, at=1)))  # fmt: skip
    assert "tiers-tangle" in told(two, Readings(gaps_mm=(("Strand", "Low", 5.0),)))


def test_a_connector_is_called_tilted_only_where_weight_tilts_it():
    """On a board the pins hold clasp and catch, which differ; round a limb it follows the limb."""
    oval = ConnectorItem(part="oval", hole_in="left", hole_out="right")
    made = piece(strand(oval, rings(), chain(30)))
    (bar,) = (m.id for m in expand(made).members if m.ref == "oval")
    assert "bar-tilts" not in told(made, Readings(tilt_of={bar: 4.4}))
    uneven = piece(*made.runs, drop("D", 5, rings(), lies="free", side="left", item=2))
    assert "bar-tilts" in told(uneven, Readings(tilt_of={bar: 4.4}))
    wrist = replace(uneven, form=Form(kind="wrist"), sort="bracelet")
    assert "bar-tilts" not in told(wrist, Readings(tilt_of={bar: 51.0}))


def test_a_row_is_advised_what_a_row_can_follow():
    row = TiedRows(name="T", unit="link", rows=(2,), between=(2,), ring="ring", hang_ring="ring",
                   sides=(rings(), chain(20)))  # fmt: skip
    hung = Run(name="D", kind="drop", lies="fold", items=(rings(),),
               start=Place(run="T 1", item=0, at=0))  # fmt: skip
    (check,) = fold.check(expand(piece(hung, rows=(row,))))
    assert check.repair == "change the rule of “T”, so that one lies there"
    assert check.repairs == ()
    (own,) = fold.check(expand(piece(strand(chain(50)), drop("D", 0, rings(), lies="fold"))))
    assert [repair.count for repair in own.repairs] == [51, 49]


def test_a_section_without_a_pattern_is_named_as_that():
    with pytest.raises(DomainError, match="it has no repeating pattern"):
        mirror_true(StrungItem(thread="silk", lead=("bead",)))


def test_a_clasp_hooked_on_the_part_beside_it_is_reported_all_the_same():
    """Nothing of the strand goes round then: the near loop of its last link."""
    items = (unit("link"), chain(60), unit("link"))
    made = piece(Run(name="S", lies="free", items=items))
    way = Way(name="so", hooked=Place(run="S", item=3, at=1, port="b"))
    found = evaluate(as_worn(replace(made, ways=(way,)), way))
    assert found.closed_length_mm == 9.0  # the clasp alone
