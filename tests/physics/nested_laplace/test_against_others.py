"""Against what is known otherwise: dense algebra, least squares, long runs of a sampler, worlds drawn from the model itself."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.physics.nested_laplace import Notes, solve
from tallmast.physics.nested_laplace.arrow import Arrow, ArrowShape
from tallmast.physics.nested_laplace.newton import Conditional

from .days import DAYS, KEPT, SHARES

SAMPLED = json.loads(KEPT.read_text())


@pytest.mark.parametrize("name", DAYS)
def test_every_day_is_as_a_long_run_of_a_sampler_has_it(name):
    """Within 1 dB at the ends of the 90 % interval and in the middle, within 0.02 of the chance."""
    notes, asked = DAYS[name]()
    told = solve(notes)
    for words, form in asked.items():
        sampled, marginal = SAMPLED[name][words], told.marginal(form)
        assert sampled["r hat"] < 1.02
        assert marginal.quantile(SHARES) == pytest.approx(sampled["quantiles"], abs=1.0), words
        assert float(marginal.chance_above(0.0)) == pytest.approx(sampled["above 0"], abs=0.02), words


@given(st.integers(0, 2**32 - 1))
def test_arrows_are_solved_as_whole_matrices_are(seed):
    rng = np.random.default_rng(seed)
    block = rng.integers(-1, 4, size=rng.integers(1, 14)).astype(np.intp)
    shape, count = ArrowShape(block), len(block)
    dense = np.zeros((2, count, count))
    packed = np.zeros((2, shape.size))
    for _ in range(12):
        of = rng.integers(-1, 4)
        mine = np.flatnonzero((block == of) | (block < 0))
        row = np.zeros(count)
        row[mine] = rng.normal(size=len(mine))
        weight = rng.uniform(0.1, 3.0, size=2)
        outer = np.outer(row, row)
        dense += weight[:, None, None] * outer
        i, j = (grid.ravel() for grid in np.meshgrid(mine, mine, indexing="ij"))
        at = shape.position(i, j)
        for k in range(2):
            np.add.at(packed[k], at[at >= 0], weight[k] * outer[i, j][at >= 0])
    diagonal = rng.uniform(0.5, 2.0, size=(2, count))
    dense += np.array([np.diag(d) for d in diagonal])
    arrow = Arrow(shape, packed, diagonal)
    right = rng.normal(size=(2, count, 3))
    assert arrow.solve(right) == pytest.approx(np.linalg.solve(dense, right), abs=1e-9)
    assert arrow.log_determinant == pytest.approx(np.linalg.slogdet(dense)[1], abs=1e-9)


def test_a_note_of_two_blocks_is_refused():
    notes = Notes()
    left, right = notes.latent("left", block=1), notes.latent("right", block=2)
    notes.reads(left + right, 1.0, 1.0, share=0.0)
    with pytest.raises(ValueError, match="two blocks"):
        notes.conditional()


def test_all_gaussian_and_balanced_is_least_squares():
    """With wide priors a contrast is the difference of means, its ± that of least squares, to 1 %."""
    rng = np.random.default_rng(4)
    notes, values = Notes(), {"A": [], "B": []}
    for k in range(12):
        for name in "AB":
            value = (3.0 if name == "A" else 0.0) + 5.0 * np.sin(k) + rng.normal(0, 1.5)
            form = notes.latent(("thing", name), 0.0, 1e3) + notes.latent(("place", k), 0.0, 1e3, block=k)
            notes.reads(form, value, 1.5**2, share=0.0)
            values[name].append(value)
    told = solve(notes).marginal(notes.latent(("thing", "A")) - notes.latent(("thing", "B")))
    assert told.mean == pytest.approx(np.mean(values["A"]) - np.mean(values["B"]), rel=0.01)
    assert told.sd == pytest.approx(1.5 * np.sqrt(2.0 / 12.0), rel=0.01)


def test_the_evidence_of_gaussian_notes_is_that_of_their_joint_normal():
    notes = Notes()
    common = notes.latent("common", 2.0, 3.0)
    values = [1.0, 4.0, 2.5]
    for value in values:
        notes.reads(common, value, 0.5, share=0.0)
    covariance = 9.0 + 0.5 * np.eye(3)
    rest = np.array(values) - 2.0
    exact = -0.5 * (rest @ np.linalg.solve(covariance, rest) + np.linalg.slogdet(2.0 * np.pi * covariance)[1])
    assert solve(notes).log_evidence == pytest.approx(exact, abs=1e-9)


def _log_joint_slopes(
    model: Conditional, x: np.ndarray, scales: np.ndarray, step: float
) -> tuple[np.ndarray, np.ndarray]:
    """Gradient and minus second derivatives by differences."""
    one = step * np.eye(model.count)
    value = lambda moved: model.log_joint(x + moved[None], scales)[0]  # noqa: E731
    gradient = np.array([(value(e) - value(-e)) / (2 * step) for e in one])
    second = np.array(
        [[(value(a + b) - value(a - b) - value(b - a) + value(-a - b)) / (4 * step**2) for b in one] for a in one]
    )
    return gradient, -second


@pytest.mark.parametrize("name", DAYS)
def test_slopes_are_those_of_the_density(name):
    notes, _ = DAYS[name]()
    model = notes.conditional()
    phi = model.hyper_mean[None] + 0.2
    scales = model.scales(phi)
    x = model.modes(phi, model.start(phi)).x
    x = x + 0.01 * np.cos(np.arange(model.count))[None]
    gradient, second = _log_joint_slopes(model, x, scales, 1e-4)
    assert model.derivatives_by_form(x, scales)[0][0] == pytest.approx(gradient, rel=1e-4, abs=1e-4)
    inverse = model.matrix(x, scales).solve(np.eye(model.count)[None])[0]
    assert inverse @ second == pytest.approx(np.eye(model.count), abs=2e-2)


@pytest.mark.parametrize("name", ["levels_at_four_places", "grades_apart", "dropouts", "rates_half_at_the_ceiling"])
def test_the_slope_of_the_evidence_is_that_of_evidences_found_anew(name):
    notes, _ = DAYS[name]()
    model = notes.conditional()
    phi, step = model.hyper_mean[None] + 0.1, 1e-3
    here = model.modes(phi, model.start(phi), 1e-12)
    slope, moves = model.evidence_slope(here)
    for k, e in enumerate(step * np.eye(phi.shape[1])):
        up, down = (model.modes(phi + sign * e, here.x, 1e-12) for sign in (1, -1))
        assert slope[k] == pytest.approx((up.log_evidence - down.log_evidence)[0] / (2 * step), rel=1e-3, abs=1e-3)
        assert moves[k] == pytest.approx((up.x - down.x)[0] / (2 * step), rel=1e-3, abs=1e-3)
