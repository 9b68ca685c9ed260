"""Readings in time: shares, dropouts and how often above a level, by hand."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.traces import durations, share_above, usable, warped


def test_a_reading_stands_until_the_next_and_the_last_as_long_as_the_one_before():
    assert durations(np.array([0.0, 1.0, 3.0, 4.0])).tolist() == [1.0, 2.0, 1.0, 1.0]


def test_dropouts_by_hand():
    """Ten seconds, one a reading: good, 2 s gone, good, 1 s gone, good."""
    good = np.array([1, 1, 0, 0, 1, 1, 1, 0, 1, 1], dtype=bool)
    told = usable(np.arange(10.0), good)
    assert told.seconds == 10.0 and told.share == pytest.approx(0.7)
    assert told.dropouts_s == (2.0, 1.0) and told.longest_s == 2.0 and told.lost_s == 3.0
    assert told.a_minute == pytest.approx(12.0)


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
