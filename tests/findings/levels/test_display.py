"""Displays turned into decibels, held against the practice receivers whose curves are known."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.findings.levels.display import read_displays, told_of
from tallmast.findings.levels.display_curve import fit, monotone
from tallmast.instruments.practice.receivers import RECEIVERS
from tallmast.notebook.records import DisplayRun, Reading

from ..build import Book


def run(scale="bars", **more) -> DisplayRun:
    more.setdefault("zero_dbm", -45.0)
    more.setdefault("zero_u_db", 0.0)
    more.setdefault("step_u_db", 0.0)
    return DisplayRun(receiver="set", scale=scale, series_id="s", **more)


def stepped(receiver, random, low=0.0, high=70.0, step=1.0, zero=-45.0, both=True, times=1):
    out = np.arange(low, high + step / 2, step)
    one = np.concatenate((out, out[::-1])) if both else out
    attenuation = np.tile(one, times)
    return {
        "attenuation_db": attenuation,
        "shown": receiver.pass_over(zero - attenuation, random),
        "order": np.arange(len(attenuation), dtype=float),
    }


@given(st.lists(st.tuples(st.floats(-100, 100), st.floats(0.1, 10)), min_size=1, max_size=40))
def test_monotone_regression_is_scipys(pairs):
    from scipy.optimize import isotonic_regression

    values, weights = np.array(pairs).T
    np.testing.assert_allclose(monotone(values, weights), isotonic_regression(values, weights=weights).x, atol=1e-9)


@pytest.mark.parametrize(
    "scale",
    ["S units", "bars", "bit rate", "packet rate", "picture grade", "readability", "delay", "level", "exposure meter"],
)
def test_readings_become_levels_whose_intervals_hold_nine_times_in_ten(scale):
    """50 runs of each receiver, 40 later readings each at levels that the display can tell: the stated interval holds
    the true level in 85 to 99 of 100 (readings come in grains, so more than 90 is the rule)."""
    receiver = RECEIVERS[scale]
    zero = receiver.high_dbm if scale != "level" else -45.0
    held = told = 0
    for seed in range(50):
        random = np.random.default_rng([seed, len(scale)])
        curve = fit(
            run(scale, zero_dbm=zero), stepped(receiver, random, 0, zero - receiver.low_dbm, 1.0, zero, times=2)
        )
        low, high = told_of(curve).span
        for true in random.uniform(low + 1, high - 1, 40):
            # Arrived at from above or below, as the lag has it.
            way = random.choice((-1.0, 1.0)) * receiver.lag_db
            shown = receiver.pass_over([true + way, true], random)[-1]
            read = curve.read(float(shown))
            if read.state != "told":
                continue
            told += 1
            low_end, high_end = read.level.interval
            held += low_end <= true <= high_end
    assert told > 1000
    assert 0.85 <= held / told <= 0.99


def test_saturation_and_threshold_are_found_where_they_are():
    receiver = RECEIVERS["bars"]
    found = told_of(fit(run(zero_dbm=-40.0), stepped(receiver, np.random.default_rng(1), 0, 75, 1.0, -40.0)))
    # 5 bars from −66 − (half a bar: 3.8 dB, and the lag), none under −104 + 3.8.
    assert found.curve.top_db == pytest.approx(-68.5, abs=2.5)
    assert found.curve.bottom_db == pytest.approx(-101.5, abs=2.5)
    assert found.curve.read(5.0).state == "saturated"
    assert found.curve.read(5.0).level.text.startswith("at least −")
    assert found.curve.read(0.0).words.startswith("below the threshold: at most −")
    assert {c.text.split(" from")[0].split(" under")[0] for c in found.checks} >= {"saturated", "nothing told"}


def test_hysteresis_is_measured_and_one_that_does_not_lag_has_none():
    lagging = fit(run(), stepped(RECEIVERS["bars"], np.random.default_rng(2), times=3))
    assert lagging.hysteresis_db.interval[0] <= 3.0 <= lagging.hysteresis_db.interval[1]
    assert (
        fit(run("packet rate"), stepped(RECEIVERS["packet rate"], np.random.default_rng(3), times=3)).hysteresis_db
        is None
    )


def test_a_delay_falls_as_the_level_rises():
    curve = fit(run("delay"), stepped(RECEIVERS["delay"], np.random.default_rng(4), times=2))
    fast, slow = curve.read(120.0), curve.read(300.0)
    assert fast.level.value > slow.level.value
    # 28 + 400·(1 − s) = 228 where the logistic is a half: −90 dBm.
    assert curve.read(228.0).level.value == pytest.approx(-90.0, abs=1.0)


def test_a_top_that_was_not_reached_is_not_called_saturated_but_bounded():
    curve = fit(run("level"), {"attenuation_db": np.arange(0, 31.0), "shown": 100 - np.arange(0, 31.0)})
    assert curve.top_db is None and curve.bottom_db is None
    beyond = curve.read(120.0)
    assert beyond.state == "saturated" and beyond.level.bound == "at least"
    assert curve.read(85.0).level.value == pytest.approx(-60.0, abs=0.1)


def test_the_zeros_doubt_goes_into_every_reading():
    series = {"attenuation_db": np.arange(0, 31.0), "shown": 100 - np.arange(0, 31.0)}
    sure, unsure = (fit(run("level", zero_u_db=u), series).read(85.0).level.half for u in (0.0, 2.0))
    assert unsure > 3.0 > sure


def test_without_a_zero_only_differences_are_told():
    series = {"attenuation_db": np.arange(0, 31.0), "shown": 100 - np.arange(0, 31.0)}
    curve = fit(run("level", zero_dbm=None), series)
    assert curve.unit == "dB"
    assert curve.read(90.0).level.value - curve.read(80.0).level.value == pytest.approx(10.0, abs=0.1)


@pytest.mark.parametrize(
    "series",
    [
        {"attenuation_db": np.array([0.0, 1.0]), "shown": np.array([5.0, 4.0])},
        {"attenuation_db": np.arange(10.0), "shown": np.full(10, 3.0)},
        {"attenuation_db": np.full(3, np.nan), "shown": np.arange(3.0)},
    ],
)
def test_a_run_that_says_nothing_is_no_curve(series):
    assert fit(run(), series) is None


def test_later_readings_of_a_stepped_display_are_levels_in_the_field():
    book = Book()
    book.home(2000.0)
    a = book.antenna("A", known_gain_dbi=2.15)
    book.series["s"] = {"attenuation_db": np.arange(0, 61.0), "shown": np.clip(60 - np.arange(0, 61.0), 0, 50)}
    book.add(run("level", id="d"))
    one = book.run(a, 1)
    for name, metres, shown in (("near", 300, 40.0), ("mid", 800, 30.0), ("far", 1500, 20.0), ("loud", 100, 50.0)):
        book.place(name, metres)
        book.reading(one, name, shown=shown, receiver="set", as_typed=f"{shown:g}")
    climb = book.climb(a)
    (samples,) = climb.field.samples
    # 40 of 60 is 20 dB down: −65 dBm. The loud place saturates at 50: no level there.
    levels = {round(d, -1): v for d, v in zip(samples.distance_m, samples.level_dbm, strict=True)}
    assert levels == {
        300: pytest.approx(-65, abs=0.2),
        800: pytest.approx(-75, abs=0.2),
        1500: pytest.approx(-85, abs=0.2),
    }
    assert read_displays(book.evidence)["set"].span[1] == pytest.approx(-55.0, abs=0.2)
    assert isinstance(book.records["d"], DisplayRun) and book.evidence.all(Reading)
