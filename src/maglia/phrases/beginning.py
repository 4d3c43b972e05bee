"""A piece begun in one phrase: “begin bracelet free for prompter, 3 turns, wire from the spool,
called Rope”; “for usher” takes another wearer.
"""

from msgspec.structs import replace

from maglia.core.edits.spots import Edited
from maglia.core.piece.piece import Form, FormKind, Piece, Sort, Wearer
from maglia.core.values.record import DomainError
from maglia.phrases.here import Here, Offer
from maglia.phrases.words import Misread, Words, at_commas, at_signs, joined, unknown

SORTS: dict[str, Sort] = {
    "necklace": "necklace", "bracelet": "bracelet", "anklet": "anklet", "pendant": "pendant",
    "earring": "earring", "earrings": "earring",
}  # fmt: skip
HANGS_ON: dict[Sort, FormKind] = {
    "necklace": "bust", "bracelet": "wrist", "anklet": "ankle", "earring": "ear",
    "pendant": "board",
}  # fmt: skip


def begin_offer(words: Words, here: Here, called: str) -> Offer:
    """A new piece, empty yet. Raises Misread naming the word."""
    if len(words) < 2 or words[1].low not in SORTS:
        said = words[1:2] or words[:1]
        raise unknown(said, f"is no sort of piece: say begin {', '.join(SORTS)}")
    sort = SORTS[words[1].low]
    piece = Piece(
        name=called or "Untitled", sort=sort, wearer=here.piece.wearer,
        form=Form(kind=HANGS_ON[sort]), pair=words[1].low == "earrings",
    )  # fmt: skip
    told: list[str] = []
    for part in at_commas(words[2:]):
        piece = _part(piece, part, here, told)
    label = f"Begin a {words[1].low}" if words[1].low != "earrings" else "Begin earrings, a pair"
    label = label.replace("a anklet", "an anklet").replace("a earring", "an earring")
    label += f" for {piece.wearer.role}" + "".join(f", {one}" for one in told)
    if not piece.mirrored:
        label += ", free"
    if called:
        label += f", called {called}"
    begun = piece
    return Offer(label, lambda: Edited(begun, f"{begun.name} begun", None), begins=True)


def _part(piece: Piece, words: Words, here: Here, said: list[str]) -> Piece:
    head, joins = joined(words, ("for",))
    for word in head:
        if word.low != "free":
            break
        piece = replace(piece, mirrored=False)
    rest = tuple(word for word in head if word.low != "free")
    if joins:
        piece = replace(piece, wearer=wearer_named(joins[0].words, here))
    if not rest:
        return piece
    low = [word.low for word in rest]
    turns = rest[0].amount
    if turns is not None and low[1:] in (["turns"], ["turn"]):
        if turns.kind != "plain" or not 0.5 <= turns.value <= 20:
            raise unknown(rest, "is not half round to 20 times round")
        said.append(f"{turns.value:g} turns")
        return replace(piece, wraps=turns.value)
    if low in (["wire", "from", "spool"], ["wire", "cut"]):
        said.append("wire from the spool" if low[-1] == "spool" else "wire cut")
        return replace(piece, wire_from="spool" if low[-1] == "spool" else "cut")
    raise unknown(rest, "was not understood; of a beginning are said free, for, 3 turns, wire from "
                  "the spool, called")  # fmt: skip


def wearer_named(words: Words, here: Here) -> Wearer:
    """The wearer whose role begins with the words. Raises Misread."""
    if not words:
        raise Misread("say for whom: a role")
    said = [word.low for word in words]
    known = {w.role: w for w in (*here.tray.wearers, here.piece.wearer)}
    low = " ".join(said)
    found = [w for w in known.values() if low in (w.role.lower(), _plain(w.role))]
    found = found or [w for w in known.values()
                      if all(any(own.startswith(word) for own in _plain(w.role).split())
                             for word in said)]  # fmt: skip
    if not found:
        roles = ", ".join(known)
        say = f"say new wearer {low} neck 372 wrist 160"
        raise unknown(words, f"is no wearer here: {say}; there is {roles}")
    if len(found) > 1:
        raise unknown(words, f"may be {' or '.join(w.role for w in found[:4])}: say more")
    return found[0]


def _plain(role: str) -> str:
    return " ".join(word for word in role.lower().split() if word not in ("the", "a", "an"))


def for_offer(words: Words, here: Here) -> Offer:
    """“for usher”: another wearer; “for usher, dresser”: the piece for each."""
    several = [part for comma in at_commas(words[1:]) for part in at_signs(comma, "and")]
    if len(several) > 1:
        return _for_each(tuple(wearer_named(part, here) for part in several))
    wearer = wearer_named(words[1:], here)
    changed = replace(here.piece, wearer=wearer)
    return Offer(f"For {wearer.role}", lambda: Edited(changed, f"for {wearer.role}", here.spot))


def _for_each(wearers: tuple[Wearer, ...]) -> Offer:
    """The piece for each of several, side by side: looked at, not made."""
    roles = ", ".join(wearer.role for wearer in wearers)

    def show() -> Edited:
        raise DomainError(
            f"the piece for {roles} is looked at in the window, or by ./maglia regrade"
        )

    return Offer(f"Show the piece for {roles}", show, wearers=wearers)
