"""A plan replayed with all parts loose on the mat, written apart from the planner: what opens is
read from the piece, and a joint is made at the later of its closings, at its own port.
"""

from collections import Counter

AGAIN, ONCE, NEVER = "again", "once", "never"
THREADED = ("gap", "along", "rides")


def opens(things, member, port):
    """How a member of a plan opens at a port, from what its part is."""
    part = things[member["part"]]
    if member["kind"] == "strung":
        return ONCE
    if part["kind"] == "ring":
        return AGAIN if part.get("closure", "open") in ("open", "split") else NEVER
    if part["kind"] == "chain":
        return AGAIN if part.get("openable") else NEVER
    if part["kind"] in ("bead link", "hook link", "dangle"):
        if port == "mid":
            return NEVER
        if part["kind"] == "hook link" and port == "b":
            return AGAIN
        far = part.get("far_loop") if port == "b" and part["kind"] != "dangle" else None
        style = (far or part.get("loop") or {}).get("style", "simple")
        return AGAIN if style == "simple" else ONCE
    if part["kind"] == "ear finding":
        return AGAIN
    return AGAIN if part["kind"] == "end" and part.get("sort") == "tip" else NEVER


def replayed(plan, piece):
    """Faults of a plan (`as_json`) of a piece (as it is saved): none if it makes every joint that
    can be made, each once."""
    things = {t["id"]: t for t in (*piece["parts"], *piece["units"])}
    members = {m["id"]: m for m in plan["members"]}
    ends = [((j["a"], str(j["port_a"])), (j["b"], str(j["port_b"]))) for j in plan["joints"]]
    before = {n for n, j in enumerate(plan["joints"]) if j["made_before"]}
    bites = {n for n, two in enumerate(ends) if "bite" in (two[0][1], two[1][1])}
    faults = [
        f"joint {n} comes made"
        for n in before
        if not {"mid", "bight"} & {ends[n][0][1], ends[n][1][1]}
    ]
    closed, shut, made, seen = {}, Counter(), {}, set()
    when = 0
    for step in plan["steps"]:
        faults += [f"{step['id']} needs {x}" for x in step["needs"] if x not in seen]
        faults += [f"{step['id']} twice"] * (step["id"] in seen)
        faults += [f"{step['id']} says nothing"] * (not step["says"].strip())
        seen.add(step["id"])
        for closing in step["closings"]:
            when += 1
            here = (closing["member"], str(closing["port"]))
            sort = opens(things, members[here[0]], here[1])
            shut[here] += 1
            faults += [f"{here} is shut twice"] * (shut[here] > 1)
            over_chain = sort == NEVER and step["verb"] == "thread"
            faults += [f"{here} never opens"] * (sort == NEVER and not over_chain)
            closed.setdefault(here, when)
            for n in closing["joins"]:
                faults += [f"joint {n} again"] * (n in made or n in before or n in bites)
                faults += [f"joint {n} is not at {here}"] * (here not in ends[n])
                made[n] = (when, here)
    for n, (at, here) in made.items():
        other = next(end for end in ends[n] if end != here)
        faults += [f"joint {n} while {other} is open"] * (closed.get(other, 0) > at)
    left = set(range(len(ends))) - before - bites - set(made)
    named = {n for culprit in plan["culprits"] for n in culprit["joints"]}
    faults += [f"joint {n} is left and not named" for n in left - named]
    faults += [f"joint {n} is named and made" for n in named - left]
    faults += ["feasible?"] * (plan["feasible"] == bool(left))
    return faults
