"""The Tide Watch's notebook, entry by entry, generated from the truth with a fixed seed."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, Literal

import numpy as np

from tallmast.notebook.evidence import Evidence, Series
from tallmast.notebook.records import (
    Antenna,
    Cable,
    Chain,
    Claim,
    Connector,
    Cut,
    DistanceNote,
    FarEnd,
    Log,
    MeterReading,
    Piece,
    Place,
    Question,
    Reading,
    Record,
    Run,
    State,
    Sweep,
)
from tallmast.notebook.store import Entry, Notebook, RawFile
from tallmast.physics.geodesy import destination
from tallmast.physics.reflection import swr, through_cable

from . import levels
from . import truth as so
from .truth import Truth

SEED = 880
FULL_POWER_W = 0.025
TEST_POWER_W = 0.010
STATED_PAD_DB = 16.0
CABLE = Cable(loss_db=0.42, loss_u_db=0.05, length_m=1.2, velocity_factor=0.66)
DIRECTIVITY_DB = 38.0
NOISE = 0.0008
START = datetime(2026, 5, 9, 8, 30, tzinfo=UTC)


def _sma(reverse: bool = False, plug: bool = False) -> Connector:
    return Connector(family="SMA", body="plug" if plug else "jack", contact="pin" if plug != reverse else "socket")


def _n(plug: bool = False) -> Connector:
    return Connector(family="N", body="plug" if plug else "jack", contact="pin" if plug else "socket")


@dataclass
class Draw:
    """The campaign in the making: the truth, chance, and names of series."""

    truth: Truth
    random: np.random.Generator
    count: int = 0

    def name(self, what: str) -> str:
        """Ids that are the same for every seed, so that the demo's notebook is the same file again."""
        self.count += 1
        return f"demo-{what}-{self.count:03d}"


def entries(seed: int = SEED) -> tuple[Truth, list[Entry]]:
    """The truth and every entry of the notebook, in the order in which they were made."""
    random = np.random.default_rng(seed)
    draw = Draw(so.draw(random), random)
    places = _places()
    antennas = _antennas()
    out = list(_shelf(antennas, places))
    out += _bench(draw, antennas)
    out += _levels_and_far_end(draw.truth, seed)
    out += _cuts(draw, antennas)
    out += _runs(draw, antennas, places)
    return draw.truth, out


def evidence(seed: int = SEED) -> tuple[Truth, Evidence]:
    """The campaign as evidence, without a file: for tests over many seeds."""
    truth, made = entries(seed)
    records: dict[str, Record] = {}
    series: dict[str, Series] = {}
    for entry in made:
        records |= {record.id: record for record in entry.records}
        series |= entry.series
    return truth, Evidence(records, series, len(made))


def write(path: Path, seed: int = SEED) -> None:
    """The demo's notebook as a new file."""
    _, made = entries(seed)
    notebook = Notebook.create(path)
    moment = START

    def clock() -> datetime:
        nonlocal moment
        moment += timedelta(minutes=4, seconds=11)
        return moment

    notebook._clock = clock
    try:
        for entry in made:
            notebook.write(entry)
    finally:
        notebook.close()


def _places() -> dict[str, Place]:
    heights = {"Inner Holm": 3.0, "Kelp Rock": 2.0, "Ness Head": 4.0, "Outer Stack": 3.0}
    notes = {
        "Inner Holm": "clear water all the way",
        "Kelp Rock": "grazing path, swell in the way at low tide",
        "Ness Head": "its ridge shades the sound behind it",
        "Outer Stack": "first Fresnel zone partly blocked at low mast heights",
    }
    quay = Place(
        id="place-quay",
        name="Quay",
        latitude_deg=so.QUAY[0],
        longitude_deg=so.QUAY[1],
        height_m=6.0,
        note="logger on a 6 m mast",
    )
    out = {"Quay": quay}
    for name, (bearing, distance) in so.PLACES.items():
        lat, lon = destination(*so.QUAY, bearing, distance)
        out[name] = Place(
            id=f"place-{name.lower().replace(' ', '-')}",
            name=name,
            latitude_deg=round(lat, 6),
            longitude_deg=round(lon, 6),
            height_m=heights[name],
            note=notes[name],
        )
    return out


def _antennas() -> dict[str, Antenna]:
    def one(name: str, slot: int, **more: Any) -> Antenna:
        return Antenna(id=f"antenna-{name.lower().replace(' ', '-')}", name=name, slot=slot, **more)

    states = [
        State(id="yagi-0", name="as built"),
        State(id="yagi-1", name="trimmed 0.7 mm", cut_m=0.0007),
        State(id="yagi-2", name="trimmed 1.4 mm", cut_m=0.0007),
    ]
    plain = [State(id="as-is", name="as received")]
    made = [
        one(
            "Shed Yagi",
            0,
            type="yagi",
            made="built",
            polarization="vertical",
            connector=_n(),
            mate=_n(plug=True),
            length_m=0.62,
            elements=7,
            cut_part_m=0.084,
            mass_kg=0.41,
            price=18.0,
            states=states,
            handling="elements spring back; the boom doesn't mind a knock",
        ),
        one(
            "Gull Collinear",
            1,
            type="collinear",
            made="bought",
            polarization="vertical",
            connector=_n(),
            mate=_n(plug=True),
            length_m=0.95,
            diameter_m=0.026,
            mass_kg=0.62,
            price=54.0,
            states=plain,
            handling="fibreglass, snaps on a hard knock",
        ),
        one(
            "Corkscrew",
            2,
            type="helix",
            made="built",
            polarization="right circular",
            axial_ratio_db=2.0,
            connector=_n(),
            mate=_n(plug=True),
            through=["piece-elbow"],
            length_m=0.48,
            diameter_m=0.11,
            turns=6,
            turn_spacing_m=0.076,
            mass_kg=0.73,
            price=25.0,
            states=[State(id="as-is", name="as built")],
            handling="bends in wind, springs back",
        ),
        one(
            "Flat Panel",
            3,
            type="panel",
            made="bought",
            polarization="vertical",
            connector=_sma(reverse=True),
            mate=_sma(plug=True),
            face_width_m=0.11,
            face_height_m=0.11,
            mass_kg=0.18,
            price=39.0,
            states=plain,
            handling="flat, fits a pocket",
        ),
        one(
            "Check Dipole",
            4,
            type="dipole",
            made="built",
            polarization="vertical",
            connector=_n(),
            mate=_n(plug=True),
            length_m=0.165,
            mass_kg=0.12,
            price=6.0,
            known_gain_dbi=2.15,
            known_gain_u_db=0.3,
            states=[State(id="as-is", name="as built")],
            handling="the reference: never bent",
        ),
    ]
    return {antenna.name: antenna for antenna in made}


def _shelf(antennas: dict[str, Antenna], places: dict[str, Place]) -> Iterator[Entry]:
    question = Question(
        text="Which antenna on the Quay reaches the Outer Stack gauge?",
        campaign="Harrow Skerries Tide Watch",
        band_low_hz=so.BAND_HZ[0],
        band_high_hz=so.BAND_HZ[1],
        swr_limit=1.5,
    )
    yield Entry("Asked: which antenna on the Quay reaches the Outer Stack gauge", [question])
    yield Entry(f"{len(places)} places noted by their coordinates", list(places.values()))
    aimed = question.revised(home_place_id="place-quay", wanted_place_id="place-outer-stack")
    yield Entry("Outer Stack is the place to reach from the Quay", [aimed])
    elbow = Piece(
        id="piece-elbow", name="elbow", first=_n(plug=True), second=_n(), loss_db=0.08, loss_u_db=0.03, rating_w=50.0
    )
    yield Entry("Into the drawer: elbow, 0.08 dB", [elbow])
    for antenna in antennas.values():
        first = antenna.revised(states=antenna.states[:1])
        yield Entry(f"{antenna.name} put on the shelf", [first])
    gull, panel = antennas["Gull Collinear"].id, antennas["Flat Panel"].id
    claims = [
        Claim(id="claim-1", antenna_id=gull, quantity="gain", value=8.0, reference="dBi", read_in="leaflet in the box"),
        Claim(id="claim-2", antenna_id=gull, quantity="swr", value=1.5, read_in="leaflet in the box"),
        Claim(
            id="claim-3", antenna_id=panel, quantity="gain", value=11.0, reference="dBi", read_in="printed on the back"
        ),
        Claim(
            id="claim-4",
            antenna_id=panel,
            quantity="beamwidth",
            value=110.0,
            second_value=110.0,
            read_in="seller's page",
        ),
        Claim(
            id="claim-5", antenna_id=panel, quantity="range", value=15_000.0, at_power_w=0.05, read_in="seller's page"
        ),
    ]
    for claim in claims:
        owner = next(a.name for a in antennas.values() if a.id == claim.antenna_id)
        yield Entry(f"{owner}: {claim.title} noted, {claim.read_in}", [claim])


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


def _bench(draw: Draw, antennas: dict[str, Antenna]) -> Iterator[Entry]:
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


def _levels_and_far_end(truth: Truth, seed: int) -> Iterator[Entry]:
    yield from levels.drawer()
    chain = Chain(
        power_w=TEST_POWER_W,
        power_u_db=0.3,
        radio_id=levels.LOGGER.id,
        placed=levels.CHAIN_PADS,
        cable_loss_db=1.2,
        cable_loss_u_db=0.1,
        full_power_w=FULL_POWER_W,
        duty=0.1,
        legal_eirp_w=0.5,
    )
    yield Entry("Power 10 mW through 16 dB of pads; 25 mW in the end", [chain])
    far = FarEnd(
        name="gauge",
        gain_dbi=0.0,
        gain_u_db=1.0,
        polarization="vertical",
        sensitivity_dbm=-99.0,
        sensitivity_u_db=0.7,
        power_w=0.01,
        home_sensitivity_dbm=-102.0,
        radio_id=levels.GAUGE.id,
        wanted_db=6.0,
    )
    yield Entry("Far end: the gauge's whip and its sensitivity", [far])
    yield from levels.after(truth, chain, seed)


def _cuts(draw: Draw, antennas: dict[str, Antenna]) -> Iterator[Entry]:
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


def _log(
    draw: Draw, run: Run, distance: np.ndarray, bearing: np.ndarray, level: np.ndarray, floor_dbm: float, stem: str
) -> Entry:
    heard = level > floor_dbm
    level = np.where(heard, np.round(level, 1), np.nan)
    points = [destination(*so.QUAY, float(b), float(d)) for b, d in zip(bearing, distance, strict=True)]
    lat = np.round([p[0] for p in points], 6)
    lon = np.round([p[1] for p in points], 6)
    time = np.arange(len(lat)) * 2.0
    text = io.StringIO()
    text.write("time s,lat,lon,rssi dBm\n")
    for row in zip(time, lat, lon, level, strict=True):
        text.write(f"{row[0]:.0f},{row[1]:.6f},{row[2]:.6f},{'' if np.isnan(row[3]) else f'{row[3]:.1f}'}\n")
    raw = RawFile(f"{stem}.csv", text.getvalue().encode())
    series_id = draw.name("log")
    columns = {"time_s": time, "latitude_deg": lat, "longitude_deg": lon, "level_dbm": level}
    log = Log(
        id=f"{series_id}-record",
        run_id=run.id,
        series_id=series_id,
        source=raw.name,
        raw_sha256=raw.sha256,
        mapping={"latitude_deg": "lat", "longitude_deg": "lon", "level_dbm": "rssi dBm", "time_s": "time s"},
    )
    return Entry(f"Run {run.number}: log of {len(lat)} points", [log], raw=[raw], series={series_id: columns})


def _runs(draw: Draw, antennas: dict[str, Antenna], places: dict[str, Place]) -> Iterator[Entry]:
    truth, random = draw.truth, draw.random
    yield Entry(
        "Ness Head: note says 3.9 km from the Quay",
        [
            DistanceNote(
                id="distance-note-1", from_place_id="place-quay", to_place_id="place-ness-head", distance_m=3_900.0
            )
        ],
    )
    along = np.arange(150.0, 2_060.0, 5.0)
    shadow = so.shadowing(truth, random, along)
    plan: list[tuple[str, dict[str, Any]]] = [
        ("Shed Yagi", {}),
        ("Gull Collinear", {}),
        ("Gull Collinear", {}),
        ("Shed Yagi", {}),
        ("Corkscrew", {}),
        ("Corkscrew", {"power_w": 0.05, "weather": "rain"}),
        ("Check Dipole", {}),
    ]
    for number, (name, changed) in enumerate(plan, 1):
        antenna = antennas[name]
        run = Run(
            **{
                "id": f"run-{number}",
                "number": number,
                "manner": "boat",
                "antenna_id": antenna.id,
                "state_id": antenna.state.id,
                "power_w": TEST_POWER_W,
                "pad_db": STATED_PAD_DB,
                "rate": "38k4",
                "channel_hz": 868.95e6,
                "place_id": "place-quay",
                "path": "A",
                "height_m": 6.0,
                "weather": "dry",
                "ended": "turned back as planned",
                **changed,
            }
        )
        yield Entry(f"Run {number}: {name}, {run.power_w * 1e3:g} mW, pad 16 dB, path A", [run])
        distance = np.clip(along + random.normal(0, 2.0, len(along)), 100, None)
        bearing = so.BEARING_DEG + random.normal(0, 0.5) + np.interp(along, [150, 900, 2060], [1.5, -1.0, 0.5])
        level = truth.eirp_like_dbm(name, run.power_w, truth.pad_db) - truth.path_loss_db(distance) + shadow
        level = level + random.normal(0, truth.run_sd_db) + random.normal(0, truth.fade_sd_db, len(along))
        yield _log(draw, run, distance, bearing, level, truth.sensitivity_dbm, f"run-{number}")
        yield from _reports(draw, run, places, name)
    for number, name in ((8, "Shed Yagi"), (9, "Check Dipole")):
        antenna = antennas[name]
        run = Run(
            id=f"run-{number}",
            number=number,
            manner="flight",
            antenna_id=antenna.id,
            state_id=antenna.state.id,
            power_w=TEST_POWER_W,
            pad_db=STATED_PAD_DB,
            rate="38k4",
            channel_hz=868.95e6,
            place_id="place-quay",
            path="out and back at 40 m",
            height_m=6.0,
            weather="dry",
        )
        yield Entry(f"Run {number}: {name}, logger flight out and back", [run])
        out = np.arange(160.0, 900.0, 12.0)
        distance = np.concatenate([out, out[::-1]])
        level = truth.eirp_like_dbm(name, run.power_w, truth.pad_db) - 20 * np.log10(
            4 * np.pi * distance * so.CENTRE_HZ / 299_792_458.0
        )
        level = level + random.normal(0, truth.run_sd_db) + random.normal(0, 1.2, len(distance))
        bearing = so.BEARING_DEG + random.normal(0, 0.6, len(distance))
        yield _log(draw, run, distance, bearing, level, truth.sensitivity_dbm, f"flight-{number}")


def _reports(draw: Draw, run: Run, places: dict[str, Place], name: str) -> Iterator[Entry]:
    """Spoken reports from both ends, at full power and without a log, where somebody stood."""
    truth = draw.truth
    made: list[Record] = []
    for place, shade in (("Inner Holm", 0.0), ("Ness Head", 9.0)):
        distance = so.PLACES[place][1]
        level = truth.eirp_like_dbm(name, run.power_w, truth.pad_db) - float(truth.path_loss_db(distance)) - shade
        over = level - truth.sensitivity_dbm + draw.random.normal(0, 1.5)
        ends: tuple[tuple[Literal["away", "home"], float], ...] = (("away", 0.0), ("home", -1.0))
        for end, more in ends:
            grade = int(np.clip(np.floor((over + more) / 3.0) + 2, 0, 5))
            made.append(
                Reading(
                    id=draw.name("reading"),
                    run_id=run.id,
                    place_id=places[place].id,
                    end=end,
                    heard=grade > 0,
                    readability=grade or None,
                    as_typed=f"{grade} of 5" if grade else "not heard",
                    note="rain" if run.weather == "rain" else "",
                )
            )
    yield Entry(f"Run {run.number}: reports from both ends at Inner Holm and Ness Head", made)
