"""Many locks, planned, made and checked without anybody there, and what then needs a person."""

from .listed import Job, read_batch
from .page import summary_page
from .steps import Place, Step, all_steps

__all__ = ["Job", "Place", "Step", "all_steps", "read_batch", "summary_page"]
