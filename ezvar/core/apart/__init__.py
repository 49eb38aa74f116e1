"""Tasks that are done apart, in a program of our own: asked for here, done there. Light, for both begin with it."""

from .asking import Answer, run_apart, warm
from .serving import Done, serve
from .task import Plain, Task, task

__all__ = ["Answer", "Done", "Plain", "Task", "run_apart", "serve", "task", "warm"]
