"""More than one machine, with real processes: the same results, whatever becomes of those that work."""

import json
import os
import random
import shutil
import signal
import subprocess
import sys
import threading
import time
from contextlib import contextmanager, nullcontext, suppress
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

pytest.importorskip("distributed")

from ezvar.cli import main
from ezvar.core.errors import MachineError
from ezvar.core.machines import Way, going_on_here
from ezvar.core.machines.cluster import Cluster
from ezvar.core.machines.here import workers_here
from ezvar.core.machines.sending import Sending
from ezvar.core.progress import Cancelled, CancelToken
from ezvar.core.store import Cache
from ezvar.core.work import Surroundings, task

from .kinds import SLOW
from .media import make_movie, scenes

ROOT = Path(__file__).parent.parent
SETTINGS = {
    # Loaded before it is there: a busy machine takes longer over it than a scheduler waits for a sign of life.
    "DASK_DISTRIBUTED__WORKER__PRELOAD": "['ezvar.core.machines.worker', 'tests.kinds']",
    "DASK_DISTRIBUTED__SCHEDULER__WORKER_TTL": "8 s",
    "PYTHONPATH": str(ROOT),
}


@pytest.fixture(scope="module")
def settings():
    with pytest.MonkeyPatch.context() as patch:
        for name, value in SETTINGS.items():
            patch.setenv(name, value)
        yield


@pytest.fixture(scope="module")
def cluster(settings):
    with workers_here(2) as address, Cluster(address) as found:
        yield found


class Cable:
    """A network between this machine and a worker's own, which can be pulled."""

    def __enter__(self):
        four = os.getpid() % (1 << 14) << 2  # addresses of its own, whatever a killed one has left
        self.here, self.there = (f"10.213.{four >> 8}.{four % 256 + k}" for k in (1, 2))
        made = [
            f"netns add {(net := f'ezvar{os.getpid()}')}",
            f"link add ez{os.getpid()} type veth peer name w netns {net}",
        ]
        made += [f"addr add {self.here}/30 dev ez{os.getpid()}", f"link set ez{os.getpid()} up"]
        made += [f"-n {net} addr add {self.there}/30 dev w", f"-n {net} link set w up", f"-n {net} link set lo up"]
        for words in made:
            if shutil.which("ip") is None or subprocess.run(["ip", *words.split()], capture_output=True).returncode:
                self.__exit__()
                pytest.skip("no network can be made here")
        return self

    def __exit__(self, *_):
        if shutil.which("ip"):
            subprocess.run(["ip", "netns", "delete", f"ezvar{os.getpid()}"], capture_output=True)

    def pull(self):
        subprocess.run(["ip", "link", "set", f"ez{os.getpid()}", "down"], check=True)


@contextmanager
def by_hand(folder, cable=None):
    """A scheduler and two workers, begun as the documentation says, each to be killed by itself; the first worker at
    the other end of a cable."""
    noted, host = folder / "scheduler.json", cable.here if cable else "127.0.0.1"
    dask = [sys.executable, "-m", "dask"]
    work = [*dask, "worker", "--scheduler-file", str(noted), "--nthreads", "1", "--no-nanny", "--no-dashboard"]
    far = ["ip", "netns", "exec", f"ezvar{os.getpid()}"] if cable else []
    ways = [[*dask, "scheduler", "--host", host, "--port", "0", "--no-dashboard", "--scheduler-file", str(noted)]]
    ways += [[*far, *work], work]
    programs = [subprocess.Popen(way, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) for way in ways]
    try:
        soon(noted.exists)
        yield json.loads(noted.read_text())["address"], *programs
    finally:
        for program in programs:
            program.kill()
            program.wait()


@pytest.fixture
def around(planned, tmp_path):
    return Surroundings(planned, Cache(tmp_path / "kept"), lambda error: None)


def slow(*numbers, steps=4):
    return [task(SLOW.name, ["numbers"], of=n, steps=steps) for n in numbers]


def notes(around, of):
    path = around.cache.folder / f"notes-{of}"
    return path.read_text().split() if path.exists() else []


def soon(true, seconds=60.0):
    begun = time.monotonic()
    while not true():
        assert time.monotonic() - begun < seconds, "it never came"
        time.sleep(0.05)


def pids(around):
    """The processes that have begun something."""
    return [int(path.name.removeprefix("pid-")) for path in around.cache.folder.glob("pid-*")]


def kill(pid):
    with suppress(ProcessLookupError):
        os.kill(pid, signal.SIGKILL)


def test_to_stop_reaches_the_workers(cluster, around):
    """Both are at work at once, though the scheduler does not know yet how long such a task takes."""
    soon(lambda: cluster.look() or len(cluster.able()) == 2)
    token = CancelToken()
    running = cluster.run(slow(*range(4), steps=2000), around, cancel=token)

    def stop():
        try:
            soon(lambda: notes(around, 0) and notes(around, 1))
            soon(lambda: [m.doing for m in cluster.machines()] == ["Squaring"] * 2)
        finally:
            token.cancel()

    threading.Thread(target=stop).start()
    with pytest.raises(Cancelled):
        list(running)
    assert [m.doing for m in cluster.machines()] == [""] * 2
    soon(lambda: "stopped" in notes(around, 0) and "stopped" in notes(around, 1), 15)
    assert list(cluster.run(slow(9), around)) == [81]  # they are free again
    assert not notes(around, 3)


def test_a_worker_killed_at_any_moment_costs_nothing(cluster, around):
    chance = random.Random()
    assert list(cluster.run(slow(0, 1), around)) == [0, 1]
    for k in range(1, 11):
        numbers = range(100 * k, 100 * k + 6)
        killing = threading.Timer(chance.uniform(0, 1), lambda: kill(chance.choice(pids(around))))
        killing.start()
        assert list(cluster.run(slow(*numbers), around)) == [n * n for n in numbers]
        killing.join()


def test_what_ends_every_worker_is_given_up_after_three_tries_and_the_rest_is_done(cluster, around):
    soon(lambda: cluster.look() or len(cluster.able()) == 2)  # so that each lot is of one task
    running = cluster.run(slow(1, 2, -3, 4, 5, 6, 7, 8, steps=1), around)
    assert [next(running), next(running)] == [1, 4]
    with pytest.raises(MachineError, match="number -3 ended every worker"):
        next(running)
    kept = [int((around.cache.folder / f"kept-{n}").read_text()) for n in (4, 5, 6, 7, 8)]
    assert kept == [16, 25, 36, 49, 64]
    assert notes(around, -3) in (["begun"] * 2, ["begun"] * 3)  # a worker that is lost before it begins counts, too


def test_what_only_lay_beside_it_is_not_given_up(cluster, around, monkeypatch):
    """The first is taken as lost with its worker, again and again, and so is blamed as the other is."""
    answered, alone = Sending._answered, set()

    def blame(self, lot, came):
        if lot.first == 0 and not lot.alone:
            self._killed(lot)
            return
        answered(self, lot, came)
        if lot.alone:
            alone.add(lot.first)

    monkeypatch.setattr(Sending, "_answered", blame)
    soon(lambda: cluster.look() or len(cluster.able()) == 2)
    running, given = cluster.run(slow(1, -3, 4, 5, steps=1), around), []
    with pytest.raises(MachineError, match="number -3 ended every worker"):
        given.extend(running)
    kept = [int((around.cache.folder / f"kept-{n}").read_text()) for n in (4, 5)]
    assert (0 in alone, given, kept) == (True, [1], [16, 25])


def test_without_its_scheduler_it_says_so_keeps_what_is_done_and_goes_on_here(settings, around, tmp_path):
    with by_hand(tmp_path) as (address, scheduler, *_), Cluster(address) as found:
        told = []
        running = going_on_here(found.run, told.append)(slow(*range(6), steps=10), around)
        assert next(running) == 0
        scheduler.kill()
        begun = time.monotonic()
        assert next(running) == 1
        assert list(running) == [4, 9, 16, 25]
        assert [str(each) for each in told] == [
            f"the scheduler at {address} no longer answers. What is done is kept. Start it again, or go on on this"
            " machine."
        ]
        assert (
            time.monotonic() - begun < 30
        )  # of which 10 at most pass before it is told, on a machine with time for it


@pytest.mark.parametrize("cut_off", ["stopped", "unplugged"])
def test_what_a_worker_had_that_is_cut_off_goes_elsewhere(settings, around, tmp_path, cut_off):
    cable = Cable() if cut_off == "unplugged" else None
    with cable or nullcontext(), by_hand(tmp_path, cable) as (address, _, one, *_), Cluster(address) as found:
        soon(lambda: found.look() or len(found.able()) == 2)
        running = found.run(slow(*range(8), steps=20), around)
        assert next(running) == 0
        cable.pull() if cable else one.send_signal(signal.SIGSTOP)
        assert list(running) == [n * n for n in range(1, 8)]


def test_who_cannot_work_says_why(cluster, around, planned, tmp_path, monkeypatch):
    import dask

    elsewhere = Cluster(cluster.address, [Way(str(Path(planned.lock.media[0].path).parent), "/nowhere")])
    with (
        elsewhere,
        pytest.raises(MachineError, match="/nowhere/walk"),
    ):
        list(elsewhere.run(slow(1), around))
    monkeypatch.setattr("ezvar.core.machines.scheduler.programs", lambda: {"Ezvar": "9.9"})
    with Cluster(cluster.address) as newer, pytest.raises(MachineError, match="Install the same Ezvar"):
        list(newer.run(slow(1), around))
    with pytest.raises(MachineError, match="no scheduler answers"):
        Cluster("tcp://127.0.0.1:9")
    with pytest.raises(MachineError, match="no certificates here"):
        Cluster("tls://127.0.0.1:9")
    named = {"distributed.comm.tls.ca-file": "/nowhere.pem", "distributed.comm.tls.client.cert": "/nowhere.pem"}
    with dask.config.set(named), pytest.raises(MachineError, match="No such file"):
        Cluster("tls://127.0.0.1:9")


def test_movies_planned_made_and_checked_by_workers_are_as_made_here(cluster, tmp_path, monkeypatch, capsys):
    movie = make_movie(tmp_path / "walk.mp4", 60, size=(320, 180), rate=Fraction(5, 2), sound="beeps", picture=scenes)
    made = []
    monkeypatch.chdir(tmp_path)  # where workers are not: paths are told as they are from anywhere
    for k, words in enumerate(([], ["--on", cluster.address])):
        monkeypatch.setenv("EZVAR_CACHE", str(tmp_path / f"cache-{k}"))
        project, folder = f"{k}.ezvar", Path(f"made-{k}")
        assert (
            main(["plan", str(movie), "--master", "tall=180x320", "--master", "1:1=200x200", "-o", project, *words])
            == 0
        )
        assert main(["make", project, "-o", str(folder), *words]) == 0
        assert main(["check", project, "--made", str(folder), *words]) == 0
        assert main(["handoff", project, "-o", str(folder / "review"), "--movies", "each", "--page", *words]) == 0
        seen = {f.name: np.load(f) for f in sorted((tmp_path / f"cache-{k}").glob("look-*"))}
        evidence = {name: {n: each[n].tobytes() for n in each.files} for name, each in seen.items()}
        files = [f for f in sorted(folder.rglob("*")) if f.suffix in (".mp4", ".jpg")]
        made.append((evidence, [(f.name, f.read_bytes()) for f in files]))
        assert not list((tmp_path / f"cache-{k}").glob("ezvar-*"))
    assert made[0] == made[1]
    assert len(made[0][1]) > 6
    assert "At work on 1 machine" not in capsys.readouterr().out
