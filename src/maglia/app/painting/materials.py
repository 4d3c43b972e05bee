"""How metals and beads take the light: a dark edge, a body colour and a lit line."""

from functools import cache
from typing import NamedTuple

from PySide6.QtGui import QColor


class Tones(NamedTuple):
    dark: QColor
    body: QColor
    lit: QColor


_METALS = {
    "brass": ("#5d4312", "#b48a2f", "#f0d68a"),
    "gold-plated brass": ("#6b4a0e", "#cf9f35", "#ffe9a3"),
    "copper": ("#5a2a15", "#b4633a", "#f0b08a"),
    "bronze": ("#4a3216", "#96693a", "#dcb280"),
    "sterling": ("#4b5054", "#b9bfc3", "#ffffff"),
    "silver-plated brass": ("#4b5054", "#c2c7ca", "#ffffff"),
    "steel": ("#41474c", "#9da5ab", "#eef2f4"),
    "aluminium": ("#565b5f", "#c9cdd0", "#ffffff"),
    "titanium": ("#3d4044", "#8b8f94", "#d5d9dc"),
    "niobium": ("#3b3a44", "#7c7a8c", "#c9c6dc"),
    "pewter": ("#4a4c4a", "#9b9e9a", "#dfe2dd"),
    "gunmetal": ("#14171a", "#565f65", "#b4bfc5"),
    "thread": ("#151515", "#303030", "#5e5e5e"),
    "leather": ("#24170f", "#563a26", "#8a6448"),
    "rubber": ("#1a1a1a", "#3a3a3a", "#6c6c6c"),
    "resin": ("#6a5f48", "#cdbf9f", "#fff8e6"),
    "wood": ("#2f1f13", "#6b4a32", "#a9805e"),
    "glass": ("#2d383c", "#6f7f8f", "#ffffff"),
    "quartz": ("#5a5560", "#b9b2c0", "#ffffff"),
    "pearl": ("#7d7466", "#e3dccd", "#ffffff"),
}


@cache
def tones(material: str) -> Tones:
    return Tones(*(QColor(c) for c in _METALS.get(material, _METALS["brass"])))


@cache
def tones_of_colour(colour: str) -> Tones:
    """Tones of a bead from its own colour."""
    body = QColor(colour)
    return Tones(body.darker(210), body, body.lighter(190))
