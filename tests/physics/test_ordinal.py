import numpy as np
import pytest
import scipy.stats
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.ordinal import better, shift_of_chance
from tallmast.physics.statistics import beta_quantile


@given(st.floats(0.001, 0.999), st.floats(0.5, 30), st.floats(0.5, 30))
def test_the_beta_quantile_is_scipys(p, a, b):
    assert beta_quantile(p, a, b) == pytest.approx(scipy.stats.beta.ppf(p, a, b), abs=1e-7)


def test_wins_ties_and_losses_by_hand():
    # 5 over 3 wins; 4 and 4 tie; (5, 3) over 4 wins one of two. So (1 + ½ + ½)/3.
    found = better([[5], [4], [5, 3]], [[3], [4], [4]])
    assert found.chance == pytest.approx(2 / 3) and found.cells == 3 and found.ties == pytest.approx(1 / 3)


def test_jeffreys_interval_as_published():
    # Brown, Cai and DasGupta 2001, §4: Beta(x + ½, n − x + ½); to its end where x = n. 5 of 5, and 3 of 5.
    all_ = better([[2]] * 5, [[1]] * 5)
    assert (all_.low, all_.high) == pytest.approx((scipy.stats.beta.ppf(0.05, 5.5, 0.5), 1.0), abs=1e-6)
    some = better([[2]] * 3 + [[1]] * 2, [[1]] * 3 + [[2]] * 2)
    assert (some.low, some.high) == pytest.approx(scipy.stats.beta.ppf([0.05, 0.95], 3.5, 2.5), abs=1e-6)


def test_many_readings_at_one_spot_are_one_spot():
    once, often = better([[5]], [[3]]), better([[5] * 20], [[3] * 20])
    assert (once.low, once.high) == (often.low, often.high) and once.low < 0.5


def test_cells_that_one_of_them_never_saw_count_for_nothing():
    assert better([[5], []], [[3], [4]]) == better([[5]], [[3]])
    assert better([[], [4]], [[3], []]) is None


def test_both_ends_of_one_path_count_as_one():
    """By hand: at the first spot the ends say 1 and ½, ¾ in the mean; at the other 0. (¾ + 0)/2 over two spots."""
    found = better([[5], [3], [2]], [[4], [3], [3]], spots=["quay", "quay", "rock"])
    assert found.cells == 2
    assert found.chance == pytest.approx(0.375) and found.ties == pytest.approx(0.25)


@given(st.lists(st.tuples(st.integers(0, 5), st.integers(0, 5)), min_size=1, max_size=12))
def test_the_other_way_round_it_is_the_rest(pairs):
    one = better([[a] for a, _ in pairs], [[b] for _, b in pairs])
    other = better([[b] for _, b in pairs], [[a] for a, _ in pairs])
    assert one.chance + other.chance == pytest.approx(1)
    assert one.low == pytest.approx(1 - other.high, abs=1e-6)
    assert 0 <= one.low <= one.chance <= one.high <= 1


def test_about_ninety_in_a_hundred_hold_the_truth():
    """Grades from a level that differs by 3 dB with 5 dB of scatter from spot to spot, cut into five."""
    random, cuts = np.random.default_rng(3), np.array([-6.0, -2.0, 2.0, 6.0])

    def graded(level):
        return np.searchsorted(cuts, level)

    many = random.normal(0, 5, (200_000, 2)) + np.array([3.0, 0.0])
    a, b = graded(many[:, 0]), graded(many[:, 1])
    true = np.mean(a > b) + 0.5 * np.mean(a == b)
    held = 0
    for _ in range(400):
        levels = random.normal(0, 5, (8, 2)) + np.array([3.0, 0.0])
        found = better([[float(x)] for x in graded(levels[:, 0])], [[float(x)] for x in graded(levels[:, 1])])
        held += found.low <= true <= found.high
    assert 0.86 <= held / 400 <= 0.98


def test_whole_runs_that_are_off_move_the_chance_by_hand():
    """Differences of mean 1 and standard deviation 1: φ(1) = 0.24197 a unit; u = 0.5 moves it by 0.121."""
    differences = [0.0, 2.0, 0.0, 2.0, 1.0]
    assert np.std(differences, ddof=1) == pytest.approx(1.0)
    assert shift_of_chance(differences, 0.5) == pytest.approx(0.24197 * 0.5, abs=1e-4)
    assert shift_of_chance([3.0], 1.0) == shift_of_chance([2.0, 2.0], 1.0) == 0.0


def test_what_runs_are_off_by_widens_and_moves_nothing():
    a, b = [[2.0], [3.0], [1.0], [4.0], [2.0], [5.0]], [[1.0], [3.0], [2.0], [2.0], [1.0], [4.0]]
    plain, off = better(a, b), better(a, b, u_runs=0.15)
    assert off.chance == plain.chance
    assert off.low < plain.low and off.high > plain.high
    nothing = better(a, b, u_runs=10.0)
    assert 0.0 <= nothing.low < 0.2 and nothing.high > 0.9, "never beyond what knows nothing"
