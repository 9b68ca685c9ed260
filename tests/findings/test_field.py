"""The Field: what changed, pairing by place, the fall with distance, and 'at least'."""

import numpy as np
import pytest

from tallmast.notebook.records import Antenna, DisplayRun, DistanceNote, State

from .build import Book, told

D = np.arange(100.0, 1500.0, 10.0)


def level(gain: float, d=D, n: float = 2.5, seed: int | None = None):
    noise = np.random.default_rng(seed).normal(0, 1, len(d)) if seed is not None else 0
    return -60 + gain - 10 * n * np.log10(d / 100) + noise


def abba(offsets=(0.0, 0.4, -0.4, 0.0)) -> Book:
    book = Book()
    book.home(3000)
    a, b = book.antenna("A"), book.antenna("B")
    for number, (antenna, gain, off) in enumerate(zip((a, b, b, a), (6, 2, 2, 6), offsets, strict=True), 1):
        book.log(book.run(antenna, number, manner="boat"), D, level(gain) + off)
    return book


def test_one_thing_changed_and_several():
    book = Book()
    book.home()
    a, b = book.antenna("A"), book.antenna("B")
    book.run(a, 1, rate="38k4")
    book.run(b, 2, rate="38k4")
    book.run(a, 3, rate="38k4")
    book.run(b, 4, rate="9k6", power_w=0.05)
    book.run(a, 5, rate="38k4", power_w=0.05)
    rows = book.climb().field.rows
    assert [r.words for r in rows] == ["baseline", "one thing", "repeats it", "three things changed", "power changed"]
    assert [r.compared for r in rows] == [True, True, True, False, False]


def test_a_run_is_taken_in_with_a_reason():
    book = Book()
    book.home()
    a, b = book.antenna("A"), book.antenna("B")
    book.run(a, 1)
    book.run(a, 2)
    book.run(b, 3, rate="9k6", weather="mist", taken_in_reason="rate and mist do nothing here")
    assert book.climb().field.rows[2].compared


def trimmed() -> tuple[Book, Antenna]:
    """A ran as built, was trimmed and ran again 5 dB stronger; B ran twice between."""
    book = abba()
    a = book.records["a"]
    better = book.add(a.revised(states=[*a.states, State(id="a-trimmed", name="trimmed 2 mm")]))
    for number in (5, 6):
        book.log(book.run(better, number, manner="boat"), D, level(11) + (0.2 if number == 5 else -0.2))
    return book, better


def test_a_trimmed_antenna_is_no_repeat_of_itself():
    """The 5 dB that a trim brought are the antenna's, not the spread of repeats: they widen no ±, and are told."""
    book, better = trimmed()
    field = book.climb(better).field
    group = field.main
    # Repeats: A as built 0 and 0, B ±0.4, A trimmed ±0.2, one degree of freedom each.
    assert group.spread.degrees == 3
    assert group.spread.s_db == pytest.approx(((2 * 0.4**2 + 2 * 0.2**2) / 3) ** 0.5)
    assert group.tried("a") == ("a", "a-trimmed"), "its present state stands for it"
    assert field.difference("a", "b").value == pytest.approx(9.0, abs=0.5)
    built = ("a", better.states[0].id)
    trim = told(field.contrasts, field.names)["A", "A, as received"].figure
    assert trim.value == pytest.approx(5.0, abs=0.5) and trim.interval[0] > 2.5
    assert group.names == {built: "A, as received", ("b", book.records["b"].state.id): "B", ("a", "a-trimmed"): "A"}


def test_the_gain_and_margin_of_an_antenna_are_those_of_its_present_state():
    book, better = trimmed()
    book.levels(power_w=0.01)
    book.far(sensitivity_dbm=-110.0)
    climb = book.climb(better)
    group = climb.field.main
    level_1km = group.fit.at_1km_dbm
    assert level_1km["a", "a-trimmed"] - level_1km["a", better.states[0].id] == pytest.approx(5.0, abs=0.01)
    margins = {m.antenna.id: m for m in climb.link.margins}
    assert margins["a"].figure.value - margins["b"].figure.value == pytest.approx(9.0, abs=0.01)


def test_an_antenna_alone_is_held_against_what_it_was():
    book = Book()
    book.home()
    a = book.antenna("A")
    book.log(book.run(a, 1, manner="boat"), D, level(6))
    better = book.add(a.revised(states=[*a.states, State(id="later", name="bent back")]))
    book.log(book.run(better, 2, manner="boat"), D, level(9))
    assert book.climb(better).field.sentence.startswith("A looks better than A, as received by ")


def test_difference_of_runs_that_repeat():
    """Run means differ by 4; repeats by ±0.4 about B's mean: by hand ± 1.2 dB by Student's t; the day knows what runs usually differ by."""
    field = abba().climb().field
    figure = field.difference("a", "b")
    low, high = figure.interval
    assert figure.value == pytest.approx(4.0, abs=0.3)
    assert field.main.spread.s_db == pytest.approx(0.4)
    assert 0.8 < (high - low) / 2.0 < 2.2


def test_differences_are_antisymmetric():
    field = abba().climb().field
    ahead, back = field.difference("a", "b"), field.difference("b", "a")
    assert ahead.value == pytest.approx(-back.value)
    assert ahead.interval == pytest.approx([-edge for edge in reversed(back.interval)])
    assert back.name == "B over A"


def test_exponent_of_a_clean_path():
    group = abba().climb().field.main
    fit = group.fit
    assert fit.exponent.value == pytest.approx(2.5, abs=0.02)
    assert fit.level(group.tried("a"), 1000.0)[0] == pytest.approx(-60 + 6 - 25, abs=0.15)


def test_without_repeats_the_spread_is_assumed_and_said():
    book = Book()
    book.home()
    for number, (name, gain) in enumerate((("A", 6), ("B", 2)), 1):
        book.log(book.run(book.antenna(name), number), D, level(gain, seed=number))
    field = book.climb().field
    assert field.main.spread.assumed
    low, high = field.difference("a", "b").interval
    assert high - low > 3.0


def test_a_cell_partly_lost_is_not_flattered():
    """Where a third of the samples got lost, the mean of the rest stands too high; the median with the lost counted
    as weakest doesn't."""
    book = Book()
    book.home()
    a = book.antenna("A")
    random = np.random.default_rng(2)
    d = np.repeat(np.arange(100.0, 1000.0, 25.0) + 5, 200)
    heard = level(0, d, n=3.0) + random.normal(0, 3, len(d))
    floor = -88.0
    book.log(book.run(a, 1), d, np.where(heard > floor, heard, np.nan))
    book.log(book.run(a, 2), d, np.where(heard > floor, heard, np.nan))
    assert book.climb().field.main.fit.exponent.value == pytest.approx(3.0, abs=0.12)


def test_at_least_where_the_field_ended():
    book = Book()
    book.home()
    a = book.antenna("A")
    book.place("Near", 500)
    book.place("Far", 4000)
    run = book.run(a, 1, ended="the field ended")
    book.reading(run, "near", heard=True)
    book.reading(run, "far", heard=True)
    field = book.climb().field
    assert field.sentence == "A was heard to at least 4 km."
    assert field.reaches[0].furthest.bound == "at least"


def test_lost_between_two_places_is_a_range():
    book = Book()
    book.home()
    a = book.antenna("A")
    book.place("Near", 500)
    book.place("Far", 4000)
    run = book.run(a, 1, ended="the signal was lost")
    book.reading(run, "near", heard=True)
    book.reading(run, "far", heard=False)
    assert book.climb().field.sentence == "A was heard to 500 m and lost by 4 km."


def test_one_lost_where_it_was_heard_last_was_lost_there():
    book = Book()
    book.home(4000)
    book.place("Near", 84)
    book.reading(book.run(book.antenna("A"), 1, ended="the signal was lost"), "near", heard=True)
    field = book.climb().field
    assert field.sentence == "A was heard to 84 m and lost there."
    assert field.reaches[0].furthest.working.meaning == "Lost there."


def test_one_heard_of_four_is_not_called_lost_by_none():
    book = Book()
    book.home(4000)
    for name, far in (("Near", 300), ("Mid", 600), ("Far", 900)):
        book.place(name, far)
    run = book.run(book.antenna("A"), 1)
    book.reading(run, "far", heard=True)
    assert "no run was lost: every reach is ‘at least’" in [c.text for c in book.climb().field.checks]
    for name in ("near", "mid", "rock"):
        book.reading(run, name, heard=False)
    book.add(book.records["far"].revised(latitude_deg=book.records["rock"].latitude_deg + 0.05))
    texts = [c.text for c in book.climb().field.checks]
    assert "none was lost beyond where it was heard: every reach is ‘at least’" in texts
    assert not [t for t in texts if t.startswith("no run was lost")]


def test_a_typed_distance_is_corrected_openly():
    book = Book()
    book.home(2370)
    book.add(DistanceNote(from_place_id="home", to_place_id="rock", distance_m=3900))
    field = book.climb().field
    assert any(c.mark == "disagrees" and "typed 3.9 km, fixes say 2.37 km" in c.text for c in field.checks)
    book.add(DistanceNote(from_place_id="home", to_place_id="rock", distance_m=2380))
    assert field.places[0].distance.value == pytest.approx(2370, abs=0.01)


def test_reports_from_both_ends():
    book = Book()
    book.home(1000)
    run = book.run(book.antenna("A"), 1)
    book.reading(run, "rock", end="away", readability=4)
    book.reading(run, "rock", end="home", readability=2)
    report = book.climb().field.reports[0]
    assert ([r.readability for r in report.away], [r.readability for r in report.home]) == ([4], [2])


def test_no_place_no_run_each_teaches():
    assert "Add a place" in Book().climb().field.detail
    book = Book()
    book.home(500)
    assert book.climb().field.sentence == "Two places and no run yet."


def test_a_log_of_a_hundred_thousand_rows_is_fitted():
    book = abba()
    d = np.linspace(100, 1500, 100_000)
    book.log(book.records["run1"], d, level(6, d))
    assert book.climb().field.main.fit is not None


def test_what_a_display_leaves_open_stays_in_the_difference():
    book = Book()
    book.home()
    a, b = book.antenna("A"), book.antenna("B")
    steps = np.repeat(np.arange(0.0, 60.0, 2.0), 2)
    book.series["steps"] = {
        "attenuation_db": steps,
        "shown": np.round((60 - steps) / 6.0),
        "order": np.arange(len(steps), dtype=float),
    }
    book.add(DisplayRun(receiver="set", scale="bars", series_id="steps", zero_dbm=-50.0))
    for i in range(4):
        book.place(f"p{i}", 300.0 * (i + 1))
    for number, antenna in enumerate((a, b, b, a), 1):
        run = book.run(antenna, number)
        for i in range(4):
            book.reading(run, f"p{i}", receiver="set", shown=7.0 - i - (antenna is b))
    figure = book.climb(a).field.difference("a", "b")
    # A bar is 6 dB: steady repeats at four places scatter not at all, yet no difference is better than 6/√12·√2/√8 allows.
    assert figure.u >= 6 / np.sqrt(12) * np.sqrt(2.0 / 8.0)
    assert any(name == "readings" for name, _ in figure.working.parts)


def test_a_track_without_levels_is_not_a_track_of_nothing_heard():
    """It says where somebody went. What was heard on it, only readings tell."""
    book = Book()
    a = book.antenna("A")
    book.home()
    near, far = book.place("Near", 400), book.place("Far", 2600)
    run = book.run(a, 1)
    book.reading(run, near.id, level_dbm=-80.0)
    book.reading(run, far.id, level_dbm=-100.0)
    without = book.climb(a).field
    book.log(run, np.linspace(50, 4000, 200), np.full(200, np.nan))
    found = book.climb(a).field
    assert [r.furthest.value for r in found.reaches] == [r.furthest.value for r in without.reaches]
    assert [r.furthest.bound for r in found.reaches] == [r.furthest.bound for r in without.reaches]
    assert sum(len(s.level_dbm) for s in found.samples) == sum(len(s.level_dbm) for s in without.samples)
    assert any("run 1: no levels in" in c.text for c in found.checks)
    (walk,) = found.walks
    assert walk.distance_m.max() == pytest.approx(4000, abs=1), "where it went is kept for the map"
    assert without.walks == ()


def test_a_run_is_held_against_one_of_the_same_antenna_where_that_leaves_one_change():
    """Behind the barn with the second antenna: against the first run two things changed, against its own run one."""
    book = Book()
    book.home(1000)
    a, b = book.antenna("A"), book.antenna("B")
    runs = [
        book.run(a, 1),
        book.run(b, 2),
        book.run(b, 3, path="behind the barn"),
        book.run(b, 4, path="x", power_w=0.02),
    ]
    for run in runs:
        book.reading(run, "rock", level_dbm=-80)
    rows = {row.run.number: row for row in book.climb().field.rows}
    assert (rows[3].verdict, rows[3].changed, rows[3].baseline) == ("one thing", ("path",), 2)
    assert not rows[3].compared, "it is no repeat of the antenna"
    assert rows[4].verdict == "several things"
