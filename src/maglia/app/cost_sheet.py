"""What must be bought for a day, and what it costs and why, on paper."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from maglia.app.paper import Block, Blocks, words
from maglia.app.theme import font
from maglia.core.joining.cost import Cost, Short, cost_lines, money, short_words

TITLE = "To buy, and what it costs"


def blocks_of(short: Sequence[Short], cost: Cost) -> Blocks:
    """The sheet as blocks of a page."""
    return lambda wide: _blocks(short, cost, wide)


def _blocks(short: Sequence[Short], cost: Cost, width: float) -> Iterator[Block]:
    plain, small = font(15), font(13)
    yield words("To buy", font(26, bold=True), width)
    for one in short:
        yield words(f"▢  {short_words(one)}", plain, width)
    if not short:
        yield words("Nothing: everything lies there.", plain, width)
    yield words("Cost and price", font(18, bold=True), width, above=16)
    for name, amount, why in cost_lines(cost):
        bold = name in ("Cost", "Price")
        said = f"{name}: {money(amount, cost.currency)}"
        yield words(said, font(15, bold=bold), width, above=8)
        yield words(why, small, width, above=0)
    for heading, items in (("Parts used", cost.used), ("Lost in cuts", cost.lost)):
        if items:
            yield words(heading, font(18, bold=True), width, above=14)
        for item in items:
            sums = f"{item.words} × {item.each.normalize():f} = {money(item.total, cost.currency)}"
            yield words(f"{item.name}: {sums}", small, width, above=2)
    if cost.unpriced:
        yield words(f"! no price is known of {', '.join(cost.unpriced)}", plain, width, above=10)
