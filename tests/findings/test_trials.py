"""Trials against another sender of which nothing can be told are named with what is missing; each is held against its own neighbour."""

import pytest

from tallmast.notebook.records import Neighbour, Trial

from .test_how_far import high
from .test_link import book
from .test_shared_band import with_other


def tried(**settings):
    made = high(book(power_w=0.01, hears_dbm=-110.0))
    made.add(Trial(**{"neighbour_id": "n", "antenna_id": "a", "broke_m": [300.0, 340.0, 320.0]} | settings))
    return made


def said(link):
    return {check.text: check.why for check in link.checks}


@pytest.mark.parametrize(
    ("settings", "missing"),
    [
        ({"neighbour_id": "gone"}, "who else sent"),
        ({"antenna_id": "gone"}, "the antenna that listened at home"),
        ({"broke_m": []}, "where it broke"),
    ],
)
def test_what_a_trial_lacks_is_named(settings, missing):
    link = with_other(tried(**settings))
    assert link.trials == ()
    assert said(link)["a trial against another can’t be compared"] == f"Say {missing}."


def test_one_that_lacks_nothing_raises_no_such_word():
    link = with_other(tried())
    assert len(link.trials) == 1 and "a trial against another can’t be compared" not in said(link)


def test_each_is_held_against_its_own_neighbour_and_the_nearest_break_is_shown():
    made = tried()
    made.add(Neighbour(id="m", name="scout", power_w=1.0, gain_dbi=2.15, distance_m=400.0))
    made.add(Trial(neighbour_id="m", antenna_id="a", broke_m=[50.0, 60.0]))
    link = with_other(made)
    breaks = {one.neighbour.name: one.breaks.at for one in link.shared if one.breaks is not None}
    for name in ("rover", "scout"):
        (text,) = [text for text in said(link) if text.startswith(f"{name} broke it at")]
        assert text.endswith(f"reckoned {breaks[name].text}")
    assert breaks["scout"].value < breaks["rover"].value
    assert link.breaks_first.neighbour.name == "scout"
