"""Work as values: tasks, the kinds of them that there are, and what runs them."""

from .apart import Answer, run_apart, warm
from .kinds import Kind, Surroundings, kind_of, register
from .runners import run_here, run_on_threads
from .serving import Done, serve
from .task import Plain, Task, task

__all__ = [
    "Answer",
    "Done",
    "Kind",
    "Plain",
    "Surroundings",
    "Task",
    "kind_of",
    "register",
    "run_apart",
    "run_here",
    "run_on_threads",
    "serve",
    "task",
    "warm",
]
