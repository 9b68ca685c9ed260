"""What a cable's sweep can't tell is said: too long for it, or too narrow to look into."""

import numpy as np
import pytest

from tallmast.notebook.records import CableSweep

from .build import Book

C = 299_792_458.0


def read(real_m, low, high, points, joint=0.0, **more):
    f = np.linspace(low, high, points)
    loss = 0.006 * np.sqrt(f / 1e6) * real_m
    line = -(10 ** (-loss / 10)) * np.exp(-4j * np.pi * f * real_m / (0.66 * C))
    step = joint * np.exp(-4j * np.pi * f * 0.4 * real_m / (0.66 * C))
    book = Book()
    book.antenna("A")
    book.series["c"] = {"frequency_hz": f, "re": (line + step).real, "im": (line + step).imag}
    book.add(CableSweep(name="lead", series_id="c", **more))
    return book.climb().bench.cables[0]


def test_thirty_metres_on_201_points_to_500_mhz_are_thirty_metres():
    # Half a turn a step is passed, a whole one is not: this came out as −11 m.
    found = read(30.0, 1e6, 500e6, 201)
    low, high = found.length.interval
    assert low < 30.0 < high and found.mark == "holds"


@pytest.mark.parametrize("length", [41.0, 55.0, 75.0])
def test_a_longer_cable_than_the_sweep_can_tell_is_refused_with_the_longest_it_can(length):
    found = read(length, 1e6, 500e6, 201)
    assert found.length is None and found.mark == "open"
    assert "37.7 m is the longest that this sweep can tell: sweep with more points" in found.words


def test_a_tape_that_says_longer_is_believed():
    found = read(10.0, 2.5e6, 500e6, 200, length_m=50.0)
    assert found.length is None
    assert found.words.startswith("lead: by tape 50 m")


def test_an_open_end_taken_for_a_short_is_told():
    assert "fits no cable with an open at its end" in read(10.0, 1e6, 500e6, 401, far_end="open").words


def test_more_loss_than_any_cable_of_that_length_has_is_told():
    # From 0 Hz in whole steps the phase can't tell; 60 m with 8 dB at 500 MHz look like 20 m.
    f = np.linspace(2.5e6, 500e6, 200)
    line = -(10 ** (-0.06 * np.sqrt(f / 1e6) * 60 / 10)) * np.exp(-4j * np.pi * f * 60.0 / (0.66 * C))
    book = Book()
    book.antenna("A")
    book.series["c"] = {"frequency_hz": f, "re": line.real, "im": line.imag}
    book.add(CableSweep(name="lead", series_id="c"))
    assert "as no cable does" in book.climb().bench.cables[0].words


def test_a_narrow_span_does_not_say_that_no_joint_is_bad():
    found = read(12.0, 850e6, 880e6, 201)
    assert found.mark == "open"
    assert "a bad joint can’t be told: this span tells steps 5.9 m apart" in found.words
    wide = read(12.0, 1e6, 900e6, 801)
    assert wide.mark == "holds"
    assert "no step over |Γ| 0.02 from 0.2 m on" in wide.words
    assert read(12.0, 1e6, 900e6, 801, joint=0.1).mark == "fails"
    assert read(12.0, 850e6, 880e6, 201, joint=0.1).mark != "holds"


def test_the_end_plane_is_in_the_doubt_of_a_short_lead():
    # 1 % of 0.3 m is 3 mm; where a connector ends is 5 mm: √34 = 5.8 mm.
    assert read(0.3, 1e6, 900e6, 401).length.u == pytest.approx(0.00583, abs=1e-4)
