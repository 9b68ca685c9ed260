"""Lines of the same resistance and reactance in the plane of Γ: circles by Pozar §2.4."""

import numpy as np
import pytest

from tallmast.physics import reflection


@pytest.mark.parametrize("r", [10.0, 50.0, 200.0])
def test_a_resistance_is_a_circle_about_its_centre_on_the_real_axis(r):
    """Centre r/(1+r), radius 1/(1+r) with r in units of 50 Ω (Pozar, Microwave Engineering, eq. 2.56a)."""
    (line,), _ = reflection.lines_of_impedance([r], [])
    small = r / 50.0
    np.testing.assert_allclose(np.abs(line - small / (1 + small)), 1 / (1 + small), rtol=1e-9)
    np.testing.assert_allclose(np.asarray(reflection.impedance(line)).real, r, rtol=1e-6)


@pytest.mark.parametrize("x", [25.0, -100.0])
def test_a_reactance_is_an_arc_from_the_rim_to_the_open_end(x):
    """Centre 1 + j/x, radius 1/|x| with x in units of 50 Ω (Pozar eq. 2.56b)."""
    _, (line,) = reflection.lines_of_impedance([], [x])
    small = x / 50.0
    np.testing.assert_allclose(np.abs(line - (1 + 1j / small)), 1 / abs(small), rtol=1e-9)
    assert abs(line[0]) == pytest.approx(1.0)
    assert abs(line[-1] - 1) < 0.02
    assert (np.abs(line) <= 1 + 1e-12).all()
