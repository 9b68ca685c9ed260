"""Published antennas against the Shelf's limits: none is called impossible, and claims above the best are doubted.

Sizes in wavelengths, gains in dBi, from the books and papers named. `best`: nothing of its kind and size is known to do
better, so that two decibels more must be doubted.
"""

from dataclasses import dataclass

import pytest

from tallmast.physics.constants import wavelength

from .build import Book

LAMBDA = wavelength(869e6)


@dataclass(frozen=True)
class Published:
    name: str
    type: str
    gain_dbi: float
    source: str
    best: bool = True
    length: float | None = None
    face: tuple[float, float] | None = None
    helix: tuple[float, float, float] | None = None
    """Circumference and spacing in wavelengths, turns."""
    beams: tuple[float, float | None] | None = None


NBS = "Viezbicke, NBS Technical Note 688 (1976), Table 1"
BALANIS = "Balanis, Antenna Theory, 3rd ed."
KRAUS = "Kraus, Antennas, 2nd ed."
KING = "King and Wong, IEEE Trans. AP 28 (1980)"
JOHNSON = "Johnson, Antenna Engineering Handbook, 3rd ed."

ANTENNAS = [
    Published("short dipole", "dipole", 1.76, f"{BALANIS}, §4.2", length=0.1, beams=(90, 360)),
    Published("half-wave dipole", "dipole", 2.15, f"{BALANIS}, §4.6", length=0.48, beams=(78, 360)),
    Published("full-wave dipole", "dipole", 3.82, f"{BALANIS}, §4.5", length=1.0, beams=(47.8, 360)),
    Published("1.25 λ double Zepp", "dipole", 5.2, f"{BALANIS}, §4.5: 3.25 at 1.25 λ", length=1.25, beams=(32, 360)),
    Published("two collinear half-waves", "collinear", 3.8, f"{KRAUS}, ch. 11", length=1.0),
    Published("three collinear half-waves", "collinear", 5.3, f"{KRAUS}, ch. 11", length=1.5),
    Published("four collinear half-waves", "collinear", 6.4, f"{KRAUS}, ch. 11", length=2.0),
    Published("eight collinear half-waves", "collinear", 9.1, f"{KRAUS}, ch. 11", length=4.0),
    Published("short whip on a plate", "whip", 4.77, f"{BALANIS}, §4.7", length=0.05, beams=(45, 360)),
    Published("quarter-wave whip on a plate", "whip", 5.15, f"{BALANIS}, §4.7", length=0.25, beams=(39, 360)),
    Published("half-wave whip on a plate", "whip", 6.8, f"{BALANIS}, §4.7", length=0.5),
    Published("5/8 whip on a plate", "whip", 8.2, f"{JOHNSON}, ch. 4", length=0.625, beams=(16, 360)),
    Published("quarter-wave whip on a car, measured", "whip", 3.0, f"{JOHNSON}, ch. 39", best=False, length=0.25),
    Published("two close elements", "yagi", 7.4, "Brown, Proc. IRE 25 (1937)", length=0.1),
    Published("NBS 3 elements", "yagi", 9.25, NBS, length=0.4),
    Published("NBS 5 elements", "yagi", 11.35, NBS, length=0.8),
    Published("NBS 6 elements", "yagi", 12.35, NBS, length=1.2),
    Published("NBS 12 elements", "yagi", 14.4, NBS, length=2.2),
    Published("NBS 17 elements", "yagi", 15.55, NBS, length=3.2),
    Published("NBS 15 elements", "yagi", 16.35, NBS, length=4.2),
    Published("6 elements, optimised", "yagi", 13.4, "Cheng and Chen, IEEE Trans. AP 21 (1973)", length=1.5),
    Published("6 elements before that", "yagi", 10.9, "Cheng and Chen 1973", best=False, length=1.5),
    Published("10 λ Yagi", "yagi", 19.2, f"{JOHNSON}, ch. 12", length=10.0),
    Published("two-element quad", "other", 9.1, f"{JOHNSON}, ch. 5", best=False, length=0.2),
    Published("full-wave loop", "other", 3.4, f"{BALANIS}, §5.3", best=False, length=0.32),
    Published("small loop", "other", 1.76, f"{BALANIS}, §5.2", best=False, length=0.05, beams=(90, 360)),
    Published("helix of 5 turns", "helix", 10.9, KING, helix=(1.12, 0.248, 5)),
    Published("helix of 10 turns", "helix", 13.0, KING, helix=(1.10, 0.25, 10)),
    Published("helix of 18 turns", "helix", 15.2, KING, helix=(1.08, 0.245, 18)),
    Published("helix of 35 turns", "helix", 17.2, KING, helix=(1.05, 0.238, 35)),
    Published("patch", "panel", 7.3, f"{BALANIS}, §14.2", face=(0.395, 0.302), beams=(80, 75)),
    Published("dipole before a plate", "panel", 7.5, f"{KRAUS}, §12-2", best=False, face=(1.0, 1.0)),
    Published("2 × 2 patches", "panel", 12.8, f"{JOHNSON}, ch. 7", face=(1.3, 1.3)),
    Published("4 × 4 patches", "panel", 18.8, f"{JOHNSON}, ch. 7", face=(3.0, 3.0)),
    Published("8 × 8 patches", "panel", 24.5, f"{JOHNSON}, ch. 7", face=(6.0, 6.0)),
    Published(
        "sector panel, one beam named", "panel", 17.0, f"{JOHNSON}, ch. 27", False, face=(0.93, 7.8), beams=(65, None)
    ),
    Published("sector panel", "panel", 18.0, f"{JOHNSON}, ch. 27", face=(0.93, 7.8), beams=(65, 7)),
    Published("dish of 10 λ, 70 %", "other", 28.4, f"{BALANIS}, §15.4", face=(10.0, 10.0)),
    Published("dish of 30 λ, 70 %", "other", 37.9, f"{BALANIS}, §15.4", face=(30.0, 30.0)),
    Published("standard-gain horn", "other", 15.0, "Slayton, NRL Report 4433 (1954)", best=False, face=(2.5, 2.0)),
]


def on_paper(antenna: Published, gain_dbi: float):
    sizes = {"length_m": antenna.length and antenna.length * LAMBDA}
    if antenna.face:
        sizes |= {"face_width_m": antenna.face[0] * LAMBDA, "face_height_m": antenna.face[1] * LAMBDA}
    if antenna.helix:
        c, s, n = antenna.helix
        sizes |= {"diameter_m": c * LAMBDA / 3.14159265, "turn_spacing_m": s * LAMBDA, "turns": n}
    book = Book()
    a = book.antenna("Real", type=antenna.type, **sizes)
    book.claim(a, "gain", gain_dbi, reference="dBi")
    if antenna.beams:
        book.claim(a, "beamwidth", antenna.beams[0], second_value=antenna.beams[1])
    return book.climb().shelf.rows[0].claims[0]


@pytest.mark.parametrize("antenna", ANTENNAS, ids=lambda a: a.name)
def test_what_is_published_is_possible(antenna):
    paper = on_paper(antenna, antenna.gain_dbi)
    assert paper.standing == "possible", paper.why


@pytest.mark.parametrize("antenna", [a for a in ANTENNAS if a.best], ids=lambda a: a.name)
def test_two_decibels_over_the_best_is_doubted(antenna):
    assert on_paper(antenna, antenna.gain_dbi + 2.0).standing in ("doubted", "impossible")


def test_there_are_thirty_of_them_with_sources():
    assert len(ANTENNAS) >= 30 and all(a.source for a in ANTENNAS)
    assert len({a.name for a in ANTENNAS}) == len(ANTENNAS)


def test_a_doubted_claim_is_told_with_what_is_known():
    book = Book()
    yagi = book.antenna("Long One", type="yagi", length_m=2.2 * LAMBDA)
    book.claim(yagi, "gain", 17, reference="dBi")
    shelf = book.climb().shelf
    # 11.4 + 7.8·log10 2.2 = 14.07 dBi.
    assert shelf.sentence == (
        "Long One’s 17 dBi would be more than is known of its kind: the best known Yagi of its boom has about 14.1 dBi."
    )
    assert shelf.standing.words == "1 doubtful claim"
    assert [c.mark for c in shelf.checks] == ["disagrees"]


def test_one_beam_alone_is_no_limit():
    book = Book()
    panel = book.antenna("Panel")
    book.claim(panel, "gain", 17, reference="dBi")
    book.claim(panel, "beamwidth", 65)
    assert book.climb().shelf.rows[0].limit is None
