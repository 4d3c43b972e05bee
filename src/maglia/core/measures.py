"""Measures as people write them: lengths, counted links, wire gauges; and back to words.

Everything inside the program is millimetres; this module is the edge. Sources: AWG is ASTM B258,
SWG the table of BS 3737.
"""

import math
import re
from fractions import Fraction
from typing import Literal, NoReturn

from maglia.core.record import DomainError, Value

LengthUnit = Literal["mm", "cm", "in"]
GaugeSystem = Literal["mm", "AWG", "SWG"]

MM_PER: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}

_UNIT_WORDS = {
    **dict.fromkeys(("mm", "millimetre", "millimetres", "millimeter", "millimeters"), "mm"),
    **dict.fromkeys(("cm", "centimetre", "centimetres", "centimeter", "centimeters"), "cm"),
    **dict.fromkeys(("m", "metre", "metres", "meter", "meters"), "m"),
    **dict.fromkeys(("in", "inch", "inches", '"', "″", "”", "''"), "in"),
    **dict.fromkeys(("link", "links", "l"), "links"),
}
_VULGAR = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}
_FRACTION_SIGNS = {Fraction(text): sign for sign, text in _VULGAR.items()}

SWG_MM: dict[int, float] = {
    10: 3.251, 12: 2.642, 14: 2.032, 16: 1.626, 18: 1.219, 19: 1.016, 20: 0.914, 21: 0.813,
    22: 0.711, 23: 0.610, 24: 0.559, 25: 0.508, 26: 0.457, 28: 0.376, 30: 0.315,
}  # fmt: skip


class MeasureError(DomainError):
    """What was written cannot be read as a measure; the message quotes the part that was not."""


class Length(Value, frozen=True):
    """A length, mm."""

    mm: float


class Links(Value, frozen=True):
    """A length counted in links (or beads, or rings) instead of measured."""

    count: int


_TOKEN = re.compile(
    r"""\s*(?:
      (?P<mixed>\d+[ \u00a0]+\d+\s*/\s*\d+)
    | (?P<fraction>\d+\s*/\s*\d+(?=\s*(?:mm|cm|m|in|inch|inches|"|″|”|'')(?![a-z])))
    | (?P<number>\d+(?:[.,]\d+)?|[.,]\d+)
    | (?P<unit>''|["″”]|[a-zA-Z]+)
    | (?P<sign>[-+*/()×−])
    )""",
    re.VERBOSE,
)


def parse_length(text: str, unit: LengthUnit = "mm") -> Length | Links:
    """Read what a person wrote: `45`, `4.5cm`, `1 3/4"`, `16.5 in`, `30 links`, `=120/2-3`.

    A number without a unit is in `unit`. Negative results and zero are refused.
    Raises MeasureError naming what was not understood.
    """
    value, kind = _Reader(text).read()
    if kind == "links":
        if value < 1 or abs(value - round(value)) > 1e-9 or value > 1_000_000:
            raise MeasureError(f"“{text.strip()}”: links are counted in whole numbers from 1 up")
        return Links(round(value))
    millimetres = value if kind == "length" else value * MM_PER[unit]
    if not 0 < millimetres < 1_000_000:
        raise MeasureError(f"“{text.strip()}” is {millimetres:g} mm: a length must be above zero")
    return Length(millimetres)


class _Reader:
    """Recursive descent over sums of quantities; a value is (number, plain | length | links)."""

    def __init__(self, text: str) -> None:
        self.text = text.strip()
        source = self.text.removeprefix("=").replace("⁄", "/")
        for sign, plain in _VULGAR.items():
            source = re.sub(rf"(?<=\d){sign}", f" {plain}", source).replace(sign, plain)
        self.tokens = self._split(source)
        self.at = 0

    def _split(self, source: str) -> list[tuple[str, str]]:
        if len(source) > 200:
            raise MeasureError("a measure of more than 200 characters: write it shorter")
        tokens, position = [], 0
        source = source.rstrip()
        while position < len(source):
            found = _TOKEN.match(source, position)
            if found is None or found.lastgroup is None:
                self._refuse(source[position:])
            tokens.append((found.lastgroup, found[found.lastgroup]))
            position = found.end()
        return tokens

    def _refuse(self, part: str) -> NoReturn:
        raise MeasureError(
            f"“{part.strip()}” in “{self.text}” was not understood: write a length such as "
            "45, 4.5 cm, 1 3/4 in, 30 links or =120/2-3"
        )

    def read(self) -> tuple[float, str]:
        if not self.tokens:
            raise MeasureError("nothing was written: type a length such as 45 or 1 3/4 in")
        result = self._sum()
        if self.at < len(self.tokens):
            self._refuse(self.tokens[self.at][1])
        return result

    def _peek(self, *signs: str) -> bool:
        return self.at < len(self.tokens) and self.tokens[self.at] in [("sign", s) for s in signs]

    def _next(self) -> tuple[str, str]:
        if self.at >= len(self.tokens):
            raise MeasureError(f"“{self.text}” stops in the middle: a number is missing at its end")
        self.at += 1
        return self.tokens[self.at - 1]

    def _sum(self) -> tuple[float, str]:
        value, kind = self._product()
        while self._peek("+", "-", "−"):
            sign = -1 if self._next()[1] in "-−" else 1
            other, other_kind = self._product()
            if kind != other_kind:
                raise MeasureError(f"“{self.text}”: give every term of a sum the same kind of unit")
            value += sign * other
        return value, kind

    def _product(self) -> tuple[float, str]:
        value, kind = self._quantity()
        while self._peek("*", "/", "×"):
            sign = self._next()[1]
            other, other_kind = self._quantity()
            if other_kind != "plain" and (sign == "/" or kind != "plain"):
                raise MeasureError(f"“{self.text}”: multiply or divide by plain numbers only")
            if sign == "/" and other == 0:
                raise MeasureError(f"“{self.text}” divides by zero")
            value = value / other if sign == "/" else value * other
            kind = kind if other_kind == "plain" else other_kind
        return value, kind

    def _quantity(self) -> tuple[float, str]:
        group, token = self._next()
        if (group, token) == ("sign", "("):
            value, kind = self._sum()
            if not self._peek(")"):
                raise MeasureError(f"“{self.text}”: a bracket is not closed")
            self._next()
            return value, kind
        if group not in ("number", "fraction", "mixed"):
            self._refuse(token)
        value = _number(token)
        if self.at < len(self.tokens) and self.tokens[self.at][0] == "unit":
            word = self._next()[1]
            unit = _UNIT_WORDS.get(word.lower())
            if unit is None:
                raise MeasureError(
                    f"the unit “{word}” in “{self.text}” is not known: use mm, cm, m, in or links"
                )
            return (value, "links") if unit == "links" else (value * MM_PER[unit], "length")
        return value, "plain"


def _number(token: str) -> float:
    if "/" not in token:
        return float(token.replace(",", "."))
    try:
        return float(sum(Fraction(p) for p in re.sub(r"\s*/\s*", "/", token).split()))
    except ZeroDivisionError:
        raise MeasureError(f"the fraction “{token}” divides by zero") from None


def format_length(mm: float, unit: LengthUnit = "mm", *, with_unit: bool = False) -> str:
    """A length in words: mm to 0.1, cm to 0.01, inches to the nearest 1/16 as a fraction."""
    if unit == "in":
        return _inches(mm) + "″"
    text = f"{mm:.1f}" if unit == "mm" else f"{mm / 10:.2f}"
    text = text.replace("-", "−")
    return f"{text} {unit}" if with_unit else text


def plain_length(mm: float, unit: LengthUnit = "mm") -> str:
    """A length as a plain number, as wishes say it: 60 mm, 6 cm, 2.36 in."""
    return f"{round(mm / MM_PER[unit], 2):g} {unit}".replace("-", "−")


def _inches(mm: float) -> str:
    sixteenths = round(abs(mm) / 25.4 * 16)
    whole, part = divmod(sixteenths, 16)
    fraction = Fraction(part, 16)
    sign = "−" if mm < 0 and sixteenths else ""
    if not part:
        return f"{sign}{whole}"
    shown = _FRACTION_SIGNS.get(fraction, f"{fraction.numerator}⁄{fraction.denominator}")
    gap = " " if whole and "⁄" in shown else ""
    return f"{sign}{whole or ''}{gap}{shown}"


def awg_mm(number: float) -> float:
    """Diameter of an AWG size, mm (ASTM B258)."""
    return float(0.127 * 92 ** ((36 - number) / 39))


def parse_wire(text: str) -> float:
    """Read a wire size: `0.8`, `0.8 mm`, `20 AWG`, `SWG 21`. Returns the diameter in mm.

    A gauge without its system is refused: AWG and SWG differ by up to a fifth.
    """
    source = text.strip()
    found = re.fullmatch(r"(?i)(?:(\d+)\s*(awg|swg|ga|gauge|g)|(awg|swg)\s*(\d+))", source)
    if found is None:
        length = parse_length(source)
        if isinstance(length, Links):
            raise MeasureError(f"“{source}”: a wire has a diameter, not a number of links")
        return length.mm
    number = int(found[1] or found[4])
    system = (found[2] or found[3]).upper()
    if system == "AWG":
        return awg_mm(number)
    if system == "SWG":
        if number not in SWG_MM:
            known = ", ".join(map(str, SWG_MM))
            raise MeasureError(f"“{source}”: no such SWG size here; known are {known}")
        return SWG_MM[number]
    raise MeasureError(f"“{source}”: say which gauge, {number} AWG or {number} SWG; they differ")


def format_wire(mm: float, system: GaugeSystem = "mm") -> str:
    """A wire size in words. A gauge always names its system, and mm when it is not exact."""
    if system == "AWG":
        number = round(36 - 39 * math.log(mm / 0.127) / math.log(92))
        return _gauge_words(number, awg_mm(number), mm, "AWG")
    if system == "SWG":
        number = min(SWG_MM, key=lambda n: abs(SWG_MM[n] - mm))
        return _gauge_words(number, SWG_MM[number], mm, "SWG")
    return f"{mm:.2f} mm"


def _gauge_words(number: int, gauge_mm: float, mm: float, system: str) -> str:
    if abs(gauge_mm - mm) <= 0.03 * mm:
        return f"{number} {system}"
    return f"{mm:.2f} mm (near {number} {system})"
