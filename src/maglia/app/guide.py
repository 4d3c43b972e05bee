"""Help where it is needed: the book of short pages, searched while one types, and the phrase book
with its drawings. One window beside the bench; it never blocks it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QEvent, QObject, Qt, QUrl
from PySide6.QtGui import (
    QCloseEvent,
    QDesktopServices,
    QImageReader,
    QKeyEvent,
    QTextBlock,
    QTextCursor,
    QTextDocument,
)
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStackedWidget,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from maglia.app.jobs import Jobs
from maglia.app.phrase_book import PhraseBook
from maglia.app.plain_text import Label
from maglia.app.rooms.bench.actions import RULE_KEYS
from maglia.app.rooms.count.actions import COUNT_KEYS
from maglia.app.rooms.log.actions import LOG_KEYS
from maglia.app.rooms.make.actions import MAKE_KEYS
from maglia.app.rooms.room import Action
from maglia.app.rooms.tray.actions import TRAY_KEYS
from maglia.app.theme import Theme, font, scaled
from maglia.app.trade_words import WORDS
from maglia.guide.book import FIRST, PAGES, book, found, page

PLACE = Qt.ItemDataRole.UserRole
PHRASES = "*phrases"
"""The page that is no text: every form of a phrase with what it makes."""
ROOM_KEYS = (
    ("On the half-rule", RULE_KEYS),
    ("In the tray", TRAY_KEYS),
    ("In Count", COUNT_KEYS),
    ("In Make", MAKE_KEYS),
    ("In Log", LOG_KEYS),
)
MOST_HITS = 40
SHARP = 2
"""Pixels of its pictures for each of the page's."""


def keys_page(actions: Sequence[Action[Any]]) -> str:
    """Every key, as the page of the book says them."""
    lines = ["# Every key", ""]
    for heading, keys in ROOM_KEYS:
        lines += [f"## {heading}", "", "| key | what it does |", "|---|---|"]
        lines += [f"| {_cell(key)} | {_cell(words)} |" for key, words in keys] + [""]
    for menu in dict.fromkeys(action.menu for action in actions):
        lines += [f"## {menu}", "", "| key | what it does |", "|---|---|"]
        own = (action for action in actions if action.menu == menu)
        lines += [f"| {_cell(one.keys or 'menu')} | {_cell(one.words)} |" for one in own] + [""]
    return "\n".join(lines).rstrip() + "\n"


def words_page() -> str:
    """The words of the trade, as the page of the book says them."""
    lines = ["# Words of the trade", "", "| word | what it is |", "|---|---|"]
    lines += [f"| {_cell(word)} | {_cell(meaning)} |" for word, meaning in WORDS.items()]
    return "\n".join(lines) + "\n"


def _cell(text: str) -> str:
    return text.replace("|", "\\|")


class Guide(QWidget):
    """Left what is searched and found, right the page; `go("checks#Heavy")` opens a place."""

    def __init__(self, theme: Theme, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.theme, self.window_behind = theme, parent
        self.setWindowTitle("How the bench works — Maglia")
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(scaled(900), 680)
        self.line = QLineEdit()
        self.line.setPlaceholderText("search: ring, hem, pedal …")
        self.line.setAccessibleName("Search the guide")
        self.line.textChanged.connect(self.search)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setAccessibleName("Pages")
        self.list.currentItemChanged.connect(self.on_chosen)
        self.text = QTextBrowser()
        self.text.setOpenLinks(False)
        self.text.setAccessibleName("Page")
        self.text.anchorClicked.connect(self.on_link)
        self.text.document().setBaseUrl(QUrl.fromLocalFile(f"{PAGES}/"))
        self.phrases = PhraseBook(theme, jobs)
        self.right = QStackedWidget()
        self.right.addWidget(self.text)
        self.right.addWidget(self.phrases)
        hint = Label("↓ to what is found · Tab to the page · Esc leaves")
        hint.setObjectName("quiet")
        hint.setWordWrap(True)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        for widget in (self.line, self.list, hint):
            column.addWidget(widget)
        left.setFixedWidth(min(scaled(250), 380))
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 12, 12, 10)
        row.setSpacing(12)
        row.addWidget(left)
        row.addWidget(self.right, 1)
        self.line.installEventFilter(self)
        self.shown = ""
        self.search("")
        self.line.setFocus()

    # --- going --------------------------------------------------------------------------------

    def go(self, place: str) -> None:
        """Show a page by its name, at a heading if there is one after `#`."""
        name, _, heading = place.partition("#")
        if name == PHRASES:
            self.right.setCurrentWidget(self.phrases)
            self.phrases.look()
        else:
            self.right.setCurrentWidget(self.text)
            if self.shown != name:
                self.text.document().setMarkdown(
                    page(name).text.replace("```say\n", "```\n"),
                    QTextDocument.MarkdownFeature.MarkdownDialectGitHub,
                )
                self._dress()
                self.shown = name
            self._to(heading)
        for k in range(self.list.count()):
            item = self.list.item(k)
            if item.data(PLACE) in (place, name):
                self.list.blockSignals(True)
                self.list.setCurrentItem(item)
                self.list.blockSignals(False)
                break

    def set_theme(self, theme: Theme) -> None:
        """The same page in other colours, or in larger text."""
        self.theme, place, self.shown = theme, self.shown, ""
        if self.right.currentWidget() is self.text:
            self.go(place or FIRST)

    def _dress(self) -> None:
        """Room between the blocks; keys and phrases in the program's own type, what is to be said
        on a ground of its own; pictures as large as they are meant, whatever their pixels."""
        document = self.text.document()
        block = document.begin()
        while block.isValid():
            form, cursor = block.blockFormat(), QTextCursor(block)
            said = form.hasProperty(form.Property.BlockCodeFence.value)
            form.setTopMargin(scaled(16 if form.headingLevel() > 1 else 0 if said else 6))
            form.setBottomMargin(scaled(2))
            if said:
                form.setBackground(self.theme.colour("paper_edge"))
                form.setLeftMargin(scaled(14))
            cursor.setBlockFormat(form)
            self._dress_words(block, said=said)
            block = block.next()

    def _dress_words(self, block: QTextBlock, *, said: bool) -> None:
        places = []
        pieces = block.begin()
        while not pieces.atEnd():
            fragment = pieces.fragment()
            places.append((fragment.position(), fragment.length(), fragment.charFormat()))
            pieces += 1
        for at, length, form in places:
            picture = form.toImageFormat()
            if not (picture.isValid() or form.fontFixedPitch() or said):
                continue
            cursor = QTextCursor(self.text.document())
            cursor.setPosition(at)
            cursor.setPosition(at + length, QTextCursor.MoveMode.KeepAnchor)
            if picture.isValid():
                own = QImageReader(str(PAGES / picture.name())).size()
                picture.setWidth(own.width() / SHARP)
                picture.setHeight(own.height() / SHARP)
                cursor.setCharFormat(picture)
            else:
                form.setFont(font(13, bold=True))
                cursor.setCharFormat(form)

    def _to(self, heading: str) -> None:
        """Bring a heading to the top, and the keys to it; without one, the page's beginning."""
        document = self.text.document()
        block = document.begin()
        while heading and block.isValid():
            if block.blockFormat().headingLevel() and block.text() == heading:
                break
            block = block.next()
        block = block if block.isValid() else document.begin()
        self.text.setTextCursor(QTextCursor(block))
        top = document.documentLayout().blockBoundingRect(block).top() if heading else 0.0
        self.text.verticalScrollBar().setValue(round(top))

    def on_link(self, url: QUrl) -> None:
        if url.scheme() in ("http", "https"):
            QDesktopServices.openUrl(url)
        else:
            self.go(url.fileName().removesuffix(".md") or FIRST)

    # --- searching ----------------------------------------------------------------------------

    def search(self, words: str) -> None:
        """All pages; or where all the words stand."""
        self.list.blockSignals(True)
        self.list.clear()
        if words.strip():
            hits = found(words)[:MOST_HITS]
            for hit in hits:
                place = f"{hit.page.name}#{hit.heading}"
                said = hit.heading if hit.line == hit.heading else f"{hit.heading}\n{hit.line}"
                self._add(said, place)
            if not hits:
                self._add("Nothing is called that. Fewer or other words?", "")
        else:
            for own in book():
                self._add(own.title, own.name)
                if own.name == "phrases":
                    self._add("Every phrase, drawn", PHRASES)
        self.list.blockSignals(False)

    def _add(self, words: str, place: str) -> None:
        item = QListWidgetItem(words)
        item.setData(PLACE, place)
        if not place:
            item.setFlags(Qt.ItemFlag.NoItemFlags)
        self.list.addItem(item)

    def on_chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None and item.data(PLACE):
            self.go(str(item.data(PLACE)))

    # --- keys ---------------------------------------------------------------------------------

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.list.setFocus()
                self.list.setCurrentRow(max(self.list.currentRow(), 0))
                self.on_chosen(self.list.currentItem())
                return True
            if event.key() == Qt.Key.Key_Escape and self.line.text():
                self.line.clear()
                return True
        return False

    def closeEvent(self, event: QCloseEvent) -> None:
        """The keys go back to the bench, whatever else lies on the desktop."""
        event.accept()
        self.window_behind.activateWindow()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_F1):
            self.close()
        else:
            super().keyPressEvent(event)
