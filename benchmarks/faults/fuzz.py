"""The mutating fuzzer of the tests, for as long as you like: how many inputs each reader read, how
many it refused, what they took, and what it raised that it should not have.

Run: PYTHONPATH=src:tests:tests/files python benchmarks/faults/fuzz.py [CASES] [SEED] [READER ...]

Each reader runs in a process of its own. A fault is anything raised that is not said in words, an
input that takes over 1 s of CPU, or memory above 300 MB over the idle process.
"""

import resource
import signal
import sys
import tempfile
import time
import traceback
from collections import Counter
from contextlib import suppress
from multiprocessing import get_context
from pathlib import Path
from random import Random

from readers import READERS, read_through

MOST_CPU_S = 1.0
MOST_MB = 300
LEAST_SHARE, READ_ALL = 0.01, ("kept", "settings")
"""Of the inputs that are read, and that are refused; but for what is set aside when it is none."""
STOPPED_AFTER_S, MOST_ADDRESSES = 20.0, 4_000_000_000
"""What no input may take, so that a run comes to its end."""


def _too_long(*_: object) -> None:
    raise TimeoutError(f"it took more than {STOPPED_AFTER_S:g} s")


def _peak_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def run(name: str, cases: int, seed: int) -> int:
    """All cases of one reader. Returns how many faults there were."""
    reader, made, own, _ = READERS[name]
    random, found, slowest, faults = Random(f"{seed} {name}"), Counter[str](), 0.0, 0
    resource.setrlimit(resource.RLIMIT_AS, (MOST_ADDRESSES, MOST_ADDRESSES))
    signal.signal(signal.SIGPROF, _too_long)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / own
        read_through(reader, path, made(Random(0)))
        idle = _peak_mb()
        for k in range(cases):
            data = made(random)
            began = time.process_time()
            signal.setitimer(signal.ITIMER_PROF, STOPPED_AFTER_S)
            try:
                found[read_through(reader, path, data)] += 1
            except Exception:  # noqa: BLE001  # counted and shown: it is what is looked for
                faults += 1
                found["raised"] += 1
                traceback.print_exc(limit=-3)
                Path(f"{name}-{seed}-{k}.fault").write_bytes(data)
            signal.setitimer(signal.ITIMER_PROF, 0)
            took = time.process_time() - began
            if MOST_CPU_S < took < STOPPED_AFTER_S:  # once more: it may have been the machine
                began = time.process_time()
                with suppress(Exception):
                    read_through(reader, path, data)
                took = time.process_time() - began
            if took > MOST_CPU_S:
                faults += 1
                print(f"{name}: case {k} took {took:.2f} s", flush=True)
                Path(f"{name}-{seed}-{k}.slow").write_bytes(data)
            slowest = max(slowest, took)
            for aside in path.parent.glob("*.unreadable*"):
                aside.unlink()
    grown = _peak_mb() - idle
    print(
        f"{name:10} {dict(found)}  slowest {slowest:.2f} s of CPU, {grown:.0f} MB above idle",
        flush=True,
    )
    least = min(found["read"], found["refused"])
    if least < cases * LEAST_SHARE and name not in READ_ALL:
        print(f"{name}: only {least} of {cases} were read, or were refused: that says little")
        faults += 1
    return faults + (grown > MOST_MB)


def main(cases: int = 2000, seed: int = 1, *names: str) -> int:
    faults = 0
    for name in names or READERS:
        with get_context("spawn").Pool(1) as pool:
            faults += pool.apply(run, (name, cases, seed))
    return faults


if __name__ == "__main__":
    words = sys.argv[1:]
    sys.exit(min(main(*(int(word) for word in words[:2]), *words[2:]), 1))
