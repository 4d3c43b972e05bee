"""What belongs to the maker while a piece is open: the tray, and what lies on the bench."""

from maglia.core.sheets.cutting import Lots
from maglia.core.workshop.tray import Tray


class Workshop:
    """The tray with its lots. `offered` is the stock that was found in a piece file of version 1:
    it belongs here, and is taken over when there is a workshop that can keep it."""

    def __init__(self, tray: Tray) -> None:
        self.tray = tray
        self.offered: dict[str, list[float]] = {}

    @property
    def lots(self) -> Lots:
        return self.tray.lots_mm
