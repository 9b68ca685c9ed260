"""The kinds of reading, one row each: what a note of it says of the level, and what of its scale is unknown."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from functools import cached_property

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.physics.nested_laplace import NONE, Linear, Notes

from . import priors
from .level import LevelModel
from .noted import HEARD, S9_UNITS, Note
from .priors import Learned

FULL = 0.95
"""Of the most a rate can be: from here on only “at least”."""
LOGITS = 2.0 * math.log(FULL / (1.0 - FULL))
"""What a full scale of dB is, in logits."""
NEXT_TO_NOTHING = 0.004
MORE_THAN_SEEN = 1.5
"""The most a rate may be, against the most that was seen, where nothing says that this was a ceiling."""
GRAIN_OF_RATE = 0.03
IMPLIED = 8
"""Of the readings that were heard, so many of the weakest say where the threshold is not."""


Key = tuple[str, str, str, str]
RATES = ("bit rate", "packet rate", "usable")


class Source(Frozen, eq=True):
    """What a term of the model comes from."""

    kind: str
    run: int


class Telling:
    """A day's notes put in as likelihoods of their levels."""

    def __init__(self, notes: Notes, model: LevelModel, said: Sequence[Note]) -> None:
        self.notes, self.model, self.said = notes, model, said
        moments: dict[tuple[int, str, int], set[tuple[str, str]]] = {}
        for note in said:
            moments.setdefault((note.run, note.spot.key, note.attempt), set()).add((note.kind, note.end))
        self._shared = {key for key, kinds in moments.items() if len(kinds) > 1}

    def tell(self) -> None:
        for note in self.said:
            if (note.run, note.end) not in self.model.broke and note.spot.key not in self._full:
                self.notes.source = Source(note.kind, note.run)
                KINDS[note.kind](self, note)
        for (run, end), (good, lost) in self.model.broke.items():
            self.notes.source = Source(HEARD, run)
            self._reach(run, end, good, lost)
        self._implied()

    def level(self, note: Note) -> Linear:
        """With the fade of the moment, where several notes share one."""
        out = self.model.level(note.run, note.end, note.spot, note.leg)
        moment = note.run, note.spot.key, note.attempt
        if moment in self._shared:
            block = self.model._block(note.spot)
            out = out + self.notes.latent(
                ("moment", *moment), sd_by=self._learned("moment", priors.MOMENT), block=block
            )
        return out

    def _learned(self, key: object, of: Learned) -> int:
        return self.notes.scale(key, of.median, of.log_sd)

    def scale(self, note: Note) -> Key:
        """Whose scale a note is on: kind, end, whose display, who listened."""
        return note.kind, note.end, note.read_on, self.model.runs[note.run].levels.get("listener", "")

    @cached_property
    def on_scale(self) -> dict[Key, list[Note]]:
        """The notes of each scale."""
        out: dict[Key, list[Note]] = {}
        for note in self.said:
            out.setdefault(self.scale(note), []).append(note)
        return out

    @cached_property
    def _tops(self) -> dict[Key, int]:
        """The highest step of each scale that goes in steps."""
        stepped = {key: mine for key, mine in self.on_scale.items() if key[0] in STEPPED}
        return {key: max(math.ceil(max(n.value for n in mine)), 5) for key, mine in stepped.items()}

    def middle(self, key: Key) -> Linear:
        """Where a scale lies: anywhere."""
        return self.notes.latent(("middle", key), priors.TYPICAL_DBM if self.model.in_dbm else 0.0, priors.ANYTHING_DB)

    # --- in decibels

    def zero(self, note: Note) -> Linear:
        if note.zero_db is None:
            return Linear()
        sd = note.zero_db if math.isfinite(note.zero_db) else priors.ANYTHING_DB
        return self.notes.latent(("zero", note.read_on, note.end), 0.0, max(sd, 1e-3))

    def read_level(self, note: Note, grain_db: float, spread: Learned) -> None:
        form = self.level(note) + self.zero(note)
        scale = self._learned(("reads", note.kind, note.read_on), spread)
        if note.bound:
            self._bounded(form - note.value, note.bound == "at least", note.u**2, scale)
        else:
            self.notes.reads(form, note.value, note.u**2 + grain_db**2 / 12.0, spread=scale)

    def _bounded(
        self, over: Linear, at_least: bool, variance: float, spread: int, by: float = 0.0, unit: int = NONE
    ) -> None:
        """That what is over an edge is above it, or below."""
        if at_least:
            self.notes.lies_between(None, over, variance, spread=spread, high_by=by, unit=unit)
        else:
            self.notes.lies_between(over, None, variance, spread=spread, low_by=by, unit=unit)

    def s_units(self, note: Note) -> None:
        key = self.scale(note)
        form = self.level(note) - self.notes.latent(("S9", key), 0.0, priors.ANYTHING_DB)
        spread = self._learned(("reads", key), priors.READING)
        over = note.value - S9_UNITS
        if over > 0.0:
            self.notes.reads(form, over * priors.S_UNIT.median, 1.0 / 12.0, spread=spread)
        else:
            unit = self._learned(("dB an S unit", key), priors.S_UNIT)
            self.notes.reads(form, over, 1.0 / 12.0, spread=spread, unit=unit)

    # --- in steps

    def threshold(self, key: Key, step: int) -> Linear:
        """The level from which on a scale says `step` or more."""
        gap = self._learned(("gap", key), priors.GAP)
        out = self.middle(key)
        steps = self._tops[key]
        middle = (steps - 1) / 2.0
        for i in range(steps - 1):
            width = self.notes.latent(("gap", key, i), 1.0, priors.UNEVEN, mean_by=gap, sd_by=gap)
            share = float(np.clip(step - 1 - i, 0, 1)) - float(np.clip(middle - i, 0, 1))
            if share:
                out = out + width.times(share)
        return out

    def steps(self, note: Note) -> None:
        key = self.scale(note)
        level, top = self.level(note), self._tops[key]
        spread = self._learned(("grader", key), priors.GRADER)
        step = int(note.value)
        if note.value != step:
            return self._between_steps(note, key)
        low = self.threshold(key, step) - level if step >= 1 else None
        high = self.threshold(key, step + 1) - level if step < top else None
        return self.notes.lies_between(low, high, spread=spread)

    def _between_steps(self, note: Note, key: Key) -> None:
        """A mean of many grades: linear from step to step."""
        gap, spread = self._learned(("gap", key), priors.GAP), self._learned(("grader", key), priors.GRADER)
        middle = self.threshold(key, 1)
        self.notes.reads(self.level(note) - middle, note.value - 0.5, 0.25, spread=spread, unit=gap)

    # --- on curves

    @cached_property
    def _full(self) -> frozenset[str]:
        """Spots at which every note is a rate at its ceiling: they say nothing of what differs, and should not set what a decibel is
        worth on the scale either."""
        rates: dict[str, bool] = {}
        for n in self.said:
            full = n.kind in RATES and n.value >= FULL * self.ceilings[self.scale(n)] > 0.0
            rates[n.spot.key] = rates.get(n.spot.key, True) and full
        full_spots = frozenset(key for key, full in rates.items() if full)
        return full_spots if len(full_spots) < len(rates) else frozenset()

    @cached_property
    def ceilings(self) -> Mapping[Key, float]:
        """The most of each scale of rates: 100 of a share; what several spots or runs showed as the most alike; else more than was seen."""
        out = {}
        for key, mine in self.on_scale.items():
            if key[0] not in RATES:
                continue
            most = max(n.value for n in mine)
            again = sum(n.value >= most * (1.0 - 1e-9) for n in mine) > 1 or any(n.bound == "at least" for n in mine)
            out[key] = 100.0 if key[0] != "bit rate" else most if again or most <= 0.0 else most * MORE_THAN_SEEN
        return out

    def rate(self, note: Note) -> None:
        key = self.scale(note)
        most = max(self.ceilings[key], 1e-9)
        form = self.level(note) - self.middle(key)
        unit = self._learned(("dB a logit", key), Learned(priors.FULL_SCALE.median / LOGITS, priors.FULL_SCALE.log_sd))
        spread = self._learned(("rate", key), priors.RATE)
        share = note.value / most
        if share >= FULL:
            self._bounded(form, True, 0.0, spread, -LOGITS / 2.0, unit)
        elif share <= NEXT_TO_NOTHING:
            edge = -math.log(NEXT_TO_NOTHING / (1.0 - NEXT_TO_NOTHING))
            self._bounded(form, False, 0.0, spread, edge, unit)
        else:
            off = (GRAIN_OF_RATE * share + NEXT_TO_NOTHING) / (share * (1.0 - share))
            self.notes.reads(form, math.log(share / (1.0 - share)), off**2, spread=spread, unit=unit)

    def delay(self, note: Note) -> None:
        key = self.scale(note)
        form = self.level(note) - self.middle(key)
        unit, spread = self._learned(("dB a delay", key), priors.DELAY), self._learned(("rate", key), priors.RATE)
        known = [n.value for n in self.on_scale[key] if 0.0 < n.value < math.inf]
        usual = float(np.median(known)) if known else 1.0
        if not 0.0 < note.value < math.inf:
            longest = max(known, default=usual)
            return self._bounded(form, False, 0.0, spread, math.log(longest / usual), unit)
        return self.notes.reads(form, -math.log(note.value / usual), GRAIN_OF_RATE**2, spread=spread, unit=unit)

    def dropouts(self, note: Note) -> None:
        key = self.scale(note)
        form = self.level(note) - self.middle(key)
        more = self._learned(("more than chance", key), priors.MORE_THAN_CHANCE)
        own = ("count", note.run, note.end, note.spot.key, note.attempt)
        form = form + self.notes.latent(own, sd_by=more, block=self.model._block(note.spot))
        steep = self._learned(("steep", key), priors.STEEP)
        self.notes.counts(form, round(note.value * note.minutes), note.minutes, steep)

    def counts(self, note: Note) -> None:
        """A display of its own, linear in the level as far as anybody knows."""
        key = self.scale(note)
        known = [n.value for n in self.on_scale[key]]
        across = max(max(known) - min(known), 1e-9)
        form = self.level(note) - self.middle(key)
        unit = self._learned(("dB a count", key), Learned(priors.COUNTS_RANGE_DB / across, priors.COUNTS))
        spread = self._learned(("reads", key), priors.READING)
        self.notes.reads(form, note.value - float(np.mean(known)), (across / 100.0) ** 2, spread=spread, unit=unit)

    # --- heard or not

    def hearing(self, run: int, end: str) -> Linear:
        """The weakest level that is heard at an end, as it listened in a run: the lowest step of its grades, where it graded."""
        listener = self.model.runs[run].levels.get("listener", "")
        graded = self._grades_of(run, end)
        if graded is not None:
            return self.threshold(graded, 1)
        return self.notes.latent(
            ("threshold", end, listener), priors.TYPICAL_DBM - 20.0 if self.model.in_dbm else 0.0, priors.ANYTHING_DB
        )

    @cached_property
    def _graded(self) -> list[Key]:
        return [key for key in self.on_scale if key[0] in LOST_BELOW_ONE]

    def _grades_of(self, run: int, end: str) -> Key | None:
        """The grades on which a run was heard at an end, else those that others were by the same listener."""
        listener = self.model.runs[run].levels.get("listener", "")
        graded = [k for k in self._graded if k[1] == end and k[3] == listener]
        mine = [k for k in graded if any(n.run == run for n in self.on_scale[k])]
        return next(iter(mine or graded), None)

    def heard(self, note: Note) -> None:
        """Where the run was graded, that nothing was heard is the lowest grade, with a grader's scatter."""
        graded = self._grades_of(note.run, note.end)
        over = self.level(note) - self.hearing(note.run, note.end)
        if graded is None:
            self._heard(over, note.value > 0.0)
        else:
            self._bounded(over, note.value > 0.0, 0.0, self._learned(("grader", graded), priors.GRADER))

    def _heard(self, over: Linear, heard: bool) -> None:
        self._bounded(over, heard, priors.HEARING_DB**2, self._learned("hearing", priors.HEARING))

    def _reach(self, run: int, end: str, good: float | None, lost: float | None) -> None:
        """Good to here, lost by there: one interval along the way; and heard where others broke nearer, which is told of the same
        shadows. Without that an end of the field names the better in few days."""
        threshold = self.hearing(run, end)
        spread = self._learned("hearing", priors.HEARING)

        def over(distance_m: float) -> Linear:
            return self.model.level_along(run, end, distance_m) - threshold

        low = over(lost) if lost is not None else None
        high = over(good) if good is not None else None
        self.notes.lies_between(low, high, priors.HEARING_DB**2, spread=spread)
        manner = self.model.runs[run].manner
        for (other, at), (_, there) in self.model.broke.items():
            same = other != run and at == end and self.model.runs[other].manner == manner
            if same and there is not None and good is not None and there < good:
                self._heard(over(there), True)

    def _implied(self) -> None:
        """Whatever was read was heard: where others of its end and listener were not, that says where the threshold is not."""
        lost = {(n.end, self._listener(n)) for n in self.said if n.kind == HEARD and n.value <= 0.0}
        for key in lost:
            mine = [
                n
                for n in self.said
                if ((n.end, self._listener(n)) == key and n.kind in IMPLIES_HEARD and n.value > 0.0)
                or ((n.end, self._listener(n)) == key and n.kind in ("level", "cell", "S units"))
            ]
            for kind in dict.fromkeys(n.kind for n in mine):
                weakest = sorted((n for n in mine if n.kind == kind), key=lambda n: n.value)[:IMPLIED]
                for n in weakest:
                    self.notes.source = Source(HEARD, n.run)
                    self._heard(self.level(n) - self.hearing(n.run, n.end), True)

    def _listener(self, note: Note) -> str:
        return self.model.runs[note.run].levels.get("listener", "")


STEPPED = ("readability", "picture grade", "bars")
LOST_BELOW_ONE = ("readability", "picture grade")
"""Grades of which the lowest step is that anything is there at all."""
IMPLIES_HEARD = ("bit rate", "packet rate", "bars", "counts", "usable")


KINDS: Mapping[str, Callable[[Telling, Note], None]] = {
    "level": lambda t, n: t.read_level(n, 1.0, priors.READING),
    "cell": lambda t, n: t.read_level(n, 0.0, priors.CELL),
    "S units": Telling.s_units,
    "readability": Telling.steps,
    "picture grade": Telling.steps,
    "bars": Telling.steps,
    "bit rate": Telling.rate,
    "packet rate": Telling.rate,
    "usable": Telling.rate,
    "delay": Telling.delay,
    "dropouts": Telling.dropouts,
    "counts": Telling.counts,
    "warning": Telling.counts,
    "fade depth": lambda t, n: t.counts(replace(n, value=-n.value)),
    HEARD: Telling.heard,
}
"""Each kind of reading, and how it is told."""
