"""Small notebooks put together by hand for tests of findings."""

from __future__ import annotations

import numpy as np

from tallmast.findings.aims import Aims
from tallmast.findings.climb import Climb
from tallmast.findings.field.model.contrasts import Contrast
from tallmast.findings.field.settings import sides
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import (
    Antenna,
    Claim,
    Cut,
    FarEnd,
    HomeEnd,
    Log,
    MeterReading,
    Place,
    Question,
    Reading,
    Run,
    Sweep,
)
from tallmast.physics.geodesy import destination


def told(contrasts, names, factor: str = "antenna") -> dict[tuple[str, str], Contrast]:
    """(the better, the other) by name → what was told of them, alone."""
    return {sides(c.changes, names): c for c in contrasts if c.change.factor == factor and len(c.changes) == 1}


HOME = Place(id="home", name="Quay", latitude_deg=57.9, longitude_deg=-11.2, height_m=6)
BAND = (868e6, 870e6)


class Book:
    """Records and series by hand; `climb()` gives the findings."""

    def __init__(self, **question) -> None:
        self.records: dict = {}
        self.series: dict = {}
        self.add(Question(band_low_hz=BAND[0], band_high_hz=BAND[1], **question))

    def add(self, *records):
        for record in records:
            self.records[record.id] = record
        return records[-1]

    def antenna(self, name: str, **more) -> Antenna:
        return self.add(Antenna(id=name.lower(), name=name, slot=len(self.evidence.antennas), **more))

    def claim(self, antenna: Antenna, quantity: str, value: float, **more) -> Claim:
        return self.add(Claim(antenna_id=antenna.id, quantity=quantity, value=value, **more))

    def sweep(self, antenna: Antenna, gamma, f=None, **more) -> Sweep:
        f = np.linspace(840e6, 900e6, 601) if f is None else f
        key = f"s{len(self.series)}"
        gamma = np.broadcast_to(np.asarray(gamma, dtype=complex), f.shape)
        self.series[key] = {"frequency_hz": f, "re": gamma.real, "im": gamma.imag}
        return self.add(Sweep(antenna_id=antenna.id, state_id=antenna.state.id, series_id=key, **more))

    def meter(self, antenna: Antenna, swr: float, mhz: float = 869, **more) -> MeterReading:
        return self.add(
            MeterReading(antenna_id=antenna.id, state_id=antenna.state.id, frequency_hz=mhz * 1e6, swr=swr, **more)
        )

    def cut(self, antenna: Antenna, level, angle=None, **more) -> Cut:
        angle = np.arange(0, 360, 5.0) if angle is None else angle
        key = f"s{len(self.series)}"
        self.series[key] = {"angle_deg": angle, "level_db": np.asarray(level, dtype=float)}
        return self.add(Cut(antenna_id=antenna.id, state_id=antenna.state.id, series_id=key, **more))

    def place(self, name: str, distance_m: float, bearing_deg: float = 37.0, **more) -> Place:
        lat, lon = destination(HOME.latitude_deg, HOME.longitude_deg, bearing_deg, distance_m)
        return self.add(Place(id=name.lower(), name=name, latitude_deg=lat, longitude_deg=lon, **more))

    def home(self, wanted_m: float | None = None) -> None:
        self.add(HOME)
        changes = {"home_place_id": "home"}
        if wanted_m:
            self.place("Rock", wanted_m)
            changes["wanted_place_id"] = "rock"
        question = self.records["question"]
        self.add(question.revised(**changes))

    def run(self, antenna: Antenna, number: int, **more) -> Run:
        more.setdefault("power_w", 0.01)
        return self.add(Run(id=f"run{number}", number=number, antenna_id=antenna.id, state_id=antenna.state.id, **more))

    def log(self, run: Run, distance, level, bearing_deg: float = 37.0) -> Log:
        points = [destination(HOME.latitude_deg, HOME.longitude_deg, bearing_deg, float(d)) for d in distance]
        key = f"s{len(self.series)}"
        self.series[key] = {
            "latitude_deg": np.array([p[0] for p in points]),
            "longitude_deg": np.array([p[1] for p in points]),
            "level_dbm": np.asarray(level, dtype=float),
        }
        return self.add(Log(run_id=run.id, series_id=key))

    def reading(self, run: Run, place_id: str, **more) -> Reading:
        return self.add(Reading(run_id=run.id, place_id=place_id, **more))

    def levels(self, **more) -> HomeEnd:
        more.setdefault("power_w", 0.01)
        return self.add(HomeEnd(**more))

    def far(self, **more) -> FarEnd:
        more.setdefault("sensitivity_dbm", -110.0)
        return self.add(FarEnd(**more))

    @property
    def evidence(self) -> Evidence:
        return Evidence(self.records, self.series, len(self.records))

    def climb(self, focus: Antenna | None = None, **aims) -> Climb:
        return Climb(self.evidence, Aims(focus.id if focus else "", **aims))
