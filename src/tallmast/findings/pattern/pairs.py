"""Which two antennas on one receiver cover what flies, over all its attitudes and bearings; and what a bank costs each."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import CIRCULAR, Antenna, Craft, Log, Mounted
from tallmast.physics import diversity
from tallmast.physics.attitude import axes
from tallmast.physics.decibels import Floats
from tallmast.units import show

from ..figure import Figure, Working
from .antenna import AntennaPattern
from .whole import Known, known_wave

MOUNTS: dict[Mounted, tuple[float, float, float]] = {
    "standing": (0.0, 0.0, 0.0),
    "hanging": (0.0, 0.0, 180.0),
    "lying along": (0.0, -90.0, 0.0),
    "lying across": (0.0, 0.0, 90.0),
}
"""How the carried antenna's own front, right and up lie in the craft: azimuth, tilt and roll."""
FLOWN = {"level": (6.0, 8.0), "banks": (15.0, 55.0)}
"""Pitch and roll flown, at most."""
ATTITUDES, BEARINGS = 600, 72
Turning = Literal["bank", "pitch", "heading"]
TURNINGS: tuple[Turning, ...] = ("bank", "pitch", "heading")
BANKS_DEG = np.arange(-90.0, 91.0, 5.0)
ALIKE_DB = 1.0
"""Nobody tells pairs apart that differ by less."""
SOURCE = (
    "fields as vectors: Balanis, Antenna Theory, §2.12; the better of two: Jakes, Microwave Mobile Communications, §5.2"
)


class Covered(Frozen):
    """One antenna, or two together, over everything flown."""

    antennas: tuple[Antenna, ...]
    worst_tenth: Figure
    """dB against two isotropic antennas that agree."""
    worst_db: float
    median_db: float
    holes: float
    share_of_first: float
    gain_over_better: Figure | None
    """What the second adds at the worst tenth, over the better one alone."""
    left: tuple[float, ...]
    """Worst tenth with each one covered, or its tracker lost: what the other still gives."""
    tracker_lost: Figure | None = None

    @property
    def name(self) -> str:
        return " + ".join(a.name for a in self.antennas)


class PairsFinding(Frozen):
    """What the advisor says."""

    craft: Craft
    carried: Known
    known: tuple[Known, ...]
    alone: tuple[Covered, ...]
    """The best first."""
    pairs: tuple[Covered, ...]
    turned_deg: Floats
    turned_db: dict[Turning, Floats]
    """By what is turned, [antenna, angle]: level against the best that each has so."""
    words: str
    attitudes: int

    @property
    def range_words(self) -> str:
        """What the second antenna's decibels are worth in range; empty where it adds none to speak of."""
        more = self.best.worst_tenth.value - self.alone[0].worst_tenth.value
        return in_range(more) if more > ALIKE_DB else ""

    @property
    def circular_words(self) -> str:
        """Of circular receivers before a linear carried one: what that costs, which turning never makes more; empty where there are none."""
        if self.carried.antenna.polarization in CIRCULAR:
            return ""
        names = [k.antenna.name for k in self.known if k.antenna.polarization in CIRCULAR]
        if not names:
            return ""
        verb = "loses" if len(names) == 1 else "lose"
        return f"{show.join(names)} {verb} 3 dB by being circular, and never more by turning"

    @property
    def best(self) -> Covered:
        """What its words speak of: the best pair, or one alone where a second adds nothing to speak of."""
        if self.pairs and self.pairs[0].worst_tenth.value - self.alone[0].worst_tenth.value > ALIKE_DB:
            return self.pairs[0]
        return self.alone[0]


def _attitudes(evidence: Evidence, craft: Craft) -> Floats:
    """Heading, pitch and roll as flown: of a log where one was chosen and has them, else spread over the manner."""
    if craft.flown == "log":
        for log in evidence.all(Log):
            series = evidence.series(log.series_id)
            if log.run_id == craft.run_id and {"pitch_deg", "roll_deg"} <= set(series):
                roll, pitch = series["roll_deg"], series["pitch_deg"]
                heading = series.get("heading_deg", np.linspace(0.0, 360.0, len(roll)))
                flown = np.stack((heading, pitch, roll), axis=1)
                flown = flown[np.isfinite(flown).all(axis=1)]
                if len(flown):
                    return np.asarray(flown[:: max(1, len(flown) // ATTITUDES)])
    if craft.flown == "flips":
        return diversity.attitudes(ATTITUDES, 0.0, 0.0, every_way=True)
    pitch_deg, roll_deg = FLOWN.get(craft.flown, FLOWN["banks"])
    return diversity.attitudes(ATTITUDES, pitch_deg, roll_deg)


def _frames(known: Known, bearing: Floats, tracked: bool) -> Floats:
    """Front, right and up of a receiving antenna: fixed to where they look, or following."""
    return axes(bearing if tracked else np.zeros(len(bearing)))


def another(carried: AntennaPattern) -> AntennaPattern:
    """One like it, on the ground: what flies and what receives it are often bought in twos."""
    antenna = carried.antenna
    return replace(carried, antenna=antenna.revised(name=f"another {antenna.name}"))


def find_pairs(evidence: Evidence, antennas: Sequence[AntennaPattern]) -> PairsFinding | None:
    """None where nobody said what flies, or there is nothing to receive it with."""
    craft = evidence.get(Craft, "craft")
    carried = next((a for a in antennas if craft is not None and a.antenna.id == craft.antenna_id), None)
    others = [another(a) if a is carried else a for a in antennas]
    if craft is None or carried is None or len(others) < 2:
        return None
    own = known_wave(carried, evidence, carried=True)
    known = [known_wave(a, evidence) for a in others]
    flown = _attitudes(evidence, craft)
    span = (craft.to_deg - craft.from_deg) % 360.0 or 360.0
    bearing: Floats = craft.from_deg + span * (np.arange(BEARINGS) + 0.5) / BEARINGS
    # Seen at every height up to the highest, the lower ones oftener: it is farther off most of the time.
    elevation: Floats = np.asarray(craft.highest_deg * ((np.arange(BEARINGS) * 0.618034) % 1.0) ** 2, dtype=float)
    mount = axes(*MOUNTS[craft.mounted])

    def heard(tracked: bool) -> diversity.Powers:
        receivers = [(k.wave, _frames(k, bearing, tracked)) for k in known]
        return diversity.received(receivers, own.wave, mount, flown, bearing, elevation)

    powers = heard(craft.tracked)
    alone = [_covered(t, known, own, craft, None) for t in diversity.singles(powers, -craft.reserve_db)]
    lost = diversity.pairs(heard(False), -craft.reserve_db, craft.mixes) if craft.tracked else []
    without = {(t.one, t.other): t for t in lost}
    pairs = [
        _covered(t, known, own, craft, alone, without.get((t.one, t.other)))
        for t in diversity.pairs(powers, -craft.reserve_db, craft.mixes)
    ]
    alone.sort(key=lambda c: -c.worst_tenth.value)
    turned = {way: _turned(known, own, mount, way) for way in TURNINGS}
    words = _words(tuple(alone), tuple(pairs), craft)
    return PairsFinding(craft, own, tuple(known), tuple(alone), tuple(pairs), BANKS_DEG, turned, words, len(flown))


def _covered(
    told: diversity.Together,
    known: Sequence[Known],
    own: Known,
    craft: Craft,
    alone: Sequence[Covered] | None,
    lost: diversity.Together | None = None,
) -> Covered:
    members = [told.one] if told.one == told.other else [told.one, told.other]
    names = tuple(known[i].antenna for i in members)
    u = math.hypot(own.u_db, max(known[i].u_db for i in members))
    lines = (
        f"{show.join([f'{known[i].antenna.name} {known[i].by}' for i in members])}",
        f"carried: {own.antenna.name} {own.by}, {craft.mounted}",
        f"median {show.decibel(told.median_db)}, worst hundredth {show.decibel(told.worst_db)}",
    )
    parts = (
        ("patterns of the receiving ones", show.decibel(max(known[i].u_db for i in members), 1)),
        ("pattern of the carried one", show.decibel(own.u_db, 1)),
    )
    meaning = "Nine tenths of the time, over all attitudes and bearings, it gets at least this."
    tenth = Figure("worst tenth", told.worst_tenth_db, u, "dB", Working(lines, parts, SOURCE, meaning))
    if alone is None:
        return Covered(names, tenth, told.worst_db, told.median_db, told.holes, 1.0, None, ())
    singly = [alone[i].worst_tenth.value for i in members]
    # What is not known of the carried one is in both alike.
    more = told.worst_tenth_db - max(singly)
    own_u = 0.5 * max(known[i].u_db for i in members)
    adds = Figure(
        "what the second adds", more, own_u, "dB", Working(lines, parts[:1], SOURCE), low=max(more - 1.645 * own_u, 0.0)
    )
    left = (singly[1], singly[0])
    gone = None
    if lost is not None:
        gone = Figure(
            "tracker lost", lost.worst_tenth_db, u, "dB", Working(("all look to their fixed front",), parts, SOURCE)
        )
    return Covered(names, tenth, told.worst_db, told.median_db, told.holes, told.share_of_one, adds, left, gone)


def _turned(known: Sequence[Known], own: Known, mount: Floats, way: Turning) -> Floats:
    """What a turn costs each: a bank as seen from behind, a pitch as seen from the side, a heading from flying straight away; against the
    best that each has so, at most 40 dB."""
    still = np.zeros(len(BANKS_DEG))
    flown = {
        "bank": (still, still, BANKS_DEG),
        "pitch": (still + 90.0, BANKS_DEG, still),
        "heading": (BANKS_DEG, still, still),
    }[way]
    here = np.zeros(1)
    receivers = [(k.wave, axes(here)) for k in known]
    power = diversity.received(receivers, own.wave, mount, np.stack(flown, axis=1), here, np.full(1, 3.0))
    level = 10.0 * np.log10(np.maximum(power.astype(float), 1e-8))
    return np.asarray(np.maximum(level - level.max(axis=1, keepdims=True), -40.0), dtype=float)


def _words(alone: tuple[Covered, ...], pairs: tuple[Covered, ...], craft: Craft) -> str:
    single = alone[0]
    if not pairs:
        return f"{single.name} gets {single.worst_tenth.text} or more nine tenths of the time"
    best = pairs[0]
    how = "both added" if craft.mixes else "the better of both"
    more = best.worst_tenth.value - single.worst_tenth.value
    if more <= ALIKE_DB:
        within = [p for p in (*alone[1:], *pairs) if best.worst_tenth.value - p.worst_tenth.value <= ALIKE_DB]
        tie = (
            f", and so do {show.count(len(within), 'other choice')}, within {ALIKE_DB:g} dB: take the simplest"
            if within
            else ""
        )
        return f"{single.name} alone covers it as well as any pair, at the worst tenth {single.worst_tenth.text}{tie}"
    alike = [p.name for p in pairs[1:] if best.worst_tenth.value - p.worst_tenth.value < ALIKE_DB]
    others = [*alike[:2], *([f"{show.count(len(alike) - 2, 'more pair')}"] if len(alike) > 2 else [])]
    beside = (
        f"; {show.join(others)} {'does' if len(alike) == 1 else 'do'} as well, within {ALIKE_DB:g} dB" if alike else ""
    )
    return (
        f"{best.name} cover it best, {how}: at the worst tenth {best.worst_tenth.text}, {show.plus(more, 1)} dB over "
        f"{single.name} alone{beside}"
    )


def in_range(more_db: float) -> str:
    """What decibels are worth in the open, where half the power is 0.71 of the range and not half of it."""
    return f"{show.plus(more_db, 1)} dB is {10.0 ** (more_db / 20.0):.2f} times the range in the open"
