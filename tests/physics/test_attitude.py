"""Frames: what stands where, seen from an antenna that looks somewhere. Hand-worked."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.attitude import axes, directions, pointing, seen, sight
from tallmast.physics.geodesy import destination

turns = st.floats(-720, 720)


@pytest.mark.parametrize(
    ("there", "looks", "expected"),
    [
        ((90, 0), (90, 0, 0), (0, 0)),  # straight ahead
        ((100, 0), (90, 0, 0), (10, 0)),  # 10° to the right of where it looks
        ((0, 30), (0, 30, 0), (0, 0)),  # tilted up to it
        ((0, 0), (0, 30, 0), (0, -30)),  # and what is level lies 30° under the beam
        ((90, 0), (0, 0, 90), (0, 90)),  # rolled clockwise: its top leans to the right
        ((0, 90), (0, 0, 90), (270, 0)),  # and the sky stands at its left
        ((180, 0), (0, 20, 0), (180, 20)),  # behind a tilted one the horizon lies above its own equator
    ],
)
def test_hand_worked(there, looks, expected):
    azimuth, elevation = seen(*there, *looks)
    assert elevation == pytest.approx(expected[1], abs=1e-9)
    if abs(expected[1]) < 89:
        assert (azimuth - expected[0] + 180) % 360 - 180 == pytest.approx(0, abs=1e-9)


@given(turns, st.floats(-89, 89), turns, st.floats(-90, 90), st.floats(-180, 180))
def test_a_frame_turns_and_stretches_nothing(bearing, elevation, azimuth, tilt, roll):
    frame = axes(azimuth, tilt, roll)
    assert np.allclose(frame @ frame.T, np.eye(3), atol=1e-12)
    # Front, right, up against north, east, up: neither is turned inside out.
    assert np.linalg.det(frame) == pytest.approx(1.0)
    there = pointing(bearing, elevation)
    back = pointing(*seen(bearing, elevation, azimuth, tilt, roll)) @ frame
    assert np.allclose(back, there, atol=1e-9)


@given(st.floats(0, 359.99), st.floats(-89, 89))
def test_a_direction_comes_back(azimuth, elevation):
    a, e = directions(3.0 * pointing(azimuth, elevation))
    assert (a - azimuth + 180) % 360 - 180 == pytest.approx(0, abs=1e-7) and e == pytest.approx(elevation, abs=1e-7)


def test_a_drone_at_300_and_400_metres_is_500_away():
    there = destination(57.9, -11.2, 37.0, 300.0)
    slant, bearing, elevation = sight(57.9, -11.2, 6.0, *there, 406.0)
    assert slant == pytest.approx(500.0, abs=0.02)
    assert bearing == pytest.approx(37.0, abs=1e-3)
    assert elevation == pytest.approx(np.degrees(np.arctan2(400.0, 300.0)), abs=0.01)


def test_the_ground_falls_away():
    # 10 km over a ball of 6 378 km: 7.84 m lower.
    there = destination(57.9, -11.2, 0.0, 10_000.0)
    _, _, elevation = sight(57.9, -11.2, 0.0, *there, 0.0)
    assert np.radians(elevation) * 10_000 == pytest.approx(-7.84, abs=0.03)
