"""What every value shares: it is frozen, and replaced rather than changed.

A `Record` is what is saved as well: it refuses unknown fields and has bounded numbers. Its
annotations are read by `maglia.files.piece_json` to validate files and to write the JSON Schema,
so a bound is stated once, here or at the field.
"""

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


class DomainError(ValueError):
    """Something the maker can mend. The message names what, where and what to do."""


Name = Annotated[str, Meta(min_length=1, max_length=120)]
Text = Annotated[str, Meta(max_length=10_000)]
Mm = Annotated[float, Meta(gt=0, le=20_000)]
"""A length that must exist, mm."""
MmOrZero = Annotated[float, Meta(ge=0, le=20_000)]
Offset = Annotated[float, Meta(ge=-20_000, le=20_000)]
Grams = Annotated[float, Meta(ge=0, le=10_000)]
Money = Annotated[float, Meta(ge=0, le=1_000_000)]
Count = Annotated[int, Meta(ge=1, le=20_000)]
CountOrZero = Annotated[int, Meta(ge=0, le=20_000)]
