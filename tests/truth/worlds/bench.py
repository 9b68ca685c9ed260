"""Benches: an antenna that is no series circuit, seen through an analyzer with errors of its own.

The antenna is a monopole of sorts: radiation resistance that grows with f², a loss resistance with √f, a reactance with
cubic bend, and a stray capacitance across its feed. The analyzer adds a directivity vector that turns over frequency,
source match, tracking, and noise.
"""

from __future__ import annotations

import numpy as np

from tallmast.notebook.records import Cable, CableSweep, Calibration, StandardCheck, StandardSet
from tallmast.physics.reflection import crossings, gamma_from_impedance, swr

from ...findings.build import Book
from ..tally import Answer, quantity


class Radiator:
    """One antenna: Γ at its connector at any frequency."""

    def __init__(self, rng: np.random.Generator, ohm: tuple[float, float] = (28, 75)) -> None:
        self.f0 = rng.uniform(855e6, 883e6)
        self.q = rng.uniform(8, 25)
        self.r = rng.uniform(*ohm)
        self.bend = rng.uniform(-1.5, 1.5)
        self.stray_f = rng.uniform(0, 0.15e-12)

    def gamma(self, f: np.ndarray) -> np.ndarray:
        u = f / self.f0 - self.f0 / f
        r = self.r * (0.9 * (f / self.f0) ** 2 + 0.1 * np.sqrt(f / self.f0))
        z = r + 1j * self.r * self.q * (u + self.bend * u**2)
        y = 1 / z + 2j * np.pi * f * self.stray_f
        return gamma_from_impedance(1 / y)

    def resonance(self) -> float:
        """Where its reactance passes zero, of several the one nearest to its best match."""
        f = np.linspace(840e6, 900e6, 60_001)
        gamma = self.gamma(f)
        zeros = crossings(f, gamma.imag, 0.0)
        return float(zeros[np.argmin(np.abs(zeros - f[np.argmin(np.abs(gamma))]))])


class Analyzer:
    """Raw readings of a one-port with three error terms that turn over frequency, and noise."""

    def __init__(
        self,
        rng: np.random.Generator,
        directivity: float,
        match: float,
        tracking: float,
        noise: float,
        turns_s: float = 3e-9,
    ):
        self.rng, self.noise = rng, noise
        self.size = (directivity, match, tracking)
        self.phase, self.delay = rng.uniform(0, 2 * np.pi, 3), rng.uniform(0, turns_s, 3)

    def raw(self, f: np.ndarray, gamma: np.ndarray) -> np.ndarray:
        d, m, t = (
            s * np.exp(1j * (p + 2 * np.pi * f * v)) for s, p, v in zip(self.size, self.phase, self.delay, strict=True)
        )
        clean = d + (1 + t) * gamma / (1 - m * gamma)
        return clean + self.hiss(f.shape)

    def hiss(self, shape) -> np.ndarray:
        return self.noise * (self.rng.standard_normal(shape) + 1j * self.rng.standard_normal(shape))


VELOCITY = 2e8
NO_TAILS = "a vector of unknown phase has no tails: 1 % more of it holds all of them"


def swept(
    rng,
    points: int,
    directivity_db: float,
    noise: float,
    cable_db: float = 0.0,
    cable_m: float = 1.1,
    ohm=(28, 75),
    turns_s=3e-9,
):
    """A sweep with a stated directivity, through a cable whose loss is known to 0.1 dB and whose velocity factor is a per cent off."""
    radiator = Radiator(rng, ohm)
    f = np.linspace(840e6, 900e6, points)
    way = cable_db + rng.normal(0, 0.1) if cable_db else 0.0
    seen = (
        radiator.gamma(f)
        * 10 ** (-2 * way / 20)
        * np.exp(-4j * np.pi * f * cable_m / (VELOCITY * (1 + rng.normal(0, 0.01))) * bool(cable_db))
    )
    shown = Analyzer(rng, 10 ** (-directivity_db / 20), 0.0, 0.0, noise, turns_s).raw(f, seen)
    book = Book()
    focus, other = book.antenna("Focus"), book.antenna("Other")
    cable = Cable(
        loss_db=cable_db,
        loss_u_db=0.1 if cable_db else 0.0,
        length_m=cable_m if cable_db else 0.0,
        velocity_factor=VELOCITY / 299_792_458,
    )
    for antenna in (focus, other):
        book.sweep(antenna, shown, f, directivity_db=directivity_db, noise=noise, cable=cable)
    return radiator, book.climb(focus).bench


@quantity("bench", "SWR, directivity stated")
def swr_stated(rng) -> list[Answer]:
    radiator, bench = swept(rng, 601, 30, 0.0)
    return [(bench.antennas[1].sweep.at, float(swr(abs(radiator.gamma(np.array([869e6]))[0]))))]


@quantity("bench", "SWR through 2 dB of cable")
def swr_through_cable(rng) -> list[Answer]:
    radiator, bench = swept(rng, 601, 35, 0.002, cable_db=2.0)
    return [(bench.antennas[1].sweep.at, float(swr(abs(radiator.gamma(np.array([869e6]))[0]))))]


@quantity("bench", "SWR near a match, directivity stated")
def swr_near_match(rng) -> list[Answer]:
    return _near(rng, rng.uniform(0, 0.08))


@quantity("bench", "SWR of a match as good as the bench can tell")
def swr_at_the_edge(rng) -> list[Answer]:
    return _near(rng, rng.uniform(0.015, 0.045))


def _near(rng, size: float) -> list[Answer]:
    f = np.linspace(840e6, 900e6, 101)
    true = size * np.exp(2j * np.pi * rng.random())
    book = Book()
    a = book.antenna("A")
    book.sweep(a, Analyzer(rng, 10 ** (-30 / 20), 0, 0, 0).raw(f, np.full(101, true)), f, directivity_db=30)
    return [(book.climb(a).bench.antennas[0].sweep.at, float(swr(abs(true))))]


def calibrated(rng, drift: float = 0.0, again: bool = True) -> tuple[Radiator, Book]:
    """Open, short and a load that is 36 dB good, as stated; the analyzer's own errors are large and found. They drift before the sweep;
    the load is measured once more, or is not."""
    radiator = Radiator(rng)
    f = np.linspace(840e6, 900e6, 401)
    analyzer = Analyzer(rng, 0.1, 0.12, 0.1, 0.0007)
    load = 10 ** (-36 / 20) * np.exp(1j * (rng.uniform(0, 2 * np.pi) + 2 * np.pi * (f - f[0]) * 1e-10))
    book = Book()
    shown = {
        "open": analyzer.raw(f, np.ones(401)),
        "short": analyzer.raw(f, -np.ones(401)),
        "load": analyzer.raw(f, load),
    }
    book.series["cal"] = {"frequency_hz": f} | {
        f"{k}_{part}": getattr(v, {"re": "real", "im": "imag"}[part]) for k, v in shown.items() for part in ("re", "im")
    }
    book.add(Calibration(id="c", series_id="cal", standards=StandardSet(load_return_loss_db=36)))
    if drift:
        moved = drift * (rng.standard_normal(3) + 1j * rng.standard_normal(3)) / np.sqrt(2)
        first = analyzer.raw

        def raw(f, gamma):
            """As before, with every term a little elsewhere."""
            d, m, t = (v * np.exp(2j * np.pi * f * 0.3e-9) for v in moved)
            return first(f, gamma) + d + t * gamma + m * gamma**2

        analyzer.raw = raw
        if again:
            book.series["check"] = {"frequency_hz": f, "re": (g := raw(f, load)).real, "im": g.imag}
            book.add(StandardCheck(calibration_id="c", standard="load", series_id="check"))
    elif again:
        book.series["check"] = {"frequency_hz": f, "re": shown["load"].real, "im": shown["load"].imag}
        book.add(StandardCheck(calibration_id="c", standard="load", series_id="check"))
    a = book.antenna("A")
    book.sweep(a, analyzer.raw(f, radiator.gamma(f)), f, calibration_id="c", noise=0.0007)
    return radiator, book


@quantity("bench", "SWR, calibrated")
def swr_calibrated(rng) -> list[Answer]:
    radiator, book = calibrated(rng)
    reading = book.climb().bench.antennas[0].sweep
    return [(reading.at, float(swr(abs(radiator.gamma(np.array([reading.at_hz]))[0]))))]


@quantity("bench", "SWR, the calibration drifted, the load measured again")
def swr_drifted(rng) -> list[Answer]:
    radiator, book = calibrated(rng, rng.uniform(0.005, 0.03))
    reading = book.climb().bench.antennas[0].sweep
    return [(reading.at, float(swr(abs(radiator.gamma(np.array([reading.at_hz]))[0]))))]


@quantity(
    "bench", "SWR, the calibration drifted, nothing measured again", high=0.96, why="how far it drifts is assumed"
)
def swr_drifted_unseen(rng) -> list[Answer]:
    """Half an hour old or so; the terms wander by 0.005 to 0.025."""
    radiator, book = calibrated(rng, rng.uniform(0.005, 0.025), again=False)
    reading = book.climb().bench.antennas[0].sweep
    return [(reading.at, float(swr(abs(radiator.gamma(np.array([reading.at_hz]))[0]))))]


def _resonance(rng, points: int, noise: float, which: int, **more) -> list[Answer]:
    radiator, bench = swept(rng, points, 35, noise, **more)
    true = radiator.resonance()
    return [(bench.antennas[which].sweep.resonance, true / 1e6)]


@quantity("bench", "resonance, antenna in focus")
def resonance_focus(rng) -> list[Answer]:
    return _resonance(rng, 201, 0.0005, 0)


@quantity("bench", "resonance, any other antenna")
def resonance_other(rng) -> list[Answer]:
    return _resonance(rng, 201, 0.0005, 1)


@quantity("bench", "resonance, 1601 noisy points")
def resonance_dense(rng) -> list[Answer]:
    return _resonance(rng, 1601, 0.006, 1)


@quantity("bench", "resonance, R of 16 to 28 Ω")
def resonance_low_r(rng) -> list[Answer]:
    return _resonance(rng, 201, 0.0005, 0, ohm=(16, 28))


@quantity("bench", "resonance, R of 90 to 140 Ω", high=0.97, why=NO_TAILS)
def resonance_high_r(rng) -> list[Answer]:
    return _resonance(rng, 201, 0.0005, 1, ohm=(90, 140))


@quantity("bench", "resonance, a residual that turns", high=0.97, why=NO_TAILS)
def resonance_turning(rng) -> list[Answer]:
    return _resonance(rng, 201, 0.0005, 0, ohm=(16, 140), turns_s=50e-9)


@quantity("bench", "resonance behind 5 m of cable", high=0.97, why="its feed’s capacitance lies to one side")
def resonance_behind_cable(rng) -> list[Answer]:
    return _resonance(rng, 201, 0.0005, 0, ohm=(16, 140), cable_db=0.9, cable_m=5.0)


@quantity("bench", "resonance, calibrated")
def resonance_calibrated(rng) -> list[Answer]:
    radiator, book = calibrated(rng)
    true = radiator.resonance()
    return [(book.climb().bench.antennas[0].sweep.resonance, true / 1e6)]


def line(rng, length_m: float, low: float, high: float, points: int):
    """A shorted lead with a velocity factor off by a per cent, a short that is not quite where it looks, bad joints."""
    f = np.linspace(low, high, points)
    velocity = 0.66 * (1 + rng.normal(0, 0.01)) * 299_792_458
    root, linear = rng.uniform(0.003, 0.012) * length_m, rng.uniform(0.0, 0.0004) * length_m
    loss = root * np.sqrt(f / 1e6) + linear * f / 1e6 + rng.normal(0, 0.01)
    end = length_m + rng.uniform(-0.0085, 0.0085)
    gamma = -(10 ** (-2 * loss / 20)) * np.exp(-4j * np.pi * f * end / velocity)
    joint = rng.uniform(0.01, 0.03) * np.exp(1j * rng.uniform(0, 6.28))
    shown = Analyzer(rng, 0.01, 0.01, 0.0, 0.001).raw(f, joint + gamma * (1 - abs(joint) ** 2))
    book = Book()
    book.antenna("A")
    book.series["line"] = {"frequency_hz": f, "re": shown.real, "im": shown.imag}
    book.add(CableSweep(name="lead", series_id="line", far_end="short"))
    truth = root * np.sqrt(869) + linear * 869
    return book.climb().bench.cables[0], truth


@quantity("bench", "cable, length of 0.3 m")
def cable_short(rng) -> list[Answer]:
    return [(line(rng, 0.3, 1e6, 500e6, 201)[0].length, 0.3)]


@quantity("bench", "cable, length of 12 m")
def cable_long(rng) -> list[Answer]:
    return [(line(rng, 12.0, 1e6, 500e6, 401)[0].length, 12.0)]


@quantity("bench", "cable, loss of 12 m", high=0.96, why="ripple within a stretch averages out further")
def cable_loss(rng) -> list[Answer]:
    reading, true = line(rng, 12.0, 1e6, 1000e6, 801)
    return [(reading.loss, true)]


@quantity("bench", "cable, length of 30 m on few points")
def cable_aliased(rng) -> list[Answer]:
    return [(line(rng, 30.0, 1e6, 500e6, 201)[0].length, 30.0)]


@quantity("bench", "cable, too long for the sweep", told=False, why="longer than the sweep can tell")
def cable_too_long(rng) -> list[Answer]:
    return [(line(rng, rng.uniform(45, 75), 1e6, 500e6, 201)[0].length, 0.0)]
