"""What Dask calls on a worker; the rest of a worker's side knows nothing of Dask."""

from __future__ import annotations

import time

from distributed import get_worker

from .proof import machine_name, programs
from .worker import get_ready, perform

_BEGUN = time.monotonic()
_SETTLED = 2.0  # seconds; a worker that ends sooner than that is not begun anew by whoever watches over it
TOPIC = "ezvar"
"""Under which workers say how far they are."""


def facts() -> dict[str, str]:
    """What this worker is: its machine's name, and the versions of its programs."""
    return {"machine": machine_name(), **programs()}


def handed_on(packed: bytes) -> bytes:
    """A document, where a worker needs it."""
    return packed


def do_errand(text: bytes, packed: bytes) -> list[bytes]:
    """Do an errand as `perform` does, for as long as somebody waits for it."""
    worker = get_worker()
    key, address = worker.get_current_task(), worker.address
    get_ready()
    time.sleep(max(0.0, _BEGUN + _SETTLED - time.monotonic()))

    def wanted() -> bool:
        task = worker.state.tasks.get(key)
        return task is not None and task.state == "executing" and worker.status.name in ("running", "paused")

    return perform(text, packed, wanted, lambda said: worker.log_event(TOPIC, {**said, "key": key, "address": address}))
