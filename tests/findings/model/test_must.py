"""What an expert would say of notes that people really make; all numbers are made up."""

import numpy as np
import pytest

from tallmast.findings.field.model.noted import Spot

from .days import Written


def test_lost_means_lost():
    """Heard at 0.8 and 2.4 km, not at 3.1: one chance in five at most that it is reached."""
    day = Written("A", [["h", "h", "n"]], far=[800.0, 2400.0, 3100.0], manner="walk").day
    assert day.margin(0, "away", Spot("walk s2", 3100.0)).chance_above(0.0) < 0.2
    assert day.margin(0, "away", Spot("walk s1", 2400.0)).chance_above(0.0) > 0.8


def test_barely_heard_binds_as_well():
    day = Written("A", [[4, 3, 2]], "readability", far=[800.0, 2400.0, 3100.0], manner="walk").day
    margin = day.margin(0, "away", Spot("walk s2", 3100.0))
    assert margin.chance_above(0.0) > 0.8
    assert margin.chance_above(25.0) < 0.1


def test_one_spot_tells_about_that_spot_and_less_about_others():
    day = Written("ABBAAB", [[21.0], [1.2], [0.9], [24.0], [22.0], [1.6]], "bit rate")
    change = day.change()
    here, elsewhere = day.day.here(change), day.day.change(change)
    assert here.chance_above(0.0) > 0.99
    assert 0.85 < elsewhere.chance_above(0.0) < here.chance_above(0.0)


def test_once_each_is_probable_and_no_more():
    assert 0.8 < Written("BA", [[12.0], [20.0]], "bit rate").better() < 0.95


def test_a_ceiling_is_no_tie():
    """Three spots told them apart; three more at which both show the most there is take nothing from that."""
    told = Written("BA", [[12.0, 11.0, 14.0], [20.0, 19.0, 18.0]], "bit rate").better()
    more = Written(
        "BA", [[12.0, 11.0, 14.0, 30.0, 30.0, 30.0], [20.0, 19.0, 18.0, 30.0, 30.0, 30.0]], "bit rate"
    ).better()
    assert more == pytest.approx(told, abs=0.05)


def test_clean_separation_is_surer_than_overlap():
    rows = {"left": [1.5, 28.0, 31.0, 3.0, 6.0, 27.0], "right": [22.0, 28.0, 31.0, 27.0, 24.0, 27.0]}
    left, right = (Written("ABBAAB", [[v] for v in row], "dropouts").better() for row in rows.values())
    assert left > 0.99 > right


def test_repeats_that_agree_raise_the_chance():
    once = Written("BA", [[11.0, 3.0, 17.0], [5.0, 3.0, 6.0]], "dropouts").better()
    twice = Written(
        "BAAB", [[11.0, 3.0, 17.0], [5.0, 3.0, 6.0], [6.0, 3.0, 7.0], [13.0, 2.0, 15.0]], "dropouts"
    ).better()
    assert 0.8 < once < twice
    assert twice > 0.95


def test_reaches_that_repeat_are_told_apart():
    """2.20 and 2.25 km against 3.2 with three others, of which two differ by 4 % and are told of no more than a few decibels."""
    order, reached = "ABCDDCBA", [2200.0, 3300.0, 3100.0, 3200.0, 3250.0, 3150.0, 3200.0, 2250.0]
    far = sorted({d * f for d in reached for f in (0.995, 1.005)})
    rows = [["h" if d == r * 0.995 else "n" if d == r * 1.005 else None for d in far] for r in reached]
    day = Written(order, rows, far=far, manner="walk")
    known = day.day
    for other in "BCD":
        assert known.here(day.change(other, "A")).chance_above(0.0) > 0.97
    low, high = known.here(day.change("B", "C")).quantile([0.05, 0.95])
    assert low < 2.0 < high
    of = {frozenset((c.change.to[0], c.change.since[0])): c for c in day.weighed.contrasts}
    assert of[frozenset("bd")].alike and of[frozenset("cd")].alike, "within 10 %, surely"
    assert not of[frozenset("ab")].open and of[frozenset("ab")].chance_farther > 0.97


def test_where_two_powers_broke_says_how_far_more_would_go():
    """20 mW breaks at 3 km: of 400 mW a claim of 25 km has less than one chance in ten."""
    day = Written("A", [["h", "n"]], far=[2950.0, 3050.0], manner="walk", power_w=0.02).day
    reach = day.reach(0, "away", 10.0 * np.log10(20.0))
    assert reach.chance_above(np.log(25e3)) < 0.1
    low, high = np.exp(reach.quantile([0.05, 0.95])) / 1e3
    assert 3.0 < low < 8.0
    assert 15.0 < high < 40.0


def test_both_ends_have_a_reach_of_their_own():
    """Home hears 5, 4, 4, 3 to 14 km; the car 5, 3 and then nothing: neither note wipes out the other."""
    day = Written("A", [[5, 4, 4, 3]], "readability", far=[2e3, 5e3, 9e3, 14e3], end="home", manner="drive")
    day.note(1, [5, 3, "n", "n"], "readability", end="away")
    known = day.day
    home, away = (np.exp(known.reach(0, end).quantile(0.5)) for end in ("home", "away"))
    assert away < 9e3
    assert home > 14e3


def test_what_faces_and_what_is_turned_away():
    """Antennas by poses, fully crossed: the panel by 9 dB facing, the whip by 8 turned away."""
    order = ["Panel", "Whip", "Panel", "Whip", "Whip", "Panel", "Whip", "Panel"]
    held = ["facing", "facing", "away", "away", "away", "away", "facing", "facing"]
    gain = {("Panel", "facing"): 9.0, ("Panel", "away"): -8.0}
    rng = np.random.default_rng(3)
    rows = [
        [round(-70 - 3 * k + gain.get((a, h), 0.0) + rng.normal(0, 1.0)) for k in range(5)]
        for a, h in zip(order, held, strict=True)
    ]
    day = Written(order, rows, other=[{"pose held": h} for h in held])
    known, change = day.day, day.change("Panel", "Whip")
    facing, away = (known.within(change, {"pose held": h}) for h in ("facing", "away"))
    assert facing.quantile(0.05) < 9.0 < facing.quantile(0.95)
    assert away.quantile(0.05) < -8.0 < away.quantile(0.95)
    assert facing.chance_above(0.0) > 0.99
    assert away.chance_above(0.0) < 0.01


def test_a_forgotten_pad_names_the_two_that_cannot_be_parted():
    level = [[-60, -70, -65, -80, -75], [-66, -74, -72, -85, -81], [-65, -75, -71, -86, -82], [-50, -60, -54, -70, -66]]
    day = Written("ABBA", level, pad_db=10.0)
    judged = day.judged
    assert {(s.mistake.kind, s.mistake.run) for s in judged.suspected} == {("pad left out", 3), ("pad in twice", 0)}
    clean = Written("ABBA", [*level[:3], [v - 10 for v in level[3]]], pad_db=10.0)
    assert not clean.judged.suspected


def test_a_forgotten_pad_crowns_nobody():
    """One run each, and A is ahead by just the pad."""
    day = Written("AB", [[-60, -70, -65, -80], [-70, -80, -76, -89]], pad_db=10.0)
    assert day.judged.change(day.change(), here=True).chance_above(0.0) < 0.97


def test_four_kinds_at_once_are_narrower_than_the_best_alone():
    levels = [[-71, -80, -76], [-76, -84, -83], [-75, -85, -81], [-70, -79, -77]]
    grades = [[4, 2, 3], [3, 1, 2], [3, 1, 2], [4, 2, 3]]

    def width(day: Written) -> float:
        low, high = day.day.here(day.change()).quantile([0.05, 0.95])
        return float(high - low)

    alone = width(Written("ABBA", levels))
    both = Written("ABBA", levels)
    for number, row in enumerate(grades, 1):
        both.note(number, row, "readability")
    assert width(both) < 1.02 * alone
