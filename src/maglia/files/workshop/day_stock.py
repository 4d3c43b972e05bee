"""A day laid out in the stock: counted parts under its name, each length under one of its own, so
that a build of one of its pieces finds them, and what is not used comes back as it was.
"""

from collections.abc import Mapping, Sequence

from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import Lot
from maglia.files.workshop import stock
from maglia.files.workshop.stock import BENCH, Account, Movement
from maglia.files.workshop.store import Workshop

DAY, BETWEEN = "day: ", " | "


def day_name(pieces: Sequence[tuple[str, int]]) -> str:
    """What a day is called in the stock: by its pieces and how many of each."""
    return DAY + ", ".join(f"{name} × {copies}" for name, copies in pieces)


def is_for(account: Account, piece: str) -> bool:
    """Whether something is laid out for a day that has a piece."""
    days = account.name.split(BETWEEN)[0].removeprefix(DAY)
    return account.sort == "plan" and account.name.startswith(DAY) and any(
        one.rpartition(" × ")[0] == piece for one in days.split(", ")
    )  # fmt: skip


def lot_in(account: Account) -> str:
    """The name of the length that was laid out under an account; empty for counted parts."""
    return account.name.partition(BETWEEN)[2]


def lay_out(
    workshop: Workshop, name: str, parts: Mapping[str, int], lots: Sequence[tuple[str, Lot]],
    at: str,
) -> None:  # fmt: skip
    """Reserve counted parts and whole lengths, as one event. Raises DomainError, nothing reserved,
    if something is not there any more."""
    day = Account("plan", name=name)
    moves = [Movement(part, n, BENCH, day) for part, n in parts.items() if n]
    for part, lot in lots:
        own = Account("lot", part, lot.name, lot.first_phase)
        aside = Account("plan", part, f"{name}{BETWEEN}{lot.name}", lot.first_phase)
        moves.append(Movement(part, lot.amount, own, aside))
    stock.record(workshop, "reserve", moves, at, plan=name)


def laid_out(workshop: Workshop, name: str) -> dict[tuple[Account, str], int]:
    """What is still reserved for a day."""
    return {(account, part): n for (account, part), n in stock.balances(workshop).items()
            if account.sort == "plan" and account.name.split(BETWEEN)[0] == name}  # fmt: skip


def give_up(workshop: Workshop, name: str, at: str) -> None:
    """What is left of a day lies on the bench again. Raises DomainError if nothing is."""
    there = laid_out(workshop, name)
    if not there:
        raise DomainError("this day is not laid out")
    with workshop.changing():
        lying = {(account.part, account.name) for account, _ in stock.balances(workshop)
                 if account.sort == "lot"}  # fmt: skip
        moves = []
        for (account, part), n in there.items():
            lot = lot_in(account)
            if not lot:
                moves.append(Movement(part, n, account, BENCH))
                continue
            if (part, lot) in lying:  # another length bears that name by now
                lot = stock.free_lot(workshop, part, lot)
            to = Account("lot", part, lot, account.first_phase)
            moves.append(Movement(part, n, account, to))
        stock.record(workshop, "release", moves, at, plan=name)


def cut_laid_out(
    workshop: Workshop, part: str, amount: int, lost: int, period: int, piece: str, note: str,
    at: str,
) -> int | None:  # fmt: skip
    """Cut a piece of a build from the shortest length that was laid out for it; `lost` links go
    with the cut if a rest is left. Returns the event; None if no such length gives it."""
    there = [(n, account) for (account, ref), n in stock.balances(workshop).items()
             if ref == part and lot_in(account) and is_for(account, piece)
             and (n == amount or n >= amount + lost)]  # fmt: skip
    if not there:
        return None
    has, source = min(there)
    gone = 0 if has == amount else lost
    rest = has - amount - gone
    moves = [Movement(part, amount, source, stock.BY_HAND)]
    moves += [Movement(part, gone, source, stock.LOST)] if gone else []
    if rest:
        phase = (source.first_phase + amount + gone) % period
        number = len(stock.balances(workshop))  # a name that none bears
        aside = Account("plan", part, f"{source.name}, rest {number}", phase)
        moves.append(Movement(part, rest, source, aside))
    return stock.record(workshop, "cut", moves, at, note=note)
