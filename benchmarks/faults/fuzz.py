"""The mutating fuzzer of the tests, for as long as you like: how many inputs each reader read, how
many it refused, the slowest, and what it raised that it should not have.

Run: PYTHONPATH=src:tests:tests/files python benchmarks/faults/fuzz.py [CASES] [SEED]
"""

import json
import sys
import tempfile
import time
import traceback
from collections import Counter
from pathlib import Path
from random import Random

from test_faults import READERS, WEARERS, read_through

from faults import flipped, mutated
from maglia.files.tables import read_wearers


def main(cases: int = 2000, seed: int = 1) -> int:
    readers = {name: (run, made(), own) for name, (run, made, own) in READERS.items()}
    readers["wearers"] = (read_wearers, [], "w.csv")
    faults = 0
    with tempfile.TemporaryDirectory() as folder:
        for name, (reader, values, own) in readers.items():
            random, found, slowest = Random(seed), Counter[str](), 0.0
            path = Path(folder) / own
            path.parent.mkdir(exist_ok=True)
            for k in range(cases):
                data = WEARERS
                if values and k % 2:
                    data = mutated(random.choice(values), random).encode()
                elif values:
                    data = json.dumps(random.choice(values)).encode()
                if not k % 2:
                    data = flipped(data, random)
                began = time.process_time()
                try:
                    found[read_through(reader, path, data)] += 1
                except Exception:  # noqa: BLE001  # counted and shown: it is what is looked for
                    faults += 1
                    found["raised"] += 1
                    traceback.print_exc(limit=-2)
                slowest = max(slowest, time.process_time() - began)
                for aside in path.parent.glob("*.unreadable*"):
                    aside.unlink()
            print(f"{name:10} {dict(found)}  slowest {slowest:.2f} s of CPU", flush=True)
    return faults


if __name__ == "__main__":
    sys.exit(min(main(*(int(word) for word in sys.argv[1:])), 1))
