"""Weaves: “weave four in one for wrist: ring 4, end ring 5”, “weave stretch triangles 22: large
ring 9, rubber 8, small ring 5”; “swatch 10 rows 48 mm” of the one at the cursor.

Rings are said in the order of their roles, or by role. What is for the wrist has as many rows as go
round it; rubber is closed on itself.
"""

import math
from collections.abc import Sequence
from functools import partial

from msgspec.structs import replace

from maglia.core.assembly.kinds import item_words
from maglia.core.assembly.kinds.weave import weave_words
from maglia.core.edits.edit import put as put_item
from maglia.core.edits.spots import Edited, item_of
from maglia.core.fit.wishes import read_fit, with_fit
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import Things
from maglia.core.piece.items import MOST_ROWS, Swatch, Weave, WeaveItem, WeaveRole
from maglia.core.piece.piece import Closure, FormKind, Piece, Sort
from maglia.core.sheets.weaves import weave_mm
from maglia.core.values.measures import format_length
from maglia.core.values.record import DomainError
from maglia.core.weaves.kinds import SORTS, woven
from maglia.core.weaves.pitch import pitch_of, sizes_of, thickness_mm
from maglia.phrases.here import Here, Offer
from maglia.phrases.items import SaidItem
from maglia.phrases.put_in import put
from maglia.phrases.words import Misread, Words, at_commas, at_signs, is_length, unknown

CALLED: tuple[tuple[tuple[str, ...], Weave], ...] = (
    (("one", "in", "one"), "one in one"), (("four", "in", "one"), "four in one"),
    (("doubled", "strip"), "doubled strip"), (("doubled",), "doubled strip"),
    (("shaggy", "loops"), "shaggy loops"), (("shaggy",), "shaggy loops"), (("box",), "box"),
    (("byzantine",), "Byzantine"), (("rubber", "and", "metal"), "rubber and metal"),
    (("stretch", "triangles"), "stretch triangles"), (("triangles",), "stretch triangles"),
)  # fmt: skip
NUMBERS = {"two": 2, "three": 3, "four": 4, "five": 5, "six": 6}
ROLES: dict[tuple[str, ...], str] = {
    ("end",): "end ring", ("second", "large"): "second large", ("second",): "second large",
    ("large",): "large", ("small",): "small", ("base",): "base", ("tuft",): "tuft",
    ("tufts",): "tuft",
}  # fmt: skip
LIMBS: dict[str, tuple[Sort, FormKind, str]] = {
    "wrist": ("bracelet", "wrist", "wrist_mm"), "ankle": ("anklet", "ankle", "ankle_mm"),
    "neck": ("necklace", "bust", "neck_mm"),
}  # fmt: skip
ROW_WORDS = frozenset({"rows", "row", *(sort.rows for sort in SORTS.values())})
KINDS_SAID = "one in one, two in two, four in one, doubled strip, shaggy loops, box, Byzantine, " \
    "rubber and metal, stretch triangles"  # fmt: skip


class _Said:
    """What stands before the colon: the kind, and how it is made."""

    def __init__(self, words: Words) -> None:
        self.weave, self.abreast, rest = _kind(words)
        self.rows: int | None = None
        self.limb = ""
        self.ends: int | None = None
        self.closes = self.weave == "stretch triangles"
        while rest:
            rest = self._taken(rest)

    def _taken(self, words: Words) -> Words:
        first, second = words[0], words[1] if len(words) > 1 else None
        if first.low == "closed":
            self.closes = True
            return words[1:]
        if first.low == "for" and second is not None and second.low in LIMBS:
            self.limb = second.low
            return words[2:]
        number = first.whole
        if number and second is not None and second.low in ROW_WORDS:
            self.rows = number
            return words[2:]
        if first.low in ("0", "1", "2") and second is not None and second.low in ("end", "ends"):
            self.ends = int(first.low)
            return words[2:]
        if number and second is not None and second.low in ("across", "tufts", "abreast"):
            self.abreast = number
            return words[2:]
        if number and self.rows is None and self.weave in ("stretch triangles", "one in one"):
            self.rows = number
            return words[1:]
        raise unknown([first], "was not understood; of a weave are said so many rows, for wrist, "
                      "closed, 5 across, 3 tufts, then its rings after a colon")  # fmt: skip


def _kind(words: Words) -> tuple[Weave, int, Words]:
    low = tuple(word.low for word in words)
    for said, weave in CALLED:
        if low[: len(said)] == said:
            return weave, SORTS[weave].abreast, words[len(said) :]
    if len(low) > 2 and low[1] == "in":
        one, other = (NUMBERS.get(w.low) for w in (words[0], words[2]))
        if one and one == other:
            return "m in m", one, words[3:]
        if low[0] == low[2] == "m":
            return "m in m", SORTS["m in m"].abreast, words[3:]
    raise unknown(words[:3], f"is no weave: say {KINDS_SAID}")


def weave_offer(words: Words, here: Here) -> Offer:
    """A weave at the cursor."""
    parts = at_signs(words, ":")
    if len(parts) != 2:
        raise Misread("say its rings after a colon, such as: weave four in one 20 rows: ring 4")
    said = _Said(parts[0])
    roles = _roles(said.weave, parts[1], here)
    things = here.things
    rubber = any(role.role == "rubber" for role in roles)
    piece = _for_limb(here, said)
    closes = said.closes or (rubber and bool(said.limb) and not here.piece.runs)
    ends = said.ends
    if ends is None:
        ends = 0 if closes else usual_ends(said.weave, roles, piece)
    rows = said.rows
    made = WeaveItem(
        weave=said.weave, rows=rows or (4 if closes else 1), roles=roles, abreast=said.abreast,
        closes=closes, end_rings=ends,
    )  # fmt: skip
    told = ""
    if rows is None:
        if not said.limb:
            raise Misread(f"say how many {SORTS[said.weave].rows}, or for wrist")
        made = replace(made, rows=_rows_round(made, piece, said.limb, things))
    woven(made)  # what cannot be is said now
    told = _told(made, things, here)
    if said.limb:
        piece = _closed_round(piece, closes)
    label = f"{item_words(made, things)}: {told}" if told else item_words(made, things)
    return Offer(label, partial(_woven, made, piece, said.limb, here), things.get(roles[0].part))


def usual_ends(weave: Weave, roles: Sequence[WeaveRole], piece: Piece) -> int:
    """How many ends have a ring, if one is said and nothing else: a doubled strip of a necklace has
    one at both."""
    if not any(role.role == "end ring" for role in roles):
        return 0
    return 2 if weave == "doubled strip" and piece.sort == "necklace" else 1


def _woven(item: WeaveItem, piece: Piece, limb: str, here: Here) -> Edited:
    moved = Here(piece, here.tray, here.spot, here.mark, here.unit, script=here.script)
    edited = put((SaidItem(item),), moved)
    if limb:
        fit = read_fit("length", edited.piece, here.unit)
        edited = replace(edited, piece=with_fit(edited.piece, fit))
    return edited


def _roles(weave: Weave, words: Words, here: Here) -> tuple[WeaveRole, ...]:
    """The rings by their roles, in order."""
    wanted, found = list(SORTS[weave].roles), dict[str, WeaveRole]()
    for part in at_commas(words):
        readiness = None
        if len(part) > 1 and part[-1].low in ("opened", "closed"):
            readiness, part = part[-1].low, part[:-1]
        role, name = _role(part, wanted, found)
        if name[0].low == "rubber" and len(name) > 1 and not here.names.fits(name, (Ring,)):
            name = name[1:]  # “rubber” is its role alone
        thing = here.names.find(name, (Ring,))
        found[role] = WeaveRole(role=role, part=thing.id, readiness=readiness)  # type: ignore[arg-type]
    if weave == "doubled strip" and "large" in found and "second large" not in found:
        found["second large"] = WeaveRole(role="second large", part=found["large"].part)
    lacking = [role for role in wanted if role not in found and role != "end ring"]
    if lacking:
        raise unknown(words, f"does not say which ring is the {lacking[0]}")
    return tuple(found[role] for role in wanted if role in found)


def _role(part: Words, wanted: list[str], found: dict[str, WeaveRole]) -> tuple[str, Words]:
    low = tuple(word.low for word in part)
    for said, role in ROLES.items():
        if low[: len(said)] == said and len(low) > len(said):
            if role not in wanted:
                raise unknown(part[: len(said)], f"is no role here: its rings are the "
                              f"{', '.join(wanted)}")  # fmt: skip
            return role, part[len(said) :]
    if low[0] == "rubber" and "rubber" in wanted:
        return "rubber", part
    left = [role for role in wanted if role not in found and role not in ("rubber", "end ring")]
    if not left:
        raise unknown(part, "is one ring more than this weave has")
    return left[0], part


# --- for whom -------------------------------------------------------------------------------------


def _for_limb(here: Here, said: _Said) -> Piece:
    piece = here.piece
    if not said.limb or piece.runs or piece.rows:
        return piece
    sort, form, _ = LIMBS[said.limb]
    return replace(piece, sort=sort, form=replace(piece.form, kind=form), mirrored=False)


def _closed_round(piece: Piece, closes: bool) -> Piece:
    if closes and piece.closure.kind == "open":
        return replace(piece, closure=Closure(kind="continuous"))
    return piece


def _rows_round(item: WeaveItem, piece: Piece, limb: str, things: Things) -> int:
    """As many rows as go round, of rubber as many as let the hand pass and lie on the wrist."""
    wearer = piece.wearer
    girth = getattr(wearer, LIMBS[limb][2])
    if girth is None:
        raise Misread(f"the {limb} of {wearer.role} is not known: say how many rows, or new wearer")
    if pitch_of(item, things) is None:
        raise DomainError("a ring of it is of no known size: say it in the tray")
    step = SORTS[item.weave].step
    rubber = things.get(item.part_of("rubber") or "")
    if isinstance(rubber, Ring) and item.closes and wearer.hand_mm:
        wanted, stretch, at_least = wearer.hand_mm, rubber.stretch_limit, True
    else:
        wanted = girth + math.pi * thickness_mm(item, things) + wearer.ease_mm
        stretch, at_least = 1.0, False
    least = (4 if step == 2 else 3) if item.closes else 1
    row = pitch_of(item, things, stretch)
    assert row is not None
    guess = max(least, round(wanted / row.mm / step) * step)
    near = [n for k in range(-4, 5) if least <= (n := guess + k * step) <= MOST_ROWS]
    lengths = {n: weave_mm(replace(item, rows=n), things, stretch) or 0.0 for n in near}
    if at_least:
        return min((n for n, mm in lengths.items() if mm >= wanted), default=max(near))
    return min(near, key=lambda n: abs(lengths[n] - wanted))


def _told(item: WeaveItem, things: Things, here: Here) -> str:
    """How long it is and how that is known, with one row fewer and one more."""
    pitch, mm = pitch_of(item, things), weave_mm(item, things)
    if pitch is None or mm is None:
        return "its length is not known yet"
    words = {"exact": "", "swatch": "by your swatch, ", "taut": "taut at most ",
             "about": "about ", "unsure": "unsure, about "}[pitch.state]  # fmt: skip
    step, beside = SORTS[item.weave].step, []
    for rows in (item.rows - step, item.rows + step):
        try:
            long = weave_mm(replace(item, rows=rows), things) if rows > 0 else None
        except DomainError:
            long = None
        if long is not None:
            beside.append(f"{rows}: {format_length(long, here.unit)}")
    return f"{words}{format_length(mm, here.unit, with_unit=True)} ({', '.join(beside)})"


# --- swatch ---------------------------------------------------------------------------------------


def swatch_offer(words: Words, here: Here) -> Offer:
    """“swatch 10 rows 48 mm”: measured, of the weave at the cursor; “swatch none” forgets it."""
    item = item_of(here.piece, here.spot) if here.spot else None
    if not isinstance(item, WeaveItem):
        raise Misread("a swatch is of a weave: go to one first")
    rest = words[1:]
    if [word.low for word in rest] == ["none"]:
        return _with_swatch(item, None, here, "its swatch forgotten")
    if len(rest) < 3 or not rest[0].whole or rest[1].low not in ROW_WORDS or not is_length(rest[2]):
        raise unknown(rest or words, "is no swatch: count rows, measure them, and say: swatch 10 "
                      "rows 48 mm")  # fmt: skip
    if len(rest) > 3:
        raise unknown(rest[3:], "was not understood")
    assert rest[2].amount is not None
    rows, mm = rest[0].whole, rest[2].amount.mm("mm")
    swatch = Swatch(rows=rows, mm=mm, of=sizes_of(item, here.things))
    each = format_length(mm / rows, here.unit, with_unit=True)
    return _with_swatch(item, swatch, here, f"{each} a row by a swatch of {rows}")


def _with_swatch(item: WeaveItem, swatch: Swatch | None, here: Here, words: str) -> Offer:
    assert here.spot is not None
    spot = here.spot

    def do() -> Edited:
        changed = put_item(here.piece, spot, replace(item, swatch=swatch))
        return Edited(changed, f"{spot.owner}: {weave_words(item)}, {words}", spot)

    return Offer(f"{weave_words(item)}: {words}", do)
