"""Everything a test leaves behind goes to a temporary place; Qt runs without a screen."""

import gc
import os
import signal
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from PySide6.QtCore import QCoreApplication, QEvent

STARTED_BY = "MAGLIA_TESTS_OF"


@pytest.fixture(autouse=True, scope="session")
def _nothing_outlives_the_tests():
    """What a test starts bears a mark that it inherits; what is still there in the end is ended,
    and said."""
    mark = os.environ[STARTED_BY] = f"{os.getpid()}-{time.time_ns()}"
    yield
    os.environ.pop(STARTED_BY)
    left = [own for own in Path("/proc").glob("[0-9]*") if _bears(own, mark)]
    said = [(own / "cmdline").read_bytes().replace(b"\0", b" ").decode() for own in left]
    for own in left:
        os.kill(int(own.name), signal.SIGKILL)
    assert not said, f"left running by a test: {said}"


def _bears(process, mark):
    try:
        return f"{STARTED_BY}={mark}".encode() in (process / "environ").read_bytes()
    except OSError:
        return False


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
