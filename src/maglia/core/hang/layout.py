"""A drawn start for the hang: the piece laid out as a maker would lay it, on board or body.

Centred, nothing upside down, rods near their length, outside the body, so that the rest shape
found is the worn one. On the board x is to the right and y up, with the pins at y = 0; on a body
z is up and y forward.
"""

from abc import ABC, abstractmethod

import numpy as np

from maglia.core.hang.bodies import Floats
from maglia.core.hang.build import path_lengths
from maglia.core.hang.forms import FormBody, outside
from maglia.core.hang.lines import between, of_length, sampled, stepped_along
from maglia.core.hang.network import Guide
from maglia.core.hang.skeleton import Skeleton
from maglia.core.hang.touching import Touching
from maglia.core.piece.piece import Form
from maglia.core.sheets.as_worn import turns_of
from maglia.core.sheets.lengths import member_width_mm, thickness_mm

FRONT_Y = 75.0
"""A line with its middle this far forward passes before neck and collar bones, mm."""
PINS_SHARE = 0.4
"""Distance of the pins of a board as a share of the strand's length, where none is given."""
BETWEEN_TURNS_MM = 1.0
"""From one turn of a wound strand to the next."""
RETURN_SHARE = 0.2
"""Of a turn at each end, the part on which a wound strand goes back to where it began."""
SHORT_LINE = 7
"""A line of fewer points between two placed ends is drawn straight,"""
DEEP = 1.5
"""unless it is so many times longer than they are apart."""
Lines = dict[tuple[str, str], Floats]
"""By run and side, the points of its path in order."""
Pins = dict[int, tuple[float, ...]]


def board_layout(net: Skeleton, form: Form, known: Lines | None = None) -> tuple[Floats, Pins]:
    """Start positions (N, 2) of all points, and the places of those that are pinned."""
    board = _Board(net, form)
    board.known_lines = known or {}
    return board.laid(), board.pins


def body_layout(
    net: Skeleton, form: FormBody, known: Lines | None = None
) -> tuple[Floats, tuple[Guide, ...]]:
    """Start positions (N, 3) of all points, and the guide that holds the closure in the middle.

    `known` are lines on which runs lay before: where a run is among them, it starts there.
    """
    worn = _Worn(net, form)
    worn.known_lines = known or {}
    return worn.laid(), worn.guides


def ring_layout(net: Skeleton) -> Floats:
    """Positions (N, 2) of a closed strand laid to a round on the mat, what hangs laid outward."""
    return _Mat(net).laid()


def _middle(thread: tuple[int, ...]) -> int:
    return thread[len(thread) // 2]


class _Layout(ABC):
    """Places paths in order of what is placed already: the main strand, what joins it, and so on.

    Subclasses say how a line drapes between two ends and how the main strand begins.
    """

    def __init__(self, net: Skeleton, dim: int) -> None:
        self.net, self.dim = net, dim
        self.place = np.full((net.points, dim), np.nan)
        self.lines = [path_lengths(net, k) for k in range(len(net.assembly.paths))]
        self.across = {r.name for r in net.assembly.runs if r.lies == "across"}
        self.known_lines: Lines = {}
        self._every = np.concatenate([[], *(points for points, _ in self.lines)]).astype(int)
        self._begin = np.cumsum([0, *(len(points) for points, _ in self.lines)])[:-1]
        self._followed = np.zeros(net.points, bool)
        """Which points had a place before, so that only what touches new ones need be looked at."""
        self._attached = Touching(net.attached, lambda own: (own[0], *(p for p, _ in own[1])))
        self._riders = Touching(net.riders, lambda own: (own[0], _middle(own[1][0])))
        self._rings = Touching(net.round, lambda own: own[1][0])
        self._bodies = Touching(net.bodies, lambda own: net.corners[own[0]])

    @abstractmethod
    def lay_main(self, k: int) -> None: ...

    @abstractmethod
    def draped(self, ends: Floats, at: Floats) -> Floats: ...

    def facing(self, at: Floats) -> Floats:
        """How a flat part would lie there of itself: its axes right, forward and up as rows."""
        return np.eye(self.dim)

    def settled(self) -> None:  # noqa: B027  # a board needs no last touch
        """Last touch to all positions."""

    def laid(self) -> Floats:
        waiting = list(range(len(self.lines)))
        for k, path in enumerate(self.net.assembly.paths):
            line = self.known_lines.get((path.run, path.side))
            if line is not None and line.shape[1] == self.dim:
                self.place[self.lines[k][0]] = sampled(line, self.lines[k][1])
        main = next((k for k, p in enumerate(self.net.assembly.paths) if p.kind == "strand"), 0)
        if waiting:
            self.lay_main(main)
            waiting.remove(main)
        while waiting:
            self._follow()
            known = self._known_counts()
            ready = [k for k in waiting if known[k]]
            if not ready:
                break
            chosen = max(ready, key=lambda k: known[k] > 1)
            self._lay(chosen)
            waiting.remove(chosen)
        self._follow()
        self._rest()
        self.settled()
        return self.place

    def _placed(self) -> list[bool]:
        """For each point whether it has a place."""
        return list((~np.isnan(self.place[:, 0])).tolist())

    def _known(self, k: int) -> list[int]:
        return list(np.flatnonzero(~np.isnan(self.place[self.lines[k][0], 0])).tolist())

    def _known_counts(self) -> list[int]:
        """Of every line, how many of its points have a place."""
        placed = ~np.isnan(self.place[self._every, 0])
        return list(np.add.reduceat(placed.astype(int), self._begin).tolist())

    def _lay(self, k: int) -> None:
        points, at = self.lines[k]
        known = self._known(k)
        if len(known) == len(points):
            return
        places = self.place[[points[n] for n in known]]
        both_ends = len(known) > 1 and (known[0], known[-1]) == (0, len(points) - 1)
        path = self.net.assembly.paths[k]
        if both_ends and path.kind != "strand" and np.allclose(places[0], places[-1]):
            self._loop(points, at, places[0])
        elif both_ends and len(points) < SHORT_LINE and not _hangs_deep(places, at):
            self.place[points] = sampled(places[[0, -1]], at)
        elif both_ends:
            self.place[points] = self.draped(places[[0, -1]], at)
        elif path.run in self.across:
            line = np.tile(places.mean(axis=0), (len(at), 1))
            line[:, 0] = at - at[-1] / 2
            self.place[points] = line
        else:
            self.drop(points, np.abs(at - at[known[0]]), places[0])

    def _loop(self, points: list[int], at: Floats, top: Floats) -> None:
        """From a place and back to it: a circle below it, from the left to the right."""
        angle = at / at[-1] * 2 * np.pi
        line = np.tile(top, (len(points), 1))
        line[:, 0] -= at[-1] / (2 * np.pi) * np.sin(angle)
        line[:, -1] -= at[-1] / (2 * np.pi) * (1 - np.cos(angle))
        self.place[points] = line

    def drop(self, points: list[int], below: Floats, top: Floats) -> None:
        line = np.tile(top, (len(points), 1))
        line[:, -1] -= below
        self.place[points] = line

    def _follow(self) -> None:
        """Points that ride on placed ones, rings, and bodies whose holes are placed."""
        there = ~np.isnan(self.place[:, 0])
        fresh = np.flatnonzero(there & ~self._followed).tolist()
        self._followed = there
        placed = list(there.tolist())
        self._ride(placed, fresh)
        for point, (thread, _) in self._riders.of(fresh):
            middle = _middle(thread)
            if not placed[point] and placed[middle]:
                self.place[point] = self.place[middle]
                self.place[point][-1] -= 1.0
                placed[point] = True
                fresh.append(point)
        down = np.zeros(self.dim)
        down[-1] = -0.5
        for _, (points, inner) in self._rings.of(fresh):
            known = [p for p in points if placed[p]]
            for point in set(points) - set(known) if known else ():
                self.place[point] = self.place[known].mean(axis=0) + inner * down
                placed[point] = True
                fresh.append(point)
        for index, body in self._bodies.of(fresh):
            corners = self.net.corners[index]
            holes = [k for k, point in enumerate(corners) if placed[point]]
            if holes and len(holes) < len(corners):
                held = self.place[[corners[k] for k in holes]]
                turn, shift = _placed_by(body.local[holes], held, self.facing(held.mean(axis=0)))
                for k in set(range(len(corners))) - set(holes):
                    self.place[corners[k]] = turn @ body.local[k] + shift
                    placed[corners[k]] = True
                    fresh.append(corners[k])
        self._ride(placed, fresh)  # in holes that have just come

    def _ride(self, placed: list[bool], fresh: list[int]) -> None:
        for point, weights in self._attached.of(fresh):
            if not placed[point] and all(placed[b] for b, _ in weights):
                self.place[point] = sum(w * self.place[b] for b, w in weights)
                placed[point] = True
                fresh.append(point)
            elif len(weights) == 1 and placed[point]:  # the same place by another name
                base = weights[0][0]
                self.place[base] = self.place[point]
                if not placed[base]:
                    placed[base] = True
                    fresh.append(base)

    def _rest(self) -> None:
        """Ends of rings and what else hangs: below one placed neighbour, or between several."""
        links = [(a, b, length) for a, b, length, _ in self.net.segments]
        links += list(self.net.rods)
        for _ in range(4):
            placed = self._placed()
            if all(placed):
                return
            held: dict[int, list[tuple[int, float]]] = {}
            for a, b, length in links:
                if placed[a] != placed[b]:
                    one, other = (a, b) if placed[a] else (b, a)
                    held.setdefault(other, []).append((one, length))
            for point, holders in held.items():
                self.place[point] = self.place[[one for one, _ in holders]].mean(axis=0)
                if len(holders) == 1:
                    self.place[point, -1] -= holders[0][1]
            self._follow()
        self.place[np.isnan(self.place)] = 0.0


def _length(line: Floats) -> float:
    return float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum())


def _hangs_deep(places: Floats, at: Floats) -> bool:
    return float(at[-1]) > DEEP * float(np.linalg.norm(places[-1] - places[0]))


class _Board(_Layout):
    """Hung from two pins (or one) in the plane of the board."""

    def __init__(self, net: Skeleton, form: Form) -> None:
        super().__init__(net, 2)
        self.form = form
        self.pins: Pins = {}

    def lay_main(self, k: int) -> None:
        path, (points, at) = self.net.assembly.paths[k], self.lines[k]
        if path.run in self.across or path.side == "whole":
            if self.form.neckline != "straight":
                self._pin_along(points, at)
                return
            half = (self.form.pins_mm or PINS_SHARE * float(at[-1])) / 2
            ends = np.array([[-half, 0.0], [half, 0.0]])
            if not self._known(k):
                self.place[points] = self.draped(ends, at)
            self.pins = {points[0]: (-half, 0.0), points[-1]: (half, 0.0)}
            return
        if not self._known(k):
            self.drop(points, at, np.zeros(2))
        self.pins = {points[0]: (0.0, 0.0)}

    def _pin_along(self, points: list[int], at: Floats) -> None:
        """The whole carrier pinned along a round or V neckline of its own length."""
        share = np.linspace(-1.0, 1.0, 2001)
        if self.form.neckline == "vee":
            line = np.c_[share, np.abs(share) - 1.0]
        else:
            line = np.c_[np.sin(share * np.pi / 2), -np.cos(share * np.pi / 2)]
        places = stepped_along(line, np.diff(at)) * (1 - 1e-9)
        self.place[points] = places
        self.pins = {
            point: (float(x), float(y))
            for point, (x, y) in zip(points, places, strict=True)
            if point not in self.net.attached
        }

    def draped(self, ends: Floats, at: Floats) -> Floats:
        """Along a parabola of the right length."""
        t = np.linspace(0.0, 1.0, 400)

        def curve(depth: float) -> Floats:
            sag = np.c_[np.zeros(len(t)), -4 * depth * t * (1 - t)]
            return np.asarray(ends[0] + t[:, None] * (ends[1] - ends[0]) + sag)

        return sampled(of_length(curve, float(at[-1]), 0.0, float(at[-1])), at)


class _Mat(_Layout):
    """Laid flat: the strand a round, its fold at the foot; all else outward from it."""

    def __init__(self, net: Skeleton) -> None:
        super().__init__(net, 2)

    def lay_main(self, k: int) -> None:
        points, at = self.lines[k]
        angle = at / at[-1] * 2 * np.pi
        radius = float(at[-1]) / (2 * np.pi)
        self.place[points] = radius * np.column_stack([-np.sin(angle), np.cos(angle)])

    def _outward(self, at: Floats) -> Floats:
        away = float(np.linalg.norm(at))
        return at / away if away > 1e-6 else np.array([0.0, -1.0])

    def drop(self, points: list[int], below: Floats, top: Floats) -> None:
        self.place[points] = top + below[:, None] * self._outward(top)

    def draped(self, ends: Floats, at: Floats) -> Floats:
        t = np.linspace(0.0, 1.0, 100)[:, None]
        straight = ends[0] + t * (ends[1] - ends[0])
        out = self._outward(ends.mean(axis=0))

        def curve(depth: float) -> Floats:
            return np.asarray(straight + 4 * depth * t * (1 - t) * out)

        return sampled(of_length(curve, float(at[-1]), 0.0, float(at[-1])), at)

    def facing(self, at: Floats) -> Floats:
        down = self._outward(at)
        return np.array([[-down[1], down[0]], -down])


class _Worn(_Layout):
    """Round the neck of a bust, or round a wrist or ankle."""

    def __init__(self, net: Skeleton, form: FormBody) -> None:
        super().__init__(net, 3)
        self.form = form
        self.guides: tuple[Guide, ...] = ()

    def lay_main(self, k: int) -> None:
        points, at = self.lines[k]
        self.lines_main = k
        turns = turns_of(self.net.assembly)
        if self._known(k):
            pass
        elif turns > 1:
            self.place[points] = self._wound(at, turns)
        elif self.form.kind == "bust":
            back = np.array([0.0, -76.0, 12.0])
            self.place[points] = self.draped(np.array([back, back]), at)
        else:
            self.place[points] = self._round(at)
        middle = (1.0, 0.0, 0.0)
        if turns == 1:
            self.guides = (Guide(_at(points, at, self._opposite(k)), middle),)
            return
        planes = self._planes(at, turns)
        held = zip(points[:-1] if points[0] == points[-1] else points, planes, strict=False)
        tops = ((n + 0.5) * at[-1] / turns for n in range(turns))
        self.guides = (
            *(Guide(((point, 1.0),), (0.0, 1.0, 0.0), float(plane)) for point, plane in held),
            *(Guide(_at(points, at, top), middle) for top in tops),
        )

    def _wound(self, at: Floats, turns: int) -> Floats:
        """A helix round the limb, every turn touching it on top."""
        radius = max(float(at[-1]) / (2 * np.pi * turns), self.form.top_z + 1.0)
        angle = at / at[-1] * 2 * np.pi * turns
        x, z = -radius * np.sin(angle), self.form.top_z + 1.0 - radius * (1 + np.cos(angle))
        return np.column_stack([x, self._planes(at, turns), z])

    def _planes(self, at: Floats, turns: int) -> Floats:
        """Where along the arm each place of a wound strand is held, mm: turn beside turn, and back
        across them where it closes."""
        assembly = self.net.assembly
        widths = [member_width_mm(assembly, assembly.members[i])
                  for s in assembly.paths[self.lines_main].stations for i in s.members]  # fmt: skip
        wide = (max(widths, default=2.0) + BETWEEN_TURNS_MM) * (turns - 1) / 2
        length, back = float(at[-1]), RETURN_SHARE * float(at[-1]) / turns
        return np.interp(at, [0.0, back, length - back, length], [0.0, -wide, wide, 0.0])

    def _opposite(self, k: int) -> float:
        """Where along the path its back lies: half the closed length from the fold."""
        path, at = self.net.assembly.paths[k], self.lines[k][1]
        members = self.net.assembly.members
        spans = [s.span_mm or 0.1 for s in path.stations]
        own = [members[s.members[0]].run == path.run for s in path.stations]
        first = next((n for n, mine in enumerate(own) if mine), 0)
        lead = sum(spans[:first])
        fold = lead + sum(span for span, mine in zip(spans, own, strict=True) if mine) / 2
        fold *= float(at[-1]) / sum(spans)  # stretched as it is worn
        return float((fold + at[-1] / 2) % at[-1])

    def _round(self, at: Floats) -> Floats:
        """A circle of the whole length that touches the limb on top."""
        off = max(thickness_mm(self.net.assembly) / 2, 1.0)
        radius = max(float(at[-1]) / (2 * np.pi), self.form.top_z + off)
        angle = at / at[-1] * 2 * np.pi
        x, z = -radius * np.sin(angle), self.form.top_z + off - radius * (1 + np.cos(angle))
        return np.column_stack([x, np.zeros(len(at)), z])

    def draped(self, ends: Floats, at: Floats) -> Floats:
        """Round the sides of the neck and down the front, as deep as the length allows."""
        apart = float(np.linalg.norm(ends[1] - ends[0]))
        if self.form.kind != "bust" or ends[:, 1].max() > 20 or apart > 0.4 * at[-1]:
            return self._swag(ends, at)

        def curve(depth: float) -> Floats:
            return outside(self.form.body, _necklace(ends, depth), 1.5, rounds=2)

        return sampled(of_length(curve, float(at[-1]), 0.0, 600.0), at)

    def _swag(self, ends: Floats, at: Floats) -> Floats:
        """Between two places; on a bust bowed forward, so that it passes before the neck."""
        t = np.linspace(0.0, 1.0, 60)
        hump = 4 * t * (1 - t)
        bow = max(FRONT_Y - float(ends[:, 1].mean()), 0.0) if self.form.kind == "bust" else 0.0
        bow *= min(float(np.linalg.norm(ends[1] - ends[0])) / 80.0, 1.0)
        while bow > 1.0 and _length(ends[0] + t[:, None] * (ends[1] - ends[0])
                                    + bow * hump[:, None] * np.eye(3)[1]) > at[-1]:  # fmt: skip
            bow /= 2  # it is not long enough to pass so far before the neck

        def curve(depth: float) -> Floats:
            line = ends[0] + t[:, None] * (ends[1] - ends[0])
            line[:, 1] += bow * hump
            line[:, 2] -= depth * hump
            return outside(self.form.body, line, 1.5, rounds=2)

        return sampled(of_length(curve, float(at[-1]), 0.0, float(at[-1])), at)

    def drop(self, points: list[int], below: Floats, top: Floats) -> None:
        """Straight down; from the upper half of an arm round it, down its nearer side."""
        if self.form.kind == "bust" or top[2] <= 0:
            super().drop(points, below, top)
            return
        radius = max(float(np.hypot(top[0], top[2])), 1.0)
        begun = float(np.arctan2(top[0], top[2]))  # from the top, to the right
        side = 1.0 if begun >= 0 else -1.0
        turned = begun + side * np.minimum(below / radius, max(np.pi / 2 - abs(begun), 0.0))
        left = np.maximum(below - radius * max(np.pi / 2 - abs(begun), 0.0), 0.0)
        line = np.tile(top, (len(points), 1))
        line[:, 0], line[:, 2] = radius * np.sin(turned), radius * np.cos(turned) - left
        self.place[points] = line

    def facing(self, at: Floats) -> Floats:
        forward = self.form.body.evaluate(at[None]).gradient[0]
        forward = forward / np.linalg.norm(forward)
        right = np.cross(forward, (0.0, 0.0, 1.0))
        if np.linalg.norm(right) < 0.1:
            return np.eye(3)
        right = right / np.linalg.norm(right)
        return np.array([right, forward, np.cross(right, forward)])

    def settled(self) -> None:
        self.place = outside(self.form.body, self.place, 1.0)


def _necklace(ends: Floats, depth: float) -> Floats:
    """A line from one end round the neck's side to the front and back; (64, 3) mm."""
    left, right = ends
    width = 66.0 + min(depth, 120.0) * 0.12
    low = -45.0 - depth
    corners = np.array([
        left,
        (-width, -25.0, -12.0 - 0.06 * depth),
        (-width * 0.72, 40.0, -35.0 - 0.45 * depth),
        (0.0, 62.0 + 0.1 * depth, low),
        (width * 0.72, 40.0, -35.0 - 0.45 * depth),
        (width, -25.0, -12.0 - 0.06 * depth),
        right,
    ])  # fmt: skip
    along = np.r_[0.0, np.cumsum(np.linalg.norm(np.diff(corners, axis=0), axis=1))]
    return between(np.linspace(0, along[-1], 64), along, corners)


def _at(points: list[int], at: Floats, where: float) -> tuple[tuple[int, float], ...]:
    """The place at arc length `where` as a combination of the two points beside it."""
    k = int(np.clip(np.searchsorted(at, where, side="right") - 1, 0, len(at) - 2))
    share = float((where - at[k]) / max(at[k + 1] - at[k], 1e-9))
    return ((points[k], 1 - share), (points[k + 1], share))


def _placed_by(local: Floats, placed: Floats, frame: Floats) -> tuple[Floats, Floats]:
    """Rotation (never a mirror image) and shift that bring local points (k, 2) nearest to placed
    ones (k, dim). In space a body lies as `frame` says where they leave it free."""
    dim = placed.shape[1]
    middle, target = local.mean(axis=0), placed.mean(axis=0)
    own, there = np.zeros((len(local), dim)), placed - target
    own[:, [0, -1]] = local - middle
    if dim == 3:
        own = np.vstack([own, 0.05 * np.eye(3)])
        there = np.vstack([there, 0.05 * frame])
    u, _, vt = np.linalg.svd(own.T @ there)
    proper = np.eye(dim)
    proper[-1, -1] = np.sign(np.linalg.det(u @ vt)) or 1.0
    turn = (u @ proper @ vt).T
    flat = turn[:, [0, -1]]
    return flat, target - flat @ middle
