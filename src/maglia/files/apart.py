"""Files of others, read in a process of their own: one that takes too much time or memory ends that
process, and not the window.
"""

import os
import resource
import signal
import subprocess
import sys
from contextlib import suppress
from pathlib import Path
from typing import Any

import msgspec

from maglia.core.values.record import DomainError
from maglia.files import disk
from maglia.files.piece_json import plain
from maglia.files.workshop.bundle import Bundle, read_bundle
from maglia.files.workshop.contents import WholeWorkshop, read_whole

CPU_S, MEMORY = 30, 3_000_000_000
"""What reading a file may take; the largest that is allowed takes half of it."""
READERS: dict[str, tuple[Any, Any]] = {
    "bundle": (read_bundle, Bundle), "workshop": (read_whole, WholeWorkshop),
}  # fmt: skip
READ, REFUSED = b"+", b"-"


def read_bundle_apart(path: Path) -> Bundle:
    """A bundle. Raises DomainError."""
    return _read("bundle", path)  # type: ignore[no-any-return]


def read_whole_apart(path: Path) -> WholeWorkshop:
    """An exported workshop. Raises DomainError."""
    return _read("workshop", path)  # type: ignore[no-any-return]


def _read(kind: str, path: Path) -> Any:
    where = {**os.environ, "PYTHONPATH": os.pathsep.join(filter(None, sys.path))}
    command = [sys.executable, "-m", "maglia.files.apart", kind, os.fspath(path)]
    done = subprocess.run(command, stdin=subprocess.DEVNULL, capture_output=True, env=where)
    sign, data = done.stdout[:1], done.stdout[1:]
    if sign == READ and not done.returncode:
        return msgspec.msgpack.decode(data, type=READERS[kind][1])
    if sign == REFUSED:
        raise DomainError(data.decode(errors="replace"))
    much = "time" if done.returncode in (-signal.SIGXCPU, -signal.SIGKILL) else "memory"
    raise DomainError(f"{disk.shown(path)} is not opened: to read it takes too much {much}")


def answer(kind: str, path: Path) -> bytes:
    """What the process says: what it read, or why it did not."""
    try:
        return READ + msgspec.msgpack.encode(plain(READERS[kind][0](path)))
    except DomainError as fault:
        return REFUSED + str(fault).encode(errors="replace")


def main() -> int:
    resource.setrlimit(resource.RLIMIT_CPU, (CPU_S, CPU_S + 1))
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    with suppress(MemoryError):
        sys.stdout.buffer.write(answer(sys.argv[1], Path(sys.argv[2])))
        sys.stdout.buffer.flush()
        return 0
    return 1


if __name__ == "__main__":
    sys.exit(main())
