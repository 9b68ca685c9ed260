"""Two things read in turn on a reading that fluctuates: A B A, drift taken out."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Averaging, Comparison, Run
from tallmast.physics import repeats
from tallmast.physics.decibels import Floats, dbm_from_watt, power_db, power_ratio
from tallmast.physics.statistics import median
from tallmast.units import show
from tallmast.units.scales import FIELDS, LEVELS, inward, scale

from ..field import FieldFinding
from ..field.samples import RunSamples, by_cell
from ..figure import Check, Figure, Working

LEAST_DOUBLED_DB = 2.0
"""Of less, half of it lies within what two readings leave open."""
COMPRESSES_DB = 0.5
"""A shortfall smaller than this is not worth a name, however sure."""


class Compared(Frozen):
    """The second label over the first."""

    comparison: Comparison
    difference: Figure
    drift_db_per_hour: float | None
    """None: the readings don't return, or nobody noted the minutes, so it can't be told."""
    drift_words: str
    means_db: tuple[tuple[str, float], ...]
    """(label, dB) of each spell; the first one's is what the other stands over."""
    check: Check | None

    def over(self, label: str) -> Figure | None:
        """What one label has over the other; None of a third."""
        first, second = dict.fromkeys(name for name, _ in self.means_db)
        if label.lower() == second.lower():
            return self.difference
        if label.lower() != first.lower():
            return None
        low, high = self.difference.interval
        turned = replace(self.difference, name=f"{first} over {second}", value=-self.difference.value)
        return turned if self.difference.low is None else replace(turned, low=-high, high=-low)


UNKNOWN = "unknown"
"""A meter whose unit nobody knows: it may show a power or an amplitude."""


def rule(unit: str) -> str:
    """Which logarithm turns this unit into decibels, in words."""
    if unit == UNKNOWN:
        return "four times the reading is 6 dB if the meter shows a power or density, 12 dB if a field or voltage"
    if unit == "dB" or unit.startswith("dB"):
        return f"{unit} is in decibels already"
    found = scale(FIELDS, unit)
    amplitude = unit.endswith("V/m" if found is not None else "V")
    if amplitude:
        return f"{unit} is an amplitude: 20·log₁₀, four times the reading is 12 dB"
    return f"{unit} is a power: 10·log₁₀, four times the reading is 6 dB"


def decibels_of(unit: str, value: float) -> float | None:
    """A reading in decibels over something that stays the same; None for what no decibel can be made of."""
    if unit == "dB":
        return value
    if unit == UNKNOWN:
        return 10.0 * math.log10(value) if value > 0 else None
    if scale(LEVELS, unit) is not None:
        return inward(LEVELS, value, unit)
    field = inward(FIELDS, value, unit)
    return None if field is None else 20.0 * math.log10(field)


def average_db(values_db: np.ndarray, averaging: Averaging) -> tuple[float, float]:
    """(average, standard uncertainty) in dB of readings in dB.

    The mean of decibels is that of the logarithms; for a source that hops or fades it stands under the mean of power
    (2.5 dB under for Rayleigh fading: mean of ln of an exponential is −γ). The highest held grows with the number of
    readings, and its uncertainty is taken as half of what the highest stands over the next.
    """
    n = len(values_db)
    spread = float(np.std(values_db, ddof=1)) if n > 1 else 1.0
    if averaging == "mean of decibels":
        return float(np.mean(values_db)), spread / math.sqrt(n)
    if averaging == "highest held":
        ordered = np.sort(values_db)
        gap = float(ordered[-1] - ordered[-2]) if n > 1 else 1.0
        return float(ordered[-1]), max(gap / 2.0, 0.3)
    power = power_ratio(values_db)
    mean = float(np.mean(power))
    u = float(np.std(power, ddof=1)) / math.sqrt(n) / mean * 10.0 / math.log(10.0) if n > 1 else 1.0
    return float(power_db(mean)), u


SPELLS_APART = 3.0
"""From which ratio of variances on spells scatter by more than their own readings do."""
UNSEEN_SCATTER_DB = 1.0
"""Standard uncertainty of a spell of one reading, where no spell has two."""
LEAST_SCATTER_DB = 0.05
AGAIN_U_DB = 0.12
"""Standard uncertainty by which a spell strays as a whole, however long it is: connected, held or stood before anew."""


def _uncertainties(
    groups: Sequence[np.ndarray], own: Sequence[float], averaging: Averaging
) -> tuple[list[float], float, float]:
    """(standard uncertainty of each spell's average, correlation of readings, degrees of freedom).

    The scatter of one reading is taken to be the same in all spells: a spell of five says little of its own.
    """
    sizes = [len(g) for g in groups]
    known = [(n, u * math.sqrt(n)) for n, u in zip(sizes, own, strict=True) if n > 1]
    if averaging == "highest held":
        return [max(u, LEAST_SCATTER_DB) for u in own], 0.0, float(max(sum(sizes) - len(sizes), 1))
    if not known:
        return [UNSEEN_SCATTER_DB] * len(groups), 0.0, 3.0
    rho = repeats.likeness(groups)
    one = math.sqrt(sum((n - 1) * s**2 for n, s in known) / sum(n - 1 for n, _ in known))
    usual = round(sum(n for n, _ in known) / len(known))
    # A spell of one reading has the scatter of one reading, likeness and all.
    alone = one * math.sqrt(max(repeats.inflation(usual, rho) / usual + 1.0 - 1.0 / usual, 1.0))
    out = [one * math.sqrt(repeats.inflation(n, rho) / n) if n > 1 else alone for n in sizes]
    return [max(u, LEAST_SCATTER_DB) for u in out], rho, repeats.degrees([n for n, _ in known], rho)


def _grain_db(comparison: Comparison, groups: Sequence[np.ndarray]) -> float:
    """Standard uncertainty of a level by the steps of what it was read on, dB."""
    raw = np.array([v for spell in comparison.spells for v in spell.values])
    grain = repeats.grain_of(raw)
    scatter = math.sqrt(float(np.mean([np.var(g, ddof=1) for g in groups if len(g) > 1] or [0.0])))
    if (scale(LEVELS, comparison.unit) is not None and comparison.unit.startswith("dB")) or comparison.unit == "dB":
        return repeats.u_of_grain(grain, scatter)
    middle = median(np.abs(raw))
    if grain == 0 or middle <= 0:
        return 0.0
    low, high = (decibels_of(comparison.unit, middle + side * grain / 2) for side in (-1, 1))
    return repeats.u_of_grain(min(high - low, 6.0), scatter) if low is not None and high is not None else 0.0


Row = tuple[str, float | None]
"""Label and minute of a spell."""


def _spells(
    comparison: Comparison, labels: Collection[str]
) -> tuple[list[Row], list[float], list[float], list[Floats]]:
    """(label and minute, mean dB, its own u, the readings dB) of each spell that has one of the labels and any reading."""
    rows, values, own, groups = [], [], [], []
    for spell in comparison.spells:
        decibels = [decibels_of(comparison.unit, v) for v in spell.values]
        good = np.array([d for d in decibels if d is not None])
        if spell.label in labels and len(good):
            value, u = average_db(good, comparison.averaging)
            rows.append((spell.label, spell.minute))
            values.append(value)
            own.append(u)
            groups.append(good)
    return rows, values, own, groups


def compare(comparison: Comparison) -> Compared | None:
    """Difference of the second label over the first by least squares with a straight drift; None with only one label."""
    labels = list(dict.fromkeys(spell.label for spell in comparison.spells))
    if len(labels) < 2:
        return None
    first, second = labels[0], labels[1]
    rows, values, own, groups = _spells(comparison, (first, second))
    if {label for label, _ in rows} != {first, second}:
        return None
    uncertainties, rho, within = _uncertainties(groups, own, comparison.averaging)
    grain = _grain_db(comparison, groups)
    level, weight = np.array(values), 1.0 / np.hypot(uncertainties, AGAIN_U_DB)
    timed = [m for _, m in rows if m is not None]
    by_clock = len(timed) == len(rows)
    minute = np.array(timed if by_clock else range(len(rows)), dtype=float)
    is_second = np.array([label == second for label, _ in rows], dtype=float)
    returned = len(rows) >= 3 and float(np.ptp(minute)) > 0 and _tells_drift(is_second, minute)
    columns = [np.ones(len(rows)), is_second]
    if returned:
        columns.append(minute - minute.mean())
    design = np.stack(columns, axis=1)
    covariance = np.linalg.pinv((design * weight[:, None]).T @ (design * weight[:, None]))
    solution = covariance @ (design * weight[:, None]).T @ (level * weight)
    spare = len(rows) - design.shape[1]
    residual = (level - design @ solution) * weight
    # What the spells scatter beyond their own readings: together with them while both may be one, else alone.
    apart = float(residual @ residual) / spare if spare > 0 else 1.0
    if spare > 0 and apart > SPELLS_APART:
        scale, degrees = apart, float(spare)
    else:
        scale, degrees = (within + spare * apart) / (within + spare), within + spare
    inside = math.sqrt(float(covariance[1, 1]))
    scattered = inside * math.sqrt(scale)
    pull = covariance[1] @ (design * (weight**2)[:, None]).T  # of each spell's level, in the difference
    again = AGAIN_U_DB * math.sqrt(float(pull @ pull) * scale)
    u = math.sqrt(scattered**2 + 2.0 * grain**2)
    degrees = degrees * (u / scattered) ** 4
    value = float(solution[1])
    # A drift is told only where somebody noted the minutes: spells all at one moment have none.
    drift = float(solution[2]) * 60.0 if returned and by_clock else None
    lines = [
        f"{label:<12.12} {show.fixed(v, 2)} dB" + (f" at {at:g} min" if at is not None else "")
        for (label, at), v in zip(rows, values, strict=True)
    ]
    if drift is not None:
        drift_words = f"{show.plus(drift, 1)} dB an hour, taken out"
    elif returned:
        drift_words = f"{show.plus(float(solution[2]), 1)} dB from spell to spell, taken out"
    else:
        drift_words = "not told: return to the first"
    lines.append(f"drift {drift_words}")
    lines.append(f"{second} − {first} = {show.plus(value, 2)} dB")
    figure = Figure(
        f"{second} over {first}",
        value,
        u,
        "dB",
        Working(
            tuple(lines),
            (
                ("scatter of the readings", f"{math.sqrt(max(scattered**2 - again**2, 0.0)):.2f} dB"),
                ("a spell as a whole, made again", f"{again:.2f} dB"),
                *([("alike in time, correlation", f"{rho:.2f}")] if rho > 0.05 else []),
                *([("steps of the display", f"{math.sqrt(2.0) * grain:.2f} dB")] if grain > 0.01 else []),
                *([("spells that don’t repeat, factor", f"{math.sqrt(scale):.2f}")] if scale > 1.1 else []),
            ),
            f"least squares with a straight drift; {comparison.averaging}; {rule(comparison.unit)}",
            _averaging_words(comparison.averaging),
        ),
        degrees,
    )
    check = _as_set(figure, comparison.set_db) if comparison.set_db is not None else None
    if comparison.unit == UNKNOWN:
        figure, check = _either_unit(figure)
    means = tuple((label, v) for (label, _), v in zip(rows, values, strict=True))
    return Compared(comparison, figure, drift, drift_words, means, check)


def _either_unit(power: Figure) -> tuple[Figure, Check]:
    """A difference on a meter of unknown unit: the logarithm of a power, or twice that of an amplitude."""
    field = replace(power, value=2.0 * power.value, u=2.0 * power.u)
    edges = (*power.interval, *field.interval)
    both = replace(power, low=min(edges), high=max(edges))
    words = f"unit not known: {power.text} if it shows a power or density, {field.text} if a field or voltage"
    why = (
        "Look for V/m, mW/m² or µW/cm² on the meter, or go twice as far away in the open: a quarter is left of a power, half "
        "of a field. A pad of 6 dB before it does the same."
    )
    return both, Check("open", words, both, why)


def _tells_drift(is_second: np.ndarray, minute: np.ndarray) -> bool:
    """Whether drift can be told from the difference at all."""
    design = np.stack((np.ones(len(minute)), is_second, minute - minute.mean()), axis=1)
    return int(np.linalg.matrix_rank(design)) == 3


def _averaging_words(averaging: Averaging) -> str:
    if averaging == "mean of decibels":
        return "Means of decibels stand under means of power where a source fades: compare like with like."
    if averaging == "highest held":
        return "The highest held grows with the time it was held: hold both alike, and for long."
    return "Mean of power: what a thermal meter would show."


def _as_set(figure: Figure, set_db: float) -> Check:
    """Seen against set: compression has a name."""
    short = set_db - figure.value if set_db >= 0 else figure.value - set_db
    low, high = figure.interval
    words = f"seen {show.decibel(figure.value)}, set {show.decibel(set_db)}"
    if low <= set_db <= high:
        return Check("holds", f"as set: {words}", figure, "The difference seen is the difference set, within its ±.")
    if low <= set_db / 2.0 <= high and abs(set_db) >= LEAST_DOUBLED_DB:
        why = "Double the power is 3 dB, double the voltage 6 dB: was the power taken for a voltage, or the other way round?"
        return Check("disagrees", f"half of what was set: {words}", figure, why)
    if short > COMPRESSES_DB:
        return Check(
            "fails",
            f"compressed by {show.decibel(short)}: {words}",
            figure,
            "More was set than arrives: an output stage at its end, a receiver that is overdriven, or a display at "
            "its top. More power brings heat, not range.",
        )
    return Check("disagrees", words, figure, "The difference seen is not the one set: something else changed too.")


class PowerPair(Frozen):
    """Two runs of one antenna at two powers: the difference seen, against the one set."""

    weaker: Run
    stronger: Run
    difference: Figure
    check: Check

    @property
    def name(self) -> str:
        return f"runs {self.weaker.number} and {self.stronger.number}"


def power_pairs(field: FieldFinding) -> tuple[PowerPair, ...]:
    """Runs of one antenna at two powers, place by place."""
    out = []
    runs = [s for s in field.samples if s.heard.any() and s.run.power_w]

    def sent_dbm(s: RunSamples) -> float:
        return dbm_from_watt(s.run.power_w or 1.0) - s.run.pad_db

    for i, low in enumerate(runs):
        for high in runs[i + 1 :]:
            a, b = sorted((low, high), key=sent_dbm)
            set_db = sent_dbm(b) - sent_dbm(a)
            others = _changed_too(field, a.run.id, b.run.id)
            if a.tried != b.tried or set_db < 0.5 or a.run.manner != b.run.manner:
                continue
            cells = by_cell([a, b])
            both = np.isfinite(cells.level_dbm).all(axis=0)
            n = int(both.sum())
            if n < 2:
                continue
            seen = cells.level_dbm[1, both] - cells.level_dbm[0, both]
            figure = Figure(
                f"run {b.run.number} over run {a.run.number}",
                float(seen.mean()),
                float(seen.std(ddof=1)) / math.sqrt(n),
                "dB",
                Working(
                    (
                        f"set   {show.plus(set_db, 1)} dB",
                        f"seen  {show.plus(float(seen.mean()), 1)} dB at {show.count(n, 'place')}",
                    ),
                    (("scatter between places", f"{float(seen.std(ddof=1)) / math.sqrt(n):.2f} dB"),),
                    "the same places, two powers",
                    "If less is seen than was set, something at one end is at its limit.",
                ),
                float(n - 1),
            )
            check = _as_set(figure, set_db)
            if others:
                words = f"{show.join(others)} changed too: can’t be told"
                check = Check("open", words, figure, "Two powers are compared with all else the same: run it again so.")
            out.append(PowerPair(a.run, b.run, figure, check))
    return tuple(out)


def _changed_too(field: FieldFinding, one: str, other: str) -> list[str]:
    """Factors besides power and pad in which two runs differ."""
    factors = {row.run.id: row.factors for row in field.rows}
    mine, theirs = factors.get(one, {}), factors.get(other, {})
    return [name for name in mine if name not in ("power", "pad") and mine[name] != theirs.get(name)]


def all_compared(evidence: Evidence) -> tuple[Compared, ...]:
    found = (compare(comparison) for comparison in evidence.all(Comparison))
    return tuple(c for c in found if c is not None)
