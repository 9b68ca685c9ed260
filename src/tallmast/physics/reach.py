"""How much farther one thing was heard than another, from where each was last good and first lost.

The logarithm of the distance at which a link fails scatters with the ground: by s/(10n) for a scatter of s dB and a level
that falls with dⁿ. A run tells it between the last place that was good and the first that was lost; a run that ended before
it failed tells only that it is farther.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from tallmast.frozen import Frozen

PRIOR_LOG10 = 0.1
"""Standard deviation of log₁₀ d from run to run that is taken before any repeat has shown it: 3.5 dB and n = 3.5. Runs over
one way share its shadows; what differs is how it is held, who stands where, and the moment."""
PRIOR_DEGREES = 3.0
"""Degrees of freedom that this guess is worth: as many as 2 to 6 dB among days and people leave it."""


class Failed(Frozen, eq=True):
    """One run: good to `good_m`, lost by `lost_m`; None: it ended while still good."""

    good_m: float
    lost_m: float | None

    @property
    def middle(self) -> float:
        """log₁₀ of the distance at which it failed, in the middle of what is known."""
        return math.log10(self.good_m if self.lost_m is None else math.sqrt(self.good_m * self.lost_m))

    @property
    def variance(self) -> float:
        """Of that, by the ground between: a rectangle's."""
        return 0.0 if self.lost_m is None else (math.log10(self.lost_m / self.good_m)) ** 2 / 12.0


class Ratio(Frozen, eq=True):
    """log₁₀ of how many times as far, its standard uncertainty and degrees of freedom; `bound`: only one side is known."""

    log10: float
    u: float
    degrees: float
    bound: str = ""

    def turned(self) -> Ratio:
        """The other over the one."""
        other = {"at least": "at most", "at most": "at least"}.get(self.bound, "")
        return Ratio(-self.log10, self.u, self.degrees, other)


def distance(runs: Sequence[Failed]) -> Ratio | None:
    """log₁₀ of the distance in m at which some runs of one thing failed, as `ratio` has it for one side; None without runs."""
    known = [run for run in runs if run.lost_m is not None]
    told = known or ([max(runs, key=lambda run: run.good_m)] if runs else [])
    if not told:
        return None
    mean = math.fsum(run.middle for run in told) / len(told)
    degrees = PRIOR_DEGREES + max(len(known) - 1, 0)
    scatter = (PRIOR_DEGREES * PRIOR_LOG10**2 + math.fsum((run.middle - mean) ** 2 for run in known)) / degrees
    u = math.sqrt(scatter / len(told) + math.fsum(run.variance for run in told) / len(told) ** 2)
    farther = any(run.lost_m is None and math.log10(run.good_m) > mean for run in runs)
    return Ratio(mean, u, degrees, "at least" if not known or farther else "")


def ratio(a: Sequence[Failed], b: Sequence[Failed]) -> Ratio | None:
    """A's distance over B's. None where neither was seen to fail, or one made no run.

    Repeats of both show the scatter from run to run, beside a guess that is worth three degrees of freedom (a conjugate prior:
    Gelman et al., Bayesian Data Analysis, §3.3). A run that ended while still good counts where it went farther than the
    others of its kind failed: what it is then worth is a bound.
    """
    ended = [[run for run in runs if run.lost_m is not None] for runs in (a, b)]
    if not a or not b or not (ended[0] or ended[1]):
        return None
    squares, degrees = PRIOR_DEGREES * PRIOR_LOG10**2, PRIOR_DEGREES
    means, within, open_ = [], [], []
    for runs, known in zip((a, b), ended, strict=True):
        told = known or [max(runs, key=lambda run: run.good_m)]
        mean = math.fsum(run.middle for run in told) / len(told)
        squares += math.fsum((run.middle - mean) ** 2 for run in known)
        degrees += max(len(known) - 1, 0)
        means.append(mean)
        within.append((len(told), math.fsum(run.variance for run in told) / len(told) ** 2))
        open_.append(not known or any(run.lost_m is None and math.log10(run.good_m) > mean for run in runs))
    if all(open_):
        return None
    scatter = squares / degrees
    u = math.sqrt(math.fsum(scatter / count + ground for count, ground in within))
    bound = "at least" if open_[0] else "at most" if open_[1] else ""
    return Ratio(means[0] - means[1], u, degrees, bound)


def pooled(ratios: Sequence[Ratio]) -> Ratio:
    """One ratio from several on different grounds, by their weights; one or more, all with a value or a single bound."""
    if len(ratios) == 1:
        return ratios[0]
    weights = [1.0 / one.u**2 for one in ratios]
    whole = math.fsum(weights)
    mean = math.fsum(w * one.log10 for w, one in zip(weights, ratios, strict=True)) / whole
    return Ratio(mean, 1.0 / math.sqrt(whole), math.fsum(one.degrees for one in ratios))


def decibels(log10_ratio: float, exponent: float) -> float:
    """What a ratio of distances stands for where the level falls with dⁿ: 10·n·log₁₀(ratio), dB."""
    return 10.0 * exponent * log10_ratio
