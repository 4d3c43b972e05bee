"""The words and sizes of a phrase, taken one by one: what every phrase about parts is read with."""

import re
from typing import NamedTuple

from maglia.core.values.gauges import gauge_mm
from maglia.core.values.measures import MM_PER, Amount, amount_at
from maglia.core.values.record import DomainError


class _Size(NamedTuple):
    """A size as written: its number, and mm for one of it; None for a bare number."""

    number: float
    factor: float | None

    def mm(self, factor: float = 1.0) -> float:
        size = round(self.number * (factor if self.factor is None else self.factor), 6)
        if size <= 0:
            raise DomainError(f"{size:g} mm is no size: write one above zero")
        return size


class Reading:
    """The words and sizes of a phrase in order, taken one by one."""

    def __init__(self, text: str) -> None:
        self.text, self.at = text, 0

    def _skip(self) -> None:
        while self.at < len(self.text) and self.text[self.at] in " ,\t":
            self.at += 1

    def _size(self) -> _Size | None:
        """The size here, if there is one; a gauge names its system."""
        self._skip()
        if not re.match(r"[-\d.=½¼¾]", self.text[self.at :]):
            return None
        found = amount_at(self.text, self.at)
        if found is None:
            return None
        amount, end = found
        gauge = re.match(r"\s*(AWG|SWG)\b", self.text[end:], re.IGNORECASE)
        self.at = end + (gauge.end() if gauge else 0)
        if gauge:
            return _Size(gauge_mm(amount.whole, gauge[1].upper()), 1.0)
        mm = amount.mm("mm")
        if amount.kind == "plain":
            return _Size(mm, None)
        word = re.search(r"(cm|mm|m|in\w*|[\"″”]|'')$", amount.text.strip(), re.IGNORECASE)
        inches = word is not None and word[1][0].lower() not in "cm"
        factor = 25.4 if inches else MM_PER[word[1].lower()] if word else 1.0
        return _Size(mm / factor, factor)

    def size(self) -> float | None:
        """The size here, mm; a bare one is in mm. None if there is none."""
        found = self._size()
        return None if found is None else found.mm()

    def joined(self) -> list[float | None]:
        """Sizes joined by x, mm, “?” where one is not known; one unit said holds for all of them
        that have none."""
        sizes: list[_Size | None] = []
        while (unknown := self.takes(r"\?")) or (found := self._size()) is not None:
            sizes.append(None if unknown else found)
            joint = re.match(r"\s*[x×]\s*(?=[\d.½¼¾?])", self.text[self.at :], re.IGNORECASE)
            if joint is None:
                break
            self.at += joint.end()
        units = {size.factor for size in sizes if size and size.factor not in (None, 1.0)}
        shared = units.pop() if len(units) == 1 else None
        return [size.mm(shared or 1.0) if size else None for size in sizes]

    def needed(self, word: str) -> float:
        """The size after a word, mm. Raises DomainError if there is none."""
        size = self.size()
        if size is None:
            raise DomainError(f"say a figure after “{word}”")
        return size

    def takes(self, pattern: str) -> re.Match[str] | None:
        """What a pattern matches here, taken."""
        self._skip()
        found = re.compile(pattern, re.IGNORECASE).match(self.text, self.at)
        if found is not None:
            self.at = found.end()
        return found

    def amount(self) -> Amount | None:
        """A quantity as it is written, taken."""
        self._skip()
        found = amount_at(self.text, self.at)
        if found is None:
            return None
        self.at = found[1]
        return found[0]

    def word(self) -> str | None:
        self._skip()
        found = re.match(r"[^\s,]+", self.text[self.at :])
        if found is None:
            return None
        self.at += found.end()
        return found[0]
