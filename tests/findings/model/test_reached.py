"""How many times as far, and what a change means on the scale that was read."""

import numpy as np
import pytest

from .days import Written

FAR = [15.0, 20.0, 26.0, 34.0, 44.0, 58.0, 75.0, 98.0, 127.0]


def walks(order: str, good: list[float], **more) -> Written:
    """Runs that were good to one distance and lost at the next."""
    rows = [["h" if d == g else "n" if d == FAR[FAR.index(g) + 1] else None for d in FAR] for g in good]
    return Written(order, rows, far=FAR, manner="walk", **more)


def test_only_runs_that_are_the_same_in_all_else_make_a_ratio():
    """B once more behind a barn: no third try with it, and the barn is told against B alone, not against A."""
    day = walks("ABBAB", [26.0, 75.0, 75.0, 26.0, 44.0], path=["", "", "", "", "behind the barn"])
    of = {c.change.factor: c for c in day.weighed.contrasts}
    boards, barn = of["antenna"].farther, of["path"].farther
    assert boards.value == pytest.approx(75.0 / 26.0, rel=0.03)
    assert barn.value == pytest.approx(75.0 / 44.0, rel=0.03)
    assert "run 5" not in " ".join(boards.working.lines)


def test_repeats_say_how_far_repeats_stray():
    """The same ratio twice over: where each antenna repeats within a step it is told more closely than where it does not."""
    alike = walks("ABBAAB", [26.0, 75.0, 75.0, 26.0, 26.0, 75.0])
    apart = walks("ABBAAB", [20.0, 98.0, 58.0, 34.0, 26.0, 75.0])
    width = [float(np.diff(np.log(day.weighed.contrasts[0].farther.interval))[0]) for day in (alike, apart)]
    assert width[0] < 0.7 * width[1]


def test_what_was_never_lost_is_at_least():
    rows = [["h", "n", None], ["h", "h", "h"], ["h", "h", "h"], ["h", "n", None]]
    (contrast,) = Written("ABBA", rows, far=[500.0, 1000.0, 4000.0], manner="walk").weighed.contrasts
    assert contrast.farther.bound == "at least" and not contrast.open
    assert contrast.likely == contrast.chance_farther > 0.95


def test_decibels_of_reaches_are_of_the_way_that_both_went():
    (contrast,) = walks("ABBA", [26.0, 44.0, 44.0, 26.0]).weighed.contrasts
    assert contrast.there and contrast.chance > 0.9
    assert contrast.elsewhere < contrast.chance


def test_the_size_is_on_the_scale_that_was_read():
    (rate,) = Written(
        "ABBA", [[12.0, 11.0, 14.0], [20.0, 19.0, 22.0], [21.0, 18.0, 22.0], [12.0, 10.0, 14.0]], "bit rate"
    ).weighed.contrasts
    low, high = rate.size.interval
    assert rate.size.unit == "Mbit/s" and low < 8.0 < high < 12.0 and low > 4.0
    assert rate.size.working.lines[0] == "12 readings on it, 16.2 Mbit/s in the mean"
    (bars,) = Written("ABBA", [[2, 3, 2], [4, 5, 4], [4, 5, 4], [2, 3, 2]], "bars").weighed.contrasts
    assert bars.size.value == pytest.approx(2.0, abs=0.5)
    (levels,) = Written("ABBA", [[-80, -85], [-75, -80], [-75, -80], [-80, -85]]).weighed.contrasts
    assert levels.size is None, "decibels are decibels"


def test_spots_without_a_dropout_count_in_how_many_fewer_there_are():
    """0.2 against 4.2 a minute: what never dropped out is a count too."""
    calm, rough = [0, 0, 1, 0, 0], [4, 6, 3, 5, 3]
    (found,) = Written("ABBA", [calm, rough, [5, 4, 3, 4, 5], [0, 1, 0, 0, 0]], "dropouts").weighed.contrasts
    low, high = found.size.interval
    assert low < 4.0 < high and found.size.value == pytest.approx(4.0, abs=0.8)
