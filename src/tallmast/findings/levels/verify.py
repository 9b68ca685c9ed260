"""A pad measured by substitution: level without it, with it, and without it again."""

from __future__ import annotations

import math

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Series
from tallmast.notebook.records import PadCheck, Piece
from tallmast.physics import repeats
from tallmast.physics.decibels import power_db, power_ratio
from tallmast.physics.reflection import gamma_from_swr
from tallmast.physics.statistics import coverage_factor, degrees_of
from tallmast.units import show

from ..figure import Check, Figure, Mark, Working

LEAKS_PAST_DB = 60.0
"""From which loss on stray leakage has to be thought of, with cables and cases as people have them."""
OWN_GAMMA = 0.05
"""|Γ| of a piece itself: SWR 1.1."""


class Verified(Frozen):
    """What a check found: the loss, the drift that was taken out, and whether something leaks past."""

    check: PadCheck
    loss: Figure
    drift_db_per_hour: float
    repeats: int
    leak: Check | None
    against: str
    """Against its lid, in words."""


def mismatch_u_db(ends_swr: float) -> float:
    """Standard uncertainty, dB, of a loss by substitution between two ends of an SWR, phases unknown.

    Without the piece the ends see each other, |1 − Γ₁Γ₂|, with it each the piece, |1 − Γ·S|: three vectors of unknown phase, each with a
    U-shaped spread of 8.69·|ΓΓ′| dB at most (Harris and Warner, Re-examination of mismatch uncertainty when measuring microwave power
    and attenuation, IEE Proc. H 128, 1981; JCGM 101 §6.4.6).
    """
    end = float(gamma_from_swr(ends_swr))
    return 20.0 / math.log(10.0) * math.sqrt((end**4 + 2.0 * (end * OWN_GAMMA) ** 2) / 2.0)


def _less(level_dbm: np.ndarray, idle_dbm: float | None) -> np.ndarray:
    """Levels with the meter's idle power taken off; what is not above it is left as it is."""
    if idle_dbm is None:
        return level_dbm
    power = power_ratio(level_dbm) - float(power_ratio(idle_dbm))
    return np.where(power > 0, power_db(np.maximum(power, 1e-40)), level_dbm)


def verify(check: PadCheck, series: Series, piece: Piece) -> Verified:
    """The loss of a piece from a substitution: least squares of two levels and a straight drift.

    Needs one reading of each kind; with fewer than three in all no drift can be told, and none is taken out. u has the
    scatter (Student's degrees), the meter's linearity over the difference, and mismatch at both ends.
    """
    inside = np.asarray(series["inside"]) > 0.5
    level = _less(np.asarray(series["level_dbm"], dtype=float), check.idle_dbm)
    minute = np.asarray(series["minute"], dtype=float)
    returned = len(level) >= 3 and minute.max() > minute.min() and (~inside).sum() >= 2
    columns = [(~inside).astype(float), inside.astype(float)]
    if returned:
        columns.append(minute - minute.mean())
    design = np.stack(columns, axis=1)
    solution, *_ = np.linalg.lstsq(design, level, rcond=None)
    loss = float(solution[0] - solution[1])
    drift = float(solution[2]) * 60.0 if returned else 0.0
    degrees = len(level) - design.shape[1]
    residual = level - design @ solution
    scatter = math.sqrt(float(residual @ residual) / degrees) if degrees > 0 else 0.05
    contrast = np.zeros(design.shape[1])
    contrast[:2] = 1.0, -1.0
    spread = scatter * math.sqrt(float(contrast @ np.linalg.pinv(design.T @ design) @ contrast))
    grain = math.sqrt(2.0) * repeats.u_of_grain(repeats.grain_of(np.asarray(series["level_dbm"], dtype=float)), scatter)
    linearity = check.linearity_db * math.sqrt(abs(loss) / 10.0)
    weakest = float(level[inside].min())
    leak, leak_u = _leak(check, piece, loss, weakest)
    mismatch = mismatch_u_db(check.ends_swr)
    u = math.sqrt(spread**2 + grain**2 + linearity**2 + mismatch**2 + leak_u**2)
    # Only the scatter has few degrees: its half and that of all the rest add in squares.
    few, many = coverage_factor(float(degrees) if degrees > 0 else math.inf), coverage_factor(math.inf)
    half = math.hypot(few * spread, many * math.sqrt(max(u**2 - spread**2, 0.0)))
    against = _against(piece, loss, u)
    figure = Figure(
        f"{piece.name}, measured",
        loss,
        u,
        "dB",
        Working(
            (
                f"without it   {show.level(float(solution[0]), 2)}, {show.count(int((~inside).sum()), 'reading')}",
                f"with it      {show.level(float(solution[1]), 2)}, {show.count(int(inside.sum()), 'reading')}",
                f"drift        {show.plus(drift / 60.0 * float(np.ptp(minute)), 3)} dB, taken out"
                if returned
                else "drift        not told",
                *([f"idle meter   {show.level(check.idle_dbm)}, taken off"] if check.idle_dbm is not None else []),
                f"loss = {show.decibel(loss, 2)} at {show.frequency(check.frequency_hz)}",
            ),
            tuple(
                (name, f"{show.fixed(part, 3)} dB")
                for name, part in (
                    ("scatter", spread),
                    ("steps of the meter", grain),
                    ("meter’s linearity", linearity),
                    (f"mismatch, ends of SWR {check.ends_swr:g}", mismatch),
                    ("leakage", leak_u),
                )
                if part > 0.001
            ),
            "insertion loss by substitution; drift by least squares over all returns to zero",
            f"{piece.name} is marked {show.decibel(piece.loss_db)}: {against}.",
        ),
        degrees_of(half / u),
        digits=2,
        # Where mismatch is most of it there are no tails: a vector of unknown phase reaches no farther than its length.
        bounded=(mismatch / u) ** 2 if mismatch**2 > 0.5 * u**2 else 0.0,
    )
    return Verified(check, figure, drift, int(inside.sum()), leak, against)


def _against(piece: Piece, loss: float, u: float) -> str:
    off = loss - piece.loss_db
    if abs(off) <= piece.tolerance_db + 1.645 * u:
        return "it is what its lid says, within tolerance and uncertainty"
    return f"it is {show.decibel(abs(off), 2)} {'more' if off > 0 else 'less'}, beyond its tolerance"


def _leak(check: PadCheck, piece: Piece, loss: float, weakest_dbm: float) -> tuple[Check | None, float]:
    """What leaks past: seen with the way interrupted, or to be suspected; and the uncertainty that it adds, dB."""
    if check.leak_dbm is not None:
        below = weakest_dbm - check.leak_dbm
        # The leak adds in any phase: at worst 20·log₁₀(1 + 10^(−below/20)), a U-shaped spread (÷ √2).
        worst = 20.0 * math.log10(1.0 + 10.0 ** (-below / 20.0))
        words = (
            f"leakage {show.decibel(abs(below), 0)} {'under' if below > 0 else 'over'} what came through {piece.name}"
        )
        mark: Mark = "holds" if below >= 20.0 else "disagrees"
        why = (
            "With the way interrupted this much still arrived, round the piece, by cables and cases. "
            "Under 20 dB apart it bends the reading: screen better, or measure the piece in two parts."
        )
        return Check(mark, words, None, why), worst / math.sqrt(2.0)
    if loss > LEAKS_PAST_DB:
        why = "Past 60 dB what leaks round a piece can be as much as what comes through. Interrupt the way and read again."
        return Check("open", f"leakage past {piece.name} not tried", None, why), 0.0
    return None, 0.0
