"""A track and the levels of another logger: whose clock is how far off, by what makes the pattern smoothest."""

from __future__ import annotations

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Recording, Run
from tallmast.physics.decibels import Floats

DBM = "level in dBm"
STEP_S = 0.5
MOST_TRIED = 2400
"""Offsets that are tried; of a longer stretch they lie farther apart."""
LEAST_SHARE = 0.6
"""Of the track that levels must lie over."""
CLEAR = 0.85
"""The best has to leave so much less, in mean square, than what offsets leave usually."""
NEARLY, APART_S = 1.5, 8.0
"""What does nearly as well as the best, and how far off that is another offset."""
ALIKE = 1.12
"""Offsets that leave hardly more than the best: any of them may be the right one."""
CELL_DEG = 12.0


class Laid(Frozen):
    """Levels at the moments of a track [n], NaN outside; how many seconds after the track's first moment they began."""

    level_dbm: Floats
    begins_s: float
    by_hand: bool
    sure: bool
    """Whether one offset stands out."""
    u_s: float = 0.0
    """Standard uncertainty of it: round after round the same way, a shift of the clock looks much like a turn of the pattern."""


def levels_of(evidence: Evidence, run: Run) -> tuple[Recording, Floats, Floats] | None:
    """(recording, time s, dBm) of the run's first recording of levels in dBm."""
    for recording in evidence.all(Recording):
        if recording.run_id != run.id:
            continue
        column = next((c for c in recording.columns if c.read_on == DBM), None)
        if column is not None:
            series = evidence.series(recording.series_id)
            return recording, np.asarray(series["time_s"]), np.asarray(series[column.key])
    return None


def lay_over(
    track_s: Floats, azimuth_deg: Floats, path_db: Floats, level_s: Floats, level_dbm: Floats, moved_s: float | None
) -> Laid | None:
    """Levels of one logger [m] laid over the track of another [n] (time, bearing, what the path takes).

    The offset is that under which levels with the path given back agree best in directions of 12° (least mean square within a
    cell); where none stands out it is told so. None where they never overlap by enough.
    """
    time = track_s - track_s[0]
    known = np.isfinite(level_dbm)
    if known.sum() < 20 or len(time) < 20:
        return None
    level_s, level_dbm = level_s[known], level_dbm[known]

    def at(begins: float) -> Floats:
        return np.asarray(np.interp(time - begins, level_s, level_dbm, left=np.nan, right=np.nan))

    if moved_s is not None:
        return Laid(at(moved_s), moved_s, True, True)
    cell = (azimuth_deg / CELL_DEG).astype(int)
    cells = int(360 / CELL_DEG) + 1
    low, high = -float(level_s[-1]) * (1 - LEAST_SHARE), float(time[-1]) - LEAST_SHARE * float(level_s[-1])
    low, high = min(low, 0.0), max(high, float(time[-1]) * (1 - LEAST_SHARE))
    step = max(STEP_S, (high - low) / MOST_TRIED)
    tried: list[tuple[float, float]] = []
    for begins in np.arange(low, high + step, step):
        level = at(float(begins))
        told = np.isfinite(level)
        if told.mean() < LEAST_SHARE * min(1.0, float(level_s[-1]) / max(float(time[-1]), 1e-9)):
            continue
        free, here = (level + path_db)[told], cell[told]
        count = np.maximum(np.bincount(here, minlength=cells), 1)
        mean = np.bincount(here, free, cells) / count
        score = float(np.mean((free - mean[here]) ** 2)) / max(
            1.0 - np.count_nonzero(count > 1) / max(told.sum(), 1), 0.1
        )
        tried.append((score, float(begins)))
    if not tried:
        return None
    least, usual = min(tried)[0], float(np.median([score for score, _ in tried]))
    # Round after round may look alike: of offsets that do nearly as well the one nearest to none, and it is said not to be sure.
    good = [(abs(begins), begins, score) for score, begins in tried if score < NEARLY * least]
    _, near, _ = min(good)
    begins = min((score, b) for score, b in tried if abs(b - near) <= APART_S)[1]
    others = any(abs(b - begins) > 2 * APART_S for _, b, _ in good)
    alike = [b for score, b in tried if score < ALIKE * least and abs(b - begins) <= 2 * APART_S]
    u_s = max((max(alike) - min(alike)) / 2.0, step) / 1.645
    return Laid(at(begins), begins, False, not others and least < CLEAR * usual, u_s)
