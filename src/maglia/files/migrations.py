"""Older piece files: a chain of numbered migrations, plain data to plain data. Never undone, never
changed once a version is out: every file ever written opens for ever.
"""

from collections.abc import Callable
from typing import Any

from maglia.core.values.record import DomainError

VERSION = 5
MOST_STRUNG = 2000
Plain = dict[str, Any]
Stock = dict[str, list[float]]
"""What a file of version 1 says of the bench: per part, lengths mm, or how many there are."""


def migrated(values: Plain) -> tuple[Plain, Stock]:
    """The values of a file in today's form, and the stock found in it. Raises DomainError for a
    version that is not known."""
    version = values.get("version")
    if type(version) is not int or not 1 <= version <= VERSION:
        raise DomainError(
            f"it is of version {version}, and this program knows versions 1 to {VERSION}: "
            "open it with a newer Maglia"
        )
    stock: Stock = {}
    for step in _STEPS[version - 1 :]:
        values = step(values, stock)
    return values, stock


def _from_1(values: Plain, stock: Stock) -> Plain:
    """Version 2: parts say nothing of the bench; an accepted check says which run it is about."""
    parts = [_without_stock(part, stock) for part in _list(values, "parts")]
    accepted = [_about(one, values) for one in _list(values, "accepted")]
    changed = {"parts": parts} if "parts" in values else {}
    changed |= {"accepted": accepted} if "accepted" in values else {}
    return {**values, **changed, "version": 2}


def _from_2(values: Plain, stock: Stock) -> Plain:
    """Version 3: a strung section says which rings and clusters ride over its beads. Until now they
    were those wider inside than a bead beside them."""
    sizes = {
        part["id"]: part
        for part in (*_list(values, "parts"), *_list(values, "units"))
        if isinstance(part, dict) and isinstance(part.get("id"), str)
    }
    kept = ("runs", "rows")
    changed = {name: _saying_over(values[name], sizes) for name in kept if name in values}
    return {**values, **changed, "version": 3}


def _saying_over(value: Any, sizes: dict[str, Plain]) -> Any:
    """Plain data with every strung section within it saying what rides over."""
    if isinstance(value, list):
        return [_saying_over(one, sizes) for one in value]
    if not isinstance(value, dict):
        return value
    if value.get("kind") != "strung":
        return {name: _saying_over(one, sizes) for name, one in value.items()}
    lead, pattern, tail = (_list(value, name) for name in ("lead", "pattern", "tail"))
    line = [ref for ref in (*lead, *pattern, *pattern, *tail) if isinstance(ref, str)]
    if len(line) > MOST_STRUNG:  # more than a section may have: it is refused later
        return value
    over = [ref for k, ref in enumerate(line) if _rides(line, k, sizes)]
    return value | ({"over": list(dict.fromkeys(over))} if over else {})


def _rides(line: list[str], k: int, sizes: dict[str, Plain]) -> bool:
    own = sizes.get(line[k], {})
    if own.get("kind") == "cluster" and not own.get("links"):
        own = sizes.get(str(own.get("carrier")), {})
    inner = own.get("inner_mm")
    if own.get("kind") != "ring" or not isinstance(inner, int | float):
        return False
    before, after = line[:k][::-1], line[k + 1 :]
    beside = (next((s for r in refs if (s := sizes.get(r, {})).get("kind") == "bead"), {})
              for refs in (before, after))  # fmt: skip
    widths = (bead.get("width_mm") for bead in beside)
    return any(isinstance(width, int | float) and inner > width for width in widths)


def _from_3(values: Plain, stock: Stock) -> Plain:
    """Version 4: ends of a thread may differ, beads come off both ends, a hole may be of unknown
    size, an outline drawn by points. What was, is as it was."""
    return {**values, "version": 4}


def _from_4(values: Plain, stock: Stock) -> Plain:
    """Version 5: a piece has an id. It gets one when it comes onto a bench."""
    return {**values, "version": 5}


_STEPS: tuple[Callable[[Plain, Stock], Plain], ...] = (_from_1, _from_2, _from_3, _from_4)


def _list(values: Plain, name: str) -> list[Any]:
    """A list of the file; what is no list is left for validation to refuse."""
    found = values.get(name)
    return found if isinstance(found, list) else []


def _without_stock(part: Any, stock: Stock) -> Any:
    """A part without its stock, which is noted if it is sound."""
    if not isinstance(part, dict):
        return part
    lengths, count = part.get("stock_mm"), part.get("stock")
    found = lengths if isinstance(lengths, list) and lengths else [] if count is None else [count]
    if not all(isinstance(n, int | float) and 0 <= n <= 1_000_000 for n in found):
        raise DomainError(f"parts “{part.get('name')}”: its stock is no list of amounts")
    if found and isinstance(part.get("id"), str):
        stock[part["id"]] = [float(n) for n in found]
    return {name: value for name, value in part.items() if name not in ("stock", "stock_mm")}


def _about(accepted: Any, values: Plain) -> Any:
    """The run that an accepted check's place begins with, the longest name that fits."""
    if not isinstance(accepted, dict) or not isinstance(accepted.get("place"), str):
        return accepted
    owners = [*_list(values, "runs"), *_list(values, "rows")]
    names = [o["name"] for o in owners if isinstance(o, dict) and isinstance(o.get("name"), str)]
    place = accepted["place"]
    fitting = [n for n in names if place == n or place.startswith((f"{n},", f"{n} "))]
    return accepted | ({"run": max(fitting, key=len)} if fitting else {})
