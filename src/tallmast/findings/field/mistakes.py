"""Mistakes of the trade that the field's notes show, each in words: a clean notebook raises none."""

from __future__ import annotations

from collections.abc import Sequence

from tallmast.notebook.evidence import Evidence
from tallmast.physics.decibels import dbm_from_watt
from tallmast.units import show
from tallmast.units.shown import SCALES

from ..figure import Check
from .finding import FieldFinding
from .fixes import PlaceFix
from .misplaced import misplaced_checks
from .runs import ANTENNA, OWN, Tried, others_on

MOST_GAIN_DB = 30.0
"""Of both antennas together, beyond which no level can be above what was sent, however near."""

F_LAYERS_TO_HZ = 40e6
SPORADIC_E_TO_HZ, SPORADIC_E_TO_M = 150e6, 4400e3
DUCTS_TO_M = 2500e3

UNITS_MIXED_UP = ("bit rate", "delay")
FAR_OFF, FEWEST_RUNS = 4.0, 3
"""Times better than all the others, of so many runs, from which on a unit is asked about."""


def mistake_checks(evidence: Evidence, field: FieldFinding) -> list[Check]:
    return [
        *_one_good_moment(field),
        *_gaps(field),
        *misplaced_checks(evidence),
        *_by_sky(evidence, field.places),
        *_above_what_was_sent(evidence),
        *_another_unit(evidence),
        *_also_on(evidence, field),
        *_state_changed(field),
        *_incidental(evidence, field),
    ]


def _incidental(evidence: Evidence, field: FieldFinding) -> list[Check]:
    """What was noted differently of every run: said, since nothing is told of it; not of what somebody left out."""
    if not field.rows:
        return []
    row, said = field.rows[0], evidence.question.treated if evidence.question else {}
    stray = [name.removeprefix(OWN) for name in row.factors if name not in row.kinds]
    stray = [name for name in stray if name.lower() not in (other.lower() for other in said)]
    if not stray:
        return []
    words = f"{show.join(stray)} noted differently of every run: it counts as run to run"
    why = "Of what was never the same twice no effect can be told. Note it in two or three steps (full, half) to compare them."
    return [Check("open", words, None, why)]


def _one_good_moment(field: FieldFinding) -> list[Check]:
    out = []
    for reach in field.reaches:
        beyond = [d for d in reach.luck if d > reach.furthest.value]
        if beyond:
            words = f"run {reach.row.run.number}: heard at {show.distance(max(beyond))} once in a while only"
            why = "One good moment is no range: it counts as lost where most attempts were not heard."
            out.append(Check("open", words, reach.furthest, why))
    return out


def _gaps(field: FieldFinding) -> list[Check]:
    out = []
    for reach in field.reaches:
        if reach.gaps:
            where = show.join([show.distance(d) for d in reach.gaps])
            words = f"run {reach.row.run.number}: not heard at {where}, and again beyond"
            why = "A hole behind something, or between two rays, is not the end of the range: it is kept apart from it."
            out.append(Check("open", words, reach.furthest, why))
    return out


def _by_sky(evidence: Evidence, places: Sequence[PlaceFix]) -> list[Check]:
    """Only of places at which something was heard: one that is far away is no mistake."""
    heard = {r.place_id for run in evidence.runs for r in evidence.readings(run.id) if r.heard}
    frequency_hz = evidence.question.centre_hz if evidence.question is not None else None
    return [_over_sky(fix, frequency_hz) for fix in places if fix.by_sky and fix.place.id in heard]


def _over_sky(fix: PlaceFix, frequency_hz: float | None) -> Check:
    away = f"{fix.place.name}, {show.distance(fix.distance.value)}"
    comes = far_beyond_words(frequency_hz, fix.distance.value)
    if not comes and frequency_hz is not None:
        text = f"{away}: farther than {show.frequency(frequency_hz, 0)} carries over the earth"
        why = "Is the position right? Or did it come by a relay, a satellite or the moon? It is kept apart from this path."
        return Check("disagrees", text, fix.distance, why)
    why = f"Far beyond the horizon a signal comes by {comes}. It says nothing of this path, and will not be there tomorrow."
    return Check("open", f"{away}: over the sky, kept apart", fix.distance, why)


def far_beyond_words(frequency_hz: float | None, distance_m: float) -> str:
    """What carries a signal so far beyond the horizon; empty where nothing over the earth does.

    The F layers to some 40 MHz and right round; sporadic E to some 150 MHz, two hops of 2200 km (Rec. ITU-R P.534); ducts above
    30 MHz, over warm seas to some 2500 km (P.452, P.834)."""
    if frequency_hz is None:
        return "the ionosphere or by lifted air"
    by = ["the ionosphere"] if frequency_hz <= F_LAYERS_TO_HZ else []
    if F_LAYERS_TO_HZ < frequency_hz <= SPORADIC_E_TO_HZ and distance_m <= SPORADIC_E_TO_M:
        by.append("sporadic E")
    if frequency_hz > F_LAYERS_TO_HZ and distance_m <= DUCTS_TO_M:
        by.append("lifted air, as in a duct")
    return " or by ".join(by)


def _above_what_was_sent(evidence: Evidence) -> list[Check]:
    out = []
    for run in evidence.runs:
        if run.power_w is None:
            continue
        most = dbm_from_watt(run.power_w) - run.pad_db + MOST_GAIN_DB
        for reading in evidence.readings(run.id):
            # Above what was sent even beside the antenna; or, without that, more than any receiver is meant to read.
            if reading.end == "away" and reading.level_dbm is not None and reading.level_dbm > min(most, 0.0):
                where = evidence.title(reading.place_id)
                words = f"run {run.number} at {where}: {show.fixed(reading.level_dbm, 0)} dBm is no level that arrives"
                why = "It is as much as was sent, or more than a receiver reads: another unit, or a sign left out?"
                out.append(Check("disagrees", words, None, why))
    return out


def _another_unit(evidence: Evidence) -> list[Check]:
    """A run whose every reading on a scale lies far on the good side of all that any other run showed: a delay written down as
    a rate, kbit as Mbit. Far on the bad side is how a link dies, and no mistake."""
    shown: dict[str, dict[int, list[float]]] = {}
    for run in evidence.runs:
        for reading in evidence.readings(run.id):
            if reading.shown is not None and reading.scale in UNITS_MIXED_UP and reading.shown > 0:
                shown.setdefault(reading.scale, {}).setdefault(run.number, []).append(reading.shown)
    out = []
    for scale, by_run in shown.items():
        more = SCALES[scale].more_is_better
        for number, mine in by_run.items() if len(by_run) >= FEWEST_RUNS else ():
            others = [value for other, values in by_run.items() if other != number for value in values]
            nearest, most = (min(mine), max(others)) if more else (max(mine), min(others))
            if (nearest > FAR_OFF * most) if more else (nearest * FAR_OFF < most):
                edge = "at most" if more else "at least"
                unit = SCALES[scale].unit
                words = f"run {number}: {nearest:g} {unit}, the others {edge} {most:g}: another unit?"
                why = f"All that run {number} notes is more than {FAR_OFF:g} times better than anything that any other run shows."
                out.append(Check("disagrees", words, None, why))
    return out


def _also_on(evidence: Evidence, field: FieldFinding) -> list[Check]:
    """A receiver that takes the better of two shows the other one, where the one compared is the worse."""
    on = [(row, taking) for row in field.rows if (taking := others_on(evidence, row.run))]
    if not on:
        return []
    runs = show.join([str(row.run.number) for row, _ in on])
    names = dict.fromkeys(evidence.title(branch.antenna_id) for _, taking in on for branch in taking)
    name = show.join([name if name != "?" else "another antenna" for name in names])
    words = f"{name} stayed on in run{'s' if len(on) > 1 else ''} {runs}"
    why = "The receiver takes the better of the two, so what was compared may be what stayed on. Take it off, and run again."
    return [Check("disagrees", words, None, why)]


def _state_changed(field: FieldFinding) -> list[Check]:
    by_antenna: dict[str, list[Tried]] = {}
    for tried in field.names:
        by_antenna.setdefault(tried[0], []).append(tried)
    out = []
    for states in by_antenna.values():
        if len(states) > 1:
            names = show.join([field.names[one] for one in states])
            contrast = next(
                (c for c in field.contrasts if c.change.factor == ANTENNA and c.change.to.split()[0] == states[0][0]),
                None,
            )
            words = f"changed between runs, told apart: {names}"
            why = "A trimmed or bent antenna is another one: its runs are no repeats of those before."
            out.append(Check("open", words, contrast.figure if contrast else None, why))
    return out
