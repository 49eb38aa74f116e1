"""Workers on this machine, started by hand or for one run: a scheduler and so many processes.

Run as a program, it prints the scheduler's address, serves until nobody
holds its standard input any more, and then leaves nothing running.
"""

from __future__ import annotations

import contextlib
import os
import select
import subprocess
import sys
import threading
from collections.abc import Iterator

import dask
from distributed import LocalCluster

from ezvar.core.errors import MachineError

SETTINGS = {
    "distributed.scheduler.allowed-failures": 0,  # what ended a worker comes back: it is tried again with more care
    "distributed.scheduler.worker-ttl": "30 s",
    "distributed.worker.profile.enabled": False,
    "distributed.deploy.lost-worker-timeout": "10 s",  # until one that did not come back is given up
    "distributed.scheduler.http.routes": [],  # nobody asks them for pages
    "distributed.worker.http.routes": [],
}
_BEGIN = 60.0  # seconds until it must be there
_LOOK = 1.0  # seconds between looks at whether workers are missing


@contextlib.contextmanager
def workers_here(number: int) -> Iterator[str]:
    """The address of a scheduler with so many workers, single-threaded processes, for as long as it is wanted. They end
    with this program, however that ends. Raises `MachineError` where they do not begin."""
    command = [sys.executable, "-m", "ezvar.core.machines.here", str(number)]
    pipe = subprocess.PIPE
    with subprocess.Popen(command, stdin=pipe, stdout=pipe, text=True, start_new_session=True) as program:
        assert program.stdin is not None
        assert program.stdout is not None
        late = threading.Timer(_BEGIN, program.kill)
        late.start()
        try:
            address = program.stdout.readline().strip()
            late.cancel()
            if not address:
                raise MachineError("no workers can be started here", remedy="Work without them")
            yield address
        finally:
            late.cancel()
            program.stdin.close()


def serve(number: int) -> None:
    """Have a scheduler and workers until standard input ends."""
    with dask.config.set(SETTINGS):
        cluster = LocalCluster(
            n_workers=number, threads_per_worker=1, processes=True, host="127.0.0.1", silence_logs=50,
            dashboard_address="127.0.0.1:0", scheduler_kwargs={"dashboard": False},
        )  # fmt: skip
        with cluster:
            print(cluster.scheduler_address, flush=True)
            while _wanted(_LOOK):
                cluster.scale(number)  # a worker that died while it began is given up by whoever watches over it


def _wanted(seconds: float) -> bool:
    """Wait a little; whether somebody still holds standard input."""
    ready, _, _ = select.select([0], [], [], seconds)
    return not ready or bool(os.read(0, 4096))


if __name__ == "__main__":
    serve(int(sys.argv[1]))
