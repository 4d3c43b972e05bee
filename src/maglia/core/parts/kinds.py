"""Every kind of part that can be said after `new`: its words, sizes, what else it knows. Data."""

from typing import Any, NamedTuple

from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    End,
    Found,
    Part,
    Pin,
    Ring,
    Wire,
)
from maglia.core.values.materials import DENSITY_G_CM3

CLOSURES = {"closed": "closed", "open": "open", "split": "split", "elastic": "elastic"}
TEMPERS = ("soft", "hard", "half-hard")
LOOKS = ("round", "oval", "flat", "twisted", "ball")
SHAPES = ("round", "oval", "drop", "bicone", "tube", "disc")


OUTLINES = {
    "bar": "bar", "oval": "oval", "round": "round", "vee": "vee", "v": "vee", "frame": "frame",
    "fan": "fan",
}  # fmt: skip
CHARMS = ("drop", "disc", "leaf", "star", "key", "tassel")


def _words(field: str, *words: str) -> dict[str, tuple[str, Any]]:
    return {word: (field, word) for word in words}


MARKS: dict[type[Part], dict[str, tuple[str, Any]]] = {
    Ring: {w: ("closure", c) for w, c in CLOSURES.items()} | _words("temper", *TEMPERS),
    Wire: _words("temper", *TEMPERS),
    Chain: _words("look", *LOOKS)
    | {"soldered": ("openable", False), "openable": ("openable", True)},
    Bead: _words("shape", *SHAPES),
    Charm: _words("shape", *CHARMS),
    Connector: {word: ("outline", outline) for word, outline in OUTLINES.items()},
    Found: {word: ("outline", outline) for word, outline in OUTLINES.items()},
}
MATERIALS = {name: name for name in DENSITY_G_CM3 if " " not in name} | {
    "gold-plated": "gold-plated brass", "silver-plated": "silver-plated brass",
    "acrylic": "resin",
}  # fmt: skip
COLOURS = {
    "amber": "#c58a2e", "rose": "#c98a93", "teal": "#2f7f7c", "smoked": "#5b6b70",
    "smoke": "#5b6b70", "jet": "#1d1d20", "black": "#1d1d20", "white": "#ece9e0",
    "ivory": "#e6dcc3", "bone": "#d9cbb0", "red": "#a3302f", "garnet": "#6f1f2c",
    "blue": "#2f568f", "sky": "#7fa9c9", "green": "#3f7a4b", "olive": "#6f7440",
    "violet": "#6a4f8c", "lilac": "#a793bd", "grey": "#7f868a", "brown": "#6b4a32",
    "walnut": "#6b4a32", "orange": "#c8662a", "yellow": "#d3b23c", "clear": "#c9d6da",
    "crystal": "#c9d6da", "opal": "#b9cfd0", "pink": "#d79aa8", "coral": "#d07a62",
    "turquoise": "#4aa3a2", "pearl": "#e3dccd",
}  # fmt: skip


class Kind(NamedTuple):
    """words: what it is called after `new` · named: what stands in its name, or nothing · sizes:
    the fields of its joined sizes, in order · further: the word before each other size, and its
    field · fixed: fields that the word itself says."""

    words: str
    part: type[Part]
    named: str
    sizes: tuple[str, ...]
    further: dict[str, str]
    fixed: dict[str, Any]

    @property
    def marks(self) -> dict[str, tuple[str, Any]]:
        """Bare words that it knows, with the field each sets and its value."""
        return MARKS.get(self.part, {})


def _kind(
    words: str, part: type[Part], named: str, sizes: str, further: str = "", **fixed: Any
) -> Kind:
    pairs = dict(pair.split(":") for pair in further.split())
    return Kind(words, part, named, tuple(sizes.split()), pairs, fixed)


_RUBBER = {"closure": "elastic", "material": "rubber"}
_ENDS = ("crimp", "tip", "cone", "cord end", "clamp")
_CLASP = "span:span_mm eye:eye_mm gape:gape_mm jaw:jaw_wire_mm wide:width_mm bar:bar_mm"
_END = "loop:loop_mm takes:takes_mm wide:width_mm covers:covers_mm"
_EAR = "loop:loop_mm wire:wire_mm"
KINDS: tuple[Kind, ...] = (
    _kind("rubber ring", Ring, "rubber ring", "inner_mm wire_mm", **_RUBBER),
    _kind("bangle", Ring, "bangle", "inner_mm wire_mm", closure="closed"),
    _kind("ring", Ring, "ring", "inner_mm wire_mm"),
    _kind("chain", Chain, "", "pitches_mm", "inside:inner_width_mm wire:wire_mm"),
    _kind("cap", Bead, "", "length_mm width_mm",
          "hole:hole_mm thick:thickness_mm covers:covers_mm", role="cap", shape="cap"),
    _kind("spacer", Bead, "", "length_mm width_mm", "hole:hole_mm",
          role="spacer", shape="disc"),
    _kind("bar", Bead, "", "length_mm width_mm", "hole:hole_mm", role="bar", shape="tube"),
    _kind("bead", Bead, "", "length_mm width_mm", "hole:hole_mm thick:thickness_mm"),
    _kind("head pin", Pin, "head pin", "length_mm wire_mm", "head:head_mm", head="head"),
    _kind("eye pin", Pin, "eye pin", "length_mm wire_mm", "eye:eye_inner_mm", head="eye"),
    *(
        _kind(sort, Wire, sort, "wire_mm", sort=sort, material=material)
        for sort, material in (
            ("wire", "brass"), ("cable", "steel"), ("thread", "thread"), ("cord", "thread"),
            ("elastic", "rubber"),
        )
    ),
    _kind("ribbon", Wire, "ribbon", "width_mm wire_mm", "", sort="ribbon", material="thread"),
    _kind("coil", Wire, "coil", "coil_mm wire_mm", sort="memory coil", material="steel"),
    *(_kind(sort, End, sort, "adds_mm width_mm", _END, sort=sort) for sort in _ENDS),
    _kind("lobster", Clasp, "lobster", "width_mm", _CLASP, sort="lobster"),
    _kind("spring ring", Clasp, "spring ring", "width_mm", _CLASP, sort="spring ring"),
    _kind("toggle", Clasp, "toggle", "bar_mm", _CLASP, sort="toggle"),
    _kind("hook clasp", Clasp, "hook clasp", "width_mm", _CLASP, sort="hook"),
    _kind("magnet", Clasp, "magnet", "width_mm", _CLASP, sort="magnet"),
    _kind("ear hook", EarFinding, "ear hook", "below_mm", _EAR, sort="hook"),
    _kind("ear post", EarFinding, "ear post", "below_mm", _EAR, sort="post"),
    _kind("ear hoop", EarFinding, "ear hoop", "below_mm", _EAR, sort="hoop"),
    _kind("lever back", EarFinding, "lever back", "below_mm", _EAR, sort="leverback"),
    _kind("charm", Charm, "", "height_mm width_mm", ""),
    _kind("connector", Connector, "", "width_mm height_mm thickness_mm"),
    _kind("found", Found, "", "width_mm height_mm thickness_mm"),
)  # fmt: skip
