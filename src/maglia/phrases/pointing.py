"""A place that is pointed at, as the words for it in a phrase that is being written."""

import re

from maglia.core.assembly.assembly import Member, link_from_fold
from maglia.core.piece.piece import Piece, Place, Run
from maglia.phrases.names import said as named
from maglia.phrases.told_words import Wording

JOINS = re.compile(r"(?:^|\s)(?:at|from|to|between|past|after|links?|and)\s*$", re.IGNORECASE)


def place_of(member: Member, number: int, piece: Piece) -> Place:
    """The place of link, bead or ring `number` of a member, counted along it from 1."""
    side, at = link_from_fold(member, number) if member.links else (member.side, 1)
    on_fold = member.item == 0 and member.side == "fold"
    at = at if member.links else member.number + 1 if member.kind == "ring" else 0 if on_fold else 1
    run = piece.run(member.run)
    one_sided = isinstance(run, Run) and run.lies == "free"
    own = side if side in ("left", "right") and one_sided else None
    return Place(run=member.run, item=member.item, at=at, side=own)


def pointed_words(place: Place, piece: Piece, near: str) -> str:
    """The words for a place; of the run that is `near` without its name. Raises Untold."""
    said = Wording.of(piece).place(place)
    return said.removesuffix(f" of {named(near)}")


def with_place(text: str, words: str) -> str:
    """A phrase with a place that was pointed at, behind a joining word, else behind “at”."""
    before = text.rstrip()
    if not before:
        return f"at {words}"
    if re.search(r"(?:^|\s)links?$", before, re.IGNORECASE):
        words = words.removeprefix("link ")
    return f"{before} {words}" if JOINS.search(before) else f"{before} at {words}"
