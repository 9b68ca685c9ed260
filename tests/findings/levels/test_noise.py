"""Which remedy helps: hand-worked cascades and limits."""

import math

import pytest

from tallmast.findings.levels.noise import read_noise
from tallmast.notebook.records import NoiseSite
from tallmast.physics.noise import thermal_dbm

from ..build import Book


def site(frequency_hz=14.2e6, **more):
    book = Book()
    question = book.records["question"]
    book.add(question.revised(band_low_hz=frequency_hz, band_high_hz=frequency_hz))
    more.setdefault("bandwidth_hz", 2400.0)
    more.setdefault("receiver_figure_db", 10.0)
    book.add(NoiseSite(**more))
    return read_noise(book.evidence, 2.15)


def improvements(found):
    return {r.key: r.improvement.value for r in found.remedies}


def test_on_hf_in_town_outside_noise_rules_and_a_preamp_is_for_nothing():
    """F_am at 14.2 MHz in a city: 76.8 − 27.7·log₁₀ 14.2 = 44.9 dB (Rec. ITU-R P.372 Table 1), 35 dB over the set."""
    found = site(surroundings="city", quieter="rural", more_gain_db=6.0, directivity_share=1.0, more_power=4.0)
    assert found.outside.value == pytest.approx(76.8 - 27.7 * math.log10(14.2), abs=1e-9)
    gains = improvements(found)
    assert gains["mast preamp"] == pytest.approx(0.0, abs=0.02)
    assert gains["omni"] == pytest.approx(0.0, abs=0.05)
    assert gains["directional"] == pytest.approx(6.0)
    assert gains["power"] == pytest.approx(6.02, abs=5e-3)
    # Rural is 9.6 dB quieter by the same table.
    assert gains["place"] == pytest.approx(9.6, abs=0.02)
    assert found.sentence.startswith("Outside noise rules here") and "quieter place" in found.sentence
    assert found.detail == (
        "A preamp would bring nothing: it lifts the noise with the signal. 6.0 dB more come with 4 times the power at the "
        "other end."
    )
    assert found.remedies[-1].key == "power", "what the other end can do is not among what helps here"
    assert found.sentence.endswith(f"a {found.remedies[0].name} helps most, {found.remedies[0].improvement.text}.")


def test_a_quiet_uhf_site_behind_a_lossy_feed_wants_the_preamp_at_the_mast():
    """FeedLoss 3 dB, set 6 dB: 9 dB in all. With 15 dB and 1 dB before it: f = 1.2589 + (7.943 − 1)/31.62 = 1.4785, 1.70 dB."""
    thermal = thermal_dbm(50e3)
    found = site(
        869e6,
        bandwidth_hz=50e3,
        receiver_figure_db=6.0,
        feed_loss_db=3.0,
        floor_dbm=thermal + 9.2,
        preamp_gain_db=15.0,
        preamp_figure_db=1.0,
    )
    assert found.own_db == pytest.approx(9.0)
    outside = 10 ** (0.92) - (10**0.9 - 1)
    now, then = outside + 10**0.9 - 1, outside + (1.2589 + (7.943 - 1) / 31.62) - 1
    assert improvements(found)["mast preamp"] == pytest.approx(10 * math.log10(now / then), abs=2e-3)
    # After the feed, each part 3 dB (1.9953) dearer: 1.9953·(1.2589 + (3.981 − 1)/31.62) = 2.700, 4.31 dB.
    then = outside + 1.9953 * (1.2589 + (3.981 - 1) / 31.62) - 1
    assert improvements(found)["radio preamp"] == pytest.approx(10 * math.log10(now / then), abs=2e-3)
    assert "own noise rules" in found.sentence and "preamp at the mast" in found.sentence


def test_sensitivity_in_dbm_and_as_a_field():
    """kT₀B in 2.4 kHz is −140.2 dBm; NF 10 and 10 dB over it: −120.2 dBm with an antenna at 290 K, 0.22 µV."""
    found = site(floor_dbm=-150.0)
    assert found.floor.value == pytest.approx(thermal_dbm(2400.0) + 10.0)
    assert found.sensitivity.value == pytest.approx(-120.17, abs=0.02)
    assert "0.219 µV" in "".join(found.sensitivity.working.lines)
    assert found.trouble.startswith("The floor measured is no higher")
    assert found.folded.unit == "µV/m"


def test_the_table_is_not_carried_beyond_its_end():
    found = site(869e6, surroundings="city")
    assert found.outside is None and not found.remedies
    assert found.sentence == "What rules the noise here can’t be told yet."
    assert "from 0.3 to 250 MHz" in found.detail and "measure the floor" in found.detail


def test_the_doubt_of_the_floor_reaches_the_remedies_it_matters_for():
    thermal = thermal_dbm(2400.0)
    found = site(floor_dbm=thermal + 13.0, floor_u_db=2.0, quieter_floor_dbm=thermal + 11.0)
    u = {r.key: r.improvement.u for r in found.remedies}
    assert u["power"] == 0 and u["mast preamp"] > 0.3
    # Both floors off by 2 dB on their own, and what the receiver makes taken off each: about 2√2, less where the sky ends it.
    assert 2.0 < u["place"] < 3.2


def test_nothing_noted_is_no_finding():
    assert read_noise(Book().evidence, 2.15) is None


def test_a_noisy_preamp_is_told_apart_from_noise_outside():
    found = site(floor_dbm=-150.0, preamp_figure_db=10.0)
    preamp = next(r.improvement for r in found.remedies if r.key == "mast preamp")
    assert preamp.value == pytest.approx(0.0, abs=0.3)
    # Two figures, each 1 dB in doubt: √2·1.645 dB of a receiver that rules.
    assert preamp.half == pytest.approx(2.3, abs=0.4)
    assert found.detail.startswith("A preamp would bring at most 2.")
    assert "it is hardly quieter than the receiver." in found.detail


def test_the_article_fits_what_helps_most():
    thermal = thermal_dbm(2400.0)
    found = site(floor_dbm=thermal + 10.2, more_gain_db=12.0, directivity_share=0.0, preamp_figure_db=10.0)
    assert (
        ": an omni with more gain helps most" in found.sentence
        or ": a directional antenna helps most" in found.sentence
    )
    assert ": a omni" not in found.sentence


def test_where_noise_comes_from_is_doubted_too():
    """6 dB more, 0.7 of them against noise: with outside noise far over the receiver 4.2 dB are left, each 0.15 of the share 0.9 dB."""
    found = site(floor_dbm=-90.0, more_gain_db=6.0, directivity_share=0.7)
    figure = next(r.improvement for r in found.remedies if r.key == "directional")
    assert figure.value == pytest.approx(4.2, abs=0.15)
    assert figure.u == pytest.approx(0.9, abs=0.1)
    assert ("how much of the noise it turns away", f"{0.9:.2f} dB") in figure.working.parts
