"""The practice range over the line: level source, step attenuator, power meter, turntable, through PyVISA."""

import numpy as np
import pytest

from tallmast.instruments.driver import InstrumentError
from tallmast.instruments.practice.range import ATTENUATOR_LOSS_DB, PracticeRange
from tallmast.instruments.practice.server import PracticeServer
from tallmast.instruments.scpi import ScpiLink
from tallmast.instruments.scpi_levels import ScpiLevelSource, ScpiPowerMeter, ScpiStepAttenuator, ScpiTurntable


class Clock:
    now = 0.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def served():
    server = PracticeServer(range_=PracticeRange(clock=Clock(), noise_db=0.0, drift_db_per_hour=0.0))
    yield server
    server.stop()


@pytest.fixture
def open_(served):
    """Opens a driver at one of its instruments, and closes it at the end."""
    opened = []

    def one(driver, which):
        made = driver.at(getattr(served, which).address)
        opened.append(made)
        return made

    yield one
    for made in opened:
        made.close()


def test_each_says_who_it_is(open_):
    names = [
        open_(driver, which).identify()
        for driver, which in (
            (ScpiLevelSource, "source"),
            (ScpiStepAttenuator, "attenuator"),
            (ScpiPowerMeter, "power_meter"),
            (ScpiTurntable, "turntable"),
        )
    ]
    assert names == [f"Practice {n}" for n in ("level source", "step attenuator", "power meter", "turntable")]


def test_a_level_goes_through_the_steps_to_the_meter(served, open_):
    source, steps, meter = (
        open_(ScpiLevelSource, "source"),
        open_(ScpiStepAttenuator, "attenuator"),
        open_(ScpiPowerMeter, "power_meter"),
    )
    assert meter.level_dbm(869e6) == pytest.approx(served.range.floor_dbm, abs=0.01), "nothing is on yet"
    source.set(869e6, -3.0)
    source.switch(True)
    assert meter.level_dbm(869e6) == pytest.approx(-3.0 - ATTENUATOR_LOSS_DB, abs=0.01)
    for db in (1, 7, 20):
        steps.set(db)
        expected = -3.0 - ATTENUATOR_LOSS_DB - served.range.true_steps_db(db)
        assert meter.level_dbm(869e6) == pytest.approx(expected, abs=0.01)
        assert served.range.true_steps_db(db) == pytest.approx(db, abs=0.5)
    source.switch(False)
    assert meter.level_dbm(869e6) < -75


def test_past_sixty_decibels_the_leak_is_what_is_left(served, open_):
    served.range.floor_dbm = -150.0
    source, steps, meter = (
        open_(ScpiLevelSource, "source"),
        open_(ScpiStepAttenuator, "attenuator"),
        open_(ScpiPowerMeter, "power_meter"),
    )
    source.set(869e6, 10.0)
    source.switch(True)
    steps.set(63)
    link = ScpiLink(served.range_hands.address)
    link.write('BENCh:PAD "40 dB"')
    assert link.ask("BENCh:PAD?") == "40 dB"
    link.close()
    assert meter.level_dbm(869e6) == pytest.approx(10.0 - 72.0, abs=0.05), "104 dB are in, 72 are seen"


def test_the_turntable_takes_its_time_and_the_meter_sees_the_beam(served, open_):
    clock = served.range.clock
    table, source, meter = (
        open_(ScpiTurntable, "turntable"),
        open_(ScpiLevelSource, "source"),
        open_(ScpiPowerMeter, "power_meter"),
    )
    link = ScpiLink(served.range_hands.address)
    link.write("BENCh:TURNtable ON")
    assert link.ask("*OPC?") == "1"
    link.close()
    source.set(869e6, 10.0)
    source.switch(True)
    front = meter.level_dbm(869e6)
    table.turn_to(90.0)
    assert table.moving()
    clock.now += 1.0
    assert table.angle_deg() == pytest.approx(30.0)
    clock.now += 10.0
    assert (table.moving(), table.angle_deg()) == (False, 90.0)
    assert meter.level_dbm(869e6) == pytest.approx(front - 18.0, abs=0.1)  # the floor of its beam, with its front at 1
    table.turn_to(180.0)
    clock.now += 1.0
    table.turn_to(0.0)
    assert table.angle_deg() == pytest.approx(120.0), "it turns back from where it is"


@pytest.mark.parametrize(
    ("driver", "which", "doing", "words"),
    [
        (ScpiStepAttenuator, "attenuator", lambda i: i.set(70), "not a whole number from 0 to 63"),
        (ScpiStepAttenuator, "attenuator", lambda i: i.set(2.5), "not a whole number"),
        (ScpiLevelSource, "source", lambda i: i.set(869e6, 30), "-60 to 13 dBm"),
        (ScpiLevelSource, "source", lambda i: i.set(1.0, 0), "100 kHz to 6 GHz"),
        (ScpiTurntable, "turntable", lambda i: i.turn_to(500), "stops are at"),
        (ScpiPowerMeter, "power_meter", lambda i: i.level_dbm(-1.0), "above zero"),
    ],
)
def test_what_they_can_t_do_is_told_in_their_own_words(open_, driver, which, doing, words):
    with pytest.raises(InstrumentError, match=words):
        doing(open_(driver, which))


def test_the_source_drifts_and_readings_scatter():
    clock = Clock()
    bench = PracticeRange(clock=clock, noise_db=0.05, drift_db_per_hour=0.4)
    bench.source_on = True
    shown = [bench.meter_dbm() for _ in range(400)]
    assert np.std(shown) == pytest.approx(0.05, rel=0.2)
    before = bench.true_dbm()
    clock.now = 3600.0
    assert bench.true_dbm() - before == pytest.approx(0.4)


def test_the_meter_is_pinned_at_its_ceiling():
    bench = PracticeRange(clock=Clock(), noise_db=0.0, ceiling_dbm=0.0)
    bench.source_on, bench.source_dbm = True, 13.0
    assert bench.meter_dbm() == 0.0


def test_the_range_is_not_started_before_it_is_wanted():
    server = PracticeServer()
    assert "_range" not in server.__dict__
    assert len(server.instruments) == 9
    server.stop()
