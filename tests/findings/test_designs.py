"""Runs in designs: what is told of each factor, what is named of the way it was done, and clean twins that raise nothing."""

import numpy as np
import pytest

from tallmast.notebook.records import Piece

from .build import Book, told

PLACES = [200 * 1.35**i for i in range(8)]
SHADOW = np.random.default_rng(5).normal(0, 3, len(PLACES))


class Day:
    """Runs of antennas over eight places; what each run adds is given."""

    def __init__(self, seed: int = 1, run_db: float = 0.3) -> None:
        self.rng, self.run_db = np.random.default_rng(seed), run_db
        self.book = Book()
        self.book.home(1000)
        self.gains = {"A": 6.0, "B": 2.0}
        self.antennas = {name: self.book.antenna(name) for name in self.gains}
        for i, metres in enumerate(PLACES):
            self.book.place(f"p{i}", metres)
        self.number = 0

    def run(self, antenna: str, added_db: float = 0.0, **more) -> None:
        self.number += 1
        run = self.book.run(self.antennas[antenna], self.number, **more)
        level = -60 + self.gains[antenna] - 30 * np.log10(np.array(PLACES) / 100) + SHADOW + added_db
        level = level + self.rng.normal(0, self.run_db) + self.rng.normal(0, 0.3, len(level))
        for i, value in enumerate(level):
            self.book.reading(run, f"p{i}", level_dbm=round(float(value), 1))

    def field(self):
        return self.book.climb(self.antennas["A"]).field

    def checks(self) -> list[str]:
        return [c.text for c in self.field().checks]


def one(field, factor: str):
    (contrast,) = told(field.contrasts, field.names, factor).values()
    return contrast


def test_power_and_pads_are_taken_out_and_checked():
    day = Day()
    for antenna, power, pad in (("A", 0.01, 0), ("B", 0.01, 0), ("B", 0.01, 10), ("A", 0.001, 0), ("B", 0.001, 0)):
        day.run(antenna, -10.0 if (power, pad) != (0.01, 0) else 0.0, power_w=power, pad_db=pad)
    figure = day.field().difference("a", "b")
    low, high = figure.interval
    assert low < 4.0 < high and high - low < 4
    assert any(text.startswith("power and pads: −10 dB did −") for text in day.checks())


def test_a_power_that_did_not_do_what_it_should_is_told():
    day = Day()
    for antenna, power in (("A", 0.01), ("B", 0.01), ("B", 0.001), ("A", 0.001)):
        day.run(antenna, -4.0 if power == 0.001 else 0.0, power_w=power)
    assert any(text.startswith("power and pads should do −10 dB, and did −4") for text in day.checks())


def test_the_pad_that_was_left_out_is_asked_for():
    day = Day()
    day.book.add(Piece(name="pad", type="pad", loss_db=10.0))
    for number, antenna in enumerate("ABBAAB", 1):
        day.run(antenna, 10.0 if number == 3 else 0.0, pad_db=10.0)
    assert "10 dB pad left out of run 3?" in day.checks()


def test_a_connector_that_was_loose_is_asked_for():
    day = Day()
    for number, antenna in enumerate("ABBAAB", 1):
        day.run(antenna, -19.0 if number == 4 else 0.0)
    assert "connector loose in run 4?" in day.checks()


@pytest.mark.parametrize("seed", range(8))
def test_runs_that_only_scatter_raise_no_question(seed):
    day = Day(seed, run_db=1.0)
    day.book.add(Piece(name="pad", type="pad", loss_db=3.0), Piece(name="pad", type="pad", loss_db=10.0))
    for antenna in "ABBAAB":
        day.run(antenna, pad_db=10.0)
    assert not [text for text in day.checks() if "?" in text]


def test_an_order_that_was_never_swapped_is_named():
    day = Day()
    for antenna in "AABB":
        day.run(antenna)
    assert "A always came before B" in day.checks()
    swapped = Day()
    for antenna in "ABBA":
        swapped.run(antenna)
    assert not [text for text in swapped.checks() if "always came" in text]


def test_the_order_is_in_the_uncertainty_where_it_never_was_swapped():
    never, swapped = Day(), Day()
    for day, order in ((never, "AABB"), (swapped, "ABBA")):
        for antenna in order:
            day.run(antenna)

    def drift_db(day: Day) -> float:
        parts = dict(day.field().difference("a", "b").working.parts)
        return float(parts.get("drift by the order", "0 dB").removesuffix(" dB"))

    assert drift_db(never) > 0.2 > drift_db(swapped)


def test_a_session_that_drifts_is_told_and_taken_out():
    day = Day()
    for number, antenna in enumerate("ABBAABBA"):
        day.run(antenna, -4.0 * number / 7)
    assert [text for text in day.checks() if text.startswith("the session drifted by −")]
    low, high = day.field().difference("a", "b").interval
    assert low < 4.0 < high and high - low < 4


def test_blocks_are_pooled_where_they_agree_and_named_where_they_do_not():
    agree, apart = Day(), Day()
    for day, more in ((agree, 0.0), (apart, -9.0)):
        for antenna, mode in (("A", "FM"), ("B", "FM"), ("B", "data"), ("A", "data"), ("A", "FM"), ("B", "data")):
            day.run(antenna, more if (antenna, mode) == ("A", "data") else 0.0, mode=mode)
    found = told(agree.field().contrasts, agree.field().names)["A", "B"]
    assert {block for block, _ in found.blocks} == {"FM", "data"} and not found.differ
    assert agree.field().sentence.startswith("A is better than B by ")
    assert one(apart.field(), "antenna").differ
    assert apart.field().sentence.startswith(("FM: A by ", "Data: B by "))


def test_another_day_for_each_antenna_is_told_as_one():
    """Caught: different days compared. What the day did and what the antenna did can't be told apart."""
    day = Day()
    for antenna, when in (("A", "Saturday"), ("A", "Saturday"), ("B", "Sunday"), ("B", "Sunday")):
        day.run(antenna, -6.0 if when == "Sunday" else 0.0, day=when)
    field = day.field()
    assert ("A", "B") not in told(field.contrasts, field.names)
    assert any("antenna and day changed together" in text for text in day.checks())
    assert field.difference("a", "b") is None, "no gain follows from it"


def test_a_far_antenna_and_a_thing_by_its_own_name_are_factors():
    day = Day()
    other = day.book.antenna("Patch")
    for far, hand, added in (
        ("", "left", 0),
        (other.id, "left", 3),
        (other.id, "right", 4),
        ("", "right", 1),
        ("", "left", 0),
    ):
        day.run("A", added, far_antenna_id=far, other={"hand": hand})
    field = day.field()
    assert one(field, "far antenna").figure.value == pytest.approx(3.0, abs=1.0)
    assert one(field, "hand").figure.value == pytest.approx(1.0, abs=1.0)
    assert field.sentence.startswith("Patch at the far end is better than the antenna as ever at the far end by ")


def test_alike_says_within_what():
    day = Day(run_db=0.1)
    day.gains["B"] = 5.9
    for antenna in "ABBAABBA":
        day.run(antenna)
    assert " are alike within " in day.field().sentence


def test_levels_of_a_display_with_an_unknown_zero_tell_differences_and_no_level():
    """No far end's power is needed to learn which of two is heard better."""
    from tallmast.notebook.records import DisplayRun

    book = Book()
    book.home(1000)
    a, b = book.antenna("A"), book.antenna("B")
    steps = np.repeat(np.arange(0.0, 60.0, 2.0), 2)
    book.series["steps"] = {"attenuation_db": steps, "shown": np.round((60 - steps) / 3.0), "order": np.arange(60.0)}
    book.add(DisplayRun(receiver="set", scale="bars", series_id="steps"))
    for i in range(4):
        book.place(f"p{i}", 300.0 * (i + 1))
    for number, antenna in enumerate((a, b, b, a), 1):
        run = book.run(antenna, number)
        for i in range(4):
            book.reading(run, f"p{i}", receiver="set", shown=14.0 - i - 2 * (antenna is b))
    climb = book.climb(a)
    assert climb.field.difference("a", "b").value == pytest.approx(6.0, abs=0.5)
    assert climb.field.sentence.startswith("A is better than B by ")
    book.levels()
    book.far()
    assert all(m.basis != "measured" for m in book.climb(a).link.margins), "an unknown zero is no level"


def test_an_antenna_that_only_ran_in_the_rain_is_told_by_the_others_that_ran_in_both():
    """What the rain does follows from A and B; so C is told, though it never ran in the dry."""
    day = Day()
    day.gains["C"] = 8.0
    day.antennas["C"] = day.book.antenna("C")
    for antenna, weather in (("A", "dry"), ("B", "dry"), ("A", "rain"), ("B", "rain"), ("C", "rain"), ("A", "dry")):
        day.run(antenna, -3.0 if weather == "rain" else 0.0, weather=weather)
    field = day.book.climb(day.antennas["C"]).field
    assert field.sentence.startswith("C ") and field.difference("c", "b") is not None
    assert field.difference("c", "b").value == pytest.approx(6.0, abs=1.5)
    assert day.book.climb(day.antennas["C"]).verdict.sentence


def test_what_was_noted_differently_of_every_run_is_no_factor_and_that_is_said():
    """A battery's volts beside A B B A: they belong to what makes runs differ, or nothing could be told at all."""
    day = Day()
    for antenna, volts in zip("ABBA", ("12.6 V", "12.5 V", "12.4 V", "12.3 V"), strict=True):
        day.run(antenna, battery=volts)
    field = day.field()
    assert ("A", "B") in told(field.contrasts, field.names)
    assert "battery noted differently of every run: it counts as run to run" in day.checks()
    assert not [text for text in day.checks() if "things changed" in text]
    steps = Day()
    for antenna, battery in zip("ABBA", ("full", "full", "half", "half"), strict=True):
        steps.run(antenna, battery=battery)
    assert steps.field().contrasts and not [text for text in steps.checks() if "noted differently" in text]


def test_what_somebody_sets_is_a_factor_however_often_it_was_another():
    """A at 3 and 6 m, B at 9 and 12 m: what the height did is not A's or B's."""
    day = Day()
    for antenna, height in zip("AABB", (3.0, 6.0, 9.0, 12.0), strict=True):
        day.run(antenna, height_m=height)
    field = day.field()
    assert ("A", "B") not in told(field.contrasts, field.names) and ("B", "A") not in told(field.contrasts, field.names)
    assert any(
        "antenna and height changed together" in text or "height and antenna changed together" in text
        for text in day.checks()
    )


def test_many_runs_that_differ_in_many_things_are_compared_in_a_moment():
    """Sixteen runs with six factors each once took longer than anybody waits."""
    import time

    day = Day()
    began = time.perf_counter()
    for k in range(16):
        more = {"battery": f"{12.6 - 0.1 * k:.1f} V", "weather": f"{10 + k % 7} °C", "rate": "49"[k % 2]}
        day.run("AB"[k // 2 % 2], height_m=3.0 + k % 4, day=f"day {k // 6}", other={"hand": "lr"[k % 2]}, **more)
    assert day.field().contrasts
    assert time.perf_counter() - began < 5.0
