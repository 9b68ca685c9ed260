"""Small days of notes, one-sided ones among them, whose posteriors a general MCMC library has sampled (`by_sampling`).

Each is a model with what is asked of it: linear forms in dB. Latents: what each of two things adds, each run, each place, how each
thing meets each place, the thresholds of whoever noted.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np

from tallmast.physics.nested_laplace import Linear, Notes

Day = tuple[Notes, dict[str, Linear]]
DAYS: dict[str, Callable[[], Day]] = {}
KEPT = Path(__file__).with_name("sampled.json")
"""What the sampler found: by day and what was asked, these quantiles and the chance of more than 0."""
SHARES = (0.05, 0.25, 0.5, 0.75, 0.95)


def day(make: Callable[[], Day]) -> Callable[[], Day]:
    DAYS[make.__name__] = make
    return make


class Field:
    """Runs of A and B over places."""

    def __init__(self, order: str) -> None:
        self.notes, self.order = Notes(), order
        n = self.notes
        self.run = n.scale("run", 0.7, 0.7)
        self.meets = n.scale("meets", 2.0, 0.7)
        self.places = n.scale("places", 8.0, 0.5)
        self.common = n.latent("common", 0.0, 30.0)

    def thing(self, name: str) -> Linear:
        return self.notes.latent(("thing", name), 0.0, 5.0)

    def level(self, run: int, place: int) -> Linear:
        n, name = self.notes, self.order[run]
        at = n.latent(("place", place), sd_by=self.places, block=place)
        met = n.latent(("meets", name, place), sd_by=self.meets, block=place)
        return self.common + self.thing(name) + n.latent(("run", run), sd_by=self.run) + at + met

    def at_distance(self, run: int, metres: float) -> Linear:
        """On a way whose law is not known, without places of its own."""
        n = self.notes
        law = n.latent("n", 3.0, 0.6).times(-10.0 * np.log10(metres / 100.0))
        return self.common + self.thing(self.order[run]) + n.latent(("run", run), sd_by=self.run) + law

    def asked(self, **more: Linear) -> dict[str, Linear]:
        return {"A over B": self.thing("A") - self.thing("B"), **more}


def _grades(field: Field, graded: dict[tuple[int, int], int], most: int) -> None:
    """Grades 0 to `most`, between thresholds with a latent in their middle and gaps of their own."""
    n = field.notes
    gap, eps = n.scale("gap", 5.0, 0.42), n.scale("grader", 2.0, 0.5)
    middle = n.latent("middle", 0.0, 30.0)
    gaps = [n.latent(("gap", i), 1.0, 0.35, mean_by=gap, sd_by=gap) for i in range(most - 1)]

    def threshold(j: int) -> Linear:
        out = middle
        for i, width in enumerate(gaps):
            out = out + width.times(float(np.clip(j - i, 0, 1)) - float(np.clip((most - 1) / 2 - i, 0, 1)))
        return out

    for (run, place), grade in graded.items():
        level = field.level(run, place)
        low = threshold(grade - 1) - level if grade > 0 else None
        high = threshold(grade) - level if grade < most else None
        n.lies_between(low, high, spread=eps)


def _levels(field: Field, read: dict[tuple[int, int], float], floor: float | None = None) -> None:
    eps = field.notes.scale("reading", 1.5, 0.7)
    for (run, place), value in read.items():
        form = field.level(run, place)
        if floor is not None and value <= floor:
            field.notes.lies_between(None, Linear({}, floor) - form, spread=eps)
        else:
            field.notes.reads(form, value, 1.0 / 12.0, spread=eps)


@day
def levels_at_four_places() -> Day:
    field = Field("ABBA")
    table = [[-71, -80, -76, -90], [-75, -83, -83, -93], [-74, -85, -81, -92], [-70, -79, -78, -88]]
    _levels(field, {(i, k): float(v) for i, row in enumerate(table) for k, v in enumerate(row)})
    return field.notes, field.asked()


@day
def levels_lost_below_a_floor() -> Day:
    """B falls below what can be read at two places of four."""
    field = Field("ABBA")
    table = [[-71, -80, -76, -90], [-75, -95, -83, -95], [-74, -95, -81, -95], [-70, -79, -78, -88]]
    _levels(field, {(i, k): float(v) for i, row in enumerate(table) for k, v in enumerate(row)}, floor=-95.0)
    return field.notes, field.asked()


@day
def grades_apart() -> Day:
    """A is better at each of three places, in both rounds."""
    field = Field("ABBA")
    table = [[4, 2, 3], [3, 1, 1], [2, 1, 2], [4, 3, 3]]
    _grades(field, {(i, k): v for i, row in enumerate(table) for k, v in enumerate(row)}, 4)
    return field.notes, field.asked()


@day
def grades_mixed() -> Day:
    field = Field("ABBA")
    table = [[4, 2, 3], [3, 3, 1], [3, 2, 3], [4, 2, 2]]
    _grades(field, {(i, k): v for i, row in enumerate(table) for k, v in enumerate(row)}, 4)
    return field.notes, field.asked()


@day
def grades_at_the_top() -> Day:
    """A has the best grade everywhere: only at least."""
    field = Field("ABBA")
    table = [[4, 4, 4], [3, 2, 3], [2, 3, 3], [4, 4, 4]]
    _grades(field, {(i, k): v for i, row in enumerate(table) for k, v in enumerate(row)}, 4)
    return field.notes, field.asked()


def _heard(field: Field, run: int, place: int, heard: bool, threshold: Linear) -> None:
    eps = field.notes.scale("hearing", 1.0, 0.8)
    over = field.level(run, place) - threshold
    field.notes.lies_between(None if heard else over, over if heard else None, 0.25, spread=eps)


@day
def heard_or_not() -> Day:
    """A was heard at five of six places, B at two, twice each."""
    field = Field("ABBA")
    threshold = field.notes.latent("threshold", 0.0, 30.0)
    for i, heard in enumerate(("111110", "100100", "100100", "111110")):
        for k, h in enumerate(heard):
            _heard(field, i, k, h == "1", threshold)
    return field.notes, field.asked()


@day
def heard_by_a_known_threshold() -> Day:
    """Heard nearer, lost farther, with a budget that speaks of plenty: the margin where it was lost."""
    field = Field("A")
    n = field.notes
    eps = n.scale("hearing", 1.0, 0.8)
    budget = n.latent("budget", 40.0, 6.0)
    shadow = [n.latent(("shadow", k), 0.0, 4.5) for k in range(3)]

    def margin(k: int, far: float) -> Linear:
        return field.thing("A") + budget + shadow[k] + n.latent("n", 3.0, 0.6).times(-10.0 * np.log10(far))

    for k, (far, heard) in enumerate(((2.0, True), (6.0, True), (8.0, False))):
        over = margin(k, far)
        n.lies_between(None if heard else over, over if heard else None, 1.25, spread=eps)
    return n, {"margin where it was lost": margin(2, 8.0), "margin nearer": margin(1, 6.0)}


def _reached(field: Field, reaches: list[tuple[float, float | None]]) -> None:
    """Good to here, lost by there; a run that broke farther was heard where others broke."""
    n = field.notes
    eps = n.scale("hearing", 1.0, 0.8)
    threshold = n.latent("threshold", 0.0, 30.0)
    for i, (good, lost) in enumerate(reaches):
        near = field.at_distance(i, good) - threshold
        far = None if lost is None else field.at_distance(i, lost) - threshold
        n.lies_between(far, near, spread=eps)


@day
def reaches_apart() -> Day:
    field = Field("ABBA")
    _reached(field, [(310.0, 320.0), (200.0, 208.0), (196.0, 204.0), (322.0, 330.0)])
    return field.notes, field.asked()


@day
def reaches_at_least() -> Day:
    """A ended before it broke."""
    field = Field("ABBA")
    _reached(field, [(310.0, None), (200.0, 208.0), (196.0, 204.0), (310.0, None)])
    return field.notes, field.asked()


def _rates(field: Field, read: dict[tuple[int, int], float], most: float) -> None:
    n = field.notes
    eps, unit = n.scale("rate", 2.0, 0.6), n.scale("dB a logit", 4.2, 0.42)
    zero = n.latent("rate's middle", 0.0, 30.0)
    for (run, place), rate in read.items():
        form = field.level(run, place) - zero
        share = rate / most
        if share >= 0.95:
            n.lies_between(None, form, spread=eps, high_by=-float(np.log(0.95 / 0.05)), unit=unit)
        else:
            off = (0.03 * share + 0.004) / (share * (1.0 - share))
            n.reads(form, float(np.log(share / (1.0 - share))), off * off, spread=eps, unit=unit)


@day
def one_spot_by_rate() -> Day:
    field = Field("ABABAB")
    _rates(field, {(i, 0): v for i, v in enumerate((21.0, 1.2, 24.0, 0.9, 22.0, 1.6))}, 54.0)
    here = field.notes.latent(("meets", "A", 0)) - field.notes.latent(("meets", "B", 0))
    return field.notes, field.asked(here=field.asked()["A over B"] + here)


@day
def rates_half_at_the_ceiling() -> Day:
    field = Field("ABBA")
    rows = [[12.0, 11.0, 14.0, 30.0], [20.0, 19.0, 18.0, 30.0], [19.0, 21.0, 17.0, 30.0], [12.5, 10.0, 13.0, 30.0]]
    _rates(field, {(i, k): v for i, row in enumerate(rows) for k, v in enumerate(row)}, 30.0)
    return field.notes, field.asked()


@day
def dropouts() -> Day:
    """Two flights each, counted over a minute at three stretches, with a latent for each count."""
    field = Field("ABBA")
    n = field.notes
    more, steep = n.scale("more than Poisson", 1.5, 0.6), n.scale("steepness", 0.2, 0.42)
    zero = n.latent("rate's zero", 0.0, 30.0)
    for i, row in enumerate(([11, 3, 17], [5, 3, 6], [6, 3, 7], [13, 2, 15])):
        for k, count in enumerate(row):
            form = field.level(i, k) - zero + n.latent(("moment", i, k), sd_by=more, block=k)
            n.counts(form, count, 1.0, steep)
    return n, field.asked()


@day
def two_kinds_at_once() -> Day:
    """Grades and levels of the same runs and places."""
    field = Field("ABBA")
    _levels(
        field,
        {
            (i, k): v
            for i, row in enumerate(([-71, -80], [-75, -84], [-76, -83], [-72, -79]))
            for k, v in enumerate(row)
        },
    )
    _grades(field, {(0, 2): 3, (1, 2): 1, (2, 2): 2, (3, 2): 3, (0, 0): 4, (1, 0): 3, (2, 0): 3, (3, 0): 4}, 4)
    return field.notes, field.asked()
