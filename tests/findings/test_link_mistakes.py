"""Mistakes of the trade on the Link: each is named where it was made, and a clean twin of the same notebook raises none of them."""

import numpy as np
import pytest

from tallmast.notebook.entry import new_series
from tallmast.notebook.records import Branch, Cut, Obstacle
from tallmast.physics.propagation import free_space_loss_db, plane_earth_loss_db

from .test_field import D
from .test_link import book
from .test_residual import ran

HZ = 869e6


def beam(made, plane):
    angle = np.arange(0.0, 360.0, 5.0)
    off = (angle + 180.0) % 360.0 - 180.0
    key, series = new_series({"angle_deg": angle, "level_db": -np.minimum(12.0 * (off / 20.0) ** 2, 25.0)})
    made.series.update(series)
    made.add(Cut(id=plane, antenna_id="a", state_id=made.records["a"].state.id, series_id=key, plane=plane))


def tilted(made, by):
    beam(made, "elevation")
    made.add(made.records["home end"].revised(branches=[Branch(antenna_id="a", tilt_deg=by)]))


def high(made, metres=60.0):
    for place in ("home", "rock"):
        made.add(made.records[place].revised(height_m=metres))


def beam_over(made, wrong):
    high(made)
    tilted(made, 16.0 if wrong else 0.0)


def ridge(made, wrong):
    high(made)
    made.add(Obstacle(name="the crag", from_m=1500.0, height_m=75.0 if wrong else 15.0))


def wood(made, wrong):
    high(made, 12.0)
    made.add(Obstacle(what="woods", name="the wood", from_m=600.0, to_m=900.0, height_m=18.0 if wrong else 1.0))
    if not wrong:
        high(made)


def opposite(made, wrong):
    high(made)
    made.add(made.records["a"].revised(polarization="right circular", axial_ratio_db=1.0))
    other = "left circular" if wrong else "right circular"
    made.add(made.records["far end"].revised(polarization=other, axial_ratio_db=1.0))


def crossed(made, wrong):
    high(made)
    made.add(made.records["far end"].revised(polarization="horizontal" if wrong else "vertical"))


def optimism(made, wrong):
    """Free space over the near places, plane earth over the farther ones: the line on from the near ones promises too much."""
    level = 12.15 - (plane_earth_loss_db(D, 6.0, 2.0, HZ) if wrong else free_space_loss_db(D, HZ))
    if not wrong:
        high(made)
    ran(made, level, scatter=0.3)


def horizon(made, wrong):
    if wrong:
        made.place("Rock", 30_000.0)
    else:
        high(made, 300.0)


def noise(made, wrong):
    high(made)
    made.add(made.records["home"].revised(noise_dbm=-90.0 if wrong else -125.0))


MADE = {
    "beam over the target": (beam_over, "the beam|° over Rock"),
    "a ridge in the way": (ridge, "the crag in the way"),
    "a wood in the way": (wood, "of trees on the way"),
    "opposite senses": (opposite, "turn opposite ways"),
    "crossed ends": (crossed, "are crossed"),
    "free space beyond the runs": (optimism, "free space from the runs on would promise"),
    "a horizon ignored": (horizon, "behind the horizon"),
    "more power where noise rules": (noise, "noise at home takes"),
}


def checks(make, wrong):
    made = book(power_w=0.1, hears_dbm=-115.0)
    make(made, wrong)
    return made.climb(made.records["a"]).link.checks


@pytest.mark.parametrize("name", MADE)
def test_the_mistake_is_named(name):
    make, words = MADE[name]
    found = [c for c in checks(make, True) if any(word in c.text for word in words.split("|"))]
    assert found and all(c.mark in ("disagrees", "open", "fails") for c in found), [c.text for c in checks(make, True)]


@pytest.mark.parametrize("name", MADE)
def test_its_clean_twin_is_quiet(name):
    make, _ = MADE[name]
    every = [word for _, words in MADE.values() for word in words.split("|")]
    said = [c.text for c in checks(make, False) if c.mark != "holds"]
    assert not [text for text in said if any(word in text for word in every)], said
    assert not [c.text for c in checks(make, False) if c.mark in ("disagrees", "fails")]
