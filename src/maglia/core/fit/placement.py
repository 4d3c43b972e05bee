"""Placement of a row of drops: evenly, every k-th link, or at equal distances as worn.

Places are symmetrical about the fold; an odd number of drops puts one on it, and then the chain
needs a link there: an odd count. Even places never differ by more than one link.
"""

from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from maglia.core.assembly.kinds import count_of, with_count
from maglia.core.assembly.rows import drop_numbers
from maglia.core.edits.edit import put
from maglia.core.edits.spots import Spot, item_of, owner_of, quantity_at, spot_in
from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.said import Said
from maglia.core.fit.wish import RowCount, Target, Wish
from maglia.core.hang.hung import Hung
from maglia.core.parts.parts import Chain, Ring
from maglia.core.piece.items import ChainItem, RingItem
from maglia.core.piece.piece import DropRow, Piece
from maglia.core.piece.wishes import PlacesFit, Rule
from maglia.core.values.measures import LengthUnit
from maglia.core.values.record import DomainError

WORN_ROUNDS = 4
SHIFTS = 20


def words(fit: PlacesFit, shown: LengthUnit) -> str:
    how = {"even": "evenly", "every": f"every {fit.every} links", "worn": "equal as worn"}[fit.rule]
    return f"{fit.count} drops of “{fit.row}” {how}"


def row_of(piece: Piece, name: str, fit: str) -> DropRow:
    row = piece.owner(name)
    if not isinstance(row, DropRow):
        raise DomainError(f"fit “{fit}”: there is no row of drops “{name}”")
    return row


def with_row(piece: Piece, row: DropRow) -> Piece:
    return piece.replaced(owner_of(piece, row.name), row)


Host = ChainItem | RingItem


def host_of(piece: Piece, row: DropRow) -> tuple[Spot, Host]:
    """Where the chain or rings are that a row stands on."""
    owner = piece.owner(row.run)
    spot = spot_in(owner, row.item) if owner is not None else None
    if spot is None:
        raise DomainError(f"row “{row.name}” stands on “{row.run}”, which has no such item")
    host = item_of(piece, spot)
    if not isinstance(host, ChainItem | RingItem):
        raise DomainError(f"row “{row.name}” stands on a {host.kind}: it needs chain or rings")
    return spot, host


def measured(fit: PlacesFit, look: Look) -> tuple[Residual, ...]:
    """Number of drops, and by how much the spaces between them differ."""
    row = row_of(look.piece, fit.row, fit.name)
    numbers = drop_numbers(row, look.piece)
    _, host = host_of(look.piece, row)
    central = row.item == 0
    count = 2 * len(numbers) - (0 in numbers) if central else len(numbers)
    found = [Residual("drops", fit.count, count, 0.0, unit="drops")]
    if fit.rule == "worn":
        if look.hung is None:
            raise DomainError("places as worn are read off the hang, and it does not hang")
        across = _across(look, row, numbers)
        uneven = max(across) - min(across) if across else 0.0
        most = fit.tolerance_mm or _pitch(look, row)
        found.append(Residual("spaces differ", most, uneven, 0.0, "at most"))
        return tuple(found)
    spaces = _spaces(numbers, count_of(host), central=central)
    uneven = float(max(spaces) - min(spaces)) if spaces else 0.0
    found.append(Residual("spaces differ", 1.0, uneven, 0.0, "at most", "links"))
    if fit.rule == "every" and spaces:
        found.append(Residual("space", fit.every, max(spaces), 0.0, unit="links"))
    return tuple(found)


def _spaces(numbers: tuple[int, ...], size: int, *, central: bool) -> list[int]:
    """Links from each drop to the next, over both sides of the fold."""
    spaces = [b - a for a, b in pairwise(numbers)]
    if central and numbers and numbers[0]:
        middle = 2 * numbers[0] if size % 2 else 2 * numbers[0] - 1
        spaces = [middle, *spaces]
    return spaces


def _pitch(look: Look, row: DropRow) -> float:
    _, host = host_of(look.piece, row)
    thing = look.assembly.things[host.part]
    if isinstance(thing, Chain):
        return max(thing.pitches_mm or (1.0,))
    return (thing.inner_mm if isinstance(thing, Ring) else None) or 1.0


def _across(look: Look, row: DropRow, numbers: tuple[int, ...]) -> list[float]:
    """Distances across, seen from the front, from each drop to the next, mm."""
    x = link_places(look, row)
    at = [x[n if row.item == 0 else n - 1] for n in numbers]
    spaces = [b - a for a, b in pairwise(at)]
    if row.item == 0 and numbers and numbers[0]:
        spaces = [2 * at[0], *spaces]
    return spaces


def link_places(look: Look, row: DropRow) -> list[float]:
    """How far out, mm, each link of the right half lies: from the fold, or from the inner end."""
    side = "fold" if row.item == 0 else "right"
    hung = look.hung
    assert hung is not None
    found: list[float] = []
    for member in look.assembly.members:
        if (member.run, member.item, member.side) == (row.run, row.item, side):
            found += _middles(hung, member.id)
    found.sort()
    if row.item == 0:
        out = [abs(v) for v in found[len(found) // 2 :]]
        return out if len(found) % 2 else [0.0, *out]
    return found


def _middles(hung: Hung, member: int) -> list[float]:
    x = hung.points_of(member)[:, 0]
    return [float(v) for v in (x[:-1] + x[1:]) / 2]


def solved(fit: PlacesFit, piece: Piece, trials: Trials) -> Solution:
    row = row_of(piece, fit.row, fit.name)
    _, host = host_of(piece, row)
    size, central = count_of(host), row.item == 0
    if central and fit.count % 2 and size % 2 == 0:
        return _no_link_on_fold(fit, piece, row, trials)
    if fit.count > size:
        raise DomainError(f"{fit.count} drops do not fit on {size} links")
    if fit.rule == "worn":
        return Solution(_worn(fit, piece, row, trials))
    best = _by_rule(fit, piece, row, size)
    step = 2 if central else 1
    return Solution(
        best,
        _other(fit, piece, row, size, -step),
        _other(fit, piece, row, size, +step),
        hindrance=_no_room(fit, size, central=central),
    )


def _by_rule(fit: PlacesFit, piece: Piece, row: DropRow, size: int) -> Piece:
    count = fit.count
    if fit.rule == "even":
        return with_row(piece, replace(row, rule="even", count=count, places=()))
    count = min(count, _most(fit, size, central=row.item == 0))
    if row.item == 0:
        changed = replace(row, rule="every", every=fit.every, count=count, places=())
    else:
        places = tuple(1 + fit.every * k for k in range(count))
        changed = replace(row, rule="places", places=places)
    return with_row(piece, changed)


def _most(fit: PlacesFit, size: int, *, central: bool) -> int:
    """How many drops find room at every k-th link, with the parity of the wish."""
    if not central:
        return (size - 1) // fit.every + 1
    half, k = size // 2, fit.every
    if fit.count % 2:
        return 1 + 2 * (half // k)
    first = (k + 1) // 2
    return 2 * ((half - first) // k + 1) if half >= first else 0


def _no_room(fit: PlacesFit, size: int, *, central: bool) -> str:
    if fit.rule != "every":
        return ""
    most = _most(fit, size, central=central)
    if most >= fit.count:
        return ""
    return f"every {fit.every} links there is room for {most} on {size} links"


def _other(fit: PlacesFit, piece: Piece, row: DropRow, size: int, by: int) -> Piece | None:
    count = fit.count + by
    if not 1 <= count <= size:
        return None
    return _by_rule(replace(fit, count=count), piece, row, size)


def _no_link_on_fold(fit: PlacesFit, piece: Piece, row: DropRow, trials: Trials) -> Solution:
    """An even count has no link on the fold: made odd if the fit may change it, else said."""
    spot, host = host_of(piece, row)
    size = count_of(host)
    if quantity_at(spot) in fit.changes:
        longer = put(piece, spot, with_count(host, size + 1))
        return solved(fit, longer, trials)
    reason = (
        f"{size} links leave none on the fold for the middle one of {fit.count}; make it "
        f"{size - 1} or {size + 1} links, or hang {fit.count - 1} or {fit.count + 1}"
    )
    fewer, more = (
        _by_rule(replace(fit, rule="even", count=n), piece, row, size) if 1 <= n <= size else None
        for n in (fit.count - 1, fit.count + 1)
    )
    return Solution(piece, fewer, more, hindrance=reason)


def _worn(fit: PlacesFit, piece: Piece, row: DropRow, trials: Trials) -> Piece:
    """The links nearest to equal distances across; hung again until they stay the same."""
    _, host = host_of(piece, row)
    outermost = max(drop_numbers(row, piece), default=count_of(host) // 2)
    changed = _by_rule(replace(fit, rule="even"), piece, row, count_of(host))
    best, least = changed, float("inf")
    for _ in range(WORN_ROUNDS):
        look = trials.hung(changed)
        uneven = measured(fit, look)[1].got
        if uneven < least - 1e-9:
            best, least = changed, uneven
        x = link_places(look, row)
        numbers = _spread(fit.count, x, outermost, central=row.item == 0)
        following = with_row(piece, replace(row, rule="places", places=numbers))
        if following == changed:
            break
        changed = following
    return _shifted(fit, best, least, trials)


def _shifted(fit: PlacesFit, piece: Piece, least: float, trials: Trials) -> Piece:
    """The same with single drops a link further in or out, as long as that makes it more even:
    where drops hang they bend the chain, so the nearest link is not always the best."""
    for _ in range(SHIFTS):
        row = row_of(piece, fit.row, fit.name)
        numbers = drop_numbers(row, piece)
        best = piece
        for k in range(1 if numbers[0] == 0 else 0, len(numbers) - 1):
            for by in (-1, 1):
                moved = (*numbers[:k], numbers[k] + by, *numbers[k + 1 :])
                if len(set(moved)) < len(moved) or list(moved) != sorted(moved) or moved[k] < 1:
                    continue
                other = with_row(piece, replace(row, rule="places", places=moved))
                uneven = measured(fit, trials.hung(other))[1].got
                if uneven < least - 1e-6:
                    best, least = other, uneven
        if best == piece:
            break
        piece = best
    return piece


def _spread(count: int, x: list[float], outermost: int, *, central: bool) -> tuple[int, ...]:
    """Link numbers nearest to equal distances up to the outermost one."""
    reach = x[min(outermost, len(x) - 1)]
    if not central:
        wanted = list(np.linspace(x[0], reach, count))
    elif count % 2:
        wanted = list(np.linspace(0, reach, count // 2 + 1))
    else:
        space = reach / (count - 1)
        wanted = [space * (2 * k + 1) for k in range(count // 2)]
    places = [int(np.abs(np.array(x) - w).argmin()) + (0 if central else 1) for w in wanted]
    if len(set(places)) < len(places):
        raise DomainError(f"{count} drops at equal distances stand closer than its links")
    return tuple(places)


def targets(fit: PlacesFit, piece: Piece) -> frozenset[Target]:
    return frozenset({RowCount(fit.row, "places")})


def read(said: Said) -> PlacesFit:
    name = said.one(DropRow, "a row of drops")
    own = row_of(said.piece, name, name)
    every = [amount for word, amount in said.numbers if word == "every"]
    counts = said.plain()
    if every:
        count = said.whole(counts[0]) if counts else own.count or 1
        step = said.whole(every[0])
        return PlacesFit(name=f"places of {name}", row=name, rule="every", every=step, count=count)
    rule: Rule = "worn" if "worn" in said.words else "even"
    return PlacesFit(name=f"places of {name}", row=name, rule=rule, count=said.count())


def written(fit: PlacesFit) -> str:
    if fit.rule == "every":
        return f"every {fit.every}, {fit.count} of {fit.row}"
    return f"{fit.rule} {fit.count} of {fit.row}"


WISH = Wish(
    record=PlacesFit,
    begins=("even", "evenly", "every", "worn"),
    forms=(("even 9 of NAME", "drops spread evenly; “every 4, 9 of NAME”; “worn 9 of NAME”"),),
    read=read,
    written=written,
    words=words,
    measured=measured,
    solved=solved,
    targets=targets,
    hangs=lambda fit: fit.rule == "worn",
)
