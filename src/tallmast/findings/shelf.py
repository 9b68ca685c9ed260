"""Shelf: what is to be tested, what is claimed of it, and whether physics allows it."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Literal

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Claim, Question
from tallmast.physics import aperture
from tallmast.physics.constants import DIPOLE_GAIN_DBI, wavelength
from tallmast.units import show

from .aims import Aims
from .connection import Connection, connect
from .figure import Check, Figure, FindingOfAntennas, Mark, Standing, Working, against

if TYPE_CHECKING:
    from .levels.pieces import InDrawer

NO_GAIN_DB = 0.5
"""A known gain nearer to nothing than this is asked about, where it is a dipole's."""
GRACE_DB = 1.0
"""How far above a limit a claim must stand before it is called impossible."""

ClaimMark = Literal["holds", "fails", "impossible", "open"]
PaperStanding = Literal["possible", "no limit", "doubted", "impossible"]
"""Before anything is measured: physics allows it; nothing is noted that would limit it; it would be better than anything published;
physics forbids it."""


class ClaimOnPaper(Frozen):
    """A claim before anything was measured."""

    claim: Claim
    antenna: Antenna
    standing: PaperStanding
    words: str
    why: str
    limit: Figure | None = None
    """What it is held against."""

    @property
    def impossible(self) -> bool:
        return self.standing == "impossible"


class ShelfRow(Frozen):
    """One antenna on the shelf."""

    antenna: Antenna
    claims: tuple[ClaimOnPaper, ...]
    """Of the band in front, and those made for no band."""
    limit: Figure | None
    """The most gain that its beam or size allows, dBi."""
    claimed_gain_dbi: float | None
    connection: Connection | None
    """From its own connector through the pieces to what it is screwed onto; None where one end is not noted."""
    longest_m: float | None
    elsewhere: tuple[ClaimOnPaper, ...] = ()
    """Claims for the question's other bands."""

    @property
    def every_claim(self) -> tuple[ClaimOnPaper, ...]:
        return self.claims + self.elsewhere


class ShelfFinding(FindingOfAntennas):
    rows: tuple[ShelfRow, ...] = ()
    wavelength_m: float = 0.0
    pieces: tuple[InDrawer, ...] = ()
    """Adapters and cables, and what else an antenna is used through."""


def claimed_gain_dbi(claim: Claim) -> float:
    """A gain claim in dBi; a bare 'dB' is read as dBi, the smaller claim of the two."""
    return claim.value + (DIPOLE_GAIN_DBI if claim.reference == "dBd" else 0.0)


def claim_words(claim: Claim) -> str:
    """The claim as a person would write it, with the band it was made for."""
    of_band = f" at {show.frequency(claim.at_hz, 0)}" if claim.at_hz and claim.quantity != "resonance" else ""
    return f"{_claimed(claim)}{of_band}"


def _claimed(claim: Claim) -> str:
    if claim.quantity == "gain":
        return f"{claim.value:g} {claim.reference or 'dB'}"
    if claim.quantity == "swr":
        return f"SWR ≤ {claim.value:g}"
    if claim.quantity == "bandwidth":
        at = f" at SWR {claim.second_value:g}" if claim.second_value else ""
        return f"{show.frequency(claim.value)} of bandwidth{at}"
    if claim.quantity == "resonance":
        return f"resonance at {show.frequency(claim.value)}"
    if claim.quantity == "beamwidth":
        second = f" × {claim.second_value:g}°" if claim.second_value else ""
        return f"beam {claim.value:g}°{second}"
    if claim.quantity == "axial ratio":
        return f"axial ratio {show.fixed(claim.value, 1)} dB"
    if claim.quantity == "range":
        power = f" at {show.power(claim.at_power_w)}" if claim.at_power_w else ""
        return f"{show.distance(claim.value)}{power}"
    return f"{show.power(claim.value)} of power"


def gain_limits(antenna: Antenna, claims: list[Claim], frequency_hz: float) -> list[Figure]:
    """Every bound on the gain that can be had from claimed beams and measured sizes, lowest first.

    A beam of one plane alone is none: what the other plane does is not known.
    """
    lam = wavelength(frequency_hz)
    found: list[Figure] = []

    def add(name: str, value: float, lines: tuple[str, ...], source: str, meaning: str) -> None:
        found.append(Figure(name, value, 0.0, "dBi", Working(lines, (), source, meaning)))

    for claim in claims:
        if claim.quantity != "beamwidth" or claim.second_value is None:
            continue
        theta, phi = claim.value, claim.second_value
        add(
            "limit from the claimed beam",
            aperture.beam_directivity_limit_dbi(theta, phi),
            (
                "D ≤ 41 253 / (θ·φ), and of wide beams the fattest clean shape",
                f"41 253 / ({theta:g} × {phi:g}) = {41253 / theta / phi:.2f}",
                f"cosⁿ, Gaussian: at most {max(aperture.clean_beams(theta, phi)):.2f}",
            ),
            "Kraus, Antennas, §2-9; integral over the sphere, Balanis §2.6",
            "All the power of a lossless antenna in one clean beam this wide makes this gain; sidelobes take away.",
        )
    if antenna.face_width_m and antenna.face_height_m:
        add(
            "limit from the face",
            aperture.face_gain_limit_dbi(antenna.face_width_m, antenna.face_height_m, frequency_hz),
            (
                "G ≤ 4πA/λ², half a wavelength added all round",
                f"A = ({show.length(antenna.face_width_m)} + λ)({show.length(antenna.face_height_m)} + λ)",
                f"λ = {show.length(lam)}",
            ),
            "Balanis, Antenna Theory, §12.5",
            "A face this size, with a generous edge, can't gather more.",
        )
    axial = _axial(antenna, frequency_hz)
    if axial is not None:
        circumference, turns, spacing = axial
        add(
            "limit from its turns",
            aperture.helix_gain_limit_dbi(circumference, turns, spacing, frequency_hz),
            ("G ≤ 15·(C/λ)²·n·S/λ", f"C/λ = {circumference / lam:.2f}, n = {turns:g}, S/λ = {spacing / lam:.2f}"),
            "Kraus, Antennas, ch. 7; measured helices stay 1 to 3 dB below it (King and Wong 1980)",
            "Gain in its own circular sense; toward a linear antenna 3 dB less arrives.",
        )
    elif antenna.type in ("collinear", "dipole") and antenna.length_m:
        add(
            "limit from its length",
            aperture.one_sided_line_gain_limit_dbi(antenna.length_m, frequency_hz),
            (
                "G ≤ 2(L + λ/2)/λ, and 3 dB to one side",
                f"  = 4 × ({show.length(antenna.length_m)} / {show.length(lam)} + ½)",
            ),
            "Balanis §6.4, broadside array of small spacing, with half a wavelength for the beam of its elements",
            "A line this long can't gather more, though all of it goes to one side of a mast. All round it has half of that.",
        )
    elif antenna.type == "whip" and antenna.length_m:
        add(
            "limit from its length on a plate",
            aperture.whip_gain_limit_dbi(antenna.length_m, frequency_hz),
            ("G ≤ 2(2L + λ/2)/λ, and 3 dB of plate", f"L = {show.length(antenna.length_m)}, λ = {show.length(lam)}"),
            "Balanis §4.7, the whip and its image",
            "On a plate without end, where a whip is at its best. On a handheld, or a small roof, it has less.",
        )
    elif (radius := _radius_m(antenna, lam)) is not None:
        add(
            "limit from its size",
            aperture.sphere_gain_limit_dbi(radius, frequency_hz),
            ("G ≤ N² + 2N, N = ka + 1", f"a = {show.length(radius)}, ka = {2 * math.pi * radius / lam:.1f}"),
            "Harrington 1960, one order of modes to spare",
            "An antenna inside a sphere this large can't do more and still work over a band.",
        )
    return sorted(found, key=lambda figure: figure.value)


def _axial(antenna: Antenna, frequency_hz: float) -> tuple[float, float, float] | None:
    """(circumference m, turns, spacing m) of a helix that sends along its axis; None of anything else."""
    if antenna.type != "helix" or not (antenna.turns and antenna.turn_spacing_m and antenna.diameter_m):
        return None
    circumference = math.pi * antenna.diameter_m
    if not aperture.is_axial_helix(circumference, antenna.turns, frequency_hz):
        return None
    return circumference, antenna.turns, antenna.turn_spacing_m


def _radius_m(antenna: Antenna, lam: float) -> float | None:
    """Of the sphere around it; across a boom, or whatever is known by its length alone, it is half a wavelength wide."""
    across = [s for s in (antenna.face_width_m, antenna.face_height_m, antenna.diameter_m) if s]
    if antenna.turns and antenna.turn_spacing_m and not antenna.length_m:
        across.append(antenna.turns * antenna.turn_spacing_m)
    if antenna.length_m and not across:
        across = [lam / 2]
    sizes = [antenna.length_m or 0.0, *across]
    return math.hypot(*sizes) / 2 if across else None


def best_known(antenna: Antenna, frequency_hz: float) -> Figure | None:
    """About the best gain that is published of antennas of its kind and size, dBi; None where nothing is known of them."""
    lam = wavelength(frequency_hz)
    if antenna.type == "yagi" and antenna.length_m:
        value = aperture.best_yagi_dbi(antenna.length_m, frequency_hz, antenna.elements)
        lines = ("11.4 + 7.8·log₁₀(L/λ) dBi; of close elements 7.4 and 9.7", f"L/λ = {antenna.length_m / lam:.2f}")
        return _best("Yagi of its boom", value, lines, "NBS Technical Note 688; optimised long Yagis; induced EMF")
    if antenna.type in ("collinear", "dipole") and antenna.length_m:
        value = aperture.broadside_line_gain_limit_dbi(antenna.length_m, frequency_hz)
        lines = ("2(L + λ/2)/λ", f"L/λ = {antenna.length_m / lam:.2f}")
        return _best("line of its length that sends all round", value, lines, "Balanis §6.4")
    axial = _axial(antenna, frequency_hz)
    if axial is not None:
        circumference, turns, spacing = axial
        value = aperture.best_helix_dbi(circumference, turns, spacing, frequency_hz)
        lines = ("8.3·(C/λ)^(√(N+2)−1)·(NS/λ)^0.8 …", f"N = {turns:g}")
        return _best("helix of its turns", value, lines, "King and Wong 1980")
    if antenna.face_width_m and antenna.face_height_m:
        value = aperture.best_face_dbi(antenna.face_width_m, antenna.face_height_m, frequency_hz)
        lines = ("0.64·4πA/λ², an eighth of a wavelength all round", f"λ = {show.length(lam)}")
        return _best("panel of its face", value, lines, "Johnson, Antenna Engineering Handbook, ch. 7")
    return None


def _best(kind: str, value: float, lines: tuple[str, ...], source: str) -> Figure:
    meaning = f"About the best published {kind}. A claim that stands over it may be true: ask how it was measured."
    return Figure(f"best known {kind}", value, 0.0, "dBi", Working(lines, (), source, meaning))


def _on_paper(
    claim: Claim, antenna: Antenna, limits: list[Figure], best: Figure | None, others: Sequence[Claim]
) -> ClaimOnPaper:
    words = claim_words(claim)
    if claim.quantity == "swr" and claim.value < 1.05:
        return ClaimOnPaper(claim, antenna, "possible", words, "Better than most benches can show.")
    if claim.quantity != "gain":
        return ClaimOnPaper(claim, antenna, "possible", words, "Nothing on paper speaks against it.")
    gain, lowest = claimed_gain_dbi(claim), limits[0] if limits else None
    if lowest is not None and gain - lowest.value > GRACE_DB:
        over = show.decibel(gain - lowest.value)
        why = f"{words} stands {over} above the {lowest.name}, {show.decibel(lowest.value, unit='dBi')}."
        return ClaimOnPaper(claim, antenna, "impossible", words, why, lowest)
    if best is not None and gain - best.value > GRACE_DB:
        over = show.decibel(gain - best.value)
        why = f"{words} stands {over} above the {best.name}, {show.decibel(best.value, unit='dBi')}: ask how it was measured."
        return ClaimOnPaper(claim, antenna, "doubted", words, why, best)
    needs = _needs_beam(gain, others)
    if claim.reference not in ("dBi", "dBd"):
        why = "dB over what? Read as dBi here; if it means dBd it claims 2.15 dB more. Ask the maker."
    elif lowest is not None or best is not None:
        known = lowest or best
        assert known is not None
        why = f"Possible: the {known.name} is {show.decibel(known.value, unit='dBi')}."
    else:
        why = "Note a size or a beam: then there is a limit to hold it against."
    standing: PaperStanding = "possible" if lowest is not None or best is not None else "no limit"
    return ClaimOnPaper(claim, antenna, standing, words, f"{why}{needs}", lowest or best)


def _needs_beam(gain_dbi: float, others: Sequence[Claim]) -> str:
    """What a gain takes in the plane that nobody stated, where one beamwidth is claimed: by two shapes of a clean beam, both told where
    they differ."""
    one = next((c for c in others if c.quantity == "beamwidth" and c.second_value is None), None)
    widths = aperture.other_beamwidth_deg(one.value, gain_dbi) if one is not None else ()
    if one is None or not widths:
        return ""
    low, high = round(widths[0]), round(widths[-1])
    width = f"{low}°" if low == high else f"{low}° to {high}°"
    return f" With a beam of {one.value:g}° it takes one of {width} in the other plane."


def find(
    evidence: Evidence, aims: Aims, drawer: Sequence[InDrawer], other_bands: Sequence[Evidence] = ()
) -> ShelfFinding:
    """The Shelf's finding; of the drawer what each piece takes, as Levels has it; `other_bands`: what the notebook holds of them."""
    question = evidence.question
    if question is None or not evidence.antennas:
        what = "Ask the question first: band, limit, place." if question is None else "Add the antennas to be compared."
        return ShelfFinding(
            what,
            "The Shelf holds what is to be tested: antennas, their sizes, and what is claimed of them.",
            Standing("nothing", "no antennas yet" if question else "no question yet"),
        )
    pieces = {one.piece.id: one for one in drawer}
    rows = _rows(evidence, question, pieces, other_bands)
    sentence, headline = _sentence(rows, aims)
    wave_m = wavelength(question.centre_hz)
    unsized = [row.antenna.name for row in rows if row.limit is None]
    detail = f"At {show.frequency(question.centre_hz)} a wavelength is {show.length(wave_m)}."
    if unsized:
        detail += f" No sizes or beams known for {show.join(unsized)}, so no gain limit."
    used = tuple(
        one
        for key, one in pieces.items()
        if one.piece.type in ("adapter", "cable") or any(key in a.through for a in evidence.antennas)
    )
    faults = {row.antenna.id: against([_of_connection(row, row.connection)]) for row in rows if row.connection}
    return ShelfFinding(sentence, detail, _standing(rows), _checks(rows), headline, rows, wave_m, used, faults=faults)


def _rows(
    evidence: Evidence, question: Question, pieces: Mapping[str, InDrawer], other_bands: Sequence[Evidence]
) -> tuple[ShelfRow, ...]:
    """Each antenna with its claims on paper, its limit, and what it is screwed onto."""
    power_w = evidence.home_end.most_w if evidence.home_end else None
    rows = []
    for antenna in evidence.antennas:
        claims = evidence.claims(antenna.id)
        limits, papers = _papers(evidence, question, antenna)
        here = {claim.id for claim in claims}
        elsewhere = [
            paper
            for other in other_bands
            if other.question is not None
            for paper in _papers(other, other.question, antenna)[1]
            if paper.claim.id not in here
        ]
        gains = [claimed_gain_dbi(claim) for claim in claims if claim.quantity == "gain"]
        sizes = [s for s in (antenna.length_m, antenna.face_width_m, antenna.face_height_m, antenna.diameter_m) if s]
        rows.append(
            ShelfRow(
                antenna,
                papers,
                limits[0] if limits else None,
                max(gains, default=None),
                connect(antenna, pieces, question, power_w),
                max(sizes, default=None),
                tuple(elsewhere),
            )
        )
    return tuple(rows)


def _papers(evidence: Evidence, question: Question, antenna: Antenna) -> tuple[list[Figure], tuple[ClaimOnPaper, ...]]:
    """(limits of the gain, the claims held against them) of one antenna in one band."""
    claims = evidence.claims(antenna.id)
    limits = gain_limits(antenna, claims, question.centre_hz)
    best = best_known(antenna, question.centre_hz)
    return limits, tuple(_on_paper(claim, antenna, limits, best, claims) for claim in claims)


def _checks(rows: Sequence[ShelfRow]) -> tuple[Check, ...]:
    checks: list[Check] = []
    for row in rows:
        for paper in row.every_claim:
            if paper.impossible:
                words = f"{row.antenna.name}: {paper.words} is impossible"
                checks.append(Check("fails", words, paper.limit, paper.why))
            elif paper.standing == "doubted":
                words = f"{row.antenna.name}: {paper.words} is more than is known of its kind"
                checks.append(Check("disagrees", words, paper.limit, paper.why))
            elif paper.claim.quantity == "gain" and paper.claim.reference not in ("dBi", "dBd"):
                checks.append(Check("open", f"{row.antenna.name}: dB over what?", paper.limit, paper.why))
        known = row.antenna.known_gain_dbi
        if row.antenna.type == "dipole" and known is not None and abs(known) < NO_GAIN_DB:
            why = (
                "A half-wave dipole is 0 dBd, which is 2.15 dBi: everything held against it would come out 2.15 dB low."
            )
            checks.append(Check("disagrees", f"{row.antenna.name}: a dipole of {known:g} dBi?", None, why))
        if row.connection and row.connection.mark != "holds":
            checks.append(_of_connection(row, row.connection))
    joined = [row.connection for row in rows if row.connection]
    if joined and all(c.mark == "holds" for c in joined):
        lossy = next((c.loss for c in joined if c.loss), None)
        checks.append(Check("holds", "connectors mate", lossy, " ".join(c.check.why for c in joined)))
    return tuple(checks)


def _of_connection(row: ShelfRow, connection: Connection) -> Check:
    c = connection.check
    return Check(c.mark, f"{row.antenna.name}: {c.text}", c.figure, c.why)


def _claims(rows: Sequence[ShelfRow], standing: PaperStanding) -> list[ClaimOnPaper]:
    return [paper for row in rows for paper in row.every_claim if paper.standing == standing]


def _sentence(rows: Sequence[ShelfRow], aims: Aims) -> tuple[str, Figure | None]:
    """What the shelf comes to, and the figure behind it."""
    impossible, doubted = _claims(rows, "impossible"), _claims(rows, "doubted")
    if len(impossible) > 1:
        which = show.join([p.antenna.name + " " + p.words for p in impossible])
        many = show.upper_first(show.count(len(impossible), "claim"))
        return f"{many} can't be true as stated: {which}.", impossible[0].limit
    if impossible:
        first = impossible[0]
        return f"{first.antenna.name} can't have {first.words}: {_because(first)}.", first.limit
    if doubted:
        first = doubted[0]
        words = f"{first.antenna.name}’s {first.words} would be more than is known of its kind: {_because(first)}."
        return words, first.limit
    focus = next((row for row in rows if row.antenna.id == aims.focus_id), rows[0])
    headline = focus.limit or next((row.limit for row in rows if row.limit), None)
    nouns, claims = show.upper_first(show.count(len(rows), "antenna")), sum(len(row.every_claim) for row in rows)
    if claims == 0:
        return f"{nouns} on the shelf; nothing is claimed of {'it' if len(rows) == 1 else 'them'}.", headline
    unheld = len(_claims(rows, "no limit"))
    if unheld:
        which = "it" if claims == 1 else show.count(unheld, "gain") if unheld < claims else "them"
        return f"{nouns}, {show.count(claims, 'claim')}; no size or beam to judge {which} by.", headline
    possible = "which is" if claims == 1 else "all of which are"
    return f"{nouns} and {show.count(claims, 'claim')}, {possible} possible on paper.", headline


def _standing(rows: Sequence[ShelfRow]) -> Standing:
    impossible, doubted = len(_claims(rows, "impossible")), len(_claims(rows, "doubted"))
    if impossible:
        return Standing("disagreement", f"{impossible} impossible claim{'s' if impossible != 1 else ''}")
    if doubted:
        return Standing("disagreement", f"{doubted} doubtful claim{'s' if doubted != 1 else ''}")
    return Standing("done", f"{len(rows)} antenna{'s' if len(rows) != 1 else ''}")


def _because(paper: ClaimOnPaper) -> str:
    assert paper.limit is not None
    value = show.decibel(paper.limit.value, unit="dBi")
    if paper.standing == "doubted":
        return f"the {paper.limit.name} has about {value}"
    return f"{paper.limit.name.removeprefix('limit from ')} allows {value} at most"


def claim_mark(impossible: bool, mark: Mark) -> ClaimMark:
    """One word for a claim's fate: what paper forbids stays impossible whatever was measured."""
    if impossible:
        return "impossible"
    return "open" if mark == "disagrees" else mark
