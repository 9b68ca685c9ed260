"""Readings in time: shares, dropouts and how often above a level, by hand."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.traces import durations, dying, share_above, usable, warped


def test_a_reading_stands_until_the_next_and_the_last_as_long_as_the_one_before():
    assert durations(np.array([0.0, 1.0, 3.0, 4.0])).tolist() == [1.0, 2.0, 1.0, 1.0]


def test_dropouts_by_hand():
    """Ten seconds, one a reading: good, 2 s gone, good, 1 s gone, good."""
    good = np.array([1, 1, 0, 0, 1, 1, 1, 0, 1, 1], dtype=bool)
    told = usable(np.arange(10.0), good)
    assert told.seconds == 10.0 and told.share == pytest.approx(0.7)
    assert told.dropouts_s == (2.0, 1.0) and told.longest_s == 2.0 and told.lost_s == 3.0
    assert told.a_minute == pytest.approx(12.0)


def test_a_slope_and_a_cliff_by_hand():
    """Usual 5, usable from 2: down over three seconds, back over two; then at once."""
    values = np.array([5, 5, 4, 3, 1, 1, 3, 5, 5, 5, 1, 5, 5], dtype=float)
    slope = dying(np.arange(13.0), values, values >= 2)
    assert slope.warning_s == pytest.approx(2.0), "3 s for the first, 1 s for the second"
    assert slope.recovery_s == pytest.approx(0.5), "1 s after the first, at once after the second"
    assert slope.fade == pytest.approx(4.0), "5 in the middle, 1 in the worst tenth"


def test_what_never_was_lost_gave_no_warning_and_nothing_received_fades_without_end():
    steady = dying(np.arange(5.0), np.full(5, 7.0), np.ones(5, dtype=bool))
    assert (steady.warning_s, steady.recovery_s, steady.fade) == (None, None, 0.0)
    broken = dying(np.arange(20.0), np.where(np.arange(20) < 4, np.nan, 7.0), np.arange(20) >= 4)
    assert broken.fade == np.inf and broken.warning_s is None and broken.recovery_s == 0.0


def test_all_good_and_all_gone():
    assert usable(np.arange(4.0), np.ones(4, dtype=bool)).dropouts_s == ()
    gone = usable(np.arange(4.0), np.zeros(4, dtype=bool))
    assert gone.share == 0.0 and gone.dropouts_s == (4.0,)


def test_share_above_by_hand_and_what_was_not_read_is_below_all():
    values, stands = np.array([1.0, 2.0, 3.0, np.nan]), np.array([1.0, 1.0, 2.0, 1.0])
    assert share_above(values, stands, np.array([0.0, 1.0, 1.5, 3.0, 4.0])) == pytest.approx([0.8, 0.8, 0.6, 0.4, 0.0])


@given(st.lists(st.booleans(), min_size=2, max_size=60), st.integers(0, 1000))
def test_what_is_lost_and_what_is_usable_make_the_whole(good, seed):
    time = np.cumsum(np.random.default_rng(seed).uniform(0.1, 2.0, len(good)))
    told = usable(time, np.array(good))
    assert told.share * told.seconds + told.lost_s == pytest.approx(told.seconds)
    assert len(told.dropouts_s) <= (len(good) + 1) // 2


def test_marks_lie_where_they_are_meant_to():
    moved = warped(np.array([0.0, 5.0, 10.0, 20.0]), np.array([0.0, 10.0, 20.0]), np.array([0.0, 20.0, 25.0]))
    assert moved.tolist() == [0.0, 10.0, 20.0, 25.0]
