"""Gain limits, polarization, propagation, exposure, geodesy and decibels against published or hand-worked values."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics import aperture, decibels, exposure, field_strength, geodesy, polarization, propagation
from tallmast.physics.diffraction import fresnel_m


class TestDecibels:
    def test_known_levels(self):
        assert decibels.dbm_from_watt(0.001) == pytest.approx(0.0)
        assert decibels.dbm_from_watt(0.025) == pytest.approx(13.979, abs=1e-3)

    @given(st.floats(-150, 60))
    def test_round_trip(self, dbm):
        assert decibels.dbm_from_watt(decibels.watt_from_dbm(dbm)) == pytest.approx(dbm, abs=1e-9)

    # IARU Region 1 Technical Recommendation R.1: S9 is −73 dBm below 30 MHz, −93 dBm from 144 MHz on; 6 dB a unit.
    @pytest.mark.parametrize(
        ("s", "over", "f", "dbm"), [(9, 0, 7e6, -73), (9, 0, 145e6, -93), (7, 0, 145e6, -105), (9, 10, 14e6, -63)]
    )
    def test_s_units(self, s, over, f, dbm):
        assert decibels.s_unit_dbm(s, over, decibels.s9_dbm(f)) == dbm

    @pytest.mark.parametrize(("f", "s9"), [(29.9e6, -73), (30e6, None), (50e6, None), (143.9e6, None), (144e6, -93)])
    def test_between_the_two_conventions_nothing_is_taken(self, f, s9):
        assert decibels.s9_dbm(f) == s9


class TestAperture:
    def test_kraus_on_a_known_beam(self):
        # Kraus, Antennas, §2-9: 20° × 20° gives D = 41 253/400 = 103, 20.1 dBi.
        assert aperture.beam_directivity_limit_dbi(20, 20) == pytest.approx(20.13, abs=0.01)

    def test_one_wavelength_face(self):
        # 4πA/λ² with A = (2λ)²: 16π = 50.3, 17.0 dBi.
        assert aperture.face_gain_limit_dbi(1.0, 1.0, 299_792_458.0) == pytest.approx(10 * math.log10(16 * math.pi))

    def test_lines(self):
        # Balanis §6.4: broadside 2L/λ, here with half a wavelength more: at 4.5 λ 10, 10 dB. A quarter-wave whip and its
        # image are half a wavelength, 3.01 dB, and the plate adds as much.
        assert aperture.broadside_line_gain_limit_dbi(4.5, 299_792_458.0) == pytest.approx(10.0)
        assert aperture.whip_gain_limit_dbi(0.25, 299_792_458.0) == pytest.approx(6.02, abs=0.01)

    def test_sizes(self):
        # Harrington's N² + 2N: ka = π at a = λ/2, N = 4.14, 25.4 or 14.05 dBi.
        assert aperture.sphere_gain_limit_dbi(0.5, 299_792_458.0) == pytest.approx(14.05, abs=0.01)
        # NBS Technical Note 688: 2.2 λ 14.4 dBi, 4.2 λ 16.35 dBi.
        assert aperture.best_yagi_dbi(2.2, 299_792_458.0) == pytest.approx(14.4, abs=0.5)
        assert aperture.best_yagi_dbi(4.2, 299_792_458.0) == pytest.approx(16.35, abs=0.5)
        # King and Wong: C = λ, 10 turns of 12.5°: 8.3·(2.217)^0.8 = 15.7, 11.96 dBi.
        spacing = math.tan(math.radians(12.5))
        assert aperture.best_helix_dbi(1.0, 10, spacing, 299_792_458.0) == pytest.approx(11.96, abs=0.02)

    def test_helix(self):
        # Kraus: C = λ, n = 10, S = 0.236 λ (13.3°): 15·10·0.236 = 35.4, 15.5 dBi.
        assert aperture.helix_gain_limit_dbi(1.0, 10, 0.236, 299_792_458.0) == pytest.approx(15.49, abs=0.01)

    @given(st.floats(1, 360), st.floats(1, 360))
    def test_a_real_beam_stays_under_its_limit(self, a, b):
        assert aperture.beam_directivity_dbi(a, b) < aperture.beam_directivity_limit_dbi(a, b)


class TestPolarization:
    # Milligan, Modern Antenna Design, §1-11, and Stutzman §4.2.
    @pytest.mark.parametrize(
        ("a", "right_a", "b", "right_b", "tilt", "loss"),
        [
            (0, True, 60, True, 0, 3.01),
            (0, True, 0, True, 0, 0.0),
            (60, True, 60, True, 45, 3.01),
            (60, True, 60, True, 0, 0.0),
        ],
    )
    def test_known_pairs(self, a, right_a, b, right_b, tilt, loss):
        assert polarization.polarization_loss_db(a, right_a, b, right_b, tilt) == pytest.approx(loss, abs=0.03)

    def test_opposite_circulars_are_apart_only_as_their_axial_ratios_allow(self):
        # Two of 3 dB axial ratio, opposite: between complete loss and 10·log10 of (hand-worked) 0.111 = 9.5 dB.
        losses = [polarization.polarization_loss_db(3, True, 3, False, t) for t in range(0, 181, 5)]
        assert min(losses) == pytest.approx(9.6, abs=0.2)

    @given(st.floats(0, 40), st.booleans(), st.floats(0, 40), st.booleans(), st.floats(0, 180))
    def test_it_is_mutual_and_a_fraction(self, a, right_a, b, right_b, tilt):
        one = polarization.polarization_efficiency(a, right_a, b, right_b, tilt)
        other = polarization.polarization_efficiency(b, right_b, a, right_a, tilt)
        assert one == pytest.approx(other, abs=1e-12)
        assert -1e-12 <= one <= 1 + 1e-12


class TestPropagation:
    def test_free_space_constant(self):
        # Rec. ITU-R P.525 eq. (4): 32.4 + 20 log f(MHz) + 20 log d(km).
        assert propagation.free_space_loss_db(1000.0, 1e6) == pytest.approx(32.45, abs=0.01)

    def test_plane_earth_takes_over_beyond_its_breakpoint(self):
        at = propagation.breakpoint_m(6, 3, 869e6)
        assert propagation.plane_earth_loss_db(at, 6, 3, 869e6) == pytest.approx(
            propagation.free_space_loss_db(at, 869e6), abs=0.01
        )
        doubled = propagation.plane_earth_loss_db([4 * at, 8 * at], 6, 3, 869e6)
        assert doubled[1] - doubled[0] == pytest.approx(12.04, abs=0.01)

    def test_three_decibels_is_not_half_the_range(self):
        assert propagation.range_ratio(-3.0103, 2.0) == pytest.approx(0.7071, abs=1e-4)
        assert propagation.range_ratio(6.0206, 2.0) == pytest.approx(2.0, abs=1e-4)

    def test_fresnel_radius(self):
        # Rec. ITU-R P.526 eq. (2): 550·√(d1·d2/((d1+d2)·f)) m with km and MHz; 2.5 + 2.5 km at 869 MHz: 20.9 m.
        assert fresnel_m(2500, 5000, 869e6) == pytest.approx(20.86, abs=0.1)

    def test_radio_horizon(self):
        # The handbook's 4.12·(√h₁ + √h₂) km: 100 m to 0 m, 41.2 km.
        assert propagation.radio_horizon_m(100, 0) == pytest.approx(41_220, rel=2e-3)

    def test_field_strength(self):
        # 1 W isotropic at 1 km: √30/1000 = 5.48 mV/m (P.525).
        assert field_strength.field_v_per_m(1.0, 1000.0) == pytest.approx(5.477e-3, rel=1e-3)


class TestExposure:
    # ICNIRP 2020 Table 5 and 47 CFR 1.1310 Table 1(ii), W/m² (1 mW/cm² = 10 W/m²).
    @pytest.mark.parametrize(
        ("f", "limit", "density"),
        [
            (100e6, "icnirp-2020", 2.0),
            (900e6, "icnirp-2020", 4.5),
            (5e9, "icnirp-2020", 10.0),
            (100e6, "fcc-1.1310", 2.0),
            (900e6, "fcc-1.1310", 6.0),
            (5e9, "fcc-1.1310", 10.0),
            (14e6, "fcc-1.1310", 9.18),
        ],
    )
    def test_published_limits(self, f, limit, density):
        assert exposure.power_density_limit(f, limit) == pytest.approx(density, rel=2e-3)

    def test_oet_65_worked_distance(self):
        # Hand-worked by OET-65 eq. 7: 1000 W EIRP, 100 MHz, 0.2 mW/cm²: √(1000·2.56/(4π·2)) = 10.09 m.
        assert exposure.clear_distance_m(1000, 1.0, 100e6, "fcc-1.1310") == pytest.approx(10.09, abs=0.01)

    def test_never_inside_the_reactive_near_field(self):
        assert exposure.clear_distance_m(1e-6, 0.01, 145e6, "icnirp-2020") == pytest.approx(0.329, abs=0.001)

    def test_outside_the_table_it_says_so(self):
        with pytest.raises(ValueError, match=r"0\.3 MHz"):
            exposure.power_density_limit(1e5, "icnirp-2020")


class TestGeodesy:
    def test_published_line(self):
        # Karney 2013, J. Geodesy 87, table 2: φ1 = −30°, φ2 = 29.9°, λ12 = 179.8° → 19 989 832.827 610 m.
        metres, bearing = geodesy.distance_and_bearing(-30.0, 0.0, 29.9, 179.8)
        assert float(metres) == pytest.approx(19_989_832.827610, abs=1e-3)
        assert float(bearing) == pytest.approx(161.890524736, abs=1e-6)

    @given(st.floats(-89, 89), st.floats(-179, 179), st.floats(0, 359.9), st.floats(1, 49_900))
    def test_short_lines_agree_with_proj(self, lat, lon, bearing, distance):
        lat2, lon2 = geodesy.destination(lat, lon, bearing, distance)
        metres, found = geodesy.distance_and_bearing(lat, lon, lat2, lon2)
        assert float(metres) == pytest.approx(distance, abs=0.01)
        if distance > 100:
            assert math.cos(math.radians(float(found) - bearing)) > math.cos(math.radians(0.001))

    @given(st.floats(-80, 80), st.floats(-179, 179), st.floats(0, 359.9), st.floats(1, 50_000))
    def test_there_and_back(self, lat, lon, bearing, distance):
        lat2, lon2 = geodesy.destination(lat, lon, bearing, distance)
        there, _ = geodesy.distance_and_bearing(lat, lon, lat2, lon2)
        back, _ = geodesy.distance_and_bearing(lat2, lon2, lat, lon)
        assert float(there) == pytest.approx(distance, abs=0.01)
        assert float(back) == pytest.approx(float(there), abs=0.01)

    def test_local_metres(self):
        east, north = geodesy.local_metres([57.91], [-11.2], 57.9, -11.2)
        assert east[0] == pytest.approx(0, abs=1e-6)
        assert north[0] == pytest.approx(1113.7, abs=1.0)
        assert isinstance(north, np.ndarray)
