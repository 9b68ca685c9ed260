"""Which of two is better where only grades are known: at the same spot, ties halved.

Chance that a reading of A is better than one of B taken in the same cell (Mann and Whitney 1947, within blocks; Agresti,
Analysis of Ordinal Categorical Data, 2nd ed., §2.1). Readings of one cell share its ground, so cells are counted, not
readings; the interval is Jeffreys' for a share of so many cells (Brown, Cai and DasGupta 2001).
"""

from __future__ import annotations

import math
from bisect import bisect_left, bisect_right
from collections.abc import Hashable, Sequence

from tallmast.frozen import Frozen

from .statistics import beta_quantile


class Better(Frozen, eq=True):
    """Chance that A is better at the same spot, its 90 % interval, over so many cells; share of pairs that tie."""

    chance: float
    low: float
    high: float
    cells: int
    ties: float

    def turned(self) -> Better:
        """The other against the one."""
        return Better(1.0 - self.chance, 1.0 - self.high, 1.0 - self.low, self.cells, self.ties)


def better(
    a: Sequence[Sequence[float]],
    b: Sequence[Sequence[float]],
    confidence: float = 0.90,
    *,
    spots: Sequence[Hashable] = (),
    u_runs: float = 0.0,
) -> Better | None:
    """A against B, each [cell][reading], in the same order of cells; a higher grade is better. None without a cell in which
    both were read. `spots`, in that order too: cells of one spot (both ends of one path) share its luck and count as one. `u_runs`: standard uncertainty of the chance by
    whole runs that were off alike in all their cells."""
    shares: dict[Hashable, list[tuple[float, float]]] = {}
    for spot, of_a, of_b in zip(spots or range(len(a)), a, b, strict=True):
        if of_a and of_b:
            below = sorted(of_b)
            firsts, lasts = (sum(bisect(below, x) for x in of_a) for bisect in (bisect_left, bisect_right))
            pairs = len(of_a) * len(of_b)
            ties = (lasts - firsts) / pairs
            shares.setdefault(spot, []).append((firsts / pairs + 0.5 * ties, ties))
    if not shares:
        return None
    cells = len(shares)
    each = [sum(one[0] for one in of) / len(of) for of in shares.values()]
    won, tied = sum(each), sum(sum(one[1] for one in of) / len(of) for of in shares.values())
    tail = 0.5 * (1.0 - confidence)
    worth = _worth(each)
    ahead, behind = _widened(won * worth + 0.5, (cells - won) * worth + 0.5, u_runs)
    # To its end where every cell says the same, as they advise.
    low = beta_quantile(tail, ahead, behind) if won > 0 else 0.0
    high = beta_quantile(1.0 - tail, ahead, behind) if won < cells else 1.0
    return Better(won / cells, low, high, cells, tied / cells)


def _widened(ahead: float, behind: float, u: float) -> tuple[float, float]:
    """A beta distribution of the same mean whose variance has u² more in it; never wider than one that knows nothing."""
    whole = ahead + behind
    mean = ahead / whole
    variance = mean * (1.0 - mean) / (whole + 1.0) + u * u
    total = min(whole, max(mean * (1.0 - mean) / variance - 1.0, 1.0))
    return mean * total, (1.0 - mean) * total


def shift_of_chance(differences: Sequence[float], u: float) -> float:
    """By how much the chance of better moves with a standard uncertainty `u` that is common to all cells: φ(m/s)·u/s, by the
    mean m and standard deviation s of the cells' differences, as of a normal. 0 for fewer than two, or where none scatters."""
    count = len(differences)
    if count < 2:
        return 0.0
    mean = sum(differences) / count
    scatter = math.sqrt(sum((d - mean) ** 2 for d in differences) / (count - 1))
    if scatter == 0.0:
        return 0.0
    return math.exp(-0.5 * (mean / scatter) ** 2) / math.sqrt(2.0 * math.pi) * u / scatter


PRIOR_CELLS = 2.0
"""Cells that the scatter of a plain yes or no is worth beside what the cells show."""


def _worth(shares: Sequence[float]) -> float:
    """How many plain yes-or-no answers a cell is worth: ties and several readings in a cell scatter less than those would, by
    the cells' own variance drawn towards p(1 − p)."""
    cells = len(shares)
    p = sum(shares) / cells
    plain = p * (1.0 - p)
    if cells < 2 or plain <= 0.0:
        return 1.0
    squares = sum((share - p) ** 2 for share in shares)
    return max(plain * (PRIOR_CELLS + cells - 1) / (PRIOR_CELLS * plain + squares), 1.0)


def spots_for(chance: float, confidence: float = 0.90, most: int = 200) -> int:
    """How many cells it takes until a share `chance` of them, seen so, lies above one half; `most` where that is more."""
    for cells in range(2, most):
        won = chance * cells
        if beta_quantile(0.5 * (1.0 - confidence), won + 0.5, cells - won + 0.5) > 0.5:
            return cells
    return most
