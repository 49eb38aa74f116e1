"""Work on other machines: what is sent there, what they prove and do, and the scheduler's client.

What needs Dask is loaded when somebody asks for it, by `connected`.
"""

from .connecting import DASK_EXTRA, HERE, connected, going_on_here, reached, unprotected, workers_until
from .machine import Machine, Machines, counted, described, doings
from .ways import Way, path_there

__all__ = [
    "DASK_EXTRA",
    "HERE",
    "Machine",
    "Machines",
    "Way",
    "connected",
    "counted",
    "described",
    "doings",
    "going_on_here",
    "path_there",
    "reached",
    "unprotected",
    "workers_until",
]
