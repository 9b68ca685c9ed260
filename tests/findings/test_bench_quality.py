"""Q and bandwidth from the whole sweep, and the bound that an antenna's size sets."""

import numpy as np
import pytest

from tallmast.physics.resonance import least_q, series_gamma

from .build import Book

F = np.linspace(800e6, 940e6, 701)


def bench(q=13.0, r=45.0, **antenna):
    book = Book()
    a = book.antenna("A", **antenna)
    book.sweep(a, series_gamma(F, 869e6, r, q), F, directivity_db=45)
    return book.climb(a).bench


def tag(found):
    return next(c for c in found.checks if c.text.startswith("Q "))


def test_q_and_the_window_stand_in_a_tag_with_their_working():
    found = tag(bench())
    # x at SWR 1.5 with r = 0.9, k = 0.2: (r·x)² = (1.9²·0.04 − 0.01)/0.96 = 0.14; x = 0.4157; 869/13·0.4157 = 27.8 MHz.
    assert found.text.startswith("Q 13.0")
    assert " ± " in found.text and found.text.endswith(", SWR 1.5 over 27.8 MHz")
    assert found.figure.value == pytest.approx(13.0, abs=0.01)
    assert any("SWR 2 over" in line for line in found.figure.working.lines)


@pytest.mark.parametrize(("length", "words"), [(0.05, "least Q for its size"), (0.62, "too large for the bound")])
def test_the_bound_is_said_only_of_small_antennas(length, words):
    found = tag(bench(length_m=length))
    assert any(words in line for line in found.figure.working.lines)


def test_a_small_antenna_that_is_too_broad_is_lossy():
    size = 0.03  # radius 15 mm, ka 0.27
    bound = least_q(size / 2, 869e6)
    assert bound == pytest.approx(1 / 0.2732**3 + 1 / 0.2732, rel=1e-3)
    lossy = tag(bench(q=13.0, length_m=size))
    assert lossy.mark == "disagrees"
    assert "too broad for its size" in lossy.text
    assert "heats it" in lossy.why
    assert tag(bench(q=1.2 * bound, length_m=size)).mark == "holds"


def test_a_whip_counts_with_its_image():
    whip, rod = tag(bench(length_m=0.04, type="whip")), tag(bench(length_m=0.08, type="dipole"))

    def bound(found):
        return next(line for line in found.figure.working.lines if "least Q" in line)

    assert bound(whip) == bound(rod)


def test_no_resonance_no_tag():
    book = Book()
    a = book.antenna("A")
    book.sweep(a, 0.3 * np.exp(1j * F / 2e6), F)
    assert not any(c.text.startswith("Q ") for c in book.climb(a).bench.checks)


def test_its_doubt_grows_with_what_calibration_leaves_over():
    def u(directivity_db):
        book = Book()
        a = book.antenna("A")
        book.sweep(a, series_gamma(F, 869e6, 45, 13), F, directivity_db=directivity_db)
        # Without the 3 % that any other setting up gives.
        return np.sqrt(tag(book.climb(a).bench).figure.u ** 2 - (0.03 * 13.0) ** 2)

    assert u(25) > 2 * u(35) > 4 * u(45)
