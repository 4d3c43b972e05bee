"""What lies on the bench of one part: a bag of pieces, or lengths each of its own.

Amounts are whole: pieces, links of chain, µm of wire and thread.
"""

from typing import Literal

from maglia.core.parts.parts import Chain, Part, Wire, chain_length_mm
from maglia.core.values.record import Value


class Lot(Value, frozen=True):
    """One length, by name; `first_phase` is the place in the pattern that its first link has."""

    name: str
    amount: int
    first_phase: int = 0


class Lying(Value, frozen=True):
    """`bag` is loose, `lots` are lengths, `laid_out` is reserved for plans."""

    bag: int = 0
    lots: tuple[Lot, ...] = ()
    laid_out: int = 0

    @property
    def total(self) -> int:
        return self.bag + sum(lot.amount for lot in self.lots)


NOTHING = Lying()
MOST = 10**12
"""Of one part in one event: 1000 km of wire."""


def counted_in(part: Part) -> str:
    """What a part is counted in."""
    return "links" if isinstance(part, Chain) else "µm" if isinstance(part, Wire) else "pieces"


def by_length(part: Part) -> bool:
    return isinstance(part, Chain | Wire)


def amount_of_mm(part: Part, mm: float) -> int | None:
    """Whole links or µm in a length; None for chain of unknown pitch and what is counted by the
    piece."""
    if isinstance(part, Wire):
        return round(mm * 1000)
    if not isinstance(part, Chain) or not part.pitches_mm:
        return None
    pattern = part.pitches_mm
    whole, rest = divmod(mm + 1e-6, sum(pattern))
    more = sum(rest >= sum(pattern[: k + 1]) for k in range(len(pattern)))
    return int(whole) * len(pattern) + more


def measured_um(part: Part, mm: float) -> int:
    """What is kept of a length that was said: chain is counted in links, and those are only as sure
    as its pitch. Of wire the amount itself is the length."""
    return round(mm * 1000) if isinstance(part, Chain) else 0


def length_mm(part: Part, amount: int) -> float | None:
    """Length of an amount; None where it has none that is known."""
    if isinstance(part, Wire):
        return amount / 1000
    return chain_length_mm(part, amount) if isinstance(part, Chain) else None


def amount_words(part: Part, amount: int) -> str:
    """“377”, “333 links, 999 mm”, “10 m”."""
    if isinstance(part, Wire):
        metres = amount / 1e6
        return f"{metres:.3g} m" if metres >= 1 else f"{amount / 1000:.4g} mm"
    if not isinstance(part, Chain):
        return str(amount)
    links = "1 link" if amount == 1 else f"{amount} links"
    mm = length_mm(part, amount)
    return links if mm is None else f"{links}, {mm:.0f} mm"


DeedSort = Literal["bought", "counted", "spoilt", "use", "cut"]


class Deed(Value, frozen=True):
    """What the maker says of her stock: bought, counted, spoilt, used or cut so much of a part; of
    a length, from or in which lot; `called` names the lot that it makes. Chain that was said as a
    length has that too (`measured_um`), since its links are only as sure as its pitch."""

    sort: DeedSort
    amount: int
    lot: str = ""
    called: str = ""
    note: str = ""
    first_phase: int = 0
    measured_um: int = 0
