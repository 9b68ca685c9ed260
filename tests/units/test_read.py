"""Quantities as people write them."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.decibels import dbm_from_watt, s9_dbm, s_units_of
from tallmast.units import read, show
from tallmast.units.position import bearing, position
from tallmast.units.scales import FIELDS, LEVELS, NOISES, outward


@pytest.mark.parametrize(
    ("reader", "text", "value"),
    [
        (read.swr, "14 dB", 1.4985), (read.swr, "S11 -14 dB", 1.4985), (read.swr, "1.5 to 1", 1.5), (read.fraction, "3 of 4", 0.75),
        (read.length, "300 yards", 274.32), (read.length, "6 feet", 1.8288),
        (read.frequency, "868.3 MHz", 868.3e6), (read.frequency, "868,3", 868.3e6), (read.frequency, "2.4GHz", 2.4e9),
        (read.power, "25mW", 0.025), (read.power, "14 dBm", 0.0251189), (read.power, "0.5 W", 0.5), (read.power, "5", 5.0),
        (read.power, "250 mW − 24 dB", 9.953e-4), (read.power, "30 dBm less 3 dB", 0.50119), (read.power, "1 + 10 dB", 10.0),
        (read.level, "-97dBm", -97.0), (read.level, "−97", -97.0), (read.level, "2.5 µV", -99.03), (read.level, "12 dBµV", -94.99),
        (read.length, "3 ft", 0.9144), (read.length, "3 ft 6 in", 1.0668), (read.length, "82mm", 0.082), (read.length, "5.1 km", 5100.0),
        (read.swr, "1:1.4", 1.4), (read.swr, "1.4:1", 1.4), (read.swr, "1,4", 1.4), (read.mass, "410 g", 0.41),
        (read.axial_ratio, "2 dB", 2.0), (read.axial_ratio, "1.26", 2.007), (read.axial_ratio, "0.79", 2.047),
        (bearing, "NE", 45.0), (bearing, "-40", 320.0), (read.fraction, "10 %", 0.1), (read.fraction, "1/10", 0.1),
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
        "5754.30N 01112.1333W",
    ],
)
def test_a_position_in_any_notation(text):
    assert position(text) == pytest.approx((57.905, -11.202222), abs=1e-5)


@pytest.mark.parametrize(
    "text", ["868-870 MHz", "868 to 870", "868.0 MHz … 0.870 GHz", "870–868 MHz", "869 ± 1", "0.869 GHz +/- 1 MHz"]
)
def test_a_band(text):
    assert read.band(text) == pytest.approx((868e6, 870e6))


def test_gain_keeps_what_was_written():
    assert read.gain("8 dBi") == read.Gain(8.0, "dBi")
    assert read.gain("6dBd").reference == "dBd"
    assert read.gain("11 dB").reference == "dB"


@pytest.mark.parametrize(
    ("reader", "text"),
    [
        (read.frequency, "-3 MHz"), (read.frequency, "868 m"), (read.power, "0 W"), (read.power, "1 W - 400 dB"), (read.power, "- 3 dB"), (read.power, "nan"), (read.level, "S"),
        (read.level, "-400"), (read.swr, "0.9"), (read.swr, "1:inf"), (read.swr, "0 dB"), (read.swr, "0.05 dB"), (read.length, "-1 m"), (read.length, "three feet"),
        (position, "95 N 11 W"), (position, "5775.0N 01112.0W"), (position, "57 N 11 N"), (read.band, "1 ± 2 MHz"), (position, "57.9"), (position, "57 61 N 11 W"), (read.band, "868-870-872"),
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


@pytest.mark.parametrize("frequency_hz", [0.0, 50e6, 70e6, 143.9e6])
def test_between_30_and_144_mhz_it_is_asked_which_s9_is_meant(frequency_hz):
    with pytest.raises(read.UnitError, match="which S9 your set has"):
        read.level("S7", frequency_hz)
    assert read.level("S7 where S9 is −73 dBm", frequency_hz) == -85
    assert read.level("s9+10, S9 = -93", frequency_hz) == -83
    ways = [text for name, text in show.level_ways(-85.0, frequency_hz or 50e6) if name == "S units"]
    assert ways == ["S7.0 where S9 is −73 dBm", "S9+8 dB where S9 is −93 dBm"]


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
    assert position(show.position(lat, lon)) == pytest.approx((lat, lon), abs=1e-5)


@given(st.text(max_size=30))
def test_nonsense_never_breaks_a_reader(text):
    for reader in (
        read.frequency,
        read.power,
        read.level,
        read.length,
        read.swr,
        position,
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


UNITS_OF_A_LEVEL = [scale.name for scale in LEVELS]


class TestEveryScale:
    """Typed any way and written again: exact to 1e-9 (relative for watts and volts, dB for decibels)."""

    @given(st.floats(-200.0, 80.0), st.sampled_from(UNITS_OF_A_LEVEL), st.sampled_from((50.0, 75.0)))
    def test_a_level_comes_back_from_every_unit(self, dbm, unit, ohm):
        written = f"{outward(LEVELS, dbm, unit, ohm)!r} {unit} in {ohm:g} Ω"
        assert read.level(written) == pytest.approx(dbm, abs=1e-9)
        assert dbm_from_watt(read.power(written)) == pytest.approx(dbm, abs=1e-9)

    @given(st.floats(1e-9, 1e4), st.sampled_from([scale.name for scale in FIELDS]))
    def test_a_field_comes_back_from_every_unit(self, field, unit):
        assert read.field_strength(f"{outward(FIELDS, field, unit)!r} {unit}") == pytest.approx(field, rel=1e-9)

    @given(st.floats(0.001, 60.0), st.sampled_from(("dB", "K")))
    def test_noise_comes_back(self, figure, unit):
        assert read.noise_figure(f"{outward(NOISES, figure, unit)!r} {unit}") == pytest.approx(figure, abs=1e-9)

    @given(st.floats(1e-6, 1e4), st.sampled_from(("EIRP", "ERP")))
    def test_radiated_power_comes_back(self, watt, kind):
        written = watt if kind == "EIRP" else watt / 10**0.215
        assert read.radiated(f"{written!r} W {kind}") == pytest.approx(watt, rel=1e-9)

    @given(st.floats(-40, 60))
    def test_gain_over_a_dipole_comes_back(self, dbi):
        assert read.gain_dbi(f"{dbi - 2.15!r} dBd") == pytest.approx(dbi, abs=1e-9)
        assert read.gain_dbi(f"{dbi!r} dBi") == dbi

    @given(st.floats(-127.0, 0.0), st.sampled_from((14e6, 869e6)))
    def test_s_units_come_back(self, dbm, frequency_hz):
        units, over = s_units_of(dbm, s9_dbm(frequency_hz))
        if units >= 0:
            written = f"S{units:.12f}" + (f"+{over:.12f}" if over else "")
            assert read.level(written, frequency_hz) == pytest.approx(dbm, abs=1e-9)


@pytest.mark.parametrize(
    ("reader", "text", "value"),
    [
        # 0 dBm is 224 mV in 50 Ω and 274 mV in 75 Ω; 107 and 108.75 dBµV.
        (read.level, "223.607 mV", 0.0), (read.level, "273.861 mV in 75 Ω", 0.0), (read.level, "108.751 dBuV 75 ohm", 0.0),
        (read.level, "106.99 dBµV", 0.0), (read.level, "1 nW", -60.0), (lambda text: read.level(text, 145e6), "S9", -93.0), (read.level, "0.5 µV @ 50 Ω", -113.01),
        (read.power, "112 dBµV", 10 ** 0.501 * 1e-3), (read.power, "7.07107 V", 1.0), (read.radiated, "0.5 W ERP", 0.8203),
        (read.radiated, "14 dBm e.r.p.", 0.04121), (read.radiated, "25 mW", 0.025), (read.radiated, "1 W EIRP", 1.0),
        # 61.4 V/m is 10 W/m² (ICNIRP 2020 gives 61 V/m beside 10 W/m²); 1 µW/cm² is 10 mW/m².
        (read.field_strength, "10 W/m2", 61.4), (read.field_strength, "1 µW/cm²", 1.9416), (read.field_strength, "10 mW/m^2", 1.9416),
        (read.field_strength, "120 dBuV/m", 1.0), (read.field_strength, "500 µV/m", 5e-4),
        (read.spacing, "0", 0.0), (read.spacing, "40 MHz", 40e6), (read.spacing, "25 kHz", 25e3),
        (read.noise_figure, "290 K", 3.0103), (read.noise_figure, "1.2", 1.2), (read.gain_dbi, "6 dBd", 8.15),
    ],
)  # fmt: skip
def test_reads_every_scale(reader, text, value):
    assert reader(text) == pytest.approx(value, rel=1e-3, abs=2e-3)


@pytest.mark.parametrize(
    ("reader", "text"),
    [
        (read.level, "-2 µV"), (read.level, "5 V/m"), (read.level, "1e400 mW"), (read.power, "25 mW in 60 Ω"),
        (read.field_strength, "3.2"), (read.field_strength, "-1 V/m"), (read.field_strength, "3 W"), (read.noise_figure, "-10 K"),
        (read.noise_figure, "5 W"), (read.radiated, "ERP"), (read.radiated, "0 W ERP"),
    ],
)  # fmt: skip
def test_what_no_scale_takes_says_what_was_expected(reader, text):
    with pytest.raises(read.UnitError, match="Expected"):
        reader(text)


def test_one_level_in_every_unit():
    ways = dict(show.level_ways(-97.0, 869e6))
    assert ways["power"] == "200 fW"
    assert ways["across 50 Ω"] == "3.16 µV, 9.99 dBµV"
    assert ways["across 75 Ω"] == "3.87 µV, 11.75 dBµV"
    assert ways["S units"] == "S8.3"
    assert dict(show.field_ways(1.0)) == {"field": "1 V/m, 120.00 dBµV/m", "density": "2.65 mW/m², 0.265 µW/cm²"}
    assert dict(show.radiated_ways(0.5))["ERP"] == "305 mW, 24.84 dBm"
    assert dict(show.noise_ways(3.0103))["temperature"] == "290 K"
    assert show.s_units(-63.0, -73.0) == "S9+10 dB"


@pytest.mark.parametrize(
    ("field", "density"),
    # 47 CFR § 1.1310 Table 1 and OET Bulletin 65, Table 1, print both beside each other: 614 V/m with 100 mW/cm²,
    # 61.4 V/m with 1.0, 27.5 V/m with 0.2.
    [("614 V/m", "100 mW/cm²"), ("61.4 V/m", "1 mW/cm2"), ("27.5 V/m", "200 µW/cm²")],
)
def test_fields_and_densities_of_the_published_limits_agree(field, density):
    assert read.field_strength(field) == pytest.approx(read.field_strength(density), rel=2e-3)
