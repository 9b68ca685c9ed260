import math

import numpy as np
import pytest

from tallmast.physics.reach import PRIOR_LOG10, Failed, decibels, distance, ratio
from tallmast.physics.statistics import coverage_factor


def test_a_ratio_by_hand():
    """Good to 40 and lost by 50 against good to 20 and lost by 25: twice as far; each middle is √(40·50) and √(20·25)."""
    found = ratio([Failed(40, 50)], [Failed(20, 25)])
    assert 10**found.log10 == pytest.approx(2.0)
    ground = math.log10(1.25) ** 2 / 12
    assert found.u == pytest.approx(math.sqrt(2 * (PRIOR_LOG10**2 + ground)))
    assert found.degrees == 3 and found.bound == ""


def test_what_twice_as_far_stands_for():
    # 6.02 dB in free space, 12.04 over plane earth (Rec. ITU-R P.525; plane earth falls with d⁴).
    assert decibels(math.log10(2), 2) == pytest.approx(6.02, abs=0.01)
    assert decibels(math.log10(2), 4) == pytest.approx(12.04, abs=0.01)


def test_repeats_narrow_it_and_bring_degrees():
    once = ratio([Failed(40, 44)], [Failed(20, 22)])
    often = ratio(
        [Failed(40, 44), Failed(41, 45), Failed(39, 43)], [Failed(20, 22), Failed(20.5, 22.5), Failed(19.5, 21.5)]
    )
    assert often.u < 0.6 * once.u and often.degrees == 7


def test_a_field_that_ended_is_a_bound():
    assert ratio([Failed(100, None)], [Failed(20, 25)]).bound == "at least"
    assert ratio([Failed(20, 25)], [Failed(100, None)]).bound == "at most"
    assert ratio([Failed(100, None)], [Failed(90, None)]) is None
    assert ratio([], [Failed(90, 100)]) is None


def test_a_run_that_ended_early_takes_nothing_from_those_that_failed():
    whole = ratio([Failed(40, 50), Failed(41, 49)], [Failed(20, 25)])
    early = ratio([Failed(40, 50), Failed(41, 49), Failed(10, None)], [Failed(20, 25)])
    assert early == whole
    assert ratio([Failed(40, 50), Failed(80, None)], [Failed(20, 25)]).bound == "at least"


@pytest.mark.parametrize("runs", [1, 2, 3])
def test_ninety_in_a_hundred_hold_the_truth(runs):
    """Worlds whose exponent is 2.2 to 4 and whose runs scatter by 2 to 6 dB, places 15 % apart."""
    random = np.random.default_rng(8)
    held, campaigns = 0, 1500
    for _ in range(campaigns):
        scatter_db, n = random.uniform(2.0, 6.0), random.uniform(2.2, 4.0)
        sides = []
        for level in (0.0, 4.0):
            where = 100.0 * 10 ** ((level + random.normal(0, scatter_db, runs)) / (10 * n))
            steps = np.floor(np.log(where) / np.log(1.15))
            sides.append([Failed(1.15**k, 1.15 ** (k + 1)) for k in steps])
        found = ratio(sides[1], sides[0])
        held += abs(found.log10 - 4.0 / (10 * n)) <= coverage_factor(found.degrees) * found.u
    assert 0.87 <= held / campaigns <= 0.94


def test_a_distance_by_hand():
    """Lost between 80 and 125 m: 100 m in the middle; one run is worth the guess of 0.1 and the ground between."""
    told = distance([Failed(80, 125)])
    assert told.log10 == pytest.approx(2.0) and told.degrees == 3.0 and not told.bound
    assert told.u == pytest.approx(np.sqrt(0.01 + np.log10(125 / 80) ** 2 / 12))
    ended = distance([Failed(300, None), Failed(200, None)])
    assert (10**ended.log10, ended.bound) == (pytest.approx(300), "at least")
    assert distance([Failed(80, 125), Failed(300, None)]).bound == "at least"
    assert distance([Failed(80, 125), Failed(20, None)]).bound == "", "it ended before the other failed"
    assert distance([]) is None


@pytest.mark.parametrize("runs", [1, 3])
def test_ninety_in_a_hundred_hold_the_distance(runs):
    random = np.random.default_rng(9)
    held, campaigns = 0, 1500
    for _ in range(campaigns):
        scatter_db, n = random.uniform(2.0, 6.0), random.uniform(2.2, 4.0)
        where = 100.0 * 10 ** (random.normal(0, scatter_db, runs) / (10 * n))
        found = distance([Failed(1.15**k, 1.15 ** (k + 1)) for k in np.floor(np.log(where) / np.log(1.15))])
        held += abs(found.log10 - 2.0) <= coverage_factor(found.degrees) * found.u
    assert 0.86 <= held / campaigns <= 0.95
