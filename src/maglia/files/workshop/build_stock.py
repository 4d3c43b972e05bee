"""What a build takes from the stock: reserved when it is begun, used when it is finished, cut as it
is cut. Each is one event, by the build's number.
"""

from collections.abc import Collection, Mapping
from typing import NamedTuple

from maglia.core.parts.parts import Part
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import amount_words
from maglia.files.workshop import day_stock, stock
from maglia.files.workshop.stock import BENCH, LOST, Account, EventSort, Movement, made_in
from maglia.files.workshop.store import Workshop


class Short(NamedTuple):
    """A part of which less lies there than is needed."""

    part: str
    needed: int
    lies: int


def _plan(build: int) -> Account:
    return Account("plan", name=f"build {build}", build=build)


def _about(workshop: Workshop, build: int) -> tuple[str, str]:
    """The day that a build is for, and what its piece is called."""
    row = workshop.database.execute("SELECT day, name FROM build WHERE id = ?", (build,)).fetchone()
    return (str(row[0]), str(row[1])) if row else ("", "")


def short_of(workshop: Workshop, needs: Mapping[str, int], piece_id: str = "") -> list[Short]:
    """Counted parts of which less lies there than is needed, for a piece with what is laid out for
    its day."""
    there = stock.lying(workshop, day_stock.day_for(workshop, piece_id))
    lies = {part: there[part].bag if part in there else 0 for part in needs}
    return [Short(part, needed, lies[part]) for part, needed in needs.items()
            if lies[part] < needed]  # fmt: skip


def reserve(workshop: Workshop, build: int, needs: Mapping[str, int], at: str) -> list[Short]:
    """Lay out what a build needs of counted parts, no more and no less: what was laid out for its
    day first. Says what is short, and takes what there is."""
    day, name = _about(workshop, build)
    own, there, plan = laid_out(workshop, build), stock.lying(workshop), _plan(build)
    days = {(account, part): n for (account, part), n in day_stock.laid_out(workshop, day).items()
            if not account.lot}  # fmt: skip
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
        stock.record(workshop, "reserve", out, at, plan=plan.name, note=f"for {name}")
    if back:
        stock.record(workshop, "release", back, at, plan=plan.name, note=f"of {name}")
    return short


def laid_out(workshop: Workshop, build: int) -> dict[str, int]:
    """What is reserved for a build, by part."""
    return {part: n for (account, part), n in stock.balances(workshop).items()
            if account.sort == "plan" and account.build == build}  # fmt: skip


def use(workshop: Workshop, build: int, at: str) -> None:
    """A build is finished: what was laid out is in it. A day that it was the last of is over."""
    _all(workshop, build, "use", made_in(build), at)


def release(workshop: Workshop, build: int, at: str, lengths: Collection[str] = ()) -> None:
    """A build is given up: what was laid out lies on the bench again, and what was cut of these
    parts as lengths of their own."""
    with workshop.changing():
        _all(workshop, build, "release", BENCH, at)
        for event in _cuts(workshop, build):
            if stock.movements(workshop.database, event)[0].part in lengths:
                stock.return_cut(workshop, event, at)


def _all(workshop: Workshop, build: int, sort: EventSort, to: Account, at: str) -> None:
    moves = [Movement(part, n, _plan(build), to) for part, n in laid_out(workshop, build).items()]
    if moves:
        _, name = _about(workshop, build)
        word = "in" if sort == "use" else "of"
        stock.record(workshop, sort, moves, at, plan=_plan(build).name, note=f"{word} {name}")


def spoil(workshop: Workshop, build: int, part: str, at: str) -> bool:
    """One of a part is spoilt: another one of the bag takes its place if there is one, else one of
    what was laid out is gone. False if none is on record."""
    source = BENCH if stock.bag_of(workshop, part) else None
    if source is None and laid_out(workshop, build).get(part):
        source = _plan(build)
    if source is None:
        return False
    _, name = _about(workshop, build)
    stock.record(workshop, "spoilt", [Movement(part, 1, source, LOST)], at, plan=_plan(build).name,
                 note=f"for {name}")  # fmt: skip
    return True


def cut(workshop: Workshop, build: int, part: Part, amount: int, place: str, at: str) -> str:
    """Cut a length from the shortest that was laid out for its day, else from the shortest lot that
    gives it; what is cut for that place already, as it could not be put back, is taken. Returns
    what there is to say, if none does or nothing of it is on record."""
    day, name = _about(workshop, build)
    for event in _cuts(workshop, build, place):
        there = stock.movements(workshop.database, event)[0]
        if (there.part, there.amount) == (part.id, amount):
            return ""
    with workshop.changing() as database:
        laid = day_stock.lengths_for(workshop, day, part.id)
        for lengths in (laid, stock.lots_of(workshop, part.id)):
            fitting = [(n, lot) for lot, n in lengths.items() if stock.gives(part, n, amount)]
            if fitting:
                break
        else:
            said = f"no length of {part.name} on record gives {amount_words(part, amount)}"
            return f"{said}; nothing is taken from the stock"
        has, source = min(fitting, key=lambda own: (own[0], own[1].name))
        off_cut = stock.free_lot(workshop, part.id, "off-cut")
        rest = Account("lot", part.id, off_cut)
        if source.sort == "plan":  # the rest stays laid out, and comes back as an off-cut
            rest = day_stock.rest_of(workshop, source, off_cut)
        moves = stock.cut_moves(part, amount, source, has, made_in(build), rest)
        event = stock.record(workshop, "cut", moves, at, plan=_plan(build).name, note=f"for {name}")
        database.execute("INSERT INTO cut_for VALUES(?, ?, ?)", (event, build, place))
    return ""


def cuts_of(workshop: Workshop, build: int) -> tuple[tuple[str, int, int], ...]:
    """What was cut for a build and is in it: part, amount (links, µm), the phase it begins in."""
    found = (stock.movements(workshop.database, event)[0] for event in _cuts(workshop, build))
    return tuple((one.part, one.amount, one.source.first_phase) for one in found)


def lay_aside(workshop: Workshop, build: int, place: str, at: str, *, whole: bool = True) -> None:
    """What was cut for a place is not wanted there any more: it lies on the bench, a length of its
    own; if it is not `whole`, as wire in a unit, it is spent all the same."""
    with workshop.changing() as database:
        for event in _cuts(workshop, build, place) if whole else ():
            stock.return_cut(workshop, event, at)
        row = (build, place)
        database.execute("DELETE FROM cut_for WHERE build = ? AND place = ?", row)


def put_back(workshop: Workshop, build: int, place: str, at: str) -> bool:
    """A cut of a build was not done after all: it is taken back. False if it cannot be, as more was
    cut from the rest since."""
    for event in _cuts(workshop, build, place):
        try:
            stock.reverse(workshop, event, at, build=build)
        except DomainError:
            return False
    return True


def _cuts(workshop: Workshop, build: int, place: str | None = None) -> list[int]:
    """The events that cut for a build, or for one place of it, those left out that were taken
    back."""
    rows = workshop.database.execute(
        "SELECT c.event FROM cut_for c WHERE c.build = ? AND (? IS NULL OR c.place = ?) "
        "AND NOT EXISTS(SELECT 1 FROM event r WHERE r.reverses = c.event) ORDER BY c.event",
        (build, place, place),
    )
    return [event for (event,) in rows]
