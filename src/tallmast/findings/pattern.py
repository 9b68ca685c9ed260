"""Pattern: where the gain goes, read from cuts; and gain by substitution on the same range."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Cut
from tallmast.physics import aperture, pattern
from tallmast.physics.decibels import Floats
from tallmast.units import show

from .aims import Aims
from .figure import Check, Figure, Finding, Standing, Working, named, parts_of

NOISE_SWING_DB = 1.5


@dataclass(frozen=True, eq=False, repr=False)
class CutReading:
    """One cut with its peak at 0 dB and angles from the antenna's own front."""

    cut: Cut
    antenna: Antenna
    angle_deg: Floats
    level_db: Floats
    peak_level: float
    """Level at the peak as measured; of use only between absolute cuts of one session."""
    peak_deg: float
    beamwidth: Figure | None
    beam_edges_deg: tuple[float, float] | None
    front_to_back: Figure
    sidelobe: Figure | None
    sidelobe_deg: float | None
    nulls: tuple[pattern.Lobe, ...]
    sector: Figure
    """Weakest direction in the sector that matters, dB against the peak."""
    sector_deg: float
    gap_deg: float


@dataclass(frozen=True, eq=False, repr=False)
class AntennaPattern:
    antenna: Antenna
    cuts: tuple[CutReading, ...]
    substitution: Figure | None
    """Gain against a reference antenna on the same range, dBi."""
    from_beams: Figure | None
    """Directivity that the beamwidths suggest, dBi."""

    def cut(self, plane: str) -> CutReading | None:
        return next((c for c in reversed(self.cuts) if c.cut.plane == plane), None)


@dataclass(frozen=True, eq=False, repr=False)
class PatternFinding(Finding):
    antennas: tuple[AntennaPattern, ...] = ()
    focus: AntennaPattern | None = None
    sector_deg: tuple[float, float] = (-30.0, 30.0)

    def of(self, antenna_id: str) -> AntennaPattern | None:
        return next((a for a in self.antennas if a.antenna.id == antenna_id), None)


def _slope(angle: Floats, level: Floats, at_deg: float) -> float:
    """dB per degree at an angle, from a few degrees either side."""
    either = pattern.level_at(angle, level, np.array([at_deg - 3.0, at_deg + 3.0]))
    return max(abs(float(either[1] - either[0])) / 6.0, 0.02)


def _source(what: str) -> str:
    return f"{what}: IEEE Std 145-2013"


def read_cut(evidence: Evidence, cut: Cut, antenna: Antenna, sector: tuple[float, float]) -> CutReading:
    """Everything that is read from one cut."""
    series = evidence.series(cut.series_id)
    angle, level = pattern.tidy_turn(np.asarray(series["angle_deg"]) - cut.boresight_deg, series["level_db"])
    top = pattern.peak(angle, level)
    peak_level = float(np.max(level))
    level = level - peak_level
    u = cut.level_u_db
    both = math.sqrt(2.0) * u
    repeat = ((f"level of a sample, u = {u:g} dB", show.decibel(both, 2)),)
    width = pattern.beamwidth_deg(angle, level)
    beam, edges = None, None
    if width is not None:
        w, left, right = width
        slopes = _slope(angle, level, left), _slope(angle, level, right)
        u_width = math.hypot(u / slopes[0], u / slopes[1])
        edges = (left, right)
        beam = Figure(
            "beamwidth",
            w,
            u_width,
            "°",
            Working(
                (
                    "where the level is 3 dB under the peak",
                    f"left  {show.bearing(left)}, {slopes[0]:.2f} dB per degree",
                    f"right {show.bearing(right)}, {slopes[1]:.2f} dB per degree",
                    f"width = {w:.0f}°",
                ),
                ((f"level, u = {u:g} dB, over both slopes", f"{u_width:.1f}°"),),
                _source("half-power beamwidth"),
                "Inside it at least half of the greatest power is radiated.",
            ),
        )
    back = pattern.front_to_back_db(angle, level)
    front_to_back = Figure(
        "front-to-back",
        back,
        both,
        "dB",
        Working(
            (
                f"peak at {show.bearing(top.angle_deg)}",
                f"opposite {show.bearing(top.angle_deg + 180)}: {show.decibel(-back)}",
            ),
            repeat,
            _source("front-to-back ratio"),
            "How much weaker it is just behind its peak.",
        ),
    )
    lobes = pattern.sidelobes(angle, level, max(NOISE_SWING_DB, 3 * u))
    lobe = lobes[0] if lobes else None
    side = None
    if lobe:
        side = Figure(
            "largest sidelobe",
            -lobe.below_peak_db,
            both,
            "dB",
            Working(
                (f"at {show.bearing(lobe.angle_deg)}", f"{show.decibel(-lobe.below_peak_db)} against the peak"),
                repeat,
                _source("sidelobe level"),
                "Another direction in which it hears and is heard.",
            ),
        )
    weak = pattern.weakest_in_sector(angle, level, *sector)
    sector_figure = Figure(
        "weakest in sector",
        -weak.below_peak_db,
        both,
        "dB",
        Working(
            (f"sector {sector[0]:g}° to {sector[1]:g}° from its front", f"weakest at {show.bearing(weak.angle_deg)}"),
            repeat,
            "read off the cut, straight lines in dB between samples",
            "What is lost at worst over the directions that will really be used.",
        ),
    )
    return CutReading(
        cut,
        antenna,
        angle,
        level,
        peak_level,
        top.angle_deg,
        beam,
        edges,
        front_to_back,
        side,
        lobe.angle_deg if lobe else None,
        tuple(pattern.nulls(angle, level, least_swing_db=max(NOISE_SWING_DB, 3 * u))[:4]),
        sector_figure,
        weak.angle_deg,
        pattern.largest_gap_deg(angle),
    )


def substitution_gain(reading: CutReading, references: list[CutReading]) -> Figure | None:
    """Gain against a reference antenna measured absolutely in the same session and plane."""
    if not reading.cut.absolute:
        return None
    same = [
        r
        for r in references
        if r.cut.session == reading.cut.session and r.cut.absolute and r.antenna.id != reading.antenna.id
    ]
    if not same:
        return None
    mine = [r for r in same if r.cut.plane == reading.cut.plane]
    reference = (mine or same)[-1]
    known = reference.antenna.known_gain_dbi
    assert known is not None
    a = named(reading.peak_level, reading.cut.level_u_db, f"level of {reading.antenna.name}")
    b = named(reference.peak_level, reference.cut.level_u_db, f"level of {reference.antenna.name}")
    g = named(known, reference.antenna.known_gain_u_db, f"gain of {reference.antenna.name}")
    gain = a - b + g

    return Figure(
        "gain on the range",
        float(gain.nominal_value),
        float(gain.std_dev),
        "dBi",
        Working(
            (
                "G = level − level of reference + G reference",
                f"  = {show.fixed(reading.peak_level, 1)} − ({show.fixed(reference.peak_level, 1)}) + {show.fixed(known, 2)}",
                f"  = {show.decibel(gain.nominal_value, unit='dBi')}",
            ),
            parts_of(gain, "dB"),
            f"substitution against {reference.antenna.name}, IEEE Std 149-2021 (gain-transfer method)",
            "Same transmitter, same distance, same settings: only the antenna changed.",
        ),
    )


def _beams_gain(readings: list[CutReading]) -> Figure | None:
    """Directivity from the two planes' beams; needs both."""
    planes = {r.cut.plane: r for r in readings}
    if set(planes) != {"azimuth", "elevation"}:
        return None
    widths = {plane: (r.beamwidth.value if r.beamwidth else 360.0) for plane, r in planes.items()}
    if all(w >= 360 for w in widths.values()):
        return None
    value = aperture.beam_directivity_dbi(widths["azimuth"], widths["elevation"])
    omni = max(widths.values()) >= 360
    u = 1.5 if omni else 1.0
    return Figure(
        "directivity from its beams",
        value,
        u,
        "dBi",
        Working(
            ("D ≈ 32 400 / (θ·φ)", f"  = 32 400 / ({widths['azimuth']:.0f} × {widths['elevation']:.0f})"),
            (("the constant: 26 000 to 41 253 in the books", show.decibel(u, 1)),),
            "Stutzman and Thiele, Antenna Theory and Design, §5.3",
            "Directivity: losses and mismatch are not in it, so the gain is a little less.",
        ),
    )


def find(evidence: Evidence, aims: Aims) -> PatternFinding:
    """The Pattern's finding, told of the antenna in focus."""
    question = evidence.question
    sector = (question.sector_from_deg, question.sector_to_deg) if question else (-30.0, 30.0)
    read = {a.id: [read_cut(evidence, c, a, sector) for c in evidence.cuts(a.id)] for a in evidence.antennas}
    references = [r for a in evidence.antennas if a.known_gain_dbi is not None for r in read[a.id]]
    antennas = []
    for antenna in evidence.antennas:
        readings = read[antenna.id]
        gains = [g for r in readings if (g := substitution_gain(r, references))]
        antennas.append(AntennaPattern(antenna, tuple(readings), gains[0] if gains else None, _beams_gain(readings)))
    with_cuts = [a for a in antennas if a.cuts]
    if not with_cuts:
        return PatternFinding(
            "No pattern cut yet.",
            "The Pattern answers: where does the gain go, and what is lost over the angles you will use? Drop a CSV of "
            "angle and level on the window.",
            Standing("nothing", "no cuts yet"),
            antennas=tuple(antennas),
            sector_deg=sector,
        )
    focus = next((a for a in antennas if a.antenna.id == aims.focus_id), with_cuts[0])
    sentence, detail, checks, headline = _tell(focus, evidence)
    n = sum(len(a.cuts) for a in antennas)
    missing = len([a for a in antennas if not a.cuts])
    standing = Standing("some" if missing else "done", f"{n} cut{'s' if n != 1 else ''} of {len(with_cuts)}")
    return PatternFinding(sentence, detail, standing, tuple(checks), headline, tuple(antennas), focus, sector)


def _tell(focus: AntennaPattern, evidence: Evidence) -> tuple[str, str, list[Check], Figure | None]:
    name = focus.antenna.name
    cut = focus.cut("azimuth") or focus.cut("elevation")
    if cut is None:
        others = "Its chip is in focus; others have cuts."
        return f"No pattern cut of {name} yet.", others, [], None
    checks: list[Check] = []
    gain = focus.substitution
    if cut.beamwidth is None:
        ripple = float(np.ptp(cut.level_db))
        sentence = f"{name} looks all round in {cut.cut.plane}, even to {show.decibel(ripple)}."
    else:
        sentence = (
            f"{name} has a beam of {cut.beamwidth.text} in {cut.cut.plane}, {cut.front_to_back.text} front to back."
        )
    if gain:
        sentence = sentence[:-1] + f", and {gain.text} at its peak."
    detail = f"Weakest in the sector that matters: {cut.sector.text} at {show.bearing(cut.sector_deg)}."
    if cut.sidelobe:
        detail += f" Largest sidelobe {cut.sidelobe.text} at {show.bearing(cut.sidelobe_deg or 0)}."
    if cut.nulls:
        where = show.join([show.bearing(lobe.angle_deg) for lobe in cut.nulls])
        detail += f" Null{'s' if len(cut.nulls) > 1 else ''} at {where}."
    if cut.gap_deg > 30:
        checks.append(Check("open", f"no data over {cut.gap_deg:.0f}°", None, "Nothing is known of the pattern there."))
    for claim in evidence.claims(focus.antenna.id):
        if claim.quantity == "beamwidth" and cut.beamwidth:
            low, high = cut.beamwidth.interval
            # A maker's beamwidth is a figure of equality: it holds within a tenth and our own doubt.
            slack = 0.1 * claim.value
            fits = low - slack <= claim.value <= high + slack
            checks.append(
                Check(
                    "holds" if fits else "fails",
                    f"claim beam {claim.value:g}°: measured {cut.beamwidth.short}",
                    cut.beamwidth,
                )
            )
    off = (cut.peak_deg + 180) % 360 - 180
    if cut.beamwidth and abs(off) > max(10.0, 0.25 * cut.beamwidth.value):
        checks.append(
            Check(
                "disagrees",
                f"peak points {show.bearing(abs(off))} off its front",
                None,
                "Squint, or the zero of the turntable was off.",
            )
        )
    if gain is None:
        why = "Cut a reference antenna in the same session, with levels as received, and the gain follows."
        checks.append(Check("open", "gain not shown by these cuts", focus.from_beams, why))
    return sentence, detail, checks, gain or cut.beamwidth or cut.sector
