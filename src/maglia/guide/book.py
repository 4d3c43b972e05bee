"""The pages of the guide: read, searched, and found by what a check or a reading is called."""

import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import NamedTuple

PAGES = Path(__file__).parent / "pages"
FIRST = "index"
EXAMPLE = re.compile(r"^```say\n(.*?)^```$", re.MULTILINE | re.DOTALL)
_LINK = re.compile(r"\]\((\w[\w-]*)\.md\)")
_MARKS = re.compile(r"[`*_#>|]|\[|\]\([^)]*\)|^- ", re.MULTILINE)


class Page(NamedTuple):
    """One page: its file's name, its title, its text."""

    name: str
    title: str
    text: str


class Hit(NamedTuple):
    """Where something stands: page, the heading above it (empty: the page's own), the line."""

    page: Page
    heading: str
    line: str


@cache
def book() -> tuple[Page, ...]:
    """All pages, the first one first, then in the order in which it links to them."""
    first = _page(FIRST)
    order = dict.fromkeys(_LINK.findall(first.text))
    return (first, *(_page(name) for name in order))


def page(name: str) -> Page:
    return next(own for own in book() if own.name == name)


def found(words: str) -> list[Hit]:
    """Where all of some words stand together in a paragraph, titles first, in the book's order."""
    wanted = words.lower().split()
    if not wanted:
        return []
    hits: dict[tuple[str, str], tuple[bool, Hit]] = {}
    for own in book():
        for heading, paragraph in _paragraphs(own):
            hay = f"{heading} {paragraph}".lower()
            if all(word in hay for word in wanted):
                elsewhere = not all(word in heading.lower() for word in wanted)
                hit = Hit(own, heading, _shown(paragraph, wanted))
                known = hits.get((own.name, heading))
                if known is None or known[1].line == heading:  # a text says more than a heading
                    hits[own.name, heading] = (elsewhere, hit)
    return [hit for _, hit in sorted(hits.values(), key=lambda one: one[0])]


def why(code: str) -> str:
    """Where the reason of a check stands, as page#heading."""
    return f"checks#{code.replace('-', ' ').capitalize()}"


def what(reading: str) -> str:
    """Where a reading is explained: by the heading that its name begins with."""
    headings = (line[3:] for line in page("readings").text.splitlines() if line.startswith("## "))
    low = reading.lower()
    return f"readings#{next((own for own in headings if low.startswith(own.lower())), '')}"


def examples(own: Page) -> list[str]:
    """What a page gives to be said, block by block."""
    return EXAMPLE.findall(own.text)


def _page(name: str) -> Page:
    text = (PAGES / f"{name}.md").read_text(encoding="utf-8")
    return Page(name, text.partition("\n")[0].removeprefix("# "), text)


def _paragraphs(own: Page) -> Iterator[tuple[str, str]]:
    """Every paragraph or line of a list with the heading it stands under, without marks."""
    heading, lines = own.title, list[str]()
    for line in [*own.text.splitlines()[1:], ""]:
        if not line or line.startswith(("#", "- ", "|")):
            if lines:
                yield heading, _MARKS.sub("", " ".join(lines)).strip()
            lines = []
        if line.startswith("#"):
            heading = line.lstrip("# ")
            yield heading, heading
        elif line and not line.startswith(("```", "![", "|-", "| |")):
            lines.append(line)


def _shown(paragraph: str, wanted: list[str]) -> str:
    """The part of a paragraph round the first of the words."""
    at = max(paragraph.lower().find(wanted[0]), 0)
    begin = max(at - 40, 0)
    cut = paragraph[begin : begin + 110]
    return ("…" if begin else "") + cut + ("…" if begin + 110 < len(paragraph) else "")
