"""What is claimed of sixty antennas that can be built is never called impossible; twenty claims that are false are all named.

Gains are computed here from the antennas' currents (`antennas.py`), or stand in the table that the row names. One wavelength is a metre.
"""

import math

import pytest

from tallmast.notebook.records import Claim

from . import antennas
from .build import Book

HZ = 299_792_458.0


def db(ratio: float) -> float:
    return 10 * math.log10(ratio)


def cosine(width_deg: float) -> float:
    """U = cosⁿθ, D₀ = 2(n + 1) (Balanis §2.6), of a half-power width."""
    return 2 * (math.log(0.5) / math.log(math.cos(math.radians(width_deg / 2))) + 1)


def king_and_wong(turns: int) -> float:
    """C/λ 1.05, 12.8° (King and Wong 1980, eq. 1)."""
    c, s = 1.05, 1.05 * math.tan(math.radians(12.8))
    return db(
        8.3
        * c ** (math.sqrt(turns + 2) - 1)
        * (turns * s) ** 0.8
        * (math.tan(math.radians(12.5)) / (s / c)) ** (turns**0.5 / 2)
    )


def line(length):
    return {"type": "dipole", "length_m": length}


def array(count, apart):
    return {"type": "collinear", "length_m": (count - 1) * apart + 0.5}


def helix(turns, circumference=1.05, pitch_deg=12.8):
    spacing = circumference * math.tan(math.radians(pitch_deg))
    return {"type": "helix", "turns": turns, "turn_spacing_m": spacing, "diameter_m": circumference / math.pi}


def face(width, height):
    return {"type": "panel", "face_width_m": width, "face_height_m": height}


def yagi(boom, elements):
    return {"type": "yagi", "length_m": boom, "elements": elements}


MAST = antennas.before_a_mast(0.3, 0.1)
VIEZBICKE = {0.4: 7.1, 0.8: 9.2, 1.2: 10.2, 2.2: 12.25, 3.2: 13.4, 4.2: 14.2}
"""Boom in wavelengths → dB over a dipole (Viezbicke, NBS Technical Note 688, 1976, Table 1)."""

REAL: list[tuple[str, dict, float, tuple[float, ...]]] = [
    *((f"dipole of {x} λ", line(x), db(antennas.dipole_gain(x)), ()) for x in (0.02, 0.1, 0.25, 0.5, 1.0, 1.25)),
    *(
        (f"whip of {x} λ on a plate", {"type": "whip", "length_m": x}, db(antennas.monopole_gain(x)), ())
        for x in (0.02, 0.1, 0.25, 0.5, 0.625)
    ),
    *((f"{n} dipoles in a line", array(n, 0.85), db(antennas.stacked(n, 0.85)), ()) for n in (2, 3, 4, 6, 8, 12)),
    *((f"{n} dipoles on one side of a mast", array(n, 0.9), db(antennas.stacked(n, 0.9, MAST)), ()) for n in (1, 2, 4)),
    ("four dipoles on one side of a mast, 9 dBd", array(4, 1.0), 9.0 + 2.15, ()),
    *(
        (f"Yagi of NBS, {x} λ", yagi(x, n), over + 2.15, ())
        for (x, over), n in zip(VIEZBICKE.items(), (3, 5, 6, 12, 17, 15), strict=True)
    ),
    *((f"two elements, {x} λ", yagi(x, 2), db(antennas.yagi_gain(-x, 0.0)), ()) for x in (0.1, 0.15, 0.2)),
    *(
        (f"three elements, {2 * x} λ", yagi(2 * x, 3), db(antennas.yagi_gain(-x, 0.0, x)), ())
        for x in (0.1, 0.125, 0.15, 0.175)
    ),
    *((f"patch over air, {w} λ wide", face(w, 0.48), db(antennas.two_slots(w, 0.48)), ()) for w in (0.5, 0.6)),
    *((f"corner, dipole at {x} λ", face(2.0, 1.0), db(antennas.corner(x)), ()) for x in (0.35, 0.5)),
    *((f"even field over {w} by {h} λ", face(w, h), db(4 * math.pi * w * h), ()) for w, h in ((2, 2), (3, 1), (6, 6))),
    *((f"horn of {w} by {h} λ", face(w, h), db(0.51 * 4 * math.pi * w * h), ()) for w, h in ((3, 2.2), (6, 4.5))),
    *((f"dish of {d} λ", face(d, d), db(0.7 * (math.pi * d) ** 2), ()) for d in (8, 20)),
    *((f"helix of {n} turns", helix(n), king_and_wong(n), ()) for n in (5, 8, 12, 20, 35)),
    ("normal-mode helix, good", helix(8, 0.1), 1.7, ()),
    ("normal-mode helix, as in a handheld", helix(20, 0.05), -3.0, ()),
    (
        "half-turn quadrifilar, a cardioid",
        helix(0.5, 0.55, 50),
        db(antennas.by_integral(lambda t, p: (1 + antennas.np.cos(t)) ** 4)),
        (),
    ),
    ("half-turn quadrifilar, 5 dBic", helix(0.5, 0.55, 50), 5.0, ()),
    (
        "small loop",
        {"type": "other", "face_width_m": 0.05, "face_height_m": 0.05},
        db(antennas.by_integral(lambda t, p: antennas.np.sin(t) ** 2)),
        (),
    ),
    (
        "crossed dipoles",
        {"type": "other", "length_m": 0.5},
        db(antennas.by_integral(lambda t, p: 1 + antennas.np.cos(t) ** 2)),
        (),
    ),
    *((f"cosⁿ beam of {w}°", {"type": "other"}, db(cosine(w)), (w, w)) for w in (40, 60, 90, 110, 120, 140, 160)),
    *(
        (f"dipole of {x} λ by its beam", {"type": "dipole"}, db(antennas.dipole_gain(x)), (360, w))
        for x, w in ((0.1, 89), (0.5, 78), (1.0, 47))
    ),
    ("sector of 120° by 15°", face(0.5, 3.2), 14.0, (120, 15)),
]

FALSE: list[tuple[str, dict, float, tuple[float, ...]]] = [
    ("a quarter-wave whip of 9 dBi", {"type": "whip", "length_m": 0.25}, 9.0, ()),
    ("a short whip of 7 dBi", {"type": "whip", "length_m": 0.05}, 7.0, ()),
    ("a half-wave dipole of 8 dBi", line(0.5), 8.0, ()),
    ("a half-wave dipole of 5 dBi", line(0.5), 5.0, ()),
    ("a collinear of a wavelength, 9 dBi", {"type": "collinear", "length_m": 1.0}, 9.0, ()),
    ("a collinear of two wavelengths, 9 dBi", {"type": "collinear", "length_m": 2.0}, 9.0, ()),
    ("a Yagi of 0.4 λ, 13 dBi", yagi(0.4, 4), 13.0, ()),
    ("a Yagi of two elements, 10 dBi", yagi(0.15, 2), 10.0, ()),
    ("a Yagi of 2 λ, 17 dBi", yagi(2.0, 10), 17.0, ()),
    ("a helix of 5 turns, 15 dBi", helix(5), 15.0, ()),
    ("a helix of 10 turns, 18 dBi", helix(10), 18.0, ()),
    ("a stub of a helix, 12 dBi", helix(6, 0.1), 12.0, ()),
    ("a patch of half a wavelength, 13 dBi", face(0.5, 0.5), 13.0, ()),
    ("a panel of one wavelength, 15 dBi", face(1.0, 1.0), 15.0, ()),
    ("a panel of 110° by 110°, 11 dBi", {"type": "panel"}, 11.0, (110, 110)),
    ("a beam of 60° by 60°, 14 dBi", {"type": "other"}, 14.0, (60, 60)),
    ("a beam of 30° by 30°, 20 dBi", {"type": "other"}, 20.0, (30, 30)),
    ("an omni with 20° up and down, 12 dBi", {"type": "collinear"}, 12.0, (360, 20)),
    ("a sector of 160° by 40°, 13 dBi", {"type": "panel"}, 13.0, (160, 40)),
    ("a dish of 2 λ, 20 dBi", face(2.0, 2.0), 20.0, ()),
]


def on_paper(size: dict, gain_dbi: float, beam: tuple[float, ...]):
    book = Book()
    book.add(book.records["question"].revised(band_low_hz=HZ, band_high_hz=HZ))
    a = book.antenna("A", **size)
    book.claim(a, "gain", round(gain_dbi, 2), reference="dBi")
    if beam:
        book.add(Claim(antenna_id="a", quantity="beamwidth", value=beam[0], second_value=beam[1]))
    (row,) = book.climb(a).shelf.rows
    return next(c for c in row.claims if c.claim.quantity == "gain")


def test_there_are_sixty_of_them():
    assert len(REAL) >= 60 and len(FALSE) == 20


@pytest.mark.parametrize(("name", "size", "gain_dbi", "beam"), REAL, ids=[row[0] for row in REAL])
def test_what_can_be_built_is_not_impossible(name, size, gain_dbi, beam):
    told = on_paper(size, gain_dbi, beam)
    assert not told.impossible, f"{name}, {gain_dbi:.1f} dBi: {told.why}"


@pytest.mark.parametrize(("name", "size", "gain_dbi", "beam"), FALSE, ids=[row[0] for row in FALSE])
def test_what_can_t_be_is_named(name, size, gain_dbi, beam):
    told = on_paper(size, gain_dbi, beam)
    assert told.standing in ("impossible", "doubted"), f"{name}: {told.why}"


def test_close_elements_and_air_patches_are_not_even_doubted():
    close = [row for row in REAL if row[0].startswith(("three elements", "two elements", "patch over air"))]
    assert len(close) == 9
    for name, size, gain_dbi, beam in close:
        assert on_paper(size, gain_dbi, beam).standing == "possible", (name, gain_dbi)


def test_the_calculator_gives_the_textbook():
    """Balanis §4.5–4.6: half-wave 1.643, one wave 2.411, 1.25 λ 3.28; Carter's 73.1 Ω and −12.5 − 29.9j at half a wavelength."""
    assert antennas.dipole_gain(0.5) == pytest.approx(1.643, abs=0.003)
    assert antennas.dipole_gain(1.0) == pytest.approx(2.411, abs=0.005)
    assert antennas._resistance(0.5) == pytest.approx(-12.53 - 29.93j, abs=0.05)


def test_one_number_for_a_wide_beam_tells_the_other_plane():
    book = Book()
    a = book.antenna("A", type="panel")
    book.claim(a, "gain", 13.0, reference="dBi")
    book.claim(a, "beamwidth", 160.0)
    gain = next(c for c in book.climb(a).shelf.rows[0].claims if c.claim.quantity == "gain")
    # 41 253/(160·20) = 12.9°, 32 400/(160·20) = 10.1°: clean shapes between.
    assert "With a beam of 160° it takes one of 10° to 1" in gain.why
