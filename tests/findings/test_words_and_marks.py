"""What is said of a finding, case by case: the mark a claim gets, the words for what was seen, and where a rule ends."""

import math

import numpy as np
import pytest

from tallmast.findings.bench.live import noise_of, read_live
from tallmast.findings.connection import connect
from tallmast.findings.levels.compare import compare
from tallmast.findings.levels.display_curve import fit
from tallmast.findings.levels.drawer import Stack, Stacked, fail_figure
from tallmast.findings.levels.exposed import gain_at
from tallmast.findings.levels.pieces import InDrawer, taken
from tallmast.findings.levels.staircase import Limit, LimitMargin, Plan, Planned, climb, limit_check, with_more_power
from tallmast.findings.levels.verify import verify
from tallmast.findings.shelf import claim_words
from tallmast.notebook.records import (
    Cable,
    Claim,
    Comparison,
    Connector,
    DisplayRun,
    GainTable,
    PadCheck,
    Piece,
    Question,
    Radio,
    ReadingsInTurn,
    State,
)
from tallmast.physics.reflection import gamma_from_impedance

from .build import Book
from .test_field import D

QUESTION = Question(band_low_hz=868e6, band_high_hz=870e6)


# Claims


@pytest.mark.parametrize(
    ("claim", "words"),
    [
        ({"quantity": "gain", "value": 8.0, "reference": "dBd"}, "8 dBd"),
        ({"quantity": "gain", "value": 8.0}, "8 dB"),
        ({"quantity": "swr", "value": 1.5}, "SWR ≤ 1.5"),
        ({"quantity": "bandwidth", "value": 20e6, "second_value": 2.0}, "20 MHz of bandwidth at SWR 2"),
        ({"quantity": "bandwidth", "value": 20e6}, "20 MHz of bandwidth"),
        ({"quantity": "resonance", "value": 869e6}, "resonance at 869 MHz"),
        ({"quantity": "beamwidth", "value": 60.0, "second_value": 30.0}, "beam 60° × 30°"),
        ({"quantity": "axial ratio", "value": 0.91515}, "axial ratio 0.9 dB"),
        ({"quantity": "range", "value": 15_000.0, "at_power_w": 0.5}, "15 km at 500 mW"),
    ],
)
def test_a_claim_is_said_as_a_person_would_write_it(claim, words):
    assert claim_words(Claim(antenna_id="a", **claim)).replace("15.0", "15") == words


@pytest.mark.parametrize(("claimed", "mark"), [(1.8, "holds"), (2.3, "holds"), (3.2, "open"), (6.0, "fails")])
def test_a_gain_claim_holds_from_half_a_decibel_under_its_number_on(claimed, mark):
    """Measured like a dipole of 2.15 dBi, give or take 0.3: 2.3 holds with half a decibel of grace, 3.2 is not told
    apart, 6 fails."""
    book = Book()
    a, ref = book.antenna("A"), book.antenna("Ref", known_gain_dbi=2.15, known_gain_u_db=0.02)
    u = 0.05 if claimed != 3.2 else 1.5
    for antenna in (a, ref):
        book.cut(antenna, np.full(72, -43.0), absolute=True, session="s", level_u_db=u)
    book.claim(a, "gain", claimed, reference="dBi")
    assert book.climb().verdict.claims[0].mark == mark


def linked() -> tuple[Book, object]:
    book = Book()
    book.home(3000.0)
    a = book.antenna("A", polarization="vertical")
    book.levels(power_w=0.01)
    book.far(gain_dbi=0.0, sensitivity_dbm=-110.0, polarization="vertical")
    return book, a


def test_how_many_of_all_could_be_ranked():
    book, a = linked()
    b, c = book.antenna("B", polarization="vertical"), book.antenna("C", polarization="vertical")
    for number in (1, 2):
        book.log(book.run(a, number), D, -60 - 25 * np.log10(D / 100))
    found = book.climb(a).verdict
    assert found.standing.words == "1 of 3 ranked"
    assert "B" not in found.detail, "nothing is known of it: it does not reach too"
    assert [r.antenna.name for r in found.ranked if r.chance_of_best] == []
    book.log(book.run(b, 3), D, -62 - 25 * np.log10(D / 100))
    book.log(book.run(c, 4), D, -64 - 25 * np.log10(D / 100))
    assert book.climb(a).verdict.standing.words == "all 3 ranked"
    alone, a = linked()
    for number in (1, 2):
        alone.log(alone.run(a, number), D, -60 - 25 * np.log10(D / 100))
    assert alone.climb(a).verdict.standing.words == "1 of 1 ranked"


@pytest.mark.parametrize(
    ("n", "words", "mark"),
    [
        (2.0, "falls as in free space", "holds"),
        (3.2, "falls faster", "open"),
        (1.6, "falls slower than free space", "disagrees"),
    ],
)
def test_how_the_path_falls_is_said_against_free_space(n, words, mark):
    book, a = linked()
    random = np.random.default_rng(2)
    for number in (1, 2):
        book.log(book.run(a, number), D, -60 - 10 * n * np.log10(D / 100) + random.normal(0, 0.3, len(D)))
    (check,) = [c for c in book.climb(a).link.checks if c.text.startswith("falls")]
    assert check.text.startswith(words)
    assert check.mark == mark


def test_what_the_field_says_of_the_path_stands_under_its_sentence():
    book, a = linked()
    for number in (1, 2):
        book.log(book.run(a, number), D, -60 - 25 * np.log10(D / 100))
    b = book.antenna("B")
    book.log(book.run(b, 3), D, -64 - 25 * np.log10(D / 100))
    assert "falls with distance to the power 2.5" in book.climb(a).field.detail


def test_what_only_home_heard_is_no_sample_of_what_the_far_end_hears():
    book, a = linked()
    near = book.place("Near", 400.0)
    run = book.run(a, 1)
    book.reading(run, near.id, level_dbm=-80.0)
    book.reading(run, near.id, end="home", level_dbm=-60.0)
    (samples,) = book.climb(a).field.samples
    assert samples.at_distance.level_dbm.tolist() == [-80.0], "the path is the one that the far end heard"


# The bench


def swept(gamma_at, low=840e6, high=900e6, question=QUESTION):
    f = np.linspace(low, high, 601)
    return read_live(f, gamma_at(f), question, Cable(), None)


def test_a_live_sweep_over_the_band_tells_its_worst_and_one_beside_it_does_not():
    """Series resonator at 862 MHz, Q 20, 50 Ω: at 870 MHz x = 20·(870/862 − 862/870) = 0.3712, |Γ| = 0.1824, SWR 1.446."""

    def resonator(f):
        return gamma_from_impedance(50 * (1 + 20j * (f / 862e6 - 862e6 / f)))

    whole = swept(resonator)
    assert whole.worst_swr == pytest.approx(1.446, abs=2e-3)
    assert "in band at worst" in whole.words
    assert "best match at 862.0 MHz" in whole.words
    # 869 MHz: x = 0.3249, |Γ| = 0.1604, SWR 1.382.
    assert whole.centre_swr == pytest.approx(1.382, abs=2e-3)
    for low, high in ((840e6, 869.5e6), (868.5e6, 900e6)):
        part = swept(resonator, low, high)
        assert part.worst_swr is None
        assert "at 869 MHz; the band is not covered" in part.words
    assert swept(resonator, question=None).words.startswith("best match at")


def test_noise_along_a_sweep_is_told_by_its_third_differences():
    random = np.random.default_rng(4)
    noise = random.normal(0, 0.01, 4001) + 1j * random.normal(0, 0.01, 4001)
    smooth = 0.3 * np.exp(2j * np.pi * np.linspace(0, 3, 4001))
    assert noise_of(smooth + noise) == pytest.approx(0.01, rel=0.05)
    assert noise_of(smooth) < 1e-5
    assert noise_of(noise[:7]) == 0.0


def test_the_widest_window_of_a_state_is_the_one_that_counts():
    """Two dips: 2 MHz and 20 MHz wide under the limit."""
    f = np.linspace(840e6, 900e6, 1201)
    gamma = np.where((np.abs(f - 845e6) < 1e6) | (np.abs(f - 880e6) < 10e6), 0.1, 0.8)
    book = Book(swr_limit=1.5)
    a = book.antenna("A")
    book.sweep(a, gamma, f)
    book.add(a.revised(states=[*a.states, State(name="trimmed", cut_m=0.001)]))
    trimmed = book.evidence.antenna(a.id)
    book.sweep(trimmed, gamma, f)
    low, high = book.climb(trimmed).bench.focus.rungs[0].window_hz
    assert (high - low) == pytest.approx(20e6, rel=0.02)


@pytest.mark.parametrize(
    ("gamma", "words"), [(0.5, "A misses SWR 1.5"), (0.05, "A holds SWR 1.5"), (0.2, "A may or may")]
)
def test_the_benchs_sentence_says_whether_the_limit_is_held(gamma, words):
    book = Book(swr_limit=1.5)
    a = book.antenna("A")
    book.sweep(a, gamma, directivity_db=30.0)
    assert book.climb(a).bench.sentence.startswith(words)


def test_a_piece_that_ends_just_where_the_band_does_is_for_it():
    ends = {
        "connector": Connector(family="N", body="plug", contact="pin"),
        "mate": Connector(family="N", body="jack", contact="socket"),
    }
    book = Book()
    a = book.antenna("A", through=["p"], **ends)
    for top, doubted in ((870e6, False), (869.9e6, True)):
        piece = Piece(id="p", name="lead", type="cable", top_hz=top, first=ends["mate"], second=ends["connector"])
        known = InDrawer(piece, taken(piece, QUESTION.centre_hz))
        joined = connect(a, {"p": known}, QUESTION, None)
        assert (joined.mark == "disagrees") == doubted, top


# Levels


def test_a_limit_eases_upward_for_a_signal_and_downward_for_an_overload():
    """10 dB more power: 10 dB more over a sensitivity, 10 dB less under an overload, doubt and all."""
    for side, change in (("over", 10.0), ("under", -10.0)):
        met = LimitMargin(Limit("x", -100.0, side), 1, 5.0, 3.0, 7.0)
        eased_by = with_more_power(met, 10.0)
        assert (eased_by.spare_db, eased_by.low_db, eased_by.high_db) == (5 + change, 3 + change, 7 + change)


def test_what_a_pad_bears_is_a_limit_at_its_input():
    """0.5 W into 10 dB: 0.45 W stay in a pad of 1 W, 3.46 dB to spare; its limit lies 3.46 dB over 27 dBm."""
    plan = Plan("out", (Planned("power", "radio", 27.0), Planned("pad", "pad", -10.0, 0.0, 0.0, "near", 1.0)))
    (met,) = climb(plan).met
    assert met.spare_db == pytest.approx(3.458, abs=0.002)
    assert met.limit.level_dbm == pytest.approx(30.458, abs=0.002)
    assert (met.low_db, met.high_db) == pytest.approx((3.458, 3.458), abs=0.002)


def test_a_limit_in_a_reduced_test_is_told_at_full_power_with_the_tests_own_beside():
    met = LimitMargin(Limit("far sensitivity", -100.0, "over"), 1, 5.0, 3.0, 7.0)
    plain, reduced = limit_check(met), limit_check(with_more_power(met, 16.0), met)
    assert "at full power" not in plain.text
    assert reduced.text.endswith("at full power")
    assert any(line.startswith("in the test") for line in reduced.figure.working.lines)
    assert any(line.startswith("level −79") and line.endswith("at full power") for line in reduced.figure.working.lines)


def test_a_spell_of_one_reading_weighs_as_one():
    """Five readings, one, five, of s = 0.1 dB: the one is known to 0.1 dB, not to 0.1/√5; each spell was put up once
    (0.12 dB, alone in B and twice in A); and to 1 dB where nothing tells the scatter."""
    values = [-70.1, -70.0, -69.9, -70.1, -69.9]
    spells = [
        ReadingsInTurn(label="A", values=values),
        ReadingsInTurn(label="B", values=[-66.0]),
        ReadingsInTurn(label="A", values=values),
    ]
    figure = compare(Comparison(what="x", unit="dBm", spells=spells)).difference
    assert figure.u == pytest.approx(math.sqrt(0.1**2 + 2 * 0.1**2 / 5 / 4 + 0.12**2 * 1.5), rel=0.35)
    assert figure.u > 0.1
    single = [ReadingsInTurn(label=k, values=[v]) for k, v in (("A", -70.0), ("B", -66.0), ("A", -70.0))]
    assert compare(Comparison(what="x", unit="dBm", spells=single)).difference.u > 1.0


def test_whole_microvolts_read_steadily_leave_a_step_of_doubt():
    """10 µV shown, 9.5 to 10.5 µV there: 0.87 dB wide, u = 0.25 dB a level and √2 of it in a difference."""
    spells = [ReadingsInTurn(label=k, values=[v] * 4) for k, v in (("A", 10.0), ("B", 11.0), ("A", 10.0), ("B", 11.0))]
    figure = compare(Comparison(what="x", unit="µV", spells=spells)).difference
    assert figure.u == pytest.approx(math.sqrt(2) * 0.83 / math.sqrt(12), rel=0.15)
    spells = [
        ReadingsInTurn(label=k, values=[v] * 4) for k, v in (("A", -70.0), ("B", -69.0), ("A", -70.0), ("B", -69.0))
    ]
    figure = compare(Comparison(what="x", unit="dBm", spells=spells)).difference
    assert figure.u == pytest.approx(math.sqrt(2) / math.sqrt(12), rel=0.1)


def test_a_substitution_of_three_readings_has_no_scatter_of_its_own_to_go_by():
    """Out, in, out: as many unknowns as readings, so a meter's usual 0.05 dB is taken."""
    series = {
        "inside": np.array([0.0, 1.0, 0.0]),
        "level_dbm": np.array([-3.0, -13.2, -3.0]),
        "minute": np.array([0.0, 1.0, 2.0]),
    }
    piece = Piece(id="p", name="pad", type="pad", loss_db=10.0, loss_u_db=0.0, tolerance_db=0.3)
    found = verify(PadCheck(piece_id="p", frequency_hz=869e6, series_id="s", linearity_db=0.0), series, piece)
    assert found.loss.value == pytest.approx(10.2)
    # The mean of two against one: √(1 + ½) · 0.05 = 0.061, and what the ends mismatch by.
    assert found.loss.u > 0.0612
    assert dict(found.loss.working.parts)
    assert math.isinf(found.loss.degrees)


def test_connectors_that_are_not_noted_matter_only_between_pieces():
    bare = Piece(id="p", name="pad", type="pad", loss_db=10.0)
    noted = bare.revised(
        first=Connector(family="N", body="jack", contact="socket"),
        second=Connector(family="N", body="plug", contact="pin"),
    )
    one = Stacked(bare, 0.0, False, None, 0.0)
    two = Stacked(noted, 0.0, False, None, 0.0)
    assert not Stack((one,), 10.0).unknown_joints
    assert Stack((one, two), 20.0).unknown_joints
    assert not Stack((two, two), 20.0).unknown_joints


def test_a_gain_read_off_another_band_is_doubted_by_three_decibels_an_octave():
    book = Book()
    a = book.antenna("A", known_gain_dbi=8.0, known_gain_u_db=0.4)
    book.home(2000.0)
    book.levels()
    book.far()
    ends = book.climb(a).levels.ends
    for octaves, u in ((0.0, ends.gain.u), (1.0, math.hypot(ends.gain.u, 3.0)), (-2.0, math.hypot(ends.gain.u, 6.0))):
        value, doubt, basis = gain_at(book.evidence, a, 869e6 * 2**octaves, ends.gain, 869e6)
        assert value == ends.gain.value
        assert doubt == pytest.approx(u)
        assert basis == ("as measured" if octaves == 0 else "as in its band")


def test_a_radios_own_noise_is_a_line_that_what_arrives_must_stay_over():
    """NF 6 dB in 50 kHz: −174 + 47 + 6 = −121 dBm."""
    book = Book()
    book.home(2000.0)
    a = book.antenna("A", known_gain_dbi=8.0)
    book.add(Radio(id="set", name="set", noise_figure_db=6.0, bandwidth_hz=50e3))
    book.levels()
    book.far(radio_id="set")
    (met,) = [m for m in book.climb(a).levels.out.met if m.limit.name.endswith("noise")]
    assert met.limit.side == "over"
    assert met.limit.level_dbm == pytest.approx(-120.98, abs=0.05)


def test_of_two_gain_tables_of_an_antenna_the_newest_counts():
    book = Book()
    a = book.antenna("A", known_gain_dbi=8.0)
    for key, gain in (("old", 1.0), ("new", 3.0)):
        book.series[key] = {
            "frequency_hz": np.array([100e6, 1e9]),
            "gain_dbi": np.array([gain, gain]),
            "u_db": np.array([0.5, 0.5]),
        }
        book.add(GainTable(antenna_id=a.id, series_id=key, source=key))
    book.home(2000.0)
    book.levels()
    book.far()
    ends = book.climb(a).levels.ends
    assert gain_at(book.evidence, a, 400e6, ends.gain, 869e6)[0] == pytest.approx(3.0)
    assert gain_at(book.evidence, a, 400e6, ends.gain, 869e6)[2] == "by its table"
    assert gain_at(book.evidence, a, 2e9, ends.gain, 869e6)[2] == "by its table, beyond its end"


def test_the_mean_of_an_omni_is_not_lifted_by_its_noise():
    """2 dB of scatter in decibels lifts a mean of power by 0.115·2² = 0.46 dB: of 300 cuts against a quiet reference the
    mean is within 0.06 dB of the truth."""
    off = []
    for seed in range(300):
        random = np.random.default_rng(seed)
        book = Book()
        a, ref = book.antenna("A"), book.antenna("Ref", known_gain_dbi=2.0, known_gain_u_db=0.1)
        book.cut(a, -40.0 + random.normal(0, 2.0, 72), absolute=True, session="s", level_u_db=2.0)
        book.cut(ref, np.full(72, -43.0), absolute=True, session="s", level_u_db=0.2)
        off.append(book.climb(a).pattern.of(a.id).substitution.value - 5.0)
    assert abs(float(np.mean(off))) < 0.06


def test_a_bent_display_may_lie_an_eighth_of_its_bend_off_between_two_steps():
    """0, 1, 4, 9 shown at 0, 10, 20, 30 dB: second difference 2, an eighth 0.25; between 10 and 20 dB a rise of 3 over
    10 dB: 0.83 dB."""
    attenuation = np.array([30.0, 20.0, 10.0, 0.0])
    run = DisplayRun(receiver="r", scale="bit rate", series_id="s", zero_dbm=30.0)
    curve = fit(run, {"attenuation_db": attenuation, "shown": np.array([0.0, 1.0, 4.0, 9.0])})
    assert curve._between_db(15.0) == pytest.approx(0.25 / 3 * 10, rel=1e-6)
    assert curve._between_db(25.0) == pytest.approx(0.25 / 5 * 10, rel=1e-6)


@pytest.mark.parametrize("measured", [True, False])
def test_the_pad_that_ends_a_link_starts_from_the_runs_where_there_are_any(measured):
    """Runs at 10 mW without pads: −60 − 30·log₁₀(d/100 m), so −104.3 dBm at 3 km and −90 at 1 km. Over −110 dBm that is
    20 dB to take away at 1 km, of the runs; of free space from 100 m on it is another number."""
    book = Book()
    book.home(3000.0)
    a = book.antenna("A", known_gain_dbi=2.15, polarization="vertical")
    book.levels(power_w=0.01)
    book.far(gain_dbi=0.0, sensitivity_dbm=-110.0, polarization="vertical")
    if measured:
        for number in (1, 2):
            book.log(book.run(a, number, power_w=0.01), D, -60 - 30 * np.log10(D / 100))
    climb_ = book.climb(a)
    group = climb_.field.main
    figure = fail_figure(climb_.levels.ends, group.fit if group else None, 1000.0, 0.01)
    rows = {line.split(" n ")[0].strip(): line for line in figure.working.lines if " n " in line and ":" in line}
    assert ("measured in the field" in rows) == measured
    row = rows["measured in the field" if measured else "free space"]
    # In free space 10 + 2.15 − 91.23 + 110.
    assert float(row.split(":")[1].split("±")[0]) == pytest.approx(20.0 if measured else 30.92, abs=0.6)
