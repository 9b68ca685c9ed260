"""What can hurt somebody: every hazard named where its activity is done, and in no other."""

import math

import pytest

from tallmast.findings.cautions import ACTIVITIES, CAUTIONS, for_manner
from tallmast.findings.climb import RUNGS
from tallmast.findings.levels.clear import metres
from tallmast.findings.tables import levels as tables
from tallmast.notebook.records import Comparison, Craft, Emitter, Neighbour, Place, ReadingsInTurn

from .build import Book

EVERYWHERE = {"transmit", "connect an analyzer", "be outdoors"}
"""Done in any notebook that has an antenna and a place."""


def bare() -> Book:
    book = Book()
    book.add(Place(id="home", name="Quay", latitude_deg=57.9, longitude_deg=-11.2, height_m=1.5))
    book.add(book.records["question"].revised(home_place_id="home"))
    book.levels()
    book.antenna("Rod")
    return book


def _run(**more):
    return lambda book: book.run(book.records["rod"], 1, **more)


DOING = {
    "fly": [_run(manner="flight"), lambda book: book.add(Craft(antenna_id="rod"))],
    "drive": [_run(manner="drive")],
    "climb": [lambda book: book.add(book.records["home"].revised(height_m=9.0)), _run(height_m=6.0)],
    "boat": [_run(manner="boat")],
    "range by laser": [lambda book: book.add(book.records["home"].revised(note="distance by laser, both ways"))],
    "cut and solder": [
        lambda book: book.add(book.records["rod"].revised(handling="feed soldered anew")),
        lambda book: book.sweep(book.records["rod"], _low_resonance()),
    ],
    "work beside high power": [
        lambda book: book.levels(power_w=100.0),
        lambda book: book.add(Emitter(name="harbour repeater", frequency_hz=160e6, eirp_w=200.0, distance_m=20.0)),
    ],
    "carry lithium": [_run(battery="two cells, 8.2 V")],
}
ALSO = {"fly": {"carry lithium"}}
"""What flies carries its pack."""


def _low_resonance():
    import numpy as np

    from tallmast.physics.resonance import series_gamma

    return series_gamma(np.linspace(840e6, 900e6, 601), 852e6, 48, 12)


def named(book: Book) -> set[str]:
    """Activities of which any rung names a hazard."""
    climb = book.climb()
    told = " ".join(words for rung in RUNGS for words in climb.cautions(rung))
    return {row.activity for row in CAUTIONS if row.words in told}


def test_a_notebook_in_which_nothing_special_is_done():
    assert named(bare()) == EVERYWHERE
    assert bare().climb().cautions("shelf") == ()


@pytest.mark.parametrize("activity", DOING)
def test_every_hazard_is_named_in_its_activity_and_in_no_other(activity):
    for doing in DOING[activity]:
        book = bare()
        doing(book)
        assert named(book) - EVERYWHERE == {activity} | ALSO.get(activity, set())
        climb = book.climb()
        for rung in ACTIVITIES[activity].rungs:
            told = climb.cautions(rung)
            text = " ".join(told)
            assert all(row.words in text for row in CAUTIONS if row.activity == activity), "every hazard of it"
            assert told[-1].startswith("Local rules and licensed people")


def test_every_activity_has_a_hazard_and_a_test():
    assert {row.activity for row in CAUTIONS} == set(ACTIVITIES) == set(DOING) | EVERYWHERE


def test_wherever_they_send_or_advise_it_the_clear_distance_is_told():
    climb = bare().climb()
    told = {rung: climb.cautions(rung) for rung in RUNGS}
    assert [rung for rung in RUNGS if any("Stand clear" in words and "of Rod" in words for words in told[rung])] == [
        rung for rung in RUNGS if rung != "shelf"
    ]
    assert not any("tide" in words for rung in RUNGS for words in told[rung])


def test_before_a_flight_all_of_it_is_said():
    words = for_manner("flight")
    for asked in ("return-home", "reserve", "spotter", "permission", "vibration", "heat", "Lithium"):
        assert asked in words
    assert "tide" not in words and "tide" in for_manner("boat")
    assert for_manner("walk") == "" and "does not log" in for_manner("drive")


class TestHowFarAway:
    @pytest.mark.parametrize(
        "holding",
        [
            lambda book: book.levels(power_w=5.0, near_people="held"),
            lambda book: book.add(book.records["rod"].revised(handling="handheld, on its own radio")),
            lambda book: book.sweep(book.records["rod"], 0.2, fixture="body of a handheld"),
            lambda book: book.add(book.records["home"].revised(note="radio in the hand, at the gate")),
        ],
    )
    def test_of_what_is_held_no_distance_is_told(self, holding):
        book = bare()
        book.levels(power_w=5.0)
        assert book.climb().clear is not None
        holding(book)
        climb = book.climb()
        assert climb.clear is None and climb.levels.clear is None
        told = " ".join(climb.cautions("levels"))
        assert "Rod is held: no far-field distance applies" in told and "maker’s exposure statement" in told
        assert "Stand " not in told + climb.levels.clear_words and "such distance" not in told
        ((name, said, *_),) = [row.cells for row in tables.clear(climb.levels).rows]
        assert name.text == "Rod" and "exposure statement" in said.text

    @pytest.mark.parametrize(("height", "said"), [(1.5, True), (2.4, True), (6.0, False)])
    def test_of_what_a_hand_reaches_it_is_said_that_held_no_distance_applies(self, height, said):
        """Nobody may have noted that it is held."""
        book = bare()
        book.add(book.records["home"].revised(height_m=height))
        told = " ".join(book.climb().cautions("levels"))
        assert ("In the hand or on the body no such distance applies" in told) == said and "of Rod" in told

    def test_worn_is_worn(self):
        book = bare()
        book.levels(power_w=5.0, near_people="worn")
        assert any(words.startswith("Rod is worn:") for words in book.climb().cautions("field"))

    def test_what_stands_on_a_mast_is_not_held_for_having_been_swept_in_a_hand(self):
        book = bare()
        book.add(book.records["home"].revised(height_m=6.0))
        book.levels(power_w=5.0)
        book.sweep(book.records["rod"], 0.2, fixture="body of a handheld")
        assert book.climb().clear is not None

    @pytest.mark.parametrize(
        ("noted", "near"),
        [
            ({"distance_m": 30.0}, True),
            ({"distance_m": 400.0}, False),
            ({"place_id": "home"}, True),
            ({"place_id": "gate"}, True),
            ({"place_id": "hill"}, False),
            ({}, True),
        ],
    )
    def test_who_stands_beside_them_counts_however_that_was_noted(self, noted, near):
        book = bare()
        book.levels(power_w=1.0)
        book.place("Gate", 20.0)
        book.place("Hill", 900.0)
        book.add(Neighbour(name="the second rover", power_w=0.5, **noted))
        assert ("the second rover" in [s.name for s in book.climb().radiated.senders]) == near

    def test_every_sender_counts_and_both_together_where_they_stand_side_by_side(self):
        """Densities add: d² is d₁² + d₂²."""
        book = bare()
        book.levels(power_w=1.0)
        book.far(name="glider", power_w=2.0)
        book.add(Neighbour(name="the second rover", power_w=0.5, distance_m=30.0))
        radiated = book.climb().radiated
        assert [s.name for s in radiated.senders] == ["Rod", "glider", "the second rover"]
        apart = [metres(s.clear) for s in radiated.senders]
        assert apart[1] > apart[2]
        assert metres(radiated.side_by_side) == pytest.approx(math.hypot(apart[0], apart[1]), rel=1e-6)
        told = " ".join(book.climb().cautions("field"))
        assert all(f" of {name}" in told for name in ("Rod", "glider", "the second rover")) and "side by side" in told

    def test_what_only_listens_at_home_still_has_the_craft_beside_it(self):
        book = bare()
        del book.records["home end"]
        book.far(name="glider", power_w=0.6)
        assert [s.name for s in book.climb().radiated.senders] == ["glider"]
        assert any("Stand clear" in words and "of glider" in words for words in book.climb().cautions("link"))


class TestMeasuredField:
    """ICNIRP 2020 at 869 MHz: 869/200 = 4.345 W/m², √(4.345·376.7) = 40.5 V/m. FCC: 869/1500 mW/cm² = 5.79 W/m²."""

    def field(self, *values, unit="V/m", **home):
        book = bare()
        book.levels(power_w=5.0, **home)
        spells = [ReadingsInTurn(label=k, values=[v]) for k, v in zip("ABA", values, strict=True)]
        book.add(Comparison(what="beside the mast", unit=unit, spells=spells))
        return [c for c in book.climb().levels.checks if "limit" in c.text and "beside the mast" in c.text]

    @pytest.mark.parametrize(("volts", "mark"), [(10.0, "holds"), (36.0, "open"), (45.0, "fails")])
    def test_is_held_against_the_limit(self, volts, mark):
        (check,) = self.field(1.0, volts, 1.0)
        assert check.mark == mark and "ICNIRP Guidelines 2020" in check.text
        assert check.figure.value == pytest.approx(100.0 * (volts / 40.46) ** 2, rel=2e-3)

    def test_by_the_limit_that_was_chosen_and_as_a_density(self):
        (check,) = self.field(1.0, 5.79e3, 1.0, unit="mW/m²", limit="fcc-1.1310")
        assert check.figure.value == pytest.approx(100.0, rel=0.01) and "47 CFR" in check.text

    def test_levels_in_dbm_are_no_field(self):
        assert self.field(-40.0, -30.0, -40.0, unit="dBm") == []

    def test_a_field_noted_of_another_transmitter_is_too(self):
        book = bare()
        book.add(Emitter(name="harbour repeater", frequency_hz=160e6, field_v_per_m=30.0))
        assert any(
            c.mark == "fails" and c.text.startswith("harbour repeater: 30 V/m") for c in book.climb().levels.checks
        )
