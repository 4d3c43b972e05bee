"""Every promise of the page on reliability has a fault that breaks it, and can still be planted."""

import importlib.util
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[1]
PAGE = (ROOT / "docs/reliability.md").read_text().partition("## How it is tested")[0]


def planted():
    where = ROOT / "benchmarks/faults/planted.py"
    spec = importlib.util.spec_from_file_location("planted", where)
    found = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(found)
    return found


def test_every_promise_has_a_fault_that_breaks_it(tmp_path):
    own, page = planted(), " ".join(PAGE.split())
    for plant in own.PLANTS:
        assert plant.promise in page
        assert (ROOT / "src/maglia" / plant.file).read_text().count(plant.words) == 1, plant.promise
        assert plant.words != plant.instead
        assert all((ROOT / test).exists() for test in plant.tests)
    for paragraph in PAGE.split("\n\n**")[1:]:
        words = " ".join(paragraph.split())
        assert any(plant.promise in words for plant in own.PLANTS), words[:60]
    headings = re.findall(r"^\*\*", PAGE, re.MULTILINE)
    assert len(headings) >= 10
    with pytest.raises(ValueError, match="holds 0 ×"):
        own.spoilt(own.PLANTS[0]._replace(words="is nowhere"), ROOT)
