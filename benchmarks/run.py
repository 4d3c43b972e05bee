"""Every benchmark in turn: python benchmarks/run.py [--out docs/performance.md] [NAME …]

Each is a program of its own that prints its figures with what is allowed; here they are run alone,
so that none disturbs another. What they say is written below a line of the file that says so; what
is above it stays. Those of cutting against another solver take minutes and are run by name.
"""

import argparse
import datetime
import os
import platform
import subprocess
import sys
from pathlib import Path

HERE = Path(__file__).parent
USUAL = ("bench", "hang", "others", "expand", "joining", "make", "weaves", "phrases", "tray", "log")
LINE = "<!-- below: written by benchmarks/run.py -->"
NOISE = "This plugin does not support"


def said(name: str) -> tuple[str, str]:
    """First line of what a benchmark is about, and what it prints."""
    path = HERE / f"{name}.py"
    about = path.read_text().split('"""')[1].strip().split("\n")[0].split(": python")[0]
    line = [sys.executable, str(path)]
    env = {**os.environ, "PYTHONPATH": str(HERE.parent / "src"), "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(line, capture_output=True, text=True, env=env, check=False)
    lines = [one.rstrip() for one in done.stdout.split("\n") if NOISE not in one]
    faults = [one for one in done.stderr.strip().split("\n") if one and NOISE not in one]
    if done.returncode and faults:  # a goal that is missed says so itself
        lines.append(f"(ended with {done.returncode}: {faults[-1]})")
    return about, "\n".join(lines).strip()


def main() -> int:
    """Run what is named; write it all to a file, or say it."""
    known = sorted(path.stem for path in HERE.glob("*.py") if path.stem != "run")
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("names", nargs="*", metavar="NAME", help=", ".join(known))
    asked.add_argument("--out", type=Path)
    wishes = asked.parse_args()
    if unknown := set(wishes.names) - set(known):
        asked.error(f"there is no benchmark {', '.join(sorted(unknown))}")
    cores, today = os.cpu_count(), datetime.date.today().isoformat()
    parts = [
        f"{LINE}\n",
        f"{today}: Python {platform.python_version()}, {platform.machine()}, {cores} cores.\n",
    ]
    for name in wishes.names or USUAL:
        about, text = said(name)
        print(f"{name}\n{text}\n", flush=True)
        parts.append(f"## {name}\n\n{about}\n\n```\n{text}\n```\n")
    if wishes.out:
        kept = wishes.out.read_text().partition(LINE)[0] if wishes.out.exists() else ""
        wishes.out.write_text(kept + "\n".join(parts))
    return 0


if __name__ == "__main__":
    sys.exit(main())
