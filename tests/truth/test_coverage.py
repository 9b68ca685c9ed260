"""A short version of `./run truth`: coarse, so that it is quick, and still seen to fail where an interval is half as wide
as it should be or twice as wide."""

import pytest

from . import worlds  # noqa: F401
from .tally import QUANTITIES, Tally, run

CAMPAIGNS = 48
SLACK = 0.1
"""Two and a half standard deviations of a share of 0.9 in 48 campaigns, nearly."""


@pytest.mark.parametrize("name", QUANTITIES)
def test_stated_intervals_hold_about_as_often_as_stated(name):
    tally = run(name, CAMPAIGNS)
    assert tally.good(QUANTITIES[name], SLACK), f"{tally.coverage:.2f} of {tally.asked}, {tally.untold} not told"


def test_the_tally_counts_bounds_by_their_one_side():
    from tallmast.findings.figure import Figure

    tally = Tally()
    tally.add(Figure("reach", 100.0, 5.0, "m", bound="at least"), 1e6)
    tally.add(Figure("reach", 100.0, 5.0, "m", bound="at most"), 1e6)
    tally.add(None, 1.0)
    assert (tally.held, tally.asked, tally.untold) == (1, 2, 1)
