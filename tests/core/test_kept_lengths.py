"""A part by another: lengths stay, and what hangs; what an edit does, in words, by hand sums."""

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.cutting.day import Stretch
from maglia.core.delta import cut_already_words, reading_words, taken_words
from maglia.core.edits.edit import set_count
from maglia.core.edits.rearrange import replaced_everywhere
from maglia.core.edits.spots import CENTRE, Spot
from maglia.core.edits.take_over import differs
from maglia.core.fit.kept_lengths import replaced_keeping_lengths
from maglia.core.fit.solve import solve
from maglia.core.parts.parts import Chain
from maglia.core.piece.wishes import LengthFit
from maglia.core.report import evaluate
from maglia.core.sheets.lengths import run_lengths
from maglia.core.values.measures import format_length
from maglia.demo import demo_names, demo_path, demo_tray
from maglia.files.piece_json import read_piece
from maglia.phrases.here import Here
from maglia.phrases.line import understood
from workshop import CHAIN, DANGLE, chain, drop, piece, rings, strand, unit

CHAINS = [part for part in demo_tray().parts if isinstance(part, Chain)]
FINE = Chain(id="fine", name="Fine 2", pitches_mm=(2.0,), inner_width_mm=1.5, wire_mm=0.6)


def lengths(made):
    return {run.name: run.length_mm for run in run_lengths(expand(made)) if run.length_mm}


@pytest.mark.parametrize("name", demo_names())
def test_chain_by_another_keeps_every_length_and_all_that_hangs(name):
    made = read_piece(demo_path(name))
    for own in [part for part in made.parts if isinstance(part, Chain)]:
        for other in [one for one in CHAINS if one.id != own.id]:
            now = replaced_keeping_lengths(made, own.id, other).piece
            before, after = lengths(made), lengths(now)
            assert before.keys() == after.keys()  # as many drops, swags, strands
            # each stretch is off by half a step at most: two patterns where it must lie on the
            # fold, and a run has it on both sides
            most = 2 * sum(other.pitches_mm) + 1e-6
            assert all(abs(after[run] - mm) <= most for run, mm in before.items()), (own, other)


def test_links_places_and_graded_steps_by_hand():
    """51 links of 3 mm are 153 mm: 77 of 2 mm, odd for what hangs on the fold. Link 10 lies 30 mm
    out: link 15. The drops of 4 links, 12 mm, have 6."""
    made = piece(strand(chain(51), rings()), drop("Key", 10, rings(), chain(4), unit("dangle")))
    made = replace(made, runs=(*made.runs, drop("Mid", 0, rings(), unit("dangle"), lies="fold")))
    edited = replaced_keeping_lengths(made, "chain", FINE)
    now = edited.piece
    assert now.runs[0].centre.links == 77
    assert (now.runs[1].start.at, now.runs[1].items[1].links) == (15, 6)
    assert now.runs[2].start.at == 0
    assert "Strand: 51 → 77 links" in edited.words
    counted = replaced_everywhere(made, "chain", FINE).piece
    assert (counted.runs[0].centre.links, counted.runs[1].start.at) == (51, 10)


def test_the_line_offers_both_readings_and_a_script_takes_the_first():
    tray = replace(demo_tray(), parts=(*demo_tray().parts, FINE, CHAIN))
    made = piece(strand(chain(51), rings()))
    offers = understood("replace chain 3 by fine 2", Here(made, tray)).offers
    assert [one.words.rpartition(", ")[2] for one in offers] == ["lengths kept", "counts kept"]
    assert [one.do().piece.runs[0].centre.links for one in offers] == [76, 51]
    kept = understood("replace chain 3 by fine 2 keeping counts", Here(made, tray)).offers
    assert kept[0].do().piece.runs[0].centre.links == 51


def test_a_unit_that_a_part_is_exchanged_in_is_another():
    blue = next(p for p in piece().parts if p.id == "bead")
    blue = replace(blue, id="blue", name="Blue 8")
    named = replace(DANGLE, name="bead dangle")
    made = replace(piece(strand(chain(5), rings()), drop("Key", 0, rings(), unit("dangle"),
                         lies="fold")), units=(named,))  # fmt: skip
    now = replaced_everywhere(made, "bead", blue).piece
    (own,) = now.units
    assert (own.name, own.stack) == ("Blue dangle", ("blue",))
    assert own.id != named.id  # so that the tray's own is not taken for it
    assert now.runs[1].items[1].unit == own.id
    assert not differs(replace(own, id=named.id, name=named.name, stack=named.stack), named)
    assert expand(now)


def test_longer_means_the_piece_and_the_gaps_stay():
    made = replace(read_piece(demo_path("gallery-tiers")), fits=())
    before = evaluate(made)
    longer = LengthFit(name="closed length", to="given", mm=before.closed_length_mm + 48)
    after = evaluate(solve(replace(made, fits=(longer,))).piece)
    assert after.closed_length_mm == pytest.approx(before.closed_length_mm + 48, abs=2.1)
    for tier in ("Tier 2", "Tier 3"):
        was, now = (f.readings.falls_mm[tier] - f.readings.falls_mm["Tier 1"]
                    for f in (before, after))  # fmt: skip
        assert now == pytest.approx(was, abs=2.1)  # two links of 4 mm turn a fall by 4
    one = LengthFit(name="length", run="Tier 1", to="given", mm=before.closed_length_mm + 48)
    alone = solve(replace(made, fits=(one,))).piece
    assert alone.run("Tier 2") == made.run("Tier 2")  # a run that is named is that run


def test_what_an_edit_does_in_words_by_hand():
    """Two links of 3 mm fewer: 6 mm less, 51 → 49 links."""
    made = piece(strand(chain(51), rings()))
    edited = set_count(made, Spot("Strand", (CENTRE,)), 49).piece
    before, after = evaluate(made), evaluate(edited)

    def shown(mm):
        return format_length(mm, "mm", with_unit=True)

    assert reading_words(before, after, shown)[0] == (
        f"closed length {before.closed_length_mm:.1f} → {before.closed_length_mm - 6:.1f} mm"
    )
    assert taken_words(before.assembly, after.assembly) == ["−2 links Chain 3"]
    assert taken_words(after.assembly, before.assembly) == ["+2 links Chain 3"]
    assert taken_words(before.assembly, before.assembly) == []
    cut = [("chain", Stretch(51)), ("chain", Stretch(49))]
    assert cut_already_words(after.assembly, cut[1:]) == []
    assert cut_already_words(after.assembly, cut[:1]) == [
        "cut already 51 links of Chain 3, 49 wanted: 2 come off"
    ]
    assert cut_already_words(before.assembly, cut[1:]) == [
        "cut already 49 links of Chain 3, 51 wanted: 2 more can be joined with a ring, or cut anew"
    ]
    assert cut_already_words(after.assembly, cut) == [
        "cut already 51 links of Chain 3, not wanted any more: an off-cut"
    ]
