"""What differs from run to run is taken as its name says, unless the question says otherwise."""

import numpy as np
import pytest

from tallmast.notebook.records import Question
from tallmast.notebook.records.lists import treated, treated_text
from tallmast.units.read import UnitError

from .build import Book
from .test_field import D


def walked(said: dict[str, str]) -> Book:
    """A B B A twice, dry and wet: wet takes 5 dB, B is 3 dB better."""
    book = Book()
    book.home(3000.0)
    question = book.records["question"]
    assert isinstance(question, Question)
    book.add(question.revised(treated=said))
    a, b = (book.antenna(name, known_gain_dbi=2.15, polarization="vertical") for name in "AB")
    random = np.random.default_rng(3)
    for number, (antenna, weather) in enumerate(zip([a, b, b, a] * 2, ["dry"] * 4 + ["wet"] * 4, strict=True), 1):
        level = -60 - 25 * np.log10(D / 100) + (3.0 if antenna is b else 0.0) - (5.0 if weather == "wet" else 0.0)
        book.log(book.run(antenna, number, weather=weather), D, level + random.normal(0, 0.5, len(D)))
    return book


def factors(book: Book) -> dict[str, float]:
    return {c.change.factor: abs(c.figure.value) for c in book.climb().field.contrasts}


def test_weather_is_a_block_by_its_name():
    told = {c.change.factor: c for c in walked({}).climb().field.contrasts}
    assert abs(abs(told["antenna"].figure.value) - 3.0) < 0.5
    assert not told["antenna"].blocks, "rain does nothing to what one antenna has over another"


def test_compared_it_has_a_contrast_of_its_own():
    assert abs(factors(walked({"Weather": "compared"}))["weather"] - 5.0) < 1.0


def test_left_out_it_is_no_factor_and_no_run_is_mixed_by_it():
    book = walked({"weather": "left out"})
    field = book.climb().field
    assert "weather" not in factors(book) and "weather" not in field.rows[0].kinds
    assert {row.verdict for row in field.rows} == {"baseline", "same", "one thing"}
    assert not [c for c in field.checks if "weather" in c.text]


def test_a_power_that_is_left_out_takes_no_decibel_out():
    def between(said):
        book = Book()
        book.home(3000.0)
        book.add(book.records["question"].revised(treated=said))
        a, b = (book.antenna(name, known_gain_dbi=2.15, polarization="vertical") for name in "AB")
        for number, (antenna, power) in enumerate(((a, 0.01), (b, 0.1), (b, 0.1), (a, 0.01)), 1):
            book.log(book.run(antenna, number, power_w=power), D, -60 - 25 * np.log10(D / 100))
        return abs(book.climb().field.contrasts[0].figure.value)

    assert between({}) == pytest.approx(10.0, abs=1.0), "ten times the power and no louder"
    assert between({"power": "left out"}) == pytest.approx(0.0, abs=0.1)


def test_typed_and_shown_as_the_same():
    said = treated("weather: compared; day: Compared within; battery: left out")
    assert said == {"weather": "compared", "day": "block", "battery": "left out"}
    assert treated(treated_text(said)) == said
    for wrong in ("weather", "weather: odd", "weather:"):
        with pytest.raises(UnitError, match="left out"):
            treated(wrong)
