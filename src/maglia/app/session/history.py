"""The history of the open piece: every state, which one is shown, which one is on disk. No Qt."""

from msgspec.structs import replace

from maglia.core.edits.spots import Spot
from maglia.core.piece.piece import Piece
from maglia.core.values.record import Value


class State(Value, frozen=True):
    """One moment: the piece, the cursor, and what was done to get here."""

    piece: Piece
    spot: Spot | None
    words: str
    mark: int = 0


class History:
    """States in order; `now` is the one shown. What was undone is there until the next edit."""

    def __init__(self, first: State, saved: Piece | None = None) -> None:
        self.states, self.now = [first], 0
        self.saved = first.piece if saved is None else saved
        """The piece as it is on disk."""

    @property
    def state(self) -> State:
        return self.states[self.now]

    @property
    def piece(self) -> Piece:
        return self.state.piece

    @property
    def edited(self) -> bool:
        return self.piece is not self.saved

    def leave_at(self, spot: Spot | None, mark: int) -> None:
        """Note where the cursor stood when this state was left."""
        self.states[self.now] = replace(self.state, spot=spot, mark=mark)

    def add(self, state: State) -> None:
        del self.states[self.now + 1 :]
        self.states.append(state)
        self.now += 1

    def amend(self, piece: Piece) -> None:
        """What the fits change joins the edit that asked for it."""
        self.states[self.now] = replace(self.state, piece=piece)

    def can_step(self, by: int) -> bool:
        return 0 <= self.now + by < len(self.states)

    def step(self, by: int) -> str:
        """Go `by` states on or back; the words of what was done or undone."""
        target = self.now + by
        words = self.states[max(self.now, target)].words
        self.now = target
        return words
