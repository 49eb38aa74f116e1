"""Which of a picture and its mirror image is measured: always the same of the two.

What is measured of movement differs a little with the way round. Where one of
each pair of mirrored pictures is measured, and what is found is turned back,
both show the same.
"""

from __future__ import annotations

import numpy as np


def in_mirror(luma: np.ndarray) -> bool:
    """Whether a picture is to be measured in the mirror, from its luminance (height, width): where the left half is
    lighter than the right one, what lies further out counting more.

    >>> in_mirror(np.array([[9, 1, 0, 0]])), in_mirror(np.array([[0, 0, 1, 9]]))
    (True, False)
    """
    out = np.linspace(-1, 1, luma.shape[1])
    return bool(luma.mean(axis=0) @ out < 0)
