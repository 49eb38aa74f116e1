"""Work as values: tasks, the kinds of them that there are, and what runs them."""

from ezvar.core.apart import Plain, Task, run_apart, task, warm

from .kinds import Kind, Surroundings, Travel, kind_named, kind_of, register
from .runners import Runner, run_here, run_on_threads

__all__ = [
    "Kind",
    "Plain",
    "Runner",
    "Surroundings",
    "Task",
    "Travel",
    "kind_named",
    "kind_of",
    "register",
    "run_apart",
    "run_here",
    "run_on_threads",
    "task",
    "warm",
]
