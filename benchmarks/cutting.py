"""Cutting days against CP-SAT in one run: python benchmarks/cutting.py DAYS.jsonl [SECONDS]

`pip install ortools` first; nothing else needs it. A day a line, as tests/data/cutting/days.jsonl
has them, plain chain alone. Prints how long each took to prove the goals one after the other, the
ratio of both, and how long the first plan took. CP-SAT works with one worker, as the planner does.
"""

import json
import sys
import time
from pathlib import Path

from ortools.sat.python import cp_model

from maglia.core.cutting.lengths import Kind, Length, Stuff
from maglia.core.cutting.plan import plans

GOALS = ("new", "short", "touched", "sacrificed", "longest")


def by_planner(day: dict, seconds: float) -> tuple[float, float, bool, tuple[int, ...]]:
    """First plan, whole, s; whether it is proved; the goals."""
    stuff = Stuff(tuple(day["pattern_mm"]), day["openable"], day["keep_mm"])
    kinds = [Kind(c["links"], (0,), c["count"]) for c in day["cuts"]]
    lots = [Length(one["lot"], one["links"]) for one in day["lots"]]
    began = time.perf_counter()
    better = plans(stuff, kinds, lots, day["new_links"], seconds)
    made = next(better)
    first = time.perf_counter() - began
    for one in better:
        made = one
    return first, time.perf_counter() - began, made.proven, (*made.found[1:5], -made.found.longest)


def programme(day: dict) -> tuple[cp_model.CpModel, dict[str, list], list[list]]:
    """The day as a model: its goals by name, and how many of each kind lie on each length."""
    lost = 0 if day["openable"] else 1
    keep = -(-day["keep_mm"] // day["pattern_mm"][0])
    wanted = sum((c["links"] + lost) * c["count"] for c in day["cuts"])
    most = -(-wanted // (day["new_links"] + lost)) + 2
    lengths = [(one["links"], False) for one in day["lots"]]
    lengths += [(day["new_links"], True)] * int(most)
    model = cp_model.CpModel()
    goals: dict[str, list] = {name: [] for name in GOALS}
    count = [[model.new_int_var(0, min(c["count"], n // c["links"]), "") for c in day["cuts"]]
             for n, _ in lengths]  # fmt: skip
    stretch = []
    for row, (n, new) in zip(count, lengths, strict=True):
        used, exact, kept = (model.new_bool_var("") for _ in range(3))
        offcut, scrap = model.new_int_var(0, n, ""), model.new_int_var(0, n, "")
        cuts = sum(row)
        model.add(cuts >= 1).only_enforce_if(used)
        model.add(cuts == 0).only_enforce_if(~used)
        total = sum(x * c["links"] for x, c in zip(row, day["cuts"], strict=True))
        model.add(total + lost * cuts - exact + offcut == n).only_enforce_if(used)
        model.add(offcut == 0).only_enforce_if(~used)
        model.add(offcut == 0).only_enforce_if(exact)
        model.add_implication(exact, used)
        if not lost:
            model.add(exact == 0)
        model.add(offcut >= int(keep)).only_enforce_if(kept)
        model.add(scrap >= offcut).only_enforce_if(~kept)
        goals["touched"].append(used)
        goals["short"].append(scrap)
        goals["sacrificed"].append(lost * cuts - exact)
        goals["new"] += [used] if new else []
        left = model.new_int_var(0, n, "")
        model.add(left <= offcut).only_enforce_if(used)
        model.add_implication(used, kept).only_enforce_if(kept)
        model.add(left == 0).only_enforce_if(used, ~kept)
        model.add(left == (0 if new else n)).only_enforce_if(~used)
        stretch.append((left, n))
    for k, c in enumerate(day["cuts"]):
        model.add(sum(row[k] for row in count) == c["count"])
    longest = model.new_int_var(0, max(n for _, n in stretch), "")
    picks = [model.new_bool_var("") for _ in stretch]
    model.add_exactly_one(picks)
    for pick, (left, _) in zip(picks, stretch, strict=True):
        model.add(longest <= left).only_enforce_if(pick)
    goals["longest"] = [-longest]
    return model, goals, count


def by_cp_sat(day: dict, seconds: float) -> tuple[float, bool, tuple[int, ...]]:
    """The same programme, goal by goal."""
    model, goals, count = programme(day)
    began, found, proven = time.perf_counter(), [], True
    for name in GOALS:
        solver = cp_model.CpSolver()
        solver.parameters.num_workers, solver.parameters.random_seed = 1, 7
        solver.parameters.max_time_in_seconds = max(seconds - (time.perf_counter() - began), 0.1)
        model.minimize(sum(goals[name]))
        state = solver.solve(model)
        if state not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return time.perf_counter() - began, False, tuple(found)
        proven &= state == cp_model.OPTIMAL
        found.append(round(solver.objective_value))
        model.add(sum(goals[name]) <= found[-1])
        model.clear_hints()
        for row in count:
            for x in row:
                model.add_hint(x, solver.value(x))
    return time.perf_counter() - began, proven, (*found[:4], -found[4])


def main(path: Path, seconds: float = 10.0) -> int:
    ours = theirs = worst_first = 0.0
    proved = [0, 0]
    for line in path.read_text().splitlines():
        day = json.loads(line)
        if len(day["pattern_mm"]) > 1:
            continue
        first, own, is_proved, worth = by_planner(day, seconds)
        other, is_theirs, their_worth = by_cp_sat(day, seconds)
        assert not (is_proved and is_theirs) or worth == their_worth, (day["case"], worth)
        ours, theirs, worst_first = ours + own, theirs + other, max(worst_first, first)
        proved[0] += is_proved
        proved[1] += is_theirs
        cuts = sum(c["count"] for c in day["cuts"])
        print(f"{day['case']}  {cuts:>4} cuts, {len(day['lots']):>2} lengths: {own:6.2f} s"
              f"{' ' if is_proved else '…'} CP-SAT {other:6.2f} s{' ' if is_theirs else '…'}"
              f" ratio {own / other:5.2f}")  # fmt: skip
    print(f"proved {proved[0]}, by CP-SAT {proved[1]}; {ours:.1f} s and {theirs:.1f} s, ratio "
          f"{ours / theirs:.2f}; first plan within {1000 * worst_first:.0f} ms")  # fmt: skip
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), *map(float, sys.argv[2:3])))
