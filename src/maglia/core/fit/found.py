"""What a fit says: the solution, what it leaves over, the next best, and what stands in the way."""

from typing import Literal

from maglia.core.piece.piece import Piece
from maglia.core.piece.wishes import Fit
from maglia.core.values.record import Value

EXACT = 1e-6
"""What counts as nothing over, of rounding."""
Bound = Literal["equal", "at least", "at most"]


class Residual(Value, frozen=True):
    """One figure of a wish: wished and got in mm (or as `unit` says), and how far off is allowed.

    at least: more is no fault · at most: less is none.
    """

    what: str
    wished: float
    got: float
    allowed: float
    bound: Bound = "equal"
    unit: str = "mm"
    run: str = ""
    """The run it is read off, where it is read off one."""

    @property
    def off(self) -> float:
        """Got less wished; 0 where a bound is kept."""
        over = self.got - self.wished
        if (self.bound == "at least" and over > 0) or (self.bound == "at most" and over < 0):
            return 0.0
        return over

    @property
    def met(self) -> bool:
        return abs(self.off) <= self.allowed + EXACT


class Solution(Value, frozen=True):
    """What a wish module found, as pieces; `solve` measures them."""

    piece: Piece
    below: Piece | None = None
    above: Piece | None = None
    others: tuple[Piece, ...] = ()
    hindrance: str = ""


class Standing(Value, frozen=True):
    """How a piece as it is stands to one of its fits."""

    fit: Fit
    residuals: tuple[Residual, ...]
    hindrance: str = ""

    @property
    def met(self) -> bool:
        return not self.hindrance and all(r.met for r in self.residuals)


class Answer(Value, frozen=True):
    """One possible piece, in what it differs from the first, and what it leaves over."""

    piece: Piece
    changed: tuple[str, ...]
    residuals: tuple[Residual, ...]


class Fitted(Value, frozen=True):
    """A fit solved. `below` and `above` are one step shorter and longer; `others` further answers
    of as many as there are; `hindrance` says why it cannot be had, or what it runs against."""

    fit: Fit
    best: Answer
    below: Answer | None = None
    above: Answer | None = None
    others: tuple[Answer, ...] = ()
    hindrance: str = ""

    @property
    def met(self) -> bool:
        return not self.hindrance and all(r.met for r in self.best.residuals)
