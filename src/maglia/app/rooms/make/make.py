"""Make put together: the picture at the left, what to do at the right, the plan below. It composes;
what is done is kept by the builds of the session.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from maglia.app.desk import Desk
from maglia.app.panel import column_of
from maglia.app.rooms.make.builds_list import BuildsList
from maglia.app.rooms.make.plan_line import PlanLine
from maglia.app.rooms.make.said_line import Choice, SaidLine
from maglia.app.rooms.make.step_canvas import StepCanvas
from maglia.app.rooms.make.step_card import StepCard
from maglia.app.rooms.room import Offered, RoomWidget
from maglia.core.edits.on_the_mat import changed_count, changed_on_mat
from maglia.core.edits.spots import Edited, Spot
from maglia.core.joining.ways import CHOICES, WORDS, Working, with_habit
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError

TICK_MS = 1000
WITHOUT_A_BUILD = ("builds",)


class MakeRoom(RoomWidget):
    """Keys: Space and Page Down do, Backspace and Page Up take back, arrows look."""

    def __init__(self, desk: Desk, offers: Callable[[str], list[Offered]]) -> None:
        super().__init__(desk)
        del offers
        session = desk.session
        self.session, self.builds = session, session.builds
        self.builds.unit = session.unit
        self._take_habits()
        desk.settled.connect(lambda key: self._take_habits() if key == "working" else None)
        self.canvas = StepCanvas(self.builds, session.jobs, desk.settings, desk.theme)
        self.card = StepCard(self.builds, desk.theme)
        self.line = PlanLine(self.builds, desk.theme)
        self.said = SaidLine(self.builds, self.on_said)
        self.list = BuildsList(session, desk.theme)
        self._compose()
        self._connect()
        self._clock = QTimer(self)
        self._clock.setInterval(TICK_MS)
        self._clock.timeout.connect(self.on_tick)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._waiting: frozenset[int] = frozenset()

    def _compose(self) -> None:
        self.work = QWidget()
        across = QSplitter(Qt.Orientation.Horizontal)
        across.addWidget(self.canvas)
        across.addWidget(column_of(self.card, self._buttons(), stretched=self.card))
        across.setStretchFactor(0, 3)
        across.setStretchFactor(1, 2)
        across.setSizes([780, 500])
        across.setHandleWidth(1)
        inner = QVBoxLayout(self.work)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(0)
        inner.addWidget(across, 1)
        inner.addWidget(self.said)
        inner.addWidget(self.line)
        self.said.hide()
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.work, 1)
        whole.addWidget(self.list, 1)
        self.work.hide()

    def _buttons(self) -> QWidget:
        """Done and back for the mouse; the keys stay with the room."""
        row = QWidget()
        row.setObjectName("panel")
        across = QHBoxLayout(row)
        across.setContentsMargins(22, 4, 22, 12)
        for words, do in (("Back", self.back), ("Done", self.done)):
            button = QPushButton(words)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setMinimumHeight(44)
            button.clicked.connect(partial(self.desk.attempt, do))
            across.addWidget(button, 2 if words == "Done" else 1)
        return row

    def _connect(self) -> None:
        for view in (self.canvas, self.card, self.line, self.list):
            self.desk.dressed.connect(view.set_theme)
        self.builds.said.connect(self.session.said)
        self.builds.changed.connect(self.on_changed)
        self.list.begin_wanted.connect(partial(self.desk.attempt, self.begin))
        self.list.open_wanted.connect(partial(self.desk.attempt, self.builds.open))
        self.said.closed.connect(self.setFocus)
        self.line.wanted.connect(self.look_at)
        self.session.reshown.connect(lambda: self.builds.reword(self.session.unit))

    # --- the room -----------------------------------------------------------------------------

    @property
    def greeting(self) -> str:
        if self.builds.build is None:
            return "Enter begins the piece on the bench, or goes on with one in the making."
        return "Space done · Backspace back · C changed on the mat · N note · L layout · F1 keys"

    def enter(self) -> None:
        self.builds.pause()
        self._clock.start()
        self.on_changed()

    def hideEvent(self, event: QEvent) -> None:
        self._clock.stop()
        super().hideEvent(event)  # type: ignore[arg-type]

    def on_changed(self) -> None:
        self.work.setVisible(self.builds.build is not None)
        if self.builds.build is not None:
            self.list.last = self.builds.build.id
            self.list.hide()
            if not self.said.isVisible():
                self.setFocus()
        else:
            self.list.open()

    def on_tick(self) -> None:
        """The clock goes on; a wait that is over says so, quietly."""
        if self.builds.build is None:
            return
        held = self.builds.held()
        if self._waiting and not held:
            QApplication.beep()
            self.session.said.emit("The glue holds: it can go on.")
            if self.builds.turn is None or self.builds.turn.step in self._waiting:
                self.desk.attempt(self.builds.pass_waits)
        self._waiting = held
        self.line.update()
        if self.builds.step is not None and self.builds.step.verb == "wait":
            self.canvas.update()

    def can_step(self, by: int) -> bool:
        return False

    def may(self, name: str) -> bool:
        """Whether an action can be done now."""
        return self.builds.build is not None or name in WITHOUT_A_BUILD

    def _need(self) -> None:
        if self.builds.build is None:
            raise DomainError("nothing is in the making: Enter begins the piece on the bench")

    # --- doing --------------------------------------------------------------------------------

    def begin(self) -> None:
        self.builds.begin(self.session.piece)

    def done(self, *, whole_step: bool = False) -> None:
        self._need()
        self.builds.do(whole_step=whole_step)

    def back(self) -> None:
        self._need()
        self.builds.back()

    def take_from_bench(self) -> None:
        self._need()
        self.builds.take_from_bench()

    def go_on(self) -> None:
        self._need()
        self.builds.go(self.builds.next_turn())

    def look_at(self, step: int) -> None:
        at = next((k for k, t in enumerate(self.builds.turns) if t.step == step), 0)
        self.builds.go(at)

    def put_aside(self) -> None:
        """Leave it lying, and show all that is in the making."""
        self.builds.leave()
        self.list.open()

    def give_up(self) -> None:
        self._need()
        build = self.builds.build
        assert build is not None
        words = (f"Give {build.name}, build {build.id}, up? What was laid out lies on the bench "
                 "again, and chain that was cut as off-cuts.")  # fmt: skip
        if self.desk.ask(words, "Give it up", "Go on") == 0:
            self.desk.attempt(partial(self.builds.finish, given_up=True))  # asked but once

    def zoom(self, by: int) -> None:
        self._need()
        step = self.builds.step
        if step is not None and step.verb in ("look", "measure"):
            self.canvas.scale_by(1.01**by)
        else:
            self.card.zoom(by)

    # --- how it is worked ---------------------------------------------------------------------

    def next_school(self) -> None:
        self._need()
        assert self.builds.build is not None
        other = "flat" if self.builds.build.working.order == "carrier" else "carrier"
        self._work("order", other)

    def _take_habits(self) -> None:
        """What a new build is begun with."""
        for name, value in self.desk.settings["working"].items():
            self.builds.working = with_habit(self.builds.working, f"{name}={value}")

    def _work(self, name: str, value: str) -> None:
        def change(working: Working) -> Working:
            return with_habit(working, f"{name}={value}")

        self.builds.work(change)
        self.builds.working = change(self.builds.working)
        self.desk.settings["working"] = {**self.desk.settings["working"], name: value}
        words = CHOICES.get(name, {}).get(value, value)
        self.session.said.emit(f"{WORDS[name]}: {words}. What is finished stays finished.")

    def open_habits(self) -> None:
        """A menu of every habit with what is in force."""
        self._need()
        assert self.builds.build is not None
        menu = QMenu(self)
        working = self.builds.build.working
        for name, choices in CHOICES.items():
            inner = menu.addMenu(WORDS[name])
            for value, words in choices.items():
                action = inner.addAction(words, partial(self.desk.attempt, self._work, name, value))
                action.setCheckable(True)
                action.setChecked(getattr(working, name) == value)
        for name, figures in (("glue_holds_min", (5, 10, 30, 60)),
                              ("glue_cures_min", (60, 480, 1440, 2880))):  # fmt: skip
            inner = menu.addMenu(WORDS[name])
            for figure in figures:
                action = inner.addAction(f"{figure}", partial(self.desk.attempt, self._work, name,
                                                              str(figure)))  # fmt: skip
                action.setCheckable(True)
                action.setChecked(getattr(working, name) == figure)
        menu.exec(self.mapToGlobal(self.rect().center()))

    # --- what is said -------------------------------------------------------------------------

    def on_said(self, sort: str, text: str, choice: Choice | None) -> None:
        if sort == "note":
            self.builds.note(text)
        elif sort == "measure":
            mm = float(text)
            self.builds.note(f"measured {self.session.length(mm)}", mm)
        elif sort == "named":
            self.builds.note_named(text)
        elif sort == "spoilt" and choice is not None:
            self.builds.spoilt(choice.ref)
        elif choice is None or choice.member is None or choice.scope is None:
            self.builds.note(f"changed on the mat: {text}")
        else:
            self.change(text, choice)

    def change(self, text: str, choice: Choice) -> None:
        """Take an edit over, by the same grammar as the Bench. Raises DomainError."""
        sheet = self.builds.sheet
        assert sheet is not None
        assert choice.member is not None
        assert choice.scope is not None
        where = sheet.assembly, choice.member, choice.scope
        made = (changed_count(*where, int(text)) if text.isdigit()
                else changed_on_mat(*where, partial(self._phrase, text)))  # fmt: skip
        self.builds.change(made.piece, made.words, made.moved)

    def _phrase(self, text: str, piece: Piece, spot: Spot) -> Edited:
        from maglia.phrases.here import Here
        from maglia.phrases.line import understood

        here = Here(piece, self.session.tray, spot, unit=self.session.unit)
        offers = understood(text, here).offers
        if not offers or offers[0].choice:
            raise DomainError(f"“{text}” can be meant in several ways: say it in full")
        return offers[0].do()

    def save_sheet(self) -> None:
        """The make sheet as a file."""
        from maglia.app.make_sheet import save

        self._need()
        sheet, unit = self.builds.sheet, self.session.unit
        assert sheet is not None
        name, _ = QFileDialog.getSaveFileName(
            self, "Make sheet", self.desk.place_for(f"{sheet.assembly.piece.name}.pdf"),
            "PDF, A4 (*.pdf);;PDF, Letter (*.letter.pdf);;SVG (*.svg)",
        )  # fmt: skip
        if name:
            save(sheet, Path(name), self.canvas.hung, unit, self.builds.bench_differs)
            self._note_printed()
            self.session.said.emit(f"The make sheet is in {Path(name).name}.")

    def print_sheet(self) -> None:
        """As it would be printed, and on to the printer."""
        from maglia.app.make_sheet import blocks_of
        from maglia.app.paper import preview

        self._need()
        sheet, unit = self.builds.sheet, self.session.unit
        assert sheet is not None
        blocks = blocks_of(sheet, self.canvas.hung, unit, self.builds.bench_differs)
        preview(self, sheet.assembly.piece.name, unit, blocks)
        self._note_printed()

    def _note_printed(self) -> None:
        build = self.builds.build
        assert build is not None
        self.session.delta.note_printed(build.piece, "make sheet")

    # --- keys ---------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        deeds: dict[int, Callable[[], object]] = {
            Qt.Key.Key_PageDown: self.done,
            Qt.Key.Key_PageUp: self.back,
            Qt.Key.Key_Right: partial(self.builds.go_step, 1),
            Qt.Key.Key_Left: partial(self.builds.go_step, -1),
        }
        if key in deeds and self.builds.build is not None:
            self.desk.attempt(deeds[key])
            return
        super().keyPressEvent(event)

    def escape(self) -> None:
        if self.builds.build is not None:
            self.put_aside()
