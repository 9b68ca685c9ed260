"""The Tide Watch's drawer, a stepped display, noise and neighbours: what the Levels rung of the demo stands on.

Its chance is its own, so that the campaign's numbers stay what they are for every seed.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from tallmast.instruments.practice.receivers import RECEIVERS
from tallmast.notebook.entry import Entry
from tallmast.notebook.records import (
    At,
    Comparison,
    Connector,
    DisplayRun,
    Emitter,
    GainTable,
    HomeEnd,
    NoiseSite,
    PadCheck,
    Piece,
    Placed,
    Radio,
    ReadingsInTurn,
)
from tallmast.physics.noise import thermal_dbm

from . import truth as so
from .truth import Truth

LOGGER = Radio(
    id="radio-logger",
    name="logger radio",
    power_w=0.025,
    power_u_db=0.3,
    sensitivity_dbm=-102.0,
    bandwidth_hz=50e3,
    snr_db=10.0,
    noise_figure_db=6.0,
    overload_dbm=-25.0,
    damage_dbm=10.0,
)
GAUGE = Radio(
    id="radio-gauge",
    name="gauge radio",
    power_w=0.01,
    sensitivity_dbm=-99.0,
    bandwidth_hz=50e3,
    snr_db=10.0,
    noise_figure_db=9.0,
    overload_dbm=-20.0,
    damage_dbm=10.0,
)


def _sma(plug: bool) -> Connector:
    return Connector(family="SMA", body="plug" if plug else "jack", contact="pin" if plug else "socket")


def _pad(key: str, name: str, loss: float, rating_w: float, tolerance: float = 0.3) -> Piece:
    return Piece(
        id=f"piece-{key}",
        name=name,
        type="pad",
        first=_sma(False),
        second=_sma(True),
        loss_db=loss,
        loss_u_db=0.0,
        tolerance_db=tolerance,
        rating_w=rating_w,
        top_hz=6e9,
    )


PIECES = (
    _pad("pad-10", "10 dB pad", 10.0, 2.0),
    _pad("pad-6", "6 dB pad", 6.0, 0.5),
    _pad("pad-3", "3 dB pad", 3.0, 0.5),
    _pad("pad-20", "20 dB pad", 20.0, 0.5, 0.5),
    Piece(
        id="piece-steps",
        name="step box",
        type="step attenuator",
        first=_sma(False),
        second=_sma(False),
        loss_db=1.2,
        loss_u_db=0.15,
        largest_db=63.0,
        rating_w=0.5,
        top_hz=2e9,
    ),
    Piece(
        id="piece-white",
        name="white cable",
        type="cable",
        loss_db=0.0,
        loss_u_db=0.1,
        length_m=7.0,
        curve=[At(frequency_hz=100e6, loss_db=0.053, u_db=0.003), At(frequency_hz=1e9, loss_db=0.178, u_db=0.008)],
    ),
    Piece(
        id="piece-preamp",
        name="mast preamp",
        type="preamp",
        loss_db=0.0,
        loss_u_db=0.3,
        gain_db=15.0,
        noise_figure_db=1.0,
        overload_dbm=-30.0,
        damage_dbm=5.0,
    ),
)
CHAIN_PADS = [Placed(piece_id="piece-pad-10"), Placed(piece_id="piece-pad-6")]


def drawer() -> Iterator[Entry]:
    """Radios, pads and the rest go into the drawer."""
    yield Entry("Into the drawer: logger radio and gauge radio", [LOGGER, GAUGE])
    for piece in PIECES:
        yield Entry(f"Into the drawer: {piece.name}", [piece])


def after(truth: Truth, near: HomeEnd, seed: int) -> Iterator[Entry]:
    """What was tried with them."""
    random = np.random.default_rng([seed, 4])
    yield _pad_check(truth, random)
    yield _display(random)
    yield _noise(random)
    yield Entry(
        "Neighbour: the harbour's repeater",
        [Emitter(id="emitter-harbour", name="harbour repeater", frequency_hz=160e6, eirp_w=20.0, distance_m=900.0)],
    )
    yield _comparison(truth, random)
    yield _gain_table()


def _pad_check(truth: Truth, random: np.random.Generator) -> Entry:
    minute = np.arange(9) * 1.5
    inside = np.tile([0.0, 1.0], 5)[:9]
    level = -3.0 + 0.4 * minute / 60.0 - inside * truth.pad_10_db + random.normal(0, 0.02, 9)
    check = PadCheck(
        id="check-pad-10",
        piece_id="piece-pad-10",
        frequency_hz=so.CENTRE_HZ,
        series_id="demo-pad-check",
        idle_dbm=-78.0,
        ends_swr=1.15,
        taken_at="2026-05-09T10:02:00+00:00",
        source="practice range",
    )
    columns = {"inside": inside, "level_dbm": np.round(level, 3), "minute": minute}
    return Entry("10 dB pad measured by substitution, four times in", [check], series={"demo-pad-check": columns})


def _display(random: np.random.Generator) -> Entry:
    receiver = RECEIVERS["bars"]
    attenuation = np.concatenate((np.arange(0.0, 61.0, 2.0), np.arange(60.0, -1.0, -2.0)))
    shown = receiver.pass_over(-46.0 - attenuation, random)
    run = DisplayRun(
        id="display-handset",
        receiver="handset",
        scale="bars",
        series_id="demo-display",
        zero_dbm=-46.0,
        zero_u_db=0.5,
        step_u_db=0.15,
        taken_at="2026-05-09T10:20:00+00:00",
        source="step box, by hand",
    )
    columns = {"attenuation_db": attenuation, "shown": shown, "order": np.arange(len(shown), dtype=float)}
    return Entry("Handset's bars stepped through 60 dB and back", [run], series={"demo-display": columns})


def _noise(random: np.random.Generator) -> Entry:
    floor = thermal_dbm(50e3) + 10.5 + random.normal(0, 0.3)
    site = NoiseSite(
        floor_dbm=round(float(floor), 1),
        floor_u_db=1.0,
        quieter_floor_dbm=round(float(floor) - 2.6, 1),
        bandwidth_hz=50e3,
        snr_db=10.0,
        receiver_figure_db=6.0,
        feed_loss_db=1.2,
        preamp_gain_db=15.0,
        preamp_figure_db=1.0,
        more_gain_db=4.0,
        directivity_share=0.7,
        more_power=2.5,
    )
    return Entry("Noise floor measured on the Quay and behind the sheds", [site])


def _comparison(truth: Truth, random: np.random.Generator) -> Entry:
    spells = []
    for minute, label, level in ((0, "10 mW", 0.0), (4, "25 mW", 3.98), (8, "10 mW", 0.0), (12, "25 mW", 3.98)):
        # Rayleigh fading: the power is exponential about its mean.
        values = -71.0 + level + 0.03 * minute + 10 * np.log10(random.gamma(6.0, 1 / 6.0, 24))
        spells.append(ReadingsInTurn(label=label, minute=minute, values=[round(float(v), 1) for v in values]))
    compared = Comparison(
        id="compare-power",
        what="gauge at two powers",
        unit="dBm",
        averaging="mean of power",
        spells=spells,
        set_db=3.98,
        antenna_id="antenna-shed-yagi",
    )
    return Entry("Compared: gauge at 10 mW and 25 mW, in turn", [compared])


def _gain_table() -> Entry:
    table = GainTable(
        id="table-dipole", antenna_id="antenna-check-dipole", series_id="demo-gain-table", source="dipole.csv"
    )
    f = np.array([140e6, 400e6, 800e6, 869e6, 950e6])
    columns = {
        "frequency_hz": f,
        "gain_dbi": np.array([-11.0, -3.0, 1.6, 2.1, 1.7]),
        "u_db": np.array([1.5, 1.0, 0.5, 0.3, 0.5]),
    }
    return Entry("Check Dipole: gain table", [table], series={"demo-gain-table": columns})
