"""Recordings of several branches and ends at once: each is held against its like."""

import numpy as np
import pytest

from tallmast.findings.field.laid import aligned
from tallmast.findings.tables.field import stretches
from tallmast.notebook.records import RecordedColumn, Recording
from tallmast.notebook.records.lists import Mark

from .build import Book

TIME = np.arange(0.0, 60.0, 0.5)
COLUMNS = [("first", "left"), ("second", "right"), ("third", "home")]


@pytest.fixture
def flown():
    """A B B A on the left branch, where B is 4 dB better; the right branch and home's end know nothing of that."""
    book = Book()
    book.home(3000.0)
    a, b = (book.antenna(name) for name in "AB")
    random = np.random.default_rng(5)
    for number, antenna in enumerate((a, b, b, a), 1):
        run = book.run(antenna, number)
        levels = {"first": -70.0 + (4.0 if antenna is b else 0.0), "second": -90.0, "third": -60.0}
        series = {key: np.round(level + random.normal(0, 1, len(TIME)), 1) for key, level in levels.items()}
        book.series[f"s{number}"] = {"time_s": TIME, **series}
        columns = [RecordedColumn(key=k, name=k, read_on="level in dBm", heard_at=at) for k, at in COLUMNS]
        marks = [Mark(at_s=0.0, name="out"), Mark(at_s=30.0, name="back")]
        book.add(Recording(run_id=run.id, series_id=f"s{number}", columns=columns, marks=marks, usable=-75.0))
    return book


def test_each_branch_and_end_has_cells_of_its_own(flown):
    field = flown.climb().field
    (samples,) = [s for s in field.samples if s.run.number == 1]
    levels = {int(c): samples.level_dbm[samples.cell == c].mean() for c in np.unique(samples.cell)}
    assert sorted(round(v) for v in levels.values()) == [-90, -90, -70, -70, -60, -60], "three, out and back"
    difference = next(c for c in field.contrasts if c.change.factor == "antenna")
    assert difference.places == 6
    assert abs(abs(difference.figure.value) - 4.0 / 3.0) < 0.8, "a third of what it is heard by has the antenna"


def test_the_limit_holds_for_its_quantity_wherever_it_was_heard(flown):
    table = stretches(flown.climb().field)
    usable = {row.cells[0].text.rsplit(", ", 1)[1]: row.cells[4].text for row in table.rows[:6]}
    assert usable == {"left": "100 %", "right": "0 %", "home end": "100 %"}


def test_only_what_was_heard_at_one_branch_is_laid_over_each_other(flown):
    laid = aligned(flown.climb().field.traces)
    assert {trace.heard for trace, _ in laid.traces} == {("level in dBm", "away", "left")}
    assert len(laid.traces) == 4


def test_two_branches_at_one_stretch_are_one_spot(flown):
    own = [c for c in flown.climb().field.dying if c.scale == "usable"]
    assert all(c.places <= 6 for c in own)


def test_alike_in_the_mean_and_different_in_how_it_dies():
    """Both are lost as often and as long; the one over five seconds, the other at once."""
    book = Book()
    book.home(3000.0)
    slow, cliff = book.antenna("Slow"), book.antenna("Cliff")
    random = np.random.default_rng(9)
    time = np.arange(0.0, 120.0, 0.5)
    for number, antenna in enumerate((slow, cliff, cliff, slow), 1):
        level = np.full(len(time), -70.0)
        for begins in np.arange(14.0, 120.0, 20.0):
            since = time - begins
            level[(since >= 0) & (since < 3)] = -95.0
            if antenna is slow:
                ramp = (since < 0) & (since >= -5)
                level[ramp] = -70.0 + (since[ramp] + 5.0) / 5.0 * -14.0
        series = np.round(level + random.normal(0, 0.2, len(time)), 1)
        book.series[f"s{number}"] = {"time_s": time, "first": series}
        marks = [Mark(at_s=20.0 * k, name=f"leg {k}") for k in range(6)]
        columns = [RecordedColumn(key="first", name="level", read_on="level in dBm")]
        run = book.run(antenna, number)
        book.add(Recording(run_id=run.id, series_id=f"s{number}", columns=columns, marks=marks, usable=-85.0))
    field = book.climb().field
    assert field.samples and not field.along_the_way, "levels, but at no known distance"
    told = {c.scale: c for c in field.dying}
    assert all(c.open for scale, c in told.items() if scale in ("usable", "dropouts"))
    warning = told["warning"]
    assert warning.change.to.startswith(slow.id) and not warning.open
    assert 3.0 < warning.seen[0].mean < 6.0
