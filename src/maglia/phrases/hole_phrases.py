"""Holes of a connector in words: “left right 24 apart of 1.6, foot 0:-8 of 2”, “3 along the foot”.

A place word stands at the rim, a pair of left and right so far apart, a row of some number along
one edge; `x:y` is from the middle, and a word before it is the hole's own name; `of` sizes the
holes before it that have none yet.
"""

import re
from typing import NamedTuple

from maglia.core.parts.parts import Hole
from maglia.core.values.record import DomainError
from maglia.phrases.reading import Reading

EDGES = {"top": "top", "upper": "top", "foot": "foot", "lower": "foot", "bottom": "foot",
         "left": "left", "right": "right", "middle": "middle"}  # fmt: skip
RIM_MM = 1.0
"""From a hole to the edge, where its place is not said."""
BARE_MM = 1.5
"""How wide a hole is taken for, where only its place is worked out."""
WORDS = "|".join(EDGES)
OWN = r"(?!of\b|called\b|points\b)([^\W\d][\w-]*)"
PLACE = re.compile(r"\s*(-?\d+(?:[.,]\d+)?)\s*:\s*(-?\d+(?:[.,]\d+)?)")


class Rim(NamedTuple):
    """The box holes lie in, mm, and whether its sides meet at the foot."""

    width: float | None
    height: float | None
    vee: bool = False


class _Bored:
    """Holes as they are said, one after the other."""

    def __init__(self, rim: Rim) -> None:
        self.rim = rim
        self.names: list[str] = []
        self.at: dict[str, tuple[float, float] | None] = {}
        self.wide: dict[str, float | None] = {}

    def add(self, name: str, at: tuple[float, float] | None = None) -> None:
        if name in self.at:
            raise DomainError(f"two holes are called “{name}”: give one a name of its own")
        self.names.append(name)
        self.at[name], self.wide[name] = at, None

    def size(self, mm: float) -> None:
        for name in self.names:
            if self.wide[name] is None:
                self.wide[name] = mm

    def spread(self, mm: float) -> None:
        """The last left and right stand so far apart."""
        if not {"left", "right"} <= set(self.names):
            raise DomainError("“apart” is for a left and a right hole")
        y = self.place("left")[1]
        self.at["left"], self.at["right"] = (-mm / 2, y), (mm / 2, y)

    def row(self, count: int, edge: str, apart: float | None) -> None:
        if not 1 <= count <= 40:
            raise DomainError(f"{count} holes: a connector has 1 to 40")
        if self.rim.width is None and apart is None:
            raise DomainError("say the connector's width first, or how far they are apart")
        room = (self.rim.width or 0.0) - 2 * (RIM_MM + BARE_MM / 2)
        step = apart if apart is not None else room / max(count - 1, 1)
        y = self.place(edge)[1]
        taken = set(self.names)
        for k in range(count):
            name = _ordinal(k + 1)
            self.add(name if name not in taken else f"{edge} {name}",
                     (round((k - (count - 1) / 2) * step, 3), y))  # fmt: skip

    def place(self, edge: str) -> tuple[float, float]:
        """The rim's place of a word."""
        width, height, vee = self.rim
        if edge == "middle":
            return (0.0, 0.0)
        side = width if edge in ("left", "right") else height
        if side is None:
            if height is None and width is not None and edge in ("top", "foot"):
                return (0.0, 0.0)
            raise DomainError(f"say the connector's size first, or where the hole is: {edge} 0:-8")
        half = max(side / 2 - RIM_MM - BARE_MM / 2, 0.0)
        if edge in ("left", "right"):
            y = (height or 0.0) / 2 - RIM_MM - BARE_MM / 2 if vee else 0.0
            return (-half if edge == "left" else half, max(y, 0.0))
        return (0.0, half if edge == "top" else 0.0 - half)

    def holes(self) -> tuple[Hole, ...]:
        found = []
        for name in self.names:
            x, y = self.at[name] or self.place(EDGES[name])
            found.append(Hole(name=name, x_mm=x, y_mm=y, diameter_mm=self.wide[name]))
        return tuple(found)


def read_holes(reading: Reading, rim: Rim) -> tuple[Hole, ...]:
    """The holes that are said from here on, as far as they go. Raises DomainError naming what is
    missing."""
    bored = _Bored(rim)
    while _one(reading, bored):
        pass
    if not bored.names:
        raise DomainError("say its holes after “holes”: left right of 1.6, foot 0:-8 of 2")
    return bored.holes()


def _one(reading: Reading, bored: _Bored) -> bool:
    """Take one hole, row, distance or size; False if what stands here is none."""
    if reading.takes(r"of\s+(?=[\d.½¼¾])"):
        bored.size(reading.needed("of"))
        return True
    if row := reading.takes(r"(\d+)\s+along\s+(?:the\s+)?(\w+)(?:\s+edge)?"):
        edge = EDGES.get(row[2].lower())
        if edge not in ("top", "foot", "middle"):
            raise DomainError(f"“along {row[2]}”: holes run along the top, middle or foot")
        mark, apart = reading.at, reading.size()
        if apart is not None and not reading.takes(r"apart\b"):
            reading.at, apart = mark, None
        bored.row(int(row[1]), edge, apart)
        return True
    if pair := reading.takes(r"2\s+(\w+)(?=\s+-?\d+(?:[.,]\d+)?\s*:)"):
        x, y = _place(reading)
        bored.add(f"left {pair[1].lower()}", (-abs(x), y))
        bored.add(f"right {pair[1].lower()}", (abs(x), y))
        return True
    mark, apart = reading.at, reading.size()
    if apart is not None:
        if reading.takes(r"apart\b"):
            bored.spread(apart)
            return True
        reading.at = mark
        return False
    return _named(reading, bored)


def _named(reading: Reading, bored: _Bored) -> bool:
    """A hole by its own word and place, or by a place word alone."""
    if own := reading.takes(r"[\"“]([^\"”]+)[\"”](?=\s+-?\d+(?:[.,]\d+)?\s*:)"):
        bored.add(own[1].strip().lower(), _place(reading))
    elif own := reading.takes(rf"{OWN}(?:\s+(?:{WORDS}))?(?=\s+-?\d+(?:[.,]\d+)?\s*:)"):
        bored.add(own[1].lower(), _place(reading))
    elif own := reading.takes(rf"(?!(?:{WORDS})\b){OWN}\s+({WORDS})\b"):
        bored.add(own[1].lower(), bored.place(EDGES[own[2].lower()]))
    elif edge := reading.takes(rf"({WORDS})\b"):
        bored.add(EDGES[edge[1].lower()])
    else:
        return False
    return True


def _place(reading: Reading) -> tuple[float, float]:
    found = PLACE.match(reading.text, reading.at)
    if found is None:
        raise DomainError("a place is x:y from the middle, mm, such as 0:-8")
    reading.at = found.end()
    x, y = (float(part.replace(",", ".")) for part in found.groups())
    return (x, y)


def _ordinal(k: int) -> str:
    ends = {1: "st", 2: "nd", 3: "rd"}
    return f"{k}{'th' if 10 < k % 100 < 14 else ends.get(k % 10, 'th')}"
