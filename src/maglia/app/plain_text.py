"""Names are plain text: whatever is in one, no label, tip, button or title takes it as markup."""

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel


class Label(QLabel):
    """A label that shows its words as they are."""

    def __init__(self, words: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(words)


def tip(words: str) -> str:
    """Words for a tip, which would show markup as such."""
    if not set("<&") & set(words):
        return words
    return f"<qt>{escape(words)}</qt>".replace("\n", "<br>")


def strong(words: str) -> str:
    """Words of a rich page in bold, in the weight that the fonts which ship have."""
    return f'<span style="font-weight:600">{escape(words)}</span>'


def button(words: str) -> str:
    """Words for a button or a menu, where “&” would make a key of what follows."""
    return words.replace("&", "&&")


def title(words: str) -> str:
    """Words for a window's title, where “[*]” would say that it is edited."""
    return words.replace("[*]", "[*][*]")
