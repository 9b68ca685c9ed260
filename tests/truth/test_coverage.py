"""A short version of `./run truth`: coarse, so that it is quick, and still seen to fail where an interval is half as wide
as it should be or twice as wide."""

import pytest

from . import worlds  # noqa: F401
from .tally import QUANTITIES, Tally, run

CAMPAIGNS = 48
ELSEWHERE = ("model", "own prior")
"""Rungs of `test_coverage_of_the_model`: a file of its own, so that it is tried beside this one."""
SLACK = 0.1
"""Two and a half standard deviations of a share of 0.9 in 48 campaigns, nearly."""


def hold(name: str) -> None:
    tally = run(name, CAMPAIGNS)
    assert tally.good(QUANTITIES[name], SLACK), f"{tally.coverage:.2f} of {tally.asked}, {tally.untold} not told"


@pytest.mark.parametrize("name", [name for name, q in QUANTITIES.items() if q.rung not in ELSEWHERE])
def test_stated_intervals_hold_about_as_often_as_stated(name):
    hold(name)


def test_the_tally_counts_bounds_by_their_one_side():
    from tallmast.findings.figure import Figure

    tally = Tally()
    tally.add(Figure("reach", 100.0, 5.0, "m", bound="at least"), 1e6)
    tally.add(Figure("reach", 100.0, 5.0, "m", bound="at most"), 1e6)
    tally.add(None, 1.0)
    assert (tally.held, tally.asked, tally.untold) == (1, 2, 1)
