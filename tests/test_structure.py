"""The core stands without Qt, the report without a window, and a wheel without this checkout."""

import json
import subprocess
import sys
import zipfile
from pathlib import Path

import maglia
from maglia.demo import demo_path

PACKAGE = Path(maglia.__file__).parent


def run_python(code):
    return subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)


def test_report_and_every_core_module_work_without_qt():
    code = """
import sys, pkgutil, importlib
sys.modules["PySide6"] = None
import maglia.core, maglia.files, maglia.cli
for package in (maglia.core, maglia.files):
    for found in pkgutil.walk_packages(package.__path__, package.__name__ + "."):
        importlib.import_module(found.name)
from click.testing import CliRunner
from maglia.demo import demo_path
done = CliRunner().invoke(maglia.cli.main, ["report", str(demo_path()), "--json"])
assert done.exit_code == 0, done.output
print(done.output)
"""
    done = run_python(code)
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["hang"]["state"] == "converged"


def test_the_window_stands_before_the_numerics_are_there():
    """They take as long as all the rest of the start: a worker imports them."""
    code = """
import sys
import maglia.app.start, maglia.app.shell, maglia.app.session.session
from maglia.app.house import ROOMS
heavy = {"scipy", "pyqtgraph", "highspy", "maglia.core.report"} & set(sys.modules)
assert not heavy, heavy
"""
    done = run_python(code)
    assert done.returncode == 0, done.stderr


def test_the_wheel_carries_all_it_needs(tmp_path):
    build = (sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", str(tmp_path))
    subprocess.run(build, check=True, capture_output=True)
    wheel = next(tmp_path.glob("*.whl"))
    with zipfile.ZipFile(wheel) as archive:
        names = set(archive.namelist())
        archive.extractall(tmp_path / "apart")
    assert {f"maglia/demo/pieces/{demo_path().name}", "maglia/demo/tray.json"} <= names
    assert any(name.endswith("OFL.txt") for name in names)
    for folder in ("guide/pages", "desktop/data", "app/icons", "app/fonts"):
        here = {path.name for path in (PACKAGE / folder).iterdir() if path.is_file()}
        assert here == {Path(name).name for name in names if Path(name).parent.match(folder)}
    entry = next(name for name in names if name.endswith("entry_points.txt"))
    assert "maglia = maglia.cli:main" in (tmp_path / "apart" / entry).read_text()
    code = f"""
import sys; sys.path.insert(0, {str(tmp_path / "apart")!r})
import maglia.cli; sys.argv = ["maglia", "demo", "--list"]
assert "apart" in maglia.cli.__file__
maglia.cli.main()
"""
    assert demo_path().stem in run_python(code).stdout
