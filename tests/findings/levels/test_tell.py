"""Levels: the staircase in decibels, pads against their ratings, what a reduced test stands for, clear distance."""

import pytest

from tallmast.findings.levels.compare import compare
from tallmast.findings.levels.drawer import fail_figure
from tallmast.notebook.records import Comparison, Pad, ReadingsInTurn

from ..build import Book


def book(**chain) -> Book:
    made = Book()
    made.antenna("A", known_gain_dbi=2.15)
    made.levels(**chain)
    return made


def test_the_staircase_adds_up():
    pads = [Pad(name="10 dB", attenuation_db=10), Pad(name="6 dB", attenuation_db=6)]
    levels = book(power_w=0.01, pads=pads, cable_loss_db=1.2).climb().levels
    assert [round(s.level_dbm, 2) for s in levels.steps] == [10.0, 0.0, -6.0, -7.2, -5.05]
    # u² = 0.3² + 2·(0.3/√3)² + 0.1² + 0.3² = 0.25.
    assert levels.eirp.u == pytest.approx(0.5, abs=1e-3)


def test_a_pad_over_its_rating_is_told_first():
    # 5 W into 10 dB: 4.5 W stay in the pad, half of that at 50 % duty.
    levels = book(power_w=5.0, pads=[Pad(name="10 dB pad", attenuation_db=10, rating_w=0.5)], duty=0.5).climb().levels
    assert levels.steps[1].dissipated_w == pytest.approx(2.25)
    assert levels.sentence == "10 dB pad takes 2.25 W and bears 500 mW: don't transmit through it."
    assert levels.standing.mark == "disagreement"


@pytest.mark.parametrize(("n", "ratio"), [(2.0, 6.310), (3.77, 2.657), (4.0, 2.512)])
def test_16_db_stands_for_several_distances(n, ratio):
    levels = book(pads=[Pad(name="16", attenuation_db=16)]).climb().levels
    row = next(r for r in levels.stands_for if r.exponent.value == n)
    assert row.ratio.value == pytest.approx(ratio, abs=2e-3)


def test_without_runs_a_reduced_test_stands_for_a_span_of_distances():
    """16 + 4 dB by hand: 10^(20/20) = 10 in free space, 10^(20/40) = 3.16 over plane earth, 10^(20/30) = 4.64 between."""
    levels = book(power_w=0.01, pads=[Pad(name="20", attenuation_db=20)]).climb().levels
    assert levels.sentence.startswith("The test radiates ") and "at full power expect 4.6 (3." in levels.sentence
    told = levels.sentence.split("expect ")[1]
    low, high = (float(v) for v in told.split("(")[1].split(")")[0].split(" to "))
    assert low <= 3.16 and high >= 10.0


def test_double_the_power_is_not_called_compressed():
    spells = [
        ReadingsInTurn(label=label, values=values)
        for label, values in (("1 W", [-60.0, -60.1, -60.0]), ("2 W", [-57.0, -57.0, -56.9]))
    ]
    told = compare(Comparison(what="power", spells=spells, unit="dBm", set_db=6.0)).check
    assert told.mark == "disagrees" and told.text.startswith("half of what was set: seen 3.") and "3 dB" in told.why
    far_less = [spells[0], ReadingsInTurn(label="4 W", values=[-58.6, -58.6, -58.5])]
    assert compare(Comparison(what="power", spells=far_less, unit="dBm", set_db=6.0)).check.text.startswith(
        "compressed by"
    )


@pytest.mark.parametrize(("known", "asked"), [(0.0, True), (2.15, False), (None, False)])
def test_a_reference_dipole_of_0_dbi_is_asked_about(known, asked):
    made = Book()
    made.antenna("Check", type="dipole", known_gain_dbi=known)
    told = [c.text for c in made.climb().shelf.checks]
    assert ("Check: a dipole of 0 dBi?" in told) == asked


def test_a_pad_to_fail_reckons_with_the_noise_where_the_far_end_stands():
    """Noise there of −95 dBm and 10 dB wanted over it: −85 dBm is needed, not the −110 of its receiver; 25 dB less pad."""

    def needed(noise):
        made = book(power_w=0.1)
        made.home(2000)
        made.far(sensitivity_dbm=-110.0)
        if noise is not None:
            made.add(made.records["rock"].revised(noise_dbm=noise))
        ends = made.climb().levels.ends
        return fail_figure(ends, None, 1500.0, None)

    quiet, loud = needed(None), needed(-95.0)
    assert quiet.value - loud.value == pytest.approx(25.0, abs=0.01)
    assert any("by noise of −95" in line for line in loud.working.lines)


def test_more_power_in_the_end_counts_as_reduction():
    assert book(power_w=0.01, full_power_w=0.1).climb().levels.reduction_db == pytest.approx(10.0)


def test_clear_distance_by_hand():
    # 100 W into 2.15 dBi less nothing, upper end of its uncertainty; 869 MHz ICNIRP: 4.345 W/m².
    levels = book(power_w=100.0).climb().levels
    eirp_w = 10 ** ((50 + 2.15 + 1.645 * (0.3**2 + 0.3**2) ** 0.5 - 30) / 10)
    assert levels.clear.value == pytest.approx((eirp_w * 2.56 / (4 * 3.14159265 * 4.345)) ** 0.5, rel=1e-3)
    assert "licence and local rules decide" in levels.clear.working.meaning


def test_the_users_own_limit():
    checks = book(power_w=1.0, legal_eirp_w=0.5).climb().levels.checks
    assert any(c.mark == "fails" and "over" in c.text for c in checks)


def test_nothing_noted_teaches():
    made = Book()
    made.antenna("A")
    assert "Note the power" in made.climb().levels.detail
