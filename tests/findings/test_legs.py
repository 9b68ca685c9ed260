"""Ways out and back: what each leg says of a change, and whether they agree."""

import numpy as np
import pytest

from tallmast.findings.field.decision import decision_of
from tallmast.findings.field.tracks import legs_of

from .build import Book

OUT = np.linspace(60.0, 1500.0, 240)
WAY = np.concatenate([OUT, OUT[::-1]])


def flown(out_db: float, back_db: float, seed: int = 1, way=WAY) -> Book:
    """A B B A out and back; what B is better by on the way out, and on the way back."""
    book = Book()
    book.home()
    a, b = (book.antenna(name) for name in "AB")
    random = np.random.default_rng(seed)
    back = np.arange(len(way)) > int(np.argmax(way))
    meets = {antenna.id: random.normal(0, 1.0, 60)[(way // 30).astype(int)] for antenna in (a, b)}
    for number, antenna in enumerate((a, b, b, a), 1):
        better = np.where(back, back_db, out_db) if antenna is b else 0.0
        level = -55 - 25 * np.log10(way / 100) + better + meets[antenna.id] + random.normal(0, 0.6)
        book.log(book.run(antenna, number, manner="boat"), way, level + random.normal(0, 1.0, len(way)))
    return book


def test_a_way_out_and_back_has_two_legs_and_no_other_way_has():
    assert legs_of(WAY).tolist() == [1] * 240 + [2] * 240
    assert not legs_of(OUT).any(), "it never came back"
    assert not legs_of(OUT[::-1]).any(), "it began far out"
    assert not legs_of(np.full(300, 400.0)).any(), "a loop at one distance"
    assert not legs_of(np.concatenate([OUT, OUT[-30:][::-1]])).any(), "it came back a little"
    assert not legs_of(WAY[::40]).any(), "too few to tell"


def test_legs_that_differ_are_told_each_by_itself():
    """The battery is in the way on the way back."""
    field = flown(6.0, 1.0).climb().field
    contrast = next(c for c in field.contrasts if c.change.factor == "antenna" and c.figure.value > 0)
    told = {name: figure.value for name, figure in contrast.blocks}
    assert told == {"out": pytest.approx(6.0, abs=1.5), "back": pytest.approx(1.0, abs=1.5)}
    assert "B over A: out and back differ" in [c.text for c in field.checks]
    assert [line.remark for line in decision_of(field).lines] == ["out and back differ"]


def test_legs_that_agree_raise_nothing():
    alarms = 0
    for seed in range(12):
        field = flown(3.0, 3.0, seed).climb().field
        contrast = next(c for c in field.contrasts if c.change.factor == "antenna" and c.figure.value > 0)
        alarms += bool(contrast.blocks)
    assert alarms <= 1


def test_without_a_way_back_nothing_is_said_of_legs():
    field = flown(3.0, 3.0, way=OUT).climb().field
    assert not any(c.by_leg for c in field.contrasts)


def test_where_a_run_was_lost_on_the_way_back_the_way_out_still_tells():
    book = flown(3.0, 3.0)
    whole = book.series["s1"]
    book.series["s1"] = whole | {"level_dbm": np.where(np.arange(len(WAY)) >= 240, np.nan, whole["level_dbm"])}
    field = book.climb().field
    contrast = next(c for c in field.contrasts if c.change.factor == "antenna" and c.figure.value > 0)
    out = dict(contrast.blocks).get("out", contrast.figure)
    assert abs(out.value - 3.0) < 2.0
