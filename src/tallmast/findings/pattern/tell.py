"""The Pattern's finding: every antenna's cuts, and the one in focus in words."""

from __future__ import annotations

from dataclasses import dataclass

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna
from tallmast.physics.pattern import WIDEST_GAP_DEG
from tallmast.units import show

from ..aims import Aims
from ..figure import Check, Figure, Finding, Standing
from .cut import CutReading, read_cut
from .gain import beams_gain, substitution_gain


@dataclass(frozen=True, eq=False, repr=False)
class AntennaPattern:
    antenna: Antenna
    cuts: tuple[CutReading, ...]
    substitution: Figure | None
    """Gain against a reference antenna on the same range, dBi."""
    from_beams: Figure | None
    """Directivity that the beamwidths suggest, dBi."""

    @property
    def spoken(self) -> CutReading | None:
        """The cut that is spoken of: the newest round the horizon, else the newest up and over."""
        return self.cut("azimuth") or self.cut("elevation")

    def cut(self, plane: str) -> CutReading | None:
        return next((c for c in reversed(self.cuts) if c.cut.plane == plane), None)


@dataclass(frozen=True, eq=False, repr=False)
class PatternFinding(Finding):
    antennas: tuple[AntennaPattern, ...] = ()
    focus: AntennaPattern | None = None
    sector_deg: tuple[float, float] = (-30.0, 30.0)

    def of(self, antenna_id: str) -> AntennaPattern | None:
        return next((a for a in self.antennas if a.antenna.id == antenna_id), None)


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
        antennas.append(AntennaPattern(antenna, tuple(readings), gains[0] if gains else None, beams_gain(readings)))
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
    cut = focus.spoken
    if cut is None:
        others = "Its chip is in focus; others have cuts."
        return f"No pattern cut of {name} yet.", others, [], None
    checks: list[Check] = []
    gain = focus.substitution
    if cut.beamwidth is None and cut.gap_deg > WIDEST_GAP_DEG:
        sentence = f"{name} was cut in {cut.cut.plane} over too little to tell its beam."
    elif cut.beamwidth is None:
        even = f", even to {cut.ripple.text}" if cut.ripple else ""
        sentence = f"{name} looks all round in {cut.cut.plane}{even}."
    else:
        back = f", {cut.front_to_back.text} front to back" if cut.front_to_back else ""
        sentence = f"{name} has a beam of {cut.beamwidth.text} in {cut.cut.plane}{back}."
    if gain:
        sentence = sentence[:-1] + f", and {gain.text} at its peak."
    if cut.sector is not None and cut.sector_deg is not None:
        where = show.direction(cut.sector_deg, cut.cut.plane)
        detail = f"Weakest in the sector that matters: {cut.sector.text} at {where}."
    else:
        detail = "The cut has no sample in the sector that matters."
    if cut.sidelobe:
        detail += f" Largest sidelobe {cut.sidelobe.text} at {show.direction(cut.sidelobe_deg or 0, cut.cut.plane)}."
    if cut.nulls:
        where = show.join([show.direction(lobe.angle_deg, cut.cut.plane) for lobe in cut.nulls])
        detail += f" Null{'s' if len(cut.nulls) > 1 else ''} at {where}."
    if cut.gap_deg > WIDEST_GAP_DEG:
        checks.append(Check("open", f"no data over {cut.gap_deg:.0f}°", None, "Nothing is known of the pattern there."))
    for claim in evidence.claims(focus.antenna.id):
        if claim.quantity == "beamwidth" and cut.beamwidth:
            low, high = cut.beamwidth.interval
            # A maker's beamwidth is a figure of equality: it holds within a tenth and our own uncertainty.
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
