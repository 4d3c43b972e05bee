"""What a build comes to: its metal and its cost, whatever it was cut from."""

from maglia.core.assembly.assembly import Assembly
from maglia.core.cutting.day import Cutting, Making, cuttings
from maglia.core.joining.cost import cost_of, money
from maglia.core.joining.needs import needs_of
from maglia.core.sheets.mass import balance
from maglia.core.values.rules import Rules


def came_to(assembly: Assembly, rules: Rules) -> tuple[float, str]:
    """Mass, g, and cost by the maker's rules."""
    day = [Making(assembly)]
    cut: dict[str, Cutting] = dict(cuttings(day, {}, {}, seconds=0.05))
    cost = cost_of(day, needs_of(day, {}), cut, rules)
    return round(balance(assembly).total_g or 0.0, 2), money(cost.cost, cost.currency)
