"""A serial line: found, opened, read line by line, and gone when it is unplugged."""

from typing import NamedTuple

import serial
from serial.tools import list_ports

from maglia.core.values.record import DomainError
from maglia.devices.readings import Settings

LONGEST = 200
"""Bytes of a line; what is longer is no line of an instrument."""


class Found(NamedTuple):
    """A port that is there: its name, and what the system calls it."""

    name: str
    words: str


def ports() -> list[Found]:
    """Serial ports that are there now."""
    return sorted(
        Found(port.device, port.description or port.device)
        for port in list_ports.comports()
        if port.hwid != "n/a" or "USB" in port.device
    )


class Port:
    """An open line. `take` gives the whole lines that have come. Raises DomainError when it is
    unplugged or cannot be opened."""

    def __init__(self, name: str, settings: Settings) -> None:
        self.name, self._rest = name, b""
        try:
            self.line = serial.Serial(name, settings.baud, timeout=0)
        except (serial.SerialException, OSError, ValueError) as fault:
            why = getattr(fault, "strerror", None) or str(fault).partition(":")[2] or str(fault)
            raise DomainError(f"{name} cannot be opened: {why.strip()}") from None

    def fileno(self) -> int:
        return int(self.line.fileno())

    def take(self) -> list[str]:
        try:
            come = self.line.read(4096)
        except (serial.SerialException, OSError):
            raise DomainError(f"{self.name} is unplugged") from None
        if not come:
            return []
        *lines, self._rest = (self._rest + come).replace(b"\r", b"\n").split(b"\n")
        if len(self._rest) > LONGEST:
            lines.append(self._rest)
            self._rest = b""
        return [line.decode("ascii", "replace") for line in lines if line.strip()]

    def close(self) -> None:
        self.line.close()
