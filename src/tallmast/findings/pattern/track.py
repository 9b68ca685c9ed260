"""Logs with positions, seen from the antenna: direction and distance of each reading, and why one does not count."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence, Series
from tallmast.notebook.records import Antenna, Log, Place, Run
from tallmast.physics.attitude import seen, sight
from tallmast.physics.constants import wavelength
from tallmast.physics.decibels import Floats
from tallmast.physics.geodesy import distance_and_bearing
from tallmast.physics.statistics import median
from tallmast.physics.two_rays import both_rays_db, phase_u_rad

from ..field.recorded import NOTHING_IS_ZERO
from ..field.runs import branches_of
from ..field.tracks import has_levels, told_by_display
from .carried import own_pattern_db
from .clocks import Laid, lay_over, levels_of

if TYPE_CHECKING:
    from ..levels.display import DisplayFinding

ROUND = ("flight", "orbit")
"""Manners of a run whose log tells a pattern: its path is known well enough to be taken out."""
WORST_FIX_DEG = 6.0
"""So far a fix may turn a direction, one standard uncertainty."""
TAKE_OFF_M = 2.0
"""Lower over where it took off than this something that flies is starting or landing."""
FASTEST_M_PER_S = 60.0
KNOWN_PHASE_RAD = 0.7
"""Beyond this nobody knows whether two rays add or cancel."""
STEADY, ANOTHER_NORTH_DEG = 0.97, 4.0
"""Headings hang together with the way flown from this mean on; so far off it they are named."""
HOVER_M, HOVER_S = 0.7, 4.0
"""Within so much for so long it hovers: the same direction over and over."""
IN_THE_AIR_DEG = 10.0
"""Seen so high from the antenna it flew."""
MOST_ROWS = 60_000
"""From so many on rows in a row are taken together."""
REASONS: dict[str, str] = {
    "lost": "nothing heard",
    "saturated": "the display was at its end",
    "take-off": "starting and landing",
    "hover": "hovering",
    "near field": "nearer than 2D²/λ or two wavelengths",
    "fix": "so near that the fix turns the direction",
    "jump": "the fix jumped",
    "behind": "behind something",
}
"""Why a reading does not count, in the order in which it is asked."""


class Pointing(Frozen):
    """How the antenna looked; a bearing nobody noted is 0: its angles count from north then."""

    azimuth_deg: float
    tilt_deg: float
    roll_deg: float
    noted: bool


class Track(Frozen):
    """One log seen from the antenna, all [sample] in the order logged."""

    log: Log
    run: Run
    pointing: Pointing
    azimuth_deg: Floats
    """In the antenna's own frame, clockwise from its front."""
    elevation_deg: Floats
    distance_m: Floats
    bearing_deg: Floats
    above_deg: Floats
    """Elevation over the horizon."""
    level_db: Floats
    why_not: NDArray[np.int8]
    """0: it counts; else one more than the place of its reason among `REASONS`."""
    heights: str
    """How its heights were taken: a key of `HEIGHTS`, or "none"."""
    guessed: bool
    """Nobody said what its heights count from."""
    carried: str = ""
    """How the carrier's own pattern was taken out; empty: it was not."""
    laid: Laid | None = None
    """Where the levels are of another logger: how they lie over the track."""
    time_s: Floats | None = None
    """Where the log had it."""
    rays: str = ""
    """What became of the second ray by the ground, in words; empty: nobody noted what lies under it."""
    ground_rad: Floats | None = None
    """Phase of the ray off flat ground behind the direct one, [sample]; None where it was taken out, or nothing flew."""
    ground_rad_per_m: float = 0.0
    """How much a fix that is off by a metre turns it, in the middle of the way."""
    attitude_logged: bool = False
    off_course_deg: float | None = None
    """By how much its headings stand off the way flown, where that is steady: another north, or the wind."""

    @property
    def counts(self) -> NDArray[np.bool_]:
        return np.asarray(self.why_not == 0)

    @property
    def in_the_air(self) -> bool:
        """Whether it was mostly higher than anybody carries it."""
        return (
            self.heights != "none" and median(self.above_deg[self.counts]) > IN_THE_AIR_DEG
            if self.counts.any()
            else False
        )

    @property
    def rejected(self) -> dict[str, int]:
        """How many do not count, by reason."""
        numbers = np.bincount(self.why_not, minlength=len(REASONS) + 1)
        return {key: int(n) for key, n in zip(REASONS, numbers[1:], strict=True) if n}

    def where(self, keep: NDArray[np.bool_]) -> Track:
        ground_rad = self.ground_rad[keep] if self.ground_rad is not None else None
        columns = ("azimuth_deg", "elevation_deg", "distance_m", "bearing_deg", "above_deg", "level_db", "why_not")
        time = self.time_s[keep] if self.time_s is not None else None
        return replace(
            self, time_s=time, ground_rad=ground_rad, **{name: getattr(self, name)[keep] for name in columns}
        )


def pointing_of(evidence: Evidence, run: Run) -> Pointing:
    """As noted of the antenna compared in that run, or of the end."""
    for branch in branches_of(evidence, run):
        if branch.end == "home" and branch.antenna_id == run.antenna_id:
            known = branch.azimuth_deg is not None
            return Pointing(branch.azimuth_deg or 0.0, branch.tilt_deg or 0.0, branch.roll_deg or 0.0, known)
    return Pointing(0.0, 0.0, 0.0, False)


def heights_of(log: Log, series: Series) -> tuple[Floats | None, str, bool]:
    """(height over the ground at the antenna m [n], what it counts from, whether that was guessed); None where the log has none.

    Heights over the sea count from where it stood first, if that was its lowest; where it was in the air from the first
    row on they can't be told.
    """
    height = series.get("height_m")
    if height is None or not np.isfinite(height).any():
        return None, "none", False
    first = float(height[np.isfinite(height)][0])
    least = float(np.nanmin(height))
    said = log.heights or ("take-off" if -20.0 <= least <= 30.0 and first < 150.0 else "sea")
    if said == "sea":
        if first - least > 5.0:
            return None, "sea", not log.heights
        return np.asarray(height - first), "sea", not log.heights
    return np.asarray(height), said, not log.heights


def _levels(
    series: Series, log: Log, displays: Mapping[str, DisplayFinding]
) -> tuple[Floats, NDArray[np.bool_]] | None:
    """(level dB, whether the display was at its end) of a log; None where it tells no decibels."""
    if has_levels(series):
        level = np.asarray(series["level_dbm"])
        return level, np.zeros(len(level), dtype=bool)
    if "shown" in series and log.receiver in displays:
        level, _, tells = told_by_display(series["shown"], displays[log.receiver].curve)
        return level, ~tells
    return None


def _thinned(series: Series, level: Floats, saturated: NDArray[np.bool_]) -> tuple[Series, Floats, NDArray[np.bool_]]:
    """Of a very long log so many rows in a row as one: they were logged at one spot, and what is alike tells nothing twice."""
    together = len(level) // MOST_ROWS
    if together < 2:
        return series, level, saturated
    whole = len(level) // together * together

    def mean(values: Floats) -> Floats:
        return np.asarray(np.asarray(values)[:whole].reshape(-1, together).mean(axis=1))

    names = ("latitude_deg", "longitude_deg", "height_m", "time_s", "heading_deg", "pitch_deg", "roll_deg")
    there = {name: mean(series[name]) for name in names if name in series}
    heard = np.isfinite(level[:whole]).reshape(-1, together)
    count = heard.sum(axis=1)
    sums = np.where(heard, level[:whole].reshape(-1, together), 0.0).sum(axis=1)
    half = count >= together / 2  # of one that was mostly lost, what got through would flatter it
    mean_level = np.where(half, sums / np.maximum(count, 1), np.nan)
    return there, mean_level, np.asarray(saturated[:whole].reshape(-1, together).any(axis=1))


def far_field_m(antenna: Antenna, frequency_hz: float) -> float:
    """The nearest at which a pattern is one: 2D²/λ of its largest size, and two wavelengths at least (IEEE Std 149-2021 §5)."""
    lam = wavelength(frequency_hz)
    sizes = (antenna.length_m, antenna.face_width_m, antenna.face_height_m)
    largest = math.hypot(antenna.face_width_m or 0.0, antenna.face_height_m or 0.0)
    largest = max([largest, *(s for s in sizes if s)])
    return max(2.0 * largest**2 / lam, 2.0 * lam)


def _jumps(log: Log, series: Series, east: Floats, north: Floats) -> NDArray[np.bool_]:
    """Fixes that stand far off both neighbours, which agree; or that nothing could have flown to in the time."""
    n = len(east)
    if n < 3:
        return np.zeros(n, dtype=bool)
    step = np.hypot(np.diff(east), np.diff(north))
    before, after = np.append(0.0, step), np.append(step, 0.0)
    straight = np.zeros(n)
    straight[1:-1] = np.hypot(east[2:] - east[:-2], north[2:] - north[:-2])
    usual = median(step) + 4.0 * log.fix_u_m
    spike = (np.minimum(before, after) > 6.0 * usual) & (straight < 0.5 * (before + after))
    time = series.get("time_s")
    if time is not None and np.isfinite(time).all():
        dt = np.append(1.0, np.diff(time))
        spike |= (before > FASTEST_M_PER_S * np.maximum(dt, 0.1) + 4.0 * log.fix_u_m) & (after > 4.0 * log.fix_u_m)
    return np.asarray(spike)


def _hovers(series: Series, east: Floats, north: Floats, up: Floats) -> NDArray[np.bool_]:
    """Where it stood still for a while; the first second of a stop still counts."""
    n = len(east)
    time = series.get("time_s")
    if time is None or n < 8 or not np.isfinite(time).all():
        return np.zeros(n, dtype=bool)
    earlier = np.searchsorted(time, time - HOVER_S)
    there = np.arange(n)
    moved = np.sqrt((east - east[earlier]) ** 2 + (north - north[earlier]) ** 2 + (up - up[earlier]) ** 2)
    return np.asarray((moved < HOVER_M) & (time - time[earlier] >= 0.7 * HOVER_S) & (there - earlier >= 3))


LOOKED_AT = 300
"""Rows by which it is seen whether a log goes round at all."""


def way_round(evidence: Evidence, run: Run, log: Log) -> tuple[Floats, Floats] | None:
    """(bearing, elevation) from the antenna of some rows of a log: enough to see whether it goes round, a thousandth of the work; None
    where nobody knows where the antenna stood."""
    series = evidence.series(log.series_id)
    place = evidence.place(run.place_id) or evidence.home
    if place is None or place.position is None:
        return None
    rows = slice(None, None, max(1, len(series["latitude_deg"]) // LOOKED_AT))
    height, _, _ = heights_of(log, series)
    own_height = run.height_m if run.height_m is not None else place.height_m
    up = own_height if height is None else height[rows]
    _, bearing, above = sight(
        *place.position, own_height, series["latitude_deg"][rows], series["longitude_deg"][rows], up
    )
    known = np.isfinite(bearing + above)
    return bearing[known], above[known]


def read_track(
    evidence: Evidence,
    run: Run,
    log: Log,
    antenna: Antenna,
    frequency_hz: float,
    displays: Mapping[str, DisplayFinding],
) -> Track | None:
    """A log seen from the antenna of its run; None where nobody knows where that stood, or it tells no decibels."""
    series = evidence.series(log.series_id)
    place = evidence.place(run.place_id) or evidence.home
    if place is None or place.position is None:
        return None
    levels, laid = _levels(series, log, displays), None
    if levels is None:
        laid = _of_another(evidence, run, series, place.position)
        if laid is None:
            return None
        levels = laid.level_dbm, np.zeros(len(laid.level_dbm), dtype=bool)
    return _seen_from(evidence, place, run, log, antenna, frequency_hz, levels, laid)


def read_own_track(evidence: Evidence, run: Run, log: Log, antenna: Antenna, frequency_hz: float) -> Track | None:
    """The same of a log that was read on a scale of its own: its `level_db` is what was shown, and nothing is taken out of it."""
    place, series = evidence.place(run.place_id) or evidence.home, evidence.series(log.series_id)
    if place is None or place.position is None or "shown" not in series:
        return None
    shown = np.asarray(series["shown"], dtype=float)
    if log.read_on in NOTHING_IS_ZERO:
        shown = np.nan_to_num(shown, nan=0.0)
    levels = shown, np.zeros(len(shown), dtype=bool)
    return _seen_from(evidence, place, run, log, antenna, frequency_hz, levels, None, in_db=False)


def _seen_from(
    evidence: Evidence,
    place: Place,
    run: Run,
    log: Log,
    antenna: Antenna,
    frequency_hz: float,
    levels: tuple[Floats, NDArray[np.bool_]],
    laid: Laid | None,
    in_db: bool = True,
) -> Track:
    assert place.position is not None
    series = evidence.series(log.series_id)
    series, level, saturated = _thinned(series, *levels)
    height, counted, guessed = heights_of(log, series)
    own_height = run.height_m if run.height_m is not None else place.height_m
    flying = run.manner == "flight"
    up = np.full(len(level), own_height if flying else 2.0) if height is None else height
    slant, bearing, above = sight(*place.position, own_height, series["latitude_deg"], series["longitude_deg"], up)
    carried = own_pattern_db(evidence, run, series, bearing, above) if in_db else None
    if carried is not None:
        level = level - carried[0]
    second = np.zeros(len(level)), ""
    if in_db:
        second = _second_ray(run, antenna, slant * np.cos(np.radians(above)), own_height, up, frequency_hz, log.fix_u_m)
    level = level - second[0]
    pointing = pointing_of(evidence, run)
    azimuth, elevation = (bearing, above)
    if pointing.azimuth_deg or pointing.tilt_deg or pointing.roll_deg:
        azimuth, elevation = seen(bearing, above, pointing.azimuth_deg, pointing.tilt_deg, pointing.roll_deg)
    ground = slant * np.cos(np.radians(above))
    east, north = ground * np.sin(np.radians(bearing)), ground * np.cos(np.radians(bearing))
    behind = np.zeros(len(level), dtype=bool)
    for sector in log.behind:
        behind |= (bearing - sector.from_deg) % 360.0 <= (sector.to_deg - sector.from_deg) % 360.0
    start = flying and height is not None and counted != "ground"
    reasons = (
        ~np.isfinite(level) & ~saturated,
        saturated,
        (up - float(np.nanmin(up)) < TAKE_OFF_M) & (float(np.nanmax(up)) - float(np.nanmin(up)) > 4.0 * TAKE_OFF_M)
        if start
        else np.zeros(len(level), dtype=bool),
        _hovers(series, east, north, up),
        slant < far_field_m(antenna, frequency_hz),
        slant < log.fix_u_m / math.radians(WORST_FIX_DEG),
        _jumps(log, series, east, north) | ~np.isfinite(slant),
        behind,
    )
    why = np.zeros(len(level), dtype=np.int8)
    for number, reason in reversed(list(enumerate(reasons, 1))):
        why[reason] = number
    return Track(
        log=log,
        run=run,
        pointing=pointing,
        azimuth_deg=azimuth,
        elevation_deg=elevation,
        distance_m=slant,
        bearing_deg=bearing,
        above_deg=above,
        level_db=level,
        why_not=why,
        heights=counted,
        guessed=guessed,
        carried=carried[1] if carried is not None else "",
        laid=laid,
        time_s=series.get("time_s"),
        rays=second[1],
        ground_rad=_ground_rad(ground, own_height, up, frequency_hz)
        if flying and not second[1].endswith(TAKEN_OUT)
        else None,
        ground_rad_per_m=_turns_per_m(ground, own_height, up, frequency_hz),
        attitude_logged="pitch_deg" in series and "roll_deg" in series,
        off_course_deg=_off_course(series, east, north),
    )


def _second_ray(
    run: Run, antenna: Antenna, ground_m: Floats, own_m: float, up_m: Floats, frequency_hz: float, fix_u_m: float
) -> tuple[Floats, str]:
    """(what the ray by the ground adds, dB [n], what became of it in words): taken out where heights tell its phase."""
    nothing = np.zeros(len(ground_m))
    if not run.over or run.manner != "flight":
        return nothing, ""
    phase = phase_u_rad(ground_m, own_m, 0.5 * fix_u_m, frequency_hz)
    if float(np.nanmedian(phase)) > KNOWN_PHASE_RAD:
        return nothing, f"the ray by {run.over} is not taken out: heights do not tell its phase at this wavelength"
    vertical = antenna.polarization != "horizontal"
    return both_rays_db(ground_m, own_m, up_m, frequency_hz, run.over, vertical), f"the ray by {run.over} {TAKEN_OUT}"


TAKEN_OUT = "is taken out"


def _ground_rad(ground_m: Floats, own_m: float, up_m: Floats, frequency_hz: float) -> Floats:
    longer = np.hypot(ground_m, up_m + own_m) - np.hypot(ground_m, up_m - own_m)
    return np.asarray(2.0 * np.pi * longer / wavelength(frequency_hz))


def _turns_per_m(ground_m: Floats, own_m: float, up_m: Floats, frequency_hz: float) -> float:
    """Of a fix off by a metre, and by half of that in height."""
    below, slant = np.hypot(ground_m, up_m + own_m), np.hypot(ground_m, up_m - own_m)
    along = ground_m * (1.0 / below - 1.0 / slant)
    up = (up_m + own_m) / below - (up_m - own_m) / slant
    return 2.0 * math.pi / wavelength(frequency_hz) * median(np.hypot(along, 0.5 * up))


def _of_another(evidence: Evidence, run: Run, series: Series, home: tuple[float, float]) -> Laid | None:
    """Levels that another logger recorded of the run, laid over a track that has none."""
    recorded, time = levels_of(evidence, run), series.get("time_s")
    if recorded is None or time is None or not np.isfinite(time).all():
        return None
    distance, bearing = distance_and_bearing(*home, series["latitude_deg"], series["longitude_deg"])
    path = 20.0 * np.log10(np.maximum(distance, 1.0))
    recording, level_s, level = recorded
    return lay_over(np.asarray(time), bearing, path, level_s, level, recording.moved_s)


def _off_course(series: Series, east: Floats, north: Floats) -> float | None:
    """By how much headings stand off the way flown, where it moves and that hardly scatters; None where nothing is amiss."""
    heading = series.get("heading_deg")
    if heading is None or len(east) < 30 or len(heading) != len(east):
        return None
    de, dn = east[4:] - east[:-4], north[4:] - north[:-4]
    moving = np.hypot(de, dn) > 4.0
    if moving.sum() < 20:
        return None
    off = np.radians(heading[2:-2][moving] - np.degrees(np.arctan2(de[moving], dn[moving])))
    mean = np.mean(np.exp(1j * off[np.isfinite(off)]))
    if abs(mean) < STEADY:  # it does not fly nose first
        return None
    degrees = math.degrees(float(np.angle(mean)))
    return degrees if abs(degrees) > ANOTHER_NORTH_DEG else None
