"""One line to write in while the hands rest: a note, a measure, a spoilt part, or what was changed
on the mat and how far it reaches.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QListView

from maglia.app.lists import Rows
from maglia.app.panel import Panel
from maglia.app.plain_text import Label
from maglia.app.session.builds import Builds
from maglia.app.session.measure_words import is_named
from maglia.core.assembly.assembly import Assembly, Member, member_name
from maglia.core.edits.on_the_mat import SCOPES, Scope, scopes_of
from maglia.core.joining.step import Step
from maglia.core.values.measures import Length, parse_length
from maglia.core.values.record import DomainError, Value

MOST_PLACES = 40


def readied_for(assembly: Assembly, step: Step) -> list[int]:
    """The members that something is cut, opened or made for."""
    if not step.things:
        return []
    number = step.id.rpartition("/")[2] if step.verb == "cut" else ""
    return [m.id for m in assembly.members if m.ref in step.things
            and (not number or str(m.links) == number or m.strung is not None)]  # fmt: skip


class Choice(Value, frozen=True):
    """A place in hand that was changed and how far that reaches; None only notes it. For a spoilt
    part its id."""

    words: str
    member: Member | None = None
    scope: Scope | None = None
    ref: str = ""


class SaidLine(Panel):
    """`do` takes what it is for, what was written and what was chosen; what it refuses is said, and
    the line stays."""

    def __init__(self, builds: Builds, do: Callable[[str, str, Choice | None], object]) -> None:
        super().__init__()
        self.builds, self.sort, self.do = builds, "note", do
        self.rows: Rows[Choice] = Rows(lambda row: row.words)
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setMaximumHeight(150)
        self.list.setAccessibleName("What it is about")
        self.line = QLineEdit()
        self.line.setMaxLength(500)
        self.hint = Label()
        self.hint.setObjectName("quiet")
        self.lay_out(self.line, self.list, self.hint)
        self.watch(self.line)
        self.list.doubleClicked.connect(lambda _: self.take())

    # --- opening ------------------------------------------------------------------------------

    def open_note(self) -> None:
        self._open("note", "A note", "a note of this step", [],
                   "Enter keeps it with the build · Esc")  # fmt: skip

    def open_measure(self) -> None:
        step = self.builds.step
        wanted = step.measure_mm if step is not None else None
        hint = "Enter keeps it · Esc"
        if wanted is not None:
            from maglia.core.values.measures import format_length

            hint = f"by the plan {format_length(wanted, self.builds.unit, with_unit=True)} · {hint}"
        prompt = "what it measures, such as 431; or fall of Tier 2 61"
        self._open("measure", "What it measures", prompt, [], hint)

    def open_spoilt(self) -> None:
        """Which part in hand is spoilt. Raises DomainError if none is in hand."""
        sheet, refs = self.builds.sheet, self.builds.in_hand()
        if sheet is None or not refs:
            raise DomainError("nothing that is counted is in hand at this step")
        a = sheet.assembly
        rows = [Choice(f"one {a.things[ref].name}", ref=ref) for ref in refs]
        self._open("spoilt", "Which part is spoilt", "letters narrow the list", rows,
                   "↑ ↓ choose · Enter: it is spoilt, another one is taken · Esc")  # fmt: skip

    def open_change(self) -> None:
        """What was changed of what is in hand, and how far that reaches."""
        ghost = "a number, or any phrase of the Bench: replace ring 4 by ring 5"
        self._open("changed", "Changed on the mat", ghost, self._places(),
                   "↑ ↓ choose the place and how far it reaches · Enter · Esc")  # fmt: skip

    def _places(self) -> list[Choice]:
        """Every place in hand that an edit can reach, each way it can reach; and only a note."""
        sheet, step = self.builds.sheet, self.builds.step
        if sheet is None or step is None:
            return [Choice("only note it")]
        a, turn = sheet.assembly, self.builds.turn
        first = [c.opener.member for c in turn.closings] if turn is not None else []
        found: list[Choice] = []
        seen: set[tuple[str, int]] = set()
        for number in dict.fromkeys([*first, *step.in_hand, *readied_for(a, step)]):
            member = a.members[number]
            if member.run == "closure" or (member.run, member.item) in seen:
                continue
            seen.add((member.run, member.item))
            name = f"{a.thing(member).name}, {member_name(member)}"
            scopes = scopes_of(a, member)
            once = scopes == ("both",) and member.side not in ("left", "right")
            found += [Choice(name if once else f"{name}: {SCOPES[scope]}", member, scope)
                      for scope in scopes]  # fmt: skip
            if len(found) >= MOST_PLACES:
                break
        return [*found, Choice("only note it")]

    def _open(self, sort: str, name: str, ghost: str, rows: list[Choice], hint: str) -> None:
        self.sort = sort
        self._all = rows
        self.line.setAccessibleName(name)
        self.line.setPlaceholderText(ghost)
        self.line.clear()
        self.rows.show(rows)
        self.list.setVisible(bool(rows))
        self.list.setCurrentIndex(self.rows.index(0))
        self.hint.setText(hint)
        self.show()
        self.line.setFocus()

    # --- keys ---------------------------------------------------------------------------------

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take()
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.rows.rowCount():
            by = 1 if key == Qt.Key.Key_Down else -1
            row = min(max(self.list.currentIndex().row() + by, 0), self.rows.rowCount() - 1)
            self.list.setCurrentIndex(self.rows.index(row))
        else:
            return False
        return True

    def take(self) -> None:
        row = self.list.currentIndex().row()
        chosen = self.rows.rows[row] if 0 <= row < self.rows.rowCount() else None
        text = self.line.text().strip()
        if self.sort != "spoilt" and not text:
            self.hint.setText("Write it first, or Esc leaves.")
            return
        sort = "named" if self.sort == "measure" and is_named(text) else self.sort
        if sort == "measure":
            try:
                measured = parse_length(text, self.builds.unit)
            except DomainError as fault:
                self.hint.setText(f"{fault}.")
                return
            if not isinstance(measured, Length):
                self.hint.setText("Say a length: 431, 16 3/4 in.")
                return
            text = f"{measured.mm:.2f}"
        try:
            self.do(sort, text, chosen)
        except DomainError as fault:
            self.hint.setText(f"Not done: {fault}.")
            return
        self.leave()
