"""Flights round an antenna: a probe that wanders, fixes that are off and drift, ground that reflects, air that fades.

The antenna is an array over azimuth times an element over elevation, the ground under it sends a second ray, the fix of
a flight is off as a whole and wanders besides, heights too, and what is read fades slowly, is noisy, and is rounded.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from tallmast.findings.figure import Figure
from tallmast.notebook.records import Branch, Log
from tallmast.physics.geodesy import destination

from ...findings.build import HOME, Book
from ..tally import Answer, quantity
from .pattern import Array

WAVE_M = 0.345
MAST_M = 6.0


@lru_cache(maxsize=1)
def _degrees() -> tuple[float, float]:
    """Degrees of latitude and longitude of a metre at home."""
    north = destination(HOME.latitude_deg, HOME.longitude_deg, 0.0, 100.0)
    east = destination(HOME.latitude_deg, HOME.longitude_deg, 90.0, 100.0)
    return (north[0] - HOME.latitude_deg) / 100.0, (east[1] - HOME.longitude_deg) / 100.0


def alike(rng, n: int, s: float, over: float) -> np.ndarray:
    """A first-order series that forgets within `over` steps."""
    rho = np.exp(-1.0 / over)
    out, step = np.empty(n), rng.normal(0, s * np.sqrt(1 - rho**2), n)
    out[0] = rng.normal(0, s)
    for i in range(1, n):
        out[i] = rho * out[i - 1] + step[i]
    return out


class Mast:
    """Level in dB toward azimuth and elevation: the array, an element that points a little up or down, a bend of its own."""

    def __init__(self, rng, most: int = 5) -> None:
        self.array = Array(rng, most=most)
        self.width = rng.uniform(35, 70)
        self.tilt = rng.uniform(-6, 12)

    def __call__(self, azimuth, elevation):
        off = (elevation - self.tilt) / self.width
        return self.array(azimuth) - 12.0 * off**2 / (1.0 + 0.5 * off**2)


BRIGHT = (0.2, 0.7)
"""What bright ground sends back: wet meadow, water, a car park."""


def flown(
    rng,
    level,
    ways,
    fix: float = 2.5,
    ground: float | tuple[float, float] = 0.35,
    power_db: float = 0.0,
    slope: float = 0.0,
):
    """(latitude, longitude, height, level) logged along `ways` [n, 3] of east, north, up from under the mast; `ground`: what it
    sends back, the most of it, or from how much to how much; `slope`: by which it rises north of the mast."""
    n = len(ways)
    e, nn, u = ways.T
    across, rise = np.hypot(e, nn), u - MAST_M
    # The mast's image in a plane that rises to the north lies south of its foot.
    slant, below = np.hypot(across, rise), np.sqrt(e**2 + (nn - 2 * slope * MAST_M) ** 2 + (u + MAST_M) ** 2)
    bearing = np.degrees(np.arctan2(e, nn)) % 360.0
    direct = 10 ** (level(bearing, np.degrees(np.arctan2(rise, across))) / 20) / slant
    down = 10 ** (level(bearing, -np.degrees(np.arctan2(u + MAST_M, across))) / 20) / below
    rho = -rng.uniform(*(ground if isinstance(ground, tuple) else (0.3 * ground, ground)))
    field = direct + rho * down * np.exp(-2j * np.pi * (below - slant) / WAVE_M)
    got = 20 * np.log10(np.abs(field)) - 30.0 + power_db + alike(rng, n, 0.8, 5.0) + rng.normal(0, 0.5, n)
    half = fix / np.sqrt(2.0)
    off = [rng.normal(0, half) + alike(rng, n, half, 40.0) for _ in range(3)]
    north, east = _degrees()
    return (
        HOME.latitude_deg + (nn + off[0]) * north,
        HOME.longitude_deg + (e + off[1]) * east,
        u + 0.5 * off[2],
        np.round(2.0 * got) / 2.0,
    )


def orbit(
    rng, turns: int = 4, radius: float = 55.0, up: float = 20.0, a_turn: int = 72, steady: float = 1.0
) -> np.ndarray:
    """Flown by hand; `steady`: what of that wandering is left, where a machine flies it."""
    n = turns * a_turn
    bearing = np.linspace(0, 2 * np.pi * turns, n) + rng.uniform(0, 6.28)
    r = radius + alike(rng, n, 4.0 * steady, 15.0)
    return np.stack((r * np.sin(bearing), r * np.cos(bearing), up + alike(rng, n, 1.5 * steady, 20.0)), axis=1)


def climb(rng, bearing: float, radius: float = 50.0, passes: int = 4, steps: int = 80) -> np.ndarray:
    up = np.concatenate([np.linspace(3, 75, steps)[:: 1 if k % 2 == 0 else -1] for k in range(passes)])
    n = len(up)
    b = np.radians(bearing) + alike(rng, n, 0.04, 15.0)
    r = radius + alike(rng, n, 2.0, 15.0)
    return np.stack((r * np.sin(b), r * np.cos(b), up), axis=1)


def book_of(*logs, **settings) -> Book:
    """A notebook of one antenna and its flights."""
    book = Book(sector_from_deg=-40, sector_to_deg=40)
    book.home()
    a = book.antenna("A")
    for number, columns in enumerate(logs, 1):
        run = book.run(a, number, manner="flight", height_m=MAST_M)
        key = f"s{len(book.series)}"
        book.series[key] = dict(zip(("latitude_deg", "longitude_deg", "height_m", "level_dbm"), columns, strict=True))
        book.add(Log(run_id=run.id, series_id=key, heights="ground", **settings))
    return book


def turned(rng, most: int = 5, **more):
    mast = Mast(rng, most)
    book = book_of(flown(rng, mast, orbit(rng, radius=rng.uniform(40, 80), up=rng.uniform(12, 30)), **more))
    return mast, book.climb().pattern.of("a")


def _ring(mast, cut):
    """The truth over azimuth at the elevation of the turn, against its peak."""
    fine = np.arange(0, 360, 0.25)
    level = mast(fine, cut.of.at_elevation_deg)
    return fine, level - level.max()


@quantity("pattern", "flown round: toward a named bearing")
def named(rng) -> list[Answer]:
    from tallmast.findings.pattern.named import toward

    mast, found = turned(rng)
    cut = found.cut("azimuth")
    fine, level = _ring(mast, cut)
    at = rng.uniform(0, 360)
    return [(toward(cut, at), float(np.interp(at, fine, level, period=360)))]


@quantity("pattern", "flown round: beamwidth")
def width(rng) -> list[Answer]:
    mast, found = turned(rng)
    return [(found.cut("azimuth").beamwidth, mast.array.width())]


@quantity("pattern", "flown round: front to back")
def back(rng) -> list[Answer]:
    mast, found = turned(rng)
    cut = found.cut("azimuth")
    fine, level = _ring(mast, cut)
    return [(cut.front_to_back, -float(np.interp(cut.peak_deg + 180, fine, level, period=360)))]


@quantity("pattern", "flown round over bright ground: toward a named bearing")
def named_bright(rng) -> list[Answer]:
    from tallmast.findings.pattern.named import toward

    mast, found = turned(rng, ground=BRIGHT)
    cut = found.cut("azimuth")
    fine, level = _ring(mast, cut)
    at = rng.uniform(0, 360)
    return [(toward(cut, at), float(np.interp(at, fine, level, period=360)))]


@quantity("pattern", "flown round over bright ground: beamwidth")
def width_bright(rng) -> list[Answer]:
    mast, found = turned(rng, ground=BRIGHT)
    return [(found.cut("azimuth").beamwidth, mast.array.width())]


@quantity("pattern", "flown round over bright ground: front to back")
def back_bright(rng) -> list[Answer]:
    mast, found = turned(rng, ground=BRIGHT)
    cut = found.cut("azimuth")
    fine, level = _ring(mast, cut)
    return [(cut.front_to_back, -float(np.interp(cut.peak_deg + 180, fine, level, period=360)))]


@quantity("pattern", "flown round once over bright ground: front to back")
def back_once_bright(rng) -> list[Answer]:
    mast = Mast(rng)
    way = orbit(rng, turns=1, radius=rng.uniform(40, 80), up=rng.uniform(12, 30))
    cut = book_of(flown(rng, mast, way, ground=BRIGHT)).climb().pattern.of("a").cut("azimuth")
    fine, level = _ring(mast, cut)
    return [(cut.front_to_back, -float(np.interp(cut.peak_deg + 180, fine, level, period=360)))]


def by_machine(rng):
    """The same round again and again over bright ground that slopes: what it adds is the same in every pass."""
    mast = Mast(rng)
    way = orbit(rng, radius=rng.uniform(40, 80), up=rng.uniform(12, 30), steady=0.15)
    columns = flown(rng, mast, way, ground=BRIGHT, slope=rng.choice([-1, 1]) * rng.uniform(0.01, 0.04))
    return mast, book_of(columns).climb().pattern.of("a").cut("azimuth")


@quantity("pattern", "flown round by a machine over a slope: front to back")
def back_by_machine(rng) -> list[Answer]:
    mast, cut = by_machine(rng)
    fine, level = _ring(mast, cut)
    return [(cut.front_to_back, -float(np.interp(cut.peak_deg + 180, fine, level, period=360)))]


@quantity(
    "pattern",
    "flown round by a machine over a slope: beamwidth",
    high=0.95,
    why="how much the ground adds to one and the same round can’t be seen, and is assumed",
)
def width_by_machine(rng) -> list[Answer]:
    mast, cut = by_machine(rng)
    return [(cut.beamwidth, mast.array.width())]


@quantity("pattern", "flown round by a machine over a slope: toward a named bearing")
def named_by_machine(rng) -> list[Answer]:
    from tallmast.findings.pattern.named import toward

    mast, cut = by_machine(rng)
    fine, level = _ring(mast, cut)
    at = rng.uniform(0, 360)
    return [(toward(cut, at), float(np.interp(at, fine, level, period=360)))]


@quantity("pattern", "flown round, where it looks by compass: toward a bearing from its front")
def by_compass(rng) -> list[Answer]:
    """Whoever noted where it looks had a compass beside steel: three degrees off."""
    from tallmast.findings.pattern.named import toward

    mast, looks = Mast(rng), rng.uniform(0, 360)

    def turned_mast(azimuth, elevation):
        return mast(azimuth - looks, elevation)

    book = book_of(flown(rng, turned_mast, orbit(rng, radius=rng.uniform(40, 80), up=rng.uniform(12, 30))))
    noted = float((looks + rng.normal(0, 3.0)) % 360.0)
    book.add(book.records["run1"].revised(branches=[Branch(antenna_id="a", azimuth_deg=noted)]))
    cut = book.climb().pattern.of("a").cut("azimuth")
    fine, level = _ring(mast, cut)
    at = rng.uniform(0, 360)
    return [(toward(cut, at), float(np.interp(at, fine, level, period=360)))]


@quantity("pattern", "climbed before it: toward an elevation")
def climbed(rng) -> list[Answer]:
    return _climbed(rng, True, 0.0, logged=True)


@quantity("pattern", "climbed before it with a probe that leans: toward an elevation")
def climbed_leaning(rng) -> list[Answer]:
    return _climbed(rng, True, rng.normal(0, 7.0))


@quantity("pattern", "climbed before it, nothing noted of the probe: toward an elevation")
def climbed_unnoted(rng) -> list[Answer]:
    return _climbed(rng, False, rng.normal(0, 7.0))


def _climbed(rng, noted: bool, lean_deg: float, logged: bool = False) -> list[Answer]:
    """With an upright dipole for a probe, that hangs askew by so much; its cut is noted, or is not."""
    from tallmast.findings.pattern.named import toward

    mast = Mast(rng)
    way = climb(rng, 0.0)
    columns = list(flown(rng, mast, way))
    below = np.degrees(np.arctan2(way[:, 2] - MAST_M, np.hypot(way[:, 0], way[:, 1])))
    strength = 1.0 if noted else rng.uniform(0.5, 1.2)
    own = strength * 20 * np.log10(np.maximum(np.cos(np.radians(below - lean_deg)), 0.05))
    columns[3] = np.round(2 * (columns[3] + own)) / 2
    book = book_of(columns)
    if logged:
        book.series["s0"] |= {"pitch_deg": np.zeros(len(way)), "roll_deg": np.zeros(len(way))}
    if noted:
        around = np.arange(0, 360, 5.0)
        probe = book.antenna("Probe")
        dipole = 20 * np.log10(np.maximum(np.abs(np.cos(np.radians(around))), 0.03))
        book.cut(probe, dipole + rng.normal(0, 0.3, len(around)), around, plane="elevation")
        book.add(book.records["run1"].revised(far_antenna_id=probe.id))
    cut = book.climb().pattern.of("a").cut("elevation")
    fine = np.arange(-30, 80, 0.25)
    level = mast(0.0, fine)
    seen = cut.angle_deg[(cut.angle_deg < 90)]
    inside = (fine >= seen.min()) & (fine <= seen.max())
    at = rng.uniform(5, 50)
    return [(toward(cut, at), float(np.interp(at, fine, level) - level[inside].max()))]


@quantity("pattern", "two flown in turn: the elevation at which they are alike")
def alike_at(rng) -> list[Answer]:
    """A flat beam against a fat one, A B B A, each flight sent and read a little differently."""
    cross, steep = rng.uniform(18, 32), rng.uniform(2.5, 4.5)

    def flat(azimuth, elevation):
        return steep * (1 - (elevation / cross) ** 2) + 0.4 * np.cos(2 * np.radians(azimuth))

    def fat(azimuth, elevation):
        return 0.4 * np.cos(np.radians(azimuth) + 1.0) - 0.0 * elevation

    book = Book()
    book.home()
    antennas = {"A": book.antenna("A"), "B": book.antenna("B")}
    for number, name in enumerate("ABBA", 1):
        turn = np.linspace(0, 2 * np.pi * 7, 240) + rng.uniform(0, 6.28)
        up = MAST_M + 60 * np.tan(np.radians(np.linspace(3, 50, 240)))
        r = 60 + alike(rng, 240, 2.0, 15.0)
        way = np.stack((r * np.sin(turn), r * np.cos(turn), up), axis=1)
        columns = flown(rng, flat if name == "A" else fat, way, ground=0.2, power_db=rng.normal(0, 0.4))
        run = book.run(antennas[name], number, manner="flight", height_m=MAST_M)
        key = f"s{number}"
        book.series[key] = dict(zip(("latitude_deg", "longitude_deg", "height_m", "level_dbm"), columns, strict=True))
        book.add(Log(run_id=run.id, series_id=key, heights="ground"))
    sides = book.climb().pattern.side_by_side
    return [(sides[0].crossing if sides else None, cross)]


@quantity("pattern", "flown round: gain by the levels")
def by_levels(rng) -> list[Answer]:
    """A known power and a probe of a known gain, each a little off; the gain of the mast at the height of the turn."""
    mast, gain = Mast(rng), rng.uniform(3, 10)
    way = orbit(rng, radius=rng.uniform(40, 80), up=rng.uniform(12, 30))
    probe, sent = 2.0, 10.0
    # Power in dBm, gains and free space at 1 m (31.2 dB at 869 MHz), against the −30 dB of the flight's own reckoning.
    more = sent + rng.normal(0, 0.3) + gain + probe + rng.normal(0, 0.5) - 31.24 + 30.0
    book = book_of(flown(rng, mast, way, power_db=more))
    run = book.records["run1"]
    book.add(run.revised(power_w=0.01))
    book.far(gain_dbi=probe, gain_u_db=0.5, polarization="unknown")
    book.levels(power_u_db=0.3)
    found = book.climb().pattern.of("a")
    _, level = _ring(mast, found.cut("azimuth"))
    fine = np.arange(0, 360, 0.25)
    top = float(mast(fine, found.cut("azimuth").of.at_elevation_deg).max())
    assert len(level) == len(fine)
    return [(found.by_levels, gain + top)]


@quantity(
    "pattern",
    "flown round once: front to back",
    high=0.95,
    why="how much the ground adds to one and the same round can’t be seen, and is assumed",
)
def back_once(rng) -> list[Answer]:
    """One turn alone: what the ground adds to it can't be seen, and is assumed."""
    mast = Mast(rng)
    book = book_of(flown(rng, mast, orbit(rng, turns=1, radius=rng.uniform(40, 80), up=rng.uniform(12, 30))))
    cut = book.climb().pattern.of("a").cut("azimuth")
    fine, level = _ring(mast, cut)
    return [(cut.front_to_back, -float(np.interp(cut.peak_deg + 180, fine, level, period=360)))]


def carried(rng, way: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(heading, roll, level of its own antenna toward the mast dB) of what flies `way` banked into its turns; the antenna is a
    tilted dipole on its belly with a shadow behind."""
    step = np.gradient(way, axis=0)
    heading = np.degrees(np.arctan2(step[:, 0], step[:, 1])) + alike(rng, len(way), 6.0, 10.0)
    roll = rng.choice([-1.0, 1.0]) * 20.0 + alike(rng, len(way), 8.0, 6.0)
    h, r = np.radians(heading), np.radians(roll)
    to = -way + np.array([0.0, 0.0, MAST_M])
    to /= np.linalg.norm(to, axis=1)[:, None]
    ahead = to[:, 0] * np.sin(h) + to[:, 1] * np.cos(h)
    flat = to[:, 0] * np.cos(h) - to[:, 1] * np.sin(h)
    right, up = flat * np.cos(r) - to[:, 2] * np.sin(r), flat * np.sin(r) + to[:, 2] * np.cos(r)
    return heading, roll, belly(np.degrees(np.arctan2(right, ahead)), np.degrees(np.arcsin(np.clip(up, -1, 1))))


def belly(azimuth, elevation):
    """Its own pattern, dB over azimuth from its nose and elevation."""
    shadow = 4.0 * (1.0 + np.cos(np.radians(azimuth) - np.pi)) / 2.0
    return 20 * np.log10(np.maximum(np.cos(np.radians(elevation) * 0.9), 0.05)) - shadow * np.cos(np.radians(elevation))


@quantity("pattern", "flown banked, attitude logged: front to back")
def banked(rng) -> list[Answer]:
    mast = Mast(rng)
    way = orbit(rng, radius=rng.uniform(40, 80), up=rng.uniform(12, 30))
    heading, roll, own = carried(rng, way)
    latitude, longitude, height, level = flown(rng, mast, way)
    book = book_of((latitude, longitude, height, np.round(2 * (level + own)) / 2))
    around = np.arange(0, 360, 10.0)
    carrier = book.antenna("Belly")
    noisy = belly(around, 0.0) + rng.normal(0, 0.4, 36)
    book.cut(carrier, noisy, around)
    over = belly(
        np.where((around > 90) & (around < 270), 180.0, 0.0), np.degrees(np.arcsin(np.sin(np.radians(around))))
    )
    book.cut(carrier, over + rng.normal(0, 0.4, 36), around, plane="elevation")
    run = book.records["run1"]
    book.add(run.revised(far_antenna_id=carrier.id))
    book.series["s0"] |= {
        "heading_deg": heading + rng.normal(0, 3.0) + rng.normal(0, 2.0, len(way)),
        "roll_deg": roll + rng.normal(0, 2.0, len(way)),
        "pitch_deg": rng.normal(0, 2.0, len(way)),
    }
    cut = book.climb().pattern.of("a").cut("azimuth")
    fine, true = _ring(mast, cut)
    return [(cut.front_to_back, -float(np.interp(cut.peak_deg + 180, fine, true, period=360)))]


def all_over(rng):
    """Rings from low to high, one of each; what lies below is not flown at all."""
    mast = Mast(rng, most=4)
    rings = [
        orbit(rng, 1, 60 * np.cos(np.radians(e)) + 4, MAST_M + 60 * np.sin(np.radians(e))) for e in range(4, 80, 9)
    ]
    return mast, book_of(flown(rng, mast, np.concatenate(rings))).climb().pattern.of("a")


@quantity("pattern", "flown all over: directivity")
def directivity(rng) -> list[Answer]:
    mast, found = all_over(rng)
    grid_a, grid_e = np.meshgrid(np.arange(0, 360, 3.0), np.arange(-88.5, 90, 3.0))
    power = 10 ** (mast(grid_a.ravel(), grid_e.ravel()) / 10).reshape(grid_a.shape)
    shade = np.cos(np.radians(grid_e))
    return [(found.directivity, float(10 * np.log10(power.max() * shade.sum() / (power * shade).sum())))]


@quantity("pattern", "flown all over: beamwidth")
def width_all_over(rng) -> list[Answer]:
    mast, found = all_over(rng)
    cut = found.cut("azimuth")
    return [(cut.beamwidth if cut is not None else None, mast.array.width())]


@quantity("pattern", "flown all over: front to back")
def back_all_over(rng) -> list[Answer]:
    mast, found = all_over(rng)
    cut = found.cut("azimuth")
    if cut is None:
        return [(None, 0.0)]
    fine, level = _ring(mast, cut)
    return [(cut.front_to_back, -float(np.interp(cut.peak_deg + 180, fine, level, period=360)))]


class Stack(Mast):
    """The same with stacked elements, so that it is steep up and down."""

    def __init__(self, rng) -> None:
        super().__init__(rng, most=4)
        self.elements, self.spacing = int(rng.integers(2, 5)), rng.uniform(0.5, 0.65)

    def __call__(self, azimuth, elevation):
        psi = np.pi * self.spacing * np.sin(np.radians(elevation - self.tilt))
        with np.errstate(invalid="ignore", divide="ignore"):
            factor = np.abs(np.sin(self.elements * psi) / (self.elements * np.sin(psi)))
        factor = np.where(np.abs(psi) < 1e-9, 1.0, factor)
        return super().__call__(azimuth, elevation) + 20 * np.log10(np.hypot(factor, 0.05))


def spiral(rng, turns: int, highest: float) -> np.ndarray:
    """Round and up at once: no direction lies right between two passes."""
    n = 120 * turns
    bearing = np.linspace(0, 2 * np.pi * turns, n) + rng.uniform(0, 6.28)
    r = 60.0 + alike(rng, n, 3.0, 15.0)
    return np.stack((r * np.sin(bearing), r * np.cos(bearing), np.linspace(3.0, highest, n)), axis=1)


@quantity(
    "pattern",
    "climbed in a spiral: beside the way flown",
    high=0.94,
    why="how steep it is where nobody flew is assumed",
)
def beside(rng) -> list[Answer]:
    mast = Stack(rng)
    book = book_of(flown(rng, mast, spiral(rng, int(rng.integers(3, 9)), rng.uniform(35, 65)), ground=0.1))
    flown_ = book.climb().pattern.of("a").flown
    azimuth, elevation = rng.uniform(0, 360, 200), rng.uniform(-2, 40, 200)
    level, u = flown_.level(azimuth, elevation)
    # Near a null what is reflected about there is as strong: such directions are asked of nobody.
    told = np.flatnonzero(np.isfinite(level) & (mast(azimuth, elevation) > -12.0))[:2]
    if len(told) < 2:
        return [(None, 0.0)]
    one, other = told
    difference = Figure("difference", float(level[one] - level[other]), float(np.hypot(u[one], u[other])), "dB")
    true = mast(azimuth, elevation)
    return [(difference, float(true[one] - true[other]))]


@quantity("pattern", "climbed in a spiral: from one bearing to another at one height")
def at_one_height(rng) -> list[Answer]:
    mast = Stack(rng)
    # So narrow a spiral that most of a turn at one height can be told.
    book = book_of(flown(rng, mast, spiral(rng, int(rng.integers(10, 16)), rng.uniform(35, 65)), ground=0.1))
    cut = book.climb().pattern.of("a").cut("azimuth")
    if cut is None or cut.coarse:
        return [(None, 0.0)]
    from tallmast.findings.pattern.named import toward

    top = mast(np.array([cut.peak_deg]), cut.of.at_elevation_deg)[0]
    strong = cut.angle_deg[mast(cut.angle_deg, cut.of.at_elevation_deg) > top - 10.0]
    if not len(strong):  # its peak lies between what was flown
        return [(None, 0.0)]
    at = float(rng.choice(strong))
    there = mast(np.array([at]), cut.of.at_elevation_deg)[0]
    return [(toward(cut, at), float(there - top))]
