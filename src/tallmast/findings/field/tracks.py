"""Logs with positions: levels in dBm or by a display that was stepped, readings on a scale of their own, or a way alone."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence, Series
from tallmast.notebook.records import Log, Run
from tallmast.physics.decibels import Floats
from tallmast.physics.geodesy import distance_and_bearing
from tallmast.units import show

from ..figure import Check
from .recorded import NOTHING_IS_ZERO, Noted

if TYPE_CHECKING:
    from ..levels.display import DisplayFinding
    from ..levels.display_curve import Curve

STEPS = 6
"""Into so many stretches of equal length the ground is parted on which readings on a scale of their own are compared: each
is one spot, since neighbours on a track are alike."""
LEAST_LEGS, NEAR_SHARE = 24, 0.6
"""Samples of a way out and back; and how near, of its farthest, it has to begin and end."""
LEGS = {1: "out", 2: "back"}
FEWEST = 3
"""Readings that a stretch has to have."""
MOST_READ = 400
"""Different readings of a display that are told one by one; of one that shows more, so many steps over all that it showed."""
GROUND = "ground "
"""Before the number of such a stretch, where it stands among places."""


class Walk(Frozen):
    """Where a run went, by a track that says nothing of what was heard."""

    run: Run
    source: str
    distance_m: Floats
    bearing_deg: Floats


def walks(evidence: Evidence, origin: tuple[float, float] | None) -> tuple[Walk, ...]:
    """The tracks without levels, seen from home."""
    out = []
    for run in evidence.runs:
        for log in evidence.logs(run.id):
            series = evidence.series(log.series_id)
            if origin is not None and not has_levels(series) and not has_readings(series):
                seen = distance_and_bearing(*origin, series["latitude_deg"], series["longitude_deg"])
                out.append(Walk(run, log.source, *seen))
    return tuple(out)


def has_levels(series: Series) -> bool:
    """Whether a log says anything of what was heard: a track of positions alone does not, and is no “not heard”."""
    return "level_dbm" in series and bool(np.isfinite(series["level_dbm"]).any())


def has_readings(series: Series) -> bool:
    """Whether a log has readings on a scale of its own."""
    return "shown" in series and bool(np.isfinite(series["shown"]).any())


def told_by_display(shown: Floats, curve: Curve) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    """(level dB, own standard uncertainty, whether it tells any) of readings [n] of a display that was stepped: NaN where
    nothing was shown, or less than it can tell; where it was saturated there is none to tell."""
    each, which = np.unique(shown, return_inverse=True)  # all NaN are one
    if len(each) > MOST_READ:
        known = np.isfinite(shown)
        low, step = float(shown[known].min()), max(float(np.ptp(shown[known])) / MOST_READ, 1e-12)
        each = np.append(low + step * np.arange(MOST_READ + 1), np.nan)
        which = np.where(known, np.round((np.nan_to_num(shown, nan=low) - low) / step), MOST_READ + 1).astype(int)
    told = [None if math.isnan(v) else curve.read(float(v)) for v in each]
    level = np.array([t.level.value if t is not None and t.state == "told" else math.nan for t in told])
    own = np.array([t.own_u_db if t is not None and t.state == "told" else 0.0 for t in told])
    tells = np.array([t is None or t.state != "saturated" for t in told])
    which = which.ravel()
    return level[which], own[which], tells[which]


def logged(
    evidence: Evidence,
    run: Run,
    origin: tuple[float, float] | None,
    displays: Mapping[str, DisplayFinding],
    relative: bool,
) -> tuple[list[list[Floats]], float]:
    """Columns of each log (distance, bearing, level, place, uncertainty, leg), and what the zero of a display that was stepped leaves open of them."""
    out, shared = [], 0.0
    for log in evidence.logs(run.id) if origin is not None else ():
        series = evidence.series(log.series_id)
        n = len(series["latitude_deg"])
        curve = displays[log.receiver].curve if log.receiver in displays and "shown" in series else None
        if has_levels(series):
            level, u, kept = series["level_dbm"], np.zeros(n), None
        elif curve is not None and (curve.unit == "dBm" or relative):
            level, u, tells = told_by_display(series["shown"], curve)
            kept, shared = tells, max(shared, curve.zero_u_db)
        else:
            continue
        assert origin is not None
        seen = distance_and_bearing(*origin, series["latitude_deg"], series["longitude_deg"])
        columns = [*seen, level, np.full(n, -1.0), u, legs_of(seen[0]).astype(float)]
        out.append(columns if kept is None else [column[kept] for column in columns])
    return out, math.inf if relative and out else shared


def legs_of(distance_m: Floats) -> NDArray[np.int64]:
    """Of a track [n]: 1 on the way out, 2 on the way back, 0 all along where it was no such way: one that begins and ends well
    nearer than it turns."""
    n, legs = len(distance_m), np.zeros(len(distance_m), dtype=np.int64)
    if n < LEAST_LEGS:
        return legs
    turn = int(np.argmax(distance_m))
    near = NEAR_SHARE * float(distance_m[turn])
    if min(turn, n - 1 - turn) >= n // 8 and distance_m[0] < near and distance_m[-1] < near:
        legs[: turn + 1], legs[turn + 1 :] = 1, 2
    return legs


def noted_on_the_way(
    evidence: Evidence, origin: tuple[float, float] | None, displays: Mapping[str, DisplayFinding]
) -> Noted:
    """What logs say on scales of their own, where no stepped display makes levels of it: the mean of each stretch of ground."""
    found: list[tuple[Log, Floats, Floats]] = []
    for log in evidence.all(Log) if origin is not None else ():
        series = evidence.series(log.series_id)
        if has_readings(series) and log.receiver not in displays:
            assert origin is not None
            far, _ = distance_and_bearing(*origin, series["latitude_deg"], series["longitude_deg"])
            found.append((log, far, series["shown"]))
    longest = max((float(far.max()) for _, far, _ in found), default=0.0)
    out: Noted = {}
    for log, far, shown in found:
        values = np.nan_to_num(shown, nan=0.0) if log.read_on in NOTHING_IS_ZERO else shown
        step = np.minimum((far / max(longest, 1.0) * STEPS).astype(int), STEPS - 1)
        run = out.setdefault(log.read_on, {}).setdefault(log.run_id, {})
        for number in np.unique(step):
            here = values[(step == number) & np.isfinite(values)]
            if len(here) >= FEWEST:
                middle = (float(number) + 0.5) / STEPS * longest
                run.setdefault((f"{GROUND}{number}", "away", middle), []).append(float(here.mean()))
    return out


def track_checks(evidence: Evidence, displays: Mapping[str, DisplayFinding]) -> list[Check]:
    """Logs that count something which nobody made decibels of."""
    known = {run.id: run.number for run in evidence.runs}
    logs = [log for log in evidence.all(Log) if has_readings(evidence.series(log.series_id))]
    runs = sorted({known[log.run_id] for log in logs if log.receiver not in displays and log.run_id in known})
    if not runs:
        return []
    many = len(runs) > 1
    words = f"the log{'s' if many else ''} of run{'s' if many else ''} {show.join([str(n) for n in runs])} "
    words += f"{'are' if many else 'is'} no dBm"
    why = (
        "It is compared on its own scale, as better or worse. Step that display through known attenuation (Levels, X) and "
        "name it in the log’s sheet: then by how many decibels."
    )
    return [Check("open", words, None, why)]
