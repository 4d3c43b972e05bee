"""Further starting points, each said in phrases with what lies in the tray: strung, on ribbon, of
strap, rows on a chain, charms on a bracelet. A maker changes them from there.
"""

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace

from maglia.core.parts.parts import Bead, Chain, Charm, Clasp, End, Ring, Wire
from maglia.core.parts.units import BeadLink, Thing
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.skeleton_kit import Asked
from maglia.core.workshop.tray import Tray
from maglia.phrases.script import write


class Hand:
    """What lies in a tray, by what it is wanted for. Raises DomainError naming what is lacking."""

    def __init__(self, tray: Tray) -> None:
        self.things: list[Thing] = [*tray.units, *tray.parts]

    def take(self, what: str, kind: type[Any], fits: Callable[[Any], bool] = lambda _: True) -> str:
        """The first thing of a kind, by its whole name."""
        found = next((t for t in self.things if isinstance(t, kind) and fits(t)), None)
        if found is None:
            raise DomainError(f"the tray holds no {what}: add one, or start from an empty bench")
        return f"“{found.name}”"

    def ring(self, near_mm: float) -> str:
        """The open ring whose inside is nearest."""
        held = (t for t in self.things if isinstance(t, Ring) and t.closure == "open")
        rings = [ring for ring in held if ring.inner_mm and ring.wire_mm]
        if not rings:
            raise DomainError("the tray holds no open ring: add one, or start from an empty bench")
        best = min(rings, key=lambda ring: abs((ring.inner_mm or 0.0) - near_mm))
        return f"“{best.name}”"

    def closed(self) -> str:
        """Closing with a clasp into a ring that it bites."""
        lobster = self.take("lobster", Clasp, lambda c: c.sort in ("lobster", "spring ring"))
        return f"close {lobster} into {self.ring(4.5)}"


Say = Callable[[Hand, str, int], list[str]]


class Start(Value, frozen=True):
    """One starting point: its name, what `count` counts, how many to begin with, its phrases."""

    id: str
    name: str
    counts: str
    usual: int
    say: Say


def begun(start: Start, tray: Tray, asked: Asked) -> Piece:
    """The piece a starting point makes."""
    if asked.count is not None and not 1 <= asked.count <= 60:
        raise DomainError(f"{asked.count} {start.counts}: take 1 to 60")
    phrases = start.say(Hand(tray), f"“{asked.wearer.role}”", asked.count or start.usual)
    if asked.length_mm is not None:
        phrases.append(f"length {asked.length_mm:g} mm")
    piece = write("\n".join(phrases), replace(tray, wearers=(asked.wearer,))).piece
    return replace(piece, name=start.name.capitalize(), wearer=asked.wearer)


def _thread(wire: Wire) -> bool:
    return wire.sort in ("cable", "thread")


def _strung(hand: Hand, who: str, count: int) -> list[str]:
    thread, end = hand.take("cable or thread", Wire, _thread), hand.take(
        "crimp", End, lambda e: e.sort == "crimp")  # fmt: skip
    large, small = _two_beads(hand)
    ring = hand.ring(4.0)
    return [f"begin necklace for {who}",
            f"string {count} x ({small}, 2 {large}), {small} on {thread}, ends {end}",
            ring, hand.closed()]  # fmt: skip


def _two_beads(hand: Hand) -> tuple[str, str]:
    """A larger bead and a smaller one, of those whose length is known."""
    beads = sorted((t for t in hand.things if isinstance(t, Bead) and t.length_mm
                    and t.role == "bead"), key=lambda bead: bead.length_mm or 0.0)  # fmt: skip
    if not beads:
        raise DomainError("the tray holds no beads: add some, or start from an empty bench")
    return f"“{beads[len(beads) // 2].name}”", f"“{beads[0].name}”"


def _ribbon(hand: Hand, who: str, count: int) -> list[str]:
    ribbon = hand.take("ribbon", Wire, lambda w: w.sort == "ribbon")
    clamp = hand.take("clamp", End, lambda e: e.sort == "clamp")
    charm = hand.take("charm", Charm)
    ring = hand.ring(4.0)
    return [f"begin necklace for {who}", f"{count} cm {ribbon}, ends {clamp}", ring, hand.closed(),
            f"drop {ring}, {charm} at 0 mm"]  # fmt: skip


def _strap(hand: Hand, who: str, count: int) -> list[str]:
    strap = hand.take("cord", Wire, lambda w: w.sort == "cord")
    bead = hand.take("bead", Bead, lambda b: b.role == "bead" and (b.hole_mm or 0) >= 3)
    clamp = hand.take("clamp or cord end", End, lambda e: e.sort in ("clamp", "cord end"))
    return [f"begin bracelet for {who}, 2 turns",
            f"string {bead}, {count} cm bare, {bead} on {strap}, ends {clamp}",
            hand.closed()]  # fmt: skip


def _rows(hand: Hand, who: str, count: int) -> list[str]:
    link = hand.take("bead link with a mid ring", BeadLink, lambda link: link.mid is not None)
    chain, ring = hand.take("chain", Chain, lambda c: bool(c.pitches_mm)), hand.ring(4.0)
    rows = " ".join(str(n) for n in range(count, 0, -1))
    step = 9
    first = 0 if count % 2 == 0 else step // 2 + 1
    places = " ".join(str(first + step * k) for k in range((count + 2) // 2))
    return [f"begin necklace for {who}", f"141 {chain}, {ring}",
            f"rows {rows} {link}, joined by {hand.ring(6.0)}, hung by {hand.ring(6.0)}, "
            f"at links {places} with {ring}", hand.closed()]  # fmt: skip


def _charms(hand: Hand, who: str, count: int) -> list[str]:
    link, ring = hand.take("bead link", BeadLink), hand.ring(4.0)
    charm = hand.take("charm", Charm)
    return [f"begin bracelet free for {who}", f"{ring}, {count} x ({link}, {ring})", hand.closed(),
            f"drop {ring}, {charm} at catch"]  # fmt: skip


def _strip(hand: Hand, who: str, count: int) -> list[str]:
    ring = hand.ring(4.0)
    ends = f", end {hand.ring(5.0)}"
    return [f"begin bracelet free for {who}",
            f"weave four in one 20 rows {max(count, 2)} across: {ring}{ends}", hand.closed(),
            "length"]  # fmt: skip


def _rubber(hand: Hand, who: str, count: int) -> list[str]:
    rubber = hand.take("rubber ring", Ring, lambda r: r.closure == "elastic")
    return [f"begin bracelet free for {who}",
            f"weave rubber and metal {max(count, 3)} pairs closed: rubber {rubber}, "
            f"{hand.ring(6.0)}", "close on itself", "length"]  # fmt: skip


STARTS: tuple[Start, ...] = (
    Start("strung", "strung strand", "repeats", 21, _strung),
    Start("ribbon", "ribbon with a charm", "cm of ribbon", 36, _ribbon),
    Start("strap", "strap wound twice", "cm of strap", 33, _strap),
    Start("rows", "rows on a chain", "links in the top row", 3, _rows),
    Start("charms", "charms on a bracelet", "links", 8, _charms),
    Start("strip", "strip of rings", "rings across", 3, _strip),
    Start("rubber", "rubber and rings", "pairs", 8, _rubber),
)
