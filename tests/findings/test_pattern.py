"""The Pattern: reading cuts, and gain by substitution."""

import numpy as np
import pytest

from tallmast.units import show

from .build import Book

ANGLE = np.arange(0, 360, 5.0)


def beam(width: float, top: float = 0.0):
    off = (ANGLE + 180) % 360 - 180
    return top + np.maximum(-12 * (off / width) ** 2, -20)


def test_substitution_by_hand():
    # −40.0 against −46.5 of a dipole of 2.15 dBi: 8.65 dBi; levels that don't scatter are as uncertain as stated, and both
    # were put on anew: u² = 0.4² + 0.4² + 0.3² + 2·0.1², u = 0.656.
    book = Book()
    a, ref = book.antenna("A"), book.antenna("Ref", known_gain_dbi=2.15, known_gain_u_db=0.3)
    book.cut(a, beam(60, -40.0), absolute=True, session="yard", level_u_db=0.4)
    book.cut(ref, np.full(72, -46.5), absolute=True, session="yard", level_u_db=0.4)
    gain = book.climb(a).pattern.of("a").substitution
    assert gain.value == pytest.approx(8.65)
    assert gain.u == pytest.approx(0.656, abs=1e-3)
    assert {name for name, _ in gain.working.parts} == {"level of A", "level of Ref", "gain of Ref", "both put on anew"}


@pytest.mark.parametrize("change", [{"absolute": False}, {"session": "another day"}])
def test_cuts_that_can_t_be_compared_give_no_gain(change):
    book = Book()
    a, ref = book.antenna("A"), book.antenna("Ref", known_gain_dbi=2.15)
    book.cut(a, beam(60), **{"absolute": True, "session": "yard", **change})
    book.cut(ref, np.zeros(72), absolute=True, session="yard")
    assert book.climb(a).pattern.of("a").substitution is None
    assert any("gain not shown" in c.text for c in book.climb(a).pattern.checks)


def test_beam_sentence_and_claim():
    book = Book()
    a = book.antenna("A")
    book.claim(a, "beamwidth", 110)
    book.cut(a, beam(60))
    pattern = book.climb(a).pattern
    assert pattern.focus.cuts[0].beamwidth.value == pytest.approx(60, abs=1)
    assert any(c.mark == "fails" and "110°" in c.text for c in pattern.checks)


def test_directivity_needs_both_planes():
    book = Book()
    a = book.antenna("A")
    book.cut(a, beam(60))
    assert book.climb(a).pattern.of("a").directivity is None
    half = np.arange(-90, 91, 5.0)
    ahead = book.cut(a, np.maximum(-12 * (half / 60) ** 2, -20), half, plane="elevation")
    # 32 400/3600 = 9: 9.54 dBi, where one of both is no whole turn.
    assert book.climb(a).pattern.of("a").directivity.value == pytest.approx(9.54, abs=0.2)
    del book.records[ahead.id]
    book.cut(a, beam(60), plane="elevation")
    whole = book.climb(a).pattern.of("a").directivity
    assert whole.name == "directivity by integration"
    # A Gaussian beam of 60° both ways: 16·ln 2/θ² = 10.1 (10.05 dBi), less the −20 dB round it.
    assert whole.value == pytest.approx(10.05, abs=0.4)


def test_the_sector_of_the_question_is_read():
    book = Book(sector_from_deg=-30, sector_to_deg=30)
    a = book.antenna("A")
    book.cut(a, beam(60))
    assert book.climb(a).pattern.focus.cuts[0].sector.value == pytest.approx(-3.0, abs=0.05)


def test_a_turntable_zero_is_taken_off():
    book = Book()
    a = book.antenna("A")
    book.cut(a, np.roll(beam(60), 18), boresight_deg=90)
    assert book.climb(a).pattern.focus.cuts[0].peak_deg == 0


def test_nothing_yet_teaches():
    book = Book()
    book.antenna("A")
    assert "drop a CSV" in book.climb().pattern.detail


def noisy(seed: int, u: float = 0.7, step: float = 2.0):
    angle = np.arange(0, 360, step)
    off = (angle + 180) % 360 - 180
    return angle, np.maximum(-12 * (off / 60) ** 2, -20) + np.random.default_rng(seed).normal(0, u, len(angle))


def test_the_luckiest_sample_sets_neither_peak_nor_beam():
    widths, peaks = [], []
    for seed in range(60):
        book = Book()
        a = book.antenna("A")
        angle, level = noisy(seed)
        book.cut(a, level, angle, level_u_db=0.7)
        cut = book.climb(a).pattern.focus.cuts[0]
        widths.append(cut.beamwidth.value)
        peaks.append(cut.peak.value)
        assert cut.peak.value < level.max()
    # The strongest of 60 samples stood 1 to 1.5 dB over the beam, and made it 10° narrower.
    assert np.mean(peaks) == pytest.approx(0.0, abs=0.1)
    assert np.mean(widths) == pytest.approx(60.0, abs=1.0)


def test_an_omni_is_averaged_all_round_and_its_ripple_is_that_of_the_curve():
    book = Book()
    a = book.antenna("A")
    angle = np.arange(0, 360, 5.0)
    random = np.random.default_rng(2)
    book.cut(a, -50 + 0.5 * np.cos(2 * np.radians(angle)) + random.normal(0, 0.6, 72), angle, level_u_db=0.6)
    cut = book.climb(a).pattern.focus.cuts[0]
    assert cut.beamwidth is None
    low, high = cut.peak.interval
    assert low < -49.99 < high and high - low < 0.4
    low, high = cut.ripple.interval
    assert low < 1.0 < high < 2.5
    assert book.climb(a).pattern.sentence.startswith("A looks all round in azimuth, even to ")


def test_of_two_equal_lobes_the_one_at_the_front_is_meant():
    angle = np.arange(0, 360, 5.0)
    level = 10 * np.log10(np.cos(np.radians(angle)) ** 2 * 0.99 + 0.01)
    level[36] += 0.4  # the lobe behind is luckier
    book = Book()
    a = book.antenna("A")
    random = np.random.default_rng(1).normal(0, 0.3, 72)
    book.cut(a, level + random, angle, level_u_db=0.3)
    assert abs((book.climb(a).pattern.focus.cuts[0].peak_deg + 180) % 360 - 180) < 20


def test_what_is_stated_and_not_seen_in_the_scatter_is_not_averaged_away():
    def u(stated, scatter):
        book = Book()
        a = book.antenna("A")
        angle, level = noisy(4, scatter)
        book.cut(a, level, angle, level_u_db=stated)
        return book.climb(a).pattern.focus.cuts[0].peak.u

    assert u(0.5, 0.5) < 0.25
    assert u(2.0, 0.2) > 1.8


def test_how_deep_a_null_goes_between_two_samples_is_not_claimed():
    angle = np.arange(0, 360, 2.0)
    level = 20 * np.log10(np.abs(np.sin(3 * np.radians(angle + 37)) + 1e-3))
    book = Book(sector_from_deg=-40, sector_to_deg=40)
    a = book.antenna("A")
    book.cut(a, level, angle, level_u_db=0.3)
    assert book.climb(a).pattern.focus.cuts[0].sector.bound == "at most"


def test_an_elevation_cut_is_told_from_the_horizon_up_and_down():
    """What lies 33° below the horizon is at −33°, not at 327°."""
    book = Book()
    a = book.antenna("Roof Whip")
    angle = np.arange(-180.0, 180.0, 5.0)
    level = np.where(np.abs(angle + 33) < 60, -(((angle + 33) / 30) ** 2) * 3, -12.0)
    book.cut(a, level, angle, plane="elevation")
    found = book.climb(a).pattern
    assert "in elevation" in found.sentence
    assert found.focus.spoken.plane == "elevation"
    assert found.focus.spoken.peak_deg == pytest.approx(327.0, abs=0.5)
    working = "\n".join(found.focus.spoken.front_to_back.working.lines)
    assert "peak at −33°" in working
    assert "opposite 147°" in working
    assert "left  −63°" in "\n".join(found.focus.spoken.beamwidth.working.lines)


@pytest.mark.parametrize(
    ("angle_deg", "words"), [(-33.0, "−33°"), (327.0, "−33°"), (180.0, "180°"), (-180.0, "180°"), (0.2, "0°")]
)
def test_elevation_words(angle_deg, words):
    assert show.direction(angle_deg, "elevation") == words


def test_over_a_gap_nothing_is_read():
    """Half a turn says nothing of what lies behind, and of a sector only what was measured of it."""
    book = Book()
    a = book.antenna("Half Seen")
    angle = np.arange(-90.0, 91.0, 5.0)
    book.cut(a, -12.0 * (angle / 50.0) ** 2 / 2, angle)
    cut = book.climb(a).pattern.focus.spoken
    assert cut.beamwidth.value == pytest.approx(2 * 50 * np.sqrt(0.5), rel=0.02)
    assert cut.front_to_back is None
    assert "front to back" not in book.climb(a).pattern.sentence
    book = Book(sector_from_deg=60, sector_to_deg=160)
    a = book.antenna("Half Seen")
    book.cut(a, -12.0 * (angle / 50.0) ** 2 / 2, angle)
    sector = book.climb(a).pattern.focus.spoken.sector
    assert sector.bound == "at most", "it may be weaker where nobody measured"
    assert -30 < sector.value < -19, "−19.4 dB at the last sample, 90°; a little beyond it is still read"
    book = Book(sector_from_deg=150, sector_to_deg=200)
    a = book.antenna("Half Seen")
    book.cut(a, -12.0 * (angle / 50.0) ** 2 / 2, angle)
    found = book.climb(a).pattern
    assert found.focus.spoken.sector is None
    assert "no sample in the sector that matters" in found.detail


def test_a_null_has_a_depth_and_a_width_and_the_sector_a_strongest_too():
    book = Book(sector_from_deg=60, sector_to_deg=120)
    a = book.antenna("A")
    angle = np.arange(0, 360, 2.0)
    off = (angle - 90 + 180) % 360 - 180
    # 12 dB deep at 90°, 3 dB over its bottom ±10°.
    book.cut(a, -12.0 + np.minimum(3.0 * (off / 10.0) ** 2, 12.0), angle, level_u_db=0.1)
    cut = book.climb(a).pattern.focus.cuts[0]
    (null,) = cut.nulls
    assert null.at_deg == pytest.approx(90, abs=2)
    assert null.depth.value == pytest.approx(12.0, abs=0.5) and null.width_deg == pytest.approx(20, abs=2)
    assert cut.sector.value == pytest.approx(-12, abs=0.5) and cut.sector_best.value == pytest.approx(0, abs=0.5)
    detail = book.climb(a).pattern.detail
    assert " deep and 20° wide at 90°" in detail and "strongest " in detail


def test_a_crossed_cut_is_no_pattern_and_tells_the_discrimination():
    book = Book()
    a = book.antenna("A")
    same = {"absolute": True, "session": "yard", "level_u_db": 0.2}
    book.cut(a, beam(60, -40.0), **same, component="co-polar")
    book.cut(a, np.full(72, -62.0), **same, component="cross-polar")
    found = book.climb(a).pattern
    one = found.of("a")
    assert one.cut("azimuth").beamwidth.value == pytest.approx(60, abs=1), "the crossed one is not what is spoken of"
    assert one.cross_polar.value == pytest.approx(22.0, abs=0.1)
    assert "The wrong way round it is 22.0 " in found.detail


def test_what_is_all_round_within_its_scatter_has_no_beam():
    """An omni that scatters by a decibel: no "beam of 2 ± 32°"."""
    for seed in range(30):
        book = Book()
        a = book.antenna("A")
        angle = np.arange(0, 360, 10.0)
        level = -40 + 0.8 * np.cos(np.radians(angle)) + np.random.default_rng(seed).normal(0, 1.2, 36)
        book.cut(a, level, angle, level_u_db=1.0)
        (cut,) = book.climb(a).pattern.focus.cuts
        if cut.beamwidth is not None:
            assert cut.beamwidth.half < 0.9 * cut.beamwidth.value


def test_beyond_the_last_direction_read_no_line_dives_to_the_middle():
    book = Book()
    a = book.antenna("A")
    angle = np.arange(-30, 61, 3.0)
    book.cut(a, -40 - 0.004 * (angle - 10.0) ** 2 - np.where(angle > 50, 4.0, 0.0), angle)
    (cut,) = book.climb(a).pattern.focus.cuts
    at, level, _ = cut.line
    told = np.isfinite(level)
    signed = (at[told] + 180) % 360 - 180
    assert signed.min() >= -32 and signed.max() <= 62
    assert level[told].min() >= cut.level_db.min() - 1.0


def test_a_peak_beside_its_front_blames_what_it_was_read_by():
    book = Book()
    a = book.antenna("A")
    angle = np.arange(0, 360, 5.0)
    book.cut(a, -40 - 12 * ((angle - 60 + 180) % 360 - 180) ** 2 / 40**2 / 4, angle)
    (check,) = (c for c in book.climb(a).pattern.checks if c.text.startswith("peak points"))
    assert check.why == "Squint, or the zero of its angles is not where its front was."
