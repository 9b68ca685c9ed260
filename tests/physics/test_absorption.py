"""Rain, fog, air and woods, against the Recommendations' own tables."""

import math

import numpy as np
import pytest

from tallmast.physics.absorption import air_db, air_db_km, fog_db, fog_water_g_m3, rain_coefficients, rain_db, woods_db


@pytest.mark.parametrize(
    "ghz, k_h, a_h, k_v, a_v",
    [
        (1, 0.0000259, 0.9691, 0.0000308, 0.8592),
        (4, 0.0001071, 1.6009, 0.0002461, 1.2476),
        (10, 0.01217, 1.2571, 0.01129, 1.2156),
        (12, 0.02386, 1.1825, 0.02455, 1.1216),
        (30, 0.2403, 0.9485, 0.2291, 0.9129),
    ],
)
def test_rain_as_table_5_of_p838_3_has_it(ghz, k_h, a_h, k_v, a_v):
    assert rain_coefficients(ghz * 1e9, False) == pytest.approx((k_h, a_h), rel=2e-3)
    assert rain_coefficients(ghz * 1e9, True) == pytest.approx((k_v, a_v), rel=2e-3)


def test_heavy_rain_at_12_ghz():
    """γ = 0.02455·50^1.1216 = 1.975 dB/km; over 3 km 5.9 dB."""
    assert float(rain_db(3000.0, 12e9, 50.0)) == pytest.approx(5.93, abs=0.03)
    assert float(rain_db(3000.0, 869e6, 50.0)) == 0.0


def test_fog_as_p840_has_it():
    """K_l of P.840-8 at 0 °C: 0.0926 (10 GHz), 0.771 (30 GHz), 2.485 (60 GHz) (dB/km)/(g/m³); thick fog has 0.5 g/m³ at 50 m, medium
    0.05 at 300 m."""
    for ghz, k in ((10.0, 0.0926), (30.0, 0.7708), (60.0, 2.4854)):
        assert float(fog_db(1000.0, ghz * 1e9, 1.0, 0.0)) == pytest.approx(k, rel=2e-3)
    assert fog_water_g_m3(50.0) == pytest.approx(0.5) and fog_water_g_m3(300.0) == pytest.approx(0.05)
    # What a thick fog does to 2.4 GHz over a kilometre: two thousandths of a decibel.
    assert float(fog_db(1000.0, 2.4e9, fog_water_g_m3(50.0))) == pytest.approx(0.0020, abs=0.0005)


def test_air_at_sea_level():
    """Figure 1 of P.676, 15 °C and 7.5 g/m³: 0.0054 dB/km at 1, 0.0145 at 10, 0.177 at 24 GHz, 15 at 60, 28 at 183 (line of vapour)."""
    got = [float(air_db(1000.0, ghz * 1e9)) for ghz in (1.0, 10.0, 24.0, 60.0, 183.31)]
    assert got == pytest.approx([0.0054, 0.0142, 0.173, 14.8, 28.0], rel=0.04)
    assert float(air_db(1000.0, 145e6)) == 0.0


@pytest.mark.parametrize(
    "ghz, dry, wet",
    [
        (12, 0.008698264, 0.009535388),
        (20, 0.01188355, 0.09704730),
        (60, 14.62347480, 0.15484184),
        (90, 0.03886971, 0.34197339),
        (130, 0.04150908, 0.75184470),
    ],
)
def test_air_line_by_line(ghz, dry, wet):
    """The ITU's validation examples of P.676-11: 1013.25 hPa, 15 °C, 7.5 g/m³."""
    assert air_db_km(ghz * 1e9) == pytest.approx((dry, wet), rel=1e-6)


def test_woods():
    """P.833-9 table 1: 0.17 dB/m at 949 MHz; A_m = 1.37·949^0.42 = 24.4 dB: 100 m take 24.4·(1 − e^(−17/24.4)) = 12.2 dB, and no depth
    more than A_m."""
    most = 1.37 * 949.0**0.42
    assert float(woods_db(100.0, 949e6)) == pytest.approx(most * (1 - math.exp(-17.0 / most)), abs=0.01)
    deep = woods_db(np.array([0.0, 1.0, 1e4]), 949e6)
    assert deep[0] == 0.0 and deep[1] == pytest.approx(0.17, abs=0.002) and deep[2] == pytest.approx(most, abs=1e-6)
    assert float(woods_db(50.0, 5.8e9)) > float(woods_db(50.0, 2e9))
