"""Substitution: loss, drift, leakage, and the interval that it states."""

import numpy as np
import pytest

from tallmast.findings.levels.verify import mismatch_u_db, verify
from tallmast.notebook.records import PadCheck, Piece

PAD = Piece(id="p", name="10 dB pad", type="pad", loss_db=10.0, loss_u_db=0.0, tolerance_db=0.3)


def series(loss=10.2, drift_per_minute=0.0, noise=0.0, turns=4, seed=1, floor=None):
    random = np.random.default_rng(seed)
    minute = np.arange(2 * turns + 1) * 1.5
    inside = np.arange(len(minute)) % 2
    level = -3.0 + drift_per_minute * minute - loss * inside
    if floor is not None:
        level = 10 * np.log10(10 ** (level / 10) + 10 ** (floor / 10))
    return {"inside": inside.astype(float), "level_dbm": level + random.normal(0, noise, len(minute)), "minute": minute}


def check(**more):
    more.setdefault("ends_swr", 1.15)
    return PadCheck(piece_id="p", frequency_hz=869e6, series_id="s", **more)


def test_drift_is_taken_out():
    found = verify(check(), series(drift_per_minute=0.05), PAD)
    assert found.loss.value == pytest.approx(10.2, abs=1e-9)
    assert found.drift_db_per_hour == pytest.approx(3.0)
    assert found.against == "it is what its lid says, within tolerance and uncertainty"


def test_beyond_its_tolerance_is_told():
    assert verify(check(), series(loss=10.9), PAD).against == "it is 0.90 dB more, beyond its tolerance"
    assert "less" in verify(check(), series(loss=9.0), PAD).against


def test_the_idle_meter_is_taken_off():
    found = verify(check(idle_dbm=-40.0), series(loss=35.0, floor=-40.0), PAD)
    assert found.loss.value == pytest.approx(35.0, abs=0.01)
    # Left on, −38 dBm over a floor of −40 reads −35.88, and the pad 32.88 dB.
    assert verify(check(), series(loss=35.0, floor=-40.0), PAD).loss.value == pytest.approx(32.88, abs=0.01)


def test_its_interval_holds_nine_times_in_ten_of_noise_alone():
    held = 0
    for seed in range(300):
        found = verify(check(linearity_db=0.0), series(noise=0.2, seed=seed), PAD)
        low, high = found.loss.interval
        held += low <= 10.2 <= high
    assert 0.85 <= held / 300 <= 0.96


def test_leakage_past_sixty_decibels_has_to_be_thought_of():
    assert verify(check(), series(loss=40.0), PAD).leak is None
    assert verify(check(), series(loss=70.0), PAD).leak.mark == "open"
    bad = verify(check(leak_dbm=-80.0), series(loss=70.0), PAD)
    # −73 dBm came through and −80 leaks: only 7 dB apart, worth ±3.2 dB at worst.
    assert bad.leak.mark == "disagrees" and "7 dB under" in bad.leak.text
    assert bad.loss.u > 2.0
    good = verify(check(leak_dbm=-110.0), series(loss=70.03), PAD)
    assert good.leak.mark == "holds" and good.loss.u < 0.4


def test_two_readings_tell_no_drift():
    found = verify(check(), {"inside": [0.0, 1.0], "level_dbm": [-3.0, -13.0], "minute": [0.0, 1.0]}, PAD)
    assert found.loss.value == 10.0 and found.drift_db_per_hour == 0.0
    assert "not told" in "".join(found.loss.working.lines)


def test_ends_that_do_not_match_widen_it_by_hand():
    """SWR 1.5: |Γ| 0.2, a pad of 0.05: 8.686·√((0.2⁴ + 2·(0.2·0.05)²)/2) = 0.261 dB; with a pad on each end, SWR 1.15, 0.043."""
    assert mismatch_u_db(1.5) == pytest.approx(0.261, abs=0.002)
    assert mismatch_u_db(1.15) == pytest.approx(0.0426, abs=0.0005)
    wide, narrow = (verify(check(ends_swr=swr, linearity_db=0.0), series(noise=0.001), PAD).loss for swr in (1.5, 1.15))
    assert wide.half == pytest.approx(0.9877 * 1.4142 * 0.261, abs=0.02), "an arc sine has no tails"
    assert narrow.half < 0.12
