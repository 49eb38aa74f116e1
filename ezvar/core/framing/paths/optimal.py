"""The path of a window's centre: calm, quick enough, and keeping what must be kept.

A linear programme over knots a few frames apart: the absolute values of the
first, second and third differences are what movement costs, so that the best
path is made of rests, even moves and soft starts (Grundmann, Kwatra and Essa,
"Auto-Directed Video Stabilization with Robust L1 Optimal Camera Paths", 2011).
What must be kept is a corridor for the centre; leaving it costs far more than
any movement, so that it is left only where speed or the picture's edge force it.
"""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from scipy.sparse import csr_array

_FIRST, _SECOND, _THIRD = 1.0, 6.0, 12.0
_LEAVING = 400.0
_CENTRED = ((0.02, 0.03), (0.02, 0.08), (0.03, 0.12), (np.inf, 0.15))
"""What each part of the way beside where a window is wanted costs: the farther the more, as a square would have it. One
price for all of it would let the best path leap where two weigh the same."""
_AS_FULL = 0.95  # of what the fullest place holds, from which one nearer to the middle is preferred


def load_solver() -> None:
    """Load the library that solves, which takes most of a second, before it is first wanted."""
    import scipy.ndimage
    import scipy.optimize
    import scipy.sparse  # noqa: F401


def calm_path(
    low: np.ndarray, high: np.ndarray, wanted: np.ndarray, weight: np.ndarray, limits: tuple[float, float],
    step: float | np.ndarray, calm: float = 1.0, fixed: np.ndarray | None = None,
) -> np.ndarray:  # fmt: skip
    """The best centre at each knot, (knots,), along one direction.

    ``low`` and ``high`` (knots,) are the corridor, infinite where nothing is
    asked; where low lies above high the middle of both is aimed at.
    ``wanted`` (knots,) is where the centre would best be, ``weight`` (knots,)
    0..1 how much that counts. ``limits`` is the least and the greatest centre
    there can be, ``step`` the most it may move from knot to knot, for all or
    for each (knots - 1,). ``fixed`` (knots,) is where the path has to go through, not a number elsewhere; it
    may lie beyond the limits, and where ``step`` is too short for the way
    between two such places, the path is as quick as it must be.
    """
    from scipy.optimize import linprog

    n = len(low)
    set_ = np.zeros(n, bool) if fixed is None else ~np.isnan(fixed)
    if fixed is not None and set_.all():
        return fixed
    steps = np.broadcast_to(step, max(0, n - 1))
    if n == 1 or steps.min() <= 0:
        return np.full(n, still_place(low, high, wanted, weight, limits)[0])
    low, high = (np.clip(v, *limits) for v in (low, high))
    crossed = low > high
    middle = (low + high) / 2
    low, high = np.where(crossed, middle, low), np.where(crossed, middle, high)
    matrix, sizes = _programme(n)
    total = matrix.shape[1]
    cost = np.concatenate([
        np.zeros(n), *(np.full(size, c * calm) for size, c in zip(sizes, (_FIRST, _SECOND, _THIRD), strict=False)),
        np.full(n, _LEAVING), *(price * weight for _, price in _CENTRED),
    ])  # fmt: skip
    edges = np.concatenate([np.zeros(2 * sum(sizes)), -low, high, wanted, -wanted])
    places = [(v, v) if s else limits for s, v in zip(set_, fixed if fixed is not None else low, strict=True)]
    both = set_[:-1] & set_[1:]
    rest: list[tuple[float, float | None]] = [(0, None)] * (total - n * (1 + len(_CENTRED)) - sizes[0])
    beside = [(0, part if np.isfinite(part) else None) for part, _ in _CENTRED for _ in range(n)]
    for bounded in (True, False):
        moves = [(0, None if free or not bounded else most) for free, most in zip(both, steps, strict=True)]
        found = linprog(cost, A_ub=matrix, b_ub=edges, bounds=[*places, *moves, *rest, *beside], method="highs")
        if found.x is not None:
            return np.asarray(found.x[:n])
    raise ArithmeticError(f"no path was found: {found.message}")


@lru_cache(maxsize=64)
def _programme(n: int) -> tuple[csr_array, tuple[int, ...]]:
    """The inequalities of the programme for ``n`` knots, and how many differences of each order there are.

    Variables are the path, one for each difference, how far it is below or
    above the corridor, and how far off what is wanted, in parts. The rows bound the
    absolute values of the differences, then the two sides of the corridor,
    then of what is wanted. They are the same for all paths of a length.
    """
    from scipy.sparse import block_array, eye_array

    differences = [_difference(n, order) for order in (1, 2, 3) if n > order]
    sizes = tuple(d.shape[0] for d in differences)
    count = len(sizes)
    path, below, off = 0, count + 1, count + 2  # block columns; between the first two one for each difference
    one = eye_array(n)
    rows: list[list[csr_array | None]] = []
    for k, (difference, size) in enumerate(zip(differences, sizes, strict=True), 1):
        rows += [_row(count, {path: sign * difference, k: -eye_array(size)}) for sign in (1.0, -1.0)]
    rows += [_row(count, {path: sign * one, below: -one}) for sign in (-1.0, 1.0)]
    parts = {off + k: -one for k in range(len(_CENTRED))}
    rows += [_row(count, {path: sign * one, **parts}) for sign in (1.0, -1.0)]
    return block_array(rows, format="csr"), sizes


def _row(count: int, blocks: dict[int, csr_array]) -> list[csr_array | None]:
    """A block row of the programme: each block at its block column, nothing elsewhere."""
    return [blocks.get(k) for k in range(count + 2 + len(_CENTRED))]


def still_place(
    low: np.ndarray, high: np.ndarray, wanted: np.ndarray, weight: np.ndarray, limits: tuple[float, float]
) -> tuple[float, float]:
    """The best centre that never moves, and the share of knots (those that ask something) that it does not keep."""
    asks = np.isfinite(low) | np.isfinite(high)
    places = np.unique(np.clip([*low[asks], *high[asks], float(np.median(wanted)), *limits], *limits))
    if len(places) > 400:
        places = np.linspace(places[0], places[-1], 400)
    outside = (places[:, None] < low - 1e-6) | (places[:, None] > high + 1e-6)
    broken = outside[:, asks].mean(axis=1) if asks.any() else np.zeros(len(places))
    least = places[broken <= broken.min() + 1e-9]
    # Among the places that keep as much, the whole stretch between neighbours counts, not only its ends.
    target = float(weighted_median(wanted, weight)) if weight.sum() > 0 else float(np.median(wanted))
    best = float(np.clip(target, least.min(), least.max()))
    if asks.any() and float(((best < low - 1e-6) | (best > high + 1e-6))[asks].mean()) > broken.min() + 1e-9:
        best = float(least[np.argmin(abs(least - target))])
    return best, float(broken.min())


def fullest_place(
    left: np.ndarray, right: np.ndarray, weight: np.ndarray, length: float, limits: tuple[float, float]
) -> tuple[float, float]:
    """The centre of a window of a length that holds most of the stretches ``left`` to ``right`` (n,), by ``weight``.

    Of places that hold as much, the one nearest to the middle of them all. Also how many times more it holds than a
    window in the middle of the limits.
    """
    middle = float(np.clip(weighted_median((left + right) / 2, weight), *limits)) if weight.sum() > 0 else 0.5
    places = np.unique([middle, *np.linspace(*limits, 81)])
    inside = np.minimum(right, places[:, None] + length / 2) - np.maximum(left, places[:, None] - length / 2)
    part = np.clip(inside, 0, None) / np.maximum(right - left, 1e-6)
    held = (weight * np.where(part > 0.97, 1.0, 0.5 * part)).sum(axis=1)
    best = float(min(places[held >= held.max() * _AS_FULL], key=lambda p: abs(p - middle)))
    in_middle = float(np.interp(sum(limits) / 2, places, held))
    return best, float(held.max()) / max(in_middle, 1e-9)


def weighted_median(values: np.ndarray, weights: np.ndarray) -> float:
    """The value (of ``values``, (n,)) at which half of the ``weights`` (n,) is reached."""
    order = np.argsort(values)
    gone = np.cumsum(weights[order])
    return float(values[order][np.searchsorted(gone, gone[-1] / 2)])


def _difference(n: int, order: int) -> csr_array:
    from scipy.sparse import csr_array, diags_array

    signs = {1: (-1, 1), 2: (1, -2, 1), 3: (-1, 3, -3, 1)}[order]
    return csr_array(diags_array(signs, offsets=range(order + 1), shape=(n - order, n), dtype=float))
