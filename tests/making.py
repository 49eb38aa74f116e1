"""Making one movie, as most tests want it."""

from ezvar.core.encoding import DELIVERY
from ezvar.core.output import Order, make_rows, row_of, targets


def make_one(doc, master, folder, part=None, preset=DELIVERY, progress=lambda f, m: None, cancel=None):
    """A master, a named range of it or frames of the lock, made in a folder. Raises what went wrong."""
    row = row_of(doc, master, preset, part)
    (made,) = make_rows([Order(doc, row, targets(doc, [row], folder)[row.id])], progress, cancel)
    if made.error is not None:
        raise made.error
    return made
