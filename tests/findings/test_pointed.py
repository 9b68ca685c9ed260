"""Where an antenna looks as it is mounted: Levels and Link take it alike, by free space and by another's runs."""

import pytest

from tallmast.notebook.records import Branch

from .test_link import book
from .test_residual import FREE, beam, high, ran


def looks(made, **degrees):
    """Each antenna by name so many degrees off the place."""
    toward = made.climb().field.wanted_bearing_deg()
    branches = [Branch(antenna_id=name, azimuth_deg=(toward + off) % 360) for name, off in degrees.items()]
    made.add(made.records["home end"].revised(branches=branches, power_w=0.1))
    return made


def alike(made, name):
    """What the staircase leaves over the far end's sensitivity, and the Link's margin: one number."""
    climb = made.climb(made.records[name])
    margin = next(m for m in climb.link.margins if m.antenna.id == name)
    (met,) = [one for one in climb.levels.out.met if one.limit.name.endswith("sensitivity")]
    assert met.spare_db == pytest.approx(margin.figure.value, abs=0.1)
    return margin


def test_by_free_space():
    """12·(φ/60)² at 45°: 6.75 dB."""
    at_it, aside = (high(book()) for _ in range(2))
    for made in (at_it, aside):
        beam(made)
    straight, turned = alike(looks(at_it, a=0.0), "a"), alike(looks(aside, a=45.0), "a")
    assert straight.figure.value - turned.figure.value == pytest.approx(6.75, abs=0.3)
    assert turned.figure.u > straight.figure.u


def test_by_another_s_runs_only_the_difference_counts():
    """B made the runs, A has none and looks 45° aside."""
    margins = {}
    for off in (0.0, 45.0):
        made = high(book())
        beam(made)
        made.antenna("B", known_gain_dbi=2.15)
        ran(made, FREE, "b")
        margins[off] = alike(looks(made, a=off), "a")
        assert margins[off].basis == "by its gain on the measured path"
    assert margins[0.0].figure.value - margins[45.0].figure.value == pytest.approx(6.75, abs=0.3)
    assert any("pointing against it" in line for line in margins[45.0].figure.working.lines)


def test_of_its_own_runs_it_is_in_the_path_already():
    margins = []
    for off in (0.0, 45.0):
        made = high(book())
        beam(made)
        margins.append(alike(looks(ran(made, FREE), a=off), "a").figure.value)
    assert margins[0] == pytest.approx(margins[1], abs=0.01)
