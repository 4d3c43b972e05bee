"""A drawn start for the hang: the piece laid out as a maker would lay it on the board.

Centred, nothing upside down, rods near their length, so that the rest shape found is the worn
one. Works in the plane of the board: x to the right, y up, the pins at y = 0.
"""

import numpy as np

from maglia.core.hang.bodies import Floats
from maglia.core.hang.build import Skeleton, path_lengths
from maglia.core.piece import Form

Pins = dict[int, tuple[float, ...]]


def board_layout(net: Skeleton, form: Form) -> tuple[Floats, Pins]:
    """Start positions (N, 2) of all points, and the places of those that are pinned."""
    return _Board(net, form).laid()


class _Board:
    def __init__(self, net: Skeleton, form: Form) -> None:
        self.net, self.form = net, form
        self.place = np.full((net.points, 2), np.nan)
        self.lines = [path_lengths(net, k) for k in range(len(net.assembly.paths))]
        self.pins: Pins = {}

    def laid(self) -> tuple[Floats, Pins]:
        waiting = list(range(len(self.lines)))
        main = next((k for k, p in enumerate(self.net.assembly.paths) if p.kind == "strand"), 0)
        if waiting:
            self._lay_main(main)
            waiting.remove(main)
        while waiting:
            self._follow()
            ready = [k for k in waiting if self._known(k)]
            if not ready:
                break
            chosen = max(ready, key=lambda k: len(self._known(k)) > 1)
            self._lay(chosen)
            waiting.remove(chosen)
        self._follow()
        self._rest()
        return self.place, self.pins

    def _lay_main(self, k: int) -> None:
        path, (points, at) = self.net.assembly.paths[k], self.lines[k]
        if (path.side == "fold" and self._lies_across(path.run)) or path.side == "whole":
            half = self.form.pins_mm / 2
            ends = np.array([[-half, 0.0], [half, 0.0]])
            self.place[points] = _draped(ends, at)
            self.pins = {points[0]: (-half, 0.0), points[-1]: (half, 0.0)}
            return
        self._drop(points, at, np.zeros(2))
        self.pins = {points[0]: (0.0, 0.0)}

    def _lies_across(self, run: str) -> bool:
        return any(r.name == run and r.lies == "across" for r in self.net.assembly.runs)

    def _known(self, k: int) -> list[int]:
        points = self.lines[k][0]
        return [n for n, p in enumerate(points) if not np.isnan(self.place[p, 0])]

    def _lay(self, k: int) -> None:
        points, at = self.lines[k]
        known = self._known(k)
        places = self.place[[points[n] for n in known]]
        first, last = known[0], known[-1]
        if self._lies_across(self.net.assembly.paths[k].run) and not (
            first == 0 and last == len(points) - 1
        ):
            line = np.c_[at - at[-1] / 2, np.full(len(at), places[:, 1].mean())]
            self.place[points] = line
        elif len(known) > 1 and (first, last) == (0, len(points) - 1):
            self.place[points] = _draped(places[[0, -1]], at)
        else:
            self._drop(points, np.abs(at - at[first]), places[0])

    def _drop(self, points: list[int], below: Floats, top: Floats) -> None:
        self.place[points] = top + np.c_[np.zeros(len(points)), -below]

    def _follow(self) -> None:
        """Points that ride on placed ones, hubs, and bodies whose holes are placed."""
        for point, weights in self.net.attached.items():
            bases = [base for base, _ in weights]
            if np.isnan(self.place[point, 0]) and not np.isnan(self.place[bases, 0]).any():
                self.place[point] = sum(w * self.place[b] for b, w in weights)
        for points, inner in self.net.round.values():
            known = [p for p in points if not np.isnan(self.place[p, 0])]
            for p in set(points) - set(known) if known else ():
                self.place[p] = self.place[known].mean(axis=0) - (0.0, inner / 2)
        for index, body in self.net.bodies.items():
            corners = self.net.drawn[index]
            there = [k for k, p in enumerate(corners) if not np.isnan(self.place[p, 0])]
            if there and len(there) < len(corners):
                turn, shift = _placed_by(body.local[there], self.place[[corners[k] for k in there]])
                for k in set(range(len(corners))) - set(there):
                    self.place[corners[k]] = turn @ body.local[k] + shift

    def _rest(self) -> None:
        """Hubs and ends of rings: below or between their placed neighbours."""
        for _ in range(4):
            missing = np.isnan(self.place[:, 0])
            if not missing.any():
                return
            links = [(a, b, length) for a, b, length, _ in self.net.segments]
            links += list(self.net.rods)
            for a, b, length in links:
                for one, other in ((a, b), (b, a)):
                    if np.isnan(self.place[other, 0]) and not np.isnan(self.place[one, 0]):
                        self.place[other] = self.place[one] + (0.0, -length)
            self._follow()
        self.place[np.isnan(self.place)] = 0.0


def _placed_by(local: Floats, placed: Floats) -> tuple[Floats, Floats]:
    """Rotation (never a mirror image) and shift that bring local points nearest to placed ones."""
    middle, target = local.mean(axis=0), placed.mean(axis=0)
    a, b = local - middle, placed - target
    sine = float((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum())
    cosine = float((a * b).sum())
    size = float(np.hypot(sine, cosine))
    if size < 1e-9:
        return np.eye(2), target - middle
    turn = np.array([[cosine, -sine], [sine, cosine]]) / size
    return turn, target - turn @ middle


def _draped(ends: Floats, at: Floats) -> Floats:
    """Points at arc lengths `at` along a parabola of that whole length hung between two ends."""
    chord = ends[1] - ends[0]
    span, total = float(np.linalg.norm(chord)), float(at[-1])
    t = np.linspace(0.0, 1.0, 400)
    depth = 0.0
    if total > span * 1.0001:
        low, high = 0.0, total
        for _ in range(50):
            depth = (low + high) / 2
            length = _arc(ends[0], chord, t, depth)[-1]
            low, high = (depth, high) if length < total else (low, depth)
    curve = _curve(ends[0], chord, t, depth)
    along = np.r_[0.0, np.cumsum(np.linalg.norm(np.diff(curve, axis=0), axis=1))]
    share = at / max(total, 1e-9) * along[-1]
    sides = (np.interp(share, along, curve[:, k]) for k in (0, 1))
    return np.column_stack(tuple(sides))


def _curve(origin: Floats, chord: Floats, t: Floats, depth: float) -> Floats:
    return np.asarray(
        origin + t[:, None] * chord + np.c_[np.zeros(len(t)), -4 * depth * t * (1 - t)]
    )


def _arc(origin: Floats, chord: Floats, t: Floats, depth: float) -> Floats:
    steps = np.diff(_curve(origin, chord, t, depth), axis=0)
    return np.asarray(np.cumsum(np.linalg.norm(steps, axis=1)))
