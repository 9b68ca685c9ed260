"""A serial instrument, through the same driver: a pseudo-terminal stands for the port and its cable."""

import numpy as np
import pytest

from tallmast.instruments.driver import InstrumentError, SweepPlan
from tallmast.instruments.practice.bench import PracticeBench
from tallmast.instruments.practice.serial_line import SerialInstrument
from tallmast.instruments.practice.server import AnalyzerScpi, MeterScpi
from tallmast.instruments.scpi import ScpiAnalyzer, ScpiLink, read_powers

PLAN = SweepPlan(840e6, 900e6, 401)


@pytest.fixture
def bench():
    return PracticeBench(noise=0.0, drift_per_hour=0.0, warm_up=0.0, clock=lambda: 0.0)


@pytest.fixture
def line(bench):
    made = SerialInstrument(AnalyzerScpi(bench))
    yield made
    made.stop()


def test_a_sweep_over_a_serial_line_is_what_the_bench_sees(bench, line):
    bench.attach("Shed Yagi")
    analyzer = ScpiAnalyzer.at(line.address)
    assert analyzer.identify() == "Practice one-port analyzer"
    analyzer.configure(PLAN)
    for _ in range(2):  # what is left of the first would stand in the second
        np.testing.assert_array_equal(analyzer.sweep().gamma, bench.sweep(PLAN.frequency_hz))
    analyzer.close()


def test_a_meter_on_a_serial_line_shows_its_powers(bench):
    bench.attach("Shed Yagi")
    meter = SerialInstrument(MeterScpi(bench))
    forward, reflected = read_powers(meter.address, 869e6)
    assert (forward, reflected) == pytest.approx(bench.meter_powers(869e6, 0.4), rel=0.05)
    meter.stop()


def test_what_an_instrument_refuses_is_said(line):
    link = ScpiLink(line.address)
    link.write("SENS:FREQ:STAR 1")
    with pytest.raises(InstrumentError, match="refuses to sweep"):
        link.complain("sweep")
    link.close()


def test_a_plug_that_is_pulled_is_told(line):
    analyzer = ScpiAnalyzer.at(line.address)
    analyzer.configure(PLAN)
    line.unplug()
    with pytest.raises(InstrumentError, match=r"ASRL.*(broke|no answer|closed)"):
        analyzer.sweep()
    analyzer.close()


def test_a_line_that_was_hung_up_is_told_and_not_a_fault_of_the_program(line):
    link = ScpiLink(line.address)
    link.close()
    for act in (lambda: link.ask("*IDN?"), lambda: link.write("*CLS"), lambda: link.block("CALC:DATA?")):
        with pytest.raises(InstrumentError, match=r"closed|broke"):
            act()
    with pytest.raises(InstrumentError, match=r"closed|broke"), link.patience(100):
        link.ask("*IDN?")
    link.close()
