"""What a raw sweep becomes when it is kept: the entries of the Bench's acts."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import TYPE_CHECKING

from tallmast.findings.bench.live import noise_of
from tallmast.findings.bench.trust import CalibrationReading
from tallmast.frozen import Frozen
from tallmast.instruments.driver import RawSweep, SweepPlan
from tallmast.notebook.entry import Entry, new_series
from tallmast.notebook.records import (
    Antenna,
    Cable,
    CableSweep,
    Calibration,
    FarEndOfCable,
    Fixture,
    MeterReading,
    Qualification,
    StandardCheck,
    StandardSet,
    State,
    Sweep,
)
from tallmast.physics.reflection import swr_from_powers
from tallmast.units import show

if TYPE_CHECKING:
    from tallmast.physics.decibels import Floats


def now() -> str:
    return datetime.now(UTC).isoformat(timespec="seconds")


def _columns(raw: RawSweep) -> dict[str, Floats]:
    return {"frequency_hz": raw.frequency_hz, "re": raw.gamma.real.copy(), "im": raw.gamma.imag.copy()}


class Setting(Frozen, eq=True):
    """Under what a sweep is taken."""

    analyzer: str
    plan: SweepPlan
    calibration: CalibrationReading | None
    fixture: Fixture | None
    hand_near: bool = False

    @property
    def cable(self) -> Cable:
        return self.fixture.cable if self.fixture else Cable()

    def calibration_id(self, raw: RawSweep) -> str:
        """Of the calibration in use, where it covers the sweep."""
        used = self.calibration
        return used.calibration.id if used and used.covers(raw.frequency_hz) else ""


def sweep(setting: Setting, antenna: Antenna, raw: RawSweep, number: int) -> Entry:
    """A sweep of an antenna in its present state."""
    fixture = setting.fixture
    series_id, series = new_series(_columns(raw))
    record = Sweep(
        antenna_id=antenna.id,
        state_id=antenna.state.id,
        series_id=series_id,
        source=f"{setting.analyzer}, sweep {number}",
        taken_at=now(),
        fixture=fixture.name if fixture else "",
        fixture_id=fixture.id if fixture else "",
        reconnection=fixture.reconnection if fixture else 1,
        cable=setting.cable,
        noise=noise_of(raw.gamma),
        calibration_id=setting.calibration_id(raw),
        averages=setting.plan.averages,
        warmth_k=raw.warmth_k,
        hand_near=setting.hand_near,
    )
    hand = ", hand near" if setting.hand_near else ""
    words = f"{antenna.name}, {antenna.state.name}{hand}: sweep kept, {len(raw.gamma)} points"
    return Entry(words, [record], series=series)


def calibration(setting: Setting, seen: dict[str, RawSweep], standards: StandardSet) -> Entry:
    """Open, short and load as they were seen."""
    last = list(seen.values())[-1]
    columns: dict[str, Floats] = {"frequency_hz": last.frequency_hz}
    for which, raw in seen.items():
        columns |= {f"{which}_re": raw.gamma.real.copy(), f"{which}_im": raw.gamma.imag.copy()}
    series_id, series = new_series(columns)
    record = Calibration(
        series_id=series_id, standards=standards, analyzer=setting.analyzer, taken_at=now(), warmth_k=last.warmth_k
    )
    span = show.band(setting.plan.start_hz, setting.plan.stop_hz)
    return Entry(f"Calibrated {setting.analyzer} over {span}", [record], series=series)


def check(calibration_id: str, raw: RawSweep) -> Entry:
    """The load, measured again."""
    series_id, series = new_series(_columns(raw))
    record = StandardCheck(
        calibration_id=calibration_id, standard="load", series_id=series_id, taken_at=now(), warmth_k=raw.warmth_k
    )
    return Entry("The load measured again", [record], series=series)


def qualification(setting: Setting, fixture: Fixture, raw: RawSweep, tried_with: str) -> Entry:
    """A fixture tried with something known."""
    series_id, series = new_series(_columns(raw))
    record = Qualification(
        fixture_id=fixture.id,
        reconnection=fixture.reconnection,
        calibration_id=setting.calibration_id(raw),
        tried_with=tried_with,
        series_id=series_id,
        taken_at=now(),
    )
    return Entry(f"{fixture.name} tried with the {tried_with}", [record], series=series)


def moved(fixture: Fixture) -> Entry:
    """The fixture was moved or connected again."""
    again = fixture.revised(reconnection=fixture.reconnection + 1)
    return Entry(f"{fixture.name} moved: connection {again.reconnection}", [again])


def cable(
    setting: Setting, raw: RawSweep, name: str, far_end: FarEndOfCable, velocity_factor: float, length_m: float | None
) -> Entry:
    """A cable with something known at its far end."""
    series_id, series = new_series(_columns(raw))
    record = CableSweep(
        name=name,
        far_end=far_end,
        series_id=series_id,
        velocity_factor=velocity_factor,
        length_m=length_m,
        calibration_id=setting.calibration_id(raw),
        taken_at=now(),
        source=setting.analyzer,
    )
    return Entry(f"Cable {name} swept, {far_end} at its far end", [record], series=series)


def meter(antenna: Antenna, frequency_hz: float, forward_w: float, reflected_w: float, setting: Setting) -> Entry:
    """Forward and reflected power as an inline meter showed them."""
    swr = round(swr_from_powers(forward_w, min(reflected_w, 0.96 * forward_w)), 4)
    record = MeterReading(
        antenna_id=antenna.id,
        state_id=antenna.state.id,
        frequency_hz=frequency_hz,
        swr=swr,
        forward_w=forward_w,
        reflected_w=reflected_w,
        power_w=forward_w,
        fixture=setting.fixture.name if setting.fixture else "",
        taken_at=now(),
    )
    return Entry(f"Meter on {antenna.name}: SWR {swr:.2f} at {show.frequency(frequency_hz)}", [record])


def cut(antenna: Antenna, length_m: float) -> tuple[Entry, State]:
    """So much cut off each part: a new state."""
    total = sum(s.cut_m for s in antenna.states) + length_m
    state = State(name=f"trimmed {show.fixed(total * 1e3, 2)} mm", cut_m=length_m)
    changed = antenna.revised(states=[*antenna.states, state])
    return Entry(f"{antenna.name}: {show.fixed(length_m * 1e3, 2)} mm cut off each part", [changed]), state
