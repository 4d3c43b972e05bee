"""Everything a test leaves behind goes to a temporary place; Qt runs without a screen."""

import gc
import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from PySide6.QtCore import QCoreApplication, QEvent


@pytest.fixture(autouse=True)
def _own_place(tmp_path, monkeypatch):
    for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME", "HOME"):
        monkeypatch.setenv(name, str(tmp_path))


def pytest_collection_finish():
    gc.disable()
    gc.freeze()


@pytest.fixture(autouse=True)
def _taken_down():
    """Windows of a test are destroyed here: left to Python's collector, which runs in whatever
    thread is at work, one could be destroyed in a worker's while Qt still sends it events."""
    yield
    app = QCoreApplication.instance()
    if app is not None:
        app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    gc.collect()
