"""The guide: its pages are whole, its examples work, checks and readings have their reasons."""

import re
from pathlib import Path

import pytest

import maglia.core.checks as checks
from maglia.core.hang.flat import Mark
from maglia.core.report import evaluate
from maglia.core.workshop.tray import Tray
from maglia.files.shelf import shelf
from maglia.guide.book import PAGES, book, examples, found, page, what, why
from maglia.phrases.book import bench_tray
from maglia.phrases.script import write

ROOT = Path(__file__).parent.parent
GENERATED = ("keys", "words")


def headings(name):
    return {line.lstrip("# ") for line in page(name).text.splitlines() if line.startswith("#")}


def every_code():
    """The codes of all checks, as they stand in their sources; those that are put together, from
    what they are put together of."""
    folder = Path(checks.__file__).parent
    text = "\n".join(path.read_text() for path in sorted(folder.glob("*.py")))
    plain = set(re.findall(r'code="([a-z-]+)"', text))
    weaves = set(re.findall(r'^ +"((?:weave|swatch|rubber)-[a-z-]+)",$', text, re.MULTILINE))
    first = set(re.findall(r'Check\(\s*"([a-z]+-[a-z-]+)"', text))
    hung = {f"hang-{state}" for state in ("too-short", "unstable", "slides-off")}
    flat = {f"not-flat-{signal}" for signal in Mark.__annotations__["signal"].__args__}
    return plain | weaves | first | hung | flat


def test_every_check_says_why():
    codes = every_code()
    assert len(codes) > 45
    there = headings("checks")
    assert {code for code in codes if why(code).partition("#")[2] not in there} == set()


@pytest.mark.parametrize(
    ("reading", "heading"),
    [("closed length", "Closed length"), ("fall, Tier 2", "Fall"), ("gap Tier 1 – Tier 2", "Gap"),
     ("stretch", "Stretch"), ("slack, Tier 1 3 to 9", "Slack"), ("weight", "Weight")],
)  # fmt: skip
def test_every_reading_is_explained(reading, heading):
    assert what(reading) == f"readings#{heading}"


def test_all_pages_are_reached_and_all_links_and_pictures_are_there():
    names = {own.name for own in book()}
    assert names == {path.stem for path in PAGES.glob("*.md")}
    for own in book():
        for link in re.findall(r"\]\(([^)#]+)\)", own.text):
            assert (PAGES / link).is_file(), f"{own.name}: {link}"
        assert own.text.startswith("# ")
        assert len(own.text.split()) < 900 or own.name in ("checks", *GENERATED)


@pytest.mark.parametrize("name", [own.name for own in book() if examples(own)])
def test_what_a_page_says_can_be_said(name):
    tray = Tray(parts=tuple(shelf())) if name == "first-hour" else bench_tray()
    first = "begin necklace\n" if name == "first-hour" else ""
    blocks = examples(page(name))
    empty = "\nbegin necklace"  # for blocks that only lay something into the tray
    for script in [first + "".join(blocks)] if name == "first-hour" else blocks:
        whole = script if "begin" in script else script + empty
        assert write(whole, tray).piece is not None


def test_the_first_hour_ends_with_a_piece_that_hangs_and_can_be_made():
    script = "begin necklace\n" + "".join(examples(page("first-hour")))
    made = write(script, Tray(parts=tuple(shelf()))).piece
    seen = evaluate(made)
    assert seen.hung.state == "converged"
    assert seen.closed_length_mm == pytest.approx(420, abs=1.5)  # half a pitch of rolo 3
    assert [check.code for check in seen.checks] == []
    steps = re.findall(r"^## (\d) ", page("first-hour").text, re.MULTILINE)
    assert steps == list("1234567")


def test_searching_finds_titles_first_and_all_words_together():
    assert found("ring too full")[0].heading == "Ring too full"
    assert {hit.page.name for hit in found("pedal")} == {"make", "first-hour", "keys"}
    assert found("") == []
    assert found("zeppelin") == []
    for hit in found("the"):
        assert len(hit.line) < 130


def test_the_same_pages_are_in_docs():
    """`python docs/draw_guide.py` brings them there; a link would lose them from the wheel."""
    there = ROOT / "docs" / "guide"
    files = {path.relative_to(PAGES) for path in PAGES.rglob("*.*")}
    assert {path.relative_to(there) for path in there.rglob("*.*")} == files
    assert all((there / path).read_bytes() == (PAGES / path).read_bytes() for path in files)


def test_keys_and_words_are_those_of_the_program():
    from maglia.app.guide import keys_page, words_page
    from maglia.app.house import ACTIONS, ROOMS

    actions = (*ACTIONS, *(action for room in ROOMS for action in room.actions))
    assert page("keys").text == keys_page(actions)
    assert page("words").text == words_page()
