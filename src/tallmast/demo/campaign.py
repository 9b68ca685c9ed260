"""The Tide Watch's notebook, entry by entry, generated from the truth with a fixed seed."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from tallmast.notebook.entry import Entry
from tallmast.notebook.evidence import Evidence, Series
from tallmast.notebook.records import FarEnd, HomeEnd, Record
from tallmast.notebook.store import Notebook

from . import bench, ground, levels, runs, shelf
from . import truth as so
from .draw import Draw
from .truth import Truth

SEED = 880
FULL_POWER_W = 0.025
START = datetime(2026, 5, 9, 8, 30, tzinfo=UTC)


def entries(seed: int = SEED) -> tuple[Truth, list[Entry]]:
    """The truth and every entry of the notebook, in the order in which they were made."""
    random = np.random.default_rng(seed)
    draw = Draw(so.draw(random), random)
    places, antennas = shelf.places(), shelf.antennas()
    out = list(shelf.shelf(antennas, places))
    out += bench.bench(draw, antennas)
    out += _levels_and_far_end(draw.truth, seed)
    out += bench.cuts(draw, antennas)
    out += runs.runs(draw, antennas, places)
    out += ground.ground()
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


def _levels_and_far_end(truth: Truth, seed: int) -> Iterator[Entry]:
    yield from levels.drawer()
    near = HomeEnd(
        power_w=runs.TEST_POWER_W,
        power_u_db=0.3,
        radio_id=levels.LOGGER.id,
        sensitivity_dbm=-102.0,
        placed=levels.CHAIN_PADS,
        cable_loss_db=1.2,
        cable_loss_u_db=0.1,
        full_power_w=FULL_POWER_W,
        duty=0.1,
        legal_eirp_w=0.5,
    )
    yield Entry("Power 10 mW through 16 dB of pads; 25 mW in the end", [near])
    far = FarEnd(
        name="gauge",
        gain_dbi=0.0,
        gain_u_db=1.0,
        polarization="vertical",
        sensitivity_dbm=-99.0,
        sensitivity_u_db=0.7,
        power_w=0.01,
        power_u_db=0.3,
        radio_id=levels.GAUGE.id,
        wanted_db=6.0,
    )
    yield Entry("Far end: the gauge's whip and its sensitivity", [far])
    yield from levels.after(truth, near, seed)
