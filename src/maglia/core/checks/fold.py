"""A drop on the fold needs a link there, and only an odd number of links has one. Geometry."""

from collections.abc import Iterator

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.kinds import count_of
from maglia.core.assembly.rows import item_at
from maglia.core.checks.found import Check, Repair
from maglia.core.piece.items import ChainItem, RingItem


def check(assembly: Assembly) -> Iterator[Check]:
    for run in assembly.runs:
        for place in (run.start, run.end):
            if place is None or place.at != 0 or place.item != 0 or run.lies == "paired":
                continue
            if assembly.origins[run.name].level is not None:
                continue  # a hanger of a row takes the nearer one of two rings
            host = assembly.run_of.get(place.run)
            item = item_at(host, 0) if host else None
            if host is None or not isinstance(item, ChainItem | RingItem):
                continue
            count = count_of(item)
            if count % 2 == 0:
                owner = assembly.origins[host.name].owner
                yield _even(run.name, host.name, owner, item.kind, count)


def _even(drop: str, host: str, owner: str, kind: str, count: int) -> Check:
    what = "links" if kind == "chain" else "rings"
    return Check(
        code="no-link-on-fold",
        severity="stop",
        place=f"{host}, centre",
        message=f"“{drop}” hangs on the fold, but {count} {what} is even: none lies there.",
        repair=f"make it {count - 1} or {count + 1} {what}"
        if owner == host
        else f"change the rule of “{owner}”, so that one lies there",
        repairs=()
        if owner != host
        else (
            Repair(f"{count + 1} {what}", host, 0, count + 1),
            Repair(f"{count - 1} {what}", host, 0, count - 1),
        ),
        run=host,
    )
