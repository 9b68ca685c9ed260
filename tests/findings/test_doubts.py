"""Every ± by hand: which doubts are in it, how they add, and how few degrees of freedom they rest on."""

import math
import re

import numpy as np
import pytest
from msgspec.structs import astuple

from tallmast.demo import campaign
from tallmast.findings.aims import Aims
from tallmast.findings.climb import RUNGS, Climb
from tallmast.findings.field.path import PathFit
from tallmast.findings.field.spread import RunSpread
from tallmast.findings.figure import Figure, Working
from tallmast.findings.levels.verify import verify
from tallmast.frozen import Frozen
from tallmast.notebook.records import Pad, PadCheck, Piece
from tallmast.physics.statistics import coverage_factor

from .build import Book
from .test_field import D


def test_a_distance_between_two_fixes_of_five_metres_is_uncertain_by_seven():
    """√(5² + 5²) = 7.07 m, so ± 11.6 m at 90 %: at 100 m that is more than a tenth."""
    book = Book()
    book.home()
    near = book.place("Near", 100.0)
    fix = next(p for p in book.climb().field.places if p.place.id == near.id)
    assert fix.distance.u == pytest.approx(7.071, abs=1e-3)
    assert fix.distance.interval[1] - fix.distance.value == pytest.approx(11.63, abs=0.01)
    assert fix.distance.working.parts == (("two fixes, 5 m each", "7 m"),)


def test_what_a_reduced_test_stands_for_has_the_doubt_of_pads_and_power():
    """2 pads of ± 0.6 dB (rectangles, u = 0.346 each) and 0.4 dB of power: u = 0.632 dB in 26 dB.

    At n = 4 the ratio is 10^(26/40) = 4.467; its u = 4.467·ln 10/40·0.632 = 0.1626.
    """
    book = Book()
    book.antenna("A", known_gain_dbi=2.15)
    pads = [Pad(name=f"{db} dB", attenuation_db=db, tolerance_db=0.6) for db in (10, 6)]
    book.levels(power_w=0.01, full_power_w=0.1, power_u_db=0.4, pads=pads)
    row = next(r for r in book.climb().levels.stands_for if r.exponent.value == 4.0)
    assert row.ratio.value == pytest.approx(4.467, abs=1e-3)
    assert row.ratio.u == pytest.approx(0.1626, abs=2e-4)


NO_PLACES = (np.array([]), np.array([]), {})


def test_a_fitted_level_rests_on_the_degrees_of_its_parts():
    """Places: 2² · 2 · 1/10 = 0.8 dB² on 10/2 − 2 = 3 degrees; runs: 1²/2 = 0.5 dB² on 4.

    u² = 1.3 and ν = 1.3²/(0.8²/3 + 0.5²/4) = 6.127 (Welch and Satterthwaite, JCGM 100 §G.4).
    """
    exponent = Figure("exponent", 2.5, 0.1, "", Working((), ()))
    fit = PathFit(
        exponent,
        {"a": -90.0},
        {"a": 2},
        2.0,
        0.0,
        50.0,
        10,
        2.0,
        RunSpread(1.0, 4.0, False),
        (100.0, 1500.0),
        *NO_PLACES,
    )
    value, u, degrees = fit.level("a", 1000.0)
    assert value == -90.0
    assert u == pytest.approx(math.sqrt(1.3))
    assert degrees == pytest.approx(6.127, abs=1e-3)
    # At 100 m x = 10: what the slope adds is 2²·2·10²/50 = 16 dB² more.
    value, u, degrees = fit.level("a", 100.0)
    assert value == pytest.approx(-65.0)
    assert u == pytest.approx(math.sqrt(17.3))
    assert degrees == pytest.approx(17.3**2 / (16.8**2 / 3 + 0.5**2 / 4), rel=1e-9)


def test_a_substitution_counts_only_its_scatter_by_degrees():
    """9 readings, 3 unknowns: 6 degrees for the scatter, so t = 1.943 for its share of the ±, and 1.645 for the meter's
    linearity and the rest; both halves add in squares."""
    minute = np.arange(9) * 1.5
    inside = np.arange(9) % 2
    noise = np.array([0.11, -0.07, 0.02, 0.09, -0.13, 0.05, -0.04, -0.08, 0.06])
    level = -3.0 - 10.2 * inside + noise
    series = {"inside": inside.astype(float), "level_dbm": level, "minute": minute}
    piece = Piece(id="p", name="10 dB pad", type="pad", loss_db=10.0, loss_u_db=0.0, tolerance_db=0.3)
    found = verify(PadCheck(piece_id="p", frequency_hz=869e6, series_id="s", ends_swr=1.15), series, piece)
    design = np.column_stack([1 - inside, inside, minute - minute.mean()])
    solution, *_ = np.linalg.lstsq(design, level, rcond=None)
    left = level - design @ solution
    s2 = float(left @ left) / 6 * float(np.linalg.inv(design.T @ design)[:2, :2] @ [1, -1] @ [1, -1])
    assert found.loss.value == pytest.approx(float(solution[0] - solution[1]), abs=1e-9)
    assert found.loss.u**2 > s2
    half = math.hypot(1.9432 * math.sqrt(s2), 1.6449 * math.sqrt(found.loss.u**2 - s2))
    assert found.loss.interval[1] - found.loss.value == pytest.approx(half, rel=1e-4)
    assert "±" in found.loss.text


def linked(hears_dbm=None, **far) -> tuple[Book, object]:
    book = Book()
    book.home(3000.0)
    a = book.antenna("A", known_gain_dbi=2.15, polarization="vertical")
    book.levels(power_w=0.01, full_power_w=0.1, sensitivity_dbm=hears_dbm)
    book.far(**{"gain_dbi": 0.0, "sensitivity_dbm": -110.0, "polarization": "vertical", **far})
    return book, a


@pytest.mark.parametrize(("home_dbm", "mark"), [(-116.0, "holds"), (-96.0, "open"), (-60.0, "open")])
def test_the_way_back_holds_only_where_its_whole_interval_is_above_nothing(home_dbm, mark):
    """A far end heard that can't hear back is half a link."""
    book, a = linked(power_w=0.01, hears_dbm=home_dbm)
    for number in (1, 2):
        book.log(book.run(a, number), D, -60 - 30 * np.log10(D / 100))
    link = book.climb(a).link
    back = link.margins[0].back
    (check,) = [c for c in link.checks if c.text.startswith("way back")]
    assert check.mark == mark
    assert (back.interval[0] > 0) == (mark == "holds")
    assert check.figure is back


def test_a_margin_rests_on_the_fits_degrees_only_for_the_fits_share():
    book, a = linked(sensitivity_u_db=1.0, gain_u_db=1.0)
    random = np.random.default_rng(3)
    near = np.geomspace(100.0, 3500.0, 60)
    for number in (1, 2, 3):
        book.log(book.run(a, number), near, -60 - 30 * np.log10(near / 100) + random.normal(0, 1, len(near)))
    margin = book.climb(a).link.margins[0].figure
    assert margin.interval[1] - margin.value == pytest.approx(coverage_factor(margin.degrees) * margin.u, rel=1e-9)
    named_parts = dict(margin.working.parts)
    fit = float(re.match(r"[\d.]+", named_parts["path as fitted"])[0])
    main = book.climb(a).field.main
    fitted = main.fit.level(main.tried(a.id), 3000.0)[2]
    assert margin.degrees == pytest.approx(fitted * (margin.u / fit) ** 4, rel=0.1)
    assert margin.degrees > fitted


@pytest.mark.parametrize(
    ("prices", "said"),
    [((120.0, 54.0), ", at 54 instead of 120."), ((54.0, 120.0), ""), ((None, 54.0), ""), ((120.0, None), "")],
)
def test_the_cheaper_one_that_reaches_too_is_named_with_both_prices(prices, said):
    """Only where it is cheaper, and both prices are known."""
    book, a = linked()
    b = book.antenna("B", polarization="vertical", price=prices[1])
    book.add(a.revised(known_gain_dbi=None, price=prices[0]))
    for number, (antenna, gain) in enumerate(((a, 6), (b, 2), (b, 2.4), (a, 6.4)), 1):
        book.log(book.run(antenna, number), D, -60 + gain - 25 * np.log10(D / 100))
    detail = book.climb(a).verdict.detail
    assert "B would reach too, with" in detail
    assert ("instead of" in detail) == bool(said)
    assert said in detail


def figures(found: object, seen: dict[int, Figure] | None = None, done: set[int] | None = None) -> dict[int, Figure]:
    """Every figure in a finding, however deep."""
    seen, done = {} if seen is None else seen, set() if done is None else done
    if isinstance(found, Figure):
        seen[id(found)] = found
    elif id(found) not in done:
        done.add(id(found))
        inner = (
            list(astuple(found))
            if isinstance(found, Frozen)
            else list(found.values())
            if isinstance(found, dict)
            else list(found)
            if isinstance(found, list | tuple)
            else []
        )
        for one in inner:
            figures(one, seen, done)
    return seen


OF_NO_PARTS = {"level at its peak"}
"""Only ever a part of other figures, which name it."""


def test_every_doubt_in_the_demo_says_where_it_comes_from_and_the_shares_add_up():
    """Shares in the figure's own unit, squared and summed, are its u² within their rounding."""
    _, evidence = campaign.evidence()
    climb = Climb(evidence, Aims("antenna-shed-yagi"))
    added = 0
    for rung in RUNGS:
        for figure in figures(climb.of(rung)).values():
            if figure.u == 0 or figure.name in OF_NO_PARTS:
                continue
            assert figure.working.parts, (
                f"{rung}: {figure.name} {figure.text} does not say where its uncertainty comes from"
            )
            shares = [re.fullmatch(r"±?\s*([\d.]+)\s*(\S*)", text) for _, text in figure.working.parts]
            unit = figure.unit if figure.unit not in ("dBi", "dBm") else "dB"
            if all(shares) and {m[2] for m in shares if m} == {unit} and unit:
                whole = math.sqrt(sum(float(m[1]) ** 2 for m in shares if m))
                assert whole == pytest.approx(figure.u, rel=0.06, abs=0.012 * len(shares)), (rung, figure.name)
                added += 1
    assert added > 90
