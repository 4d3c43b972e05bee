"""Networks as JSON: read for `maglia network`, and the answer written beside it."""

import json
from pathlib import Path
from typing import Any

import numpy as np

from maglia.core.hang.bodies import body_from
from maglia.core.hang.network import Network, Weights
from maglia.core.hang.solve import Solution
from maglia.core.values.record import DomainError


def read_network(path: Path) -> Network:
    """A network from a file. Raises DomainError naming the file and what is wrong in it."""
    try:
        return network_from(json.loads(path.read_text(encoding="utf-8")))
    except OSError as error:
        raise DomainError(f"{path} cannot be read: {error.strerror}") from None
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError):
        raise DomainError(f"{path} is not a JSON file: nothing was loaded") from None
    except (KeyError, TypeError, IndexError, ValueError) as error:
        raise DomainError(f"{path} is not a network: {error!s} is missing or wrong") from None


def network_from(description: dict[str, Any]) -> Network:
    """A network from its description (see docs/network.md). Gravity is along the last axis."""
    nodes, dim = description["nodes"], int(description["dim"])
    if dim not in (2, 3):
        raise DomainError(f"dim is {dim}: a network has 2 or 3 dimensions")
    index = {node["id"]: k for k, node in enumerate(nodes)}
    layout = description.get("layout")
    start = np.array(layout if layout else [n.get("pos", [0.0] * dim) for n in nodes], float)
    fixed = np.array([bool(node["fixed"]) for node in nodes])
    for k, node in enumerate(nodes):
        if fixed[k]:
            start[k] = node["pos"]
    segments, rods = description["segments"], description.get("rigid_links", [])
    attached: dict[int, Weights] = {
        index[hung["node"]]: (
            (index[rod["a"]], 1 - hung["fraction"]),
            (index[rod["b"]], hung["fraction"]),
        )
        for rod in rods
        for hung in rod.get("attached", [])
        if not fixed[index[hung["node"]]]
    }
    body = body_from(description["body"]) if description.get("body") else None
    touching = [k for k in range(len(nodes)) if body is not None and not fixed[k]]
    network = Network(
        start=start,
        mass=np.array([float(node["mass"]) for node in nodes]),
        fixed=fixed,
        segments=np.array([(index[s["i"]], index[s["j"]]) for s in segments], int).reshape(-1, 2),
        rest=np.array([float(s["rest"]) for s in segments]),
        rods=np.array([(index[r["a"]], index[r["b"]]) for r in rods], int).reshape(-1, 2),
        length=np.array([float(r["length"]) for r in rods]),
        attached=attached,
        body=body,
        contact=np.array(touching, int),
        radius=float(description.get("contact_radius") or 0.0),
        labels=tuple(str(s.get("run", "")) for s in segments),
    )
    _require_sound(network)
    return network


def _require_sound(network: Network) -> None:
    if not all(np.isfinite(a).all() for a in (network.start, network.mass, network.rest)):
        raise DomainError("a position, mass or length is not a finite number")
    if (network.rest <= 0).any() or (network.length <= 0).any() or (network.mass < 0).any():
        raise DomainError("every length must be above zero and no mass below it")


def answer(solution: Solution, seconds: float) -> dict[str, Any]:
    """What `maglia network` writes."""
    found: dict[str, Any] = {
        "state": solution.state,
        "positions": solution.positions.tolist(),
        "segment_tension_gf": solution.tension.tolist(),
        "segment_slack_mm": solution.slack.tolist(),
        "rigid_axial_force_gf": solution.axial.tolist(),
        "iterations": solution.iterations,
        "seconds": seconds,
    }
    if solution.state != "converged":
        found["cause"] = solution.cause
        if solution.short_by_mm:
            found["short_by_mm"] = solution.short_by_mm
    return found
