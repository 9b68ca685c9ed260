"""Pairs on a receiver: antennas that are no product of two cuts, measured by two cuts with noise, over a craft's true attitudes."""

from __future__ import annotations

import numpy as np

from tallmast.notebook.records import Craft
from tallmast.physics.attitude import axes, pointing

from ...findings.build import Book
from ..tally import Answer, quantity


class Lumpy:
    """A beam, a back and some lumps over the sphere; vertical, with a cross-polar part of its own."""

    def __init__(self, rng) -> None:
        self.width = rng.uniform(60, 130)
        self.front = rng.uniform(0, 40) * rng.choice([-1, 1])
        self.lumps = [(pointing(rng.uniform(0, 360), rng.uniform(-60, 60)), rng.normal(0, 1.2)) for _ in range(8)]
        self.back = -rng.uniform(8, 16)

    def __call__(self, azimuth, elevation):
        k = pointing(azimuth, elevation)
        off = np.degrees(np.arccos(np.clip(k @ pointing(self.front, 0.0), -1, 1)))
        beam = np.maximum(-12 * (off / self.width) ** 2, self.back)
        return beam + sum(size * np.exp(4 * (k @ at - 1)) for at, size in self.lumps)


@quantity("pattern", "a pair by its cuts: the worst tenth over all attitudes")
def worst_tenth(rng) -> list[Answer]:
    book = Book()
    craft = book.antenna("Stub", type="dipole", polarization="vertical")
    true = {}
    fine = np.arange(0, 360, 5.0)
    for name in ("P", "Q"):
        lumpy = Lumpy(rng)
        a = book.antenna(name, type="panel", polarization="vertical", known_gain_dbi=8.0 + rng.normal(0, 0.3))
        over = (
            np.where((fine > 90) & (fine < 270), 180.0, 0.0),
            np.where((fine > 90) & (fine < 270), 180.0 - fine, (fine + 90) % 360 - 90),
        )
        book.cut(a, lumpy(fine, 0.0 * fine) + rng.normal(0, 0.5, 72), fine, level_u_db=0.5)
        book.cut(a, lumpy(*over) + rng.normal(0, 0.5, 72), fine, plane="elevation", level_u_db=0.5)
        sphere_a, sphere_e = np.meshgrid(np.arange(0, 360, 6.0), np.arange(-87, 90, 6.0))
        top = float(max(lumpy(sphere_a, sphere_e).max(), 0.0))
        true[name] = (lumpy, 8.0 - top)
    book.add(Craft(antenna_id=craft.id, mounted="standing", flown="banks", from_deg=-60, to_deg=60, highest_deg=30))
    found = {c.name: c for c in book.climb().pattern.pairs.pairs}["P + Q"].worst_tenth
    # The truth: drawn anew, vectors of its own.
    n = 6000
    bearing, up = rng.uniform(-60, 60, n), 30 * rng.random(n) ** 2
    banks = [np.sign(u - 0.5) * (2 * np.abs(u - 0.5)) ** 1.5 for u in rng.random((2, n))]
    frame = axes(rng.uniform(0, 360, n), 15 * banks[0], 55 * banks[1])
    k = pointing(bearing, up)
    rod = frame[:, 2]
    c = np.einsum("ij,ij->i", rod, k)
    sent = (rod - c[:, None] * k) * (np.sqrt(1.643) * np.cos(np.pi / 2 * c) / np.maximum(1 - c**2, 1e-9))[:, None]
    upright = np.array([0.0, 0.0, 1.0]) - k[:, 2:] * k
    upright /= np.linalg.norm(upright, axis=1, keepdims=True)
    along = np.abs(np.einsum("ij,ij->i", sent, upright))
    power = [along**2 * 10 ** ((lumpy(bearing, up) + gain) / 10) for lumpy, gain in true.values()]
    return [(found, 10 * float(np.log10(np.quantile(np.maximum(*power), 0.1))))]
