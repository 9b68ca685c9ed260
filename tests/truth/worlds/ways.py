"""Ways over sea, ridges, through woods, and with slopes that break: margins beyond the places that were run.

The notebook knows of each only what somebody would note: a ridge's height to a fifth, a wood's edges to some ten metres. What is true
is worked out here: two rays with a rough ground, one edge by Fresnel's integral, an exponential wood, a k that is not the usual one.
"""

from __future__ import annotations

import numpy as np
from scipy.special import fresnel

from tallmast.notebook.records import FarEnd, Neighbour, Obstacle, Trial
from tallmast.physics.propagation import radio_horizon_m

from ...findings.build import HOME, Book
from ..tally import Answer, quantity
from .field import LAMBDA, Ground, alike


def edge_db(v: np.ndarray) -> np.ndarray:
    """Loss over one edge by Fresnel's integral."""
    s, c = fresnel(v)
    return -20 * np.log10(np.hypot(1 - c - s, c - s) / 2.0)


class Way(Ground):
    """Two rays, and more on the way."""

    def __init__(self, rng, kind: str) -> None:
        super().__init__(rng)
        self.kind = kind
        self.at, self.high = rng.uniform(2100, 2900), rng.uniform(8, 45)
        self.woods = rng.uniform(400, 2200)
        self.deep, self.per_m, self.most = rng.uniform(60, 350), rng.uniform(0.08, 0.25), rng.uniform(14, 28)
        self.round = rng.uniform(1.0, 1.5)  # a hill is no knife
        self.trees = rng.uniform(12, 18)
        self.breaks, self.near, self.far = (
            np.exp(rng.uniform(np.log(300), np.log(1600))),
            rng.uniform(1.8, 3),
            rng.uniform(3, 5),
        )
        self.power = rng.uniform(2.0, 4.2)
        self.radius = 6.371e6 * rng.uniform(1.1, 1.7)

    def loss(self, d):
        d = np.asarray(d, dtype=float)
        start = 20 * np.log10(4 * np.pi * 100 / LAMBDA) + self.excess
        if self.kind == "breaking":
            return (
                start
                + 10 * self.near * np.log10(np.minimum(d, self.breaks) / 100)
                + 10 * self.far * np.log10(np.maximum(d, self.breaks) / self.breaks)
            )
        if self.kind == "power":
            return start + 10 * self.power * np.log10(d / 100)
        out = super().loss(d)
        if self.kind == "ridge":
            behind = np.maximum(d - self.at, 1.0)
            ray = self.h1 + (self.h2 - self.h1) * self.at / np.maximum(d, self.at)
            v = (self.high - ray) * np.sqrt(2 * d / (LAMBDA * self.at * behind))
            out = out + np.where(d > self.at, edge_db(np.minimum(v, 40.0)) * self.round, 0.0)
        if self.kind == "woods":
            inside = np.clip(d - self.woods, 0, self.deep)
            through = self.most * (1 - np.exp(-inside * self.per_m / self.most))
            middle = self.woods + inside / 2
            behind = np.maximum(d - middle, 1.0)
            v = (self.trees - self.h1 - (self.h2 - self.h1) * middle / d) * np.sqrt(2 * d / (LAMBDA * middle * behind))
            over = np.where(inside > 0, edge_db(np.clip(v, -0.7, 40.0)), 0.0)
            out = out + np.where(inside > 0, -10 * np.log10(10 ** (-through / 10) + 10 ** (-over / 10)), 0.0)
        if self.kind == "sea":
            bulge = d**2 / (8 * self.radius)
            v = (bulge - (self.h1 + self.h2) / 2) * np.sqrt(8 / (LAMBDA * d))
            out = out + np.maximum(edge_db(np.minimum(v, 40.0)) - edge_db(np.full_like(v, -0.6)), 0.0) * 0.5
        return out


def noted(rng, way: Way) -> Obstacle | None:
    """What somebody would write down of it."""
    if way.kind == "ridge":
        return Obstacle(
            name="ridge", from_m=way.at + rng.normal(0, 60), height_m=max(way.high * (1 + rng.normal(0, 0.1)), 1.0)
        )
    if way.kind == "woods":
        first = way.woods + rng.normal(0, 15)
        return Obstacle(
            what="woods", name="wood", from_m=first, to_m=first + way.deep + rng.normal(0, 20), height_m=15.0
        )
    return None


def runs_out(way: Way, most_db: float) -> float:
    """Where the median loss first is as much as there may be, m."""
    d = np.geomspace(1000.0, 60_000.0, 1500)
    loss = np.array([way.median(float(one)) for one in d])
    return float(d[np.argmax(loss > most_db)]) if (loss > most_db).any() else float(d[-1])


def told(rng, kind: str, wanted_m: float, how_far: bool = False) -> list[Answer]:
    way, book = Way(rng, kind), Book()
    gains = {"A": rng.uniform(4, 10), "B": rng.uniform(2, 8)}
    d = np.arange(150.0, 2000.0, 14.0)
    shadow, own = alike(rng, d, 3.0, 40.0), {k: alike(rng, d, 1.5, 30.0) for k in gains}
    antennas = {k: book.antenna(k) for k in gains}
    for number, letter in enumerate("ABBA", 1):
        run = book.run(antennas[letter], number, manner="walk", power_w=0.01)
        level = 10 + gains[letter] - way.loss(d) + shadow + own[letter] + rng.normal(0, 0.6)
        book.log(run, d, level + rng.normal(0, 2.0, len(d)))
    book.home()
    book.add(HOME.revised(height_m=way.h1))
    stack = book.place("Stack", wanted_m, height_m=way.h2)
    book.add(book.records["question"].revised(wanted_place_id=stack.id))
    book.levels(power_w=0.01, full_power_w=0.01)
    book.add(FarEnd(sensitivity_dbm=-120.0, sensitivity_u_db=1.0, gain_dbi=0.0))
    obstacle = noted(rng, way)
    if obstacle is not None:
        book.add(obstacle)
    found = book.climb(antennas["A"]).link.margins[0]
    if how_far:
        # Where the smooth earth ends it at these heights it ends for both: no more than that is asked there.
        horizon = radio_horizon_m(way.h1, way.h2)
        return [(found.reach, min(runs_out(way, 10 + gains["A"] + 120.0 - rng.normal(0, 1.0)), horizon) / 1e3)]
    true = 10 + gains["A"] - way.median(wanted_m) - (-120.0 + rng.normal(0, 1.0))
    return [(found.figure, true)]


def _beyond(kind: str):
    def campaign(rng) -> list[Answer]:
        return told(rng, kind, rng.uniform(2800, 5500))

    return campaign


BEYOND = "beyond the places anything from 85 to 95 % is asked"
HOLDS = "a slope that holds can't be told from one that will break"
for one, words, high, why in (
    ("rays", "over rough ground", 0.95, BEYOND),
    ("sea", "over sea", 0.95, BEYOND),
    ("ridge", "behind a ridge", 0.95, BEYOND),
    ("woods", "behind woods", 0.95, BEYOND),
    ("breaking", "a slope that breaks", 0.95, BEYOND),
    ("power", "a slope that holds", 0.985, HOLDS),
):
    quantity("link", f"margin beyond the places, {words}", 0.85, high, why)(_beyond(one))


@quantity(
    "link",
    "margin where nothing was run, at one place",
    0.85,
    0.95,
    "reckoned before anything was tried: 85 to 95 % is asked",
)
def margin_reckoned(rng) -> list[Answer]:
    """Over any of these ways, what stands there noted as people note it; the place is shadowed by 5.5 dB of its own."""
    way, book = Way(rng, str(rng.choice(["rays", "sea", "ridge", "woods", "breaking", "power"]))), Book()
    gain, wanted_m = rng.uniform(3, 9), rng.uniform(400, 5000)
    antenna = book.antenna("A", known_gain_dbi=gain)
    book.home(wanted_m)
    book.add(HOME.revised(height_m=way.h1))
    book.add(book.records["rock"].revised(height_m=way.h2))
    book.levels(power_w=0.01, full_power_w=0.01)
    book.far(gain_dbi=0.0, gain_u_db=0.5, sensitivity_dbm=-120.0)
    obstacle = noted(rng, way)
    if obstacle is not None:
        book.add(obstacle)
    level = 10.0 + rng.normal(0, 0.5) + gain + rng.normal(0, 0.5) - way.median(wanted_m) + rng.normal(0, 5.5)
    return [(book.climb(antenna).link.margins[0].there, level + 120.0)]


def _ellipse(ratio_db: float, right: bool, tilt: float) -> np.ndarray:
    long, short = 1.0, 10 ** (-ratio_db / 20) * (1j if right else -1j)
    e = np.array([np.cos(tilt) * long - np.sin(tilt) * short, np.sin(tilt) * long + np.cos(tilt) * short])
    return e / np.linalg.norm(e)


@quantity("link", "wanted over another on the band, opposite senses", 0.85, 0.95, BEYOND)
def carrier_over_other(rng) -> list[Answer]:
    """Both over rough ground on paths of their own, each shadowed at its place by 5.5 dB (P.1546 has 5 to 8 over land); a reflection of
    −14 to −22 dB turns the other's sense over."""
    mine, theirs, book = Ground(rng), Ground(rng), Book()
    mine.h1 = theirs.h1 = rng.uniform(5, 12)
    ratios = rng.uniform(0.5, 4.0, 3)
    gain, far_gain, other_gain = rng.uniform(3, 9), rng.uniform(0, 4), rng.uniform(0, 4)
    wanted_m, other_m = rng.uniform(400, 2500), rng.uniform(300, 4000)
    a = book.antenna("A", known_gain_dbi=gain, polarization="right circular", axial_ratio_db=float(ratios[0]))
    book.home(wanted_m)
    book.add(HOME.revised(height_m=mine.h1))
    book.add(book.records["rock"].revised(height_m=mine.h2))
    book.place("Other", other_m, 140.0, height_m=theirs.h2)
    book.levels(power_w=0.01, full_power_w=0.01, sensitivity_dbm=-110.0)
    settings = {"polarization": "right circular", "axial_ratio_db": float(ratios[1])}
    book.far(gain_dbi=far_gain, gain_u_db=0.5, sensitivity_dbm=-110.0, power_w=0.01, **settings)
    book.add(
        Neighbour(
            name="other",
            place_id="other",
            power_w=0.025,
            gain_dbi=other_gain,
            polarization="left circular",
            axial_ratio_db=float(ratios[2]),
        )
    )
    tilts = rng.uniform(0, np.pi, 3)
    own, far, other = (_ellipse(r, right, t) for r, right, t in zip(ratios, (True, True, False), tilts, strict=True))
    turned = 10 ** (-rng.uniform(14, 22) / 10)
    lost = -10 * np.log10(abs(np.vdot(own, far)) ** 2)
    isolated = -10 * np.log10(abs(np.vdot(own, other)) ** 2 + turned)
    carrier = 10.0 + far_gain + rng.normal(0, 0.5) + gain - lost - mine.median(wanted_m) + rng.normal(0, 5.5)
    interferer = 13.98 + other_gain + rng.normal(0, 1.0) + gain - isolated - theirs.median(other_m) + rng.normal(0, 5.5)
    (one,) = [s for s in book.climb(a).link.shared if s.end == "home"]
    return [(one.over, carrier - interferer)]


@quantity("link", "range beyond the places, a slope that breaks or holds", 0.85, 0.95, BEYOND)
def range_beyond(rng) -> list[Answer]:
    """What ends it is the level, or the horizon."""
    return told(rng, "breaking" if rng.random() < 0.5 else "power", 4000.0, how_far=True)


@quantity("link", "a pair that parts better, by where it broke")
def parts_better(rng) -> list[Answer]:
    """Two pairs tried in turn, two to five times each: a level that falls with n = 1.9 to 2.5 and ripples by 1.5 dB along the way, fading of
    1.5 to 5 dB at each break."""
    book, n = Book(), rng.uniform(1.9, 2.5)
    one, other = (book.antenna(name, known_gain_dbi=1.5) for name in ("One", "Other"))
    book.home(1500.0)
    for place in ("home", "rock"):
        book.add(book.records[place].revised(height_m=60.0))
    book.levels(power_w=0.025, full_power_w=0.025, sensitivity_dbm=-90.0)
    book.far(gain_dbi=1.5, sensitivity_dbm=-90.0, power_w=0.025)
    book.add(Neighbour(id="n", name="other", distance_m=40.0, power_w=0.025))
    better, fading = rng.uniform(0.0, 12.0), rng.uniform(1.5, 5.0)
    near = rng.uniform(60.0, 250.0)
    for antenna, parted in ((one, better), (other, 0.0)):
        times = int(rng.integers(2, 6))
        level = parted + rng.normal(0, 1.5) / np.sqrt(2) + rng.normal(0, fading, times)
        broke = [float(v) for v in near * 10 ** (level / (10 * n))]
        book.add(Trial(neighbour_id="n", antenna_id=antenna.id, broke_m=broke))
    (pair,) = book.climb(one).link.pairs
    sign = 1.0 if pair.better.antenna.id == one.id else -1.0
    return [(pair.figure, sign * better)]
