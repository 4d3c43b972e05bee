"""A phrase as its words: words, numbers, signs and quoted names, each with its place in the text;
and what every form does with them: split at joining words, at commas, at brackets.

Silent words and a comma before a joining word say nothing. A number is plain or a length; “link”
after a number stays a word, since “8 link” may end a name.
"""

import re
from collections.abc import Collection, Sequence
from typing import Literal, NamedTuple

from maglia.core.values.gauges import gauge_mm
from maglia.core.values.measures import Amount, LengthUnit, amount_at
from maglia.core.values.record import DomainError

SILENT = frozenset({"the", "a", "an", "its"})
MOST_WORDS = 2_000
_WORD = re.compile(r"[^\W\d_][\w'’.-]*|_\w*")
_QUOTED = re.compile(r"[\"“]([^\"”“]*)[\"”]")
_ORDINAL = re.compile(r"(\d+)(st|nd|rd|th)\b", re.IGNORECASE)
_GAUGE = re.compile(r"\s*(AWG|SWG)\b", re.IGNORECASE)
_SIGNS = ",()+/:×"


class Misread(DomainError):
    """What was not understood, and where in the text it stands."""

    def __init__(self, words: str, start: int = 0, end: int = 0) -> None:
        super().__init__(words)
        self.start, self.end = start, end


MOST_WHOLE = 100_000
"""No count that is said is larger: a piece has fewer parts."""


class Word(NamedTuple):
    """A word as written; `low` is what it says. Of a number `amount`, of an ordinal `nth`."""

    text: str
    start: int
    end: int
    sort: Literal["word", "number", "nth", "sign", "name"]
    low: str
    amount: Amount | None = None
    nth: int = 0

    @property
    def whole(self) -> int | None:
        """A plain whole number from 0 up, or None. Raises Misread beyond all counts."""
        if self.amount is None or self.amount.kind != "plain":
            return None
        value = self.amount.value
        if value < 0 or value != int(value):
            return None
        if value > MOST_WHOLE:
            raise Misread(f"{self.text} is more than {MOST_WHOLE:,}", self.start, self.end)
        return int(value)


Words = tuple[Word, ...]


def words_of(text: str) -> Words:
    """The words of a text in order. Raises Misread for a name in quotes that is not ended."""
    found: list[Word] = []
    at = 0
    while at < len(text):
        if text[at].isspace():
            at += 1
            continue
        word = _one(text, at, found[-1] if found else None)
        at = word.end
        if word.sort == "word" and word.low in SILENT:
            continue
        found.append(word)
        if len(found) > MOST_WORDS:
            raise Misread(
                f"more than {MOST_WORDS:,} words in one phrase: say it in several", at, at
            )
    return tuple(found)


def _one(text: str, at: int, before: Word | None) -> Word:
    sign = text[at]
    inch = before is not None and before.sort == "number" and before.end == at
    if sign in '"“' and not inch:
        quoted = _QUOTED.match(text, at)
        if quoted is None:
            raise Misread("a name in quotes is not ended: write “ ” around it", at, len(text))
        return Word(quoted[0], at, quoted.end(), "name", quoted[1].strip().lower())
    if nth := _ORDINAL.match(text, at):
        return Word(nth[0], at, nth.end(), "nth", nth[0].lower(), nth=int(nth[1]))
    if (sign.isdigit() or sign in "=.½¼¾⅛⅜⅝⅞-−") and (number := _number(text, at)):
        return number
    if sign in _SIGNS:
        return Word(sign, at, at + 1, "sign", "x" if sign == "×" else sign)
    if word := _WORD.match(text, at):
        said = word[0].rstrip(".'’-") or word[0]
        return Word(said, at, at + len(said), "word", said.lower())
    return Word(sign, at, at + 1, "sign", sign)


def _number(text: str, at: int) -> Word | None:
    found = amount_at(text, at)
    if found is None:
        return None
    amount, end = found
    if amount.kind == "links":  # “8 link” may end a name: the word stays
        figures = re.match(r"[\d.,½¼¾⅛⅜⅝⅞/⁄\s]*[\d½¼¾⅛⅜⅝⅞]", text[at:])
        if figures is None:  # a sum of links
            return Word(text[at:end], at, end, "number", text[at:end],
                        Amount(amount.value, "plain", amount.text))  # fmt: skip
        end = at + figures.end()
        amount = Amount(amount.value, "plain", figures[0].strip())
    if amount.kind == "plain" and (gauge := _GAUGE.match(text, end)):
        wire = gauge_mm(amount.whole, gauge[1].upper())
        amount, end = Amount(wire, "length", text[at : gauge.end()]), gauge.end()
    return Word(text[at:end].strip(), at, end, "number", text[at:end].strip(), amount)


def text_of(words: Sequence[Word]) -> str:
    """Words as they are shown in a message."""
    said = " ".join(word.text for word in words)
    return re.sub(r"\s+([,):])", r"\1", re.sub(r"\(\s+", "(", said))


def unknown(words: Sequence[Word], why: str = "was not understood") -> Misread:
    """The fault of words that mean nothing here."""
    if not words:
        return Misread(why)
    return Misread(f"“{text_of(words)}” {why}", words[0].start, words[-1].end)


def depths(words: Words) -> list[int]:
    """How many brackets are open at each word. Raises Misread for brackets that do not match."""
    found, depth = [], 0
    opened: list[Word] = []
    for word in words:
        if word.sort == "sign" and word.low == ")":
            if not opened:
                raise unknown([word], "closes a bracket that was not opened")
            opened.pop()
            depth -= 1
        found.append(depth)
        if word.sort == "sign" and word.low == "(":
            opened.append(word)
            depth += 1
    if opened:
        raise unknown(opened[-1:], "opens a bracket that is not closed")
    return found


def is_sign(word: Word, *signs: str) -> bool:
    return word.sort == "sign" and word.low in signs


def at_commas(words: Words) -> list[Words]:
    """The parts between commas and “then”, outside brackets; empty ones are left out."""
    return at_signs(words, ",", "then")


def at_signs(words: Words, *signs: str) -> list[Words]:
    """The parts between signs or words such as “/” and “and”, outside brackets."""
    depth = depths(words)
    places = [
        k
        for k, word in enumerate(words)
        if not depth[k] and word.sort in ("sign", "word") and word.low in signs
    ]
    return _cut(words, places)


def _cut(words: Words, places: list[int]) -> list[Words]:
    begun, parts = 0, []
    for place in [*places, len(words)]:
        parts.append(words[begun:place])
        begun = place + 1
    return [part for part in parts if part]


class Segment(NamedTuple):
    """What follows a joining word, up to the next."""

    join: Word
    words: Words


def joined(words: Words, joins: Collection[str]) -> tuple[Words, list[Segment]]:
    """What stands before the first joining word, and each with what follows it; outside brackets.
    A comma before a joining word is silent."""
    depth = depths(words)
    at: list[int] = []
    begun = "from" not in joins
    for k, word in enumerate(words):
        if depth[k] or word.sort != "word" or word.low not in joins or _of_a_side(words, k):
            continue
        begun = begun or word.low == "from"
        if word.low != "to" or begun:  # before that, holes of a connector are said with “to”
            at.append(k)
    head = _trimmed(words[: at[0]] if at else words)
    ends = [*at[1:], len(words)] if at else []
    return head, [Segment(words[k], _trimmed(words[k + 1 : end]))
                  for k, end in zip(at, ends, strict=True)]  # fmt: skip


def _of_a_side(words: Words, k: int) -> bool:
    """Whether “on” begins “on the left”, “on both sides”, “on each end”."""
    after = words[k + 1].low if k + 1 < len(words) else ""
    return words[k].low == "on" and after in ("left", "right", "both", "each")


def _trimmed(words: Words) -> Words:
    while words and is_sign(words[-1], ",", ":"):
        words = words[:-1]
    while words and is_sign(words[0], ",", ":"):
        words = words[1:]
    return words


def length_mm(word: Word, unit: LengthUnit) -> float | None:
    """A number as a length, mm: a bare one in the display unit."""
    return word.amount.mm(unit) if word.amount is not None else None


def is_length(word: Word) -> bool:
    return word.amount is not None and word.amount.kind == "length"


def once(joins: Sequence[Segment]) -> dict[str, Segment]:
    """Segments by their joining word. Raises Misread for one said twice or of nothing."""
    found: dict[str, Segment] = {}
    for segment in joins:
        if segment.join.low in found:
            raise unknown([segment.join], "is said twice")
        if not segment.words:
            raise unknown([segment.join], "says nothing")
        found[segment.join.low] = segment
    return found
