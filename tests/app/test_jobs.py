"""Background work: one lane after another, nothing lost, nothing delivered that nobody wants."""

import gc
import threading

import pytest

from maglia.app.jobs import Jobs


@pytest.fixture
def jobs(qapp):
    made = Jobs()
    yield made
    made.finish()


def test_answers_come_in_order_and_an_error_is_one_answer(jobs, qtbot):
    told, failed = [], []

    def work(ticket):
        ticket.tell(1)
        ticket.tell(2)
        raise ValueError("three")

    jobs.begin("lane", work, told.append, failed.append)
    qtbot.waitUntil(lambda: bool(failed))
    assert told == [1, 2]
    assert str(failed[0]) == "three"
    assert jobs.is_idle("lane")


def test_what_was_begun_is_finished_and_of_those_that_wait_the_newest_is_taken(jobs, qtbot):
    go, told, ended = threading.Event(), [], []
    begun = threading.Event()

    def first(ticket):
        begun.set()
        go.wait(5)
        return "first", ticket.is_superseded()

    fail = told.append
    jobs.begin("lane", first, told.append, fail, lambda: ended.append("first"))
    qtbot.waitUntil(begun.is_set)
    jobs.begin("lane", lambda _: "second", told.append, fail, lambda: ended.append("second"))
    jobs.begin("lane", lambda _: "third", told.append, fail, lambda: ended.append("third"))
    assert ended == ["second"]  # dropped before it was begun
    go.set()
    qtbot.waitUntil(lambda: len(told) == 2)
    assert told == [("first", True), "third"]
    assert ended == ["second", "first", "third"]


def test_a_halted_lane_says_nothing_more_and_other_lanes_go_on(jobs, qtbot):
    go, told = threading.Event(), []
    jobs.begin("slow", lambda ticket: go.wait(5) and ticket.is_halted(), told.append, told.append)
    qtbot.waitUntil(lambda: jobs._lanes["slow"].running is not None)
    jobs.begin("quick", lambda _: "quick", told.append, told.append)
    qtbot.waitUntil(lambda: told == ["quick"])
    jobs.halt("slow")
    go.set()
    qtbot.waitUntil(lambda: jobs.is_idle("slow"))
    assert told == ["quick"]


def test_work_runs_off_the_interface_thread_and_is_told_in_it(jobs, qtbot):
    here, threads = threading.get_ident(), []
    jobs.begin(
        "lane",
        lambda _: threading.get_ident(),
        lambda own: threads.append((own, here)),
        threads.append,
    )
    qtbot.waitUntil(lambda: bool(threads))
    own, told_in = threads[0]
    assert own != here == told_in


def test_collecting_in_a_worker_ends_no_qt_object(jobs, qtbot):
    """Qt objects in cycles are made here while a worker collects as often as it can: by
    construction it holds nothing of Qt's, and what is dropped here is taken down here."""
    from PySide6.QtCore import QObject

    ended, stop = [], threading.Event()

    def work(ticket):
        while not stop.is_set():
            gc.collect(0)
        return "done"

    told = []
    jobs.begin("lane", work, told.append, told.append)
    for _ in range(200):
        one = QObject()
        one.destroyed.connect(lambda: ended.append(threading.get_ident()))
        one.deleteLater()
        del one
        qtbot.wait(1)
    stop.set()
    qtbot.waitUntil(lambda: told == ["done"])
    qtbot.waitUntil(lambda: len(ended) == 200)
    assert set(ended) == {threading.get_ident()}


def test_finishing_waits_for_nobody_and_leaves_no_open_pipe(qapp, qtbot):
    jobs, go = Jobs(), threading.Event()
    jobs.begin("lane", lambda ticket: go.wait(5), print, print)
    qtbot.waitUntil(lambda: jobs._lanes["lane"].running is not None)
    pipe = jobs._answers.pipe
    jobs.finish()
    jobs.finish()  # a second time does nothing
    import os

    os.fstat(pipe[1])  # still there: the worker may write
    go.set()

    def closed():
        try:
            os.fstat(pipe[1])
        except OSError:
            return True
        return False

    qtbot.waitUntil(closed)
