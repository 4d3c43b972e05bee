"""Names of things: which part or unit some words mean, of those that can stand there.

A word may be the beginning of a word of the name or of its kind, in any order, plurals too; a
number is one of its sizes. What fits best is decided by one order: named exactly; whole words
before beginnings; its first size before others; what can stand there; fewest words of it unsaid; of
the piece before of the tray. Of what is still alike the maker chooses.
"""

import re
from bisect import bisect_left
from collections.abc import Callable, Iterable, Sequence
from copy import copy
from difflib import get_close_matches
from typing import Any, NamedTuple

from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    End,
    Pin,
    Ring,
    Wire,
)
from maglia.core.parts.sizes import sizes_of
from maglia.core.parts.units import BeadLink, Cluster, Dangle, HookLink, Tassel, Thing, Unit
from maglia.core.piece.piece import Piece, catalogue
from maglia.core.values.record import Value
from maglia.core.workshop.tray import Tray
from maglia.phrases.words import SILENT, Misread, Word, Words, text_of, unknown

Kind = type[Any] | Callable[[Any], bool]
Kinds = Sequence[Kind]
"""Kinds of things that can stand somewhere, the likeliest first: types, or what asks a thing."""
_SPLIT = re.compile(r"(\d+(?:[.,]\d+)?)(?:\s*(?:mm|cm|in)\b)?|([^\W\d_]+(?:['’][^\W\d_]+)?)")
_CALLED: dict[type[Any], str] = {
    Chain: "chain", Ring: "ring", Charm: "charm", Connector: "connector", Cluster: "cluster",
    Tassel: "tassel", Dangle: "dangle", HookLink: "hook link", BeadLink: "bead link",
}  # fmt: skip
_EARS = {"hook": "ear hook", "post": "ear post", "leverback": "lever back", "hoop": "ear hoop"}
NEAR = 0.6
"""How alike a word must be to be offered for one that is not known."""


def kind_words(thing: Thing) -> str:
    """What a thing of its kind is called."""
    if isinstance(thing, Bead):
        return thing.role
    if isinstance(thing, Pin):
        return f"{thing.head} pin"
    if isinstance(thing, EarFinding):
        return _EARS[thing.sort]
    if isinstance(thing, Clasp):
        return f"{thing.sort} clasp"
    if isinstance(thing, Wire | End):
        return str(thing.sort)
    return next(words for kind, words in _CALLED.items() if isinstance(thing, kind))


class Entry(NamedTuple):
    """A thing as it is looked for: the words and numbers of its name, the words of its kind, its
    sizes with the first one first."""

    thing: Thing
    words: tuple[str, ...]
    numbers: tuple[float, ...]
    kind: tuple[str, ...]
    sizes: tuple[float, ...]


def entry_of(thing: Thing) -> Entry:
    said = _SPLIT.findall(thing.name.lower())
    numbers = tuple(float(number.replace(",", ".")) for number, _ in said if number)
    words = tuple(word for _, word in said if word)
    sizes: list[float] = []
    if not isinstance(thing, Unit):
        for size in sizes_of(thing):
            value = getattr(thing, size.field)
            sizes += value if isinstance(value, tuple) else [value] if value is not None else []
    return Entry(thing, words, numbers, tuple(kind_words(thing).split()), tuple(sizes))


class Index:
    """Entries found by the beginnings of their words."""

    def __init__(self, things: Iterable[Thing]) -> None:
        self.entries = [entry_of(thing) for thing in things]
        pairs = sorted(
            (word, k)
            for k, entry in enumerate(self.entries)
            for word in {*entry.words, *entry.kind, entry.thing.name.lower()}
        )
        self.words = [word for word, _ in pairs]
        self.at = [k for _, k in pairs]

    def beginning(self, word: str) -> set[int]:
        """Entries with a word that begins so."""
        first = bisect_left(self.words, word)
        last = bisect_left(self.words, word + "\U0010ffff")
        return set(self.at[first:last])


_KEPT: dict[int, tuple[Tray, Index]] = {}


def _index_of(tray: Tray) -> Index:
    """The index of a tray; of the last few it is kept."""
    held = _KEPT.get(id(tray))
    if held is not None and held[0] is tray:
        return held[1]
    while len(_KEPT) >= 4:
        _KEPT.pop(next(iter(_KEPT)))
    index = Index((*tray.units, *tray.parts))
    _KEPT[id(tray)] = (tray, index)
    return index


class Fit(NamedTuple):
    """How well a thing fits what was said: less is better."""

    rank: tuple[int, ...]
    entry: Entry


class Found(NamedTuple):
    """Everything that fits, best first, and how many of them fit alike best."""

    things: tuple[Thing, ...]
    alike: int


class Ambiguous(Misread):
    """Several things fit alike."""

    def __init__(self, words: Sequence[Word], things: tuple[Thing, ...]) -> None:
        names = " or ".join(f"“{thing.name}”" for thing in things[:4])
        more = f" and {len(things) - 4} more" if len(things) > 4 else ""
        super().__init__(
            f"“{text_of(words)}” may be {names}{more}: say more of its name",
            words[0].start, words[-1].end,
        )  # fmt: skip
        self.things = things


class Looked(Value, frozen=True):
    """A name that was looked up: where it stands, and everything that fits, best first."""

    start: int
    end: int
    things: tuple[Thing, ...]


class Names:
    """What can be named: the piece's own first, then the tray's; with what was `chosen` for words
    that fit several, by their place in the text."""

    def __init__(self, piece: Piece, tray: Tray) -> None:
        own = catalogue(piece)
        self.own = Index(own.values())
        self.tray, self.own_ids = _index_of(tray), own
        self.chosen: dict[int, str] = {}
        self.looked: list[Looked] = []
        self._found: dict[tuple[object, ...], Found] = {}
        self._things: dict[str, Thing] | None = None

    def choosing(self, chosen: dict[int, str]) -> "Names":
        """The same names, with what some words mean; what was looked up need not be again."""
        other = copy(self)
        other.chosen, other.looked = {**self.chosen, **chosen}, []
        return other

    @property
    def things(self) -> dict[str, Thing]:
        """Everything that can be named, by its id; the piece's own copy before the tray's."""
        if self._things is None:
            held = {entry.thing.id: entry.thing for entry in self.tray.entries}
            self._things = held | self.own_ids
        return self._things

    def find(self, words: Words, kinds: Kinds, *, what: str = "") -> Thing:
        """The thing that words mean, of the kinds that can stand there; of two that fit alike the
        kind said first. Raises Ambiguous, or Misread naming the word."""
        if not words:
            raise Misread(f"say {what or 'what'}")
        things, alike = self._fits(words, kinds)
        if not things:
            raise self._unknown(words, kinds, what)
        self.looked.append(Looked(words[0].start, words[-1].end, things))
        if (held := self.chosen.get(words[0].start)) is not None:
            picked = next((thing for thing in things if thing.id == held), None)
            if picked is not None:
                return picked
        if alike > 1:
            raise Ambiguous(words, things[:alike])
        return things[0]

    def fits(self, words: Words, kinds: Kinds) -> bool:
        """Whether something of some kinds may be meant."""
        return bool(words) and bool(self._fits(words, kinds).things)

    def _fits(self, words: Words, kinds: Kinds) -> "Found":
        key = (*(word.low for word in words), *kinds)
        held = self._found.get(key)
        if held is None:
            fits = self._rank(words, kinds)
            alike = sum(fit.rank == fits[0].rank for fit in fits)
            held = self._found[key] = Found(tuple(fit.entry.thing for fit in fits), alike)
        return held

    def _rank(self, words: Words, kinds: Kinds) -> list[Fit]:
        found: list[Fit] = []
        for place, index in enumerate((self.own, self.tray)):
            for entry in self._near(index, words):
                if place and entry.thing.id in self.own_ids:
                    continue
                order = next((k for k, kind in enumerate(kinds) if is_of(entry.thing, kind)), None)
                fit = None if order is None else rank_of(words, entry)
                if fit is not None and order is not None:
                    found.append(Fit((*fit[:3], order, *fit[3:], place), entry))
        return sorted(found, key=lambda fit: (fit.rank, fit.entry.thing.name))

    def _near(self, index: Index, words: Words) -> list[Entry]:
        said = next((w for w in words if w.sort in ("word", "name") and w.low != "x"), None)
        if said is None:
            return index.entries
        first = said.low if said.sort == "name" else said.low.split("-")[0]
        places = index.beginning(first)
        for one in singular(first):
            places |= index.beginning(one)
        return [index.entries[k] for k in sorted(places)]

    def _unknown(self, words: Words, kinds: Kinds, what: str) -> Misread:
        """The word that is not known and the nearest to it; or what cannot stand here."""
        anything = self._fits(words, (object,)).things
        if anything:
            thing = anything[0]
            return unknown(words, f"is {_article(kind_words(thing))}, and cannot stand here"
                           + (f": {what}" if what else ""))  # fmt: skip
        strange = next((w for w in words if w.sort in ("word", "name", "sign")
                        and not self.own.beginning(w.low) and not self.tray.beginning(w.low)
                        and not any(self.own.beginning(s) or self.tray.beginning(s)
                                    for s in singular(w.low))), None)  # fmt: skip
        if strange is not None:
            known = {w for w in (*self.own.words, *self.tray.words) if " " not in w}
            near = get_close_matches(strange.low, known, n=3, cutoff=NEAR)
            hint = f": did you mean {' or '.join(f'“{n}”' for n in near)}?" if near else ""
            return unknown([strange], f"is not known here{hint}")
        near_things = self._fits(words[:1], kinds).things or self._fits(words[:1], (object,)).things
        names = ", ".join(thing.name for thing in near_things[:4])
        return unknown(
            words, "is the name of nothing here" + (f"; there is {names}" if names else "")
        )


def is_of(thing: Thing, kind: Kind) -> bool:
    return isinstance(thing, kind) if isinstance(kind, type) else kind(thing)


def _article(words: str) -> str:
    return f"an {words}" if words[0] in "aeiou" else f"a {words}"


def means(words: Words, thing: Thing | None) -> bool:
    """Whether words may mean a thing."""
    return bool(words) and thing is not None and rank_of(words, entry_of(thing)) is not None


def singular(word: str) -> tuple[str, ...]:
    """What a plural may be one of."""
    if word.endswith("ies") and len(word) > 4:
        return (word[:-3] + "y", word[:-1])
    if word.endswith("es") and len(word) > 3:
        return (word[:-1], word[:-2])
    return (word[:-1],) if word.endswith("s") and len(word) > 2 else ()


def rank_of(words: Words, entry: Entry) -> tuple[int, int, int, int, int] | None:
    """How well words fit an entry: not named exactly, beginnings, sizes that are not its first,
    words that are of its kind alone, words unsaid. None if one of them is not its."""
    if len(words) == 1 and words[0].sort == "name":
        return (0, 0, 0, 0, 0) if words[0].low == entry.thing.name.lower() else None
    left, kind = list(entry.words), list(entry.kind)
    numbers = list(entry.numbers)
    beginnings = others = by_kind = 0
    for word in words:
        if word.amount is not None:
            value = word.amount.value
            if value in numbers:
                first = value == entry.numbers[0]
                numbers.remove(value)
            elif any(abs(value - size) < 1e-6 for size in entry.sizes):
                first = bool(entry.sizes) and abs(value - entry.sizes[0]) < 1e-6
            else:
                return None
            others += not first
            continue
        if word.low == "x":
            continue
        for part in word.low.split("-"):
            if _take(part, left, whole=True):
                continue
            if _take(part, kind, whole=True):
                by_kind += 1
                continue
            if not _take(part, left, whole=False):
                if not _take(part, kind, whole=False):
                    return None
                by_kind += 1
            beginnings += 1
    exact = " ".join(word.low for word in words) == entry.thing.name.lower() or not (
        left or numbers or beginnings or others or len(words) < len(entry.words)
    )
    return (int(not exact), beginnings, others, by_kind, len(left) + len(numbers))


def _take(word: str, among: list[str], *, whole: bool) -> bool:
    """Take a word out of those left, if it is one of them or begins one."""
    for said in (word, *singular(word)):
        for k, one in enumerate(among):
            if one == said or (not whole and one.startswith(said)):
                del among[k]
                return True
    return False


MEANS_MORE = frozenset({
    "on", "with", "at", "by", "from", "to", "of", "and", "x", "over", "ends", "then", "into",
    "after", "between", "carrying", "beside", "abreast", "each", "every", "spread", "bare",
    "knot", "knots", "called", "loop", "loops", "far", "mid", "simple", "doubled", "wrapped",
    "crosswise", "spiral", "turned", "skirt", "wraps", "neck", "folded", "wound", "trim", "halo",
    "foot", "legs", "back", "braided", "slip", "fold", "end", "straight", "new", "all", *SILENT,
})  # fmt: skip
"""Words that say something else in a phrase."""
PLAIN = re.compile(r"[^\W\d_][\w.'-]*(?: [\w.'-]+)*")


def said(name: str) -> str:
    """A name as a phrase says it: in quotes if its words might mean something else."""
    plain = PLAIN.fullmatch(name) and not MEANS_MORE & set(re.split(r"[ -]", name.lower()))
    return name if plain else f"“{name}”"
