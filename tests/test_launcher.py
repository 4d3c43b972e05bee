"""The launcher's own judgement: whole, half-made and broken environments, and what is missing."""

import importlib.machinery
import importlib.util
import json
from pathlib import Path

import pytest

LAUNCHER = Path(__file__).parent.parent / "maglia"


@pytest.fixture
def launcher(tmp_path):
    loader = importlib.machinery.SourceFileLoader("launcher", str(LAUNCHER))
    module = importlib.util.module_from_spec(importlib.util.spec_from_loader("launcher", loader))
    loader.exec_module(module)
    module.VENV = tmp_path / ".venv"
    module.STAMP, module.PYTHON = module.VENV / "complete.json", module.VENV / "bin" / "python"
    module.PINS = tmp_path / "requirements.txt"
    module.PINS.write_text("numpy==2.4.6\n")
    module.TEST_PINS = tmp_path / "requirements-test.txt"
    module.TEST_PINS.write_text("pytest==9.2.0\n")
    return module


def core(launcher):
    return launcher.VENV / "lib" / "python3.11" / "site-packages" / "numpy" / "core.py"


def finish(launcher):
    """An environment as a finished set-up leaves it."""
    (launcher.VENV / "bin").mkdir(parents=True)
    launcher.PYTHON.write_text("")
    core(launcher).parent.mkdir(parents=True)
    core(launcher).write_text("x = 1\n")
    stamp = {
        "pins": [launcher.PINS.read_text()],
        "landmarks": launcher.landmarks(),
        "files": launcher.fingerprint(),
    }
    launcher.STAMP.write_text(json.dumps(stamp))


def test_a_whole_environment_is_used(launcher):
    finish(launcher)
    assert launcher.environment_fault([launcher.PINS]) is None


@pytest.mark.parametrize(
    ("harm", "said"),
    [
        (lambda m: m.STAMP.unlink(), "never finished"),
        (lambda m: m.PYTHON.unlink(), "Python is gone"),
        (lambda m: m.PINS.write_text("numpy==2.0\n"), "versions have changed"),
        (lambda m: m.STAMP.write_text("{"), "cannot be read"),
        (lambda m: m.STAMP.write_text("[]"), "cannot be read"),
        (lambda m: core(m).unlink(), "missing or changed"),
        (lambda m: core(m).write_text(""), "missing or changed"),
    ],
)
def test_what_is_wrong_with_an_environment_is_noticed(launcher, harm, said):
    finish(launcher)
    harm(launcher)
    assert said in launcher.environment_fault([launcher.PINS])


def test_a_start_looks_at_landmarks_and_thoroughly_when_the_program_falls_over(
    launcher, monkeypatch
):
    finish(launcher)
    core(launcher).write_text("")
    assert launcher.environment_fault([launcher.PINS], thorough=False) is None
    ran, statuses = [], iter([1, 0])
    monkeypatch.setattr(launcher, "build_environment", lambda fault, pins: ran.append(fault))
    monkeypatch.setattr(
        launcher.subprocess, "run",
        lambda command: launcher.subprocess.CompletedProcess(command, next(statuses)),
    )  # fmt: skip
    assert launcher.run(["python"], ["report", "x.json"]) == 0
    assert ran == ["files in it are missing or changed"]
    core(launcher).unlink()
    core(launcher).parent.rmdir()
    assert "missing" in launcher.environment_fault([launcher.PINS], thorough=False)


def test_what_only_tests_need_is_added_when_they_run(launcher, monkeypatch):
    finish(launcher)
    both = [launcher.PINS, launcher.TEST_PINS]
    assert launcher.environment_fault([launcher.PINS]) is None
    assert launcher.environment_fault(both) == "what tests it is not there yet"
    ran = []
    done = launcher.subprocess.CompletedProcess([], 0)
    monkeypatch.setattr(
        launcher.subprocess, "run", lambda command, **_: ran.append(command) or done
    )
    launcher.build_environment("for a test", both)
    assert [command[2] for command in ran] == ["pip"]  # what is there stays
    assert launcher.environment_fault(both) is None
    assert launcher.environment_fault([launcher.PINS]) is None  # and still runs


def test_there_is_none_yet(launcher):
    assert launcher.environment_fault([launcher.PINS]) == "there is none yet"


def test_compiled_files_do_not_count(launcher):
    finish(launcher)
    for folder in (core(launcher).parent, core(launcher).parent.parent):
        cache = folder / "__pycache__"
        cache.mkdir()
        (cache / "core.cpython-311.pyc").write_bytes(b"x")
        assert launcher.environment_fault([launcher.PINS]) is None
        assert launcher.environment_fault([launcher.PINS], thorough=False) is None


def test_missing_libraries_are_named_in_one_line_to_run(launcher, monkeypatch, capsys):
    monkeypatch.setattr(launcher, "QT_LIBRARIES", {"libno-such-thing.so.9": "libno9"})
    monkeypatch.setattr(launcher.os, "geteuid", lambda: 1000)
    with pytest.raises(SystemExit) as left:
        launcher.ensure_window_libraries()
    assert left.value.code == 2
    assert "sudo apt-get install -y --no-install-recommends libno9" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("arguments", "opens"),
    [
        (["demo"], True), (["open", "x.json"], True), (["demo", "--help"], False),
        (["report", "x.json"], False), ([], False), (["x.maglia"], True),
    ],
)  # fmt: skip
def test_which_commands_open_a_window(launcher, arguments, opens):
    assert launcher.opens_window(arguments) is opens


def test_every_requirement_is_pinned_exactly_and_names_no_host():
    lists = ("requirements.txt", "requirements-test.txt")
    lines = [line for name in lists for line in (LAUNCHER.parent / name).read_text().splitlines()]
    pins = [line for line in lines if line and not line.startswith("#")]
    assert all(line.count("==") == 1 and "/" not in line for line in pins)
    assert len({line.split("==")[0].lower() for line in pins}) == len(pins)
