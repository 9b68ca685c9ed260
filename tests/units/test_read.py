"""Quantities as people write them."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.decibels import dbm_from_watt
from tallmast.units import read, show


@pytest.mark.parametrize(
    ("reader", "text", "value"),
    [
        (read.frequency, "868.3 MHz", 868.3e6), (read.frequency, "868,3", 868.3e6), (read.frequency, "2.4GHz", 2.4e9),
        (read.power, "25mW", 0.025), (read.power, "14 dBm", 0.0251189), (read.power, "0.5 W", 0.5), (read.power, "5", 5.0),
        (read.level, "-97dBm", -97.0), (read.level, "−97", -97.0), (read.level, "2.5 µV", -99.03), (read.level, "12 dBµV", -94.99),
        (read.length, "3 ft", 0.9144), (read.length, "3 ft 6 in", 1.0668), (read.length, "82mm", 0.082), (read.length, "5.1 km", 5100.0),
        (read.swr, "1:1.4", 1.4), (read.swr, "1.4:1", 1.4), (read.swr, "1,4", 1.4), (read.mass, "410 g", 0.41),
        (read.axial_ratio, "2 dB", 2.0), (read.axial_ratio, "1.26", 2.007), (read.axial_ratio, "0.79", 2.047),
        (read.bearing, "NE", 45.0), (read.bearing, "-40", 320.0), (read.fraction, "10 %", 0.1), (read.fraction, "1/10", 0.1),
    ],
)  # fmt: skip
def test_reads(reader, text, value):
    assert reader(text) == pytest.approx(value, rel=1e-3)


@pytest.mark.parametrize(
    "text",
    [
        "57°54.3'N 11 12 08 W",
        "57.905, -11.202222",
        "N57 54.3 W11 12.1333",
        "57,905; -11,202222",
        "57 54 18 N, 11 12 08 W",
    ],
)
def test_a_position_in_any_notation(text):
    assert read.position(text) == pytest.approx((57.905, -11.202222), abs=1e-5)


@pytest.mark.parametrize("text", ["868-870 MHz", "868 to 870", "868.0 MHz … 0.870 GHz", "870–868 MHz"])
def test_a_band(text):
    assert read.band(text) == pytest.approx((868e6, 870e6))


def test_gain_keeps_what_was_written():
    assert read.gain("8 dBi") == read.Gain(8.0, "dBi")
    assert read.gain("6dBd").reference == "dBd"
    assert read.gain("11 dB").reference == "dB"


@pytest.mark.parametrize(
    ("reader", "text"),
    [
        (read.frequency, "-3 MHz"), (read.frequency, "868 m"), (read.power, "0 W"), (read.power, "nan"), (read.level, "S"),
        (read.level, "-400"), (read.swr, "0.9"), (read.swr, "1:inf"), (read.length, "-1 m"), (read.length, "three feet"),
        (read.position, "95 N 11 W"), (read.position, "57.9"), (read.position, "57 61 N 11 W"), (read.band, "868-870-872"),
        (read.gain, "loud"), (read.fraction, "150 %"), (read.count, "2.5"), (read.number, "1e400"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_told_with_what_was_expected(reader, text):
    with pytest.raises(read.UnitError) as caught:
        reader(text)
    message = str(caught.value)
    assert message.startswith("Expected ")
    assert caught.value.expected


def test_s_units_need_the_frequency():
    assert read.level("S9", 145e6) == -93
    assert read.level("S9+10", 7e6) == -63


@given(st.floats(-140, 30))
def test_levels_go_round(dbm):
    assert read.level(f"{dbm!r} dBm") == pytest.approx(dbm, abs=1e-9)
    volt = math.sqrt(50.0 * 1e-3 * 10 ** (dbm / 10))
    assert read.level(f"{volt * 1e6!r} µV") == pytest.approx(dbm, abs=1e-9)


@given(st.floats(1e-6, 1e3))
def test_powers_go_round(watt):
    assert read.power(f"{dbm_from_watt(watt)!r} dBm") == pytest.approx(watt, rel=1e-9)


@given(st.floats(-90, 90), st.floats(-180, 180))
def test_what_is_shown_of_a_position_is_read_again(lat, lon):
    assert read.position(show.position(lat, lon)) == pytest.approx((lat, lon), abs=1e-5)


@given(st.text(max_size=30))
def test_nonsense_never_breaks_a_reader(text):
    for reader in (
        read.frequency,
        read.power,
        read.level,
        read.length,
        read.swr,
        read.position,
        read.band,
        read.gain,
        read.fraction,
        read.axial_ratio,
    ):
        try:
            value = reader(text)
        except read.UnitError:
            continue
        values = value if isinstance(value, tuple) else (getattr(value, "value", value),)
        assert all(math.isfinite(v) for v in values)
