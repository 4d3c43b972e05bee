"""Measures as people write them: lengths, counted links, quantities within a text; and back.

Everything inside the program is millimetres; this module is the edge, and reads every number that
a maker writes.
"""

import math
import re
from fractions import Fraction
from typing import Literal, NoReturn

from maglia.core.values.record import DomainError, Value

LengthUnit = Literal["mm", "cm", "in"]

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


class MeasureError(DomainError):
    """What was written cannot be read as a measure; the message quotes the part that was not."""


class Length(Value, frozen=True):
    """A length, mm."""

    mm: float


class Links(Value, frozen=True):
    """A length counted in links (or beads, or rings) instead of measured."""

    count: int


class Amount(Value, frozen=True):
    """A quantity within a text: plain number, length (mm), links, or per cent; as it is written."""

    value: float
    kind: Literal["plain", "length", "links", "per cent"]
    text: str

    def mm(self, unit: LengthUnit) -> float:
        """Its length to a millionth of a mm, so that it reads again as it was written; a plain
        number is in `unit`. Raises MeasureError for links, per cent."""
        if self.kind in ("links", "per cent"):
            raise MeasureError(f"“{self.text}” is no length: write one, such as 40 mm")
        return round(self.value if self.kind == "length" else self.value * MM_PER[unit], 6)

    @property
    def whole(self) -> int:
        """Its whole number. Raises MeasureError for lengths, fractions and what is below one."""
        if self.kind not in ("plain", "links") or self.value < 1 or self.value != int(self.value):
            raise MeasureError(f"“{self.text}” is no whole number: write one, such as 7")
        return int(self.value)


MOST_SIGNS = 40
"""Of a number as it is written."""
_VULGAR_SIGNS = "".join(_VULGAR)
_TOKEN = re.compile(
    rf"""\s*(?:
      (?P<mixed>\d+[ \u00a0]+\d+\s*[/⁄]\s*\d+ | \d+[ \u00a0]?[{_VULGAR_SIGNS}] | [{_VULGAR_SIGNS}])
    | (?P<fraction>\d+\s*[/⁄]\s*\d+(?=\s*(?:mm|cm|m|in|inch|inches|"|″|”|'')(?![a-z])))
    | (?P<number>\d+(?:[.,]\d+)?|[.,]\d+)
    | (?P<unit>''|["″”]|[a-zA-Z]+)
    | (?P<sign>[-+*/⁄()×−])
    )""",
    re.VERBOSE,
)
_SPOKEN = re.compile(
    rf"""(?P<sign>(?<!\d)[-−])?
      (?P<value>\d+[ \u00a0]+\d+[/⁄]\d+ | \d+[ \u00a0]?[{_VULGAR_SIGNS}] | [{_VULGAR_SIGNS}]
        | \d+[/⁄]\d+ | \d+(?:[.,]\d+)? | [.,]\d+)
      (?:\s*(?P<unit>%|''|["″”]|[a-zA-Z]+))?""",
    re.VERBOSE,
)
_SUM = re.compile(
    rf"=\s*(?:[\d\s.,/⁄+*×()−{_VULGAR_SIGNS}-]|(?:mm|cm|m|in|inch|inches|links?)\b|[\"″”])+"
)


def amount_at(text: str, at: int = 0) -> tuple[Amount, int] | None:
    """The quantity that begins at a place of a text, and where it ends; None if none does. What is
    not a unit is left for what follows. Raises MeasureError for an expression that is not whole."""
    if text[at : at + 1] == "=":
        found = _SUM.match(text, at)
        written = found[0].rstrip(" ,") if found else "="
        value, kind = _Reader(written).read()
        return Amount(value, kind, written), at + len(written)
    spoken = _SPOKEN.match(text, at)
    if spoken is None:
        return None
    value = _number(spoken["value"]) * (-1 if spoken["sign"] else 1)
    unit, end = spoken["unit"], spoken.end()
    if unit == "%":
        return Amount(value, "per cent", spoken[0].strip()), end
    known = _UNIT_WORDS.get(unit.lower()) if unit and unit.lower() != "l" else None
    if known is None:
        end = spoken.end("value")
        return Amount(value, "plain", text[at:end].strip()), end
    if known == "links":
        return Amount(value, "links", spoken[0].strip()), end
    return Amount(value * MM_PER[known], "length", spoken[0].strip()), end


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


Kind = Literal["plain", "length", "links"]


class _Reader:
    """Recursive descent over sums of quantities; a value is (number, plain | length | links)."""

    def __init__(self, text: str) -> None:
        self.text = text.strip()
        self.tokens = self._split(self.text.removeprefix("="))
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

    def read(self) -> tuple[float, Kind]:
        if not self.tokens:
            raise MeasureError("nothing was written: type a length such as 45 or 1 3/4 in")
        result = self._sum()
        if self.at < len(self.tokens):
            self._refuse(self.tokens[self.at][1])
        if not math.isfinite(result[0]):
            raise MeasureError(f"“{self.text.strip()[:40]}” is larger than anything here")
        return result

    def _peek(self, *signs: str) -> bool:
        return self.at < len(self.tokens) and self.tokens[self.at] in [("sign", s) for s in signs]

    def _next(self) -> tuple[str, str]:
        if self.at >= len(self.tokens):
            raise MeasureError(f"“{self.text}” stops in the middle: a number is missing at its end")
        self.at += 1
        return self.tokens[self.at - 1]

    def _sum(self) -> tuple[float, Kind]:
        value, kind = self._product()
        while self._peek("+", "-", "−"):
            sign = -1 if self._next()[1] in "-−" else 1
            other, other_kind = self._product()
            if kind != other_kind:
                raise MeasureError(f"“{self.text}”: give every term of a sum the same kind of unit")
            value += sign * other
        return value, kind

    def _product(self) -> tuple[float, Kind]:
        value, kind = self._quantity()
        while self._peek("*", "/", "⁄", "×"):
            sign = self._next()[1]
            other, other_kind = self._quantity()
            if other_kind != "plain" and (sign in "/⁄" or kind != "plain"):
                raise MeasureError(f"“{self.text}”: multiply or divide by plain numbers only")
            if sign in "/⁄" and other == 0:
                raise MeasureError(f"“{self.text}” divides by zero")
            value = value / other if sign in "/⁄" else value * other
            kind = kind if other_kind == "plain" else other_kind
        return value, kind

    def _quantity(self) -> tuple[float, Kind]:
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
    for sign, plain in _VULGAR.items():
        token = token.replace(sign, f" {plain}")
    if len(token) > MOST_SIGNS:
        raise MeasureError(f"“{token.strip()[:20]}…” is longer than any number here")
    if "/" not in token and "⁄" not in token:
        return float(token.replace(",", "."))
    try:
        parts = re.sub(r"\s*[/⁄]\s*", "/", token).split()
        return float(sum(Fraction(part) for part in parts))
    except ZeroDivisionError:
        raise MeasureError(f"the fraction “{token.strip()}” divides by zero") from None


def format_length(mm: float, unit: LengthUnit = "mm", *, with_unit: bool = False) -> str:
    """A length in words: mm to 0.1, cm to 0.01, inches to the nearest 1/16 as a fraction."""
    if unit == "in":
        return _inches(mm) + "″"
    text = f"{mm:.1f}" if unit == "mm" else f"{mm / 10:.2f}"
    text = text.replace("-", "−")
    return f"{text} {unit}" if with_unit else text


def format_links(count: int) -> str:
    """“1 link”, “12 links”."""
    return f"{count} link" if count == 1 else f"{count} links"


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
