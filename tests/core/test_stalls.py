"""Libraries that do not come back from a file: it is told, those who wait go on, the file is read no more."""

import subprocess
import sys
import threading

import pytest

from ezvar.app.session.jobs import Jobs
from ezvar.core import stalls
from ezvar.core.errors import MediaError
from ezvar.core.media import open_movie
from ezvar.core.threads import Worker, ahead, begin

ENDLESS = """
import sys, time
from ezvar.core import stalls
from ezvar.core.media import container
from ezvar.cli import main
stalls.STALLED, container.av.open = 0.3, lambda *_, **__: time.sleep(60)
sys.exit(main())
"""


@pytest.fixture
def watched(monkeypatch):
    """Has calls given up soon; gives what is told, and an event that lets them all come back."""
    told, back, over = [], threading.Event(), threading.Event()
    monkeypatch.setattr(stalls, "STALLED", 0.3)
    begin("watch", lambda: stalls.watch_calls(lambda error, _: told.append(str(error)), over.is_set))
    yield told, back
    back.set()
    over.set()
    stalls.forget()


def test_what_waits_for_a_call_that_does_not_come_back_is_told_and_the_file_is_read_no_more(movie, watched):
    told, back = watched

    def pictures():
        yield 1
        with stalls.call_about(str(movie)):
            back.wait(60)

    made = ahead(pictures(), 2)
    assert next(made) == 1
    with pytest.raises(MediaError, match=r"numbers\.mp4: reading it came to a stop"):
        next(made)
    assert len(told) == 1
    with pytest.raises(MediaError, match="came to a stop"):
        open_movie(movie)


def test_a_thread_that_serves_is_begun_anew(watched):
    _, back = watched
    steps, second = [], threading.Event()

    def step():
        steps.append(threading.get_ident())
        if len(steps) > 1:
            second.set()
            return
        with stalls.call_about("a.mp4"):
            back.wait(60)

    worker = Worker("pictures", step)
    worker.wake()
    while not stalls.is_given_up(worker.thread):
        back.wait(0.05)
    worker.wake()
    assert second.wait(20)
    assert len(set(steps)) == 2
    worker.close()


def test_a_job_fails_and_the_window_goes_on(qtbot, monkeypatch):
    monkeypatch.setattr(stalls, "STALLED", 0.3)
    back, jobs, ends = threading.Event(), Jobs(), []

    def work(*_):
        with stalls.call_about("a.mp4"):
            back.wait(60)

    jobs.watch(back.is_set)
    with qtbot.waitSignal(jobs.stalled, timeout=20_000):
        jobs.start("Reading", work, ends.append, ends.append)
    qtbot.waitUntil(lambda: not jobs.running)
    assert len(ends) == 1
    assert "a.mp4: reading it came to a stop" in ends[0]
    back.set()
    stalls.forget()


def test_a_command_ends_in_a_sentence(movie):
    done = subprocess.run(
        [sys.executable, "-c", ENDLESS, "cuts", movie, "--json"], check=False, capture_output=True, text=True
    )
    assert (done.returncode, done.stdout) == (2, "")
    assert done.stderr.startswith("ezvar: numbers.mp4: reading it came to a stop")
    assert done.stderr.count("\n") == 1
