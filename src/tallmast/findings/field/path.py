"""How the level falls with distance: exponent, offset of each antenna, scatter."""

from __future__ import annotations

import math

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.units import show

from ..figure import Figure, Working
from .runs import Tried
from .samples import HOME_END, Cells
from .spread import RunSpread


class PathFit(Frozen):
    """level(tried, d) = offset[antenna] − 10·n·log₁₀(d / 1 km), by places, for the baseline's power and pad."""

    exponent: Figure
    at_1km_dbm: dict[Tried, float]
    """Fitted level of each antenna, in each state, at 1 km."""
    runs: dict[Tried, int]
    scatter_db: float
    """Standard deviation of a place about the line."""
    x_mean: float
    """Mean of −10 log₁₀(d/1 km) over the places."""
    s_xx: float
    places: int
    inflation: float
    """How much likeness of neighbouring places widens the uncertainty (variance factor)."""
    spread: RunSpread
    reach_m: tuple[float, float]
    place_m: Floats
    """Distance of each place [place], ascending."""
    place_db: Floats
    """What each stands over the mean of all, of every run alike [place]."""
    own_scatter_db: dict[Tried, float]
    """Standard deviation of a place about the line as each antenna met it; `scatter_db` is that of all their runs together."""

    def at_mean_dbm(self, tried: Tried) -> float:
        """Level at the mean of the places."""
        return self.at_1km_dbm[tried] + self.exponent.value * self.x_mean

    def run_u_db(self, tried: Tried) -> float:
        """Standard uncertainty of a level by the few runs there are."""
        return self.spread.s_db / math.sqrt(self.runs[tried])

    def level(self, tried: Tried, distance_m: float) -> tuple[float, float, float]:
        """(level dBm, standard uncertainty, degrees of freedom) of the median level at a distance."""
        x = -10.0 * math.log10(distance_m / 1000.0)
        value = self.at_1km_dbm[tried] + self.exponent.value * x
        var_path = self.scatter_db**2 * self.inflation * (1.0 / self.places + (x - self.x_mean) ** 2 / self.s_xx)
        var_run = self.spread.s_db**2 / self.runs[tried]
        u = math.sqrt(var_path + var_run)
        if u == 0:
            return value, 0.0, math.inf
        # Welch-Satterthwaite, JCGM 100 §G.4.
        below = var_path**2 / self.path_degrees
        if math.isfinite(self.spread.degrees):
            below += var_run**2 / self.spread.degrees
        return value, u, u**4 / below if below > 0 else math.inf

    @property
    def path_degrees(self) -> float:
        return max(self.places / self.inflation - 2.0, 1.0)


def _two_way(level: Floats) -> tuple[Floats, Floats]:
    """Run and cell effects of a table with holes by least squares: level ≈ run[i] + cell[j], mean of cell = 0."""
    runs, cells = level.shape
    known = np.isfinite(level)
    run = np.zeros(runs)
    cell = np.zeros(cells)
    filled = np.where(known, level, 0.0)
    n_run, n_cell = known.sum(axis=1), known.sum(axis=0)
    for _ in range(200):
        run_new = (filled - known * cell).sum(axis=1) / n_run
        cell_new = (filled - known * run_new[:, None]).sum(axis=0) / n_cell
        cell_new -= cell_new.mean()
        moved = max(float(np.abs(run_new - run).max()), float(np.abs(cell_new - cell).max()))
        run, cell = run_new, cell_new
        if moved < 1e-9:
            break
    return run, cell


CLEAR_OF_FLOOR = 2.0
"""How many scatters the fitted line must stand above a run's floor for its places to be used: nearer to the floor the
weak places are lost, and those left would bend the line."""


class _Line(Frozen):
    """One pass of the fit: run effects at mean x, slope, and what it rests on."""

    run: Floats
    cell: Floats
    slope: float
    x: Floats
    x_mean: float
    s_xx: float
    scatter: float
    lag: float


def _line(level: Floats, x: Floats) -> _Line | None:
    """Two-way means, then the places' effects against x; None with too little to go by."""
    if len(x) < 3 or float(np.ptp(x)) < 1.0:
        return None
    run, cell = _two_way(level)
    places = len(x)
    x_mean = float(x.mean())
    s_xx = float(np.sum((x - x_mean) ** 2))
    slope = float(np.sum((x - x_mean) * cell) / s_xx)
    residual = cell - slope * (x - x_mean)
    scatter = math.sqrt(float(np.sum(residual**2)) / max(places - 2, 1))
    # Neighbours that are alike carry less news: AR(1) correction by the residuals' own lag-one correlation.
    lag = 0.0
    if places >= 8 and scatter > 0:
        lag = float(np.sum(residual[1:] * residual[:-1]) / np.sum(residual**2))
        # Residuals of a line look less alike than the errors were, by about (2 + 4ρ)/n (Kendall 1954).
        lag = min(max(lag + (2.0 + 4.0 * max(lag, 0.0)) / places, 0.0), 0.8)
    return _Line(run, cell, slope, x, x_mean, s_xx, scatter, lag)


def fit(cells: Cells, spread: RunSpread) -> PathFit | None:
    """Fit all compared runs at once; None with fewer than three places or no spread in distance."""
    order = np.argsort(cells.distance_m)
    # Of a place known by its name alone no distance is known; and one end's levels make one path.
    home = cells.numbers <= -HOME_END
    known = np.isfinite(cells.distance_m) & (home if home.all() else ~home)
    order = order[known[order]]
    every, distance_all = cells.level_dbm[:, order], cells.distance_m[order]
    x_all = -10.0 * np.log10(distance_all / 1000.0)
    keep = np.isfinite(every)
    line: _Line | None = None
    rows = cols = np.array([], dtype=int)
    for _ in range(4):
        rows, cols = np.flatnonzero(keep.any(axis=1)), np.flatnonzero(keep.any(axis=0))
        trial = _line(np.where(keep, every, np.nan)[np.ix_(rows, cols)], x_all[cols])
        if trial is None:
            break
        line, used = trial, (rows, cols)
        expected = np.full(len(every), -np.inf)
        expected[rows] = line.run
        margin = expected[:, None] + line.slope * (x_all - line.x_mean) - cells.floor_dbm[:, None]
        narrowed = np.isfinite(every) & (margin >= CLEAR_OF_FLOOR * line.scatter)
        if (narrowed == keep).all():
            break
        keep = narrowed
    if line is None:
        return None
    rows, cols = used
    tries = [cells.tried[i] for i in rows]
    distance, run, slope, places = distance_all[cols], line.run, line.slope, len(cols)
    x_mean, s_xx, scatter = line.x_mean, line.s_xx, line.scatter
    inflation = (1.0 + line.lag) / (1.0 - line.lag)
    degrees = max(places / inflation - 2.0, 1.0)
    u = scatter * math.sqrt(inflation / s_xx)
    if keep.sum() < np.isfinite(every).sum():
        # Where a run's places end is chosen by the fit itself: one thing more that is told by the same few places.
        degrees, u = max(degrees - 1.0, 1.0), u * math.sqrt(degrees / max(degrees - 1.0, 1.0))
    u_unit = cells.unit_u * abs(slope)
    u = math.hypot(u, u_unit)
    at_mean = {
        tried: float(np.mean([run[i] for i, other in enumerate(tries) if other == tried]))
        for tried in dict.fromkeys(tries)
    }
    counts = {tried: tries.count(tried) for tried in at_mean}
    reach = (float(distance.min()), float(distance.max()))
    lines = (
        "level = a − 10·n·log₁₀(d/1 km), a for each run",
        f"{show.count(places, 'place')} from {show.distance(reach[0])} to {show.distance(reach[1])}",
        f"scatter of a place {show.decibel(scatter)}",
        f"n = {slope:.2f}, u = {u:.2f}",
    )
    parts = [("scatter between places", f"{scatter / math.sqrt(s_xx):.2f}")]
    if inflation > 1.05:
        parts.append(("neighbours alike, factor", f"{math.sqrt(inflation):.2f}"))
    if u_unit:
        parts.append(("S units taken for 6 dB each", f"{u_unit:.2f}"))
    exponent = Figure(
        "path exponent",
        slope,
        u,
        "",
        Working(
            lines,
            tuple(parts),
            "least squares on log distance; Parsons, The Mobile Radio Propagation Channel, §4.2",
            f"2 is free space, 4 is plane earth. A doubling of the distance costs {show.decibel(3.01 * slope)} here.",
        ),
        degrees,
        digits=2,
    )
    # `run` is the level at the mean of x; bring it to 1 km.
    at_1km = {tried: value - slope * x_mean for tried, value in at_mean.items()}
    own = {}
    for tried in counts:
        mine = [i for i, other in enumerate(tries) if other == tried]
        level = np.where(keep, every, np.nan)[np.ix_(rows[mine], cols)] - run[mine][:, None]
        own[tried] = _own_scatter(level - slope * (line.x - x_mean), scatter, inflation)
    return PathFit(
        exponent, at_1km, counts, scatter, x_mean, s_xx, places, inflation, spread, reach, distance, line.cell, own
    )


def _own_scatter(off_db: Floats, usual: float, inflation: float) -> float:
    """Of some runs over the places [run, place], what a place strays; never less than that of all runs together. A line takes more from
    places that are alike: as from so many fewer."""
    known = np.isfinite(off_db)
    there = known.any(axis=0)
    if there.sum() < 4:
        return usual
    mean = np.where(known, off_db, 0.0).sum(axis=0)[there] / known.sum(axis=0)[there]
    n = float(there.sum())
    return max(usual, math.sqrt(float(np.sum(mean**2)) / max(n - 2.0 * inflation, 0.5 * n)))
