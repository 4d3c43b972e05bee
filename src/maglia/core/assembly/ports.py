"""Ports of chain and strung sections besides their links and beads, in the words that an assembly
keeps them by: after a bead, so far along, sliding along all of it or between two of its links.
"""

import re

Port = int | str
GAP = "gap"
"""The port by which a place points between two beads."""
ALONG = "along"
"""The port by which a place points so many mm from the fold, or from the inner end."""
BIGHT = "bight"
"""The port of a rubber ring where it is folded over what it goes round; nothing is opened there."""
RIDES = "rides"
"""The port of what slides along a whole chain or strung section between its stops."""


def gap_port(number: int) -> str:
    """The port after a bead of a strung section."""
    return f"{GAP} {number}"


def gap_number(port: Port) -> int | None:
    """After which bead a port lies; None for what is no gap."""
    return int(port[4:]) if isinstance(port, str) and port.startswith(f"{GAP} ") else None


def along_port(mm: float) -> str:
    """The port so far from the first contact of a section, mm."""
    return f"{ALONG} {mm:g}"


def mm_along(port: Port) -> float | None:
    """How far along a port lies, mm; None for one that is counted otherwise."""
    return float(port[6:]) if isinstance(port, str) and port.startswith(f"{ALONG} ") else None


def rides_between(first: int, last: int) -> str:
    """The port of what slides from behind one link or bead to before another."""
    return f"{RIDES} {first} {last}"


def stops_of(port: Port) -> tuple[int, int] | None:
    """The links or beads that stop what slides at a port, (0, 0) for the ends; None for what does
    not slide."""
    if not isinstance(port, str):
        return None
    found = re.fullmatch(rf"{RIDES}(?: (\d+) (\d+))?", port)
    return None if found is None else (int(found[1] or 0), int(found[2] or 0))
