"""Meters and displays: readings in whole steps, alike in time, thinly stepped, and counts of packets."""

from __future__ import annotations

import numpy as np

from tallmast.findings.levels.compare import compare
from tallmast.findings.levels.display_curve import fit
from tallmast.findings.levels.verify import verify
from tallmast.notebook.records import Comparison, DisplayRun, PadCheck, Piece, ReadingsInTurn

from ..tally import Answer, quantity


def alike(rng, n: int, rho: float, sd: float) -> np.ndarray:
    """A first-order process with a standard deviation, in its steady state."""
    out = np.empty(n)
    out[0] = rng.normal(0, sd)
    for i in range(1, n):
        out[i] = rho * out[i - 1] + rng.normal(0, sd * np.sqrt(1 - rho**2))
    return out


def _pad(rng, grain: float, sd: float, repeats: int, ends_swr: float = 1.15) -> list[Answer]:
    loss, start, drift = rng.uniform(3, 20), rng.uniform(-40, -20), rng.normal(0, 0.004)
    inside = np.array([0, 1] * repeats + [0], dtype=float)
    minute = np.arange(len(inside)) * 0.5
    level = start - loss * inside + drift * minute + rng.normal(0, sd, len(inside))
    # The meter is a little bent, and the ends do not match: neither each other, nor the pad, which is none too good itself.
    ends = (ends_swr - 1) / (ends_swr + 1) * np.exp(2j * np.pi * rng.random(2))
    own = rng.uniform(0.02, 0.06, 2) * np.exp(2j * np.pi * rng.random(2))
    seen = np.abs((1 - ends[0] * own[0]) * (1 - ends[1] * own[1]) / (1 - ends[0] * ends[1]))
    level -= inside * (rng.normal(0, 0.03 * np.sqrt(loss / 10)) + 20 * np.log10(seen))
    shown = np.round(level / grain) * grain if grain else level
    series = {"inside": inside, "level_dbm": shown, "minute": minute}
    check = PadCheck(piece_id="p", frequency_hz=869e6, series_id="s", ends_swr=ends_swr)
    return [(verify(check, series, Piece(id="p", name="pad", type="pad", loss_db=10)).loss, loss)]


@quantity("levels", "pad, a meter of whole decibels, steady")
def pad_whole(rng) -> list[Answer]:
    return _pad(rng, 1.0, 0.02, 2)


@quantity("levels", "pad, a meter of tenths that scatters")
def pad_fine(rng) -> list[Answer]:
    return _pad(rng, 0.1, 0.15, 3)


@quantity("levels", "pad, between ends of SWR 1.5")
def pad_between(rng) -> list[Answer]:
    return _pad(rng, 0.1, 0.05, 3, ends_swr=1.5)


def _in_turn(
    rng,
    order: str,
    n: int,
    rho: float,
    unit: str = "dBm",
    grain: float = 0.0,
    power: bool = False,
    strays: float = 0.0,
    sd: float = 1.0,
) -> list[Answer]:
    step, drift = rng.uniform(-4, 4), rng.normal(0, 0.05)
    spells = []
    for i, label in enumerate(order):
        values = -70 + step * (label == "B") + drift * 3 * i + alike(rng, n, rho, sd) + rng.normal(0, strays)
        if grain:
            values = np.round(values / grain) * grain
        spells.append(ReadingsInTurn(label=label, minute=3.0 * i, values=values.tolist()))
    comparison = Comparison(
        what="x", unit=unit, averaging="mean of power" if power else "mean of decibels", spells=spells
    )
    return [(compare(comparison).difference, step)]


@quantity("levels", "A-B-A of 5 readings")
def aba(rng) -> list[Answer]:
    return _in_turn(rng, "ABA", 5, 0.0)


@quantity("levels", "A-B-A of 5 readings, mean of power")
def aba_power(rng) -> list[Answer]:
    return _in_turn(rng, "ABA", 5, 0.0, power=True)


@quantity("levels", "A-B-A-B-A of 4 readings", high=0.94, why="a spell put up anew strays, and in this world none does")
def ababa(rng) -> list[Answer]:
    return _in_turn(rng, "ABABA", 4, 0.0)


@quantity("levels", "A-B-A of 20 readings alike in time")
def aba_alike(rng) -> list[Answer]:
    return _in_turn(rng, "ABA", 20, 0.8)


@quantity("levels", "A-B-A of 10 readings, half alike", low=0.86, why="30 readings hardly tell how alike they are")
def aba_half(rng) -> list[Answer]:
    return _in_turn(rng, "ABA", 10, 0.5)


@quantity(
    "levels", "A-B-A of 5 readings, each spell astray by 0.3 dB", low=0.86, why="one of three spells astray is not seen"
)
def aba_astray(rng) -> list[Answer]:
    return _in_turn(rng, "ABA", 5, 0.0, strays=0.3)


@quantity("levels", "A-B-A-B-A of 6 readings, each spell astray by 0.3 dB")
def ababa_astray(rng) -> list[Answer]:
    return _in_turn(rng, "ABABA", 6, 0.0, strays=0.3)


@quantity("levels", "A-B-A in whole decibels")
def aba_whole(rng) -> list[Answer]:
    return _in_turn(rng, "ABA", 6, 0.0, grain=1.0)


def _display(rng, scale: str, show, low: float, high: float, step: float, looks: int) -> list[Answer]:
    """A display stepped from its top down, then one reading at a level anywhere in between."""
    attenuation = np.repeat(np.arange(0, high - low + step / 2, step), looks)
    shown = np.array([show(high - a) for a in attenuation])
    run = DisplayRun(receiver="r", scale=scale, series_id="s", zero_dbm=high, zero_u_db=1e-6, step_u_db=1e-6)
    curve = fit(run, {"attenuation_db": attenuation, "shown": shown, "order": np.arange(len(shown), dtype=float)})
    level = rng.uniform(low + 1, high - 1)
    return [(curve.read(show(level)).level, level)]


@quantity("levels", "S units stepped by 5 dB")
def s_units(rng) -> list[Answer]:
    bend, offset = rng.uniform(0.7, 1.2), rng.uniform(0, 1)

    def show(level: float) -> float:
        return float(np.round(9 * np.clip((level + 127) / 54, 0, 1) ** bend + offset + rng.normal(0, 0.08)))

    return _display(rng, "S units", show, -120, -75, 5.0, 2)


@quantity("levels", "packet rate, stepped by 1 dB")
def packets(rng) -> list[Answer]:
    middle, width = rng.uniform(-97, -93), rng.uniform(1.0, 2.0)

    def show(level: float) -> float:
        return 2.0 * rng.binomial(50, 1 / (1 + np.exp(-(level - middle) / width)))

    return _display(rng, "packet rate", show, middle - 3 * width, middle + 3 * width, 1.0, 3)


@quantity("levels", "bars, stepped by 2 dB", high=0.95, why="hysteresis is looked for in steps of the display")
def bars(rng) -> list[Answer]:
    start, per_bar = rng.uniform(-105, -100), rng.uniform(6, 9)

    def show(level: float) -> float:
        return float(np.clip(np.round((level - start) / per_bar + rng.normal(0, 0.12)), 0, 5))

    return _display(rng, "bars", show, start - 2, start + 5.5 * per_bar, 2.0, 3)


@quantity("levels", "bit rate, stepped by 2 dB")
def bit_rate(rng) -> list[Answer]:
    start, span = rng.uniform(-95, -90), rng.uniform(18, 26)

    def show(level: float) -> float:
        share = np.clip((level - start) / span, 0, 1)
        return float(np.round(max(50 * share**1.3 + rng.normal(0, 1.2), 0), 1))

    return _display(rng, "bit rate", show, start, start + span, 2.0, 3)


@quantity("levels", "S units of uneven width, stepped by 5 dB")
def s_units_uneven(rng) -> list[Answer]:
    """Each unit of a width of its own, 3.5 to 7 dB, each step looked at once or twice."""
    edges = -124.0 + np.cumsum(rng.uniform(3.5, 7.0, 10))

    def show(level: float) -> float:
        return float(np.searchsorted(edges, level + rng.normal(0, 0.3)))

    return _display(rng, "S units", show, -118, -78, 5.0, int(rng.integers(1, 3)))
