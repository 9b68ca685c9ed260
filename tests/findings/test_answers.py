"""The question is answered by its kind; where that can't be, what is missing is said in its words."""

import numpy as np
import pytest

from tallmast.findings.figure import Figure, Working
from tallmast.notebook.records import ASKS, Design
from tallmast.physics.resonance import series_gamma

from .build import Book

F = np.linspace(840e6, 900e6, 401)
D = np.arange(100.0, 1500.0, 10.0)


def asked(asks: str = "", gains=(6.0, 2.0), **antenna) -> Book:
    """A and B, run A B B A over one path."""
    book = Book(asks=asks)
    book.home(3000)
    pair = [book.antenna(name, **antenna.get(name, {})) for name in "AB"]
    for number, k in enumerate((0, 1, 1, 0), 1):
        level = -60 + gains[k] - 25 * np.log10(D / 100) + (0.2 if number > 2 else 0.0)
        book.log(book.run(pair[k], number, manner="boat"), D, level)
    return book


def verdict(book: Book, of: str | None = None):
    """Of all antennas, or of the one that is asked about; whatever is in focus, it is the same."""
    book.add(book.records["question"].revised(antenna_id=of))
    told = [book.climb(antenna).verdict for antenna in book.evidence.antennas]
    assert len({(one.sentence, one.detail) for one in told}) == 1
    return told[0]


def test_which_is_better_is_answered_by_the_runs_even_where_a_margin_is_known():
    book = asked("which is better")
    book.levels(power_w=0.01)
    book.far(sensitivity_dbm=-110.0)
    assert verdict(book).sentence.startswith("A is better than B by 4.")
    reach = asked("which reaches")
    reach.levels(power_w=0.01)
    reach.far(sensitivity_dbm=-110.0)
    assert "to spare" in verdict(reach).sentence and verdict(reach).lamp


def test_of_two_that_are_alike_the_cheaper_is_advised():
    book = asked("which is better", (4.0, 4.0), A={"price": 90.0}, B={"price": 25.0})
    told = verdict(book)
    assert "alike within" in told.sentence and "B costs 25 and A 90: take B." in told.detail
    clear = verdict(asked("which is better", (9.0, 2.0), A={"price": 90.0}, B={"price": 25.0}))
    assert "take" not in clear.detail, "what is better is not the cheaper one's advice"


def test_a_claim_that_fails_is_the_answer():
    book = Book(asks="does the claim hold")
    a = book.antenna("A")
    book.claim(a, "swr", 1.5)
    book.claim(a, "gain", 8.0)
    book.sweep(a, 0.5, F)
    told = verdict(book)
    assert told.sentence.startswith("A’s claim of ") and " fails: " in told.sentence
    assert "Of two claims: one failed, one not shown yet." in told.detail


def test_soundness_is_match_and_how_it_is_heard():
    book = asked("is it sound")
    for name, r in (("a", 48), ("b", 48)):
        book.sweep(book.records[name], series_gamma(F, 869e6, r, 14), F)
    assert verdict(book, "a").sentence.startswith("A is sound as far as it was measured: SWR ")
    assert (
        verdict(book, "b").sentence.startswith("B may not be sound: ") and "heard worse" in verdict(book, "b").sentence
    )
    book.sweep(book.records["a"], 0.6, F)
    assert verdict(book, "a").sentence.startswith("A is not sound in this band: SWR ")


def test_of_several_that_may_be_unsound_the_worst_is_told_first_and_the_others_beside_it():
    """Two antennas, a meter reading each, and nobody said which one is asked about: no chip decides."""
    book = Book(asks="is it sound")
    book.meter(book.antenna("Short"), 2.7)
    book.meter(book.antenna("Check whip"), 1.08)
    told = verdict(book)
    assert told.sentence.startswith("Short is not sound in this band: SWR 2.70 ")
    assert "Check whip shows no fault so far: SWR 1.08 " in told.detail
    other = verdict(book, "check whip")
    assert other.sentence.startswith("Check whip shows no fault so far: ") and "Short" not in other.detail


def test_that_one_is_heard_worse_than_another_is_no_fault_unless_it_is_asked_about():
    book = asked("is it sound")
    for name in "ab":
        book.sweep(book.records[name], series_gamma(F, 869e6, 48, 14), F)
    told = verdict(book)
    assert "may not be sound" not in told.sentence + told.detail


def test_a_fault_of_the_pattern_is_first_in_the_answer_though_the_match_is_good():
    angle = np.arange(0, 360, 5.0)
    hole = -12.8 * np.exp(-((((angle - 140 + 180) % 360 - 180) / 22.0) ** 2))
    book = Book(asks="is it sound")
    a = book.antenna("Ring")
    book.sweep(a, 0.05, F)
    book.cut(a, hole - 30.0, angle, level_u_db=0.3)
    book.series["d"] = {"azimuth_deg": angle, "elevation_deg": 0 * angle, "level_db": 0 * angle}
    book.add(Design(antenna_id="ring", series_id="d", tolerance_db=3.0))
    told = verdict(book)
    assert told.sentence.startswith("Ring is not sound: a fault at ") and "12.8 dB under its design" in told.sentence
    assert "no fault" not in told.sentence + told.detail and "SWR " in told.detail
    assert told.headline.value == pytest.approx(-12.8, abs=0.5)


def test_a_claim_that_fails_is_in_the_answer_to_whether_it_is_sound():
    book = Book(asks="is it sound")
    a = book.antenna("Ring")
    book.claim(a, "bandwidth", 40e6)
    book.sweep(a, series_gamma(F, 869e6, 48, 30), F)
    told = verdict(book)
    assert told.sentence.startswith("Ring misses what is claimed: its claim of 40 MHz")


def test_soundness_of_what_was_never_measured_is_not_made_up():
    book = Book(asks="is it sound")
    book.antenna("A")
    told = verdict(book)
    assert told.sentence.startswith("No verdict yet") and told.detail.startswith("To tell whether it is sound, measure")


def test_which_change_helps_most_and_what_a_decibel_costs():
    book = asked("which change helps most", A={"price": 60.0}, B={"price": 20.0})
    told = verdict(book)
    assert told.sentence.startswith("A is better than B by 4.")
    assert "A decibel of it costs " in told.detail and ": 40 more for " in told.detail


def test_how_much_power_by_hand():
    """A margin of M at full power: the place takes 10^(−M/10) of it."""
    book = asked("how much power")
    book.levels(power_w=0.01, full_power_w=0.1)
    book.far(sensitivity_dbm=-110.0)
    climb = book.climb(book.records["a"])
    margin = next(m for m in climb.link.margins if m.antenna.id == "a").figure
    told = climb.verdict
    assert told.headline.value == pytest.approx(100.0 * 10 ** (-margin.value / 10))
    low, high = told.headline.interval
    assert low == pytest.approx(100.0 * 10 ** (-margin.interval[1] / 10)) and low < told.headline.value < high
    assert told.sentence.startswith("With A Rock takes ") and "licence" in told.detail


@pytest.mark.parametrize("asks", [kind for kind in ASKS if kind])
def test_what_is_missing_is_said_in_the_words_of_the_question(asks):
    book = Book(asks=asks)
    book.antenna("A")
    told = verdict(book)
    assert told.sentence == "No verdict yet: nothing has been measured."
    assert told.detail.startswith("To tell ")


def test_where_its_own_evidence_is_missing_the_other_evidence_is_not_ignored():
    told = verdict(asked("which reaches"))
    assert told.sentence.startswith("A ") and told.detail == "To tell which reaches, note the far end."


def test_what_would_settle_it_has_runs_and_order():
    near = asked("", (4.0, 4.05))
    assert not any("settle" in c for c in verdict(near).changes), "alike within half a decibel is settled"
    for number in (1, 2):
        book_level = near.series[f"s{number}"]["level_dbm"]
        near.series[f"s{number}"]["level_dbm"] = book_level + (2.0 if number == 1 else -2.0)
    told = verdict(near)
    field = near.climb(near.evidence.antennas[0]).field
    wanted = [c for c in told.changes if "settle" in c or "No few runs" in c]
    assert all(one in field.detail for one in wanted), "Field and Verdict count what is missing alike"
    assert bool(wanted) != field.contrasts[0].settled
    clear = verdict(asked())
    assert not any("settle" in c for c in clear.changes)


class TestSoFar:
    """“Nothing” is said only where there is nothing: every rung below is asked."""

    def test_a_pattern_alone_is_told_with_what_is_missing(self):
        for asks in ("", "which is better"):
            book = Book(asks=asks)
            a = book.antenna("A")
            angle = np.arange(0.0, 360.0, 10.0)
            book.cut(a, -40.0 - 12.0 * np.sin(np.radians(angle / 2)) ** 2, angle)
            told, pattern = verdict(book), book.climb(a).pattern
            assert told.sentence == pattern.sentence and told.standing.mark == "some"
            assert "How A is heard beside another is not shown yet" in told.detail
        book.meter(a, 1.3)
        assert "Its match: SWR 1.30 (1.19 to 1.41) at 869 MHz" in verdict(book).detail

    def test_places_alone_are_no_verdict_and_not_nothing(self):
        book = Book(asks="which is better")
        book.antenna("A")
        book.home()
        told = verdict(book)
        assert told.sentence == "No verdict yet." and "So far: " in told.detail
        assert told.detail.startswith("To tell which is better")

    def test_of_one_antenna_it_is_spoken_as_of_one(self):
        book = Book()
        book.antenna("A")
        one = " ".join(verdict(book).changes)
        assert "whether it is ill" in one and "another antenna, and back again" in one
        book.antenna("B")
        assert "whether one of them is ill" in " ".join(verdict(book).changes)

    def test_that_the_farthest_place_is_taken_is_said(self):
        book = Book()
        book.antenna("A")
        book.home()
        book.place("Gate", 900.0)
        assert any("Gate, the farthest, is taken" in c for c in verdict(book).changes)

    def test_nothing_is_nothing(self):
        book = Book()
        book.antenna("A")
        assert verdict(book).sentence == "No verdict yet: nothing has been measured."
        assert verdict(book).standing.mark == "nothing"


@pytest.mark.parametrize(
    ("bound", "edge", "text"),
    [
        ("at least", 14.16, "at least 14 dB"),
        ("at most", 14.16, "at most 15 dB"),
        ("at least", 30.0, "at least 30 dB"),
        ("at most", -14.16, "at most −14 dB"),
        ("at least", 4.16, "at least 4.2 dB"),
    ],
)
def test_a_bound_is_told_in_whole_decibels_to_its_safe_side(bound, edge, text):
    figure = Figure("front to back", edge, 0.0, "dB", Working((), (), "", ""), bound=bound)
    assert figure.text == text


def test_what_is_missing_is_only_what_is_not_there():
    """Of antennas with a gain, run and with places: a far end is all that a margin still takes."""
    book = asked("which reaches")
    book.levels(power_w=0.01)
    told = verdict(book)
    assert "the far end" in told.detail or "a far end" in told.detail
    assert "field run" not in told.detail and "the power" not in told.detail


def test_without_a_question_power_that_is_noted_is_not_called_missing():
    book = asked()
    book.levels(power_w=0.01)
    del book.records["question"]
    assert book.climb(book.records["a"]).levels.sentence == "No question yet, so no band."
