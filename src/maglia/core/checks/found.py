"""What a check says: code, severity, place, message, and the repair it offers."""

from typing import Literal

from msgspec.structs import replace

from maglia.core.values.record import Value

Severity = Literal["stop", "attention", "note"]
SEVERITIES: tuple[Severity, ...] = ("stop", "attention", "note")


class Repair(Value, frozen=True):
    """One edit that mends a finding: set the count of a run's item (0 is its centre)."""

    words: str
    run: str
    item: int
    count: int


class Check(Value, frozen=True):
    """One finding. `place` names run and part; `run` and `item` let a window go there; `thing` is
    the part or unit that it is about, where it is about one."""

    code: str
    severity: Severity
    place: str
    message: str
    repair: str | None = None
    repairs: tuple[Repair, ...] = ()
    run: str | None = None
    item: int = 0
    thing: str | None = None

    def times(self, count: int) -> "Check":
        if count == 1:
            return self
        return replace(self, message=f"{self.message} ({count} places)")
