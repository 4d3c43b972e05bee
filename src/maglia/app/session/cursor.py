"""The cursor: the spot it stands on, the mark along a chain, and what is selected."""

from PySide6.QtCore import QObject, Signal

from maglia.core.edits.spots import Spot


class Cursor(QObject):
    """Signal `moved()`: it stands elsewhere."""

    moved = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.spot: Spot | None = None
        self.mark = 0
        self.anchor: Spot | None = None
        """The other end of the selection."""

    def put(self, spot: Spot | None, mark: int = 0) -> None:
        """Stand somewhere without telling: the piece is changing, and tells itself."""
        self.spot, self.mark, self.anchor = spot, mark, None

    def go(self, spot: Spot | None, mark: int = 0, *, extend: bool = False) -> None:
        """Move; `extend` keeps the other end of the selection where it was."""
        anchor = (self.anchor or self.spot) if extend else None
        if (spot, mark, anchor) != (self.spot, self.mark, self.anchor):
            self.spot, self.mark, self.anchor = spot, mark, anchor
            self.moved.emit()

    def stretch(self) -> tuple[Spot, int] | None:
        """The inner end of what is selected, and how many items: one without a selection."""
        spot, anchor = self.spot, self.anchor
        if spot is None:
            return None
        same = anchor is not None and anchor.owner == spot.owner and anchor.path and spot.path
        if not same or anchor is None or anchor.path[:-1] != spot.path[:-1]:
            return spot, 1
        low, high = sorted((anchor.path[-1], spot.path[-1]))
        return Spot(spot.owner, (*spot.path[:-1], low)), high - low + 1

    def selected(self) -> list[Spot]:
        """Every spot of the selection, in order outward."""
        found = self.stretch()
        if found is None:
            return []
        spot, count = found
        if not spot.path:
            return [spot]
        return [Spot(spot.owner, (*spot.path[:-1], spot.path[-1] + k)) for k in range(count)]
