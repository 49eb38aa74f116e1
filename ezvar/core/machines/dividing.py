"""How many tasks are sent together."""

from __future__ import annotations

MOST_TOGETHER = 8


def next_share(sent: int, left: int, threads: int) -> int:
    """How many of the ``left`` tasks go together next, where ``sent`` lots have gone to so many threads.

    The first lots are of one task, so that something is known soon; then more
    go together, since what follows on is done without beginning anew; towards
    the end fewer do again, so that all threads end at about the same time
    (guided self-scheduling: Polychronopoulos and Kuck, 1987).

    >>> [next_share(sent, 100, 2) for sent in (0, 1, 2, 3, 4, 6)]
    [1, 1, 2, 2, 4, 8]
    >>> next_share(20, 5, 2), next_share(20, 0, 2)
    (1, 0)
    """
    growing = 1 << (sent // max(1, threads))
    ending = max(1, left // (2 * max(1, threads)))
    return min(left, growing, ending, MOST_TOGETHER)
