"""The compartments: every part, unit and wearer as a tile, drawn at one common scale, under the
heading of its compartment. Arrows walk; headings are passed over.
"""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QEvent, QRect, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen, QPixmap, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QListView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from maglia.app.lists import Index, Rows
from maglia.app.painting.marks import draw_person
from maglia.app.painting.whole import draw_whole, whole_box
from maglia.app.theme import FAINT_INK, Theme, font, scaled
from maglia.core.parts.units import Things
from maglia.core.piece.piece import Wearer
from maglia.core.workshop.compartments import Kept, Lain, id_of, kind_words, name_of

SCALES = (1.5, 2.0, 3.0, 4.0, 5.0, 6.5, 8.0, 10.0)
"""Pixels a millimetre, one for all."""
USUAL = 4.0
HEADING_PX, TEXT_PX, GAP_PX, LEAST_PX = 28, 38, 10, 104
LARGEST_PX = 130
FITTING = 0.55
"""No tile's drawing is higher; what would be is drawn at a half, a quarter … of the common scale,
no higher than this share of it, and says so."""
KEPT_TILES = 500
BATCH = 120
"""Tiles laid out before the first picture; the rest follows."""


class Heading(str):
    """A line of its own between the compartments."""

    __slots__ = ()


Row = Lain | Heading


class _Model(Rows[Row]):
    """Headings cannot be chosen."""

    def flags(self, index: Index) -> Qt.ItemFlag:
        if isinstance(self.rows[index.row()], Heading):
            return Qt.ItemFlag.NoItemFlags
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable


class Compartments(QListView):
    """`stock` says in few words what lies there of a thing.

    Signals: `pointed(thing)` the current tile is another · `opened(thing)` Enter or a double click.
    """

    pointed = Signal(object)
    opened = Signal(object)

    def __init__(self, theme: Theme, stock: Callable[[Kept], str]) -> None:
        super().__init__()
        self.theme, self.stock = theme, stock
        self.things: Things = {}
        self.scale = USUAL
        self.empty = ""
        self.model_rows = _Model(self._words, parent=self)
        self.surface = QWidget()
        self.setViewport(self.surface)
        self.setModel(self.model_rows)
        self.setItemDelegate(_Tile(self))
        self.setObjectName("mat")
        self.setAccessibleName("Tray")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFlow(QListView.Flow.LeftToRight)
        self.setWrapping(True)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setLayoutMode(QListView.LayoutMode.Batched)
        self.setBatchSize(BATCH)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.doubleClicked.connect(lambda index: self.opened.emit(self._thing(index)))
        self._tiles: OrderedDict[str, tuple[Kept, tuple[float, float], QPixmap]] = OrderedDict()
        self._sizes: dict[int, QSizeF] = {}
        self._lain: tuple[Lain, ...] = ()
        self._highs: dict[str, float] = {}

    # --- what is shown ------------------------------------------------------------------------

    def show_lain(self, lain: Sequence[Lain], things: Things) -> None:
        """Other things; the current one stays current if it is among them."""
        at = self.thing
        if things is not self.things:
            self._tiles.clear()
            self._sizes.clear()
        self.things = things
        rows: list[Row] = []
        self._lain = tuple(lain)
        self._highs = self._high_by_compartment(self._lain)
        for k, own in enumerate(lain):
            if not k or lain[k - 1].compartment != own.compartment:
                count = sum(other.compartment == own.compartment for other in lain[k:])
                rows.append(Heading(f"{own.compartment}  {count}"))
            rows.append(own)
        self.model_rows.show(rows)
        self.setAccessibleDescription(f"{len(lain)} things" if lain else self.empty)
        self.show_thing(id_of(at)) if at is not None else self.show_first()
        self.surface.update()

    @property
    def thing(self) -> Kept | None:
        """The thing of the current tile."""
        return self._thing(self.currentIndex())

    def _thing(self, index: Index) -> Kept | None:
        rows = self.model_rows.rows
        row = rows[index.row()] if 0 <= index.row() < len(rows) else None
        return row.thing if isinstance(row, Lain) else None

    def show_thing(self, ref: str) -> bool:
        """Make a thing's tile current; the first one if it is not shown."""
        for k, row in enumerate(self.model_rows.rows):
            if isinstance(row, Lain) and id_of(row.thing) == ref:
                self.setCurrentIndex(self.model_rows.index(k))
                return True
        self.show_first()
        return False

    def show_first(self) -> None:
        first = next((k for k, r in enumerate(self.model_rows.rows) if isinstance(r, Lain)), -1)
        self.setCurrentIndex(self.model_rows.index(first))

    def zoom(self, by: int) -> None:
        """Draw everything larger or smaller, at one scale."""
        at = min(max(SCALES.index(self.scale) + by, 0), len(SCALES) - 1)
        self.scale = SCALES[at]
        self._tiles.clear()
        self._highs = self._high_by_compartment(self._lain)
        self.scheduleDelayedItemsLayout()
        if self.currentIndex().isValid():
            self.scrollTo(self.currentIndex())

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self._tiles.clear()
        self.surface.update()

    # --- tiles --------------------------------------------------------------------------------

    def _words(self, row: Row) -> str:
        if isinstance(row, Heading):
            return str(row)
        thing = row.thing
        return ", ".join(filter(None, (name_of(thing), kind_words(thing), self.stock(thing))))

    def size_of(self, row: Row) -> QSize:
        if isinstance(row, Heading):
            return QSize(self.surface.width() - 1, scaled(HEADING_PX))
        wide = max(
            self._box_mm(row.thing).width() * self._scale_of(row.thing) + 2 * GAP_PX,
            scaled(LEAST_PX),
        )
        high = min(self._highs[row.compartment] * self.scale, LARGEST_PX) + scaled(TEXT_PX) + GAP_PX
        return QSize(min(round(wide), max(self.surface.width() - 1, scaled(LEAST_PX))), round(high))

    def _high_by_compartment(self, lain: Sequence[Lain]) -> dict[str, float]:
        """The highest drawing of each compartment, mm: all stand on one line there."""
        found: dict[str, float] = {}
        for own in lain:
            high = self._box_mm(own.thing).height() * self._reduced(own.thing)
            found[own.compartment] = max(found.get(own.compartment, 0.0), high)
        return found

    def _reduced(self, thing: Kept) -> float:
        """The share of the common scale that what is far too high for its row is drawn at."""
        high = self._box_mm(thing).height() * self.scale
        if high <= LARGEST_PX:
            return 1.0
        return float(0.5 ** math.ceil(math.log2(high / (LARGEST_PX * FITTING))))

    def _scale_of(self, thing: Kept) -> float:
        return self.scale * self._reduced(thing)

    def said_of(self, thing: Kept) -> str:
        """What lies there, and whether it is drawn smaller than the others."""
        share = self._reduced(thing)
        smaller = "" if share == 1.0 else f"drawn at 1 : {round(1 / share)}"
        return " · ".join(filter(None, (self.stock(thing), smaller)))

    def _box_mm(self, thing: Kept) -> QSizeF:
        """What a thing's drawing takes, mm."""
        known = self._sizes.get(id(thing))
        if known is None:
            known = self._sizes[id(thing)] = self._box(thing).size()
        return known

    def _box(self, thing: Kept) -> QRectF:
        if isinstance(thing, Wearer):
            return QRectF(0, 0, 12, 15)
        box = whole_box(thing, self.things)
        return box.transposed() if _hangs(thing) else box

    def picture(self, thing: Kept, size: QSize) -> QPixmap:
        """The drawing of a tile."""
        ratio = self.devicePixelRatioF()
        key, ref = (self.scale, ratio), id_of(thing)
        known = self._tiles.get(ref)
        if known is not None and known[0] is thing and known[1] == key:
            self._tiles.move_to_end(ref)
            return known[2]
        picture = QPixmap(size * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._draw(painter, thing, QRectF(0, 0, size.width(), size.height()))
        painter.end()
        self._tiles[ref] = (thing, key, picture)
        if len(self._tiles) > KEPT_TILES:
            self._tiles.popitem(last=False)
        return picture

    def _draw(self, painter: QPainter, thing: Kept, room: QRectF) -> None:
        if isinstance(thing, Wearer):
            draw_person(painter, room, self.theme)
            return
        box = self._box(thing)
        scale = self._scale_of(thing)
        high = min(box.height() * scale, room.height())
        painter.translate(room.center().x(), room.bottom() - high)
        painter.scale(scale, scale)
        own = whole_box(thing, self.things)
        if _hangs(thing):
            painter.rotate(90)
            painter.translate(-own.left(), -own.center().y())
        else:
            painter.translate(-own.center().x(), -own.top())
        draw_whole(painter, thing, self.things)

    # --- keys ---------------------------------------------------------------------------------

    def currentChanged(self, current: Index, previous: Index) -> None:
        super().currentChanged(current, previous)
        self.pointed.emit(self._thing(current))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.scheduleDelayedItemsLayout()

    def event(self, event: QEvent) -> bool:
        """Letters are the room's keys, and not looked up as a name."""
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        thing = self.thing
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and thing is not None:
            self.opened.emit(thing)
        elif event.key() == Qt.Key.Key_Escape or (event.text() and event.text().isprintable()):
            event.ignore()
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._walk(-1 if event.key() == Qt.Key.Key_Left else 1)
        else:
            super().keyPressEvent(event)

    def _walk(self, by: int) -> None:
        """To the tile before or after, over headings."""
        at = self.currentIndex().row() + by
        while 0 <= at < len(self.model_rows.rows):
            if isinstance(self.model_rows.rows[at], Lain):
                self.setCurrentIndex(self.model_rows.index(at))
                return
            at += by

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self.model_rows.rows and self.empty:
            painter = QPainter(self.surface)
            painter.setPen(self.theme.colour("ink"))
            painter.setFont(font(15))
            room = self.surface.rect().adjusted(28, 24, -28, -24)
            tabs = Qt.AlignmentFlag.AlignTop.value | Qt.TextFlag.TextExpandTabs.value
            painter.drawText(room, tabs, self.empty)


def _hangs(thing: Any) -> bool:
    """Drawn downwards, as it hangs."""
    return getattr(thing, "kind", "") in ("dangle", "tassel", "cluster", "charm", "ear finding")


class _Tile(QStyledItemDelegate):
    """A tile: its drawing above, name and stock below."""

    def __init__(self, view: Compartments) -> None:
        super().__init__(view)
        self.view = view

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return self.view.size_of(self.view.model_rows.rows[index.row()])

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        view, box = self.view, option.rect
        row = view.model_rows.rows[index.row()]
        painter.save()
        if isinstance(row, Heading):
            self._heading(painter, row, box)
        else:
            self._tile(painter, row.thing, box, current=index == view.currentIndex())
        painter.restore()

    def _heading(self, painter: QPainter, row: Heading, box: QRect) -> None:
        words, _, count = row.rpartition("  ")
        low = box.adjusted(12, 6, -12, -4)
        painter.setFont(font(11, bold=True))
        painter.setPen(self.view.theme.colour("ink", FAINT_INK))
        painter.drawText(low, Qt.AlignmentFlag.AlignVCenter.value, words)
        wide = painter.fontMetrics().horizontalAdvance(words)
        painter.setFont(font(11))
        painter.setPen(self.view.theme.colour("ink", FAINT_INK))
        painter.drawText(
            low.adjusted(wide + 8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter.value, count
        )
        more = wide + 16 + painter.fontMetrics().horizontalAdvance(count)
        painter.setPen(QPen(self.view.theme.colour("ink", 50), 1))
        y = low.center().y() + 1
        painter.drawLine(low.left() + more, y, low.right(), y)

    def _tile(self, painter: QPainter, thing: Kept, box: QRect, *, current: bool) -> None:
        view, theme = self.view, self.view.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if current:
            strong = view.hasFocus()
            painter.setPen(
                QPen(theme.colour("chosen" if strong else "ink", 255 if strong else 90), 1.5)
            )
            painter.setBrush(theme.colour("paper", 60))
            painter.drawRoundedRect(QRectF(box).adjusted(2, 1, -2, -2), 5, 5)
        picture = QRect(
            box.left(),
            box.top() + GAP_PX // 2,
            box.width(),
            box.height() - scaled(TEXT_PX) - GAP_PX,
        )
        if picture.height() > 0:
            painter.drawPixmap(picture.topLeft(), view.picture(thing, picture.size()))
        text = QRect(
            box.left() + 4, box.bottom() - scaled(TEXT_PX), box.width() - 8, scaled(TEXT_PX) - 4
        )
        centred = Qt.AlignmentFlag.AlignHCenter.value
        painter.setFont(font(12, bold=current))
        painter.setPen(theme.colour("ink"))
        name = painter.fontMetrics().elidedText(
            name_of(thing), Qt.TextElideMode.ElideMiddle, text.width()
        )
        painter.drawText(text, centred | Qt.AlignmentFlag.AlignTop.value, name)
        painter.setFont(font(11))
        painter.setPen(theme.colour("ink", FAINT_INK))
        stock = painter.fontMetrics().elidedText(
            view.said_of(thing), Qt.TextElideMode.ElideRight, text.width()
        )
        painter.drawText(text, centred | Qt.AlignmentFlag.AlignBottom.value, stock)
