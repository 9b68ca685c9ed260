"""Several bands: each has its limit and its own readings; a sweep of one never hides another's."""

import numpy as np
import pytest

from tallmast.notebook.records import Band
from tallmast.notebook.records.lists import bands, bands_text
from tallmast.physics.resonance import series_gamma
from tallmast.units.read import UnitError

from .build import Book

LOW, HIGH = np.linspace(140e6, 150e6, 201), np.linspace(420e6, 450e6, 201)


def two_bands() -> Book:
    book = Book()
    question = book.records["question"]
    further = [Band(low_hz=430e6, high_hz=440e6, swr_limit=2.0)]
    book.add(question.revised(band_low_hz=144e6, band_high_hz=146e6, swr_limit=1.5, further=further))
    stub = book.antenna("Stub")
    book.sweep(stub, series_gamma(LOW, 145e6, 48, 8), LOW)
    book.sweep(stub, 0.45, HIGH)
    book.claim(stub, "swr", 1.5, at_hz=435e6)
    return book


def test_a_sweep_of_one_band_never_hides_anothers():
    book = two_bands()
    stub = book.records["stub"]
    low = book.climb(stub).bench.antennas[0]
    high = book.climb(stub, band=1).bench.antennas[0]
    assert (low.limit_mark, high.limit_mark) == ("holds", "fails")
    assert low.worst.value < 1.4 and high.worst.value == pytest.approx(2.64, abs=0.05)


def test_every_band_stands_in_one_table_with_its_limit_and_its_claim():
    from tallmast.findings.tables import bench as tables

    book = two_bands()
    climb = book.climb(book.records["stub"])
    table = tables.bands(climb.bands)
    assert [head.split(",")[0] for head in table.heads] == ["Antenna", "144–146 MHz", "430–440 MHz"]
    ((name, low, high),) = [row.cells for row in table.rows]
    assert name.text == "Stub" and low.mark == "holds" and high.mark == "fails"
    assert "claimed 1.5: fails" in high.text and "claimed" not in low.text


def test_a_claim_and_a_run_are_those_of_their_band():
    book = two_bands()
    stub = book.records["stub"]
    book.run(stub, 1, channel_hz=145.5e6)
    book.run(stub, 2, channel_hz=433e6)
    book.run(stub, 3)
    first, second = book.climb(stub), book.climb(stub, band=1)
    assert [r.number for r in first.evidence.runs] == [1, 3], "of no channel noted: the first band's, once"
    assert [r.number for r in second.evidence.runs] == [2]
    for climb in (first, second):
        (fate,) = climb.verdict.claims
        assert (fate.mark, fate.words) == ("fails", "SWR ≤ 1.5 at 435 MHz"), "whichever band is in front"
        ((paper,),) = [row.every_claim for row in climb.shelf.rows]
        assert paper.words == fate.words
    assert len(first.whole.runs) == 3, "nothing is lost of the whole"


def test_a_claim_for_another_band_is_held_against_that_bands_wavelength():
    """60 cm in one line of elements that sends all round: 3.2 dBi at 435 MHz is possible; the same at 145 MHz is not."""
    book = two_bands()
    line = book.antenna("Line", type="collinear", length_m=0.6)
    book.claim(line, "gain", 5.0, reference="dBi", at_hz=435e6)
    book.claim(line, "gain", 5.0, reference="dBi", at_hz=145e6)
    for band in (0, 1):
        shelf = book.climb(line, band=band).shelf
        papers = {p.claim.at_hz: p for row in shelf.rows if row.antenna.id == "line" for p in row.every_claim}
        assert (papers[435e6].standing, papers[145e6].standing) == ("possible", "doubted")


def test_with_one_band_nothing_is_another():
    book = Book()
    a = book.antenna("A")
    book.sweep(a, 0.2)
    climb = book.climb(a, band=3)
    assert climb.evidence is climb.whole and climb.bands == ()


@pytest.mark.parametrize(
    ("text", "limits"),
    [
        ("430-440 MHz 2", [2.0]),
        ("430–440 MHz; 1240 to 1300 MHz 2.5", [1.5, 2.5]),
        ("430-440 MHz SWR 3:1", [3.0]),
        ("", []),
    ],
)
def test_bands_as_people_write_them(text, limits):
    made = bands(text)
    assert [b.swr_limit for b in made] == limits
    assert bands(bands_text(made)) == made


@pytest.mark.parametrize("text", ["seventy", "430-440 MHz 0.5", "430-440 MHz 2 3"])
def test_what_is_no_band(text):
    with pytest.raises(UnitError):
        bands(text)
