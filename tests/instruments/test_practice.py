"""The practice bench by the same driver and PyVISA as a real instrument: its physics, its SCPI, its speed of answer."""

import subprocess
import sys

import numpy as np
import pytest

from tallmast.instruments import drivers
from tallmast.instruments.driver import InstrumentError, SweepPlan
from tallmast.instruments.drivers import makers
from tallmast.instruments.practice.bench import PracticeBench
from tallmast.instruments.practice.server import AnalyzerScpi, HandsScpi, PracticeServer
from tallmast.instruments.scpi import ScpiAnalyzer, ScpiLink
from tallmast.physics import cable, oneport, resonance
from tallmast.physics.reflection import swr

PLAN = SweepPlan(840e6, 900e6, 401)


@pytest.fixture
def quiet() -> PracticeBench:
    """No noise, no drift: what is attached can be computed."""
    return PracticeBench(noise=0.0, drift_per_hour=0.0, warm_up=0.0, clock=lambda: 0.0)


@pytest.fixture
def served(quiet):
    server = PracticeServer(quiet)
    yield server
    server.stop()


@pytest.fixture
def analyzer(served):
    made = ScpiAnalyzer.at(served.analyzer.address)
    yield made
    made.close()


def test_it_says_who_it_is(analyzer):
    assert analyzer.identify() == "Practice one-port analyzer"


def test_a_sweep_over_the_line_is_what_the_bench_sees(served, analyzer):
    served.bench.attach("Shed Yagi")
    analyzer.configure(PLAN)
    raw = analyzer.sweep()
    np.testing.assert_array_equal(raw.frequency_hz, PLAN.frequency_hz)
    np.testing.assert_array_equal(raw.gamma, served.bench.sweep(PLAN.frequency_hz))
    assert raw.warmth_k == pytest.approx(21.0)


def test_error_terms_are_recovered_by_open_short_and_load_to_a_thousandth(served, analyzer):
    f = PLAN.frequency_hz
    analyzer.configure(PLAN)
    shown = []
    for standard in ("open", "short", "load"):
        served.bench.attach(standard)
        shown.append(analyzer.sweep().gamma)
    ideal = [oneport.open_gamma(f, (49e-15,)), oneport.short_gamma(f), oneport.load_gamma(f, 50.4)]
    terms = oneport.solve(ideal, shown)
    truth = served.bench.terms(f)
    for name in ("directivity", "source_match", "tracking"):
        assert np.abs(getattr(terms, name) - getattr(truth, name)).max() < 1e-9
    served.bench.attach("Gull Collinear")
    corrected = terms.corrected(analyzer.sweep().gamma)
    assert np.abs(np.abs(corrected) - np.abs(served.bench.true_gamma(f))).max() < 0.001


def test_two_cuts_by_the_formula_and_then_by_what_the_first_did(quiet):
    """Half by the formula, then the rest by its own MHz a millimetre: into 868–870 MHz."""
    f = np.linspace(800e6, 920e6, 601)
    quiet.attach("Shed Yagi")
    found = [resonance.fit(f, quiet.true_gamma(f)).f0_hz]
    first = 0.5 * 0.084 * (869e6 - found[0]) / 869e6
    quiet.change(lambda a: a.cut(first))
    found.append(resonance.fit(f, quiet.true_gamma(f)).f0_hz)
    per_m = (found[1] - found[0]) / first
    quiet.change(lambda a: a.cut((869e6 - found[1]) / per_m))
    assert resonance.fit(f, quiet.true_gamma(f)).f0_hz == pytest.approx(869e6, rel=3e-4)
    assert quiet.true_swr(868e6) < 1.5 and quiet.true_swr(870e6) < 1.5


def test_cutting_is_for_antennas_and_has_an_end(quiet):
    with pytest.raises(ValueError, match="a load is attached"):
        quiet.change(lambda a: a.cut(0.001))
    quiet.attach("Shed Yagi")
    with pytest.raises(ValueError, match="can't be cut off"):
        quiet.change(lambda a: a.cut(0.09))
    quiet.attach("gull collinear")
    with pytest.raises(ValueError, match="can't be cut off"):
        quiet.change(lambda a: a.cut(0.001))


def test_the_hand_detunes_the_plate_matters_and_the_sleeve_lowers(quiet):
    f = np.linspace(800e6, 920e6, 601)
    quiet.attach("Check Dipole")
    free = resonance.fit(f, quiet.true_gamma(f)).f0_hz
    quiet.hand = True
    assert resonance.fit(f, quiet.true_gamma(f)).f0_hz < free - 5e6
    quiet.hand, quiet.plate_m = False, 0.1
    assert abs(resonance.fit(f, quiet.true_gamma(f)).f0_hz - free) > 1e6


def test_the_cable_hides_mismatch_and_its_bad_joint_is_found(quiet):
    f = np.linspace(600e6, 1100e6, 801)
    quiet.attach("short")
    quiet.cable.length_m = 3.0
    fit = cable.fit_loss(f, quiet.cable.seen(f, quiet.true_gamma(f)))
    np.testing.assert_allclose(fit.loss_db(f), quiet.cable.loss_db(f), rtol=1e-6)
    quiet.attach("load")
    quiet.cable.joint_m = 1.85
    found = cable.steps(cable.time_response(f, quiet.cable.seen(f, quiet.true_gamma(f)), 0.66))
    assert min(abs(step.distance_m - 1.85) for step in found) < 0.03


def test_noise_falls_with_averages(served):
    served.bench.noise = 0.01
    f = PLAN.frequency_hz
    one = np.std(served.bench.sweep(f) - served.bench.sweep(f))
    many = np.std(served.bench.sweep(f, 100) - served.bench.sweep(f, 100))
    assert one / many == pytest.approx(10, rel=0.25)


def test_errors_drift_with_time_and_warmth():
    now = [0.0]
    bench = PracticeBench(noise=0.0, clock=lambda: now[0])
    f = PLAN.frequency_hz
    first = bench.terms(f).directivity
    now[0] = 600.0
    warm = bench.terms(f).directivity
    now[0] = 3 * 3600.0
    later = bench.terms(f).directivity
    assert 0 < np.abs(warm - first).max() < np.abs(later - first).max() < 0.03
    assert bench.warmth_k() == pytest.approx(14.0, abs=0.01)


def test_the_meter_reads_what_the_analyzer_would(served):
    served.bench.attach("Flat Panel")
    link = ScpiLink(served.meter.address)
    link.write("SOUR:FREQ 883e6;:SOUR:POW 0.4")
    forward, reflected = link.number("MEAS:POW:FORW?"), link.number("MEAS:POW:REFL?")
    assert forward == pytest.approx(0.4, rel=0.05)
    assert link.number("MEAS:SWR?") == pytest.approx(served.bench.true_swr(883e6), rel=0.03)
    assert reflected < forward
    link.close()


def test_hands_over_the_line(served):
    link = ScpiLink(served.hands.address)
    link.write('BENC:ATT "Shed Yagi"')
    assert link.ask("BENCH:ATTACH?") == "Shed Yagi"
    link.write("BENC:CUT 0.0007")
    assert link.number("BENC:CUT?") == pytest.approx(0.0007)
    link.write("BENC:ATT nothing")
    with pytest.raises(InstrumentError, match="there is no nothing"):
        link.complain("do that")
    link.complain("do anything")
    link.close()


@pytest.mark.parametrize(
    "command", ["SENS:FREQ:STAR 8e8", "sense:frequency:start 800000000", ":SENSe:FREQ:START 800e6"]
)
def test_long_and_short_forms(quiet, command):
    scpi = AnalyzerScpi(quiet)
    assert scpi.take(command) == b""
    assert scpi.take("SENS:FREQ:STAR?") == b"800000000.000"


def test_what_is_not_understood_stands_in_the_error_queue(quiet):
    scpi = HandsScpi(quiet)
    scpi.take("MAKE:TEA")
    assert scpi.take("SYST:ERR?") == b'-113,"Undefined header; MAKE:TEA"'
    assert scpi.take("SYST:ERR?") == b'0,"No error"'


def test_a_plan_it_can_t_follow_is_refused_in_its_own_words(analyzer):
    with pytest.raises(InstrumentError, match="refuses to sweep as planned"):
        analyzer.configure(SweepPlan(840e6, 9e9, 401))
    analyzer.configure(PLAN)
    assert len(analyzer.sweep().gamma) == 401


@pytest.mark.parametrize(
    "wrong",
    [
        {"start_hz": 9e8, "stop_hz": 8e8},
        {"start_hz": 0, "stop_hz": 1e9},
        {"start_hz": 1e8, "stop_hz": 1e9, "points": 1},
    ],
)
def test_plans_that_make_no_sense(wrong):
    with pytest.raises(ValueError):
        SweepPlan(**wrong)


def test_it_runs_alone_for_other_programs():
    process = subprocess.Popen(
        [sys.executable, "-m", "tallmast.instruments.practice"], stdout=subprocess.PIPE, text=True
    )
    line = process.stdout.readline()
    address = line.split()[-1]
    made = ScpiAnalyzer.at(address)
    made.configure(PLAN)
    assert float(swr(np.abs(made.sweep().gamma)).max()) < 1.3  # a load is attached
    made.close()
    process.terminate()
    process.wait(10)


def test_drivers_of_other_packages_are_found(monkeypatch):
    class Point:
        def __init__(self, name, made):
            self.name, self._made = name, made

        def load(self):
            if self._made is None:
                raise ImportError("broken package")
            return self._made

    monkeypatch.setattr(drivers, "entry_points", lambda group: [Point("Mine", "maker"), Point("Broken", None)])
    assert makers() == {"SCPI": ScpiAnalyzer.at, "Mine": "maker"}
    assert drivers.found()[1] == ["The driver Broken can’t be loaded (ImportError: broken package)"]
