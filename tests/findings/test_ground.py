"""Two antennas over one ground: the level of each by cells, and where the one is better."""

import numpy as np
import pytest

from .build import Book

RADIUS = 400.0
BEARINGS = np.arange(0.0, 360.0, 1.5)


def loop(book: Book, run, level) -> None:
    """Right round home at one distance."""
    from tallmast.notebook.records import Log
    from tallmast.physics.geodesy import destination

    from .build import HOME

    points = [destination(HOME.latitude_deg, HOME.longitude_deg, float(b), RADIUS) for b in BEARINGS]
    key = f"s{len(book.series)}"
    book.series[key] = {
        "latitude_deg": np.array([p[0] for p in points]),
        "longitude_deg": np.array([p[1] for p in points]),
        "level_dbm": np.asarray(level, dtype=float),
    }
    book.add(Log(run_id=run.id, series_id=key))


@pytest.fixture
def walked():
    """A is 6 dB better to the east, B 3 dB better to the west; B's last run through 10 dB more of pads."""
    book = Book()
    book.home()
    a, b = book.antenna("A"), book.antenna("B")
    east = BEARINGS < 180
    for number, (antenna, pad) in enumerate(((a, 0.0), (b, 0.0), (b, 10.0), (a, 0.0)), 1):
        level = np.where(east, -70.0, -80.0) + (np.where(east, 6.0, -3.0) if antenna is a else 0.0) - pad
        loop(book, book.run(antenna, number, manner="loop", pad_db=pad), level)
    return book, a, b


def test_where_each_is_better_and_by_how_much(walked):
    book, a, b = walked
    ground = book.climb(a).field.ground
    by_id = dict(zip((h.tried[0] for h in ground.both), (1.0, -1.0), strict=True))
    difference = by_id[a.id] * ground.difference_db
    assert difference[ground.east_m > 30].mean() == pytest.approx(6.0, abs=0.01)
    assert difference[ground.east_m < -30].mean() == pytest.approx(-3.0, abs=0.01), "pads are taken out"
    better = {h.tried[0]: n for h, n in zip(ground.both, ground.better, strict=False)}
    assert better[a.id] == better[b.id] == len(difference) / 2 and ground.better[2] == 0
    assert np.hypot(ground.east_m, ground.north_m) == pytest.approx(RADIUS, rel=0.01)
    assert ground.both[0].level_dbm.max() == pytest.approx(-64.0)


def test_there_is_none_without_a_pair_or_where_one_is_hidden(walked):
    book, a, b = walked
    assert not book.climb(a).field.ground.shown({b.id})
    alone = Book()
    alone.home()
    c = alone.antenna("C")
    loop(alone, alone.run(c, 1), np.full(len(BEARINGS), -70.0))
    assert alone.climb(c).field.ground is None


def test_where_too_little_was_heard_there_is_no_difference(walked):
    book, a, b = walked
    deaf = np.where(BEARINGS < 90, np.nan, -80.0)
    for number in (5, 6):
        loop(book, book.run(b, number, manner="loop"), deaf)
    ground = book.climb(a).field.ground
    heard = next(h for h in ground.both if h.tried[0] == b.id)
    lost = (heard.east_m > 40) & (heard.north_m > 40)
    assert np.isnan(heard.level_dbm[lost]).all() and lost.any()
    assert not ((ground.east_m > 40) & (ground.north_m > 40)).any()


def test_what_home_heard_is_no_ground_of_the_far_ends(walked):
    book, a, _ = walked
    for number in (1, 2):
        run = book.records[f"run{number}"]
        book.place(f"Spot {number}", 700.0, 90.0)
        book.reading(run, f"spot {number}", level_dbm=-20.0, end="home")
    ground = book.climb(a).field.ground
    assert max(np.nanmax(heard.level_dbm) for heard in ground.both) < -60.0
