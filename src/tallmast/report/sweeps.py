"""Sweeps for other programs: Touchstone 1.1 and 2.0, and a table, by the ending of the file's name."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from tallmast.findings.climb import Climb
from tallmast.formats import sweep_table, touchstone
from tallmast.notebook.records import Sweep
from tallmast.physics.decibels import Floats
from tallmast.physics.reflection import Complexes

from .write import ReportError, write_whole

KINDS = "Touchstone 1.1 (*.s1p);;Touchstone 2.0 (*.ts);;Table (*.csv)"


def corrected(climb: Climb, sweep: Sweep) -> tuple[Floats, Complexes, str]:
    """Frequencies, Γ at the calibration plane, and what a reader of the file should know of it.

    Corrected by its calibration where that covers it; the cable stays in, as its numbers are in the remark.
    """
    evidence = climb.whole
    series, antenna = evidence.series(sweep.series_id), evidence.antenna(sweep.antenna_id)
    frequency = np.asarray(series["frequency_hz"])
    gamma = np.asarray(series["re"]) + 1j * np.asarray(series["im"])
    used = next((c for c in climb.bench.calibrations if c.calibration.id == sweep.calibration_id), None)
    said = ["as it came, cable not taken out"]
    if used is not None and used.covers(frequency):
        gamma = used.corrected(frequency, gamma)
        said = ["corrected by its calibration, cable not taken out"]
    if not sweep.phase_known:
        said.append("only the size was measured: the phase is written as zero, and means nothing")
    state = antenna.state_name(sweep.state_id) if antenna else ""
    said.append(f"{antenna.name if antenna else 'unknown'}, {state}")
    said.append(f"fixture {sweep.fixture or 'not noted'}, cable {sweep.cable.loss_db} dB, {sweep.cable.length_m} m")
    return frequency, gamma, "\n".join(said)


def text_of(climb: Climb, sweep: Sweep, ending: str) -> str:
    """The file's text for `.s1p`, `.ts` or `.csv`. Raises ReportError for another ending."""
    frequency, gamma, comment = corrected(climb, sweep)
    if ending == ".csv":
        return sweep_table.write(frequency, gamma)
    if ending in (".s1p", ".ts"):
        return touchstone.write(frequency, gamma, comment, "2.0" if ending == ".ts" else "1.1")
    raise ReportError(f"A sweep is written as .s1p, .ts or .csv, not as {ending or 'a file without an ending'}.")


def write(climb: Climb, sweep: Sweep, path: Path) -> None:
    """Write one sweep. Raises ReportError."""
    write_whole(path, text_of(climb, sweep, path.suffix.lower()).encode())
