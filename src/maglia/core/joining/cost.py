"""What a day costs and what must be bought for it. Money is exact: decimals, never rounded before
the sum.
"""

import math
from collections.abc import Mapping, Sequence
from decimal import ROUND_HALF_UP, Decimal

from maglia.core.cutting.day import Cutting, Making
from maglia.core.joining.needs import Need, would_do
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.text import make_sheet
from maglia.core.joining.ways import USUAL, Working
from maglia.core.parts.parts import Bead, Chain, Part, Pin, Ring, Wire, bought_at_once
from maglia.core.parts.units import Unit
from maglia.core.values.record import Value
from maglia.core.values.rules import Rules

CENT = Decimal("0.01")


class Item(Value, frozen=True):
    """One line of a sum: what, how much of it in words, what one costs, what all cost."""

    name: str
    words: str
    each: Decimal
    total: Decimal


class Cost(Value, frozen=True):
    """Parts used and parts lost with their cuts, minutes at a rate, a share on top of both, and the
    price by a factor. `unpriced` are parts whose price is not known: they count nothing."""

    used: tuple[Item, ...]
    lost: tuple[Item, ...]
    minutes: Decimal
    rate: Decimal
    overhead_share: Decimal
    factor: Decimal
    unpriced: tuple[str, ...]
    currency: str = ""
    own: tuple[str, ...] = ()
    """Corrections of minutes it is computed with, in words."""

    @property
    def parts(self) -> Decimal:
        return sum((one.total for one in self.used), Decimal())

    @property
    def losses(self) -> Decimal:
        return sum((one.total for one in self.lost), Decimal())

    @property
    def work(self) -> Decimal:
        return self.minutes * self.rate / 60

    @property
    def overhead(self) -> Decimal:
        return (self.parts + self.losses + self.work) * self.overhead_share

    @property
    def cost(self) -> Decimal:
        return self.parts + self.losses + self.work + self.overhead

    @property
    def price(self) -> Decimal:
        return self.cost * self.factor


def money(amount: Decimal, currency: str = "") -> str:
    """“14.20”, “14.20 florins”: rounded to the smallest coin, half up, when it is shown."""
    return f"{amount.quantize(CENT, ROUND_HALF_UP)} {currency}".rstrip()


def _exact(figure: float) -> Decimal:
    """A figure as it was written."""
    return Decimal(str(figure))


def cost_of(
    day: Sequence[Making], needs: Sequence[Need], cuttings: Mapping[str, Cutting], rules: Rules,
    working: Working = USUAL,
) -> Cost:  # fmt: skip
    """What a day costs, by the parts' prices and the maker's rules."""
    used: list[Item] = []
    lost: list[Item] = []
    unpriced: list[str] = []
    for need in needs:
        if need.is_made:
            continue
        price = getattr(need.thing, "price", None)
        if price is None:
            unpriced.append(need.thing.name)
        else:
            used.append(_item(need.thing.name, str(need.count), Decimal(need.count), price))
    for cutting in cuttings.values():
        part = cutting.part
        assert isinstance(part, Chain | Wire)
        if part.price_per_m is None:
            unpriced.append(part.name)
            continue
        taken = sum(cutting.mm(*one.stretch) * one.count for one in cutting.wanted)
        gone = sum(cutting.mm(bar.sacrificed) for bar in cutting.bars)
        used.append(_length(part, taken))
        if gone:
            lost.append(_length(part, gone))
    minutes = sum((_exact(round(_minutes(making, working), 3)) * making.copies for making in day),
                  Decimal())  # fmt: skip
    own = dict.fromkeys(c.words for making in day for c in making.assembly.piece.corrections
                        if c.what == "minutes")  # fmt: skip
    return Cost(tuple(used), tuple(lost), minutes, _exact(rules.rate_per_hour),
                _exact(rules.overhead), _exact(rules.price_factor), tuple(unpriced),
                rules.currency, tuple(own))  # fmt: skip


def _item(name: str, words: str, amount: Decimal, each: float) -> Item:
    return Item(name, words, _exact(each), amount * _exact(each))


def _length(part: Chain | Wire, mm: float) -> Item:
    assert part.price_per_m is not None
    metres = _exact(round(mm, 3)) / 1000
    return _item(part.name, f"{metres.normalize():f} m", metres, part.price_per_m)


def _minutes(making: Making, working: Working) -> float:
    plan = joining_plan(making.assembly, working)
    return make_sheet(making.assembly, plan).minutes


# --- what must be bought --------------------------------------------------------------------------


class Short(Value, frozen=True):
    """What the stock lacks of a part: how many with spares, of these how many spares, and in packs
    of how many that is bought. Of chain and wire the stretches that nothing gives, mm, and the
    lengths to buy if one is known."""

    part: Part
    buy: int
    spares: int = 0
    pack: int | None = None
    stretches_mm: tuple[float, ...] = ()
    lengths: int = 0
    length_mm: float = 0.0
    instead: tuple[str, ...] = ()
    """Parts of the tray that would do."""

    @property
    def packs(self) -> int:
        """How many packs that takes; 0 where it is bought singly."""
        return -(-self.buy // self.pack) if self.pack else 0


def spares_of(thing: object, count: int, rules: Rules) -> int:
    """How many more of a part are laid ready than a piece takes; none of what is wanted once."""
    if count <= 1:
        return 0
    for kind, share, more in ((Ring, rules.spare_rings, rules.spare_rings_more),
                              (Pin, rules.spare_pins, rules.spare_pins_more),
                              (Bead, rules.spare_beads, rules.spare_beads_more)):  # fmt: skip
        if isinstance(thing, kind):
            return math.ceil(round(count * share, 6)) + round(more)
    return 0


def to_buy(
    needs: Sequence[Need], cuttings: Mapping[str, Cutting], rules: Rules,
    parts: Sequence[Part] = (), bags: Mapping[str, int] | None = None,
) -> tuple[Short, ...]:  # fmt: skip
    """The shopping list: parts of which there are fewer than are needed, with spares and what of
    the tray would do instead; stretches that no length gives. How a part is sold the tray (`parts`)
    knows better than a piece."""
    found, held = [], {part.id: part for part in parts}
    for need in needs:
        if need.short and not isinstance(need.thing, Unit):
            spares = spares_of(need.thing, need.count, rules)
            pack = bought_at_once(held.get(need.thing.id, need.thing))
            instead = tuple(part.name for part in would_do(need, parts, bags or {}))
            found.append(Short(need.thing, need.short + spares, spares, pack, instead=instead))
    for cutting in cuttings.values():
        new = [bar for bar in cutting.bars if bar.new]
        if cutting.missing or new:
            stretches = tuple(round(cutting.mm(n), 1) for n in cutting.missing)
            sold = next((mm for part in (held.get(cutting.part.id), cutting.part)
                         if (mm := getattr(part, "sold_mm", None))),
                        cutting.mm(new[0].amount) if new else 0.0)  # fmt: skip
            found.append(Short(cutting.part, 0, stretches_mm=stretches, lengths=len(new),
                               length_mm=sold))  # fmt: skip
    return tuple(found)


def short_words(short: Short) -> str:
    """“6 × Ring 4: 2 of them spares, 1 pack of 100”, “Rolo 3: 2 lengths of 1 m”."""
    many = "" if short.lengths or short.stretches_mm else f"{short.buy} × "
    said = beside_words(short)
    return f"{many}{short.part.name}{f': {said}' if said else ''}"


def beside_words(short: Short) -> str:
    """What stands beside a part that is to be bought."""
    said = []
    if short.lengths:
        plural = "s" if short.lengths > 1 else ""
        said.append(f"{short.lengths} length{plural} of {short.length_mm / 1000:.4g} m, as sold")
    if short.stretches_mm:
        counted = {mm: short.stretches_mm.count(mm) for mm in dict.fromkeys(short.stretches_mm)}
        said += [f"{n} × {mm:g} mm" for mm, n in counted.items()]
        said.append(f"{sum(short.stretches_mm):g} mm in all")
    if short.spares:
        said.append(f"{short.spares} of them spares")
    if short.packs:
        said.append(f"{short.packs} pack{'s' if short.packs > 1 else ''} of {short.pack}")
    if short.instead:
        said.append(f"{' or '.join(short.instead)} from the tray would do")
    return ", ".join(said)


def cost_lines(cost: Cost) -> list[tuple[str, Decimal, str]]:
    """Each figure of a cost with its sum in words."""

    def most(items: Sequence[Item]) -> str:
        first = sorted(items, key=lambda one: -one.total)[:3]
        more = len(items) - len(first)
        said = [f"{one.name} {one.words} × {one.each.normalize():f} = {money(one.total)}"
                for one in first]  # fmt: skip
        return ", ".join([*said, *([f"and {more} more"] if more > 0 else [])])

    rate = money(cost.rate, cost.currency)
    hours = f"{cost.minutes.quantize(Decimal(1), ROUND_HALF_UP)} min at {rate} an hour"
    lines = [("Parts", cost.parts, most(cost.used)), ("Lost in cuts", cost.losses, most(cost.lost)),
             ("Work", cost.work, f"{hours}, {', '.join(cost.own) or 'by rule'}")]  # fmt: skip
    if cost.overhead_share:
        lines.append(("Overhead", cost.overhead, f"{cost.overhead_share.normalize():%} of it"))
    lines += [("Cost", cost.cost, "all of it"),
              ("Price", cost.price, f"cost × {cost.factor.normalize():f}")]  # fmt: skip
    return [line for line in lines if line[1] or line[0] != "Lost in cuts"]
