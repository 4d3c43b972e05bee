"""What a build takes from the stock: reserved when it is begun, used when it is finished, cut as it
is cut. Each is one event, under the build's name.
"""

from collections.abc import Mapping
from typing import NamedTuple

from maglia.core.parts.parts import Chain, Part
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import Deed, amount_words
from maglia.files.workshop import stock
from maglia.files.workshop.day_stock import cut_laid_out, is_for, lot_in
from maglia.files.workshop.stock import BENCH, LOST, Account, Movement
from maglia.files.workshop.store import Workshop


class Short(NamedTuple):
    """A part of which less lies there than is needed."""

    part: str
    needed: int
    lies: int


def plan_of(build: int) -> str:
    """The name that a build's events bear."""
    return f"build {build}"


def short_of(workshop: Workshop, needs: Mapping[str, int]) -> list[Short]:
    """Counted parts of which less lies there than is needed."""
    there = stock.lying(workshop)
    lies = {part: there[part].bag if part in there else 0 for part in needs}
    return [Short(part, needed, lies[part]) for part, needed in needs.items()
            if lies[part] < needed]  # fmt: skip


def reserve(workshop: Workshop, build: int, needs: Mapping[str, int], at: str) -> list[Short]:
    """Lay out what a build needs of counted parts, no more and no less: what was laid out for its
    day first. Says what is short, and takes what there is."""
    own, there = laid_out(workshop, build), stock.lying(workshop)
    plan, piece = Account("plan", name=plan_of(build)), _piece(workshop, build)
    days = {(account, part): n for (account, part), n in stock.balances(workshop).items()
            if is_for(account, piece) and not lot_in(account)}  # fmt: skip
    short: list[Short] = []
    out: list[Movement] = []
    back: list[Movement] = []
    for part in dict.fromkeys([*needs, *own]):
        more = needs.get(part, 0) - own.get(part, 0)
        for (account, ref), n in days.items():
            if ref == part and min(more, n) > 0:
                out.append(Movement(part, min(more, n), account, plan))
                more -= min(more, n)
        lies = there[part].bag if part in there else 0
        if more > lies:
            short.append(Short(part, more, lies))
        if min(more, lies) > 0:
            out.append(Movement(part, min(more, lies), BENCH, plan))
        elif more < 0:
            back.append(Movement(part, -more, plan, BENCH))
    if out:
        stock.record(workshop, "reserve", out, at, plan=plan_of(build))
    if back:
        stock.record(workshop, "release", back, at, plan=plan_of(build))
    return short


def _piece(workshop: Workshop, build: int) -> str:
    row = workshop.database.execute("SELECT name FROM build WHERE id = ?", (build,)).fetchone()
    return str(row[0]) if row else ""


def laid_out(workshop: Workshop, build: int) -> dict[str, int]:
    """What is reserved for a build, by part."""
    own = Account("plan", name=plan_of(build))
    return {part: n for (account, part), n in stock.balances(workshop).items()
            if account == own}  # fmt: skip


def use(workshop: Workshop, build: int, at: str) -> None:
    """A build is finished: what was laid out is in it."""
    _all(workshop, build, "use", Account("build", name=plan_of(build)), at)


def release(workshop: Workshop, build: int, at: str) -> None:
    """A build is given up: what was laid out lies on the bench again."""
    _all(workshop, build, "release", BENCH, at)


def _all(workshop: Workshop, build: int, sort: str, to: Account, at: str) -> None:
    plan = Account("plan", name=plan_of(build))
    moves = [Movement(part, n, plan, to) for part, n in laid_out(workshop, build).items()]
    if moves:
        stock.record(workshop, sort, moves, at, plan=plan_of(build))  # type: ignore[arg-type]


def spoil(workshop: Workshop, build: int, part: str, at: str) -> bool:
    """One of a part is spoilt: another one of the bag takes its place if there is one, else one of
    what was laid out is gone. False if none is on record."""
    lies = stock.lying(workshop).get(part)
    source = BENCH if lies is not None and lies.bag else None
    if source is None and laid_out(workshop, build).get(part):
        source = Account("plan", name=plan_of(build))
    if source is None:
        return False
    stock.record(workshop, "spoilt", [Movement(part, 1, source, LOST)], at, plan=plan_of(build))
    return True


def cut(workshop: Workshop, build: int, part: Part, amount: int, place: str, at: str) -> str:
    """Cut a length from the shortest that was laid out for it, else from the shortest lot that
    gives it. Returns what there is to say, if none does or nothing of it is on record."""
    period = len(part.pitches_mm or (0,)) if isinstance(part, Chain) else 1
    lost = int(isinstance(part, Chain) and not part.openable)
    with workshop.changing():
        event = cut_laid_out(workshop, part.id, amount, lost, period, _piece(workshop, build),
                             place, at)  # fmt: skip
        if event is not None:
            workshop.database.execute("INSERT INTO cut_for VALUES(?, ?, ?)", (event, build, place))
            return ""
    lots = stock.lying(workshop).get(part.id)
    enough = [lot for lot in (lots.lots if lots else ())
              if lot.amount == amount or lot.amount >= amount + lost]  # fmt: skip
    if not enough:
        said = amount_words(part, amount)
        return f"no length of {part.name} on record gives {said}; nothing is taken from the stock"
    lot = min(enough, key=lambda one: (one.amount, one.name))
    with workshop.changing():
        event = stock.do(workshop, part, Deed("cut", amount, lot.name, note=place), at)
        workshop.database.execute("INSERT INTO cut_for VALUES(?, ?, ?)", (event, build, place))
    return ""


def lay_aside(workshop: Workshop, build: int, place: str, at: str) -> None:
    """What was cut for a place is not wanted there any more: it lies on the bench, a length of its
    own."""
    with workshop.changing() as database:
        for event in _cuts(workshop, build, place):
            stock.return_cut(workshop, event, at)
        row = (build, place)
        database.execute("DELETE FROM cut_for WHERE build = ? AND place = ?", row)


def put_back(workshop: Workshop, build: int, place: str, at: str) -> bool:
    """A cut of a build was not done after all: it is taken back. False if it cannot be, as more was
    cut from the rest since."""
    for event in _cuts(workshop, build, place):
        try:
            stock.reverse(workshop, event, at)
        except DomainError:
            return False
    return True


def _cuts(workshop: Workshop, build: int, place: str) -> list[int]:
    """The events that cut for a place, those left out that were taken back."""
    rows = workshop.database.execute(
        "SELECT c.event FROM cut_for c WHERE c.build = ? AND c.place = ? AND NOT EXISTS("
        "SELECT 1 FROM event r WHERE r.reverses = c.event)", (build, place),
    )  # fmt: skip
    return [event for (event,) in rows]
