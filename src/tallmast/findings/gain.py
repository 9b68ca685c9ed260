"""Every way in which an antenna's gain is known, and what they come to together."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna
from tallmast.physics.statistics import chi2_tail
from tallmast.units import show

from .field import FieldFinding
from .figure import Figure, Mark, Working, named, parts_of
from .pattern import PatternFinding
from .polarization import loss_between
from .range_gain import RangeGainReading
from .shelf import ShelfFinding

AGREEMENT = 0.05
"""Below this chance of so large a χ², the ways are said to disagree."""

MANNER_WORDS = {
    "flight": "flight",
    "boat": "field",
    "places": "field",
    "walk": "field",
    "drive": "field",
    "loop": "field",
    "orbit": "field",
}


class GainEvidence(Frozen):
    """Gain of one antenna toward its front, in its own polarization, dBi."""

    antenna: Antenna
    claimed_dbi: float | None
    limit: Figure | None
    beams: Figure | None
    """Directivity from beamwidths: shown, not combined, since it leaves losses out."""
    measured: tuple[tuple[str, Figure], ...]
    """(way, gain) for each way it was measured: range, flight, field."""
    combined: Figure | None
    agreement: Mark
    """holds: they agree; disagrees; open: fewer than two."""
    agreement_words: str

    @property
    def guessed(self) -> bool:
        """Whether nothing at all is known of it, so that its working value is that of any antenna."""
        return self.combined is None and self.beams is None and self.claimed_dbi is None

    def working_value(self) -> Figure:
        """The best that is known, however little: measured, known, beams, claim, or a dipole's 2 dBi with a wide uncertainty."""
        if self.combined:
            return self.combined
        if self.beams:
            return self.beams
        if self.claimed_dbi is not None:
            value = min(self.claimed_dbi, self.limit.value) if self.limit else self.claimed_dbi
            why = Working(
                (f"as claimed, {show.decibel(value, unit='dBi')}",),
                (("a claim, 2 dB", "2 dB"),),
                "the claim",
                "Not measured.",
            )
            return Figure("gain, claimed", value, 2.0, "dBi", why)
        why = Working(
            ("nothing is known of it",), (("a guess, 3 dB", "3 dB"),), "", "Taken for a dipole until measured."
        )
        return Figure("gain, assumed", 2.15, 3.0, "dBi", why)


def _from_field(antenna: Antenna, evidence: Evidence, field: FieldFinding) -> list[tuple[str, Figure]]:
    """Gain by difference to a reference antenna that made the same runs."""
    far = evidence.far_end
    at_far = evidence.antenna(far.antenna_id) if far is not None else None
    if far is not None and at_far is not None:
        far = far.revised(polarization=at_far.polarization, axial_ratio_db=at_far.axial_ratio_db)
    found = []
    for manner in dict.fromkeys(row.run.manner for row in field.rows):
        for reference in evidence.antennas:
            difference = field.difference_by(manner, antenna.id, reference.id)
            if reference.known_gain_dbi is None or difference is None:
                continue
            d = named(difference.value, max(difference.u, 1e-6), "difference over the path")
            g = named(reference.known_gain_dbi, reference.known_gain_u_db, f"gain of {reference.name}")
            gain = d + g
            lines = [
                f"difference to {reference.name} {show.decibel(difference.value)}",
                f"G {reference.name}  {show.fixed(reference.known_gain_dbi, 2)} dBi",
            ]
            if far and far.polarization != "unknown" and antenna.polarization != "unknown":
                mine = loss_between(antenna.polarization, antenna.axial_ratio_db, far.polarization, far.axial_ratio_db)
                theirs = loss_between(
                    reference.polarization, reference.axial_ratio_db, far.polarization, far.axial_ratio_db
                )
                if abs(mine.value - theirs.value) > 0.05 or mine.u > 0.1:
                    gain = gain + named(mine.value - theirs.value, mine.u, "polarization loss")
                    lines.append(f"polarization, given back {show.decibel(mine.value - theirs.value)}")
            lines.append(f"G = {show.decibel(gain.nominal_value, unit='dBi')}")

            way = MANNER_WORDS[manner]
            working = Working(
                tuple(lines),
                parts_of(gain, "dB"),
                "substitution over the path, by the day’s one model",
                "Match and cable of each antenna are in it: this is gain as it is had in use.",
            )
            found.append(
                (way, Figure(f"gain by {way}", float(gain.nominal_value), float(gain.std_dev), "dBi", working))
            )
            break
    return found


def _from_range(antenna: Antenna, evidence: Evidence, pattern: PatternFinding) -> list[tuple[str, Figure]]:
    mine = pattern.of(antenna.id)
    if mine is None or mine.substitution is None:
        return []
    figure = mine.substitution
    reference = next((a for a in evidence.antennas if a.known_gain_dbi is not None and a.id != antenna.id), None)
    if reference and antenna.polarization != "unknown":
        # The range's source is lined up with the reference; what the antenna under test loses to it is given back.
        loss = loss_between(
            antenna.polarization, antenna.axial_ratio_db, reference.polarization, reference.axial_ratio_db
        )
        if loss.value > 0.05:
            lines = (*figure.working.lines, f"polarization, given back {show.decibel(loss.value)}")
            parts = (*figure.working.parts, ("polarization loss", show.decibel(loss.u, 2)))
            working = Working(lines, parts, figure.working.source, figure.working.meaning)
            figure = Figure(figure.name, figure.value + loss.value, math.hypot(figure.u, loss.u), "dBi", working)
    return [("range", figure)]


def combine(
    ways: list[tuple[str, Figure]], shared_u_db: float, apart: Collection[str] = ()
) -> tuple[Figure | None, Mark, str]:
    """Weighted mean of several ways with a test of agreement.

    The uncertainty `shared_u_db` (reference antenna, polarization) is common to all of them but those `apart`, which need no
    reference: generalised least squares with that covariance (Bevington and Robinson §4.1; JCGM 102 §6). If they disagree the
    uncertainty is widened by √(χ²/ν) (Birge ratio), and said so.
    """
    if not ways:
        return None, "open", "not measured"
    shared = np.array([0.0 if way in apart else shared_u_db for way, _ in ways])
    own = np.array([max(figure.u**2 - s**2, 0.01) for (_, figure), s in zip(ways, shared, strict=True)])
    values = np.array([figure.value for _, figure in ways])
    inverse = np.linalg.inv(np.diag(own) + np.outer(shared, shared))
    weights = inverse.sum(axis=0) / inverse.sum()
    mean = float(weights @ values)
    whole = 1.0 / float(inverse.sum())
    common = abs(float(weights @ shared))
    variance = max(whole - common**2, 0.0)
    lines = [
        f"{way:<7} {show.plus_minus(figure.value, figure.half)}  w {w:.2f}"
        for w, (way, figure) in zip(weights.tolist(), ways, strict=True)
    ]
    if len(ways) == 1:
        mark: Mark = "open"
        words = f"one way only: {ways[0][0]}"
    else:
        left = values - mean
        chi2 = float(left @ inverse @ left)
        degrees = len(ways) - 1
        chance = chi2_tail(chi2, degrees)
        lines.append(f"χ² = {chi2:.1f} for {degrees}: chance {show.percent(chance)}")
        if chance < AGREEMENT:
            mark = "disagrees"
            far = max(ways, key=lambda way: abs(way[1].value - mean) / way[1].u)
            words = f"{far[0]} disagrees by {abs(far[1].value - mean) / far[1].u:.1f} of its own u"
            variance *= chi2 / degrees
            lines.append(f"disagree: ± widened × {math.sqrt(chi2 / degrees):.1f}")
        else:
            mark, words = "holds", f"{show.count(len(ways), 'way')} agree"
    lines.append(f"Σ w·g = {show.decibel(mean, unit='dBi')}")
    u = math.sqrt(variance + common**2)
    parts = [("the ways themselves", show.decibel(math.sqrt(variance), 2))]
    if common > 0:
        parts.append(("reference and polarization, common to them", show.decibel(common, 2)))
    working = Working(
        tuple(lines),
        tuple(parts),
        "weighted mean, Bevington and Robinson §4.1; χ² for agreement",
        "Gain toward its front in its own polarization, from everything that was measured.",
    )
    return Figure("gain", mean, u, "dBi", working), mark, words


def _shared_u_db(antenna: Antenna, evidence: Evidence) -> float:
    """What all ways have in common: the reference's own uncertainty, and how this antenna's ellipse lies to a linear one."""
    reference = next((a for a in evidence.antennas if a.known_gain_dbi is not None), None)
    if reference is None:
        return 0.0
    shared = reference.known_gain_u_db
    if "unknown" not in (antenna.polarization, reference.polarization):
        loss = loss_between(
            antenna.polarization, antenna.axial_ratio_db, reference.polarization, reference.axial_ratio_db
        )
        if loss.value > 0.05:
            shared = math.hypot(shared, loss.u)
    return shared


def _of_now(read: RangeGainReading, antenna: Antenna) -> bool:
    """Whether a measurement is of the antenna as it is now; of the second and third nobody noted the state: it is taken so."""
    return read.record.antenna_id != antenna.id or read.record.state_id == antenna.state.id


def gather(
    evidence: Evidence,
    shelf: ShelfFinding,
    pattern: PatternFinding,
    field: FieldFinding,
    ranges: Sequence[RangeGainReading] = (),
) -> dict[str, GainEvidence]:
    """Gain evidence of every antenna, by id."""
    out = {}
    rows = {row.antenna.id: row for row in shelf.rows}
    for antenna in evidence.antennas:
        row = rows.get(antenna.id)
        mine = pattern.of(antenna.id)
        if antenna.known_gain_dbi is not None:
            value, u = antenna.known_gain_dbi, antenna.known_gain_u_db
            stated = (("as stated for it", show.decibel(u, 2)),) if u > 0 else ()
            known = Figure(
                "gain, known", value, u, "dBi", Working(("reference antenna",), stated, "as stated on the Shelf")
            )
            ways: list[tuple[str, Figure]] = []
            combined: Figure | None = known
            mark: Mark = "open"
            words = "reference"
        else:
            measured = [r for r in ranges if r.antenna.id == antenna.id and _of_now(r, antenna)]
            ways = [(r.way, r.gain) for r in measured]
            mine_flown = mine.by_levels if mine is not None else None
            ways += [("levels flown", mine_flown)] if mine_flown is not None else []
            ways += _from_range(antenna, evidence, pattern) + _from_field(antenna, evidence, field)
            apart = {"levels flown", *(r.way for r in measured if not r.needs_reference)}
            combined, mark, words = combine(ways, _shared_u_db(antenna, evidence) if ways else 0.0, apart)
        out[antenna.id] = GainEvidence(
            antenna,
            row.claimed_gain_dbi if row else None,
            row.limit if row else None,
            mine.directivity if mine else None,
            tuple(ways),
            combined,
            mark,
            words,
        )
    return out
