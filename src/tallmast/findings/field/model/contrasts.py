"""What each change of a factor does, by all notes of the day at once."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Change, Design, pairs_of
from tallmast.physics.nested_laplace import Linear, Marginal
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show
from tallmast.units.shown import SCALES

from ...figure import Figure, Working
from ..runs import ANTENNA, Tried
from ..settings import MANNER, short_words, sides
from .day import Day
from .kinds import STEPPED
from .mistakes import Judged
from .noted import HEARD, Note
from .planner import at_once
from .working import assumption_lines, shares_of

DECIBELS, REACH = "dB", "reach"
"""What a contrast is told in, beside the scales of `units.shown`."""
LEVELS = ("level", "cell", "S units")
"""Kinds of notes that are decibels."""
ALIKE_DB = 3.0
"""Half the power: two things that are surely closer than this are called alike."""
UNTOLD = 0.97
"""A contrast that is still so much as wide as before anything was noted says nothing."""
DIFFERS, LEGS_DIFFER = 0.95, 0.99
"""Chance from which on blocks are said to differ, and the legs of a way, which nobody asked about."""
SHARE = 0.9
MOST_FORMS = 4
"""Blocks and their differences, up to which their marginals are scanned."""
FAR_OUT = 4.0
"""Standard deviations from nought from which on a marginal need not be scanned to know its sign."""


class Seen(Frozen):
    """What was read on one scale, where both were: at how many spots the one was better, the other, neither; the mean of their
    differences, where a difference means something."""

    scale: str
    better: int
    worse: int
    alike: int
    mean: float | None

    @property
    def spots(self) -> int:
        return self.better + self.worse + self.alike

    @property
    def words(self) -> str:
        """`better at 6 of 6 spots, by 10 Mbit/s in the mean`."""
        told = f"better at {self.better} of {self.spots} spot{'' if self.spots == 1 else 's'}"
        if self.mean is None:
            return told
        return f"{told}, by {show.fixed(abs(self.mean), 1)} {SCALES[self.scale].unit} in the mean"

    def turned(self) -> Seen:
        return Seen(self.scale, self.worse, self.better, self.alike, None if self.mean is None else -self.mean)


class Contrast(Frozen):
    """What one change of a factor does to the level, the better level first."""

    changes: tuple[Change, ...]
    """The change, and what it can only be told together with."""
    figure: Figure
    """Over places like those visited; at the one place, where all was noted at one. dB."""
    chance: float
    """That it is better there."""
    elsewhere: float
    """The same at one place where nobody was yet."""
    runs: int
    manners: tuple[str, ...]
    """Of those runs."""
    places: int
    """At which both were noted."""
    scale: str = DECIBELS
    """What it is told in: decibels; how many times as far; else the scale that most was read on."""
    farther: Figure | None = None
    """How many times as far on the ways that were gone, where things broke."""
    chance_farther: float = 0.5
    """That it is farther at all."""
    seen: tuple[Seen, ...] = ()
    by_kind: tuple[tuple[str, Figure], ...] = ()
    """By each kind of note alone, where there are several."""
    by_manner: tuple[tuple[str, Figure], ...] = ()
    """By each manner of runs alone, where there are several."""
    blocks: tuple[tuple[str, Figure], ...] = ()
    """Where another factor stood at one of its levels, or on one leg of the way; where what it does may differ."""
    differ: bool = False
    """Whether the blocks do."""
    by_leg: bool = False
    """Whether those are the legs of a way out and back."""
    parted: bool = False
    """Whether one further run would tell it from what it was changed together with."""
    alone: str = ""
    """The place, where all was noted at one."""

    @property
    def change(self) -> Change:
        return self.changes[0]

    @property
    def open(self) -> bool:
        """Whether its interval leaves open which is better."""
        low, high = self.figure.interval
        return low <= 0.0 <= high

    @property
    def settled(self) -> bool:
        """Whether it is clear which is better, or that they are alike as closely as anybody would hear."""
        return not self.open or self.within_db <= ALIKE_DB

    @property
    def within_db(self) -> float:
        """How far apart they may be at most, 19 times in 20 to either side."""
        low, high = self.figure.interval
        return max(-low, high)


class Comparing(Frozen):
    """A day that is asked of every change between its runs."""

    judged: Judged
    names: Mapping[Tried, str]
    titles: Mapping[str, str]
    """Of places, by id."""

    @property
    def day(self) -> Day:
        return self.judged.day

    def contrasts(self) -> tuple[Contrast, ...]:
        """Of every factor that changed between runs, every two of its levels that the notes tell apart, alone or with what changed with
        them; antennas first."""
        model = self.day.model
        noted = [model.runs[i] for i in model.order]
        factors = [f for f in model.factors if f != MANNER or len(model.factors) > 1]
        design = Design(factors, [[run.levels.get(f, "") for f in factors] for run in noted])
        wanted = []
        for factor in sorted((f for f in factors if f != MANNER), key=lambda f: f != ANTENNA):
            for since, to in pairs_of(design.levels_of(factor), factor == ANTENNA):
                change = Change(factor, to, since)
                told = design.told_with(change)
                if told is None or (factor != ANTENNA and MANNER in {c.factor for c in told}):
                    continue  # another manner is another path: nothing is told of a height that was flown, not walked
                wanted.append(((change, *told), bool(told) and design.parted_by(change, told) is not None))
        # What was changed together is told of the first of it.
        once = {frozenset(Change(c.factor, *sorted((c.to, c.since))) for c in w[0]): w for w in reversed(wanted)}
        every = list(once.values())[::-1]
        forms = [model.change(changes) for changes, _ in every]
        rough = self.day.posterior.marginals(forms, scanned=False)
        kept = [i for i, told in enumerate(rough) if self._narrowed(every[i][0], told) or self._confounded(every[i][0])]
        near = [i for i in kept if abs(rough[i].mean) < FAR_OUT * rough[i].sd][: MOST_FORMS * 4]
        scanned = dict(zip(near, self.day.posterior.marginals([forms[i] for i in near]), strict=True)) if near else {}
        return tuple(self._contrast(*every[i], scanned.get(i, rough[i])) for i in kept)

    def _confounded(self, changes: Sequence[Change]) -> bool:
        """Whether several things changed at the same spots: said, even where nothing can be told of them."""
        return len(changes) > 1 and bool(self._shared_spots(changes))

    def _narrowed(self, changes: Sequence[Change], told: Marginal) -> bool:
        """Whether the notes say anything of some changes: by how far their prior stands open."""
        notes, model = self.day.model.notes, self.day.model
        row = model.change(changes).row(notes.count)
        points = self.day.posterior.points
        _, sd = notes.prior(range(notes.count), notes.prior_scales(points.modes.phi))
        before = float(np.sqrt(points.weight @ ((row**2) @ (sd**2).T)))
        return told.sd < UNTOLD * before

    def _contrast(self, changes: tuple[Change, ...], parted: bool, over: Marginal) -> Contrast:
        """`over`: what it does over places like those visited, as the day was noted."""
        model = self.day.model
        both = self._both(changes[0])
        places = list(dict.fromkeys(note.spot.key for note, _ in both))
        spots = self._shared_spots(changes)
        alone = self._title(spots[0]) if len(spots) == 1 and len(places) == 1 else ""
        if not self.judged.plain:
            over = self.judged.change(changes)
        told = self.judged.change(changes, here=True) if alone else over
        if float(told.quantile(0.5)) < 0.0:
            changes, told, over = _back(changes), _turned(told), _turned(over)
        scale = self._scale(changes)
        farther, chance_farther = self._farther(changes) if scale == REACH else (None, 0.5)
        blocks, differ = self._blocks(changes)
        runs = {note.run for note, _ in both}
        figure = self._figure(changes, told, bool(alone))
        by_leg = bool(blocks) and blocks[0][0] in model.legs
        return Contrast(
            changes,
            figure,
            float(told.chance_above(0.0)),
            float(self.day.elsewhere(over).chance_above(0.0)),
            len(runs),
            tuple(dict.fromkeys(model.runs[i].manner for i in sorted(runs))),
            len(spots),
            scale,
            farther,
            chance_farther,
            tuple(self._seen(changes)),
            (),
            (),
            blocks,
            differ,
            by_leg,
            parted,
            alone,
        )

    # --- what it rests on

    def _level(self, run: int, factor: str) -> str:
        return self.day.model.runs[run].levels.get(factor, "")

    def _both(self, change: Change) -> list[tuple[Note, bool]]:
        """The notes of either level, and whether of the first."""
        out = []
        for note in self.day.model.said:
            level = self._level(note.run, change.factor)
            if level in (change.to, change.since):
                out.append((note, level == change.to))
        return out

    def _shared_spots(self, changes: Sequence[Change]) -> list[str]:
        both = self._both(changes[0])
        mine = dict.fromkeys(note.spot.key for note, to in both if to)
        theirs = {note.spot.key for note, to in both if not to}
        return [key for key in mine if key in theirs]

    def _title(self, key: str) -> str:
        return next((title for place_id, title in self.titles.items() if key.endswith(f" {place_id}")), "")

    def _scale(self, changes: Sequence[Change]) -> str:
        """Decibels where levels were read, or a known step of power or pads says what a step of the scale is worth; how far, where
        things broke along a way; else the scale that most was read on."""
        both = self._both(changes[0])
        count: dict[str, list[int]] = {}
        for note, to in both:
            count.setdefault(note.kind, [0, 0])[to] += 1
        shared = {kind: min(n) for kind, n in count.items() if min(n)}
        if any(kind in LEVELS for kind in shared):
            return DECIBELS
        own = {kind: n for kind, n in shared.items() if kind != HEARD}
        stepped = {round(self.day.model.runs[n.run].pad_db + self.day.model.runs[n.run].power_db, 1) for n, _ in both}
        if own and len(stepped) > 1:
            return DECIBELS
        broke = [[run for run, _ in self.day.model.broke if self._level(run, changes[0].factor) == level]
                 for level in (changes[0].to, changes[0].since)]  # fmt: skip
        if not own and all(broke):
            return REACH
        first = max(own, key=lambda kind: own[kind], default=HEARD)
        return {"counts": "level"}.get(first, first)

    def _seen(self, changes: Sequence[Change]) -> list[Seen]:
        """On each scale, runs that are the same in all else, spot by spot."""
        changed = {c.factor for c in changes}
        there: dict[str, dict[tuple[object, ...], tuple[list[float], list[float]]]] = {}
        runs = self.day.model.runs
        graded = {note.run for note in self.day.model.said if note.kind in STEPPED}
        for note, to in self._both(changes[0]):
            levels = runs[note.run].levels
            if any(levels.get(c.factor, "") not in (c.to, c.since) for c in changes):
                continue
            kind = note.kind
            if kind == HEARD and note.run in graded:
                kind = next(n.kind for n in self.day.model.said if n.run == note.run and n.kind in STEPPED)
            scale = {"counts": "level"}.get(kind, kind)
            if scale not in SCALES or kind in LEVELS or (note.run, note.end) in self.day.model.broke:
                continue
            rest = tuple(sorted((f, level) for f, level in levels.items() if f not in changed))
            key = (rest, runs[note.run].pad_db + runs[note.run].power_db, note.spot.key, note.end)
            there.setdefault(scale, {}).setdefault(key, ([], []))[not to].append(note.value)
        out = []
        for scale, spots in there.items():
            pairs = [(float(np.mean(a)), float(np.mean(b))) for a, b in spots.values() if a and b]
            if not pairs:
                continue
            sign = 1.0 if SCALES[scale].more_is_better else -1.0
            each = [sign * (a - b) for a, b in pairs]
            by = float(np.mean(each)) if SCALES[scale].countable and np.isfinite(each).all() else None
            out.append(Seen(scale, sum(e > 0 for e in each), sum(e < 0 for e in each), sum(e == 0 for e in each), by))
        return sorted(out, key=lambda seen: -seen.spots)

    def _blocks(self, changes: Sequence[Change]) -> tuple[tuple[tuple[str, Figure], ...], bool]:
        """What it does within each level of what it may act together with, else on each leg; and whether those differ."""
        model = self.day.model
        factors = {c.factor for c in changes}
        for pair in model.crossed:
            beside = next((f for f in pair if f not in factors), None)
            if beside is None or not factors & set(pair):
                continue
            wanted = [
                {self._level(i, beside) for i in model.order if self._level(i, changes[0].factor) == level}
                for level in (changes[0].to, changes[0].since)
            ]
            levels = [level for level in dict.fromkeys(self._level(i, beside) for i in model.order)
                      if all(level in one for one in wanted)]  # fmt: skip
            if len(levels) > 1:
                forms = [model.change(changes, {beside: level}) for level in levels]
                names = [short_words(beside, level, self.names) for level in levels]
                return self._within(names, [*forms, *(b - a for i, a in enumerate(forms) for b in forms[:i])])
        if len(model.legs) > 1 and ANTENNA in factors:
            forms = [model.on_leg(changes, leg) for leg in model.legs]
            told, differ = self._within(list(model.legs), [*forms, forms[0] - forms[1]], LEGS_DIFFER, scanned=False)
            return (told, True) if differ else ((), False)
        return (), False

    def _within(
        self, names: Sequence[str], forms: Sequence[Linear], sure: float = DIFFERS, scanned: bool = True
    ) -> tuple[tuple[tuple[str, Figure], ...], bool]:
        told = self.day.posterior.marginals(forms, scanned and len(forms) <= MOST_FORMS)
        blocks = tuple((name, plain_figure(name, one)) for name, one in zip(names, told, strict=False))
        apart = [float(one.chance_above(0.0)) for one in told[len(names) :]]
        return blocks, any(max(chance, 1.0 - chance) > sure for chance in apart)

    def _farther(self, changes: Sequence[Change]) -> tuple[Figure | None, float]:
        """How many times as far, on the way on which most broke, and the chance that it is farther at all."""
        model = self.day.model
        level = {changes[0].to: 0, changes[0].since: 1}
        mine = [(run, ends) for (run, _), ends in model.broke.items() if self._level(run, changes[0].factor) in level]
        manners = [model.runs[run].manner for run, _ in mine]
        if not manners:
            return None, 0.5
        manner = max(dict.fromkeys(manners), key=manners.count)
        told = self.day.farther(changes, manner)
        if told is None:
            return None, 0.5
        low, middle, high = np.exp(told.quantile([0.05, 0.5, 0.95])).tolist()
        ahead = [lost for run, (_, lost) in mine if self._level(run, changes[0].factor) == changes[0].to]
        behind = [lost for run, (_, lost) in mine if self._level(run, changes[0].factor) == changes[0].since]
        never = all(lost is None for lost in ahead) and any(lost is not None for lost in behind)
        names = sides(changes, self.names)
        lines = tuple(
            f"run {model.runs[run].number}: good to {show.distance(good) if good else 'nowhere noted'}, "
            f"{'not lost' if lost is None else 'lost by ' + show.distance(lost)}"
            for run, (good, lost) in mine
        )
        working = Working(
            lines,
            (),
            "ratio of the middles between last good and first lost; run to run and path exponent by the day’s one model",
            "On the way that was gone; a repeat with each makes it narrower.",
        )
        figure = Figure(
            f"{names[0]} against {names[1]}, how far", middle, middle * told.sd, "times as far", working,
            low=low, high=high, digits=2 if high < 1.3 else 1,
        )  # fmt: skip
        return _bounded(figure) if never else figure, float(told.chance_above(0.0))

    # --- in words

    def _figure(self, changes: tuple[Change, ...], told: Marginal, alone: bool) -> Figure:
        names = sides(changes, self.names)
        model, day = self.day.model, self.day
        form = model.here(changes) if alone else model.change(changes)
        figure = plain_figure(f"{names[0]} over {names[1]}", told)
        runs = [
            [model.runs[i].number for i in model.order if self._level(i, changes[0].factor) == level]
            for level in (changes[0].to, changes[0].since)
        ]
        here = day.posterior.marginal(model.here(changes), scanned=False)
        lines = [
            f"{name}  run{'s' if len(mine) != 1 else ''} {', '.join(map(str, mine))}"
            for name, mine in zip(names, runs, strict=True)
        ]
        lines += [
            f"{show.count(len(self._shared_spots(changes)), 'place')} at which both were noted",
            *(f"{seen.scale}: {seen.words}" for seen in self._seen(changes)),
            f"at the places visited {plain_figure('', here).text}",
            f"chance of better {show.percent(float(told.chance_above(0.0)))}; "
            f"at one other place {show.percent(float(day.elsewhere(told).chance_above(0.0)))}",
            *(f"{len(self.judged.possible)} mistakes weighed with it" for _ in (1,) if self.judged.suspected),
            *assumption_lines(day, form),
        ]
        shares, whole = shares_of(day, form), figure.u
        at = math.sqrt(math.fsum(u**2 for _, u in shares))
        if whole > at:
            shares.append(("how much runs, places and scales stray, itself not known", math.sqrt(whole**2 - at**2)))
        else:
            shares = [(words, u * whole / at) for words, u in shares]
        working = Working(
            tuple(lines),
            tuple((words, show.decibel(u, 2)) for words, u in shares if u >= 0.005),
            "one model of all notes of the day; nested Laplace (Rue, Martino and Chopin 2009)",
            "In decibels whatever it was read on; what shifts a whole run (connectors, hands, battery) is in it.",
        )
        return Figure(
            figure.name, figure.value, figure.u, "dB", working, figure.degrees, low=figure.low, high=figure.high
        )


def plain_figure(name: str, told: Marginal) -> Figure:
    """A marginal in decibels as a figure: its middle and the interval of 90 %."""
    low, middle, high = told.quantile([0.5 - SHARE / 2.0, 0.5, 0.5 + SHARE / 2.0]).tolist()
    return Figure(name, middle, told.sd, "dB", low=low, high=high)


Parts = Sequence[tuple[tuple[str, Figure], ...]]


def by_kind(day: Comparing, contrasts: Sequence[Contrast]) -> Parts:
    """What each kind of notes says of each contrast alone; none where there is but one."""
    groups: dict[str, set[str]] = {}
    for note in day.day.model.said:
        name = "levels" if note.kind in LEVELS else "grades" if note.kind in STEPPED else note.kind
        groups.setdefault(name, set()).add(note.kind)
    if HEARD in groups and len(groups) > 1:
        heard = groups.pop(HEARD)
        groups["grades" if "grades" in groups else next(iter(groups))] |= heard
    parts = {name: [n for n in day.day.model.said if n.kind in kinds] for name, kinds in groups.items()}
    return _by_parts(day, contrasts, parts)


def by_manner(day: Comparing, contrasts: Sequence[Contrast]) -> Parts:
    """What each manner of runs says of each alone: by boat, in flight; none where there is but one."""
    runs = day.day.model.runs
    parts: dict[str, list[Note]] = {}
    for note in day.day.model.said:
        parts.setdefault(runs[note.run].manner, []).append(note)
    return _by_parts(day, contrasts, parts)


def _by_parts(day: Comparing, contrasts: Sequence[Contrast], parts: Mapping[str, Sequence[Note]]) -> Parts:
    out: list[list[tuple[str, Figure]]] = [[] for _ in contrasts]
    if len(parts) < 2:
        return [()] * len(contrasts)
    runs, normal = day.day.model.runs, coverage_factor(math.inf)
    whole = at_once(day.day, runs, day.day.model.said, [(c.changes, bool(c.alone)) for c in contrasts])
    for name, said in parts.items():
        there = {note.run for note in said}
        told = [
            i
            for i, c in enumerate(contrasts)
            if {c.change.to, c.change.since} <= {runs[run].levels.get(c.change.factor, "") for run in there}
        ]
        if not told:
            continue
        wanted = [(contrasts[i].changes, bool(contrasts[i].alone)) for i in told]
        for i, (mean, at) in zip(told, at_once(day.day, runs, said, wanted), strict=True):
            # What the hyperparameters leave open is open for a part as it is for all of it.
            sd = at * max(contrasts[i].figure.u / max(whole[i][1], 1e-9), 1.0)
            half = normal * sd
            working = Working(
                (f"{show.count(len(said), 'note')} of {name}", f"difference {show.decibel(mean)}"),
                (("these notes alone", show.decibel(sd, 2)),),
                "the day’s one model, at its likeliest spreads",
            )
            out[i].append((name, Figure(name, mean, sd, "dB", working, low=mean - half, high=mean + half)))
    return [tuple(mine) if len(mine) > 1 else () for mine in out]


def _back(changes: Sequence[Change]) -> tuple[Change, ...]:
    """Taken back."""
    return tuple(Change(c.factor, c.since, c.to) for c in changes)


def _turned(told: Marginal) -> Marginal:
    at: Floats = -told.at[::-1]
    return Marginal(at, told.density[::-1])


def _bounded(figure: Figure) -> Figure:
    return Figure(
        figure.name, figure.value, figure.u, figure.unit, figure.working,
        low=figure.low, high=figure.high, bound="at least", digits=figure.digits,
    )  # fmt: skip
