"""How a small instrument behaves: it settles, jitters in its last place, and has its keys.

`step` lets time pass; `line` is what it sends now. Time is given, never looked at, so that a test
sees what a maker sees.
"""

import math
import random

LOW_BATTERY, OVERLOAD = "LOW BATTERY", "OL"


class Instrument:
    """A target is approached with a time constant; what is shown is rounded to the resolution and
    now and then one place off."""

    units: tuple[str, ...] = ()
    factors: tuple[float, ...] = ()
    places: tuple[int, ...] = ()
    settle_s = 0.35
    jitter = 0.25
    """How often the last place is off by one while it rests."""
    greatest = math.inf

    def __init__(self, seed: int = 1) -> None:
        self.random = random.Random(seed)
        self.target = self.now = self.zero_at = 0.0
        self.unit = 0
        self.held: str | None = None
        self.battery_low = self.garbles = False

    def measure(self, value: float) -> None:
        """Something else is between the jaws or on the pan."""
        self.target = value

    def step(self, seconds: float) -> None:
        self.now = self.target + (self.now - self.target) * math.exp(-seconds / self.settle_s)

    # --- keys ---------------------------------------------------------------------------------

    def zero(self) -> None:
        self.zero_at = self.now

    def next_unit(self) -> None:
        self.unit = (self.unit + 1) % len(self.units)

    def hold(self) -> None:
        self.held = None if self.held is not None else self.shown()

    # --- what it says -------------------------------------------------------------------------

    @property
    def resolution(self) -> float:
        """The last place, in the unit that is shown."""
        return float(10 ** -self.places[self.unit])

    def shown(self) -> str:
        """What stands on its display."""
        if self.held is not None:
            return self.held
        if self.now > self.greatest * 1.001:
            return OVERLOAD
        value = round((self.now - self.zero_at) * self.factors[self.unit], self.places[self.unit])
        if self.random.random() < self.jitter:
            value += self.random.choice((-1, 1)) * self.resolution
        return f"{value:.{self.places[self.unit]}f} {self.units[self.unit]}".replace(
            "-0.00 ", "0.00 "
        )

    def line(self) -> bytes:
        """The line it sends."""
        text = LOW_BATTERY if self.battery_low else self.shown()
        if self.garbles and self.random.random() < 0.3:
            text = "".join(self.random.choice((c, c, "\x07", "~")) for c in text)
        return f"{text}\r\n".encode("ascii", "replace")


class Caliper(Instrument):
    """Reads to 0.01 mm or 0.0005 in, up to 150 mm."""

    units, factors, places = ("mm", "in"), (1.0, 1 / 25.4), (2, 4)
    settle_s, jitter, greatest = 0.15, 0.1, 150.0


class Scale(Instrument):
    """Reads to 0.01 g or 0.05 ct, up to 200 g."""

    units, factors, places = ("g", "ct"), (1.0, 5.0), (2, 2)
    settle_s, jitter, greatest = 0.4, 0.15, 200.0
