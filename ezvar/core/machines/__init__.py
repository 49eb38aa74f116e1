"""Work on other machines: what is sent there, what they prove and do, and the scheduler's client.

What needs Dask is loaded when somebody asks for it, by `connected`.
"""

from .connecting import DASK_EXTRA, connected, going_on_here, unprotected, workers_until
from .machine import Machine, Machines
from .ways import Way, path_there

__all__ = [
    "DASK_EXTRA",
    "Machine",
    "Machines",
    "Way",
    "connected",
    "going_on_here",
    "path_there",
    "unprotected",
    "workers_until",
]
