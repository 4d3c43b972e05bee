"""A line to write in, with the list of what it finds below."""

from collections.abc import Callable

from PySide6.QtCore import QCoreApplication, QObject, QRectF, QSize, Qt
from PySide6.QtGui import (
    QIcon,
    QInputMethodEvent,
    QKeyEvent,
    QPainter,
    QPalette,
    QTextCharFormat,
)
from PySide6.QtWidgets import (
    QLineEdit,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)

from maglia.app.lists import Index, Rows
from maglia.app.painting.whole import draw_in
from maglia.app.panel import Panel, drawn_icon
from maglia.core.parts.units import Thing, Things
from maglia.core.values.record import Value

BETWEEN = "    "
"""What a line says, and after this what it does."""


class Line(Value, frozen=True):
    """One line of the list: what it says, the part it draws, what it does (none: it only says)."""

    words: str
    thing: Thing | None = None
    do: Callable[[], object] | None = None


def marked(line: QLineEdit, part: tuple[int, int] | None, text_format: QTextCharFormat) -> None:
    """Show a part of what is written in a format of its own; None: all plain."""
    kind = QInputMethodEvent.AttributeType.TextFormat
    marks = []
    if part is not None:
        start, end = part
        at = line.cursorPosition()
        marks = [QInputMethodEvent.Attribute(kind, start - at, end - start, text_format)]
    QCoreApplication.sendEvent(line, QInputMethodEvent("", marks))


class _Beside(QStyledItemDelegate):
    """What a line does stands quietly at the right of what it says."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        words, _, beside = str(index.data()).partition(BETWEEN)
        advance = painter.fontMetrics().horizontalAdvance
        taken = advance(words) + advance(beside) + option.decorationSize.width() + 40
        if not beside or option.rect.width() < taken:
            super().paint(painter, option, index)
            return
        own = QStyleOptionViewItem(option)
        self.initStyleOption(own, index)
        own.text = words
        style = own.widget.style()
        style.drawControl(QStyle.ControlElement.CE_ItemViewItem, own, painter, own.widget)
        painter.save()
        painter.setPen(own.palette.color(QPalette.ColorRole.PlaceholderText))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(option.rect.adjusted(0, 0, -10, 0), right, beside)
        painter.restore()


class TypedLine(Panel):
    """Arrows choose in the list while the line keeps the focus; Enter takes what is chosen."""

    icon_size: QSize
    inset: float
    largest: float
    """Pixels round a drawn part, and the most for a millimetre of it."""

    def __init__(self, name: str, found: str) -> None:
        super().__init__()
        self.line = QLineEdit()
        self.line.setAccessibleName(name)
        self.rows: Rows[Line] = Rows(lambda line: line.words, lambda line: self._icon(line.thing))
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setAccessibleName(found)
        self.list.setIconSize(self.icon_size)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setItemDelegate(_Beside(self.list))
        self.line.textChanged.connect(self.refresh)
        self.watch(self.line)
        self.list.clicked.connect(lambda _: self.take())

    def refresh(self) -> None:
        """Fill the list with what fits the text."""
        raise NotImplementedError

    def take(self) -> None:
        """Do what the chosen line says."""
        raise NotImplementedError

    def drawn_with(self) -> Things:
        """What the parts of a drawing are found among."""
        raise NotImplementedError

    def chosen(self) -> Callable[[], object] | None:
        row = self.list.currentIndex().row()
        return self.rows.rows[row].do if 0 <= row < self.rows.rowCount() else None

    def choose(self, row: int) -> None:
        row = min(max(row, 0), self.rows.rowCount() - 1)
        self.list.setCurrentIndex(self.rows.index(row))

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take()
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            by = 1 if key == Qt.Key.Key_Down else -1
            self.choose(self.list.currentIndex().row() + by)
        else:
            return False
        return True

    def _icon(self, thing: Thing | None) -> QIcon | None:
        """The part drawn to fit its place in the list."""
        if thing is None:
            return None
        size, edge = self.icon_size, self.inset
        box = QRectF(edge, edge, size.width() - 2 * edge, size.height() - 2 * edge)

        def draw(painter: QPainter) -> None:
            draw_in(painter, thing, self.drawn_with(), box, self.largest)

        return drawn_icon(size, self.devicePixelRatioF(), draw)
