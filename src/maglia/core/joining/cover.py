"""Which openers are closed on the piece: a least-cost cover of all joints.

Every joint needs one end that is closed round the other on the piece; all else is closed, or made
up, beforehand. Chosen for mirror classes at once, since left and right are done alike. Trees are
solved by dynamic programming, what has circles by a mixed-integer program (HiGHS).
"""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

from maglia.core.assembly.assembly import Assembly
from maglia.core.joining.marked import NOTHING_YET, Finished
from maglia.core.joining.mirror import Mirror
from maglia.core.joining.openers import Joints, Opener, is_catch
from maglia.core.joining.ways import Working
from maglia.core.parts.units import BeadLink
from maglia.core.values.record import Value

RING, SIMPLE, WRAPPED, END_LINK, INNER_LINK = 1.0, 1.5, 4.0, 6.0, 40.0
MID, CATCH, LEFT_CLOSED = 8.0, 50.0, 20.0
"""What it costs to close one on the piece, in rings: a wrapped unit for both its loops, a link of
openable chain at its end or within; a mid ring, which comes closed with its link; the catch; a
ring of a weave that is closed beforehand. The
ends of a thread are closed there in any case."""
REOPENED, LOST = 1.5, 8.0
"""What it costs beside to undo one that is closed already; if its wire or crimp is lost by it."""

MOST_CIRCLES = 5


class Cover(Value, frozen=True):
    """The openers that are closed on the piece, and the joints that nothing can close."""

    active: frozenset[Opener]
    stuck: tuple[int, ...]


class _Vertex(NamedTuple):
    """What is chosen as one: an opener, or both loops of a wrapped unit (`port` None)."""

    member: int
    port: object


def cover_of(
    assembly: Assembly, joints: Joints, mirror: Mirror, working: Working,
    so_far: Finished = NOTHING_YET,
) -> Cover:  # fmt: skip
    """The cheapest set of openers that makes every joint, with those that made one already. Linear
    where the joints that are left to choose from make no circle."""
    stuck = tuple(n for n in joints.to_make if _never(joints, n))
    aside = {*stuck, *so_far.made}
    ends = {n: joints.ends[n] for n in joints.to_make if n not in aside}
    chosen = _Chooser(assembly, joints, mirror, ends).chosen(working, so_far.closed)
    active: set[Opener] = set()
    for one, other in ends.values():
        first, second = chosen.holds(one), chosen.holds(other)
        if first and second and chosen.shared(one) and chosen.shared(other):
            first, second = _later(assembly, one, other)  # of two loops one comes finished
        elif first and second and chosen.shared(one):
            first = False
        elif first and second and chosen.shared(other):
            second = False
        active.update(o for o, is_active in ((one, first), (other, second)) if is_active)
    slid = {o for o in active if joints.sorts[o] == "threaded"}
    for pair in ends.values():  # what opens anyway need not be threaded
        slid -= {o for o in pair if not any(p in active for p in pair if p != o)}
    return Cover(frozenset(active - slid).union(so_far.made.values()), stuck)


def _never(joints: Joints, number: int) -> bool:
    return all(joints.sorts[opener] == "never" for opener in joints.ends[number])


def _later(assembly: Assembly, one: Opener, other: Opener) -> tuple[bool, bool]:
    """Of two wrapped loops the one further from the fold is wrapped round the other."""
    a, b = assembly.members[one.member], assembly.members[other.member]
    outer = (a.item, a.number, a.id) > (b.item, b.number, b.id)
    return outer, not outer


class _Chosen:
    def __init__(self, chooser: "_Chooser", classes: set[_Vertex]) -> None:
        self.chooser, self.classes = chooser, classes

    def holds(self, opener: Opener) -> bool:
        return self.chooser.sort(opener) != "never" and (
            self.chooser.class_of(self.chooser.vertex(opener)) in self.classes
        )

    def shared(self, opener: Opener) -> bool:
        """Whether it is one of both loops of a wrapped unit that may be made in place."""
        return self.chooser.vertex(opener).port is None


class _Chooser:
    """Classes of openers with their costs, and the joints between them."""

    def __init__(
        self,
        assembly: Assembly,
        joints: Joints,
        mirror: Mirror,
        ends: Mapping[int, tuple[Opener, Opener]],
    ) -> None:
        self.assembly, self.joints, self.mirror, self.ends = assembly, joints, mirror, ends
        self._split: set[_Vertex] = set()
        self._vertices: dict[Opener, _Vertex] = {}
        self._classes: dict[_Vertex, _Vertex] = {}
        for one, other in ends.values():
            if "never" not in (self.sort(one), self.sort(other)):
                v, w = self.vertex(one), self.vertex(other)
                if v != w and self.class_of(v) == self.class_of(w):
                    self._split |= {v, w}
        self._classes.clear()

    def sort(self, opener: Opener) -> str:
        return self.joints.sorts[opener]

    def vertex(self, opener: Opener) -> _Vertex:
        found = self._vertices.get(opener)
        if found is None:
            unit = self.assembly.thing(self.assembly.members[opener.member])
            wrapped = isinstance(unit, BeadLink) and self.sort(opener) == "once"
            found = _Vertex(opener.member, None if wrapped else opener.port)
            self._vertices[opener] = found
        return found

    def class_of(self, vertex: _Vertex) -> _Vertex:
        """The vertex that stands for this one and its mirror."""
        found = self._classes.get(vertex)
        if found is None:
            found = self._classes[vertex] = self._class(vertex)
        return found

    def _class(self, vertex: _Vertex) -> _Vertex:
        if vertex in self._split:
            return vertex
        if vertex.port is None:
            other = self.mirror.twin[vertex.member]
            return vertex if other < 0 else _Vertex(min(vertex.member, other), None)
        twin = self.mirror.of(Opener(vertex.member, vertex.port))  # type: ignore[arg-type]
        if twin is None or _Vertex(*twin) in self._split:
            return vertex
        return min(vertex, _Vertex(*twin), key=lambda v: (v.member, str(v.port)))

    def _cost(self, vertex: _Vertex) -> float:
        member = self.assembly.members[vertex.member]
        if vertex.port is None:
            return WRAPPED
        sort = self.sort(Opener(vertex.member, vertex.port))  # type: ignore[arg-type]
        if sort == "threaded" or member.strung is not None:
            return 0.0
        if member.woven is not None:
            return 0.0 if member.woven.opened else LEFT_CLOSED
        if is_catch(self.assembly, member):
            return CATCH
        if member.kind == "ring":
            unit = self.assembly.things.get(member.made_in or "")
            return MID if isinstance(unit, BeadLink) else RING
        if member.kind == "chain":
            return END_LINK if vertex.port in (1, member.links) else INNER_LINK
        return WRAPPED if sort == "once" else SIMPLE

    def _undone(self, vertex: _Vertex) -> float:
        if vertex.port is None or self.assembly.members[vertex.member].strung is not None:
            return LOST
        return LOST if self.sort(Opener(vertex.member, vertex.port)) == "once" else REOPENED  # type: ignore[arg-type]

    def chosen(self, working: Working, closed: frozenset[Opener]) -> _Chosen:
        shut = {self.vertex(opener) for opener in closed}
        cost: dict[_Vertex, float] = {}
        counted: set[_Vertex] = set()
        beside: dict[_Vertex, set[_Vertex]] = defaultdict(set)
        forced: set[_Vertex] = set()
        for one, other in self.ends.values():
            pair = []
            for opener in (one, other):
                if self.sort(opener) == "never":
                    continue
                vertex = self.vertex(opener)
                own = self.class_of(vertex)
                if vertex not in counted:
                    counted.add(vertex)
                    anew = self._undone(vertex) if vertex in shut else 0.0
                    cost[own] = cost.get(own, 0.0) + self._cost(vertex) + anew
                pair.append((own, vertex))
            if len(pair) == 1 or pair[0][0] == pair[1][0]:
                forced.add(pair[0][0])
                continue
            (v, own), (w, its) = pair
            beside[v].add(w)
            beside[w].add(v)
            if working.links == "each" and own.port is its.port is None:
                outer, _ = _later(self.assembly, one, other)
                forced.add(v if outer else w)
        forced |= {v for v in beside if cost[v] == 0.0}
        left = {v: near - forced for v, near in beside.items() if v not in forced}
        return _Chosen(self, forced | _least(left, cost))


Graph = Mapping[_Vertex, set[_Vertex]]


def _least(graph: Graph, cost: Mapping[_Vertex, float]) -> set[_Vertex]:
    """The cheapest vertices of a graph that touch all its edges."""
    found: set[_Vertex] = set()
    seen: set[_Vertex] = set()
    for root in graph:
        if root in seen or not graph[root]:
            continue
        order, parent = [root], {root: root}
        for v in order:
            for w in sorted(graph[v], key=_by_place):
                if w not in parent:
                    parent[w] = v
                    order.append(w)
        seen.update(order)
        more = sum(len(graph[v]) for v in order) // 2 - (len(order) - 1)
        if more == 0:
            found |= _of_tree(order, parent, cost)
        elif more <= MOST_CIRCLES:
            found |= _of_circles(order, graph, cost)
        else:
            found |= _of_any(order, graph, cost)
    return found


def _of_circles(
    order: Sequence[_Vertex], graph: Graph, cost: Mapping[_Vertex, float]
) -> set[_Vertex]:
    """Where a few circles close, one vertex of them is tried in, and tried out with all about it
    in; what is left is nearer to a tree."""
    v = max(order, key=lambda v: len(graph[v]))
    best: set[_Vertex] = set()
    for taken in ({v}, graph[v]):
        rest = {w: graph[w] - taken for w in order if w not in taken}
        found = taken | _least(rest, cost)
        if not best or sum(cost[w] for w in found) < sum(cost[w] for w in best) - 1e-9:
            best = found
    return best


def _by_place(vertex: _Vertex) -> tuple[int, str]:
    return vertex.member, str(vertex.port)


def _of_tree(
    order: Sequence[_Vertex], parent: Mapping[_Vertex, _Vertex], cost: Mapping[_Vertex, float]
) -> set[_Vertex]:
    """From the leaves up: what each branch costs with its root in, and with it out."""
    inside = {v: cost[v] for v in order}
    out = dict.fromkeys(order, 0.0)
    for v in reversed(order[1:]):
        inside[parent[v]] += min(inside[v], out[v])
        out[parent[v]] += inside[v]
    found: set[_Vertex] = set()
    for v in order:
        above = v == order[0] or parent[v] in found
        if (inside[v] < out[v]) if above else True:
            found.add(v)
    return found


def _of_any(order: Sequence[_Vertex], graph: Graph, cost: Mapping[_Vertex, float]) -> set[_Vertex]:
    """By a mixed-integer program: one of both ends of each edge, as cheap as can be."""
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import csr_array

    at = {v: k for k, v in enumerate(order)}
    edges = [(at[v], at[w]) for v in order for w in graph[v] if at[v] < at[w]]
    rows = np.repeat(np.arange(len(edges), dtype=np.int32), 2)
    columns = np.ravel(edges).astype(np.int32)  # older SciPy takes no wider ones here
    touched = csr_array((np.ones(2 * len(edges)), (rows, columns)))
    price = np.array([cost[v] + 1e-6 * k / len(order) for k, v in enumerate(order)])
    solved = milp(
        price,
        constraints=LinearConstraint(touched, lb=1),
        bounds=Bounds(0, 1),
        integrality=np.ones(len(order), dtype=int),
        options={"mip_rel_gap": 0.0, "time_limit": 5.0},
    )
    if solved.x is None:
        return _pruned(order, graph)
    return {v for v, x in zip(order, solved.x, strict=True) if x > 0.5}


def _pruned(order: Iterable[_Vertex], graph: Graph) -> set[_Vertex]:
    """A cover that is good enough where the best cannot be found in time: every other one."""
    found = set(order)
    for v in list(order):
        if graph[v] <= found:
            found.discard(v)
    return found
