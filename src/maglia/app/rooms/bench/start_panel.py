"""A new piece starts from a short question: what, for whom, how long, how many.

Skeletons first, then the pieces of the demo collection; arrows choose, Enter starts, Esc leaves for
an empty bench. No dialog: it lies where the form and the rule will be.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QKeyEvent, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QLineEdit,
    QListView,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
)

from maglia.app.painting.small import draw_small
from maglia.app.panel import Panel, drawn_icon
from maglia.app.pictures import Pictures
from maglia.app.plain_text import Label, tip
from maglia.app.session.session import Session
from maglia.app.theme import Theme
from maglia.core.parts.units import Cluster
from maglia.core.piece.piece import Piece, TiedRows
from maglia.core.values.measures import Length, amount_at, parse_length
from maglia.core.values.record import DomainError
from maglia.core.workshop.skeleton_kit import Asked
from maglia.core.workshop.skeletons import SKELETONS, Skeleton, started
from maglia.core.workshop.tray import Tray
from maglia.demo import demo_names, demo_path
from maglia.files.piece_json import read_piece
from maglia.phrases.starts import STARTS, Start, begun

if TYPE_CHECKING:
    from maglia.core.report import Findings

ICON = QSize(132, 96)
POINTS: tuple[Skeleton | Start, ...] = (*SKELETONS, *STARTS)
PLACE_ROLE = Qt.ItemDataRole.UserRole + 1
"""Of a finished piece: its file, or the name of a demo piece."""


class StartPanel(Panel):
    """Signals `chosen(Piece)` to begin with · `piece_wanted(str)` a finished one, by its file or
    its name in the demo."""

    chosen = Signal(object)
    piece_wanted = Signal(str)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.recent: list[str] = []
        self.pictures = Pictures(session.evaluation.jobs, "start", self)
        self.pictures.hung.connect(self.on_hung)
        self.list = QListWidget()
        self.list.setViewMode(QListView.ViewMode.IconMode)
        self.list.setIconSize(ICON)
        self.list.setGridSize(QSize(158, 146))
        self.list.setWordWrap(True)
        self.list.setMovement(QListView.Movement.Static)
        self.list.setResizeMode(QListView.ResizeMode.Adjust)
        self.list.setAccessibleName("What it will be")
        self.wearer = QComboBox()
        self.wearer.setAccessibleName("For whom")
        self.length = QLineEdit()
        self.length.setAccessibleName("How long")
        self.length.setPlaceholderText("as the wearer's girth asks")
        self.count = QLineEdit()
        self.count.setAccessibleName("How many")
        self.said = Label()
        self.said.setObjectName("message")
        self.said.setWordWrap(True)
        self.counts, self.counted = Label("How many"), "pieces"
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        for k, (label, field) in enumerate(
            (
                (Label("For whom"), self.wearer),
                (Label("How long"), self.length),
                (self.counts, self.count),
            )
        ):
            grid.addWidget(label, 0, k)
            grid.setColumnStretch(k, 1)
            grid.addWidget(field, 1, k)
            self.watch(field)
        title = Label("What will it be?")
        title.setObjectName("pieceName")
        hint = Label(
            "Arrows choose · Tab to the questions · Enter starts · Esc: an empty bench · then come "
            "your own pieces, the newest first, and those of the playhouse's wardrobe"
        )
        hint.setObjectName("quiet")
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 18, 24, 16)
        column.setSpacing(10)
        column.addWidget(title)
        column.addWidget(self.list, 1)
        column.addLayout(grid)
        column.addWidget(self.said)
        column.addWidget(hint)
        self.watch(self.list)
        self.list.currentRowChanged.connect(self.on_row)
        self.list.itemDoubleClicked.connect(lambda _: self.start())
        for widget in (self.length, self.count):
            widget.textEdited.connect(lambda _: self.said.clear())

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme

    def open(self, first: str = "new", recent: Sequence[str] = ()) -> None:
        """Show it, on the first skeleton, on the first piece of the collection ("demo") or on the
        one opened last ("recent")."""
        self.list.clear()
        self.recent = [place for place in recent if Path(place).is_file()]
        for skeleton in POINTS:
            item = QListWidgetItem(self._icon(skeleton.id), skeleton.name)
            item.setData(Qt.ItemDataRole.UserRole, skeleton.id)
            self.list.addItem(item)
        for place in self.recent:
            self._add_finished(place, Path(place).stem, "single", place)
        for name in demo_names():
            piece = read_piece(demo_path(name))
            self._add_finished(
                name, piece.name, idea_of(piece), "A finished piece of the playhouse's wardrobe"
            )
        self.wearer.clear()
        self.wearer.addItems([w.role for w in self.session.tray.wearers])
        at = self.wearer.findText(self.session.piece.wearer.role)
        self.wearer.setCurrentIndex(max(at, 0))
        self.length.clear()
        self.said.clear()
        self.show()
        rows = {"recent": len(POINTS), "demo": len(POINTS) + len(self.recent)}
        self.list.setCurrentRow(rows.get(first, 0))
        self.list.scrollToItem(self.list.currentItem(), QListView.ScrollHint.PositionAtTop)
        self.list.setFocus()
        self._ask_pictures(first)

    def _add_finished(self, place: str, name: str, idea: str, words: str) -> None:
        item = QListWidgetItem(self._icon(idea, finished=True), name)
        item.setData(Qt.ItemDataRole.UserRole, place)
        item.setData(PLACE_ROLE, place)
        item.setToolTip(tip(words))
        self.list.addItem(item)

    def _ask_pictures(self, first: str) -> None:
        """Every starting point and finished piece as it hangs, those in sight first."""
        asked = Asked(self.session.tray.wearers[0]) if self.session.tray.wearers else None
        tray = self.session.tray
        points = (
            [(f"start {s.id}", partial(_begun, s, tray, asked)) for s in POINTS] if asked else []
        )
        demo = [(name, partial(read_piece, demo_path(name))) for name in demo_names()]
        own = [(_stamp(place), partial(read_piece, Path(place))) for place in self.recent]
        asked_for = {"new": (points, own, demo), "demo": (demo, points, own)}
        order = asked_for.get(first, (own, points, demo))
        self.pictures.ask([one for part in order for one in part])

    def on_hung(self, key: str, found: Findings) -> None:
        """The true picture in the place of the drawing of the idea."""
        box = QRectF(2, 2, ICON.width() - 4, ICON.height() - 4)
        for row in range(self.list.count()):
            item = self.list.item(row)
            own, place = str(item.data(Qt.ItemDataRole.UserRole)), item.data(PLACE_ROLE)
            if key in ((own, _stamp(own)) if place else (f"start {own}",)):
                ratio = self.devicePixelRatioF()
                item.setIcon(drawn_icon(ICON, ratio, lambda p: draw_small(p, found, box)))

    def leave(self) -> None:
        self.pictures.stop()
        super().leave()

    def skeleton(self) -> Skeleton | Start | None:
        item = self.list.currentItem()
        finished = item is not None and item.data(PLACE_ROLE)
        wanted = item.data(Qt.ItemDataRole.UserRole) if item and not finished else ""
        return next((s for s in POINTS if s.id == wanted), None)

    def on_row(self) -> None:
        found = self.skeleton()
        for field in (self.wearer, self.length, self.count):
            field.setEnabled(found is not None)
        if found is not None:
            self.counted = found.counts
            self.counts.setText(f"How many {found.counts}")
            self.count.setText(str(found.usual))

    def start(self) -> None:
        """Begin with what is chosen; what cannot be is said here."""
        item = self.list.currentItem()
        if item is not None and item.data(PLACE_ROLE):
            self.leave()
            self.piece_wanted.emit(str(item.data(PLACE_ROLE)))
            return
        found = self.skeleton()
        if found is None:
            return
        try:
            piece = _begun(found, self.session.tray, self._asked())
        except DomainError as fault:
            self.said.setText(f"{fault}.")
            return
        self.leave()
        self.chosen.emit(piece)

    def _asked(self) -> Asked:
        wearer = self.session.tray.wearers[max(self.wearer.currentIndex(), 0)]
        length = None
        if self.length.text().strip():
            amount = parse_length(self.length.text(), self.session.unit)
            if not isinstance(amount, Length):
                raise DomainError("write how long as a length, such as 45 cm")
            length = amount.mm
        text = self.count.text().strip()
        written = amount_at(text)
        if text and (written is None or written[1] < len(text)):
            raise DomainError(f"“{text}” is no number of {self.counted}")
        return Asked(wearer, length, written[0].whole if written else None)

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.start()
        elif watched is self.list and event.text().isdigit() and self.count.isEnabled():
            self.count.setText(event.text())
            self.count.setFocus()
            self.count.deselect()
        else:
            return False
        return True

    def _icon(self, what: str, *, finished: bool = False) -> QIcon:
        """A drawing of the idea in a few lines and dots."""

        def draw(painter: QPainter) -> None:
            painter.translate(ICON.width() / 2, 6)
            draw_idea(painter, what, self.theme, finished=finished)

        return drawn_icon(ICON, self.devicePixelRatioF(), draw)


def _stamp(place: str) -> str:
    """What the picture of a file is kept by: it changes when the file does."""
    try:
        return f"{place} {Path(place).stat().st_mtime_ns}"
    except OSError:
        return place


def _begun(start: Skeleton | Start, tray: Tray, asked: Asked) -> Piece:
    if isinstance(start, Skeleton):
        return started(start, tray, asked)
    return begun(start, tray, asked)


def idea_of(piece: Piece) -> str:
    """Which starting point a finished piece comes nearest to."""
    strands = [run for run in piece.runs if run.kind == "strand"]
    if piece.sort in ("earring", "bracelet", "anklet"):
        clustered = any(isinstance(unit, Cluster) for unit in piece.units)
        return "earrings" if piece.sort == "earring" else "cluster" if clustered else piece.sort
    if any(isinstance(row, TiedRows) for row in piece.rows):
        return "triangle"
    if any(run.kind == "swag" for run in piece.runs):
        return "swags"
    if len(strands) > 1:
        strung = strands[1].centre is not None and strands[1].centre.kind == "strung"
        return "nested" if strung else "tiers"
    if piece.closure.kind == "over the head":
        return "lariat"
    linked = strands[0].centre is not None and strands[0].centre.kind == "unit"
    return "linked" if linked else "single"


def draw_idea(painter: QPainter, what: str, theme: Theme, *, finished: bool = False) -> None:
    """The idea of a starting point round (0, 0), about 70 by 54 pixels."""
    chain = QPen(theme.colour("ink"), 1.6)
    chain.setCapStyle(Qt.PenCapStyle.RoundCap)
    painter.setPen(chain)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    depth = {"tiers": (18, 30, 44), "nested": (30, 37, 44), "lariat": (30,), "linked": (34,)}

    def curve(low: float, wide: float = 30.0) -> None:
        path = QPainterPath(QPointF(-wide, 0))
        path.cubicTo(QPointF(-wide, low * 1.3), QPointF(wide, low * 1.3), QPointF(wide, 0))
        painter.drawPath(path)

    if what in ("bracelet", "anklet", "cluster"):
        painter.drawEllipse(QRectF(-26, 4, 52, 44))
    elif what == "earrings":
        for x in (-18.0, 18.0):
            painter.drawArc(QRectF(x - 4, 0, 8, 10), 0, 250 * 16)
            painter.drawLine(QPointF(x - 12, 14), QPointF(x + 12, 14))
    else:
        for low in depth.get(what, (32,)):
            curve(low)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("fold" if finished else "good"))
    for x, y in _DOTS.get(what, ((0.0, 44.0),)):
        painter.drawEllipse(QPointF(x, y), 2.8, 2.8)


_DOTS: dict[str, tuple[tuple[float, float], ...]] = {
    "single": tuple((8.0 * k, 40.0 - abs(k) * 2.4) for k in range(-3, 4)),
    "tiers": tuple((7.0 * k, 38.0 - abs(k) * 2.5) for k in range(-2, 3)),
    "nested": tuple((5.6 * k, 44.0 - k * k * 1.1) for k in range(-3, 4)),
    "triangle": tuple(
        (8.0 * k - 4.0 * (3 - r), 30.0 + 7 * r) for r in range(4) for k in range(4 - r)
    ),
    "swags": ((0.0, 38.0), (-10.0, 33.0), (10.0, 33.0), (0.0, 50.0)),
    "linked": tuple((9.0 * k, 34.0 - k * k * 1.4) for k in range(-2, 3)),
    "lariat": ((0.0, 34.0), (-3.0, 46.0), (3.0, 52.0)),
    "bracelet": tuple((7.0 * k, 48.0 - k * k * 0.9) for k in range(-2, 3)),
    "anklet": tuple((8.0 * k, 48.0 - k * k * 1.2) for k in range(-2, 3)),
    "earrings": tuple((x + 5.0 * k, 30.0 - abs(k) * 4) for x in (-18.0, 18.0) for k in (-2, 0, 2)),
    "cluster": tuple(
        (22.0 * c, 26.0 + 19.0 * s)
        for c, s in ((1, 0), (0.7, 0.7), (0, 1.1), (-0.7, 0.7), (-1, 0), (0.35, 1), (-0.35, 1))
    ),
}
