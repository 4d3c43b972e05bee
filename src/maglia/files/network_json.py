"""Networks as JSON: read for `maglia network`, and the answer written beside it."""

import json
import math
from pathlib import Path
from typing import Annotated, Any

import msgspec
import numpy as np
from msgspec import Meta

from maglia.core.hang.bodies import body_from
from maglia.core.hang.network import Network, Weights
from maglia.core.hang.solve import Solution
from maglia.core.values.record import DomainError, Value
from maglia.files import disk

MOST_NODES = 20_000
"""A net of so many hangs within seconds; a piece never comes near it."""
Number = Annotated[float, Meta(ge=-1e7, le=1e7)]
Above = Annotated[float, Meta(gt=0, le=1e7)]
Vector = tuple[Number, ...]
Id = str | int


class _Node(Value, frozen=True):
    id: Id
    mass: Annotated[float, Meta(ge=0, le=1e7)]
    fixed: bool = False
    pos: Vector | None = None


class _Segment(Value, frozen=True):
    i: Id
    j: Id
    rest: Above
    run: str = ""


class _Attached(Value, frozen=True):
    node: Id
    fraction: Annotated[float, Meta(ge=0, le=1)]


class _Rod(Value, frozen=True):
    a: Id
    b: Id
    length: Above
    attached: tuple[_Attached, ...] = ()


class _File(Value, frozen=True):
    """What is read of a network file (docs/network.md); anything else may stand beside it."""

    dim: Annotated[int, Meta(ge=2, le=3)]
    nodes: Annotated[tuple[_Node, ...], Meta(min_length=2, max_length=MOST_NODES)]
    segments: Annotated[tuple[_Segment, ...], Meta(max_length=2 * MOST_NODES)] = ()
    rigid_links: Annotated[tuple[_Rod, ...], Meta(max_length=MOST_NODES)] = ()
    layout: tuple[Vector, ...] | None = None
    body: dict[str, Any] | None = None
    contact_radius: Annotated[float, Meta(ge=0, le=1e4)] | None = None
    sliders: tuple[Any, ...] = ()
    elastics: tuple[Any, ...] = ()
    guides: tuple[Any, ...] = ()


def read_network(path: Path) -> Network:
    """A network from a file. Raises DomainError naming the file and what is wrong in it."""
    name, text = disk.shown(path), disk.read_text(path)
    try:
        values = json.loads(text, parse_constant=_no_number)
        return network_from(values)
    except (json.JSONDecodeError, RecursionError, OverflowError):
        raise DomainError(f"{name} is not a JSON file: nothing was loaded") from None
    except DomainError as fault:
        raise DomainError(f"{name} is not a network: {fault}") from None


def _no_number(text: str) -> float:
    raise DomainError(f"{text} is not a number of JSON")


def network_from(description: Any) -> Network:
    """A network from its description (see docs/network.md). Gravity is along the last axis.
    Raises DomainError naming the place."""
    try:
        file = msgspec.convert(description, _File)
    except (msgspec.ValidationError, OverflowError, RecursionError, UnicodeError) as error:
        raise DomainError(str(error)) from None
    for what in ("sliders", "elastics", "guides"):
        if getattr(file, what):
            raise DomainError(f"it has {what}, which cannot be hung yet")
    index = {node.id: k for k, node in enumerate(file.nodes)}
    if len(index) < len(file.nodes):
        raise DomainError("two nodes have the same id")
    if not file.segments and not file.rigid_links:
        raise DomainError("it has neither segments nor rigid links")

    def at(name: Id) -> int:
        if name not in index:
            raise DomainError(f"there is no node “{name}”")
        return index[name]

    fixed = np.array([node.fixed for node in file.nodes])
    body = _body(file)
    touching = [k for k in range(len(file.nodes)) if body is not None and not fixed[k]]
    attached: dict[int, Weights] = {
        at(hung.node): ((at(rod.a), 1 - hung.fraction), (at(rod.b), hung.fraction))
        for rod in file.rigid_links
        for hung in rod.attached
        if not fixed[at(hung.node)]
    }
    return Network(
        start=_start(file),
        mass=np.array([node.mass for node in file.nodes]),
        fixed=fixed,
        segments=np.array([(at(s.i), at(s.j)) for s in file.segments], int).reshape(-1, 2),
        rest=np.array([s.rest for s in file.segments]),
        rods=np.array([(at(r.a), at(r.b)) for r in file.rigid_links], int).reshape(-1, 2),
        length=np.array([r.length for r in file.rigid_links]),
        attached=attached,
        body=body,
        contact=np.array(touching, int),
        radius=file.contact_radius or 0.0,
        labels=tuple(s.run for s in file.segments),
    )


def _start(file: _File) -> Any:
    """Where every node begins: as drawn, and fixed ones where they are fixed."""
    drawn = file.layout or tuple(node.pos or (0.0,) * file.dim for node in file.nodes)
    if len(drawn) != len(file.nodes):
        raise DomainError(f"its layout has {len(drawn)} places for {len(file.nodes)} nodes")
    places = []
    for node, place in zip(file.nodes, drawn, strict=True):
        if node.fixed and node.pos is None:
            raise DomainError(f"node “{node.id}” is fixed, but has no pos")
        here = node.pos if node.fixed and node.pos is not None else place
        if len(here) != file.dim:
            raise DomainError(
                f"the place of node “{node.id}” has {len(here)} of {file.dim} numbers"
            )
        places.append(here)
    return np.array(places, float)


def _body(file: _File) -> Any:
    if not file.body:
        return None
    _require_plain(file.body, file.dim)
    try:
        return body_from(file.body)
    except (TypeError, AttributeError, OverflowError):
        raise DomainError("a number of its body is something else") from None


BODY_NUMBERS = ("radius", "rp", "rq", "k")


def _require_plain(body: dict[str, Any], dim: int) -> None:
    """Every size of a body above zero, every place and radii with a number for each axis."""
    for name, value in body.items():
        if name in BODY_NUMBERS and not _is_size(value):
            raise DomainError(f"{name} of its body is {value!r:.40}: a size in mm is above 0")
        if name in ("center", "p", "q", "radii"):
            sound = isinstance(value, list | tuple) and len(value) == dim
            if not sound or not all(_is_number(one) for one in value):
                raise DomainError(f"{name} of its body is not {dim} numbers")
            if name == "radii" and not all(_is_size(one) for one in value):
                raise DomainError("radii of its body are above 0")
        if name in ("a", "b") and isinstance(value, dict):
            _require_plain(value, dim)


def _is_number(value: Any) -> bool:
    plain = isinstance(value, int | float) and not isinstance(value, bool)
    return plain and abs(value) <= 1e7 and math.isfinite(value)


def _is_size(value: Any) -> bool:
    return _is_number(value) and value > 0


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
