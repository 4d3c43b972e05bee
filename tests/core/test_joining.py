"""The joining plan against answers worked by hand, a replay written apart, and brute force."""

import itertools
import json
import random
from pathlib import Path

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.joining.cover import _least, _Vertex, cover_of
from maglia.core.joining.mirror import mirror_of
from maglia.core.joining.openers import Opener, joints_of
from maglia.core.joining.order import Threading, taken_apart
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.text import as_json, as_text, make_sheet
from maglia.core.joining.ways import USUAL, with_habit
from maglia.core.parts.parts import Charm
from maglia.core.piece.items import PartItem
from maglia.core.piece.piece import Closure, Place, Run
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import piece_text, read_piece
from replay import replayed
from workshop import (
    CHAIN,
    CLOSED,
    LINK,
    PARTS,
    RING,
    UNITS,
    chain,
    drop,
    piece,
    rings,
    strand,
    unit,
)

CASES = Path(__file__).parents[1] / "data" / "joining"
NAMES = sorted(p.name.removesuffix(".expected.json") for p in CASES.glob("*.expected.json"))
PRACTICE = sorted((Path(__file__).parents[1] / "data" / "pieces").glob("*.json"))
SCHOOLS = (USUAL, with_habit(USUAL, "order=carrier"), with_habit(USUAL, "links=each"))


def planned(made, working=USUAL):
    built = expand(made)
    return as_json(make_sheet(built, joining_plan(built, working), both=False))


def faults_of(made, working=USUAL):
    return replayed(planned(made, working), json.loads(piece_text(made)))


@pytest.mark.parametrize("name", NAMES)
def test_every_case_is_what_a_maker_finds_by_hand(name):
    made = read_piece(CASES / f"{name}.json")
    want = json.loads((CASES / f"{name}.expected.json").read_text())
    plan = planned(made)
    found = {r["part"]: {k: r[k] for k in ("to_open", "leave_closed")} for r in plan["rings"]}
    assert found == want["rings"]
    assert plan["feasible"] == want["feasible"]
    told = [{"between": c["between"], "joints": len(c["joints"])} for c in plan["culprits"]]
    assert told == want["culprits"]
    for school in SCHOOLS:
        assert faults_of(made, school) == []
    shut = [c for step in plan["steps"] for c in step["closings"] if c["joins"]]
    assert len(shut) == want.get("closings_with_units", want["closings_min"])
    parts = {m["id"]: m["part"] for m in plan["members"]}
    for unit_, number in want["wrapped_in_place_min"].items():
        assert len({c["member"] for c in shut if parts[c["member"]] == unit_}) == number


@pytest.mark.parametrize("working", SCHOOLS)
@pytest.mark.parametrize("path", [*map(demo_path, demo_names()), *PRACTICE], ids=lambda p: p.stem)
def test_the_replay_of_every_piece_makes_exactly_its_joints(path, working):
    made = read_piece(path)
    assert faults_of(made, working) == []
    text = as_text(make_sheet(expand(made), joining_plan(expand(made), working)))
    assert max(map(len, text.splitlines())) <= 100
    assert "CANNOT" not in text


def anything(seed):
    """A piece of all that opens and does not, hung from each other at random."""
    draw = random.Random(seed)
    parts = (
        *PARTS,
        replace(CHAIN, id="openable", openable=True),
        replace(RING, id="shut", closure="closed"),
        replace(RING, id="split", closure="split"),
    )
    wrapped = replace(LINK, id="wrapped", mid=None)
    simple = replace(wrapped, id="simple", loop=replace(LINK.loop, style="simple", wraps=0))
    kinds = (
        lambda: chain(draw.randint(1, 9)), lambda: chain(draw.randint(1, 5), "openable"),
        lambda: rings(draw.randint(1, 4)), lambda: rings(part=draw.choice(("shut", "split"))),
        lambda: unit("link"), lambda: unit("wrapped"), lambda: unit("simple"), rings, rings,
    )  # fmt: skip
    items = [draw.choice(kinds)() for _ in range(draw.randint(1, 6))]
    centre = draw.choice((chain(9), rings(2), unit("link"), chain(8), rings(5)))
    runs = [strand(centre, *items)]
    for k in range(draw.randint(0, 4)):
        number = draw.randint(0, len(items))
        spot = centre if number == 0 else items[number - 1]
        port = draw.choice(("mid", "a", "b")) if spot == unit("link") else None
        port = draw.choice("ab") if spot in (unit("wrapped"), unit("simple")) else port
        at = draw.randint(0, 1) if number == 0 else 1
        on_fold = number == 0 and at == 0 and spot in (chain(9), rings(5), unit("link"))
        hung = [draw.choice(kinds)() for _ in range(draw.randint(1, 3))]
        foot = draw.choice(((), (unit("dangle"),), (PartItem(part="charm"),)))
        runs.append(drop(f"D{k}", at, *hung, *foot, item=number, port=port,
                         lies="fold" if on_fold else "paired"))  # fmt: skip
    closure = draw.choice((CLOSED, Closure(kind="continuous")))
    return replace(piece(*runs), parts=parts, units=(*UNITS, wrapped, simple), closure=closure)


def test_the_replay_of_a_thousand_random_assemblies():
    made = impossible = 0
    for seed in range(1300):
        one = anything(seed)
        try:
            expand(one)
        except DomainError:  # a place that does not exist there
            continue
        working = SCHOOLS[seed % 3]
        assert (seed, faults_of(one, working)) == (seed, [])
        made += 1
        impossible += not planned(one, working)["feasible"]
    assert made >= 1000
    assert 50 < impossible < made - 50


def test_taking_any_opener_away_names_that_joint():
    for name in demo_names():
        built = expand(read_piece(demo_path(name)))
        joints = joints_of(built)
        for number in joints.to_make[:: max(1, len(joints.to_make) // 12)]:
            shut = dict.fromkeys(joints.ends[number], "never")
            taken = replace(joints, sorts={**joints.sorts, **shut})
            stuck = set(cover_of(built, taken, mirror_of(built), USUAL).stuck)
            assert number in stuck
            assert all(set(taken.ends[n]) & set(shut) for n in stuck)


@pytest.mark.parametrize("seed", range(120))
def test_the_cover_is_as_cheap_as_the_best_of_all(seed):
    draw = random.Random(seed)
    count = draw.randint(2, 9)
    vertices = [_Vertex(k, "ring") for k in range(count)]
    graph = {v: set() for v in vertices}
    for v, w in itertools.combinations(vertices, 2):
        if draw.random() < draw.choice((0.2, 0.5, 0.9)):
            graph[v].add(w)
            graph[w].add(v)
    cost = {v: draw.choice((1.0, 1.5, 2.0, 4.0, 8.0)) for v in vertices}

    def covers(chosen):
        return all(v in chosen or w in chosen for v in graph for w in graph[v])

    every = itertools.chain(*(itertools.combinations(vertices, n) for n in range(count + 1)))
    best = min(sum(cost[v] for v in chosen) for chosen in every if covers(set(chosen)))
    found = _least(graph, cost)
    assert covers(found)
    assert sum(cost[v] for v in found) == pytest.approx(best)


@pytest.mark.parametrize("seed", range(80))
def test_taking_apart_finds_an_order_exactly_if_there_is_one(seed):
    draw = random.Random(seed)
    line = [Opener(k, "ring") for k in range(draw.randint(2, 6))]
    ends = {n: tuple(draw.sample(line, 2)) for n in range(draw.randint(1, 4))}
    blocks = [*line, *ends]
    threadings = [
        Threading(what, *(tuple(b for b in draw.sample(blocks, draw.randint(0, 3)) if b != what)
                          for _ in range(2)))
        for what in draw.sample(line, draw.randint(1, min(3, len(line))))
    ]  # fmt: skip

    def keeps(order):
        at = {opener: k for k, opener in enumerate(order)}
        made = {n: max(at.get(o, -1) for o in pair) for n, pair in ends.items()}
        return all(
            all(at[t.what] < {**at, **made}[b] for b in t.near)
            or all(at[t.what] < {**at, **made}[b] for b in t.far)
            for t in threadings
        )

    order, blocked = taken_apart(line, ends, threadings)
    possible = any(map(keeps, itertools.permutations(line)))
    assert (not blocked) == possible
    if possible:
        assert keeps(order)


def test_a_closed_bail_goes_on_before_the_second_end_of_its_chain():
    bail = Charm(id="bail", name="Bail", height_mm=20, width_mm=8, loop_mm=9, loop_wire_mm=1)
    hung = drop("P", 0, PartItem(part="bail"), lies="fold")
    made = replace(piece(strand(chain(21), rings()), hung), parts=(*PARTS, bail))
    plan = planned(made)
    assert plan["feasible"]
    order = [step["verb"] for step in plan["steps"] if step["closings"]]
    assert order.index("thread") < len(order) - 1 - order[::-1].index("close")


def test_schools_and_habits_change_the_plan():
    collar = read_piece(demo_path("lamplighters-collar"))
    nine = read_piece(CASES / "nine-wrapped.json")

    def verbs(made, *habits):
        working = USUAL
        for habit in habits:
            working = with_habit(working, habit)
        plan = planned(made, working)
        return [(s["stage"], s["verb"], s["count"]) for s in plan["steps"]], plan["minutes"]

    assert verbs(collar) != verbs(collar, "order=carrier")
    usual, each = verbs(nine), verbs(nine, "links=each")
    wraps = [sum(n for _, verb, n in steps if verb == "wrap") for steps, _ in (usual, each)]
    assert wraps == [10, 10]
    made = [[n for _, verb, n in steps if verb == "make"] for steps, _ in (usual, each)]
    assert sorted(made[0]) == [4, 5]  # every second one comes finished
    assert sorted(made[1]) == [1, 2, 6]  # only the first does
    assert verbs(collar, "loops=looper")[1] < verbs(collar)[1]
    assert verbs(collar, "wire=spool")[1] < verbs(collar)[1]
    with pytest.raises(DomainError, match="one of flat, carrier"):
        with_habit(USUAL, "order=sideways")


def test_a_step_keeps_its_id_while_nothing_there_is_changed():
    made = read_piece(demo_path("gallery-tiers"))
    before = {s["id"]: s for s in planned(made)["steps"]}
    longer = replace(made, runs=tuple(
        replace(run, items=(*run.items[:-1], replace(run.items[-1], count=2)))
        if run.name == "Tier 3" else run for run in made.runs
    ))  # fmt: skip
    after = {s["id"]: s for s in planned(longer)["steps"]}
    kept = set(before) & set(after)
    assert len(kept) > 0.8 * len(before)
    assert len(set(after) - set(before)) >= 1


def test_a_free_run_joined_at_both_ends_and_a_place_on_a_thread_are_planned():
    hook = Run(name="Band", lies="free", items=(chain(9), rings(), chain(9)),
               start=Place(run="Strand", item=1, at=1, side="left"),
               end=Place(run="Strand", item=1, at=1, side="right"))  # fmt: skip
    assert faults_of(piece(strand(chain(21), rings()), hook)) == []
