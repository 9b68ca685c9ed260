"""What each change of a factor does, by all notes of the day at once."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.physics.decibels import Floats
from tallmast.physics.design import Change, Design, pairs_of
from tallmast.physics.nested_laplace import Linear, Marginal
from tallmast.units import show

from ...figure import Figure, Working
from ..runs import ANTENNA, Tried
from ..settings import MANNER, short_words, sides
from .day import Day
from .mistakes import Judged
from .noted import HEARD
from .reached import edges_of, farther, matched
from .seen import LEVELS, SCALE_OF, Seen, notes_of, seen_of
from .size import size_of
from .working import assumption_lines, shares_of

DECIBELS, REACH = "dB", "reach"
"""What a contrast is told in, beside the scales of `units.shown`."""
ALIKE_DB = 3.0
"""Half the power: two things that are surely closer than this are called alike."""
ALIKE_REACH = 1.1
"""So many times as far is called alike, where it is surely no more."""
UNTOLD = 0.97
"""A contrast that is still so much as wide as before anything was noted says nothing."""
DIFFERS, LEGS_DIFFER = 0.95, 0.99
"""Chance from which on blocks are said to differ, and the legs of a way, which nobody asked about."""
MAY_DIFFER = 0.8
"""By the Gaussian approximation, from which on it is looked at closely: that hides signs that are surely known."""
SHARE = 0.9
MOST_FORMS = 4
"""Blocks and their differences, up to which their marginals are scanned."""
FAR_OUT = 4.0
"""Standard deviations from nought from which on a marginal need not be scanned to know its sign."""


class Contrast(Frozen):
    """What one change of a factor does to the level, the better level first."""

    changes: tuple[Change, ...]
    """The change, and what it can only be told together with."""
    figure: Figure
    """Over places like those visited; of where they were, where it is told of that. dB."""
    chance: float
    """That it is better there."""
    elsewhere: float
    """The same at one place where nobody was yet."""
    runs: int
    manners: tuple[str, ...]
    """Of those runs."""
    places: int
    """At which both were noted."""
    there: bool = False
    """Whether it is told of where they were alone: the one place, or the way that both went until it broke."""
    scale: str = DECIBELS
    """What it is told in: decibels; how many times as far; else the scale that most was read on."""
    farther: Figure | None = None
    """How many times as far on the ways that were gone, where things broke."""
    chance_farther: float = 0.5
    """That it is farther at all."""
    seen: tuple[Seen, ...] = ()
    size: Figure | None = None
    """What it means on the scale that it is told in, at the places visited; None in decibels, and where steps are no sizes."""
    by_kind: tuple[tuple[str, Figure], ...] = ()
    """By each kind of note alone, where there are several."""
    by_manner: tuple[tuple[str, Figure], ...] = ()
    """By each manner of runs alone in which both were, where a day has several."""
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
        """Whether the interval of what it is told in leaves open which is better."""
        low, high = self.figure.interval if self.farther is None else self.farther.interval
        return low <= (0.0 if self.farther is None else 1.0) <= high

    @property
    def likely(self) -> float:
        """The chance of better, or of farther where it is told in that."""
        return self.chance if self.farther is None else self.chance_farther

    @property
    def alike(self) -> bool:
        """Whether they are surely as close as nobody would mind, by what it is told in."""
        if self.farther is None:
            return self.open and self.within_db <= ALIKE_DB
        low, high = self.farther.interval
        return low >= 1.0 / ALIKE_REACH and high <= ALIKE_REACH and not self.farther.bound

    @property
    def settled(self) -> bool:
        """Whether it is clear which is better, or that they are alike."""
        return not self.open or self.alike

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
        over = self.day.posterior.marginals([model.change(changes) for changes, _ in every], scanned=False)
        kept = [i for i, told in enumerate(over) if self._narrowed(every[i][0], told) or self._confounded(every[i][0])]
        there = {i: self._only_there(every[i][0]) for i in kept}
        forms = [model.here(every[i][0]) if there[i] else model.change(every[i][0]) for i in kept]
        rough = dict(zip(kept, self.day.posterior.marginals(forms, scanned=False), strict=True)) if kept else {}
        near = [i for i in kept if abs(rough[i].mean) < FAR_OUT * rough[i].sd][: MOST_FORMS * 4]
        looked = [forms[kept.index(i)] for i in near]
        scanned = dict(zip(near, self.day.posterior.marginals(looked), strict=True)) if near else {}
        told_of = rough | scanned
        return tuple(self._contrast(*every[i], there[i], told_of[i], over[i] if there[i] else told_of[i]) for i in kept)

    def _only_there(self, changes: Sequence[Change]) -> bool:
        """Whether it is told of where they were, and of other places apart from that: all was noted at one place, or where they broke along
        the way that both went."""
        on_way = self._scale(changes) == REACH and matched(self.day, changes) is not None
        return on_way or bool(self._alone(changes))

    def _alone(self, changes: Sequence[Change]) -> str:
        """The place, where all was noted at one; else empty."""
        places = {note.spot.key for note, _ in notes_of(self.day, changes[0])}
        return self._title(*places) if len(places) == 1 and self._shared_spots(changes) else ""

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

    def _contrast(
        self, changes: tuple[Change, ...], parted: bool, there: bool, told: Marginal, over: Marginal
    ) -> Contrast:
        """`told`: what it does where it is told of, as the day was noted; `over`: over places like those."""
        model = self.day.model
        if not self.judged.plain:
            told, over = self.judged.change(changes, here=there), self.judged.change(changes)
        scale = self._scale(changes)
        farther, chance_farther = self._farther(changes) if scale == REACH else (None, 0.5)
        behind, chance_behind = self._farther(_back(changes)) if scale == REACH else (None, 0.5)
        turned = float(told.quantile(0.5)) < 0.0 if farther is behind else farther is None or chance_farther < 0.5
        if behind is not None and turned:
            farther, chance_farther = behind, chance_behind
        if turned:
            changes, told, over = _back(changes), _turned(told), _turned(over)
        blocks, differ = self._blocks(changes)
        runs = {note.run for note, _ in notes_of(self.day, changes[0])}
        return Contrast(
            changes,
            self._figure(changes, told, there),
            chance=float(told.chance_above(0.0)),
            elsewhere=float(self.day.elsewhere(over).chance_above(0.0)),
            runs=len(runs),
            manners=tuple(dict.fromkeys(model.runs[i].manner for i in sorted(runs))),
            places=len(self._shared_spots(changes)),
            there=there,
            scale=scale,
            farther=farther,
            chance_farther=chance_farther,
            seen=tuple(seen_of(self.day, changes)),
            size=size_of(self.day, changes, scale),
            blocks=blocks,
            differ=differ,
            by_leg=bool(blocks) and blocks[0][0] in model.legs,
            parted=parted,
            alone=self._alone(changes),
        )

    # --- what it rests on

    def _level(self, run: int, factor: str) -> str:
        return self.day.model.runs[run].levels.get(factor, "")

    def _shared_spots(self, changes: Sequence[Change]) -> list[str]:
        both = notes_of(self.day, changes[0])
        mine = dict.fromkeys(note.spot.key for note, to in both if to)
        theirs = {note.spot.key for note, to in both if not to}
        return [key for key in mine if key in theirs]

    def _title(self, key: str) -> str:
        return next((title for place_id, title in self.titles.items() if key.endswith(f" {place_id}")), "")

    def _scale(self, changes: Sequence[Change]) -> str:
        """Decibels where levels were read, or a known step of power or pads says what a step of the scale is worth; how far, where
        things broke along a way; else the scale that most was read on."""
        both = notes_of(self.day, changes[0])
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
        return SCALE_OF.get(first, first)

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
        told = self.day.posterior.marginals(forms, scanned=False)
        if scanned and len(forms) <= MOST_FORMS and _surest(told[len(names) :]) > MAY_DIFFER:
            told = self.day.posterior.marginals(forms)
        blocks = tuple((name, plain_figure(name, one)) for name, one in zip(names, told, strict=False))
        return blocks, _surest(told[len(names) :]) > sure

    def _farther(self, changes: Sequence[Change]) -> tuple[Figure | None, float]:
        """How many times as far, and the chance that it is farther at all; nothing where no two runs are the same in all else, or all that
        is known is that it may be less."""
        of = matched(self.day, changes)
        if of is None:
            return None, 0.5
        ahead, behind = ([edges_of(self.day, run) for both in of.pairs for run in both[side]] for side in (0, 1))
        if any(good is None for good, _ in ahead) or any(lost is None for _, lost in behind):
            return None, 0.5
        at_least = any(lost is None for _, lost in ahead) or any(good is None for good, _ in behind)
        told, runs = farther(self.day, of), self.day.model.runs
        low, middle, high = np.exp(told.quantile([0.05, 0.5, 0.95])).tolist()
        names = sides(changes, self.names)
        lines = tuple(
            f"run {runs[run].number}: good to {show.distance(good) if good else 'nowhere noted'}, "
            f"{'not lost' if lost is None else 'lost by ' + show.distance(lost)}"
            for run in of.runs
            for good, lost in [edges_of(self.day, run)]
        )
        working = Working(
            lines,
            (("run to run, and between good and lost", f"{told.sd:.2f} in ln d"),),
            "ratio of the middles between last good and first lost; run to run and path exponent by the day’s one model",
            "On the way that was gone; a repeat with each makes it narrower.",
        )
        figure = Figure(
            f"{names[0]} against {names[1]}, how far",
            middle,
            middle * told.sd,
            "times as far",
            working,
            low=low,
            high=high,
            bound="at least" if at_least else "",
            digits=2 if high < 1.3 else 1,
        )
        return figure, float(told.chance_above(0.0))

    # --- in words

    def _figure(self, changes: tuple[Change, ...], told: Marginal, there: bool) -> Figure:
        names = sides(changes, self.names)
        model, day = self.day.model, self.day
        form = model.here(changes) if there else model.change(changes)
        figure = plain_figure(f"{names[0]} over {names[1]}", told)
        runs = [
            [model.runs[i].number for i in model.order if self._level(i, changes[0].factor) == level]
            for level in (changes[0].to, changes[0].since)
        ]
        lines = [
            f"{name}  run{'s' if len(mine) != 1 else ''} {', '.join(map(str, mine))}"
            for name, mine in zip(names, runs, strict=True)
        ]
        spots = len(self._shared_spots(changes))
        lines += [
            f"{show.count(spots, 'place')} at which both were noted" if spots else "along one way, until it broke",
            *(f"{seen.scale}: {seen.words}" for seen in seen_of(self.day, changes)),
            f"chance of better {show.percent(float(told.chance_above(0.0)))}; "
            f"at one other place {show.percent(float(day.elsewhere(told).chance_above(0.0)))}",
            *([f"{show.count(len(self.judged.possible), 'mistake')} weighed with it"] if self.judged.suspected else []),
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


def _surest(told: Sequence[Marginal]) -> float:
    """The greatest chance that one of some differences is on its side of nought."""
    above = [float(one.chance_above(0.0)) for one in told]
    return max((max(chance, 1.0 - chance) for chance in above), default=0.0)


def _back(changes: Sequence[Change]) -> tuple[Change, ...]:
    """Taken back."""
    return tuple(Change(c.factor, c.since, c.to) for c in changes)


def _turned(told: Marginal) -> Marginal:
    at: Floats = -told.at[::-1]
    return Marginal(at, told.density[::-1])
