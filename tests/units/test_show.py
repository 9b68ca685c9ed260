"""How numbers and counts are worded."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.units import read, show


@pytest.mark.parametrize(
    ("value", "half", "text"),
    [
        (4.612, 1.13, "4.6 ± 1.1 dB"),
        (-10.41, 0.42, "−10.4 ± 0.4 dB"),
        (87.2, 12.3, "87 ± 12 dB"),
        (0.04, 0.3, "0.0 ± 0.3 dB"),
        (-0.04, 0.3, "0.0 ± 0.3 dB"),
    ],
)
def test_the_doubt_decides_the_digits(value, half, text):
    assert show.plus_minus(value, half, "dB") == text


@pytest.mark.parametrize(("n", "words"), [(0, "no runs"), (1, "one run"), (2, "two runs"), (12, "12 runs")])
def test_counts(n, words):
    assert show.count(n, "run") == words


def test_lists():
    assert show.join([]) == ""
    assert show.join(["a"]) == "a"
    assert show.join(["a", "b", "c"]) == "a, b and c"


def test_percent_is_never_falsely_certain():
    assert show.percent(0.9996) == "over 99 %"
    assert show.percent(0.0001) == "under 1 %"
    assert show.percent(1.0) == "100 %"


@pytest.mark.parametrize(
    ("share", "words"),
    [
        (0.999, "practically always"),
        (0.95, "19 times in 20"),
        (0.5, "about every second time"),
        (0.05, "once in 20 times"),
        (0.001, "hardly ever"),
    ],
)
def test_chances_in_words(share, words):
    assert show.chance_in_words(share) == words


def test_bands_and_distances():
    assert show.band(868e6, 870e6) == "868–870 MHz"
    assert show.band(868e6, 868e6) == "868 MHz"
    assert show.distance(2370.4) == "2.37 km"
    show.use_imperial(True)
    assert show.distance(1609.344) == "1 mi"
    assert show.distance(100) == "328 ft"


@given(st.floats(1e3, 9e10))
def test_a_shown_frequency_is_read_again(hz):
    assert read.frequency(show.frequency(hz)) == pytest.approx(hz, rel=1e-6)


@given(st.floats(1e-6, 2e3))
def test_a_shown_power_is_read_again(watt):
    assert read.power(show.power(watt)) == pytest.approx(watt, rel=6e-3)
