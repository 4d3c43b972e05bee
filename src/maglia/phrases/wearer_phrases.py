"""A new wearer in one phrase: “new wearer prompter neck 372 wrist 160 ease 15”."""

import re

from msgspec.structs import replace

from maglia.core.piece.piece import Wearer
from maglia.core.values.record import DomainError
from maglia.phrases.reading import Reading

GIRTHS = ("neck", "wrist", "ankle", "hand", "head", "ease")
WEARER = re.compile(
    rf"\s*new\s+wearer\s+(?P<role>[“\"][^”\"]*[”\"]|.*?)(?=\s+(?:{'|'.join(GIRTHS)})\b|$)",
    re.IGNORECASE,
)


def read_wearer(text: str) -> Wearer | None:
    """The wearer that a phrase describes; None if it begins none. Raises DomainError."""
    begun = WEARER.match(text)
    if begun is None:
        return None
    role = begun["role"].strip(" ,")
    if not role:
        raise DomainError("say who it is: a role, such as “new wearer prompter neck 372 wrist 160”")
    reading, fields = Reading(text[begun.end() :]), dict[str, float]()
    while (word := reading.word()) is not None:
        if word.lower() not in GIRTHS:
            raise DomainError(f"“{word}” was not understood; a wearer has {', '.join(GIRTHS)}")
        fields[f"{word.lower()}_mm"] = reading.needed(word)
    quoted = role[0] in '“"' and role[-1] in '”"'
    own = role.strip('“”"') if quoted else role[0].upper() + role[1:]
    return replace(Wearer(role=own), **fields)
