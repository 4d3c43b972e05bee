"""What every value shares: it is frozen, and replaced rather than changed.

A `Record` is what is saved as well: it refuses unknown fields and has bounded numbers. Its
annotations are read by `maglia.files.piece_json` to validate files and to write the JSON Schema,
so a bound is stated once, here or at the field.
"""

import re
from typing import Annotated

from msgspec import Meta, Struct


class Value(Struct, frozen=True):
    """Base of what is worked out. Equal if all its fields are."""


class Record(Value, frozen=True, forbid_unknown_fields=True):
    """Base of saved values; their fields are given by name."""


class Variant(Record, frozen=True, tag_field="kind", tag="variant"):
    """Base of saved values that a file tells apart by their `kind`."""

    @property
    def kind(self) -> str:
        return str(self.__struct_config__.tag)


def as_plain(text: str) -> str:
    """What was written as one line of plain text: characters that are not to be seen become a
    space, those that turn the writing round go."""
    seen = re.sub(r"[\u202a-\u202e\u2066-\u2069]", "", text)
    return re.sub(r"[\x00-\x1f\x7f-\x9f\u2028\u2029]+", " ", seen).strip()


class DomainError(ValueError):
    """Something the maker can mend. The message names what, where and what to do."""


def in_words(fault: Exception) -> str:
    """What a file holds that its fields do not take, without the pattern that refused it."""
    return re.sub(
        r"Expected `str` matching regex '.*'", "a text that is not of its form", str(fault)
    )


PLAIN = r"^[^\x00-\x1f\x7f-\x9f\u2028\u2029\u202a-\u202e\u2066-\u2069]*$(?!\n)"
"""One line, without characters that steer a terminal or turn what follows them round."""
LINES = r"^[^\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]*$(?!\n)"
"""The same, of several lines."""
NOT_PLAIN = "holds characters that cannot be seen, or that turn the writing round: take them out"
Name = Annotated[str, Meta(min_length=1, max_length=120, pattern=PLAIN)]
Text = Annotated[str, Meta(max_length=10_000, pattern=LINES)]
_MOMENT = r"\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d(\.\d{1,6})?)?"
Moment = Annotated[str, Meta(pattern=rf"^{_MOMENT}$(?!\n)")]
"""A time of the maker's clock, as “2026-03-01T14:05:00”."""
MomentOrNone = Annotated[str, Meta(pattern=rf"^({_MOMENT})?$(?!\n)")]
"""The same; empty if it is not known, or not yet."""
Minutes = Annotated[float, Meta(ge=0, le=1_000_000)]
Mm = Annotated[float, Meta(gt=0, le=20_000)]
"""A length that must exist, mm."""
MmOrZero = Annotated[float, Meta(ge=0, le=20_000)]
Offset = Annotated[float, Meta(ge=-20_000, le=20_000)]
Grams = Annotated[float, Meta(ge=0, le=10_000)]
Money = Annotated[float, Meta(ge=0, le=1_000_000)]
Count = Annotated[int, Meta(ge=1, le=20_000)]
CountOrZero = Annotated[int, Meta(ge=0, le=20_000)]
