"""Weaves: rings by role counted by hand, joints and circles of the graph, pitch against contact
between round-wire rings, what cannot be woven, the plan row by row.
"""

import json
import math
from collections import Counter

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.optimize import brentq

from maglia.core.assembly.expand import expand
from maglia.core.checks import weaves as weave_checks
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import Spot
from maglia.core.fit.solve import solve
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.progress import turns_of
from maglia.core.joining.text import as_json as plan_json
from maglia.core.joining.text import make_sheet
from maglia.core.parts.parts import Ring
from maglia.core.piece.items import RingSize, Swatch, WeaveItem, WeaveRole
from maglia.core.piece.piece import Closure, Form, Piece, Place, Run, Wearer
from maglia.core.piece.wishes import LengthFit
from maglia.core.report import evaluate
from maglia.core.sheets.weaves import weave_mm, weave_sheets
from maglia.core.values.record import DomainError
from maglia.core.weaves.kinds import woven
from maglia.core.weaves.pitch import pitch_of
from maglia.files.piece_json import piece_text
from replay import replayed
from workshop import CATCH, CHAIN, CLASP, CLOSED

RINGS = {
    "ring": Ring(id="four", name="Ring 4", inner_mm=4.0, wire_mm=1.0),
    "end ring": Ring(id="five", name="Ring 5", inner_mm=5.0, wire_mm=1.0),
    "large": Ring(id="six", name="Ring 6", inner_mm=6.0, wire_mm=1.2, closure="closed"),
    "second large": Ring(id="tie", name="Tie 6", inner_mm=6.0, wire_mm=1.2),
    "small": Ring(id="small", name="Ring 4.8", inner_mm=4.8, wire_mm=1.0),
    "base": Ring(id="base", name="Base 5", inner_mm=5.0, wire_mm=0.9),
    "tuft": Ring(id="tuft", name="Tuft 6", inner_mm=6.0, wire_mm=0.8, closure="closed"),
    "rubber": Ring(id="rubber", name="Rubber 8", inner_mm=8.0, wire_mm=2.0, closure="elastic",
                   stretch_limit=2.0, material="rubber"),
}  # fmt: skip
THINGS = {ring.id: ring for ring in RINGS.values()}
ROLES = {"doubled strip": ("large", "small", "second large", "end ring"),
         "shaggy loops": ("base", "tuft"), "rubber and metal": ("rubber", "ring"),
         "stretch triangles": ("large", "rubber", "small"),
         "four in one": ("ring", "end ring")}  # fmt: skip


def weave(kind, rows, **more):
    roles = tuple(WeaveRole(role=r, part=RINGS[r].id) for r in ROLES.get(kind, ("ring",)))
    return WeaveItem(weave=kind, rows=rows, roles=roles, **more)


def banded(item, *, sort="bracelet", parts=None, fits=()):
    """The weave alone round a wrist."""
    closure = Closure(kind="continuous") if item.closes else CLOSED
    held = {p.id: p for p in (*RINGS.values(), CATCH, CLASP, CHAIN, *(parts or ()))}
    return Piece(
        name="Band", sort=sort, parts=tuple(held.values()), form=Form(kind="wrist"), fits=fits,
        wearer=Wearer(role="the prompter", wrist_mm=160.0, hand_mm=200.0, ease_mm=10.0),
        runs=(Run(name="Band", lies="free", items=(item,)),), closure=closure,
    )  # fmt: skip


COUNTED = [
    # by hand: n rings; m at each place; 3N + 2, closed 3N; 2 and 3 by turns of five across
    ("one in one", {}, lambda n: {"ring": n}, lambda n: n - 1),
    ("m in m", {"abreast": 3}, lambda n: {"ring": 3 * n}, lambda n: 9 * (n - 1)),
    ("four in one", {"abreast": 3}, lambda n: {"ring": 3 * n + 2}, lambda n: 4 * n),
    ("four in one", {"abreast": 3, "closes": True}, lambda n: {"ring": 3 * n}, lambda n: 4 * n),
    ("four in one", {"abreast": 5, "end_rings": 1},
     lambda n: {"ring": 5 * n + 3, "end ring": 1}, lambda n: 8 * n + 3),
    # two large closed, a small and a large through four; a bracelet and a necklace
    ("doubled strip", {"end_rings": 1},
     lambda r: {"large": 2 * r, "small": r + 2, "second large": r, "end ring": 1},
     lambda r: 8 * (r - 1) + 4 + 4 + 2),
    ("doubled strip", {"end_rings": 2},
     lambda r: {"large": 2 * r + 2, "small": r + 4, "second large": r, "end ring": 2},
     lambda r: 8 * r + 8 + 4),
    ("shaggy loops", {"abreast": 2}, lambda n: {"base": n, "tuft": 2 * n}, lambda n: 3 * n - 1),
    ("box", {}, lambda n: {"ring": 4 * n}, lambda n: 4 * (2 * n - 1)),
    ("Byzantine", {}, lambda n: {"ring": 6 * n}, lambda n: 4 * (3 * n - 1)),
    ("rubber and metal", {"closes": True}, lambda n: {"rubber": n, "ring": n}, lambda n: 2 * n),
    ("stretch triangles", {"closes": True},
     lambda n: {"large": n, "rubber": 3 * n, "small": 2 * n}, lambda n: 7 * n),
]  # fmt: skip


@pytest.mark.parametrize("rows", [4, 10, 36])
@pytest.mark.parametrize(("kind", "more", "counts", "links"), COUNTED)
def test_rings_by_role_and_how_often_they_go_through_each_other(kind, more, counts, links, rows):
    item = weave(kind, rows, **more)
    own = woven(item)
    assert Counter(own.roles) == counts(rows)
    assert len(own.joints) == len(set(own.joints)) == links(rows)
    parent = list(range(len(own.roles)))

    def root(ring):
        while parent[ring] != ring:
            ring = parent[ring]
        return ring

    circles = 0
    for a, b in own.joints:
        circles += root(a) == root(b)
        parent[root(a)] = root(b)
    assert len({root(ring) for ring in parent}) == 1
    assert circles == links(rows) - sum(counts(rows).values()) + 1
    # the assembly has the same rings and joints, besides clasp, catch and what joins them
    built = expand(banded(item))
    assert Counter(m.woven.role for m in built.members if m.woven) == counts(rows)
    inside = [j for j in built.joints
              if built.members[j.a].woven and built.members[j.b].woven]  # fmt: skip
    assert len(inside) == links(rows)


def test_triangles_are_joined_as_they_are_drawn():
    """Each large ring bears three rubbers; a small ring takes one of its triangle and one of the
    next; of the three rubbers at a corner the middle one is held twice."""
    own = woven(weave("stretch triangles", 8, closes=True))
    beside = {k: [] for k in range(len(own.roles))}
    for a, b in own.joints:
        beside[a].append(b)
        beside[b].append(a)
    for ring, role in enumerate(own.roles):
        others = Counter(own.roles[other] for other in beside[ring])
        if role == "large":
            assert others == {"rubber": 3}
        if role == "small":
            assert others == {"rubber": 2}
    held = [sum(own.roles[o] == "small" for o in beside[r])
            for r, role in enumerate(own.roles) if role == "rubber"]  # fmt: skip
    assert Counter(held) == {1: 2 * 8, 2: 8}
    assert all(own.roles[a] == "large" and own.roles[b] == "rubber" for a, b in own.laid)


# --- pitch ----------------------------------------------------------------------------------------


def nearest(r1, at1, r2, at2, apart):
    """Least distance of the middle lines of two rings: one in the plane across y at `at1`, one in
    the plane across z at `at2`, so far apart along x."""
    t = np.linspace(-0.6, 0.6, 241)
    one = np.stack([r1 * np.cos(t), np.full_like(t, at1), r1 * np.sin(t)], 1)
    other = np.stack([apart - r2 * np.cos(t), r2 * np.sin(t), np.full_like(t, at2)], 1)
    return np.sqrt(((one[:, None] - other[None]) ** 2).sum(-1).min())


def drawn_apart(d, w, ones, others):
    """How far apart the middles of two groups of equal rings abreast can be drawn, mm."""
    r = (d + w) / 2
    sides = [[(k - (n - 1) / 2) * w for k in range(n)] for n in (ones, others)]

    def clear(apart):
        return min(nearest(r, a, r, b, apart) for a in sides[0] for b in sides[1]) - w

    return brentq(clear, d * 0.7, d + 0.2, xtol=1e-5)


@pytest.mark.parametrize(("ratio", "share"), [(3.5, 0.942), (4.0, 0.958), (5.0, 0.975),
                                              (6.0, 0.983)])  # fmt: skip
def test_two_in_two_is_drawn_as_far_as_its_wires_touch(ratio, share):
    ring = replace(RINGS["ring"], inner_mm=ratio)
    pitch = pitch_of(weave("m in m", 9, abreast=2), {"four": ring})
    touching = drawn_apart(ratio, 1.0, 2, 2)
    assert touching / ratio == pytest.approx(share, abs=0.002)
    assert pitch.mm == pytest.approx(touching, rel=0.003)
    assert pitch.state == "taut"


def test_a_row_of_four_in_one_is_two_contacts():
    pitch = pitch_of(weave("four in one", 9, abreast=3), THINGS)
    assert pitch.mm == pytest.approx(2 * drawn_apart(4.0, 1.0, 2, 1), rel=0.003)
    assert pitch.mm == pytest.approx(7.83, abs=0.01)
    assert pitch_of(weave("four in one", 9, abreast=5), THINGS).state == "unsure"


def test_lengths_on_paper():
    # one in one: inside to inside; rubber drawn flat: half its round less the turns, and a wire
    assert weave_mm(weave("one in one", 40), THINGS) == pytest.approx(160.0)
    flat = (math.pi * 10 - math.pi * 3) / 2 + 1
    rubber = weave("rubber and metal", 10, closes=True)
    assert weave_mm(rubber, THINGS) == pytest.approx(10 * (flat + 4.0))
    drawn = (2 * math.pi * 10 - math.pi * 3) / 2 + 1
    (sheet,) = weave_sheets(expand(banded(rubber)))
    assert sheet.drawn_mm == pytest.approx(10 * (drawn + 4.0))
    assert sheet.round_mm == pytest.approx(10 * (8.0 + 4.0))
    spoke = 7.2 / 2 + math.pi * (10 - 3.2 - 3.0) / 4 + 5.8 / 2
    band = weave("stretch triangles", 12, closes=True)
    assert weave_mm(band, THINGS) == pytest.approx(12 * math.sqrt(3) / 2 * spoke)
    assert pitch_of(band, THINGS).state == "about"
    two = 4.0 - 1 / (2 * 3.0)
    assert pitch_of(weave("box", 9), THINGS).mm == pytest.approx(two - 1)
    assert pitch_of(weave("Byzantine", 9), THINGS).mm == pytest.approx(2 * two - 1)


@settings(max_examples=60, deadline=None)
@given(st.sampled_from([c[:2] for c in COUNTED]), st.integers(2, 30), st.floats(0.8, 1.0))
def test_a_swatch_rules_until_a_ring_is_another(kind, rows, share):
    name, more = kind
    rows += rows % 2 + (2 if more.get("closes") else 0)
    item = weave(name, rows, **more)
    by_geometry = pitch_of(item, THINGS)
    sizes = tuple(RingSize(inner_mm=THINGS[r.part].inner_mm, wire_mm=THINGS[r.part].wire_mm)
                  for r in item.roles)  # fmt: skip
    said = replace(item, swatch=Swatch(rows=10, mm=10 * share * by_geometry.mm, of=sizes))
    pitch = pitch_of(said, THINGS)
    assert pitch.mm == pytest.approx(share * by_geometry.mm)
    assert (pitch.state, pitch.off_mm) == ("swatch", 0.05)
    longer = replace(said, rows=rows + 2)
    assert weave_mm(longer, THINGS) - weave_mm(said, THINGS) == pytest.approx(2 * pitch.mm)
    part = item.roles[0].part
    other = {**THINGS, part: replace(THINGS[part], wire_mm=THINGS[part].wire_mm - 0.05)}
    assert pitch_of(said, other).state == by_geometry.state
    parts = tuple(other.values())
    found = weave_checks.check(expand(banded(said, parts=parts)), None)
    assert "swatch-void" in {check.code for check in found}


# --- for whom, and what cannot be -----------------------------------------------------------------


@pytest.mark.parametrize(("kind", "more"), [c[:2] for c in COUNTED])
def test_it_hangs_as_one_strip_and_is_sized_to_the_wrist(kind, more):
    fit = LengthFit(name="closed length", to="wearer")
    made = banded(weave(kind, 20, **more), fits=(fit,))
    sized = solve(made).piece
    found = evaluate(sized)
    rows = sized.runs[0].items[0].rows
    (sheet,) = found.weaves
    assert found.hung.state == "converged"
    ends = 0.0 if more.get("closes") else CLASP.span_mm + CATCH.inner_mm
    assert found.closed_length_mm == pytest.approx(sheet.length_mm + ends)
    body = found.on_body
    if body.at_least:  # closed on itself, it passes the hand, and with a row fewer it does not
        reach = sheet.drawn_mm or sheet.length_mm
        assert body.spare_mm >= 0
        assert reach * sheet.fewer_mm / sheet.length_mm < 200.0
        assert (found.readings.stretch or 1.0) > 1.0 or sheet.drawn_mm is None
    else:
        assert abs(body.spare_mm) <= sheet.pitch.mm / 2 + 1e-6
    assert rows % (2 if kind == "stretch triangles" else 1) == 0


def test_an_odd_number_of_triangles_is_refused_and_both_neighbours_are_named():
    with pytest.raises(DomainError, match="make it 12 or 14"):
        expand(banded(weave("stretch triangles", 13, closes=True)))
    made = banded(weave("stretch triangles", 12, closes=True))
    for count, rows in ((13, 14), (11, 10)):
        changed = set_count(made, Spot("Band", (0,)), count).piece
        assert changed.runs[0].items[0].rows == rows
    item = weave("stretch triangles", 12, closes=True)
    lacking = banded(replace(item, roles=item.roles[:2]))
    with pytest.raises(DomainError, match="say which ring is the small"):
        expand(lacking)


def codes(item, *parts):
    """What is said of a weave of its own, by code."""
    made = banded(item, parts=parts)
    return {check.code: check for check in weave_checks.check(expand(made), evaluate(made).hung)}


def test_what_cannot_be_woven_is_said():
    four = weave("four in one", 20, abreast=3)
    assert codes(four) == {}
    thick = replace(RINGS["ring"], wire_mm=1.4)
    assert "too stiff" in codes(four, thick)["weave-ratio"].message
    thin = replace(RINGS["ring"], wire_mm=0.5)
    assert "loose" in codes(four, thin)["weave-ratio"].message
    # inside 5 × 0.9: a tuft's wire takes asin(0.8 / 4.2), a base's asin(0.9 / 4.1) of π: 14 go in
    shaggy = weave("shaggy loops", 30, abreast=14)
    assert "weave-too-full" not in codes(shaggy)
    assert codes(replace(shaggy, abreast=15))["weave-too-full"].thing == "base"
    metal = replace(RINGS["rubber"], closure="open", stretch_limit=1.0, material="brass")
    rubber = weave("rubber and metal", 8, closes=True)
    assert "no rubber ring" in codes(rubber, metal)["weave-role"].message
    assert "rubber-beyond-limit" in codes(replace(rubber, rows=4))
    assert "rubber-beyond-limit" not in codes(rubber)
    swapped = replace(RINGS["small"], inner_mm=7.0)
    strip = weave("doubled strip", 14, end_rings=1)
    assert "smaller than" in codes(strip, swapped)["weave-role"].message
    assert set(codes(weave("box", 40))) == {"swatch-wanted"}
    wide = replace(RINGS["small"], wire_mm=RINGS["large"].inner_mm, inner_mm=20.0)
    assert pitch_of(strip, THINGS | {wide.id: wide}) is None  # it goes into none


# --- the plan -------------------------------------------------------------------------------------


@pytest.mark.parametrize(("kind", "more"), [c[:2] for c in COUNTED])
@pytest.mark.parametrize("rows", [6, 26])
def test_rows_alike_are_one_step_and_every_ring_is_closed_once(kind, more, rows):
    made = banded(weave(kind, rows, **more))
    built = expand(made)
    sheet = make_sheet(built, joining_plan(built))
    assert sheet.plan.feasible
    assert replayed(plan_json(sheet), json.loads(piece_text(made))) == []
    opened = {m.id for m in built.members if m.woven and m.woven.opened}
    assert opened <= sheet.plan.opened
    closings = [c.opener for step in sheet.steps for c in step.closings]
    assert len(closings) == len(set(closings))
    rows_done = [step for step in sheet.steps if step.id.startswith("weave/")]
    assert max(step.count for step in rows_done) <= 10
    assert sum(step.count for step in rows_done) <= rows + 1
    assert len(rows_done) <= 3 + rows // 10 + 2
    looks = [step for step in sheet.steps if step.verb == "look" and "No ring" in step.says]
    assert len(looks) >= (sum(step.count for step in rows_done) - 4) // 10
    turns = [turn for turn in turns_of(sheet) if turn.closings]
    places = [mark.place for turn in turns for mark in turn.marks]
    assert len(places) == len(set(places)) == len(closings)


def test_a_strip_that_closes_says_so_at_its_last_row():
    built = expand(banded(weave("four in one", 12, abreast=3, closes=True)))
    steps = make_sheet(built, joining_plan(built)).steps
    says = [words for step in steps for words in (step.says, *step.how)]
    assert sum("closes on itself" in words for words in says) == 1
    assert any("of the strip and 2 × Ring 4 (a), new" in words for words in says)
    built = expand(banded(weave("stretch triangles", 12, closes=True)))
    steps = make_sheet(built, joining_plan(built)).steps
    assert any("Fold three Rubber 8" in words for step in steps for words in step.how)


def test_three_thousand_rings_are_laid_counted_and_planned():
    made = banded(weave("four in one", 1000, abreast=3))
    built = expand(made)
    assert sum(m.woven is not None for m in built.members) == 3002
    plan = joining_plan(built)
    assert plan.feasible
    assert len(plan.opened) == 1000 + 4  # and the two that hold the clasp, and the catch


def test_a_strip_too_long_is_hooked_by_an_earlier_place():
    made = banded(weave("doubled strip", 14, end_rings=1))
    found = evaluate(made)
    lengths = dict(found.worn_lengths_mm)
    assert list(lengths)[:2] == ["catch", "Band place 1"]
    for at in (2, 3):
        hooked = replace(made.closure, catch=None, hooked=Place(run="Band", item=1, at=at))
        worn = evaluate(replace(made, closure=hooked))
        assert worn.closed_length_mm == pytest.approx(lengths[f"Band place {at}"])
