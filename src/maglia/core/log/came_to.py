"""What a build comes to: its metal and its cost, whatever it was cut from."""

from maglia.core.assembly.assembly import Assembly
from maglia.core.cutting.day import Cutting, Making, cuttings
from maglia.core.joining.cost import cost_of, money
from maglia.core.joining.needs import needs_of
from maglia.core.parts.parts import Chain, Part, Wire, link_mass_g, part_mass_g
from maglia.core.parts.units import wire_mass_g
from maglia.core.sheets.count import counts
from maglia.core.values.materials import METALS
from maglia.core.values.rules import Rules


def came_to(assembly: Assembly, rules: Rules) -> tuple[float, str]:
    """Its metal, g, and cost by the maker's rules; of a pair both."""
    day = [Making(assembly)]
    cut: dict[str, Cutting] = dict(cuttings(day, {}, {}, seconds=0.05))
    cost = cost_of(day, needs_of(day, {}), cut, rules)
    return round(_metal_g(assembly), 2), money(cost.cost, cost.currency)


def _metal_g(assembly: Assembly) -> float:
    """What is metal of all that it takes, as far as that can be weighed, g."""
    total = 0.0
    for one in counts(assembly):
        thing = assembly.things[one.id]
        if not isinstance(thing, Part) or thing.material not in METALS:
            continue
        if isinstance(thing, Wire):
            total += wire_mass_g(thing, one.length_mm or 0.0) or 0.0
        else:
            each = link_mass_g(thing) if isinstance(thing, Chain) else part_mass_g(thing)
            total += one.count * (each or 0.0)
    return total
