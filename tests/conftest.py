"""Everything a test leaves behind goes to a temporary place; Qt runs without a screen."""

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest

import maglia.bench  # noqa: F401  # before Qt, see there


@pytest.fixture(autouse=True)
def _own_place(tmp_path, monkeypatch):
    for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME", "HOME"):
        monkeypatch.setenv(name, str(tmp_path))
