"""A few readings of an SWR meter and a whole band: it holds where it was read; the rest is bounded by physics, or left open."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.reflection import swr
from tallmast.physics.resonance import series_gamma

from .build import Book


def read(*at: tuple[float, float], band=(70e6, 70.5e6), limit=2.0, **antenna):
    """Readings of (MHz, SWR) over a band."""
    book = Book(swr_limit=limit)
    book.add(book.records["question"].revised(band_low_hz=band[0], band_high_hz=band[1]))
    a = book.antenna("Rod", **antenna)
    for mhz, ratio in at:
        book.meter(a, ratio, mhz, relative_u=0.02)
    return book.climb(a).bench


def test_one_reading_does_not_speak_for_a_band():
    bench = read((70.3, 1.6))
    assert bench.focus.limit_mark == "open"
    assert bench.sentence == "Rod reads SWR 1.60 (1.55 to 1.65) at 70.3 MHz; the rest of 70–70.5 MHz is not shown."
    (check,) = (c for c in bench.checks if c.text.startswith("SWR 2 in band"))
    assert check.mark == "open"


def test_the_most_that_its_kind_can_be_bounds_the_rest():
    """A quarter-wave whip has a Q of 15 at most: over 0.3 of 70 MHz |Γ| grows by 15·0.3/70.25 = 0.064, from SWR 1.65 (0.245) to 1.90."""
    bench = read((70.3, 1.6), type="whip", length_m=1.04)
    assert bench.focus.by_meter.most_swr == pytest.approx((1 + 0.245 + 0.0641) / (1 - 0.245 - 0.0641), abs=0.02)
    assert bench.focus.limit_mark == "holds"
    assert bench.sentence == "Rod holds SWR 2 over 70–70.5 MHz: at most 1.90 by its meter readings."
    loaded = read((70.3, 1.6), type="whip", length_m=0.3)
    assert loaded.focus.limit_mark == "open", "shorter than its kind: its Q is its own"


def test_read_at_both_ends_the_band_is_bounded_by_them():
    assert read((70.0, 1.4), (70.5, 1.7)).focus.limit_mark == "holds"
    assert read((70.0, 1.4), (70.25, 1.1), (70.5, 1.7)).focus.by_meter.most_swr == pytest.approx(1.76, abs=0.02)
    assert read((70.0, 1.4), (70.25, 1.1)).focus.limit_mark == "open", "the upper end was not read"


def test_a_reading_that_fails_fails_the_band():
    bench = read((70.3, 2.7))
    assert bench.focus.limit_mark == "fails" and bench.sentence.startswith("Rod misses SWR 2 in 70–70.5 MHz: 2.70 (")


@given(
    st.floats(60e6, 80e6), st.floats(12, 190), st.floats(3, 15), st.lists(st.floats(70.0, 70.5), min_size=1, max_size=4)
)
def test_no_antenna_of_its_kind_is_worse_than_the_bound(f0, r, q, at):
    """Whatever series resonance it is: what is bounded stays under the bound all over the band."""
    shown = swr(np.abs(series_gamma(np.array(at) * 1e6, f0, r, q)))
    bench = read(*zip(at, np.minimum(shown, 98.0), strict=True), type="whip", length_m=1.04)
    most = bench.focus.by_meter.most_swr
    if most is not None:
        band = np.linspace(70e6, 70.5e6, 101)
        assert float(swr(np.abs(series_gamma(band, f0, r, q))).max()) <= most * (1 + 1e-6)


def test_a_claimed_swr_is_not_held_by_one_reading():
    book = Book()
    a = book.antenna("Rod")
    book.claim(a, "swr", 1.5)
    book.meter(a, 1.2, 868.2)
    (claim,) = book.climb(a).bench.focus.claims
    assert claim.mark == "open"


def test_an_octave_of_swr_1_is_a_dummy_load():
    f = np.linspace(400e6, 1200e6, 401)
    book = Book()
    a = book.antenna("Pot")
    book.sweep(a, 0.01 * np.exp(2j * np.pi * f * 2e-9), f, directivity_db=46)
    told = book.climb(a).bench
    (check,) = (c for c in told.checks if "dummy load" in c.text)
    assert check.mark == "disagrees" and check.text.startswith("SWR under 1.15 over 400–1200 MHz")
    assert not any(c.text.startswith("Q ") for c in told.checks)
    by_meter = read((435, 1.02), (868, 1.05), (1240, 1.04))
    assert any("dummy load" in c.text for c in by_meter.checks)
    assert not any("dummy load" in c.text for c in read((435, 1.02), (700, 2.5), (868, 1.05), (1240, 1.04)).checks)
