"""Beyond the places measured: every model by how well it foretells places left out; what is known to stand on the way counts in all."""

import numpy as np
import pytest

from tallmast.findings.way.beyond import NAMES
from tallmast.notebook.records import Conditions, Obstacle
from tallmast.physics.propagation import free_space_loss_db, plane_earth_loss_db, two_rays_excess_db

from .test_link import book

HZ = 869e6
NEAR = np.geomspace(100.0, 1800.0, 60)


def ran(loss, wanted=4000.0, home=6.0, rock=2.0, seed=1, scatter=1.5, **far):
    """Two runs out to 1.8 km whose level falls by `loss`."""
    made = book(wanted, **far)
    made.add(made.records["home"].revised(height_m=home))
    made.add(made.records["rock"].revised(height_m=rock))
    a, random = made.records["a"], np.random.default_rng(seed)
    for number in (1, 2):
        level = 10.0 - loss(NEAR) + random.normal(0, scatter, len(NEAR))
        made.log(made.run(a, number, power_w=0.01), NEAR, level)
    return made


def path_of(made):
    return made.climb(made.records["a"]).link.way.beyond


def weights(made):
    return {model.key: model.weight for model in path_of(made).models}


def test_what_falls_as_free_space_is_told_by_free_space():
    found = weights(ran(lambda d: free_space_loss_db(d, HZ), home=200.0, rock=100.0))
    assert found["free"] + found["line"] + found["plane"] + found["earth"] > 0.5
    assert found["40"] < 0.02 and sum(found.values()) == pytest.approx(1.0)


def test_what_falls_as_plane_earth_is_not_told_by_free_space():
    made = ran(lambda d: plane_earth_loss_db(d, 6.0, 2.0, HZ))
    assert weights(made)["free"] < 0.03
    path = path_of(made)
    over, u = path.at_place
    true = -plane_earth_loss_db(4000.0, 6.0, 2.0, HZ) + np.mean(plane_earth_loss_db(path.fit.place_m, 6.0, 2.0, HZ))
    assert abs(over - true) < 1.645 * u < 8.0


def test_the_farther_the_wider():
    made = ran(lambda d: free_space_loss_db(d, HZ))
    _, u = path_of(made).over_mean([1800.0, 3000.0, 6000.0, 12000.0])
    assert (np.diff(u) > 0).all()


def test_a_ridge_beyond_the_places_is_taken_off_every_model():
    def margin(obstacle):
        made = ran(lambda d: free_space_loss_db(d, HZ), home=30.0, rock=20.0)
        if obstacle:
            made.add(Obstacle(name="the crag", from_m=2800.0, height_m=70.0))
        link = made.climb(made.records["a"]).link
        return link.margins[0].figure, link.way.profile

    clear, _ = margin(False)
    behind, profile = margin(True)
    assert clear.value - behind.value == pytest.approx(profile.beside_db, abs=1.0)
    assert profile.beside_db > 15.0 and behind.u > clear.u


def test_the_range_and_the_margin_are_told_by_the_same_path():
    """At the distance where it is said to run out, a margin that is asked for is none."""
    made = ran(lambda d: plane_earth_loss_db(d, 6.0, 2.0, HZ) + 6.0, sensitivity_dbm=-105.0)
    link = made.climb(made.records["a"]).link
    reach = link.margins[0].reach
    assert reach.low < reach.value < reach.high
    other = ran(lambda d: plane_earth_loss_db(d, 6.0, 2.0, HZ) + 6.0, wanted=reach.value * 1e3, sensitivity_dbm=-105.0)
    assert other.climb(other.records["a"]).link.margins[0].figure.value == pytest.approx(0.0, abs=0.3)


def test_what_would_narrow_it_is_said():
    link = ran(lambda d: free_space_loss_db(d, HZ), wanted=6000.0)
    detail = link.climb(link.records["a"]).link.detail
    assert "how the path goes on beyond 1.8" in detail and "a run out to" in detail


def test_within_the_places_the_models_are_not_asked():
    made = ran(lambda d: free_space_loss_db(d, HZ), wanted=1000.0)
    link = made.climb(made.records["a"]).link
    assert "path as fitted" in dict(link.margins[0].figure.working.parts)
    assert "how the path goes on" not in link.detail


def test_too_few_places_have_no_models():
    made = book(4000.0)
    a = made.records["a"]
    made.log(made.run(a, 1), np.array([100.0, 200.0, 400.0]), np.array([-60.0, -67.0, -75.0]))
    assert made.climb(a).link.way.beyond is None


def test_every_model_has_a_name():
    made = ran(lambda d: free_space_loss_db(d, HZ))
    assert {m.key for m in path_of(made).models} == set(NAMES) - {"own"}
    made.add(Conditions(over="sea", rough_m=0.1))
    assert {m.key for m in path_of(made).models} == set(NAMES)


def test_what_the_ground_is_made_of_and_how_rough_it_is_counts_in_its_model():
    """Sea at grazing throws nearly all of a horizontal wave back; waves of 0.6 m at a degree and more hardly anything."""
    made = ran(lambda d: plane_earth_loss_db(d, 6.0, 2.0, HZ), polarization="horizontal")
    made.add(Conditions(over="sea"))
    smooth = path_of(made).by_model(4000.0)["own"]
    assert smooth == pytest.approx(path_of(made).by_model(4000.0)["plane"], abs=3.0)
    made.add(Conditions(over="sea", rough_m=8.0))
    assert path_of(made).by_model(4000.0)["own"] > smooth + 0.2


@pytest.mark.parametrize("reflected", [0.4, 0.9])
def test_two_rays_far_out_fall_as_in_free_space_again(reflected):
    """Field (1 − ρ) of free space: 20·log₁₀(1 − 0.4) = −4.4 dB, −20 dB at 0.9; with ρ = 1 plane earth, λd/(4πh₁h₂)."""
    far = two_rays_excess_db(np.array([1e7]), 6.0, 2.0, HZ, reflected)
    assert far[0] == pytest.approx(-20 * np.log10(1 - reflected), abs=0.1)
    whole = two_rays_excess_db(np.array([5000.0]), 6.0, 2.0, HZ, 1.0)
    expected = plane_earth_loss_db(5000.0, 6.0, 2.0, HZ) - free_space_loss_db(5000.0, HZ)
    assert whole[0] == pytest.approx(float(expected), abs=0.2)
    near = two_rays_excess_db(np.array([30.0]), 6.0, 2.0, HZ, reflected)
    assert near[0] == pytest.approx(0.0, abs=1e-9)


@pytest.mark.parametrize("far", [1000.0, 4000.0])
def test_levels_and_link_speak_of_one_path(far):
    """Within the places and beyond them the staircase's level at the far end is the Link's margin over the sensitivity."""
    made = ran(lambda d: plane_earth_loss_db(d, 6.0, 2.0, HZ), wanted=far)
    climb = made.climb(made.records["a"])
    link, levels = climb.link.margins[0].figure.value, climb.levels.out.steps[-1].level_dbm
    # The staircase stands at 10 mW, the margin at 100.
    assert levels + 10.0 - (-110.0) == pytest.approx(link, abs=1e-6)


def test_levels_and_link_speak_of_one_path_that_nobody_measured():
    made = book()
    climb = made.climb(made.records["a"])
    level = climb.levels.out.steps[-1].level_dbm
    assert level + 10.0 + 110.0 == pytest.approx(climb.link.margins[0].figure.value, abs=1e-6)


def test_a_claim_of_range_is_judged_by_the_same_path():
    """At full power it is the range of the Link; at a quarter less, and never beyond the horizon."""
    made = ran(lambda d: plane_earth_loss_db(d, 6.0, 2.0, HZ), sensitivity_dbm=-105.0)
    a = made.records["a"]
    made.claim(a, "range", 2000.0, at_power_w=0.1)
    link = made.climb(a).link.margins[0]
    (fate,) = made.climb(a).verdict.claims
    assert fate.figure.value == pytest.approx(link.reach.value)
    assert link.with_more(-6.02).figure.value < link.reach.value < link.with_more(6.02).figure.value
    assert link.with_more(100.0).at_horizon
