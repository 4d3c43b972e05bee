"""Phrases of a file, one a line, `#` for comments: each as the insert line takes it, with nothing
added that was not said. What the first one refused says is named with its line; nothing is kept.
"""

from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.edits.edit import with_thing
from maglia.core.edits.spots import Edited, opening_spot
from maglia.core.parts.parts import Part
from maglia.core.parts.units import Unit
from maglia.core.piece.piece import Piece, Wearer
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.lying import Deed
from maglia.core.workshop.tray import Tray
from maglia.phrases.here import Here
from maglia.phrases.phrase import only_offer

ON_AN_EMPTY_BENCH = ("new ", "begin ")
TO_THE_END = ("note", "accept")
"""What is said in a line to its end, `;` and all."""


class Written(Value, frozen=True):
    """The piece that a script makes, and what it keeps in the workshop."""

    piece: Piece
    keeps: tuple[Part | Unit | Wearer, ...] = ()
    lies: tuple[tuple[Part, Deed], ...] = ()

    @property
    def bench(self) -> Piece:
        """The piece with all that was kept, where there is no workshop to keep it in."""
        piece = self.piece
        for thing in self.keeps:
            piece = piece if isinstance(thing, Wearer) else with_thing(piece, thing)
        return piece


def lines_of(text: str) -> list[tuple[int, str]]:
    """The phrases of a text with the number of their line; a `;` parts phrases too."""
    found = []
    for number, line in enumerate(text.splitlines(), 1):
        for phrase in phrases_in(line):
            if not phrase.startswith("#"):
                found.append((number, phrase))
    return found


def phrases_in(line: str) -> list[str]:
    """Several phrases of one line, parted by `;` outside of quotes; a comment is none."""
    if line.lstrip().startswith("#"):
        return []
    if (line.lower().split() or [""])[0].rstrip(":") in TO_THE_END:
        return [line.strip()]
    found, quoted, begun = [], False, 0
    for k, sign in enumerate(line):
        if sign in '“”"' and not (sign == '"' and k and line[k - 1].isdigit()):
            quoted = not quoted
        if sign == ";" and not quoted:
            found.append(line[begun:k])
            begun = k + 1
    return [part.strip() for part in [*found, line[begun:]] if part.strip()]


def write(text: str, tray: Tray, onto: Piece | None = None) -> Written:
    """What a script makes, from a tray and from an empty bench or `onto` a piece. Raises
    DomainError naming the line and the word."""
    piece, spot, begun = onto or Piece(), opening_spot(onto) if onto else None, onto is not None
    keeps: list[Part | Unit | Wearer] = []
    lies: list[tuple[Part, Deed]] = []
    for number, phrase in lines_of(text):
        try:
            if not begun and not phrase.lower().startswith(ON_AN_EMPTY_BENCH):
                raise DomainError("nothing is begun yet: say first begin necklace for …")
            here = Here(piece, tray, spot, script=True)
            offer = only_offer(phrase, here)
            edited = offer.do()
            expand(edited.piece)
            if begun and not offer.begins:
                edited = replace(edited, piece=fitted(piece, edited))
        except DomainError as fault:
            raise DomainError(f"line {number}, “{phrase}”: {fault}") from None
        if offer.begins:
            begun = True
        elif not begun:  # what is new before a piece is begun is kept, and dresses nothing
            edited = replace(edited, piece=piece)
        piece, spot = edited.piece, edited.spot
        keeps += offer.keeps
        lies += offer.lies
        tray = with_kept(tray, offer.keeps)
    if not begun:
        raise DomainError("the script begins no piece: say begin necklace for …")
    return Written(piece, tuple(keeps), tuple(lies))


SOLVED_ANEW = ("fits", "runs", "rows", "closure", "wearer", "form", "wraps")
"""What of a piece its wishes are solved by."""


def fitted(before: Piece, edited: Edited) -> Piece:
    """A piece with its wishes solved anew, as they are after every edit at the bench: what a wish
    had set and the maker sets now is pinned."""
    after = edited.piece
    if not after.fits or all(getattr(before, f) == getattr(after, f) for f in SOLVED_ANEW):
        return after
    from maglia.core.fit.hold import held
    from maglia.core.fit.look import Trials
    from maglia.core.fit.solve import solve

    solved: Piece = solve(held(before, after, edited.about or edited.spot), Trials()).piece
    return solved


def with_kept(tray: Tray, keeps: tuple[Part | Unit | Wearer, ...]) -> Tray:
    """A tray with further things; a wearer of the same role in the place of the one there."""
    if not keeps:
        return tray
    held = {thing.id for thing in (*tray.parts, *tray.units)}
    parts = tuple(t for t in keeps if not isinstance(t, Unit | Wearer) and t.id not in held)
    units = tuple(t for t in keeps if isinstance(t, Unit) and t.id not in held)
    people = {w.role: w for w in (*tray.wearers, *(t for t in keeps if isinstance(t, Wearer)))}
    return replace(tray, parts=(*tray.parts, *parts), units=(*tray.units, *units),
                   wearers=tuple(people.values()))  # fmt: skip
