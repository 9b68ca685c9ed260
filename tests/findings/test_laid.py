"""Recordings laid over each other: the difference of two antennas along the way, how often each was above a level."""

import numpy as np
import pytest

from tallmast.findings.field.laid import aligned, difference_along, how_often
from tallmast.findings.field.recorded import WHOLE
from tallmast.findings.field.trace import LEVEL, Stretch, Trace
from tallmast.notebook.records import RecordedColumn, Recording, Run

TIME = np.arange(0.0, 10.0, 0.5)


def trace(antenna: str, number: int, values, read_on: str = LEVEL) -> Trace:
    run = Run(id=f"r{number}", number=number, antenna_id=antenna, state_id="s")
    recording = Recording(run_id=run.id, series_id="x", columns=[RecordedColumn(key="v", name="v", read_on=read_on)])
    values = np.broadcast_to(np.asarray(values, dtype=float), TIME.shape)
    whole = Stretch(WHOLE, 0.0, float(TIME[-1]), 0.0, None, None)
    return Trace(recording, run, (antenna, "s"), read_on, "away", "", TIME, values, None, (whole,))


def test_two_antennas_run_twice_have_a_difference_with_the_band_of_students_t():
    laid = aligned([trace("a", 1, -60.0), trace("b", 2, -63.0), trace("b", 3, -65.0), trace("a", 4, -62.0)])
    along = difference_along(laid, "a")
    assert along.difference == pytest.approx(3.0)
    # Two and two: pooled variance (2 + 2) / 2 = 2, of the difference 2·(1/2 + 1/2) = 2; t of 2 at 90 % is 2.920
    # (any table of Student's t, e.g. ISO 16269-2 annex).
    assert along.half == pytest.approx(2.920 * np.sqrt(2.0), rel=1e-3)
    assert difference_along(laid, "b").difference == pytest.approx(-3.0), "the one in focus comes first"


def test_run_once_there_is_no_band_and_of_one_or_three_no_difference():
    once = aligned([trace("a", 1, -60.0), trace("b", 2, -63.0)])
    assert difference_along(once, "a").half is None
    assert difference_along(once, "a", {"b"}) is None
    assert difference_along(aligned([*(t for t, _ in once.traces), trace("c", 3, -61.0)]), "a") is None


def test_what_was_not_received_is_a_bit_rate_of_0_but_no_level():
    gone = np.where(TIME < 5.0, 20.0, np.nan)
    rate = difference_along(aligned([trace("a", 1, 20.0, "bit rate"), trace("b", 2, gone, "bit rate")]), "a")
    assert rate.difference[0] == 0.0 and rate.difference[-1] == 20.0
    level = difference_along(aligned([trace("a", 1, -60.0), trace("b", 2, np.where(TIME < 5.0, -63.0, np.nan))]), "a")
    assert level.difference[0] == pytest.approx(3.0) and np.isnan(level.difference[-1])


def test_how_often_counts_all_runs_of_an_antenna_and_what_was_not_read_as_below_all():
    half = np.where(TIME[-1] / 2 > TIME, -60.0, np.nan)
    laid = aligned([trace("a", 1, -60.0), trace("a", 2, half), trace("b", 3, -80.0)])
    a, b = how_often(laid, -90.0, -50.0)
    assert (a.tried[0], b.tried[0]) == ("a", "b")
    assert a.share[0] == pytest.approx(75.0, abs=3.0) and a.share[-1] == 0.0
    assert b.share[0] == 100.0 and b.share[-1] == 0.0
    slow = aligned([trace("a", 1, 30.0, "delay"), trace("b", 2, np.nan * TIME, "delay")])
    a, b = how_often(slow, 10.0, 100.0)
    assert (a.share[0], a.share[-1]) == (0.0, 100.0), "of a delay: at most so long"
    assert not b.share.any(), "what never came back was never in time"


def walked(number: int, late_s: float, moved_s: float | None = None, seconds: float = 120.0) -> Trace:
    """The same way, begun so many seconds late; no marks."""
    time = np.arange(0.0, seconds, 0.5)
    way = time - late_s
    values = (
        -70.0
        + 8.0 * np.sin(way / 9.0)
        + 5.0 * np.sin(way / 3.7)
        + np.random.default_rng(number).normal(0, 1, len(time))
    )
    run = Run(id=f"r{number}", number=number, antenna_id="ab"[number % 2], state_id="s")
    columns = [RecordedColumn(key="first", name="v", read_on=LEVEL)]
    recording = Recording(run_id=run.id, series_id="x", columns=columns, moved_s=moved_s)
    whole = Stretch(WHOLE, 0.0, float(time[-1]), 0.0, None, None)
    return Trace(recording, run, (run.antenna_id, "s"), LEVEL, "away", "", time, values, None, (whole,))


def test_without_marks_they_lie_where_they_are_most_alike():
    laid = aligned([walked(1, 0.0, seconds=130.0), walked(2, 6.0), walked(3, -4.0)])
    assert laid.moved_s == (0.0, pytest.approx(-6.0, abs=0.6), pytest.approx(4.0, abs=0.6))
    starts = [float(time[0]) for _, time in laid.traces]
    assert min(starts) == 0.0 and starts[2] - starts[1] == pytest.approx(10.0, abs=1.0)
    flat = difference_along(aligned([walked(1, 0.0), walked(2, 6.0)]), "a")
    middle = flat.difference[20:-20]
    assert np.nanstd(middle) < 3.0, "laid wrongly, two waves of 8 dB would cross"


def test_what_somebody_said_counts_before_the_likeness_and_unlike_ones_begin_together():
    laid = aligned([walked(1, 0.0, seconds=130.0), walked(2, 6.0, moved_s=2.5)])
    assert laid.moved_s == (0.0, 2.5)
    noise = [
        trace("a", 1, np.random.default_rng(1).normal(0, 1, 20)),
        trace("b", 2, np.random.default_rng(2).normal(0, 1, 20)),
    ]
    assert aligned(noise).moved_s == (0.0, 0.0)
