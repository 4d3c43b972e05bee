"""What a maker says of her stock of one part: “200”, “counted 377”, “spoilt 3 bent”, “2 x 1 m
called spool”, “cut 36 from lot 1 called blue end”.

Bare figures are bought. Pieces are counted; chain is in links, or in a length that is turned into
whole links; wire and thread are lengths, bare ones in mm. What stands after `for` or `because`, and
of a bag what is left over, is noted.
"""

import re

from maglia.core.parts.parts import Chain, Part
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import Deed, DeedSort, amount_of_mm, by_length, measured_um
from maglia.phrases.reading import Reading

VERBS: dict[str, DeedSort] = {
    "bought": "bought", "counted": "counted", "count": "counted", "spoilt": "spoilt",
    "used": "use", "cut": "cut",
}  # fmt: skip
HINT = "200 · counted 377 · spoilt 3 bent · used 12"
HINT_LENGTHS = (
    "2 x 1 m · counted 120 links in lot 2 · cut 36 from lot 1 called blue end for the collar"
)

MOST_LENGTHS = 500


def read_stock(text: str, part: Part) -> tuple[Deed, ...]:
    """The deeds that a text says, one for each length. Raises DomainError naming the word."""
    reading = Reading(text.strip())
    verb = reading.takes(rf"({'|'.join(VERBS)})\b")
    sort: DeedSort = VERBS[verb[1].lower()] if verb else "bought"
    amounts = _amounts(reading, part)
    if not amounts:
        word = reading.word()
        hint = HINT_LENGTHS if by_length(part) else HINT
        raise DomainError(
            f"“{word}” is not understood: {hint}" if word else f"say how many: {hint}"
        )
    rest = reading.text[reading.at :].strip(" ,")
    rest, why = _taken(rest, r"\b((?:for|because)\s+.+)$")
    rest, called = _taken(rest, r"\bcalled\s+(.+)$")
    rest, phase = _taken(rest, r"\bfrom\s+link\s+(\d+)")
    rest, lot = _taken(rest, r"\b(?:from|in|of)\s+(.+)$") if by_length(part) else (rest, "")
    return tuple(
        Deed(
            sort,
            amount,
            lot,
            called,
            " ".join(filter(None, (rest, why))),
            max(int(phase or 1) - 1, 0),
            measure if sort in ("bought", "counted") else 0,
        )
        for amount, measure in amounts
    )


def _amounts(reading: Reading, part: Part) -> list[tuple[int, int]]:
    """Whole amounts, and of chain the lengths that were said, µm."""
    found: list[tuple[int, int]] = []
    while True:
        measure = 0
        times = reading.takes(r"(\d+)\s*[x×]\s*(?=\d)")
        amount = reading.amount()
        if amount is None:
            return found
        if not by_length(part):
            if amount.kind != "plain":
                raise DomainError(f"“{amount.text}”: {part.name} is counted in pieces")
            if amount.value < 0 or amount.value != int(amount.value):
                raise DomainError(f"“{amount.text}” is no whole number of pieces")
            whole = int(amount.value)
        elif amount.kind == "links" or (amount.kind == "plain" and isinstance(part, Chain)):
            whole = int(amount.value)
        else:
            links = amount_of_mm(part, amount.mm("mm"))
            if links is None:
                raise DomainError(f"the pitch of {part.name} is not known: say links")
            whole = links
            measure = measured_um(part, amount.mm("mm"))
        lengths = int(times[1]) if times else 1
        if lengths > MOST_LENGTHS:
            raise DomainError(f"{lengths:,} lengths are more than {MOST_LENGTHS} at once")
        found += [(whole, measure)] * lengths
        if not reading.text[reading.at :].lstrip().startswith(","):
            return found


def _taken(text: str, pattern: str) -> tuple[str, str]:
    """A text without what a pattern matches, and what that says."""
    found = re.search(pattern, text, re.IGNORECASE)
    if found is None:
        return text, ""
    said = found[1].strip().strip('“”"')
    return f"{text[: found.start()]}{text[found.end() :]}".strip(" ,"), said
