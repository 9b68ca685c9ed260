"""The way to a place: the ground along it, what stands on it, and what of the ray it takes."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cached_property
from typing import Literal

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.records import Conditions, Obstacle, Place
from tallmast.physics import absorption, diffraction
from tallmast.physics.decibels import Floats
from tallmast.physics.diffraction import Section, Tightest
from tallmast.physics.propagation import radio_horizon_m
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

LEAST_BESIDE_DB = 0.05
WAYS = 12
"""Points at which it is worked out what a shorter way would take."""
U_EVERY = 3
TYPED_ADDED = 0.5
"""Share of P.526's addition for real ground that an edge gets of which nobody knows how rounded it is."""
EDGE_SHARE = 0.02
"""Of the way: so wide to each side a typed edge rises."""
MOST_HIGHER_M = 60.0


LossKind = Literal["ground", "woods", "noted", "rain", "fog", "air"]


class Loss(Frozen):
    """What one thing on the way takes, dB, with its standard uncertainty."""

    kind: LossKind
    what: str
    loss_db: float
    u_db: float
    source: str

    @property
    def text(self) -> str:
        return show.plus_minus(self.loss_db, coverage_factor(math.inf) * self.u_db, "dB")


LEAST_LOSS_DB = 0.01
OverDistance = tuple[Floats, Floats, Floats]
"""(distance, what stands before it takes dB, its u) [n]."""


class Profile(Frozen):
    """The ground toward a place, and what of the ray it takes. Distances from home m, heights above the sea m, all [n]."""

    place: Place | None
    distance_m: Floats
    found_m: Floats
    """As a raster has it, whatever somebody typed; level without one."""
    ground_m: Floats
    """Bare, or as the raster shows it."""
    top_m: Floats
    """With what stands on it, woods left out."""
    woods_m: Floats
    """Top of the trees; NaN where there are none."""
    home_height_m: float
    away_height_m: float
    """Antennas over their own ground."""
    conditions: Conditions
    frequency_hz: float
    obstacles: tuple[Obstacle, ...]
    by_raster: bool
    void_share: float
    """Of the way that no raster has a height for, and lies between those it has."""
    height_u_m: float
    vertical: bool = True
    noted_ground_m: tuple[float | None, float | None] = (None, None)
    """Heights of the ground over the sea that somebody typed, at home and at the place."""

    @property
    def whole_m(self) -> float:
        return float(self.distance_m[-1])

    @property
    def one_m(self) -> float:
        """Of the antenna at home, above the sea; `other_m` of the far one."""
        return float(self.ground_m[0]) + self.home_height_m

    @property
    def other_m(self) -> float:
        return float(self.ground_m[-1]) + self.away_height_m

    @property
    def horizon_m(self) -> float:
        """Where the smooth earth ends it, from heights over the ground smoothed between and the air as it bends."""
        return radio_horizon_m(*self.effective_heights_m, self.conditions.k_factor)

    @property
    def known(self) -> bool:
        """Whether anybody noted what lies between: else it is taken as level."""
        return self.by_raster or bool(self.obstacles)

    def moved(self, home_height_m: float | None = None, away_height_m: float | None = None) -> Profile:
        """The same with other antenna heights."""
        return replace(
            self,
            home_height_m=self.home_height_m if home_height_m is None else max(home_height_m, 0.1),
            away_height_m=self.away_height_m if away_height_m is None else max(away_height_m, 0.1),
        )

    def ended(self, distance_m: float) -> Profile:
        """The same to a nearer point on the way, where the far antenna stands as high over its ground."""
        n = max(int(np.searchsorted(self.distance_m, distance_m, side="right")), 3)
        if n >= len(self.distance_m):
            return self
        kept = {name: getattr(self, name)[:n] for name in ("distance_m", "found_m", "ground_m", "top_m", "woods_m")}
        before = tuple(o for o in self.obstacles if o.from_m < distance_m)
        return replace(self, place=None, obstacles=before, **kept)

    @cached_property
    def ray_m(self) -> Floats:
        """The straight ray, sunk by the bulge of the earth."""
        return diffraction.ray_m(self.distance_m, self.whole_m, self.one_m, self.other_m, self.conditions.k_factor)

    @cached_property
    def bulge_m(self) -> Floats:
        """How much the earth stands up between both ends."""
        return diffraction.bulge_m(self.distance_m, self.whole_m, self.conditions.k_factor)

    @cached_property
    def fresnel_m(self) -> Floats:
        return diffraction.fresnel_m(self.distance_m, self.whole_m, self.frequency_hz)

    def _section(self, top_m: Floats, added: float | None = None) -> Section:
        share = self._added if added is None else added
        ends = self.one_m, self.other_m
        air = self.frequency_hz, self.conditions.k_factor
        return Section(self.distance_m, top_m, *ends, *air, share, self.ground_m)

    @cached_property
    def tightest(self) -> Tightest | None:
        """Of ground and what stands on it; trees are told by what they take."""
        return self._section(self.top_m).tightest()

    @cached_property
    def effective_heights_m(self) -> tuple[float, float]:
        """Of both antennas over the ground smoothed between them; where nobody knows it over the lower end's. What somebody typed stands
        on that ground and does not raise it."""
        if not self.by_raster:
            low_m = float(self.ground_m.min())
            return self.one_m - low_m, self.other_m - low_m
        low = self._section(self.ground_m).smooth_ends_m()
        return max(self.one_m - low[0], 0.5), max(self.other_m - low[1], 0.5)

    @property
    def _added(self) -> float:
        """Of the addition of P.526 for real ground: all of it over ground that is known, half over edges that somebody typed."""
        return 1.0 if self.by_raster else TYPED_ADDED

    def _over(self, top_m: Floats, added: float | None = None) -> float:
        return self._section(top_m, added).over_profile_db()

    @cached_property
    def over_db(self) -> float:
        """By what the ground and what stands on it stand in the way."""
        return self._over(self.top_m)

    @cached_property
    def over_u_db(self) -> float:
        """By heights that are not known better, and by what real ground adds to a bare edge or does not."""
        if self.over_db <= 0.0 and (self.tightest is None or self.tightest.share > 1.0):
            return 0.0
        # What is smoothed is right in the mean where single heights are not: only the edge is doubtful.
        higher, lower = (self._section(self.top_m + m * self._inner) for m in (self.height_u_m, -self.height_u_m))
        by_height = 0.5 * abs(higher.bullington_db() - lower.bullington_db())
        by_form = 0.25 * abs(self._over(self.top_m, 1.0) - self._over(self.top_m, 0.0))
        return math.hypot(by_height, by_form, 0.08 * self.over_db)

    @property
    def _inner(self) -> Floats:
        """Share of an error of height between the antennas that they don't share with the ground they stand on."""
        d = self.distance_m
        return diffraction.off_the_end(d) * diffraction.off_the_end(d[-1] - d)

    @cached_property
    def depth_m(self) -> float:
        """Of trees along the ray."""
        if np.isnan(self.woods_m).all():
            return 0.0
        there = np.nan_to_num(self.woods_m, nan=-1e9) > self.ray_m
        return float(np.sum(np.diff(self.distance_m) * (0.5 * (there[1:].astype(float) + there[:-1]))))

    @cached_property
    def losses(self) -> tuple[Loss, ...]:
        """What is on the way beside free space, part by part; nothing of what takes less than a hundredth of a decibel."""
        ground = Loss("ground", "over the ground", self.over_db, self.over_u_db, "Rec. ITU-R P.526-15 §4.5.3")
        return (ground, *self._beside_ground) if ground.loss_db >= LEAST_LOSS_DB else self._beside_ground

    @cached_property
    def _beside_ground(self) -> tuple[Loss, ...]:
        """All of them but the ground."""
        c, f, whole = self.conditions, self.frequency_hz, self.whole_m
        out = self._through_woods()
        out += [
            Loss("noted", o.title, o.loss_db, max(1.0, 0.2 * o.loss_db), "as noted")
            for o in self.obstacles
            if o.loss_db is not None
        ]
        rain = float(absorption.rain_db(whole, f, c.rain_mm_h, self.vertical))
        out.append(
            Loss("rain", f"rain of {c.rain_mm_h:g} mm/h", rain, 0.3 * rain, "Rec. ITU-R P.838-3, rain all the way")
        )
        if c.visibility_m is not None:
            fog = float(absorption.fog_db(whole, f, absorption.fog_water_g_m3(c.visibility_m)))
            out.append(Loss("fog", "fog", fog, 0.5 * fog, "Rec. ITU-R P.840-8"))
        air = float(absorption.air_db(whole, f))
        out.append(Loss("air", "air", air, 0.2 * air, "Rec. ITU-R P.676-11"))
        return tuple(loss for loss in out if loss.loss_db >= LEAST_LOSS_DB or loss.kind == "fog")

    def _through_woods(self) -> list[Loss]:
        """Through the trees, or over them as over a hill, whichever takes less."""
        if not self.depth_m:
            return []
        through = float(absorption.woods_db(self.depth_m, self.frequency_hz))
        with_trees = np.fmax(self.top_m, self.woods_m)
        with_trees[[0, -1]] = self.top_m[[0, -1]]
        over = max(self._over(with_trees) - self.over_db, 0.0)
        loss = min(through, over) if over > 0 else through
        source = "Rec. ITU-R P.833-9" if loss == through else "over the tree-tops, Rec. ITU-R P.526-15"
        return [Loss("woods", f"{show.distance(self.depth_m)} of trees", loss, absorption.WOODS_U_SHARE * loss, source)]

    @property
    def loss_db(self) -> float:
        """Over free space. Its doubt takes four times as long to work out, and is not asked for here."""
        ground = self.over_db if self.over_db >= LEAST_LOSS_DB else 0.0
        return ground + sum(loss.loss_db for loss in self._beside_ground)

    @cached_property
    def beside_db(self) -> float:
        """Over the smooth earth, as it is reckoned: what a hill takes, what somebody typed takes more, and all that is on the way beside the
        ground."""
        if np.array_equal(self.ground_m, self.top_m):
            return self.added_db
        hills = self._section(self.ground_m).beside_smooth_db()
        return hills + self.loss_db - self._over(self.ground_m)

    @cached_property
    def added_db(self) -> float:
        """To a path that was measured before it: what stands there by itself, whatever the ground took already."""
        return self._section(self.top_m).beside_smooth_db() + self.loss_db - self.over_db

    @cached_property
    def beside_over_distance(self) -> OverDistance:
        """Beside the smooth earth, as it is reckoned."""
        return self._over_distance(lambda way: way.beside_db)

    @cached_property
    def added_over_distance(self) -> OverDistance:
        """To a path that was measured."""
        return self._over_distance(lambda way: way.added_db)

    def _over_distance(self, taken_db: Callable[[Profile], float]) -> OverDistance:
        """What is on the way as far as that; nothing of a way of which nothing is noted."""
        if not self.known and self.loss_db - self.over_db < LEAST_BESIDE_DB:
            return np.array([self.whole_m]), np.zeros(1), np.zeros(1)
        d, ways = self._shorter
        taken = np.array([taken_db(way) for way in ways])
        # A doubt changes slowly.
        some = np.arange(len(d))[::-U_EVERY][::-1]
        u = np.interp(d, d[some], [ways[i].u_db if taken[i] > 0.0 else 0.0 for i in some])
        return d, taken, np.where(taken > 0.0, u, 0.0)

    @cached_property
    def _shorter(self) -> tuple[Floats, list[Profile]]:
        """(how far, the way as far as that) of ways that end before the whole one."""
        first = max(0.02 * self.whole_m, float(self.distance_m[3]))
        evenly = np.geomspace(first, self.whole_m, WAYS)
        # Up to what stands there too: else some of it would be put back to places that had it ahead of them.
        before = [o.from_m - 1.2 * EDGE_SHARE * self.whole_m for o in self.obstacles]
        d = np.sort([*evenly, *(at for at in before if at > first)])
        return d, [self.ended(float(at)) for at in d]

    @property
    def as_found(self) -> Profile:
        """The same with what heights show alone, nothing typed."""
        nothing = np.full(len(self.distance_m), np.nan)
        return replace(self, obstacles=(), ground_m=self.found_m, top_m=self.found_m, woods_m=nothing)

    @property
    def u_db(self) -> float:
        return math.hypot(*(loss.u_db for loss in self.losses))

    @cached_property
    def home_higher_m(self) -> float | None:
        """By how much the antenna at home would have to be higher for 0.6 of the first Fresnel zone to be clear everywhere; zero where it
        is; None where even `MOST_HIGHER_M` more would not do."""
        lacking = diffraction.CLEAR_SHARE * self.fresnel_m[1:-1] - (self.ray_m - self.top_m)[1:-1]
        share = 1.0 - self.distance_m[1:-1] / self.whole_m
        if not (lacking > 0).any():
            return 0.0
        more = float(np.max(np.where(lacking > 0, lacking / np.maximum(share, 1e-3), 0.0)))
        return more if more <= MOST_HIGHER_M else None
