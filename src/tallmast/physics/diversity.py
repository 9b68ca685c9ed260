"""What a receiver with two antennas gets of something that flies: the better of both, or both added, over all attitudes.

For two branches that fade alike and apart (Rayleigh), the better of two stands P(γ < x) = (1 − e⁻ˣ)² of the mean (Jakes, Microwave
Mobile Communications, §5.2): the worst tenth rises from −9.8 to −4.2 dB.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen

from .attitude import axes, pointing
from .decibels import Floats
from .statistics import coverage_factor
from .waves import Wave, facing, fields, passed

Powers = NDArray[np.float32]
TENTH = 0.1


def attitudes(count: int, pitch_deg: float, roll_deg: float, every_way: bool = False) -> Floats:
    """Heading, pitch and roll [count, 3], degrees, spread evenly over what is flown and always the same (an additive recurrence by
    the plastic number: Roberts 2018): every heading; pitch and roll up to what is given, the smaller ones oftener; or every
    way up, evenly over all turns."""
    step = np.array([0.8191725134, 0.6710436067, 0.5497004779])
    u = (0.5 + np.outer(np.arange(1, count + 1), step)) % 1.0
    heading = 360.0 * u[:, 0]
    if every_way:  # even over all turns: heading, and the sine of pitch, and roll
        return np.stack((heading, np.degrees(np.arcsin(2.0 * u[:, 1] - 1.0)), 360.0 * u[:, 2] - 180.0), axis=1)
    squared = np.sign(u[:, 1:] - 0.5) * (2.0 * np.abs(u[:, 1:] - 0.5)) ** 1.5
    return np.stack((heading, pitch_deg * squared[:, 0], roll_deg * squared[:, 1]), axis=1)


def received(
    receivers: Sequence[tuple[Wave, Floats]],
    carried: Wave,
    mount: Floats,
    flown_deg: Floats,
    bearing_deg: Floats,
    elevation_deg: Floats,
) -> Powers:
    """Power that each receiving antenna gets [antenna, attitude × bearing], as a number: 1 between two isotropic that agree.

    `receivers`: each with its frame, [3, 3] or one for every bearing [b, 3, 3]; `mount` [3, 3]: the carried antenna's front, right
    and up in the craft's; `flown_deg` [a, 3] heading, pitch and roll; it is seen at bearings and elevations [b].
    """
    toward = pointing(bearing_deg, elevation_deg)
    craft = axes(flown_deg[:, 0], flown_deg[:, 1], flown_deg[:, 2])
    frame = np.einsum("ij,ajk->aik", mount, craft)
    sent = facing(fields(carried, frame[:, None], -toward[None]))
    out = np.empty((len(receivers), len(flown_deg) * len(bearing_deg)), dtype=np.float32)
    for number, (wave, looks) in enumerate(receivers):
        out[number] = passed(sent, fields(wave, looks, toward)[None]).ravel()
    return out


class Together(Frozen):
    """Two antennas on one receiver over everything flown; levels in dB against two isotropic antennas that agree."""

    one: int
    other: int
    worst_tenth_db: float
    worst_db: float
    """The worst hundredth: what is rarer nobody can plan for."""
    median_db: float
    holes: float
    """Share of it under what is usable."""
    share_of_one: float
    """Of it that the one carries, where the better is taken."""


LOWEST_DB, STEP_DB, STEPS = -100.0, 0.02, 8000
"""Levels are sorted into steps so fine that nobody tells them apart: counting is ten times quicker than sorting."""


def _stepped(power: Powers) -> NDArray[np.uint16]:
    level = (np.float32(10.0) * np.log10(np.maximum(power, np.float32(1e-10))) - np.float32(LOWEST_DB)) / np.float32(
        STEP_DB
    )
    return np.asarray(np.clip(level, 0, STEPS - 1).astype(np.uint16))


def _told(one: int, other: int, steps: NDArray[np.uint16], usable_db: float, share: float) -> Together:
    n = len(steps)
    below = np.cumsum(np.bincount(steps, minlength=STEPS))
    worst, tenth, middle = (
        LOWEST_DB + STEP_DB * (float(np.searchsorted(below, q * n, side="right")) + 0.5) for q in (0.01, TENTH, 0.5)
    )
    usable = int(np.clip((usable_db - LOWEST_DB) / STEP_DB, 0, STEPS))
    holes = float(below[usable - 1]) / n if usable else 0.0
    return Together(one, other, tenth, worst, middle, holes, share)


def singles(powers: Powers, usable_db: float) -> list[Together]:
    """Each antenna of [antenna, n] alone."""
    return [_told(i, i, _stepped(power), usable_db, 1.0) for i, power in enumerate(powers)]


def pairs(powers: Powers, usable_db: float, mixed: bool = False) -> list[Together]:
    """Every two of [antenna, n], the best first by their worst tenth. `mixed`: both are added in power, as a receiver that weighs
    them at best does; else the better is taken."""
    stepped = [_stepped(power) for power in powers]
    n = powers.shape[1]
    out = []
    for i in range(len(powers)):
        for j in range(i + 1, len(powers)):
            both = _stepped(powers[i] + powers[j]) if mixed else np.maximum(stepped[i], stepped[j])
            share = float(np.count_nonzero(stepped[i] >= stepped[j])) / n
            out.append(_told(i, j, both, usable_db, share))
    return sorted(out, key=lambda pair: -pair.worst_tenth_db)


def switches(one_db: Floats, other_db: Floats) -> int:
    """How often the better one changes along two traces [n]."""
    better = np.sign(one_db - other_db)
    better = better[better != 0]
    return int(np.count_nonzero(np.diff(better)))


def quantile_of_series(
    values: Floats, share: float = TENTH, confidence: float = 0.90
) -> tuple[float, float, float, float]:
    """(quantile, low, high, effective number) of a series [n] whose readings are alike in time.

    Order statistics either side of the share, as far as a share of so many independent readings may be off; how many those are
    follows from the correlation of “below the quantile or not” (initial positive sequence: Geyer 1992), and few of them by
    Student's t. Raises `ValueError` with fewer than ten.
    """
    n = len(values)
    if n < 10:
        raise ValueError("a tenth needs ten readings at least")
    ordered = np.sort(values)
    at = float(np.quantile(ordered, share))
    below = (values <= at).astype(float) - share
    variance = float(below @ below) / n
    total, k = 1.0, 1
    while k < n // 3:
        rho = float(below[k:] @ below[:-k]) / n / max(variance, 1e-12)
        following = float(below[k + 1 :] @ below[: -k - 1]) / n / max(variance, 1e-12)
        if rho + following <= 0.0:
            break
        total += 2.0 * (rho + following)
        k += 2
    effective = max(n / max(total, 1.0), 2.0)
    half = coverage_factor(max(effective * share, 2.0), confidence) * math.sqrt(share * (1.0 - share) / effective)
    low, high = (float(np.quantile(ordered, min(max(share + way * half, 0.0), 1.0))) for way in (-1.0, 1.0))
    return at, low, high, effective
