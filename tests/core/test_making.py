"""A build: its turns, what an edit on the mat reaches and undoes, waits, other habits midway."""

from collections import Counter
from datetime import datetime, timedelta
from pathlib import Path

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.on_the_mat import (
    SCOPES,
    changed_count,
    changed_on_mat,
    count_edit,
    scopes_of,
)
from maglia.core.joining.bags import bags_by_step
from maglia.core.joining.followed import followed, renamed
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.progress import current, is_done, left_of, to_undo, turns_of
from maglia.core.joining.text import make_sheet
from maglia.core.joining.waits import held_by, meanwhile, waits_over
from maglia.core.joining.ways import USUAL, with_habit
from maglia.core.parts.units import BeadLink
from maglia.core.piece.items import RepeatItem
from maglia.core.piece.piece import Place, Run
from maglia.core.values.record import DomainError
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import piece_from, piece_text, read_piece
from workshop import chain, piece, rings, strand

PRACTICE = sorted((Path(__file__).parents[1] / "data" / "pieces").glob("*.json"))
PATHS = [*map(demo_path, demo_names()), *PRACTICE]
LOOKS = ("look", "measure", "wait")
CLOSED = ("again", "once", "thread")


def sheet_of(made, working=USUAL, done=None):
    built = expand(made)
    return make_sheet(built, joining_plan(built, working, done or {}))


def all_done(turns):
    return {mark.place: mark for turn in turns for mark in turn.marks}


def after(done, stands):
    names = renamed(done, stands)
    return {names.get(p, p): replace(m, place=names.get(p, p)) for p, m in done.items()}


def member_at(built, run, item=1, side=None):
    return next(m for m in built.members
                if (m.run, m.item) == (run, item) and side in (None, m.side))  # fmt: skip


def touched(sheet, closing):
    ends = sheet.plan.joints.ends
    return {closing.opener.member, *(o.member for n in closing.joins for o in ends[n])}


def beside(built, changed):
    """What is changed, and what is joined to it."""
    own = {m.id for m in built.members if (m.run, m.item) == changed}
    pairs = [(j.a, j.b) for j in built.joints]
    return own | {b for a, b in pairs if a in own} | {a for a, b in pairs if b in own}


@pytest.mark.parametrize("path", PATHS, ids=lambda p: p.stem)
def test_the_turns_of_every_piece_mark_each_thing_once(path):
    sheet = sheet_of(read_piece(path))
    turns = turns_of(sheet)
    marks = [mark for turn in turns for mark in turn.marks]
    assert len({mark.place for mark in marks}) == len(marks)
    closed = [c.opener for turn in turns for c in turn.closings]
    assert sorted(closed, key=str) == sorted((c.opener for c in sheet.plan.closings), key=str)
    made = Counter(turn.step for turn in turns for mark in turn.marks if mark.sort == "make")
    for k, step in enumerate(sheet.steps):
        assert made[k] == (step.count if step.verb == "make" else 0)
        if step.verb == "cut":
            assert len(next(t for t in turns if t.step == k).marks) == step.count
    assert all(turn.number <= turn.of for turn in turns)


@pytest.mark.parametrize("path", PATHS, ids=lambda p: p.stem)
def test_a_change_undoes_only_what_it_touches_and_leaves_the_other_side(path):
    made = read_piece(path)
    before = expand(made)
    sheet = make_sheet(before, joining_plan(before))
    turns = turns_of(sheet)
    done = all_done(turns)
    closing_at = {m.place: c for t in turns for m, c in zip(t.marks, t.closings, strict=False)}
    seen = set()
    for member in before.members:
        key = (member.run, member.item, member.side)
        known = key in seen or member.run == "closure" or member.made_in is not None
        if known or member.kind not in ("chain", "ring"):
            continue
        seen.add(key)
        there = sum((m.run, m.item, m.side) == key for m in before.members)
        count = member.links + 2 if member.kind == "chain" else there + 1
        for scope in scopes_of(before, member):
            try:
                change = changed_on_mat(before, member, scope, count_edit(count))
            except DomainError:
                continue
            built = expand(change.piece)
            assert piece_from(piece_text(change.piece)) == change.piece
            if scope == "here":  # one member more or another length, on one side alone
                old, new = (Counter((m.ref, m.links) for m in one.members)
                            for one in (before, built))  # fmt: skip
                assert (new - old).total() == 1
                assert (old - new).total() == (1 if member.kind == "chain" else 0)
            now = after(done, followed(before, built, change.moved))
            assert len(now) == len(done)
            told = turns_of(sheet_of(change.piece, done=now))
            back = {m.place: p for p, m in zip(done, now.values(), strict=True)}
            for undo in to_undo(told, now):
                if undo.mark.sort in CLOSED and scope != "row":
                    closing = closing_at[back[undo.mark.place]]
                    assert touched(sheet, closing) & beside(before, key[:2]), (key, scope, undo)


def test_one_place_of_a_repeat_is_changed_and_what_hangs_further_out_stays():
    repeat = RepeatItem(times=3, items=(chain(5), rings()))
    long = strand(chain(9), repeat)
    hung = Run(name="Drop", kind="drop", lies="paired", items=(rings(), chain(4)),
               start=Place(run=long.name, item=5, at=3))  # fmt: skip
    made = piece(long, hung)
    built = expand(made)
    second = member_at(built, long.name, 3)
    assert scopes_of(built, second) == ("both", "row")
    change = changed_on_mat(built, second, "both", count_edit(7))
    first, *rest = change.piece.runs[0].items
    assert first == replace(repeat, times=1)
    assert [getattr(i, "links", None) or getattr(i, "count", None) for i in rest[:2]] == [7, 1]
    assert rest[2:] == [replace(repeat, times=1)]
    assert change.piece.runs[1] == hung
    lengths = [m.links for m in expand(change.piece).members if m.run == long.name and m.links]
    assert sorted(lengths) == [5, 5, 5, 5, 7, 7, 9]
    whole = changed_on_mat(built, second, "row", count_edit(7)).piece.runs[0].items
    assert whole == (RepeatItem(times=3, items=(chain(7), rings())),)


def test_a_drop_of_a_row_is_otherwise_here_on_both_sides_and_all_along():
    made = read_piece(demo_path("gallery-tiers"))
    built = expand(made)
    left = member_at(built, "Fringe 2", 2, "left")
    assert scopes_of(built, left) == ("here", "both", "row")
    counts = {}
    for scope in SCOPES:
        change = changed_count(built, left, scope, 30)
        found = expand(change.piece)
        counts[scope] = [m.links for m in found.members
                         if m.run.startswith("Fringe") and m.kind == "chain"]  # fmt: skip
        where = next(m for m in found.members if m.links == 30)
        again = expand(changed_count(found, where, scopes_of(found, where)[0], 31).piece)
        assert any(m.links == 31 for m in again.members)
    # by hand: the row is written 6 links and −1, −2, −3 outward
    assert counts["here"] == [6, 5, 5, 30, 4, 3, 3]
    assert counts["both"] == [6, 5, 5, 30, 30, 3, 3]
    assert counts["row"] == [32, 31, 31, 30, 30, 29, 29]


def test_the_clasp_and_what_stands_once_are_refused_in_words():
    built = expand(read_piece(demo_path("spotlight-swags")))
    catch = next(m for m in built.members if m.run == "closure")
    with pytest.raises(DomainError, match="at the clasp"):
        changed_on_mat(built, catch, "both", count_edit(2))
    once = member_at(built, "Strand", 1, "left")
    with pytest.raises(DomainError, match="here only"):
        changed_on_mat(built, once, "here", count_edit(2))


def test_half_a_pair_that_is_done_leaves_the_other_half():
    sheet = sheet_of(piece(strand(chain(9), rings(), chain(5))))
    turns = turns_of(sheet)
    turn = next(t for t in turns if len(t.closings) == 2)
    assert left_of(sheet.assembly, turn, {}) == ()
    half = {turn.marks[0].place: turn.marks[0]}
    assert len(left_of(sheet.assembly, turn, half)) == 1
    assert not is_done(turn, half)
    assert is_done(turn, {mark.place: mark for mark in turn.marks})


@pytest.mark.parametrize("path", PATHS, ids=lambda p: p.stem)
def test_another_school_midway_leaves_what_is_finished(path):
    made = read_piece(path)
    turns = turns_of(sheet_of(made))
    half = {mark.place: mark for turn in turns[: len(turns) // 2] for mark in turn.marks}
    told = turns_of(sheet_of(made, with_habit(USUAL, "order=carrier"), half))
    assert [u.words for u in to_undo(told, half) if u.mark.sort in CLOSED] == []
    assert current(told, half) < len(told)


def test_glue_holds_as_long_as_it_is_said_and_other_work_goes_on():
    made = read_piece(demo_path("box-keepers-ribbon"))
    sheet = sheet_of(made, with_habit(USUAL, "glue_holds_min=30"))
    turns = turns_of(sheet)
    wait = next(k for k, step in enumerate(sheet.steps) if step.verb == "wait")
    done = {m.place: m for t in turns if t.step < wait for m in t.marks}
    glued = datetime(2031, 5, 4, 10, 0)
    at = dict.fromkeys(done, glued)
    assert waits_over(sheet, turns, done, at) == {wait: glued + timedelta(minutes=30)}
    last = next(t for t in turns if t.step == wait - 1).marks[0].place
    fewer = {p: m for p, m in done.items() if p != last}
    assert waits_over(sheet, turns, fewer, at) == {}
    by_hand = {**done, **{m.place: m for t in turns if t.step == wait for m in t.marks}}
    assert waits_over(sheet, turns, by_hand, at) == {}
    held = held_by(sheet, frozenset({wait}))
    assert {wait, len(sheet.steps) - 1} <= held
    assert held_by(sheet, frozenset()) == frozenset()
    free = meanwhile(sheet, turns, {}, wait)
    assert not held & set(free)
    assert {sheet.steps[k].stage for k in free} >= {"ready"}


def test_of_a_pair_both_are_readied_and_one_is_told_for_both():
    made = read_piece(demo_path("trapdoor-earrings"))
    built = expand(made)
    plan = joining_plan(built)
    both, one = make_sheet(built, plan), make_sheet(built, plan, both=False)
    for two, single in zip(both.steps, one.steps, strict=True):
        times = 2 if two.stage in ("ready", "unit") and not two.closings else 1
        assert two.count == times * single.count
        assert two.minutes == pytest.approx(single.minutes * (1 if two.verb in LOOKS else 2))


def test_what_moves_takes_its_place_in_one_step_with_those_it_meets():
    one = piece(strand(chain(9), rings(), chain(5), rings()))
    two = piece(strand(chain(9), chain(2), rings(), chain(5), rings()))
    stands = followed(expand(one), expand(two), {})
    assert stands["Strand/right/1.1"] == "Strand/right/2.1"
    assert stands["Strand/right/2.1"] == "Strand/right/3.1"
    places = ["Strand/right/1.1/ring", "string/Strand/right/2.1/along#1", "cut/chain/5#1"]
    assert renamed(places, stands) == {
        places[0]: "Strand/right/2.1/ring", places[1]: "string/Strand/right/3.1/along#1",
    }  # fmt: skip


@pytest.mark.parametrize("name", demo_names())
def test_bags_by_step_hold_every_part_once(name):
    built = expand(read_piece(demo_path(name)))
    bags = bags_by_step(make_sheet(built, joining_plan(built)))
    inside = sum((bag.inside for bag in bags), Counter())
    loose = Counter()
    for member in built.members:
        made_in = built.things[member.made_in] if member.made_in else None
        if isinstance(made_in, BeadLink):
            continue  # a mid ring is in its link
        if member.strung is not None:
            loose.update(one for one in member.strung.beads if isinstance(one, str))
            loose.update(way.end for way in member.strung.ends if way.end)
        loose[member.ref] += 1
    assert sum(inside.values()) == sum(loose.values())
    assert all(bag.inside for bag in bags)
