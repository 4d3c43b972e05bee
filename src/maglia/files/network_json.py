"""Networks as JSON: read for `maglia network`, and the answer written beside it."""

import json
import math
from collections.abc import Callable, Sequence
from itertools import pairwise
from pathlib import Path
from typing import Annotated, Any

import msgspec
import numpy as np
from msgspec import Meta

from maglia.core.hang.bodies import body_from
from maglia.core.hang.network import Elastic, Guide, Network, Slider, Weights
from maglia.core.hang.solution import Solution
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


class _Elastic(Value, frozen=True):
    i: Id
    j: Id
    rest: Above
    limit: Annotated[float, Meta(ge=1, le=1e4)]
    stiffness_gf_per_unit_strain: Above


class _Slider(Value, frozen=True):
    through: Id | Annotated[tuple[Id, ...], Meta(min_length=1, max_length=1000)]
    a: Id
    b: Id
    rest: Above
    thread: Annotated[tuple[Id, ...], Meta(max_length=MOST_NODES)] = ()


class _Guide(Value, frozen=True):
    node: Id
    normal: Vector
    offset: Number


class _File(Value, frozen=True):
    """What is read of a network file (docs/network.md)."""

    dim: Annotated[int, Meta(ge=2, le=3)]
    nodes: Annotated[tuple[_Node, ...], Meta(min_length=2, max_length=MOST_NODES)]
    segments: Annotated[tuple[_Segment, ...], Meta(max_length=2 * MOST_NODES)] = ()
    rigid_links: Annotated[tuple[_Rod, ...], Meta(max_length=MOST_NODES)] = ()
    layout: tuple[Vector, ...] | None = None
    body: dict[str, Any] | None = None
    contact_radius: Annotated[float, Meta(ge=0, le=1e4)] | None = None
    sliders: Annotated[tuple[_Slider, ...], Meta(max_length=2000)] = ()
    elastics: Annotated[tuple[_Elastic, ...], Meta(max_length=2 * MOST_NODES)] = ()
    guides: Annotated[tuple[_Guide, ...], Meta(max_length=MOST_NODES)] = ()


READ_OVER = frozenset({
    "case", "title", "units", "gravity", "notes", "how", "needs", "compare", "tolerance",
    "reference", "expect", "continuum", "dense_curve",
})  # fmt: skip
FURTHER = ("discrete_positions_", "dense_curve", "continuum")
"""What a file may say besides: about itself, and answers found by other means."""
_BELOW = {"nodes": _Node, "segments": _Segment, "rigid_links": _Rod, "attached": _Attached,
          "elastics": _Elastic, "sliders": _Slider, "guides": _Guide}  # fmt: skip
_NAMES = frozenset({"name", "kind", "run"})
BODY_KEYS = frozenset({"kind", "center", "radius", "p", "q", "rp", "rq", "radii", "a", "b", "k"})


def _refuse_unknown(description: Any) -> None:
    """A key that is not known is not passed over: what it asks for would not be hung."""
    if not isinstance(description, dict):
        return
    known = READ_OVER | set(_File.__struct_fields__)
    for key, value in description.items():
        if key not in known and not str(key).startswith(FURTHER):
            raise DomainError(f"“{key}” is no key of a network")
        if key in _BELOW:
            _refuse_below(key, value)
    _refuse_in_body(description.get("body"))


def _refuse_below(what: str, entries: Any) -> None:
    known = _NAMES | set(_BELOW[what].__struct_fields__)
    for entry in entries if isinstance(entries, list | tuple) else ():
        if not isinstance(entry, dict):
            continue
        for key, value in entry.items():
            if key not in known:
                raise DomainError(f"“{key}” is no key of its {what}")
            if key == "attached":
                _refuse_below(key, value)


def _refuse_in_body(body: Any, depth: int = 0) -> None:
    if not isinstance(body, dict) or depth > 60:
        return
    for key, value in body.items():
        if key not in BODY_KEYS:
            raise DomainError(f"“{key}” is no key of its body")
        if key in ("a", "b"):
            _refuse_in_body(value, depth + 1)


def read_network(path: Path) -> Network:
    """A network from a file. Raises DomainError naming the file and what is wrong in it."""
    return read_named(path)[0]


def read_named(path: Path) -> tuple[Network, tuple[Id, ...]]:
    """A network from a file, and what the file calls its nodes. Raises DomainError."""
    name, text = disk.shown(path), disk.read_text(path)
    try:
        values = json.loads(text, parse_constant=_no_number)
        return network_from(values), tuple(node["id"] for node in values["nodes"])
    except (json.JSONDecodeError, RecursionError, OverflowError):
        raise DomainError(f"{name} is not a JSON file: nothing was loaded") from None
    except DomainError as fault:
        raise DomainError(f"{name} is not a network: {fault}") from None


def _no_number(text: str) -> float:
    raise DomainError(f"{text} is not a number of JSON")


def network_from(description: Any) -> Network:
    """A network from its description (see docs/network.md). Gravity is along the last axis.
    Raises DomainError naming the place."""
    _refuse_unknown(description)
    try:
        file = msgspec.convert(description, _File)
    except (msgspec.ValidationError, OverflowError, RecursionError, UnicodeError) as error:
        raise DomainError(str(error)) from None
    index = {node.id: k for k, node in enumerate(file.nodes)}
    if len(index) < len(file.nodes):
        raise DomainError("two nodes have the same id")
    if not (file.segments or file.rigid_links or file.elastics or file.sliders):
        raise DomainError("it has neither segments nor rigid links, elastics nor sliders")

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
        guides=tuple(_guide(guide, file.dim, at) for guide in file.guides),
        elastics=tuple(
            Elastic((at(e.i), at(e.j)), e.rest, e.limit, e.stiffness_gf_per_unit_strain)
            for e in file.elastics
        ),
        sliders=tuple(_slider(slider, at) for slider in file.sliders),
        labels=tuple(s.run for s in file.segments),
    )


def _guide(guide: _Guide, dim: int, at: Callable[[Id], int]) -> Guide:
    size = math.hypot(*guide.normal)
    if len(guide.normal) != dim or not size:
        raise DomainError(f"the normal of the guide of node “{guide.node}” is no direction")
    unit = tuple(one / size for one in guide.normal)
    return Guide(((at(guide.node), 1.0),), unit, guide.offset / size)


def _slider(slider: _Slider, at: Callable[[Id], int]) -> Slider:
    through = slider.through if isinstance(slider.through, tuple) else (slider.through,)
    riders = tuple(at(name) for name in through)
    a, b = at(slider.a), at(slider.b)
    if len({a, b, *riders}) < len(riders) + 2:
        raise DomainError(f"the slider through “{through[0]}” passes a node twice")
    thread = tuple(at(name) for name in slider.thread)
    if thread and not any({a, b} == {x, y} for x, y in pairwise(thread)):
        raise DomainError(f"the slider through “{through[0]}” is drawn on no stretch of its thread")
    return Slider(a, b, riders, slider.rest, thread)


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


def answer(
    solution: Solution, seconds: float, network: Network | None = None, ids: Sequence[Id] = ()
) -> dict[str, Any]:
    """What `maglia network` writes; with the network, what its riders and elastics came to."""
    found: dict[str, Any] = {
        "state": solution.state,
        "positions": solution.positions.tolist(),
        "segment_tension_gf": solution.tension.tolist(),
        "segment_slack_mm": solution.slack.tolist(),
        "rigid_axial_force_gf": solution.axial.tolist(),
        "iterations": solution.iterations,
        "seconds": seconds,
    }
    if network is not None and network.sliders:
        found["slider_tension_gf"] = solution.riding.tolist()
        stretches = solution.stands_on or tuple((own.a, own.b) for own in network.sliders)
        found["slider_stretch"] = [[ids[a], ids[b]] for a, b in stretches]
    if network is not None and network.elastics:
        ends = np.array([own.ends for own in network.elastics])
        apart = solution.positions[ends[:, 1]] - solution.positions[ends[:, 0]]
        found["elastic_tension_gf"] = solution.stretch.tolist()
        found["elastic_length_mm"] = np.linalg.norm(apart, axis=1).tolist()
    if solution.state != "converged":
        found["cause"] = solution.cause
        if solution.short_by_mm:
            found["short_by_mm"] = solution.short_by_mm
    return found
