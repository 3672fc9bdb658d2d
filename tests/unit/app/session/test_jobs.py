"""Work off the interface thread: what it says is heard in its place, and nowhere else."""

from __future__ import annotations

import gc
import sys
import threading
import weakref

import pytest
from pytestqt.qtbot import QtBot

from offcut.app.session.jobs import Job, Jobs
from offcut.app.session.session import Session
from offcut.core.errors import MediaError
from offcut.core.model.project import Project


def ended(qtbot: QtBot, jobs: Jobs) -> None:
    qtbot.waitUntil(lambda: not jobs.running, timeout=10_000)


def test_progress_is_told_seldom_and_at_its_end(qtbot: QtBot) -> None:
    jobs, told = Jobs(), []

    def work(job: Job) -> str:
        for done in range(5001):
            job.tell(done, 5000)
        return "done"

    job = jobs.start("Counting", work)
    job.progressed.connect(lambda done, whole: told.append((done, whole)))
    ended(qtbot, jobs)
    assert len(told) < 20
    assert told[-1] == (5000, 5000)
    jobs.close()


def test_what_is_waited_for_never_waits_behind_long_work(qtbot: QtBot) -> None:
    jobs, free, done = Jobs(), threading.Event(), []
    for _ in range(4):
        jobs.start("Searching", lambda _job: free.wait(20))
    jobs.start("Saving", lambda _job: "saved", quick=True).done.connect(done.append)
    qtbot.waitUntil(lambda: done == ["saved"], timeout=5000)
    free.set()
    ended(qtbot, jobs)
    jobs.close()


def test_what_has_ended_is_held_by_nobody(qtbot: QtBot) -> None:
    class Large:
        pass

    session, given = Session(), Large()
    there = weakref.ref(given)

    def begin(large: Large) -> None:
        session.work("Looking", lambda _job: str(large), lambda _words: str(large))

    begin(given)
    del given
    ended(qtbot, session.jobs)
    gc.collect()
    assert there() is None
    session.jobs.close()


def test_one_who_fails_keeps_no_other_from_hearing(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    told: list[object] = []
    monkeypatch.setattr(sys, "excepthook", lambda _kind, error, _trace: told.append(str(error)))
    jobs = Jobs()
    job = jobs.start("Looking", lambda _job: "seen")
    job.done.connect(lambda _answer: 1 / 0)
    job.done.connect(told.append)
    ended(qtbot, jobs)
    assert told == ["division by zero", "seen"]
    jobs.close()


def test_an_answer_is_dropped_once_another_project_is_open(qtbot: QtBot) -> None:
    session, free, told = Session(), threading.Event(), []
    session.lost.connect(told.append)
    heard = []

    def fails(_job: Job) -> None:
        free.wait(10)
        raise MediaError("it is gone")

    session.work("Looking", lambda _job: free.wait(10), told.append, ended=lambda: heard.append(1))
    session.work("Looking", fails)
    session.work("Writing", lambda _job: free.wait(10) and "written", told.append, whatever=True)
    session.put_in(Project(), None)
    free.set()
    ended(qtbot, session.jobs)
    assert told == ["written"]
    assert heard == [1]
    session.jobs.close()


def test_a_failure_is_told_where_nobody_else_does_unless_it_was_stopped(qtbot: QtBot) -> None:
    session, told = Session(), []
    session.lost.connect(told.append)

    def fails(_job: Job) -> None:
        raise MediaError("film.mov: cannot be read")

    session.work("Looking", fails)
    session.work("Looking", fails).stop.set()
    ended(qtbot, session.jobs)
    assert told == ["film.mov: cannot be read"]
    session.jobs.close()
