"""The trade's customs as numbers: thresholds and defaults that a maker may set otherwise.

Only what is custom stands here (design rule: craft rules, T); geometry and published tables are not
anybody's to change. `RULES` says each in words, with its reason and its bounds.
"""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from maglia.core.values.record import DomainError, Record, Value

MOST_CURRENCY = 12


class Rules(Record, frozen=True, kw_only=True):
    """Every rule with its default. Lengths in mm, masses in g, times in minutes."""

    crowded: float = 0.65
    full: float = 0.9
    aspect_least: float = 2.5
    aspect_most: float = 7.0
    jaw_times: float = 2.0
    jaw_more_mm: float = 1.0
    bar_times: float = 1.3
    magnet_times: float = 3.0
    loop_least_mm: float = 1.5
    loop_most_mm: float = 3.0
    ease_bracelet_mm: float = 15.0
    ease_anklet_mm: float = 20.0
    ease_choker_mm: float = 15.0
    grip_simple_mm: float = 20.0
    grip_wrapped_mm: float = 35.0
    grip_spool_mm: float = 5.0
    knot_tail_mm: float = 75.0
    crimp_tail_mm: float = 25.0
    slip_tail_mm: float = 120.0
    tassel_tail_mm: float = 100.0
    braid_factor: float = 1.4
    keep_offcut_mm: float = 30.0
    earring_g: float = 8.0
    strand_g: float = 150.0
    uneven: float = 0.05
    drop_room_mm: float = 1.0
    tangle_mm: float = 12.0
    minutes_ring: float = 0.4
    minutes_simple_loop: float = 1.0
    minutes_wrapped_loop: float = 2.0
    minutes_crimp: float = 1.0
    minutes_knot: float = 3.0
    minutes_cut: float = 0.3
    minutes_bead: float = 0.1
    minutes_look: float = 2.0
    minutes_weave_ring: float = 0.5
    spare_rings: float = 0.10
    spare_rings_more: float = 2.0
    spare_pins: float = 0.05
    spare_pins_more: float = 1.0
    spare_beads: float = 0.03
    spare_beads_more: float = 1.0
    spare_wire: float = 0.10
    rate_per_hour: float = 20.0
    overhead: float = 0.0
    price_factor: float = 2.0
    currency: Annotated[str, Meta(max_length=MOST_CURRENCY)] = ""
    """Written after every sum."""


class Rule(Value, frozen=True):
    """How a rule is said: its field, group and words, why it is so, what its figure is in, and its
    bounds. A share is shown in per cent."""

    field: str
    group: str
    words: str
    reason: str
    unit: Literal["mm", "g", "minutes", "share", "times", "pieces", "money"]
    least: float
    most: float


def _mm(field: str, group: str, words: str, reason: str, most: float = 500.0) -> Rule:
    return Rule(field, group, words, reason, "mm", 0.0, most)


def _minutes(field: str, words: str) -> Rule:
    why = "a first guess; your own log says better"
    return Rule(f"minutes_{field}", "Minutes", words, why, "minutes", 0.0, 600.0)


def _spare(field: str, words: str) -> Rule:
    why = "some are dropped, bent or badly made"
    return Rule(f"spare_{field}", "Spares", f"{words}, share", why, "share", 0.0, 1.0)


def _more(field: str, words: str) -> Rule:
    why = "a few more, however small the number"
    return Rule(f"spare_{field}_more", "Spares", f"{words}, and more", why, "pieces", 0.0, 100.0)


RULES: tuple[Rule, ...] = (
    Rule("crowded", "Rings", "A ring is crowded above", "what it holds, along its inside, leaves no"
         " room to move: split it over two rings", "share", 0.1, 1.0),
    Rule("full", "Rings", "A ring cannot close above", "its ends no longer meet", "share", 0.1,
         1.0),
    Rule("aspect_least", "Rings", "Aspect ratio from", "thicker wire cannot be opened cleanly",
         "times", 1.0, 20.0),
    Rule("aspect_most", "Rings", "Aspect ratio to", "thinner wire is pulled open", "times", 1.0,
         40.0),
    Rule("jaw_times", "Catches", "A lobster's catch is inside at least, × jaw",
         "its jaw must pass the catch beside itself", "times", 1.0, 5.0),
    _mm("jaw_more_mm", "Catches", "and so much more", "to be done up with cold fingers", 10.0),
    Rule("bar_times", "Catches", "A toggle's bar is at least, × its ring",
         "a shorter bar slips out", "times", 1.0, 3.0),
    Rule("magnet_times", "Catches", "A magnet holds at least, × the weight",
         "a snag pulls more than the piece weighs", "times", 1.0, 20.0),
    _mm("loop_least_mm", "Wire", "Loops inside from", "a tighter loop will not take a ring", 20.0),
    _mm("loop_most_mm", "Wire", "Loops inside to", "a wider loop looks loose and bends", 50.0),
    _mm("grip_simple_mm", "Wire", "Grip for a simple loop", "what the pliers hold is cut away"),
    _mm("grip_wrapped_mm", "Wire", "Grip for a wrapped loop", "the wrapping hand holds more"),
    _mm("grip_spool_mm", "Wire", "Grip from the spool", "only the last end is lost"),
    _mm("knot_tail_mm", "Thread", "Tail for each knot", "a knot is tied with the fingers"),
    _mm("crimp_tail_mm", "Thread", "Tail for each crimp", "it goes back through the beads"),
    _mm("slip_tail_mm", "Thread", "Tail for each slip knot", "it is tied round the other end"),
    _mm("tassel_tail_mm", "Thread", "Tail of a tassel's neck", "it is bound and sewn in"),
    Rule("braid_factor", "Thread", "A braid is cut, × finished", "strands go to and fro",
         "times", 1.0, 5.0),
    _mm("keep_offcut_mm", "Cutting", "An off-cut is kept from",
        "shorter ones are never found again",
        5000.0),
    _mm("ease_bracelet_mm", "Ease", "Bracelet", "it turns, and does not slip over the hand", 200.0),
    _mm("ease_anklet_mm", "Ease", "Anklet", "an ankle swells in a day", 200.0),
    _mm("ease_choker_mm", "Ease", "Choker", "one swallows", 200.0),
    Rule("earring_g", "Weight", "An earring is heavy above", "it strains the lobe", "g", 0.5,
         200.0),
    Rule("strand_g", "Weight", "A piece is heavy above", "it pulls", "g", 5.0, 5000.0),
    Rule("uneven", "Weight", "Left and right differ by more than", "it turns on the neck",
         "share", 0.0, 1.0),
    _mm("drop_room_mm", "Closeness", "Between two drops", "they catch on each other", 50.0),
    _mm("tangle_mm", "Closeness", "Tiers tangle closer than", "they change places", 100.0),
    _minutes("ring", "A ring"), _minutes("simple_loop", "A simple loop"),
    _minutes("wrapped_loop", "A wrapped loop"), _minutes("crimp", "A crimp"),
    _minutes("knot", "A knot and its tip"), _minutes("cut", "A cut"),
    _minutes("bead", "A bead strung"), _minutes("look", "Laying out and a look, a row"),
    _minutes("weave_ring", "A ring of a weave"),
    _spare("rings", "Rings"), _more("rings", "Rings"), _spare("pins", "Pins"),
    _more("pins", "Pins"), _spare("beads", "Beads"), _more("beads", "Beads"),
    _spare("wire", "Wire and thread"),
    Rule("rate_per_hour", "Price", "An hour of yours", "what you pay yourself", "money", 0.0,
         10_000.0),
    Rule("overhead", "Price", "Overhead, of parts and work", "rent, tools, what is not counted",
         "share", 0.0, 5.0),
    Rule("price_factor", "Price", "Price, × cost", "what a shop, a stall or a friend adds",
         "times", 0.1, 20.0),
)  # fmt: skip
DEFAULTS = {one.field: float(getattr(Rules(), one.field)) for one in RULES}
DEFAULT_RULES = Rules()


def rule(field: str) -> Rule:
    return next(one for one in RULES if one.field == field)


def with_rule(rules: Rules, field: str, value: float) -> Rules:
    """One rule set otherwise. Raises DomainError naming its bounds."""
    said = rule(field)
    if not said.least <= value <= said.most:
        raise DomainError(f"“{said.words}” is from {said.least:g} to {said.most:g}, not {value:g}")
    changed = msgspec.structs.replace(rules, **{field: float(value)})
    for low, high in (
        ("crowded", "full"),
        ("aspect_least", "aspect_most"),
        ("loop_least_mm", "loop_most_mm"),
    ):
        if field in (low, high) and getattr(changed, low) > getattr(changed, high):
            raise DomainError(f"“{rule(low).words}” must not be above “{rule(high).words}”")
    return changed


def rules_from(values: dict[str, object]) -> Rules:
    """Rules as they are kept; what is not known, or out of bounds, keeps its default."""
    found = DEFAULT_RULES
    for one in RULES:
        value = values.get(one.field)
        if isinstance(value, int | float) and one.least <= value <= one.most:
            found = msgspec.structs.replace(found, **{one.field: float(value)})
    currency = values.get("currency")
    return with_currency(found, currency) if isinstance(currency, str) else found


def with_currency(rules: Rules, currency: str) -> Rules:
    """Sums in another currency; it is written, never converted."""
    return msgspec.structs.replace(rules, currency=" ".join(currency.split())[:MOST_CURRENCY])


def changed_rules(rules: Rules) -> dict[str, float | str]:
    """What differs from the defaults."""
    return {
        field: value
        for field, value in msgspec.structs.asdict(rules).items()
        if value != getattr(DEFAULT_RULES, field)
    }
