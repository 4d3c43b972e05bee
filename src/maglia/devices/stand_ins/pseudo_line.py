"""A pseudo-terminal whose far end is read like any serial line."""

import contextlib
import os
import tty

from maglia.devices.stand_ins.instrument import Instrument


class PseudoLine:
    """What an instrument says comes out at the port called `name`."""

    def __init__(self, instrument: Instrument) -> None:
        self.instrument = instrument
        self._own, self._far = os.openpty()
        tty.setraw(self._far)
        os.set_blocking(self._own, False)
        self.name = os.ttyname(self._far)

    def speak(self, seconds: float) -> None:
        """Let time pass and send a line; what nobody reads is lost, as on a wire."""
        self.instrument.step(seconds)
        if self._own >= 0:
            with contextlib.suppress(BlockingIOError):
                os.write(self._own, self.instrument.line())

    def unplug(self) -> None:
        for end in (self._own, self._far):
            if end >= 0:
                os.close(end)
        self._own = self._far = -1
