"""A piece looked at by a fit: its assembly, and how it hangs when that is asked for."""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.expand import expand
from maglia.core.hang.hung import Hung, hang
from maglia.core.hang.readings import Readings, readings
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError, Value

KEPT = 400


class Look(Value, frozen=True, dict=True):
    """One piece as built and as it hangs."""

    assembly: Assembly
    hung: Hung | None

    @property
    def piece(self) -> Piece:
        return self.assembly.piece

    @cached_property
    def readings(self) -> Readings:
        return readings(self.assembly, self.hung)


@dataclass
class Trials:
    """Looks at pieces, each hang going on from the one before. `progress` is told how many."""

    cancelled: Callable[[], bool] = lambda: False
    progress: Callable[[int], None] = lambda looks: None
    last: tuple[Assembly, Hung] | None = None
    looks: int = 0
    _known: dict[Piece, Look] = field(default_factory=dict)

    def built(self, piece: Piece) -> Look:
        """The piece built but not hung. Raises DomainError if it cannot be built."""
        return self._known.get(piece) or Look(expand(piece), None)

    def hung(self, piece: Piece) -> Look:
        """The piece at rest. Raises DomainError, with the cause, if it finds none."""
        known = self._known.get(piece)
        if known is None:
            assembly = expand(piece)
            known = Look(assembly, hang(assembly, self.cancelled, self.last))
            self.looks += 1
            self.progress(self.looks)
            if len(self._known) > KEPT:
                self._known.clear()
            self._known[piece] = known
        if known.hung is None or known.hung.state != "converged":
            cause = known.hung.solution.cause if known.hung else "it is empty"
            raise DomainError(f"the piece cannot hang: {cause}")
        self.last = (known.assembly, known.hung)
        return known
