"""Over hills: the map's margin at places far from the way that was run.

The ground is hills of any size; a raster has it 50 m apart, some metres off and alike over a few hundred. What is true of a path is worked
out here: two rays over what is rough, and up to three edges by Deygout's construction (Deygout, IEEE Trans. AP-14, 1966) with Fresnel's
integral, each hill rounder than a knife; the finding takes one edge by Rec. ITU-R P.526-15.
"""

from __future__ import annotations

import numpy as np

from tallmast.notebook.entry import new_series
from tallmast.notebook.records import FarEnd, Terrain
from tallmast.physics.geodesy import around

from ...findings.build import HOME, Book
from ..tally import Answer, quantity
from .field import LAMBDA, Ground, alike
from .ways import BEYOND, edge_db

REACH_M, POSTS = 5000.0, 201
BEARING = 37.0


class Hills(Ground):
    """Rough ground with hills on it, m over (east, north) m."""

    def __init__(self, rng) -> None:
        super().__init__(rng)
        n = 24
        self.at = rng.uniform(-REACH_M, REACH_M, (n, 2))
        self.wide = rng.uniform(150, 700, n)
        self.high = rng.exponential(rng.uniform(3, 20), n)
        self.round = rng.uniform(1.0, 1.4)
        self.radius = 6.371e6 * rng.uniform(1.2, 1.6)

    def height(self, east, north):
        east, north = np.asarray(east, dtype=float)[..., None], np.asarray(north, dtype=float)[..., None]
        off2 = (east - self.at[:, 0]) ** 2 + (north - self.at[:, 1]) ** 2
        return (self.high * np.exp(-off2 / (2 * self.wide**2))).sum(axis=-1)

    def behind_db(self, d: float, bearing_deg: float) -> float:
        """What the edges on the way take."""
        x = np.linspace(0.0, d, 120)
        angle = np.radians(bearing_deg)
        ground = self.height(x * np.sin(angle), x * np.cos(angle)) + x * (d - x) / (2 * self.radius)
        ground[0] += self.h1
        ground[-1] += self.h2
        return self.round * self._edges(x, ground, 0, len(x) - 1, 2)

    def _edges(self, x, h, first: int, last: int, deep: int) -> float:
        if last - first < 2 or deep == 0:
            return 0.0
        inner = slice(first + 1, last)
        one, other = x[inner] - x[first], x[last] - x[inner]
        ray = h[first] + (h[last] - h[first]) * one / (one + other)
        v = (h[inner] - ray) * np.sqrt(2 * (one + other) / (LAMBDA * one * other))
        i = int(np.argmax(v))
        if v[i] < -0.78:
            return 0.0
        top = first + 1 + i
        # Behind a main edge the others count only where they stand over the ray to it.
        sides = sum(self._edges(x, h, *side, deep - 1) for side in ((first, top), (top, last)))
        return float(edge_db(np.array([min(v[i], 40.0)]))[0]) + (sides if v[i] > 0 else 0.0)

    def at_cell(self, d: float, bearing_deg: float) -> float:
        """Median loss about a place."""
        near = [self.behind_db(v, bearing_deg + turn) for v in (0.97 * d, d, 1.03 * d) for turn in (-0.7, 0.0, 0.7)]
        return self.median(d) + float(np.median(near))


def noted(rng, hills: Hills, book: Book) -> None:
    """The raster somebody has."""
    middle = np.linspace(-REACH_M, REACH_M, POSTS)
    east, north = np.meshgrid(middle, middle)
    coarse = rng.normal(0, 2.6, (POSTS // 6 + 2, POSTS // 6 + 2))
    wrong = np.repeat(np.repeat(coarse, 6, axis=0), 6, axis=1)[:POSTS, :POSTS]
    heights = hills.height(east, north) + wrong + rng.normal(0, 1.5, (POSTS, POSTS))
    latitude, longitude = around(*HOME.position, middle, middle)
    key, series = new_series({"height_m": heights.ravel()})
    book.series.update(series)
    steps = {
        "step_latitude_deg": float(latitude[1] - latitude[0]),
        "step_longitude_deg": float(longitude[1] - longitude[0]),
    }
    south, west = float(latitude[0]), float(longitude[0])
    book.add(Terrain(id="terrain", series_id=key, south_deg=south, west_deg=west, columns=POSTS, **steps))


def _laid(rng, run: bool) -> list[Answer]:
    hills, book = Hills(rng), Book()
    gain = rng.uniform(4, 10)
    a = book.antenna("A", known_gain_dbi=gain)
    book.home()
    noted(rng, hills, book)
    if run:
        d = np.arange(150.0, 2000.0, 20.0)
        behind = np.array([hills.behind_db(float(v), BEARING) for v in d])
        shadow = alike(rng, d, 3.0, 40.0)
        for number in (1, 2):
            level = 10 + gain - hills.loss(d) - behind + shadow + alike(rng, d, 1.5, 30.0) + rng.normal(0, 0.6)
            book.log(book.run(a, number, manner="walk", power_w=0.01), d, level + rng.normal(0, 2.0, len(d)))
    book.add(HOME.revised(height_m=hills.h1))
    stack = book.place("Stack", 1500.0, BEARING, height_m=hills.h2)
    book.add(book.records["question"].revised(wanted_place_id=stack.id))
    book.levels(power_w=0.01, full_power_w=0.01)
    book.add(FarEnd(sensitivity_dbm=-120.0, sensitivity_u_db=1.0, gain_dbi=0.0))
    cover = book.climb(a).link.cover
    reach, bearing = rng.uniform(500, 3500), rng.uniform(60, 360)
    angle, told = np.radians(bearing), None
    if cover is not None:
        *_, last = cover.grow(REACH_M * 0.9, cells=120)
        told = cover.at(last, reach * np.sin(angle), reach * np.cos(angle))
    hills.rough, hills.excess = rng.uniform(0.3, 0.9), rng.uniform(0, 6)  # of another way, as rough as that is
    true = 10 + gain - hills.at_cell(reach, bearing) + 120.0 - rng.normal(0, 1.0)
    return [(told, true)]


@quantity("link", "margin over the map, far from the way that was run", 0.85, 0.95, BEYOND)
def laid_by_runs(rng) -> list[Answer]:
    return _laid(rng, True)


@quantity("link", "margin over the map, nothing run", 0.85, 0.95, BEYOND)
def laid_by_reckoning(rng) -> list[Answer]:
    return _laid(rng, False)
