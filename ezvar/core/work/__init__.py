"""Work as values: tasks, the kinds of them that there are, and what runs them."""

from .kinds import Kind, Surroundings, kind_of, register
from .runners import run_here, run_on_threads
from .task import Plain, Task, task

__all__ = ["Kind", "Plain", "Surroundings", "Task", "kind_of", "register", "run_here", "run_on_threads", "task"]
