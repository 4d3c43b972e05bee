"""What a hang answers: where everything comes to rest, and with which forces."""

from typing import Literal

import numpy as np

from maglia.core.hang.bodies import Floats
from maglia.core.hang.network import Network
from maglia.core.values.record import Value

State = Literal["converged", "too short", "unstable", "slides off"]
NONE: Floats = np.zeros(0)


class Cancelled(Exception):
    """The caller asked for the solve to stop."""


class Solution(Value, frozen=True):
    """Where everything comes to rest. positions (N, dim) mm; forces gf per segment, rod, contact.

    For a state other than converged, `cause` says what and where, `short_by_mm` how much.
    """

    state: State
    positions: Floats
    tension: Floats
    slack: Floats
    axial: Floats
    contact: Floats
    iterations: int
    cause: str = ""
    short_by_mm: float = 0.0
    stretch: Floats = NONE
    """Pull of every elastic, gf."""
    riding: Floats = NONE
    """Tension of the thread of every slider, gf."""
    stands_on: tuple[tuple[int, int], ...] = ()
    """Between which points each slider's rider came to stand."""


class Warm(Value, frozen=True):
    """What a later solve of a similar network can start from, by segment, rod and contact."""

    tension: Floats
    axial: Floats
    contact: Floats


def at_rest(network: Network) -> Solution:
    """Everything where it begins, with nothing that pulls: what is laid down."""
    zeros = np.zeros(len(network.segments))
    d = network.start[network.segments[:, 1]] - network.start[network.segments[:, 0]]
    slack = network.rest - np.linalg.norm(d, axis=1)
    rods, touching = np.zeros(len(network.rods)), np.zeros(len(network.contact))
    return Solution("converged", network.start, zeros, slack, rods, touching, 0)


def refused(network: Network, state: State, cause: str, short_by: float = 0.0) -> Solution:
    """An answer for what cannot be hung: as it was drawn."""
    still = at_rest(network)
    start = np.nan_to_num(network.start)
    return Solution(
        state, start, still.tension, still.slack, still.axial, still.contact, 0, cause, short_by
    )
