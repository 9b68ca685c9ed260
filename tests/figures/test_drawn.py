"""What is drawn is what was found: the lines, bars and inks of pictures, held against the numbers behind them."""

from threading import get_ident
from types import SimpleNamespace

import numpy as np
import pytest

from tallmast.figures import bench, field, ground, link
from tallmast.figures.paper import Paper
from tallmast.figures.picture import render
from tallmast.figures.sheet import Sheet
from tallmast.findings.aims import Aims
from tallmast.findings.climb import Climb
from tallmast.findings.field.ground import ALIKE_DB
from tallmast.physics.propagation import free_space_loss_db, plane_earth_loss_db
from tests.findings.build import Book

SEEN = ("path", "line", "rect", "text", "between", "dots", "glyph")


@pytest.fixture
def drawn(qapp, monkeypatch):
    """Paints a picture and tells what it drew: `path`, `line`, `rect`, `text`, `between` with their arguments."""
    kept: dict[str, list] = {}
    here = get_ident()  # a start page of an earlier test may still be painting its small pictures beside

    def keep(name):
        real = getattr(Sheet, name)

        def instead(self, *args, **more):
            if get_ident() == here:
                kept.setdefault(name, []).append(args)
            return real(self, *args, **more)

        monkeypatch.setattr(Sheet, name, instead)

    for name in SEEN:
        keep(name)

    def paint(picture):
        kept.clear()
        render(picture, 900, 500, Paper(), 1.0)
        return SimpleNamespace(**{name: kept.get(name, []) for name in SEEN})

    return paint


def swept(limit: float) -> Climb:
    """SWR 1 at 870 MHz and 4 at both ends of 840 … 900 MHz, straight in |Γ| between."""
    book = Book(swr_limit=limit)
    a = book.antenna("A")
    f = np.linspace(840e6, 900e6, 601)
    book.sweep(a, 0.6 * np.abs(f - 870e6) / 30e6, f)
    return Climb(book.evidence, Aims(a.id))


def words_at(seen, words: str) -> tuple[float, float]:
    return next((args[0], args[1]) for args in seen.text if args[2] == words)


@pytest.mark.parametrize("limit", [1.5, 2.0, 3.0])
def test_the_persons_own_limit_is_drawn_where_the_axis_has_it(drawn, limit):
    """A limit of 1.5 drawn at 3 would let a bad match pass by eye."""
    seen = drawn(bench.SwrPicture(finding=swept(limit).bench))
    across = [args for args in seen.line if len(args) > 6 and args[6] == (5, 3) and args[1] == args[3]]
    assert len(across) == 1
    ticks = {args[2]: args[1] for args in seen.text if args[2] in ("1.5", "2", "3")}
    assert across[0][1] == pytest.approx(ticks[f"{limit:g}"], abs=0.01)
    assert any(args[2] == f"your limit {limit:g}" for args in seen.text)


def test_a_ribbon_is_thick_and_green_where_the_match_is_good_and_thin_and_red_where_it_is_bad(drawn):
    """|Γ| is 0.2 at SWR 1.5, 1/3 at 2 and 0.5 at 3: windows of 20, 33⅓ and 50 MHz about 870."""
    paper = Paper()
    seen = drawn(bench.RibbonPicture(finding=swept(2.0).bench))
    bars: dict[str, tuple[float, float]] = {}
    for args in seen.rect:
        fill = args[1] if len(args) > 1 else None
        for name in ("holds", "doubt", "fails"):
            if fill is not None and fill == paper.colour(name, 0.72):
                bars[name] = (args[0].width(), args[0].height())
    assert bars["holds"][1] > bars["doubt"][1] > bars["fails"][1]
    assert bars["doubt"][0] / bars["holds"][0] == pytest.approx(33.333 / 20, rel=0.01)
    assert bars["fails"][0] / bars["holds"][0] == pytest.approx(50 / 20, rel=0.01)
    key = {args[2] for args in seen.text}
    assert {"under 1.5", "to 2", "to 3"} <= key


def over_flat_ground(drawn):
    """An isotropic budget over 4 km, nothing measured: both laws stand in the picture."""
    book = Book()
    a = book.antenna("A", known_gain_dbi=2.15)
    book.home(4000)
    book.levels(power_w=0.1)
    book.far(gain_dbi=2.15, sensitivity_dbm=-140.0)
    climb = book.climb(a)
    return climb, drawn(link.FanPicture(finding=climb.link, focus_id=a.id))


def test_plane_earth_falls_twice_as_fast_as_free_space_and_is_drawn_so(drawn):
    climb, seen = over_flat_ground(drawn)
    w = climb.link.drawn
    d, free, earth = w.distance_m, w.free_dbm, w.earth_dbm
    heights = (climb.field.home.height_m, max(climb.field.wanted.height_m, 0.5))
    for level, loss in ((free, free_space_loss_db(d, 869e6)), (earth, plane_earth_loss_db(d, *heights, 869e6))):
        np.testing.assert_allclose(level + loss, level[0] + loss[0], atol=1e-9)
    assert (free[0] - free[-1]) == pytest.approx(20 * np.log10(d[-1] / d[0]), abs=1e-9)
    beyond = d > 2 * 4 * np.pi * heights[0] * heights[1] * 869e6 / 299792458.0
    fall = earth[beyond][0] - earth[beyond][-1]
    assert fall == pytest.approx(40 * np.log10(d[beyond][-1] / d[beyond][0]), abs=0.5)
    # Two curves are drawn, and the lower one at the far end is plane earth's: down is a larger y.
    (free_x, free_y, *_), (earth_x, earth_y, *_) = seen.path[:2]
    np.testing.assert_array_equal(free_x, earth_x)
    dbm_per_px = (free[0] - free[-1]) / (free_y[-1] - free_y[0])
    np.testing.assert_allclose((earth_y - free_y) * dbm_per_px, free - earth, atol=1e-6)
    assert words_at(seen, "plane earth")[1] > words_at(seen, "free space")[1]


def test_the_fan_is_as_wide_as_its_ninety_per_cent(drawn):
    climb, seen = over_flat_ground(drawn)
    free, fan = climb.link.drawn.free_dbm, climb.link.drawn.fan_db
    _, low, high, *_ = seen.between[0]
    dbm_per_px = (free[0] - free[-1]) / (seen.path[0][1][-1] - seen.path[0][1][0])
    np.testing.assert_allclose((np.asarray(low) - np.asarray(high)) * dbm_per_px, 2 * fan, rtol=1e-6)
    assert fan[0] > 1.645 * 6, "what one place strays from the median is in it"


def test_a_track_without_levels_is_on_the_map_and_on_no_level(drawn):
    book = Book()
    a = book.antenna("A")
    book.home()
    book.log(book.run(a, 1), np.linspace(50, 900, 40), np.full(40, np.nan))
    climb = book.climb(a)
    seen = drawn(field.MapPicture(finding=climb.field, focus_id=a.id))
    assert [len(args[0]) for args in seen.dots] == [40]
    assert climb.field.samples == ()


def test_the_better_one_stands_where_it_is_better_as_large_as_it_is(drawn):
    book = Book()
    a, b = book.antenna("A"), book.antenna("B")
    book.home()
    d = np.linspace(100, 2000, 400)
    for number, antenna in enumerate((a, b, b, a), 1):
        near = np.where(d < 1000, 6.0, -3.0) if antenna is a else 0.0
        book.log(book.run(antenna, number), d, -60 - 25 * np.log10(d / 100) + near)
    climb = book.climb(a)
    found = climb.field.ground
    seen = drawn(ground.GroundPicture(ground=found, antennas=(a, b), focus_id=a.id))
    slots = {antenna.id: antenna.slot for antenna in climb.evidence.antennas}
    marks = seen.glyph[2:]  # after the two at the names
    assert len(marks) == int((np.abs(found.difference_db) > ALIKE_DB).sum())
    sizes = {slot: {round(args[3], 1) for args in marks if args[2] == slot} for slot in slots.values()}
    assert max(sizes[slots[b.id]]) < min(sizes[slots[a.id]]), "6 dB is larger than 3"
