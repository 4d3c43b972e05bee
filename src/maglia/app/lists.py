"""Lists as item models: rows of values, each with the words that say it. How a row is drawn is its
delegate's; keyboard, focus and accessibility come with the view.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Generic, TypeVar

from PySide6.QtCore import (
    QAbstractListModel,
    QEvent,
    QModelIndex,
    QPersistentModelIndex,
    QRect,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QIcon, QKeyEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QListView,
    QSizePolicy,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from maglia.app.plain_text import tip
from maglia.app.theme import Theme

WRAPPED = Qt.AlignmentFlag.AlignVCenter.value | Qt.TextFlag.TextWordWrap.value
Row = TypeVar("Row")
Index = QModelIndex | QPersistentModelIndex


class Rows(QAbstractListModel, Generic[Row]):
    """`words` says a row as text, `icon` draws one beside it; `explained` is said of its words too
    while one points at it."""

    def __init__(
        self,
        words: Callable[[Row], str],
        icon: Callable[[Row], QIcon | None] = lambda _: None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.words, self.icon = words, icon
        self.explained: Callable[[str], str] = lambda _: ""
        self.rows: tuple[Row, ...] = ()

    def show(self, rows: Sequence[Row]) -> None:
        """Other rows in the place of the old ones."""
        self.beginResetModel()
        self.rows = tuple(rows)
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not 0 <= index.row() < len(self.rows):
            return None
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return self.words(row)
        if role == Qt.ItemDataRole.ToolTipRole:
            said = self.words(row)
            return tip("\n\n".join(filter(None, (said, self.explained(said)))))
        if role == Qt.ItemDataRole.DecorationRole:
            return self.icon(row)
        return None


class RowDelegate(QStyledItemDelegate, Generic[Row]):
    """Draws rows in the theme's colours; the current one has a line round it while the list has
    the keys. Subclasses say how high a row is and what is in it."""

    def __init__(self, view: RowList[Row], theme: Theme) -> None:
        super().__init__(view)
        self.view, self.theme = view, theme

    def height(self, row: Row, width: int) -> int:
        raise NotImplementedError

    def draw(self, painter: QPainter, row: Row, box: QRect) -> None:
        raise NotImplementedError

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        width = self.view.surface.width()
        return QSize(width, self.height(self.view.model_rows.rows[index.row()], width))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box: QRect = option.rect
        if self.view.hasFocus() and index.row() == self.view.current:
            painter.setPen(QPen(self.theme.colour("chosen"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 1, -2, -3), 4, 4)
        self.draw(painter, self.view.model_rows.rows[index.row()], box)
        painter.restore()


class RowList(QListView, Generic[Row]):
    """A list as high as all its rows, within something that scrolls. `empty` is said where there
    are none; `keys` are what its own keys do to the current row.

    Signals: `chosen(row)` Enter or a double click · `pointed(row)` a click.
    """

    chosen = Signal(object)
    pointed = Signal(object)

    def __init__(self, name: str, words: Callable[[Row], str], theme: Theme) -> None:
        super().__init__()
        self.theme, self.empty, self.empty_role = theme, "", "quiet"
        self.keys: dict[int, Callable[[Row], object]] = {}
        self.model_rows: Rows[Row] = Rows(words, parent=self)
        self.surface = QWidget()  # one PySide6 knows: to tell the kind of Qt's own costs 15 ms
        self.setViewport(self.surface)
        self.setModel(self.model_rows)
        self.setObjectName("plain")
        self.setAccessibleName(name)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.doubleClicked.connect(lambda index: self.chosen.emit(self.row_at(index)))
        self.clicked.connect(lambda index: self.pointed.emit(self.row_at(index)))

    @property
    def rows(self) -> tuple[Row, ...]:
        return self.model_rows.rows

    @property
    def current(self) -> int:
        return self.currentIndex().row()

    @current.setter
    def current(self, row: int) -> None:
        self.setCurrentIndex(self.model_rows.index(row))

    def row_at(self, index: QModelIndex) -> Row:
        return self.rows[index.row()]

    def show_rows(self, rows: Sequence[Row]) -> None:
        """Other rows; the same place stays current. What the list says as a whole changes with
        them."""
        at = max(self.current, 0)
        self.model_rows.show(rows)
        if rows:
            self.current = min(at, len(rows) - 1)
        said = "; ".join(self.model_rows.words(row).replace("\n", " ") for row in rows)
        self.setAccessibleDescription(said or self.empty)
        self.fit_height()
        self.surface.update()

    def fit_height(self) -> None:
        heights = (self.sizeHintForIndex(self.model_rows.index(k)) for k in range(len(self.rows)))
        self.setFixedHeight(max(sum(size.height() for size in heights), self._empty_height()))

    def _empty_height(self) -> int:
        if self.rows or not self.empty:
            return 24
        free = QRect(0, 0, self.surface.width(), 1000)
        return max(self.fontMetrics().boundingRect(free, WRAPPED, self.empty).height() + 6, 24)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        delegate = self.itemDelegate()
        if isinstance(delegate, RowDelegate):
            delegate.theme = theme
        self.model_rows.layoutChanged.emit()  # the text's size may be another
        self.fit_height()
        self.surface.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self.scheduleDelayedItemsLayout()
            self.fit_height()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self.rows and self.empty:
            painter = QPainter(self.surface)
            painter.setPen(self.theme.colour(self.empty_role))
            painter.drawText(self.surface.rect(), WRAPPED, self.empty)

    def event(self, event: QEvent) -> bool:
        """Its own keys come before the window's."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            plain = event.modifiers() in (
                Qt.KeyboardModifier.NoModifier,
                Qt.KeyboardModifier.ShiftModifier,
                Qt.KeyboardModifier.KeypadModifier,
            )
            if plain and event.key() in self.keys:
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, at = event.key(), self.current
        if 0 <= at < len(self.rows):
            row = self.rows[at]
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.chosen.emit(row)
                return
            if key in self.keys:
                self.keys[key](row)
                return
        if key == Qt.Key.Key_Escape or (event.text() and event.text().isprintable()):
            event.ignore()  # no search by letters: they are actions of the room
            return
        super().keyPressEvent(event)
