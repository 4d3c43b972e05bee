"""Lists as they are said: at commas and “then”, but not within brackets."""

import re

from maglia.core.values.record import DomainError


def parts_of(text: str) -> list[str]:
    """A text at its commas and “then”, but not within brackets."""
    text = re.sub(r"\bthen\b", ",", text, flags=re.IGNORECASE)
    parts, depth, begun = [], 0, 0
    for k, sign in enumerate(text):
        depth += (sign == "(") - (sign == ")")
        if depth < 0:
            raise DomainError("a bracket is closed that was not opened")
        if sign == "," and not depth:
            parts.append(text[begun:k])
            begun = k + 1
    if depth:
        raise DomainError("a bracket is not closed")
    return [part.strip() for part in [*parts, text[begun:]] if part.strip()]
