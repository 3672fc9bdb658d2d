"""Work off the interface thread."""

from __future__ import annotations

from pytestqt.qtbot import QtBot

from offcut.app.session.jobs import Job, Jobs


def test_progress_is_told_seldom_and_at_its_end(qtbot: QtBot) -> None:
    jobs, told = Jobs(), []

    def work(job: Job) -> str:
        for done in range(5001):
            job.tell(done, 5000)
        return "done"

    job = jobs.start("Counting", work)
    job.progressed.connect(lambda done, whole: told.append((done, whole)))
    with qtbot.waitSignal(job.ended, timeout=10_000):
        pass
    assert len(told) < 20
    assert told[-1] == (5000, 5000)
    jobs.close()
