"""What every saved value shares: it is frozen, refuses unknown fields, and has bounded numbers.

The annotations below are read by `maglia.files.piece_json` to validate files and to write the
JSON Schema, so a bound is stated once, here or at the field.
"""

from typing import Annotated, Any, ClassVar

from annotated_types import Ge, Gt, Le, MaxLen, MinLen


class Record:
    """Base of saved values. Not a dataclass itself; subclasses are, frozen and keyword-only."""

    __pydantic_config__: ClassVar[dict[str, Any]] = {"extra": "forbid", "allow_inf_nan": False}


class DomainError(ValueError):
    """Something the maker can mend. The message names what, where and what to do."""


Name = Annotated[str, MinLen(1), MaxLen(120)]
Text = Annotated[str, MaxLen(10_000)]
Mm = Annotated[float, Gt(0), Le(20_000)]
"""A length that must exist, mm."""
MmOrZero = Annotated[float, Ge(0), Le(20_000)]
Offset = Annotated[float, Ge(-20_000), Le(20_000)]
Grams = Annotated[float, Ge(0), Le(10_000)]
Money = Annotated[float, Ge(0), Le(1_000_000)]
Count = Annotated[int, Ge(1), Le(20_000)]
CountOrZero = Annotated[int, Ge(0), Le(20_000)]
