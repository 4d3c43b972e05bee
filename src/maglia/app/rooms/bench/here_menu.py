"""The menu of a place: what can be said there with its phrase beside it, then what keys do there.

A phrase goes into the insert line, where it is done with Enter, or changed first.
"""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu

from maglia.app.plain_text import button
from maglia.core.edits.edit import set_count
from maglia.core.edits.spots import WHOLE, count_at, spot_of, words_at
from maglia.core.values.record import DomainError
from maglia.phrases.examples import examples

if TYPE_CHECKING:
    from maglia.app.rooms.bench.bench import Bench

BY_KEYS = ("delete", "again", "repeat", "turn", "split", "replace", "uses", "free", "pin", "rename",
           "eye")  # fmt: skip
"""Actions of the Bench that are about what the cursor is on."""
MOST_WIDE = 64
"""Letters of a phrase in the menu; the whole of it goes to the line."""


def point_at(bench: Bench, at: QPoint) -> None:
    """Put the cursor on what lies under a point of the screen, on the rule or the form."""
    session = bench.session
    member = None
    if bench.rule.rect().contains(bench.rule.mapFromGlobal(at)):
        laid = bench.rule.laid_under(bench.rule.mapFromGlobal(at).toPointF())
        member = laid.member if laid is not None else None
    elif bench.form.rect().contains(bench.form.mapFromGlobal(at)):
        member = bench.form.member_under(bench.form.mapFromGlobal(at).toPointF())
    if member is not None and spot_of(session.assembly, member.run, member.item) is not None:
        session.go_to_member(member)


def menu_here(bench: Bench) -> QMenu:
    """What can be done where the cursor stands."""
    session, menu = bench.session, QMenu(bench)
    menu.setAccessibleName("What can be done here")
    spot = session.spot
    if spot is not None:
        menu.addAction(button(f"{spot.owner}: {words_at(session.piece, spot)}")).setEnabled(False)
        menu.addSeparator()
    if spot is not None and spot.path != WHOLE:
        for by, words in ((1, "One more"), (-1, "One fewer")):
            menu.addAction(f"{words}\t{'+' if by > 0 else '−'}", partial(_count, bench, by))
    for action in bench.actions():
        if spot is not None and action.objectName() in BY_KEYS:
            menu.addAction(action)
    menu.addSeparator()
    menu.addAction("Say:").setEnabled(False)
    for one in examples(bench.insert.here()):
        phrase = one.phrase if len(one.phrase) <= MOST_WIDE else f"{one.phrase[:MOST_WIDE]}…"
        words = f"{one.does[0].upper()}{one.does[1:]}\t{phrase}"
        menu.addAction(button(words), partial(bench.insert.open, one.phrase))
    return menu


def _count(bench: Bench, by: int) -> None:
    session = bench.session
    spot = session.spot
    if spot is None:
        return
    try:
        now = count_at(session.piece, spot)[0]
    except DomainError as fault:
        session.said.emit(f"Not done: {fault}.")
        return
    session.attempt(lambda: set_count(session.piece, spot, now + by))
