"""Designs: what a set of runs tells apart, by hand and from the textbook."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.design import Change, Design, order_of, pairs_of

A_OVER_B = Change("antenna", "A", "B")


def of(text: str, *factors: str) -> Design:
    """`A 3; B 3`: runs by their levels."""
    return Design(factors or ("antenna",), [run.split() for run in text.split(";")])


def test_two_antennas_run_in_turn_are_the_difference_of_their_means():
    assert of("A; B; B; A").weights([A_OVER_B]) == pytest.approx([0.5, -0.5, -0.5, 0.5])


def test_a_latin_square_by_hand():
    """Montgomery, Design and Analysis of Experiments, §4.2: a treatment's effect is the mean of its cells, whatever row and
    column they stand in, so each of three runs counts a third."""
    square = of("A 1 x; B 1 y; C 1 z; B 2 x; C 2 y; A 2 z; C 3 x; A 3 y; B 3 z", "antenna", "day", "order")
    weights = square.weights([A_OVER_B])
    assert weights == pytest.approx([1 / 3, -1 / 3, 0, -1 / 3, 0, 1 / 3, 0, 1 / 3, -1 / 3])
    assert square.rank == 1 + 2 + 2 + 2
    effects = {"A": 3.0, "B": 1.0, "C": 0.0, "1": 5.0, "2": -2.0, "3": 0.5, "x": 0.1, "y": 0.7, "z": -4.0}
    response = np.array([sum(effects[level] for level in row) for row in square.levels])
    assert weights @ response == pytest.approx(2.0)
    assert square.residuals(response) == pytest.approx(np.zeros(9), abs=1e-12)


def test_a_ladder_is_told_step_by_step():
    ladder = of("A 3 above; B 3 above; B 6 above; B 6 below", "antenna", "height", "battery")
    assert ladder.weights([Change("height", "6", "3")]) == pytest.approx([0, -1, 1, 0])
    assert ladder.weights([Change("battery", "below", "above")]) == pytest.approx([0, 0, -1, 1])
    assert ladder.told_with(Change("height", "6", "3")) == ()


def test_what_always_changed_together_is_told_as_one_with_the_run_that_would_part_it():
    both = of("A 10mW slow; A 10mW slow; A 1mW fast", "antenna", "power", "rate")
    power = Change("power", "1mW", "10mW")
    assert both.weights([power]) is None
    with_it = both.told_with(power)
    assert with_it == (Change("rate", "fast", "slow"),)
    assert both.weights([power, *with_it]) == pytest.approx([-0.5, -0.5, 1.0])
    assert both.parted_by(power, with_it) == ("A", "1mW", "slow")
    parted = Design(both.factors, [*both.levels, ("A", "1mW", "slow")])
    assert parted.weights([power]) is not None and parted.told_with(power) == ()


def test_three_things_at_once_are_three():
    design = of("A 1 dry; A 1 dry; B 2 wet", "antenna", "height", "weather")
    assert {c.factor for c in design.told_with(Change("antenna", "B", "A"))} == {"height", "weather"}


def test_of_a_level_that_was_never_run_nothing_is_told():
    assert of("A; B").told_with(Change("antenna", "C", "A")) is None
    assert of("A; B").weights([Change("antenna", "A", "A")]) is None


def test_a_drift_is_told_where_the_order_was_swapped_and_not_where_it_was_not():
    """A A B B: a slope and the step look alike. A B B A: the slope is (3·y₄ + y₃ − y₂ − 3·y₁)/10 per run, here over three."""
    response = np.array([0.0, 5.0 + 1.0, 5.0 + 2.0, 3.0])  # B is 5 above A, the session gains 1 a run
    swapped = Design(("antenna",), [["A"], ["B"], ["B"], ["A"]], order_of(4))
    slope, u, degrees = swapped.slope(response)
    assert slope == pytest.approx(3.0) and u == pytest.approx(0.0, abs=1e-9) and degrees == 1
    never = Design(("antenna",), [["A"], ["B"]], order_of(2))
    assert never.slope(response[:2]) is None


@given(
    st.lists(st.tuples(st.sampled_from("ABC"), st.sampled_from("123"), st.sampled_from("xy")), min_size=2, max_size=12),
    st.integers(0, 2**32 - 1),
)
def test_what_is_told_is_right_whatever_the_design(rows, seed):
    """Without noise a contrast that is told is the sum of the effects that it says it is."""
    design = Design(("antenna", "day", "mode"), rows)
    rng = np.random.default_rng(seed)
    effects = [{level: rng.normal() for level in levels} for levels in ("ABC", "123", "xy")]
    response = np.array([sum(e[level] for e, level in zip(effects, row, strict=True)) for row in rows])
    for factor in design.factors:
        levels = design.levels_of(factor)
        for since, to in itertools.pairwise(levels):
            others = design.told_with(Change(factor, to, since))
            assert others is not None, "both levels were run, so something tells them"
            changes = [Change(factor, to, since), *others]
            weights = design.weights(changes)
            true = sum(
                effects[design.factors.index(c.factor)][c.to] - effects[design.factors.index(c.factor)][c.since]
                for c in changes
            )
            assert weights @ response == pytest.approx(true, abs=1e-6)


def test_of_many_levels_each_is_held_against_the_one_before_and_of_very_many_none():
    assert len(pairs_of("abcd")) == 6
    assert pairs_of("abcdef") == [("a", "b"), ("b", "c"), ("c", "d"), ("d", "e"), ("e", "f")]
    assert pairs_of("abcdefghi") == [] and len(pairs_of("abcdefghi", every=True)) == 36
