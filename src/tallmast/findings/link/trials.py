"""Two on one band as it was tried: how far the wanted one goes before another breaks it, reckoned and as it was, with its repeats; what that says
of the pair of antennas and of the receiver's filter."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna, Neighbour, Trial
from tallmast.physics.decibels import Floats
from tallmast.physics.statistics import coverage_factor
from tallmast.units import show

from ..figure import Check, Figure, Working
from .budget import Ask
from .falls import Falls, reach_of
from .margin import Margin

ONE_U_DB = 3.3
"""Of a single break, as a level: packets, fading, who calls it broken. Of several their own spread, pooled with this."""
PRIOR_DEGREES = 3.0
SLOPE_SHARE = 0.12
"""Standard uncertainty of how far a level falls between two near distances, a share of it."""
DRAWN = 60


class Breaks(Frozen):
    """How far the wanted one goes from home before a neighbour breaks it there."""

    distance_m: Floats
    over_db: Floats
    """Wanted over the other along the way, and half of its interval: all [n]."""
    half_db: Floats
    at: Figure | None
    """Where it is what is needed, km; None where the places don't tell how the level falls."""


class Tried(Frozen):
    """One trial: antenna at home, how the other sent, its channel; as a level at home."""

    trial: Trial
    antenna: Antenna
    neighbour: Neighbour
    """As it sent then."""
    level: Figure
    """Of the wanted one where it broke, against that at the place to be reached, dB: the lower, the better they were parted."""
    at_m: float
    """In the mean of their logarithms."""

    @property
    def words(self) -> str:
        spaced = f", {show.frequency(self.neighbour.spacing_hz)} off" if self.neighbour.spacing_hz else ""
        return f"{self.antenna.name} against {self.neighbour.polarization}{spaced}"

    @property
    def times(self) -> int:
        return len(self.trial.broke_m)


class Compared(Frozen):
    """One trial over another of the same neighbour."""

    better: Tried
    other: Tried
    figure: Figure
    """So much better it parts them."""
    of_filter: bool
    """Nothing but the channel differed: it is the receiver's filter."""

    @property
    def alike_channel(self) -> bool:
        return self.better.neighbour.spacing_hz == self.other.neighbour.spacing_hz

    @property
    def told(self) -> bool:
        return self.figure.interval[0] > 0.0


def breaks_of(ask: Ask, margin: Margin, over: Figure, needed_db: float) -> Breaks:
    """Along the way out, heard at home: the wanted one weakens, the other stays as strong."""
    falls = margin.falls
    spare = replace(over, value=over.value - needed_db, low=None, high=None)
    d = np.geomspace(max(falls.d[0], 0.02 * ask.distance_m), falls.d[-1], DRAWN)
    left, half = falls.left(spare)
    at = np.log(falls.d)
    found = reach_of(falls, spare, name="it breaks at")
    return Breaks(
        d,
        np.interp(np.log(d), at, left + needed_db),
        np.interp(np.log(d), at, half),
        found.figure if found is not None else None,
    )


def tried(ask: Ask, falls: Falls) -> tuple[Tried, ...]:
    """Every trial whose neighbour and antenna are noted, in the order they were made; none where the places don't tell how the level falls.
    Of those, `untold_checks` has the word."""
    if falls.trouble:
        return ()
    out = []
    for trial in ask.evidence.all(Trial):
        neighbour = ask.evidence.get(Neighbour, trial.neighbour_id)
        antenna = ask.evidence.antenna(trial.antenna_id)
        if neighbour is None or antenna is None or not trial.broke_m:
            continue
        then: dict[str, object] = {"polarization": trial.sent_as} if trial.sent_as else {}
        if trial.spacing_hz is not None:
            then["spacing_hz"] = trial.spacing_hz
        out.append(_tried(ask, falls, trial, antenna, neighbour.revised(**then)))
    return tuple(out)


def _tried(ask: Ask, falls: Falls, trial: Trial, antenna: Antenna, neighbour: Neighbour) -> Tried:
    d = np.asarray(trial.broke_m, dtype=float)
    fallen = falls.shape(np.append(d, ask.distance_m))[0]
    levels = fallen[:-1] - fallen[-1]
    n, degrees = len(d), len(d) - 1.0
    squares = float(np.sum((levels - levels.mean()) ** 2))
    spread = math.sqrt((squares + PRIOR_DEGREES * ONE_U_DB**2) / (degrees + PRIOR_DEGREES))
    lines = (
        f"broke at {show.join([show.distance(v) for v in trial.broke_m])}",
        f"spread of one {show.decibel(spread)}, {show.count(n, 'time')}",
    )
    working = Working(
        lines, (("repeats", show.decibel(spread / math.sqrt(n), 2)),), "level along the way, as the Link has it"
    )
    figure = Figure(
        "level where it broke", float(levels.mean()), spread / math.sqrt(n), "dB", working, degrees + PRIOR_DEGREES
    )
    return Tried(trial, antenna, neighbour, figure, float(np.exp(np.log(d).mean())))


def compared(found: Sequence[Tried]) -> tuple[Compared, ...]:
    """Every two trials of one neighbour, the one that parts better first."""
    out = []
    for i, one in enumerate(found):
        for other in found[i + 1 :]:
            if one.trial.neighbour_id != other.trial.neighbour_id:
                continue
            better, worse = (one, other) if one.level.value <= other.level.value else (other, one)
            gap = worse.level.value - better.level.value
            u = math.hypot(one.level.u, other.level.u, SLOPE_SHARE * gap)
            below = one.level.u**4 / one.level.degrees + other.level.u**4 / other.level.degrees
            degrees = u**4 / below if below > 0 else math.inf
            lines = (
                f"{better.words}: {show.distance(better.at_m)}",
                f"{worse.words}: {show.distance(worse.at_m)}",
                f"the wanted one falls by {show.decibel(gap)} between",
            )
            parts = (
                (better.words, show.decibel(better.level.u, 1)),
                (worse.words, show.decibel(worse.level.u, 1)),
                ("how it falls", show.decibel(SLOPE_SHARE * gap, 1)),
            )
            working = Working(lines, parts, "C/I where it broke was the same", "By where the wanted one broke.")
            same = (
                better.antenna.id == worse.antenna.id and better.neighbour.polarization == worse.neighbour.polarization
            )
            by_filter = same and better.neighbour.spacing_hz != worse.neighbour.spacing_hz
            out.append(Compared(better, worse, Figure("parts better", gap, u, "dB", working, degrees), by_filter))
    return tuple(sorted(out, key=lambda one: -one.figure.value))


def filter_of(neighbour: Neighbour, found: Sequence[Compared]) -> Figure | None:
    """What the receiver takes out at the neighbour's spacing, as it was tried against the same channel; None where it was not."""
    for one in found:
        pair = one.better.neighbour, one.other.neighbour
        if (
            one.of_filter
            and neighbour.id == pair[0].id
            and pair[0].spacing_hz == neighbour.spacing_hz
            and not pair[1].spacing_hz
        ):
            return one.figure
    return None


def trial_checks(
    found: Sequence[Tried], pairs: Sequence[Compared], reckoned: Mapping[str, Figure], focus: Antenna
) -> list[Check]:
    """Which parts better, told or not; and whether it broke where it was reckoned to, by neighbour."""
    out = []
    for one in [pair for pair in pairs if pair.alike_channel][:3]:
        once = min(one.better.times, one.other.times) == 1
        if one.told:
            text = f"{one.better.words} parts better than {one.other.words} by {one.figure.text}"
            out.append(
                Check(
                    "holds", text, one.figure, "Each was flown once: again in turn would tell it surer." if once else ""
                )
            )
        else:
            text = f"{one.better.words} and {one.other.words} can’t be told apart within {show.decibel(one.figure.value + one.figure.half, 0)}"
            out.append(Check("open", text, one.figure, "Fly each again, in turn, with nothing else changed."))
    as_noted = [t for t in found if t.antenna.id == focus.id and not t.trial.sent_as and t.trial.spacing_hz is None]
    for mine in as_noted:
        at = reckoned.get(mine.neighbour.id)
        if at is None:
            continue
        low, high = at.interval
        # As distances: the trial's own spread beside what was reckoned.
        wide = 10.0 ** (coverage_factor(math.inf) * mine.level.u / 20.0)
        fits = low * 1e3 / wide <= mine.at_m <= high * 1e3 * wide
        text = f"{mine.neighbour.name} broke it at {show.distance(mine.at_m)}, reckoned {at.text}"
        look = "Look at the axial ratios of both ends, at what stands near and reflects, and at the filter as noted."
        out.append(Check("holds" if fits else "disagrees", text, at, "" if fits else look))
    return out


def untold_checks(ask: Ask, falls: Falls) -> list[Check]:
    """Trials of which nothing can be told, and why."""
    noted = ask.evidence.all(Trial)
    if noted and falls.trouble:
        text = f"{show.count(len(noted), 'trial')} against another can’t be compared"
        return [Check("open", text, None, f"{show.upper_first(falls.trouble)}.")]
    out = []
    for trial in noted:
        gone = [
            what
            for what, there in (
                ("who else sent", ask.evidence.get(Neighbour, trial.neighbour_id)),
                ("the antenna that listened at home", ask.evidence.antenna(trial.antenna_id)),
                ("where it broke", trial.broke_m or None),
            )
            if there is None
        ]
        if gone:
            out.append(Check("open", "a trial against another can’t be compared", None, f"Say {show.join(gone)}."))
    return out


def trial_words(pairs: Sequence[Compared]) -> str:
    """The pair of antennas that parts best, and what the filter takes out, as sentences; nothing where nothing was compared."""
    out = []
    first = next((one for one in pairs if one.alike_channel), None)
    if first is not None and first.told:
        out.append(f"{first.better.words} parts them best, {first.figure.text} better than {first.other.words}.")
    elif first is not None:
        within = show.decibel(first.figure.value + first.figure.half, 0)
        out.append(f"Which pair parts them better is not told yet: within {within} they are alike.")
    for one in pairs:
        if one.of_filter:
            spacing = show.frequency(max(one.better.neighbour.spacing_hz, one.other.neighbour.spacing_hz))
            out.append(f"{spacing} off, the receiver takes out {one.figure.text} by trial.")
            break
    return " ".join(out)
