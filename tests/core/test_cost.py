"""Cost, price and the shopping list against sums by hand; money is exact."""

from decimal import Decimal

import pytest
from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.cutting.day import Making, cuttings
from maglia.core.cutting.lengths import Length
from maglia.core.joining.cost import (
    cost_lines,
    cost_of,
    money,
    short_words,
    spares_of,
    to_buy,
)
from maglia.core.joining.needs import needs_of
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.text import make_sheet
from maglia.core.report import evaluate
from maglia.core.values.rules import DEFAULT_RULES
from maglia.core.workshop.lying import Lot, Lying
from workshop import BEAD, CHARM, PARTS, PIN, RING, chain, drop, piece, rings, strand, unit

PRICES = {"ring": 0.1, "catch": 0.07, "clasp": 1.35, "bead": 0.3, "pin": 0.02}


def priced(made):
    def own(part):
        if part.id == "chain":
            return replace(part, price_per_m=2.5)
        return replace(part, price=PRICES[part.id]) if part.id in PRICES else part

    return replace(made, parts=tuple(map(own, made.parts)))


@pytest.fixture
def day():
    made = piece(strand(chain(9), rings(), chain(5)), drop("Hung", 4, rings(), unit("dangle")))
    return [Making(expand(priced(made)), 2)]


def counted(day, bags, lots, sold=None):
    found = dict(cuttings(day, {"chain": lots}, sold or {}, seconds=5.0))
    return needs_of(day, bags), found


def test_a_cost_is_the_sum_by_hand(day):
    needs, cut = counted(day, {}, [Length("spool", 100)])
    rules = replace(DEFAULT_RULES, rate_per_hour=30.0, overhead=0.1, price_factor=2.5)
    cost = cost_of(day, needs, cut, rules)
    used = {one.name: one.total for one in cost.used}
    each = {need.thing.id: need.count for need in needs}
    assert (each["bead"], each["pin"], each["clasp"], each["catch"]) == (4, 4, 2, 2)
    assert used["Bead 8"] == Decimal("1.2")
    assert used["Head pin"] == Decimal("0.08")
    assert used["Lobster"] == Decimal("2.70")
    assert used["Ring 4"] == each["ring"] * Decimal("0.1")
    # 2 × (9 + 5 + 5) links of 3 mm are 114 mm at 2.50 a metre; six cuts lose 18 mm
    assert used["Chain 3"] == Decimal("0.285")
    assert [(one.words, one.total) for one in cost.lost] == [("0.018 m", Decimal("0.045"))]
    sheet = make_sheet(day[0].assembly, joining_plan(day[0].assembly))
    assert cost.minutes == 2 * Decimal(str(round(sheet.minutes, 3)))
    assert cost.work == cost.minutes / 2
    whole = cost.parts + cost.losses + cost.work
    assert cost.overhead == whole / 10
    assert cost.price == (whole + cost.overhead) * Decimal("2.5")
    assert cost.unpriced == ()
    said = {words: amount for words, amount, _ in cost_lines(cost)}
    assert said["Cost"] == said["Parts"] + said["Lost in cuts"] + said["Work"] + said["Overhead"]


def test_what_has_no_price_counts_nothing_and_is_named(day):
    bare = [Making(expand(piece(strand(chain(9), rings()))), 1)]
    needs, cut = counted(bare, {}, [Length("spool", 100)])
    cost = cost_of(bare, needs, cut, DEFAULT_RULES)
    assert cost.parts == 0
    assert set(cost.unpriced) == {"Ring 4", "Catch 5", "Lobster", "Chain 3"}
    assert [line[0] for line in cost_lines(cost)] == ["Parts", "Work", "Cost", "Price"]


@pytest.mark.parametrize(("amount", "said"), [
    ("0.005", "0.01"), ("2.675", "2.68"), ("0", "0.00"), ("1234.5", "1234.50"),
])  # fmt: skip
def test_money_is_rounded_half_up_when_it_is_shown(amount, said):
    assert money(Decimal(amount)) == said


def test_a_tenth_added_ten_times_is_one():
    assert sum([Decimal(str(0.1))] * 10) == 1


def test_spares_are_by_rule():
    assert spares_of(RING, 24, DEFAULT_RULES) == 3 + 2  # 10 % of 24, and two more
    assert spares_of(PIN, 20, DEFAULT_RULES) == 1 + 1
    assert spares_of(BEAD, 100, DEFAULT_RULES) == 3 + 1
    assert spares_of(CHARM, 100, DEFAULT_RULES) == 0
    assert {part.id for part in PARTS} > {"ring", "pin", "bead"}


def test_the_shopping_list_has_what_the_stock_lacks_with_spares(day):
    bags = {"ring": 4, "bead": 4, "pin": 3, "clasp": 2, "catch": 2}
    needs, cut = counted(day, bags, [Length("end", 20)])
    short = {one.part.name: one for one in to_buy(needs, cut, DEFAULT_RULES)}
    rings_wanted = next(n.count for n in needs if n.thing.id == "ring")
    # ten of rings: spares are 10 % and two more
    assert short["Ring 4"].buy == rings_wanted - 4 + spares_of(RING, rings_wanted, DEFAULT_RULES)
    assert short["Head pin"].buy == 1 + 2
    assert "Bead 8" not in short
    assert short_words(short["Head pin"]) == "3 × Head pin: 2 of them spares"
    # 9 + 5 + 5 twice: one length of 20 gives 9 and 5 and their cuts, or three of 5
    assert (
        sum(short["Chain 3"].stretches_mm)
        + sum(cut["chain"].mm(p.amount) for bar in cut["chain"].bars for p in bar.pieces)
        == 114.0
    )
    needs, cut = counted(day, bags, [Length("end", 20)], {"chain": 333})
    bought = {one.part.name: one for one in to_buy(needs, cut, DEFAULT_RULES)}
    assert short_words(bought["Chain 3"]) == "Chain 3: 1 length of 0.999 m, as sold"


def test_the_bench_says_what_the_stock_does_not_cover(day):
    made = day[0].assembly.piece
    enough = {part.id: Lying(bag=50) for part in made.parts}
    enough["chain"] = Lying(lots=(Lot("spool", 60),))
    assert "short-in-stock" not in codes(made, enough)
    assert "short-in-stock" not in codes(made, {})  # no stock is kept
    few = {**enough, "ring": Lying(bag=1), "chain": Lying(lots=(Lot("end", 12),))}
    (said,) = [c for c in evaluate(made, lying=few).checks if c.code == "short-in-stock"]
    rings_wanted = next(n.count for n in needs_of([Making(day[0].assembly)], {})
                        if n.thing.id == "ring")  # fmt: skip
    # of 9, 5 and 5 links an end of 12 gives two of 5 and their cuts
    assert said.message == (f"Not on the bench: {rings_wanted - 1} Ring 4, 27 mm of Chain 3.")


def codes(made, lying):
    return {check.code for check in evaluate(made, lying=lying).checks}
