"""Work beside the interface: how it shows, waits, stops and fails."""

import gc
from threading import Event, Thread, get_ident

import pytest
from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QProgressBar

from knitground.app import jobs
from knitground.app.garbage import Sweeper
from knitground.app.jobs import Job
from knitground.core.errors import BadSheet
from window.finding import press, says


def test_a_job_shows_its_progress_and_can_be_stopped(demo, qtbot):
    go_on = Event()

    def work(progress):
        progress(0.5)
        go_on.wait(5)
        progress(0.9)
        return "done"

    results = []
    job = demo.session.run(Job("Waiting", work), results.append)
    assert "Waiting" not in says(demo.ledger), "it may be done in a moment"
    qtbot.waitUntil(lambda: "Waiting" in says(demo.ledger), timeout=5000)
    qtbot.waitUntil(lambda: demo.ledger.findChild(QProgressBar).value() == 50, timeout=5000)
    press(demo.ledger, "Stop this")
    go_on.set()
    qtbot.waitUntil(lambda: not job.running, timeout=5000)
    assert results == []
    assert not demo.ledger.findChild(QProgressBar).isVisible()
    assert "Waiting" not in says(demo.ledger)


class Painted(QObject):
    """Notes whether what it watches is painted while something else is."""

    inside = amid = False

    def eventFilter(self, watched, event):
        self.amid |= self.inside and event.type() == QEvent.Type.Paint
        return False


def test_work_that_begins_amid_a_paint_event_draws_nothing_there_and_then(demo, qtbot):
    go_on, begun, painted = Event(), [], Painted()

    def work(progress):
        progress(0.5)
        go_on.wait(5)

    bar = demo.ledger.findChild(QProgressBar)
    bar.installEventFilter(painted)
    work_there = [demo.session.run(Job("Waiting", work), begun.append)]
    qtbot.waitUntil(lambda: bar.isVisible() and bar.value() == 50, timeout=5000)

    def overlay(painter, view):
        if len(work_there) == 1:
            painted.inside = True
            work_there.append(demo.session.run(Job("Trying", lambda progress: None), begun.append))
            painted.inside = False

    demo.ground.view.overlays.append(overlay)
    demo.ground.view.repaint()
    assert len(work_there) == 2
    assert not painted.amid
    go_on.set()
    qtbot.waitUntil(lambda: not any(job.running for job in work_there), timeout=5000)


class Held(Event):
    """Counts how often somebody waited in vain."""

    in_vain = 0

    def wait(self, timeout=None):
        free = super().wait(timeout)
        self.in_vain += not free
        return free


def test_work_beside_the_window_waits_while_something_is_drawn_and_never_for_good(demo, qtbot, monkeypatch):
    held, reached, done = Held(), Event(), []
    held.set()
    monkeypatch.setattr(jobs, "_free", held)
    monkeypatch.setattr(jobs, "_AT_MOST_S", 20)

    def work(progress):
        for share in range(200):
            progress(share / 200)
        reached.set()
        return "done"

    jobs.hold_jobs()
    job = demo.session.run(Job("Waiting", work), done.append)
    assert not reached.wait(0.1), "nothing was drawn yet"
    qtbot.waitUntil(lambda: done == ["done"], timeout=5000)
    assert held.in_vain == 0
    monkeypatch.setattr(jobs, "_AT_MOST_S", 0.05)
    jobs.hold_jobs()
    job = demo.session.run(Job("Waiting once more", work), done.append)
    job.wait()  # as at the end of the program, when nothing is drawn any more
    assert 0 < held.in_vain < 5, "once for each job that runs, and not at each report"
    qtbot.waitUntil(lambda: len(done) == 2, timeout=5000)


def test_garbage_is_never_looked_for_beside_the_interface(qapp, window):
    looked, kept = [], []
    sweeper = Sweeper(qapp)
    gc.callbacks.append(lambda phase, info: looked.append(get_ident()))
    try:
        busy = Thread(target=lambda: kept.extend([] for _ in range(200_000)))
        busy.start()
        busy.join()
        assert not looked
        sweeper.sweep()
        assert set(looked) == {get_ident()}
    finally:
        gc.callbacks.pop()
        sweeper.setParent(None)
        gc.enable()


def test_a_job_that_fails_by_a_fault_says_so_without_a_traceback(demo, qtbot):
    said = []
    demo.session.said.connect(lambda sentence, problem: said.append(sentence))
    job = demo.session.run(Job("Counting", lambda progress: 1 // 0), lambda result: None)
    qtbot.waitUntil(lambda: bool(said), timeout=5000)
    assert said[-1].startswith("Counting failed by a fault of the program")
    qtbot.waitUntil(lambda: not job.running, timeout=5000)


def test_the_checks_stand_back_while_something_in_view_is_still_to_be_drawn(demo, qtbot, monkeypatch):
    drawing, asked, free = [True], [], Event()
    free.set()
    monkeypatch.setattr(jobs, "_free", free)  # nothing else holds them

    def drawn_on():
        asked.append(get_ident())
        return drawing[0]

    monkeypatch.setattr(jobs, "_AT_MOST_S", 20)
    monkeypatch.setattr(jobs, "are_put_off", drawn_on)
    reached = {True: Event(), False: Event()}

    def work(stands_back):
        def report_once(progress):
            progress(0.5)
            reached[stands_back].set()

        return report_once

    both = [Job("Looking", work(stands_back), stands_back=stands_back) for stands_back in (True, False)]
    for job in both:
        demo.session.run(job, lambda _: None)
    both[1].wait()
    qtbot.waitUntil(lambda: len(asked) > 3, timeout=5000)
    assert reached[False].is_set(), "what is waited for goes on"
    assert not reached[True].is_set()
    assert get_ident() not in asked, "it is not the interface that waits"
    drawing[0] = False
    qtbot.waitUntil(reached[True].is_set, timeout=5000)


@pytest.mark.parametrize("fault", [None, BadSheet("It is no picture. Choose another."), ZeroDivisionError()])
def test_nothing_is_told_of_what_was_stopped_after_it_was_done(qtbot, fault):
    heard, ended = [], []

    def work(progress):
        progress(1.0)
        if fault is not None:
            raise fault
        return "done"

    def done():
        job = Job("Waiting", work)
        for tells in (job.succeeded, job.failed, job.refused):
            tells.connect(heard.append)
        job.ended.connect(lambda: ended.append(True))
        job.start()
        job.wait()  # what it tells comes later
        return job

    done()
    qtbot.waitUntil(lambda: ended == [True], timeout=5000)
    assert heard
    heard.clear()
    done().cancel()
    qtbot.waitUntil(lambda: ended == [True, True], timeout=5000)
    assert not heard
