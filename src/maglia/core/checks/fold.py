"""A drop on the fold needs a link there, and only an odd number of links has one. Geometry."""

from collections.abc import Iterator

from maglia.core.assembly import Assembly
from maglia.core.checks.found import Check, Repair
from maglia.core.rows import item_at


def check(assembly: Assembly) -> Iterator[Check]:
    by_name = {run.name: run for run in assembly.runs}
    for run in assembly.runs:
        for place in (run.start, run.end):
            if place is None or place.at != 0 or place.item != 0 or run.lies == "paired":
                continue
            host = by_name.get(place.run)
            item = item_at(host, 0) if host else None
            count = getattr(item, "links", getattr(item, "count", 1))
            if host is not None and item is not None and count % 2 == 0:
                yield _even(run.name, host.name, item.kind, count)


def _even(drop: str, host: str, kind: str, count: int) -> Check:
    what = "links" if kind == "chain" else "rings"
    return Check(
        code="no-link-on-fold",
        severity="stop",
        place=f"{host}, centre",
        message=f"“{drop}” hangs on the fold, but {count} {what} is even: none lies there.",
        repair=f"make it {count - 1} or {count + 1} {what}",
        repairs=(
            Repair(f"{count + 1} {what}", host, 0, count + 1),
            Repair(f"{count - 1} {what}", host, 0, count - 1),
        ),
        run=host,
    )
