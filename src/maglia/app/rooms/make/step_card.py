"""What the step says, large enough to be read from the mat."""

from __future__ import annotations

from html import escape
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QLabel, QScrollArea, QVBoxLayout, QWidget

from maglia.app.plain_text import strong
from maglia.app.session.builds import Builds
from maglia.app.theme import Theme, scaled
from maglia.core.joining.cautions import CAUTIONS
from maglia.core.joining.progress import Turn, left_of, results_in
from maglia.core.joining.step import Step
from maglia.core.joining.text import STAGE_WORDS
from maglia.core.joining.words import listed
from maglia.core.log.records import acting

if TYPE_CHECKING:
    pass

MOST_PLACES, MOST_FREE, MOST_NAMED = 4, 4, 3
LEAST_PX, MOST_PX = 16, 44
LINES = 24
"""The words are as large as the height of the card over this; smaller if they do not fit."""


class StepCard(QScrollArea):
    """Where one is, what to do, what it takes in order, at which place, what to heed, what comes
    next."""

    def __init__(self, builds: Builds, theme: Theme) -> None:
        super().__init__()
        self.builds, self.theme, self.pixels, self.own = builds, theme, 22, 0
        self.words = QLabel()
        self.words.setTextFormat(Qt.TextFormat.RichText)
        self.words.setWordWrap(True)
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.words.setAccessibleName("What to do")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = QWidget()
        inner.setObjectName("panel")
        column = QVBoxLayout(inner)
        column.setContentsMargins(22, 18, 22, 18)
        column.addWidget(self.words)
        column.addStretch(1)
        self.setWidget(inner)
        self.setWidgetResizable(True)
        self.setMinimumWidth(340)
        builds.changed.connect(self.refresh)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.refresh()

    def zoom(self, by: int) -> None:
        """Larger or smaller words."""
        self.own += 2 * by
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """As large as there is room for."""
        most = scaled(max(self.viewport().height() // LINES, 20)) + self.own
        self.pixels = min(most, scaled(MOST_PX))
        self.words.setText(self._all())
        wide = self.viewport().width() - 44
        while (
            self.pixels > LEAST_PX
            and self.own <= 0
            and (self.words.heightForWidth(wide) > self.viewport().height() - 36)
        ):
            self.pixels -= 1
            self.words.setText(self._all())
        self.verticalScrollBar().setValue(0)

    def _all(self) -> str:
        builds = self.builds
        if builds.build is None or builds.sheet is None:
            return ""
        if builds.undos:
            said = self._undo()
        elif builds.turn is None or builds.step is None:
            said = self._finished()
        else:
            said = self._step(builds.step, builds.turn)
        return "".join([said[0], *self._differs(), *said[1:]])

    # --- as rich text -------------------------------------------------------------------------

    def _line(self, words: str, *, size: float = 1.0, role: str = "ink", bold: bool = False,
              above: int = 8) -> str:  # fmt: skip
        weight = 600 if bold else 400
        colour = getattr(self.theme, role)
        return (f'<p style="margin:{above}px 0 0 0; font-size:{round(self.pixels * size)}px; '
                f'font-weight:{weight}; color:{colour}">{words}</p>')  # fmt: skip

    def _quiet(self, words: str, above: int = 10) -> str:
        return self._line(words, size=0.68, role="quiet", above=above)

    def _head(self, words: str) -> str:
        """Which piece is made, and where one is in it."""
        build = self.builds.build
        assert build is not None
        name = f"{strong(build.name)} · build {build.id}"
        return self._quiet(f"{name} · {escape(words)}", 0)

    def _differs(self) -> list[str]:
        """What the bench has otherwise than the build."""
        differs = self.builds.bench_differs
        if not differs:
            return []
        words = f"! The bench has it otherwise: {'; '.join(differs[:MOST_NAMED])}"
        words += f" and {len(differs) - MOST_NAMED} more" if len(differs) > MOST_NAMED else ""
        return [self._line(escape(words), size=0.68, role="attention"),
                self._quiet("U: make it as it is there", 2)]  # fmt: skip

    def _undo(self) -> list[str]:
        first = self.builds.undo_now()
        undo, more = first[0], len(self.builds.undos) - len(first)
        times = f" × {len(first)}" if len(first) > 1 else ""
        found = [self._head("changed on the mat: undo this first"),
                 self._line(escape(undo.words) + times, bold=True)]  # fmt: skip
        if undo.lost:
            found.append(self._line("! Something is lost here.", size=0.8, role="attention"))
        found.append(self._quiet(f"and {more} more" if more else "Then the plan goes on."))
        found.append(self._quiet("Space: it is undone"))
        return found

    def _finished(self) -> list[str]:
        builds = self.builds
        held = builds.held()
        if builds.build is not None and builds.build.ended:
            day = builds.build.ended[:16].replace("T", " ")
            how = "Finished" if all(map(builds.is_done, builds.turns)) else "Given up"
            return [self._head("kept"), self._line(f"{how} {day}.", bold=True),
                    self._line("Esc: all that is in the making.", size=0.8)]  # fmt: skip
        if held:
            return [self._head("waits"), self._line("All that is left waits.", bold=True),
                    self._quiet("It goes on by itself when the time is over.")]  # fmt: skip
        culprits = builds.sheet.culprits if builds.sheet is not None else ()
        if culprits:
            return [self._head("to its end"),
                    self._line("All that can be joined is done.", bold=True),
                    *(self._line(f"! {escape(one.says)}", size=0.7, role="attention")
                      for one in culprits),
                    self._quiet("C changes it on the mat · Space puts it away")]  # fmt: skip
        return [self._head("to its end"), self._line("Everything is done.", bold=True),
                self._line("Space puts it away among the finished builds.", size=0.8)]  # fmt: skip

    def _step(self, step: Step, turn: Turn) -> list[str]:
        sheet = self.builds.sheet
        assert sheet is not None
        head = f"{turn.step + 1} of {len(sheet.steps)} · {STAGE_WORDS[step.stage].lower()}"
        head += f" · {step.mirror}" if step.mirror else ""
        found = [self._head(head)]
        if sheet.culprits and step.stage == "ready":
            found += [self._line(f"! {escape(c.says)}", size=0.7, role="attention")
                      for c in sheet.culprits[:2]]  # fmt: skip
        left = left_of(sheet.assembly, turn, self.builds.done)
        if self.builds.is_done(turn):
            found.append(self._line("✓ done", size=0.7, role="good", bold=True))
        elif left:
            words = f"Only {' and '.join(left)} is left to do"
            found.append(self._line(escape(words), size=0.75, role="attention"))
        if step.verb == "make" and turn.number == 1 and step.how:
            found += self._recipe(step, turn)
        else:
            found += self._sentence(step)
        found += self._where(step, turn)
        for up in step.up:
            found.append(self._line(escape(up), size=0.75))
        for caution in step.cautions:
            found.append(self._line(f"! {escape(CAUTIONS[caution])}", size=0.68, role="attention"))
        own = acting(sheet, step)
        if own:
            found.append(self._quiet(escape(f"computed with {listed([c.words for c in own])}")))
        if step.measure_mm is not None:
            found.append(self._quiet("M writes down what it measures"))
        return [*found, *self._next(turn)]

    def _sentence(self, step: Step) -> list[str]:
        """What to do; what is taken stands below as a list, in its order."""
        named = [taken.words for taken in step.takes if taken.words]
        head, found, tail = step.says.partition(f" Let it take {listed(named)}")
        if not found or len(named) < 2:
            return [self._line(escape(step.says), bold=True)]
        lines = [self._line(escape(f"{head} Let it take"), bold=True)]
        lines += [self._line(f"{strong(str(k))}&nbsp;&nbsp;{escape(words)}", size=0.86, above=6)
                  for k, words in enumerate(named, 1)]  # fmt: skip
        rest = tail.lstrip(".; ")
        return [*lines, self._line(escape(rest[:1].upper() + rest[1:]), bold=True)]

    def _recipe(self, step: Step, turn: Turn) -> list[str]:
        """A unit the first time, sentence by sentence."""
        at = next((k for k, how in enumerate(step.how) if how == turn.says), 0)
        which = "the first one, step by step" if step.count > 1 else "step by step"
        found = [self._line(escape(step.says.rstrip(".")), size=0.8), self._quiet(which)]
        for k, how in enumerate(step.how):
            if k == at:
                found.append(self._line(escape(how), bold=True))
            else:
                sign = "✓ " if k < at else ""
                found.append(self._line(f"{sign}{escape(how)}", size=0.68, role="quiet", above=4))
        return found

    def _where(self, step: Step, turn: Turn) -> list[str]:
        sheet = self.builds.sheet
        assert sheet is not None
        found = []
        if step.where:
            found.append(self._line(escape(step.where), size=0.75))
        if step.verb == "make" and turn.number > 1:
            found.append(self._line(f"{turn.number} of {turn.of}", size=1.3, bold=True))
        elif turn.of > 1:
            places = results_in(sheet.assembly, turn)[:MOST_PLACES]
            found.append(self._line(f"{strong(f'{turn.number} of {turn.of}')}&nbsp;&nbsp;"
                                    f"{escape(' and '.join(places))}", size=0.75))  # fmt: skip
        return found

    def _next(self, turn: Turn) -> list[str]:
        builds, sheet = self.builds, self.builds.sheet
        assert sheet is not None
        step = sheet.steps[turn.step]
        if step.verb == "wait":
            free = builds.meanwhile()
            said = [self._line("Meanwhile", size=0.8, above=18)] if free else []
            said += [self._line(escape(one.says), size=0.75, above=4) for one in free[:MOST_FREE]]
            return [
                *said,
                self._quiet("It goes on by itself when that is over. Space: it holds already"),
            ]
        then = next((t for t in builds.turns[builds.at + 1 :] if t.step != turn.step), None)
        if then is None:
            return []
        return [self._quiet(f"Then: {escape(sheet.steps[then.step].says)}", 18)]
