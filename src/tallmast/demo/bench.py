"""The demo’s sweeps, meter readings and cuts."""

from __future__ import annotations

import io
from collections.abc import Iterator
from typing import Literal

import numpy as np

from tallmast.notebook.entry import Entry, RawFile
from tallmast.notebook.records import Antenna, Cable, Cut, MeterReading, Sweep
from tallmast.physics.reflection import swr, through_cable

from . import truth as so
from .draw import Draw

CABLE = Cable(loss_db=0.42, loss_u_db=0.05, length_m=1.2, velocity_factor=0.66)


DIRECTIVITY_DB = 38.0


NOISE = 0.0008


def _sweep(draw: Draw, antenna: Antenna, state: str, resonance_hz: float | None, fixture: str) -> Entry:
    f = np.linspace(840e6, 900e6, 241)
    gamma = draw.truth.antennas[antenna.name].gamma(f, resonance_hz)
    loss = CABLE.loss_db + draw.random.normal(0, CABLE.loss_u_db)
    seen = through_cable(gamma, f, loss, CABLE.length_m, CABLE.velocity_factor)
    # Residual directivity: a small vector that turns slowly with frequency, as after a real calibration.
    phase = draw.random.uniform(0, 2 * np.pi)
    seen = seen + 10 ** (-DIRECTIVITY_DB / 20) * np.exp(1j * (phase + 2 * np.pi * (f - f[0]) / 180e6))
    seen = seen + draw.random.normal(0, NOISE, (2, len(f))).T @ np.array([1.0, 1j])
    stem = f"{antenna.name.lower().replace(' ', '-')}-{state.replace(' ', '-').replace('.', '_')}"
    text = io.StringIO()
    text.write(f"! {antenna.name}, {state}, {fixture}\n# MHz S RI R 50\n")
    for hz, g in zip(f, seen, strict=True):
        text.write(f"{hz / 1e6:.4f} {g.real:.6f} {g.imag:.6f}\n")
    raw = RawFile(f"{stem}.s1p", text.getvalue().encode())
    series_id = draw.name("sweep")
    columns = {"frequency_hz": f, "re": np.round(seen.real, 6), "im": np.round(seen.imag, 6)}
    state_id = next(s.id for s in antenna.states if s.name == state)
    sweep = Sweep(
        id=f"{series_id}-record",
        antenna_id=antenna.id,
        state_id=state_id,
        series_id=series_id,
        source=raw.name,
        raw_sha256=raw.sha256,
        fixture=fixture,
        cable=CABLE,
        directivity_db=DIRECTIVITY_DB,
        noise=NOISE,
    )
    return Entry(f"{antenna.name}, {state}: sweep of {len(f)} points", [sweep], raw=[raw], series={series_id: columns})


def bench(draw: Draw, antennas: dict[str, Antenna]) -> Iterator[Entry]:
    yagi = antennas["Shed Yagi"]
    for i, hz in enumerate(draw.truth.states_hz):
        if i:
            yield Entry(f"{yagi.name} {yagi.states[i].name}", [yagi.revised(states=yagi.states[: i + 1])])
        yield _sweep(draw, yagi, yagi.states[i].name, hz, "Plate A")
    for name in ("Gull Collinear", "Corkscrew", "Flat Panel", "Check Dipole"):
        antenna = antennas[name]
        yield _sweep(draw, antenna, antenna.state.name, None, "Plate A")
    yield _sweep(draw, antennas["Corkscrew"], "as built", 862e6, "Plate A, seated again")
    readings = [
        ("Shed Yagi", 868e6, None),
        ("Shed Yagi", 870e6, None),
        ("Gull Collinear", 869e6, 1.94),
        ("Flat Panel", 869e6, None),
    ]
    for name, hz, misread in readings:
        antenna = antennas[name]
        magnitude = abs(complex(draw.truth.antennas[name].gamma(np.array([hz]))[0]))
        value = misread or max(1.0, float(swr(magnitude)) * (1 + draw.random.normal(0, 0.04)))
        reading = MeterReading(
            id=draw.name("meter"),
            antenna_id=antenna.id,
            state_id=antenna.state.id,
            frequency_hz=hz,
            swr=round(value, 2),
            power_w=0.4,
            fixture="Plate A",
        )
        yield Entry(f"Meter on {name}: SWR {reading.swr:.2f} at {hz / 1e6:g} MHz", [reading])


def cuts(draw: Draw, antennas: dict[str, Antenna]) -> Iterator[Entry]:
    wanted: list[tuple[str, Literal["azimuth", "elevation"]]] = [
        ("Check Dipole", "azimuth"),
        ("Shed Yagi", "azimuth"),
        ("Shed Yagi", "elevation"),
        ("Gull Collinear", "azimuth"),
        ("Gull Collinear", "elevation"),
        ("Corkscrew", "azimuth"),
        ("Flat Panel", "azimuth"),
    ]
    offsets: dict[str, float] = {}
    for name, plane in wanted:
        antenna = antennas[name]
        angle = np.arange(0.0, 360.0, 5.0)
        real = draw.truth.antennas[name]
        offset = offsets.setdefault(name, draw.random.normal(0, 0.4))
        level = -48.0 + real.gain_dbi - real.polarization_loss_db + offset + so.pattern_db(name, plane, angle)
        level = np.round(level + draw.random.normal(0, 0.15, len(angle)), 1)
        rows = "\n".join(f"{a:g};{v:.1f}".replace(".", ",") for a, v in zip(angle, level, strict=True))
        raw = RawFile(f"{name.lower().replace(' ', '-')}-{plane}.csv", f"angle deg;level dBm\n{rows}\n".encode())
        series_id = draw.name("cut")
        cut = Cut(
            id=f"{series_id}-record",
            antenna_id=antenna.id,
            state_id=antenna.state.id,
            plane=plane,
            series_id=series_id,
            session="boat shed yard, 24 m",
            absolute=True,
            level_u_db=0.4,
            source=raw.name,
            raw_sha256=raw.sha256,
        )
        yield Entry(
            f"{name}: {plane} cut, every 5°",
            [cut],
            raw=[raw],
            series={series_id: {"angle_deg": angle, "level_db": level}},
        )
