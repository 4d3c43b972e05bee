"""Work that is cut off just before one of its steps on the way to the disk, as by a failing power
supply: what was not yet settled on the disk is gone. Steps are every opening for writing, write,
settling, renaming, removing, and every statement of SQLite's, commits among them.
"""

import builtins
import io
import os
import sys
import traceback

from maglia.files.workshop import store

STOPPED = 9
WRITING = os.O_WRONLY | os.O_RDWR | os.O_CREAT | os.O_TRUNC
CHANGES = ("os.rename", "os.remove", "os.mkdir", "os.chmod", "os.truncate", "os.link")
READS = ("SELECT", "PRAGMA", "--")


def stopped_before(step, work):
    """Do `work` in a process of its own that is cut off before that step of it, counted from 1.
    True if it was done before it came so far."""
    child = os.fork()
    if not child:
        try:
            _Steps(step)
            work()
        except BaseException:  # noqa: BLE001  # shown, and told by the status
            traceback.print_exc()
            os._exit(1)
        os._exit(0)
    status = os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])
    assert status in (0, STOPPED), status
    return status == 0


class _Steps:
    def __init__(self, last):
        self.left, self.unsettled = last, {}
        self.open, self.settle, self.connect = builtins.open, os.fsync, store.connected
        sys.addaudithook(self.hear)
        builtins.open = io.open = self.opened
        os.fsync = self.settled
        store.connected = self.connected

    def step(self):
        self.left -= 1
        if not self.left:
            for path in self.unsettled.values():
                if os.path.exists(path):
                    os.truncate(path, 0)
            os._exit(STOPPED)

    def hear(self, event, words):
        if self.left <= 0:
            return
        if event in CHANGES or (event == "open" and (words[2] or 0) & WRITING):
            self.step()
        if event == "os.rename":
            before, after = (os.fspath(one) for one in words[:2])
            for number, path in self.unsettled.items():
                self.unsettled[number] = after if path == before else path

    def opened(self, file, mode="r", *rest, **more):
        made = self.open(file, mode, *rest, **more)
        return made if set(mode) <= set("rbt") else _Written(made, self)

    def settled(self, handle):
        self.step()
        self.settle(handle)
        self.unsettled.pop(os.fstat(handle).st_ino, None)

    def connected(self, *words):
        made = self.connect(*words)
        made.set_trace_callback(lambda words: None if words.startswith(READS) else self.step())
        return made


class _Written:
    """A file that is written half, and then the other half."""

    def __init__(self, file, steps):
        self.file, self.steps = file, steps

    def write(self, data):
        handle = self.file.fileno()
        self.steps.unsettled[os.fstat(handle).st_ino] = os.readlink(f"/proc/self/fd/{handle}")
        for part in (data[: len(data) // 2], data[len(data) // 2 :]):
            self.steps.step()
            self.file.write(part)
            self.file.flush()
        return len(data)

    def __enter__(self):
        return self

    def __exit__(self, *fault):
        self.file.close()

    def __getattr__(self, name):
        return getattr(self.file, name)
