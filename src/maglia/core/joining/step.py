"""One step of the plan: what is done, how often, with what in hand."""

from maglia.core.cutting.day import Stretch
from maglia.core.joining.order import Closing, Stage
from maglia.core.joining.words import Taken
from maglia.core.values.record import Value


class Step(Value, frozen=True):
    """One thing to do, `count` times over. `how` are the sentences of the first one; `where` says
    at which places; `takes` what the first one takes, in threading order. `needs` are steps that
    come before, `waits_min` must pass before what comes next."""

    id: str
    stage: Stage
    verb: str
    says: str
    where: str = ""
    how: tuple[str, ...] = ()
    count: int = 1
    mirror: str = ""
    closings: tuple[Closing, ...] = ()
    takes: tuple[Taken, ...] = ()
    new: tuple[int, ...] = ()
    in_hand: tuple[int, ...] = ()
    up: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    needs: tuple[str, ...] = ()
    waits_min: float = 0.0
    minutes: float = 0.0
    measure_mm: float | None = None
    things: tuple[str, ...] = ()
    """Parts and units by id that it makes or readies, where it has no members."""
    stretch: Stretch | None = None
    """What each of its cuts takes of a length."""
