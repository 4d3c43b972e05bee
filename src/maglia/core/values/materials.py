"""Densities of bench materials, g/cm³ (design rule: craft rules, sizes)."""

from typing import Literal

Material = Literal[
    "brass",
    "copper",
    "bronze",
    "sterling",
    "gold-plated brass",
    "silver-plated brass",
    "gunmetal",
    "steel",
    "aluminium",
    "titanium",
    "niobium",
    "pewter",
    "glass",
    "quartz",
    "pearl",
    "resin",
    "wood",
    "rubber",
    "thread",
    "leather",
]

DENSITY_G_CM3: dict[str, float] = {
    "brass": 8.5,
    "copper": 8.96,
    "bronze": 8.8,
    "sterling": 10.36,
    "gold-plated brass": 8.5,
    "silver-plated brass": 8.5,
    "gunmetal": 8.5,
    "steel": 7.9,
    "aluminium": 2.70,
    "titanium": 4.5,
    "niobium": 8.57,
    "pewter": 7.3,
    "glass": 2.5,
    "quartz": 2.65,
    "pearl": 2.7,
    "resin": 1.2,
    "wood": 0.7,
    "rubber": 1.2,
    "thread": 1.2,
    "leather": 0.9,
}

METALS = frozenset(DENSITY_G_CM3) - frozenset(
    ("glass", "quartz", "pearl", "resin", "wood", "rubber", "thread", "leather")
)


def mass_g(material: str, volume_mm3: float) -> float:
    """Mass of a solid of `material`; 1 cm³ is 1000 mm³."""
    return DENSITY_G_CM3[material] * volume_mm3 / 1000.0
