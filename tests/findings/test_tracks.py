"""Tracks that were read on something other than dBm: by the display's own steps in decibels, else as better or worse."""

import numpy as np
import pytest

from tallmast.findings.field.samples import gather
from tallmast.findings.field.tracks import told_by_display
from tallmast.findings.levels.display import read_displays
from tallmast.notebook.records import DisplayRun, Log
from tallmast.physics.geodesy import destination

from .build import HOME, Book

D = np.linspace(50, 900, 300)
SCALE, ZERO = 2.5, -100.0
"""Counts a decibel above a level that the logger's display stands for."""


def counts(level_dbm) -> np.ndarray:
    return np.clip(np.round(100 + SCALE * (np.asarray(level_dbm) - ZERO)), 60, 255)


def stepped(book: Book, zero_dbm: float | None = 0.0) -> None:
    """The logger's display through known attenuation: 0 dBm through 20 to 110 dB."""
    attenuation = np.repeat(np.arange(20.0, 112.0, 2.0), 4)
    shown = counts(-attenuation + np.random.default_rng(8).normal(0, 0.2, len(attenuation)))
    book.series["steps"] = {"attenuation_db": attenuation, "shown": shown, "order": np.arange(float(len(shown)))}
    book.add(DisplayRun(receiver="logger", scale="level", series_id="steps", zero_dbm=zero_dbm, zero_u_db=0.5))


def track(book: Book, run, level_dbm, receiver: str = "", read_on: str = "level", shown=None) -> None:
    points = [destination(HOME.latitude_deg, HOME.longitude_deg, 37.0, float(d)) for d in D]
    key = f"s{len(book.series)}"
    book.series[key] = {
        "latitude_deg": np.array([p[0] for p in points]),
        "longitude_deg": np.array([p[1] for p in points]),
        "shown": counts(level_dbm) if shown is None else shown,
    }
    book.add(Log(run_id=run.id, series_id=key, read_on=read_on, receiver=receiver))


def flown(book: Book, receiver: str = "", better_db: float = 4.0) -> Book:
    """A B B A, B so much better."""
    book.home(900.0)
    a, b = (book.antenna(name, known_gain_dbi=2.15, polarization="vertical") for name in "AB")
    random = np.random.default_rng(2)
    for number, antenna in enumerate((a, b, b, a), 1):
        level = -45 - 25 * np.log10(D / 100) + (better_db if antenna is b else 0.0) + random.normal(0, 0.3)
        track(book, book.run(antenna, number), level + random.normal(0, 1.5, len(D)), receiver)
    return book


@pytest.mark.parametrize("zero_dbm", [0.0, None])
def test_counts_of_a_stepped_display_are_decibels(zero_dbm):
    book = Book()
    stepped(book, zero_dbm)
    field = flown(book, "logger").climb().field
    difference = next(c for c in field.contrasts if c.change.factor == "antenna")
    assert difference.scale == "dB"
    low, high = difference.figure.interval
    assert low < 4.0 < high or low < -4.0 < high
    samples = field.samples[0]
    if zero_dbm is None:
        assert samples.shared_u_db == np.inf, "its zero is not known: it tells differences"
    else:
        true = -45 - 25 * np.log10(samples.distance_m / 100)
        assert abs(float(np.mean(samples.level_dbm - true))) < 1.5 and samples.shared_u_db == 0.5
    assert not [c for c in field.checks if "no dBm" in c.text]


def test_counts_that_nobody_stepped_are_named_and_compared_as_better_or_worse():
    field = flown(Book()).climb().field
    assert [c for c in field.checks if c.text == "the logs of runs 1, 2, 3 and 4 are no dBm"]
    assert not field.samples and not field.walks, "no level, and no way without readings"
    (better,) = [c for c in field.contrasts if c.change.factor == "antenna" and not c.open]
    assert better.scale == "level" and better.places <= 12, "neighbours on a track are no further spots"


def test_saturated_tells_nothing_and_below_the_threshold_is_not_heard():
    book = Book()
    stepped(book)
    curve = read_displays(book.evidence)["logger"].curve
    shown = np.array([255.0, 60.0, np.nan, *counts([-60.0, -61.0])])
    level, own, tells = told_by_display(shown, curve)
    assert tells.tolist() == [False, True, True, True, True]
    assert np.isnan(level[1:3]).all() and abs(level[3] + 60.0) < 1.0 and own[3] > 0


def test_nothing_received_is_a_bit_rate_of_nothing():
    """To leave it out would flatter whoever lost most."""
    book = Book()
    book.home(900.0)
    a, b = (book.antenna(name) for name in "AB")
    for number, antenna in enumerate((a, b, b, a), 1):
        shown = np.where((np.arange(len(D)) % 2 == 0) & (antenna is a), np.nan, 20.0)
        track(book, book.run(antenna, number), None, read_on="bit rate", shown=shown)
    (better,) = [c for c in book.climb().field.contrasts if c.change.factor == "antenna" and not c.open]
    names = {book.records[i].name: i for i in book.records if getattr(book.records[i], "kind", "") == "antenna"}
    assert better.change.to.startswith(names["B"])


def test_a_log_in_dbm_is_as_it_was():
    book = Book()
    book.home(900.0)
    a = book.antenna("A")
    book.log(book.run(a, 1), D, np.full(len(D), -70.0))
    evidence = book.evidence
    samples = gather(evidence, (HOME.latitude_deg, HOME.longitude_deg), {})
    assert samples["run1"].level_dbm.tolist() == [-70.0] * len(D) and samples["run1"].shared_u_db == 0.0


def test_how_far_another_manner_went_changes_nothing_here():
    """Cells are as long as a manner of going needs them: a flight of 6 km does not make those of a boat 150 m long."""
    book = Book()
    book.home(900.0)
    a, b = (book.antenna(name) for name in "AB")
    noise = np.random.default_rng(5)
    for number, antenna in enumerate((a, b, b, a), 1):
        level = -50 - 25 * np.log10(D / 100) + (3.0 if antenna is b else 0.0) + noise.normal(0, 1, len(D))
        book.log(book.run(antenna, number, manner="boat"), D, level)
    before = book.climb().field.samples[0].sums.numbers
    far = np.linspace(200.0, 6000.0, 80)
    book.log(book.run(a, 5, manner="flight"), far, -60 - 20 * np.log10(far / 100))
    after = book.climb().field
    assert after.samples[0].sums.numbers.tolist() == before.tolist()
    (told,) = after.contrasts
    assert told.figure.value == pytest.approx(3.0, abs=0.8) and told.change.to.startswith(b.id)


def test_a_display_of_very_many_readings_is_told_in_steps_of_its_range():
    book = Book()
    stepped(book)
    curve = read_displays(book.evidence)["logger"].curve
    shown = np.append(np.random.default_rng(3).uniform(110, 240, 3000), np.nan)
    level, own, _ = told_by_display(shown, curve)
    few = np.random.default_rng(4).choice(3000, 40, replace=False)
    alone = [curve.read(float(v)).level.value for v in shown[few]]
    assert np.max(np.abs(level[few] - alone)) < 0.25 and np.isnan(level[-1]) and (own[:-1] > 0).all()
