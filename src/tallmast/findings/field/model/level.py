"""The level of a run at an end and a spot, as a linear form of all that is not seen.

    ℓ = K_end + known steps + Σ effects + interactions + path + each antenna's own way of meeting the place + run + drift

before any display, in dB. What is asked of the day is a linear form too.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from itertools import combinations

import numpy as np

from tallmast.physics.design import Change, order_of
from tallmast.physics.nested_laplace import Linear, Notes, total

from ..runs import ANTENNA, FAR_ANTENNA
from ..settings import MANNER
from . import priors
from .noted import HEARD, Note, RunOfDay, Spot

ALIKE_UNDER = ("power", "pad", "rate", "place", "path", "height", "battery", "weather", "day", "listener", MANNER)
"""Factors under which one antenna has over another what it has; otherwise it may be under a mode, a band, a pose, another antenna at the
other end, or what somebody thought worth a name of its own."""
ONE_WAY_DEG = 40.0
"""Bearings that are no farther apart lie on one way."""


class LevelModel:
    """The latents of a day's levels, as they are asked for."""

    def __init__(self, notes: Notes, runs: Sequence[RunOfDay], said: Sequence[Note]) -> None:
        self.notes, self.runs, self.said = notes, runs, said
        here = [runs[i] for i in sorted({note.run for note in said})]
        self.order = dict(zip(sorted({note.run for note in said}), order_of(len(here)), strict=True))
        names = list(dict.fromkeys(name for run in here for name in run.levels))
        self.factors = [
            name
            for name in names
            if len({run.levels.get(name, "") for run in here}) > 1
            and all(run.kinds.get(name) != "known step" for run in here)
        ]
        """Whose levels have an effect."""
        self.crossed = [pair for pair in combinations(self.factors, 2) if self._is_crossed(here, pair)]
        """Pairs of factors that may act together."""
        self.compared = [f for f in self.factors if f == ANTENNA or any(r.kinds.get(f) == "compared" for r in here)]
        self.in_dbm = any(note.kind in ("level", "cell") and note.zero_db != math.inf for note in said)
        known = [n.spot.distance_m for n in said if n.spot.distance_m > 0.0]
        self.middle_m = float(np.exp(np.mean(np.log(known)))) if known else 1.0
        """The path's law counts from here, so that its exponent moves levels as little as it can."""
        self._paths: dict[tuple[str, str], Linear] = {}
        self._brought: dict[tuple[int, str], Linear] = {}

    @staticmethod
    def _is_crossed(runs: Sequence[RunOfDay], pair: tuple[str, str]) -> bool:
        """Whether what one factor does can differ by the other, one of them an antenna: two levels of each were run with one level of the
        other."""
        if not set(pair) & {ANTENNA, FAR_ANTENNA} or set(pair) & set(ALIKE_UNDER):
            return False
        cells = {tuple(run.levels.get(f, "") for f in pair) for run in runs}
        by_first = {a: {b for x, b in cells if x == a} for a, _ in cells}
        by_second = {b: {a for a, y in cells if y == b} for _, b in cells}
        return max(map(len, by_first.values())) > 1 and max(map(len, by_second.values())) > 1

    # --- what a level is made of

    def effect(self, factor: str, level: str) -> Linear:
        """Of one level of a factor."""
        sd = priors.EFFECTS_DB.get(factor, priors.EFFECT_DB)
        return self.notes.latent(("effect", factor, level), 0.0, sd)

    def _together(self, pair: tuple[str, str], levels: tuple[str, str]) -> Linear:
        return self.notes.latent(("together", *pair, *levels), 0.0, priors.INTERACTION_DB)

    def _meets(self, factor: str, level: str, spot: Spot) -> Linear:
        scale = self.notes.scale("meets", priors.MEETS.median, priors.MEETS.log_sd)
        return self.notes.latent(("meets", factor, level, spot.key), sd_by=scale, block=self._block(spot))

    @staticmethod
    def _block(spot: Spot) -> str:
        return spot.key

    def law(self, run: RunOfDay, distance_m: float) -> Linear:
        """Of the path, by its exponent alone."""
        mean, sd = priors.EXPONENTS.get(run.manner, priors.EXPONENTS[""])
        return self.notes.latent(("exponent", run.manner), mean, sd).times(
            -10.0 * math.log10(distance_m / self.middle_m)
        )

    def path(self, run: RunOfDay, spot: Spot) -> Linear:
        """What lies between home and a spot."""
        if (run.manner, spot.key) not in self._paths:
            self._paths[run.manner, spot.key] = self._path(run, spot)
        return self._paths[run.manner, spot.key]

    def _path(self, run: RunOfDay, spot: Spot) -> Linear:
        if spot.key in self.on_ways:
            return self.law(run, spot.distance_m) + self.along(run, spot.distance_m, spot.key)
        if spot.distance_m > 0.0:
            scale = self.notes.scale("shadow", priors.SHADOW.median, priors.SHADOW.log_sd)
            own = self.notes.latent(("place", spot.key), sd_by=scale, block=spot.key)
            return self.law(run, spot.distance_m) + own
        scale = self.notes.scale("places", priors.PLACES.median, priors.PLACES.log_sd)
        return self.notes.latent(("place", spot.key), sd_by=scale, block=spot.key)

    def run_of(self, run: int) -> Linear:
        """All that a run brings, wherever it was heard."""
        scale = self.notes.scale("run", priors.RUN.median, priors.RUN.log_sd)
        out = self.notes.latent(("run", run), sd_by=scale)
        if len(self.order) > 1:
            out = out + self.notes.latent("drift", 0.0, priors.DRIFT_DB).times(float(self.order[run]))
        return out + self.setting(self.runs[run].levels)

    def setting(self, levels: Mapping[str, str]) -> Linear:
        """What the factors bring as they are set."""
        out = total(self.effect(f, levels.get(f, "")) for f in self.factors)
        pairs = ((pair, (levels.get(pair[0], ""), levels.get(pair[1], ""))) for pair in self.crossed)
        return out + total(self._together(pair, both) for pair, both in pairs)

    def steps(self, run: int, end: str) -> Linear:
        """Known steps of power and pads; what home hears the far end sends, so home's power is not in it."""
        of = self.runs[run]
        out = Linear({}, of.pad_db + (of.power_db if end == "away" else 0.0))
        if of.pad_db:
            out = out + self.notes.latent(("pad", of.pad_db), 0.0, priors.STEP_DB)
        if of.power_db and end == "away":
            out = out + self.notes.latent(("power", of.power_db), 0.0, priors.STEP_DB)
        return out

    def common(self, end: str) -> Linear:
        """The level at the middle distance, where it is read in dBm; else it and every threshold are one unknown."""
        if not self.in_dbm:
            return Linear()
        return self.notes.latent(("common", end), priors.TYPICAL_DBM, priors.ANYTHING_DB)

    def level(self, run: int, end: str, spot: Spot, leg: str = "") -> Linear:
        """ℓ, but for the moment's fade; `leg` of a run that turned."""
        of = self.runs[run]
        meets = [self._meets(f, of.levels.get(f, ""), spot) for f in self.compared]
        if leg:
            meets += [self._on_leg(f, of.levels.get(f, ""), leg) for f in self.compared]
        return total([self._brought_by(run, end), self.path(of, spot), *meets])

    def _brought_by(self, run: int, end: str) -> Linear:
        """Whatever is the same all through a run, at an end."""
        if (run, end) not in self._brought:
            self._brought[run, end] = total([self.common(end), self.steps(run, end), self.run_of(run)])
        return self._brought[run, end]

    def _on_leg(self, factor: str, level: str, leg: str) -> Linear:
        """What an antenna has on the way out or back beside what it has on both: it looks the other way there."""
        return self.notes.latent(("leg", factor, level, leg), 0.0, priors.LEG_DB)

    def usual(self, run: int, end: str, spot: Spot) -> Linear:
        """The level at a spot as runs set like one of them have it in the middle, with none's own luck and no drift; at a spot where
        nothing was noted, with all that is not known of it."""
        of = self.runs[run]
        if any(self.runs[run].manner == of.manner for run, _ in self.broke):
            meets = self._meets_way(of)
        else:
            meets = total(self._meets(f, of.levels.get(f, ""), spot) for f in self.compared)
        if of.manner in self._ways and spot.distance_m > 0.0:
            path = self.law(of, spot.distance_m) + self.along(of, spot.distance_m)
        else:
            path = self.path(of, spot)
        return self.common(end) + self.steps(run, end) + self.setting(of.levels) + path + meets

    def _meets_along(self, factor: str, level: str, manner: str) -> Linear:
        scale = self.notes.scale("meets", priors.MEETS.median, priors.MEETS.log_sd)
        return self.notes.latent(("meets", factor, level, "way", manner), sd_by=scale)

    def _meets_way(self, of: RunOfDay) -> Linear:
        return total(self._meets_along(f, of.levels.get(f, ""), of.manner) for f in self.compared)

    def level_along(self, run: int, end: str, distance_m: float) -> Linear:
        """ℓ at a distance along the way; each antenna meets the whole way in its own way."""
        of = self.runs[run]
        path = self.law(of, distance_m) + self.along(of, distance_m)
        return total([self._brought_by(run, end), path, self._meets_way(of)])

    # --- ways: points at which things broke

    @cached_property
    def broke(self) -> dict[tuple[int, str], tuple[float | None, float | None]]:
        """(run, end) → where it was last heard and first lost, m, of runs that noted nothing but that along one way."""
        out: dict[tuple[int, str], tuple[float | None, float | None]] = {}
        for key in dict.fromkeys((note.run, note.end) for note in self.said):
            mine = [note for note in self.said if (note.run, note.end) == key]
            if any(n.kind != HEARD or not n.spot.distance_m > 0.0 for n in mine) or not _one_way(mine):
                continue
            heard = [n.spot.distance_m for n in mine if n.value > 0.0]
            lost = [n.spot.distance_m for n in mine if n.value <= 0.0]
            if set(heard) & set(lost) or (heard and lost and min(lost) < max(heard)):
                continue  # a gap with recovery, or now and then: each note for itself
            ended = self.runs[key[0]].lost_at_end and heard and not lost
            good = max(heard, default=None)
            out[key] = good, min(lost, default=good * (1.0 + ALMOST) if ended and good else None)
        return out

    @cached_property
    def on_ways(self) -> frozenset[str]:
        """Keys of the spots whose paths share the shadows of a way: all of a manner of runs, where they lie in one direction or in none
        that is known; else those at which a run broke."""
        out = {n.spot.key for n in self.said if (n.run, n.end) in self.broke}
        for manner in {run.manner for run in self.runs}:
            there = [n for n in self.said if self.runs[n.run].manner == manner and n.spot.distance_m > 0.0]
            spots = {n.spot.key: n for n in there}
            if len(spots) >= priors.LEAST_ON_WAY and _one_way(list(spots.values())):
                out |= set(spots)
        return frozenset(out)

    @cached_property
    def _ways(self) -> dict[str, tuple[np.ndarray, np.ndarray]]:
        """By manner: knots in ln m, and what makes their shadows of independent ones (alike by exp(−|Δ ln d|/length))."""
        out = {}
        for manner in dict.fromkeys(run.manner for run in self.runs):
            here = [n for n in self.said if n.spot.key in self.on_ways and self.runs[n.run].manner == manner]
            there = [n.spot.distance_m for n in here]
            there += [d for (run, _), ends in self.broke.items() if self.runs[run].manner == manner for d in ends if d]
            if not there:
                continue
            far = np.array(sorted(set(np.round(np.log(np.array(there)), 9).tolist())))
            if len(far) > priors.KNOTS:
                far = np.linspace(far[0], far[-1], priors.KNOTS)
            out[manner] = far, np.linalg.cholesky(_alike(far, far) + 1e-9 * np.eye(len(far)))
        return out

    def along(self, run: RunOfDay, distance_m: float, spot: str | None = None) -> Linear:
        """The shadow at a distance along the way: that of a knot, or as the knots beside it have it, with what they leave open; `spot`: at
        which that is, where it is one that notes know alone."""
        far, white = self._ways[run.manner]
        at = math.log(distance_m)
        scale = self.notes.scale("along", priors.ALONG.median, priors.ALONG.log_sd)
        i = int(np.argmin(np.abs(far - at)))
        own = Linear()
        if abs(far[i] - at) < 1e-6:
            weights = white[i]
        else:
            between = _alike(far, np.array([at]))[:, 0]
            known = np.linalg.solve(_alike(far, far) + 1e-9 * np.eye(len(far)), between)
            weights = known @ white
            left = math.sqrt(max(1.0 - float(known @ between), 0.0))
            key = ("shadow at", run.manner, spot or round(at, 6))
            own = self.notes.latent(key, 0.0, left, sd_by=scale, block=spot)
        parts = (
            self.notes.latent(("shadow", run.manner, j), sd_by=scale).times(float(w))
            for j, w in enumerate(weights)
            if abs(w) > 1e-12
        )
        return own + total(parts)

    # --- what is asked

    def change(
        self, changes: Iterable[Change], where: Mapping[str, str] | None = None, manner: str | None = None
    ) -> Linear:
        """What some changes do to the level, over places like these: effects, and what they do together with whatever else was run, each
        of its levels alike; or `where` it stood at one of them; on both legs alike, where runs, or those of a `manner`, went both."""
        changes = list(changes)
        legs = [self._of_leg(changes, leg) for leg in self.legs if all(self._went(c, leg, manner) for c in changes)]
        return self._effects(changes, where or {}) + (total(legs).times(1.0 / len(legs)) if legs else Linear())

    def _went(self, change: Change, leg: str, manner: str | None) -> bool:
        """Whether both levels of a factor were noted on a leg, in a manner of runs or in any."""
        runs = (self.runs[note.run] for note in self.said if note.leg == leg)
        there = {run.levels.get(change.factor, "") for run in runs if manner in (None, run.manner)}
        return {change.to, change.since} <= there

    def _effects(self, changes: Iterable[Change], where: Mapping[str, str]) -> Linear:
        out = Linear()
        for change in changes:
            out = out + self.effect(change.factor, change.to) - self.effect(change.factor, change.since)
            for pair in self.crossed:
                if change.factor in pair:
                    out = out + self._averaged(pair, change.factor, change.to, where)
                    out = out - self._averaged(pair, change.factor, change.since, where)
        return out

    @cached_property
    def legs(self) -> tuple[str, ...]:
        """Out and back, where runs turned."""
        return tuple(dict.fromkeys(note.leg for note in self.said if note.leg))

    def on_leg(self, changes: Iterable[Change], leg: str) -> Linear:
        """What some changes do on one of the legs."""
        changes = list(changes)
        return self._effects(changes, {}) + self._of_leg(changes, leg)

    def _of_leg(self, changes: Iterable[Change], leg: str) -> Linear:
        mine = [c for c in changes if c.factor in self.compared]
        return total(self._on_leg(c.factor, c.to, leg) - self._on_leg(c.factor, c.since, leg) for c in mine)

    def _averaged(self, pair: tuple[str, str], factor: str, level: str, where: Mapping[str, str]) -> Linear:
        first = pair[0] == factor
        beside = pair[1] if first else pair[0]
        others = list(dict.fromkeys(run.levels.get(beside, "") for i, run in enumerate(self.runs) if i in self.order))
        others = [where[beside]] if beside in where else others
        parts = (self._together(pair, (level, other) if first else (other, level)) for other in others)
        return total(parts).times(1.0 / len(others))

    def here(self, changes: Iterable[Change]) -> Linear:
        """The same at the places visited: with how each antenna met those that both came to, and the ways along which both broke."""
        changes = list(changes)
        out = self.change(changes)
        for change in changes:
            if change.factor not in self.compared:
                continue
            here, there = (self._spots(change.factor, level) for level in (change.to, change.since))
            both = [spot for key, spot in here.items() if key in there]
            ways = self._ways_of(change.factor, change.to) & self._ways_of(change.factor, change.since)
            met = [
                (self._meets(change.factor, change.to, s), self._meets(change.factor, change.since, s)) for s in both
            ]
            met += [
                (self._meets_along(change.factor, change.to, way), self._meets_along(change.factor, change.since, way))
                for way in sorted(ways)
            ]
            for to, since in met:
                out = out + (to - since).times(1.0 / len(met))
        return out

    def _ways_of(self, factor: str, level: str) -> set[str]:
        """Manners of the runs with a level that broke along their way."""
        return {self.runs[run].manner for run, _ in self.broke if self.runs[run].levels.get(factor, "") == level}

    def _spots(self, factor: str, level: str) -> dict[str, Spot]:
        mine = (n for n in self.said if self.runs[n.run].levels.get(factor, "") == level)
        return {n.spot.key: n.spot for n in mine if (n.run, n.end) not in self.broke}


ALMOST = 0.02
"""A run that ended where the signal was lost: by so much farther it was gone."""


def _alike(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    return np.asarray(np.exp(-np.abs(a[:, None] - b[None]) / priors.ALIKE_LN))


def _one_way(notes: Sequence[Note]) -> bool:
    bearings = np.deg2rad([n.spot.bearing_deg for n in notes if math.isfinite(n.spot.bearing_deg)])
    if len(bearings) < 2:
        return True
    middle = np.angle(np.exp(1j * bearings).mean())
    off = np.angle(np.exp(1j * (bearings - middle)))
    return bool(np.rad2deg(np.abs(off).max()) <= ONE_WAY_DEG / 2.0)
