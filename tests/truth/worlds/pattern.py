"""A range: arrays of sources with element patterns and a back of their own, turned in steps, read with noise.

No beam here is a parabola in decibels: the pattern is an array factor with a taper, times an element, plus a back lobe
and what the mast scatters. The source drifts a little between cuts and every antenna is put on anew.
"""

from __future__ import annotations

import numpy as np

from ...findings.build import Book
from ..tally import Answer, quantity


class Array:
    """Power pattern in dB over azimuth, peak 0 dB near its front."""

    def __init__(self, rng: np.random.Generator, least: int = 2, most: int = 7) -> None:
        n = int(rng.integers(least, most))
        place = np.arange(n) * rng.uniform(0.4, 0.6)
        self.place = place - place.mean()
        self.weight = rng.uniform(0.6, 1.0, n)
        self.squint = np.radians(rng.uniform(-4, 4))
        self.power = rng.uniform(0.5, 1.5)
        self.back = 10 ** (-rng.uniform(15, 28) / 20) * np.exp(2j * np.pi * rng.random())
        self.top = 0.0
        self.top = float(self(np.arange(-60, 60, 0.05)).max())

    def __call__(self, deg: np.ndarray) -> np.ndarray:
        a = np.radians(deg)
        phase = 2 * np.pi * np.outer(np.sin(a) - np.sin(self.squint), self.place)
        element = np.maximum(np.cos(a), 0.0) ** self.power
        field = (np.exp(1j * phase) @ self.weight) / self.weight.sum() * element + self.back * (
            0.6 + 0.4 * np.cos(2 * a)
        )
        return 20 * np.log10(np.maximum(np.abs(field), 1e-3)) - self.top

    def width(self) -> float:
        fine = np.arange(-180, 180, 0.02)
        level = self(fine)
        top = int(np.argmax(level))
        right = fine[top + int(np.argmax(level[top:] < -3))]
        left = fine[top - int(np.argmax(level[top::-1] < -3))]
        return float(right - left)

    def weakest(self, low: float, high: float) -> float:
        return float(self(np.arange(low, high + 0.01, 0.1)).min())


def turned(rng, truth, step: float, u: float, offset: float = 0.0) -> tuple[np.ndarray, np.ndarray]:
    angle = np.arange(0, 360, step)
    return angle, truth(angle) + offset + rng.normal(0, u, len(angle))


def beam(rng, step: float, u: float, most: int = 7):
    array = Array(rng, most=most)
    book = Book(sector_from_deg=-40, sector_to_deg=40)
    a = book.antenna("A")
    angle, level = turned(rng, array, step, u, -40)
    book.cut(a, level, angle, level_u_db=u, absolute=True, session="x")
    return array, book.climb(a).pattern.focus.cuts[0]


@quantity("pattern", "beamwidth, steps of 5°, 0.5 dB")
def beamwidth(rng) -> list[Answer]:
    array, cut = beam(rng, 5.0, 0.5)
    return [(cut.beamwidth, array.width())]


@quantity("pattern", "beamwidth, steps of 2°, 1 dB")
def beamwidth_noisy(rng) -> list[Answer]:
    array, cut = beam(rng, 2.0, 1.0)
    return [(cut.beamwidth, array.width())]


def offset_beam(rng):
    """Levels stated to 1 dB, of which nearly all is one offset of the whole range."""
    array = Array(rng)
    book = Book(sector_from_deg=-40, sector_to_deg=40)
    a = book.antenna("A")
    angle, level = turned(rng, array, 3.0, 0.25, -40 + rng.normal(0, 1.0))
    book.cut(a, level, angle, level_u_db=1.0, absolute=True, session="x")
    return array, book.climb(a).pattern.focus.cuts[0]


@quantity(
    "pattern", "beamwidth, levels off by an offset", high=0.99, why="that some of it is no offset can't be ruled out"
)
def beamwidth_offset(rng) -> list[Answer]:
    array, cut = offset_beam(rng)
    return [(cut.beamwidth, array.width())]


@quantity(
    "pattern",
    "front-to-back, levels off by an offset",
    high=0.985,
    why="that some of it is no offset can't be ruled out",
)
def back_offset(rng) -> list[Answer]:
    array, cut = offset_beam(rng)
    return [(cut.front_to_back, float(-array(np.array([cut.peak_deg + 180.0]))[0]))]


@quantity("pattern", "front-to-back, steps of 5°")
def back(rng) -> list[Answer]:
    array, cut = beam(rng, 5.0, 0.5)
    return [(cut.front_to_back, float(-array(np.array([cut.peak_deg + 180.0]))[0]))]


@quantity("pattern", "weakest in a sector, steps of 2°")
def weakest(rng) -> list[Answer]:
    array, cut = beam(rng, 2.0, 0.7, most=4)
    return [(cut.sector, array.weakest(-40, 40))]


@quantity("pattern", "deepest null, steps of 2°, 0.7 dB")
def null(rng) -> list[Answer]:
    """Against the pattern's own dip within one step: what lies between two samples is part of the question."""
    array, cut = beam(rng, 2.0, 0.7)
    if not cut.nulls:
        return []
    deepest = max(cut.nulls, key=lambda n: n.depth.value)
    near = deepest.at_deg + np.arange(-3, 3.01, 0.05)
    return [(deepest.depth, -float(array(near).min()))]


@quantity("pattern", "directivity by both cuts")
def directivity(rng) -> list[Answer]:
    """A lattice of sources before a plate, with what the mast scatters: no product of its two cuts."""
    across, up = (np.arange(int(rng.integers(1, 5))) * rng.uniform(0.4, 0.6) for _ in range(2))
    weight = rng.uniform(0.6, 1.0, (len(across), len(up)))
    power, tilt = rng.uniform(0.4, 1.5), np.radians(rng.uniform(-5, 5))
    back = 10 ** (-rng.uniform(12, 28) / 20) * np.exp(2j * np.pi * rng.random())
    turns = rng.uniform(0.5, 2.0)

    def level(azimuth, elevation):
        a, e = np.radians(azimuth), np.radians(elevation)
        x, y, z = np.cos(e) * np.cos(a), np.cos(e) * np.sin(a), np.sin(e) - np.sin(tilt)
        field = sum(
            weight[i, k] * np.exp(2j * np.pi * (across[i] * y + up[k] * z))
            for i in range(len(across))
            for k in range(len(up))
        )
        field = field / weight.sum() * np.maximum(x, 0.0) ** power + back * np.cos(turns * e) * (
            0.7 + 0.3 * np.cos(2 * a)
        )
        return 20 * np.log10(np.maximum(np.abs(field), 1e-3))

    grid_a, grid_e = np.meshgrid(np.arange(0, 360, 2.0), np.arange(-89, 90, 2.0))
    u = 10 ** (level(grid_a, grid_e) / 10)
    shade = np.cos(np.radians(grid_e))
    true = 10 * np.log10(u.max() * shade.sum() / (u * shade).sum())
    book = Book()
    a = book.antenna("A")
    around = np.arange(0, 360, 5.0)
    book.cut(a, level(around, 0.0) + rng.normal(0, 0.5, 72), around, level_u_db=0.5)
    over = np.where((around > 90) & (around < 270), 180.0 - around, around)
    seen = level(np.where((around > 90) & (around < 270), 180.0, 0.0), over)
    book.cut(a, seen + rng.normal(0, 0.5, 72), around, plane="elevation", level_u_db=0.5)
    return [(book.climb(a).pattern.of("a").directivity, float(true))]


def _substitution(rng, make, true_gain: float, step: float, u: float) -> list[Answer]:
    book = Book()
    a = book.antenna("A")
    known = 2.15
    ref = book.antenna("Ref", known_gain_dbi=known, known_gain_u_db=0.3)
    truth = known + rng.normal(0, 0.3)
    lobes = rng.uniform(0, 2 * np.pi)

    def dipole(deg):
        return 10 * np.log10(np.cos(np.radians(deg) + lobes) ** 2 * 0.99 + 0.01)

    for antenna, pattern, gain in ((a, make, true_gain), (ref, dipole, truth)):
        angle, level = turned(rng, pattern, step, u, -45 + gain + rng.normal(0, 0.1))
        book.cut(antenna, level, angle, level_u_db=u, absolute=True, session="x")
    return [(book.climb(a).pattern.of("a").substitution, true_gain)]


@quantity("pattern", "gain by substitution, a beam, 0.5 dB")
def substitution(rng) -> list[Answer]:
    return _substitution(rng, Array(rng), rng.uniform(6, 12), 5.0, 0.5)


@quantity("pattern", "gain by substitution, a beam, 1 dB, 2°")
def substitution_noisy(rng) -> list[Answer]:
    return _substitution(rng, Array(rng), rng.uniform(6, 12), 2.0, 1.0)


@quantity("pattern", "gain by substitution, an omni")
def substitution_omni(rng) -> list[Answer]:
    size, phase, count = rng.uniform(0.1, 0.6), rng.uniform(0, 6.28), int(rng.integers(1, 4))

    def omni(deg):
        return size * np.cos(count * np.radians(deg) + phase)

    fine = np.arange(0, 360, 0.5)
    mean = 10 * np.log10(np.mean(10 ** (omni(fine) / 10)))
    gain = rng.uniform(3, 8)
    return [(answer, true + mean) for answer, true in _substitution(rng, omni, gain, 5.0, 0.7)]
