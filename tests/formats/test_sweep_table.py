"""Sweeps as tables: every way in which what came back is written, and what can be wrong with it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tallmast.formats import sniff, sweep_table
from tallmast.formats.errors import FormatError
from tallmast.formats.sweep_table import Mapping

MHZ = np.array([860.0, 865.0, 870.0, 875.0])
GAMMA = np.array([0.3 + 0.1j, 0.05 - 0.02j, -0.2 + 0.25j, 0.4 - 0.1j])
SIZE, ANGLE = np.abs(GAMMA), np.degrees(np.angle(GAMMA))
Z = 50 * (1 + GAMMA) / (1 - GAMMA)
SWR = (1 + SIZE) / (1 - SIZE)


def text(head: str, *columns, separator=",", first=MHZ) -> bytes:
    rows = [separator.join(f"{v:.9g}" for v in row) for row in zip(first, *columns, strict=True)]
    return "\n".join([head, *rows] if head else rows).encode()


@pytest.mark.parametrize(
    ("head", "columns", "meaning"),
    [
        ("Frequency (MHz),Re,Im", (GAMMA.real, GAMMA.imag), "real and imaginary"),
        ("freq_MHz,s11_re,s11_im", (GAMMA.real, GAMMA.imag), "real and imaginary"),
        ("f MHz,|S11|,phase", (SIZE, ANGLE), "magnitude and angle"),
        ("MHz,S11 dB,angle", (20 * np.log10(SIZE), ANGLE), "dB and angle"),
        ("MHz,return loss,phase deg", (-20 * np.log10(SIZE), ANGLE), "dB and angle"),
        ("Frequenz MHz,R,X", (Z.real, Z.imag), "R and X"),
        ("f/MHz,|Z|/Ohm,phase/deg", (np.abs(Z), np.degrees(np.angle(Z))), "Z and angle"),
        ("MHz,Impedance,angle", (np.abs(Z), np.degrees(np.angle(Z))), "Z and angle"),
    ],
)
def test_every_way_of_writing_it_is_guessed_and_read(head, columns, meaning):
    data = text(head, *columns)
    assert sniff.kind_of(data, "x.csv") == "sweep table"
    read = sweep_table.read(data, "x.csv")
    assert read.mapping.meaning == meaning
    assert read.phase_known
    np.testing.assert_allclose(read.reflection.gamma, GAMMA, atol=1e-7)
    np.testing.assert_allclose(read.reflection.frequency_hz, MHZ * 1e6)


@pytest.mark.parametrize(
    ("head", "column", "meaning"),
    [("MHz,SWR", SWR, "SWR"), ("MHz,S11 dB", 20 * np.log10(SIZE), "dB"), ("MHz,rho", SIZE, "magnitude")],
)
def test_without_a_phase_the_size_is_all_that_is_known(head, column, meaning):
    read = sweep_table.read(text(head, column), "x.csv")
    assert read.mapping.meaning == meaning
    assert not read.phase_known
    assert "no phase" in read.reflection.notes[-1]
    np.testing.assert_allclose(np.abs(read.reflection.gamma), SIZE, atol=1e-7)


@pytest.mark.parametrize(
    ("unit", "scale", "head"),
    [("Hz", 1e6, ""), ("kHz", 1e3, ""), ("MHz", 1.0, "frequency,re,im"), ("GHz", 1e-3, "frequency,re,im")],
)
def test_the_unit_is_told_by_the_numbers_where_no_header_does(unit, scale, head):
    read = sweep_table.read(text(head, GAMMA.real, GAMMA.imag, first=MHZ * scale), "x.csv")
    assert read.mapping.unit == unit
    np.testing.assert_allclose(read.reflection.frequency_hz, MHZ * 1e6)


def test_the_guess_can_be_corrected():
    data = text("MHz,a,b", ANGLE, SIZE)
    with pytest.raises(FormatError, match=r"\|Γ\| would be"):
        sweep_table.read(data, "x.csv")
    mended = sweep_table.read(data, "x.csv", Mapping("MHz", "MHz", "magnitude and angle", "b", "a"))
    np.testing.assert_allclose(mended.reflection.gamma, GAMMA, atol=1e-7)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"MHz,SWR\n860,1.2\n861,0.4\n862,1.3\n", "line 3: an SWR of 0.4"),
        (b"MHz,re,im\n860,0.1,0.1\n861,,0.1\n862,0.1,0\n", "line 3: the value in column “re”"),
        (b"MHz,re,im\n-860,0.1,0.1\n861,0.1,0.1\n862,0.1,0\n", "line 2: a frequency of zero or less"),
        (b"MHz,re,im\n860,0.1,0.1\n861,0.1,0.1\n", "only 2 frequencies"),
        (b"MHz,S11 dB\n860,-10\n861,12\n862,-3\n", "both well above and below zero"),
    ],
)
def test_what_is_wrong_is_told_with_its_line(data, words):
    with pytest.raises(FormatError, match=words):
        sweep_table.read(data, "x.csv")


def test_order_and_repeats_are_noted():
    read = sweep_table.read(b"MHz,re,im\n870,0.3,0\n860,0.1,0\n865,0.2,0\n865,0.9,0\n", "x.csv")
    assert read.reflection.gamma.real.tolist() == [0.1, 0.2, 0.3]
    assert len(read.reflection.notes) == 2


def test_cuts_and_logs_are_not_taken_for_sweeps():
    angles = "\n".join(f"{a};{-a / 36:.2f}" for a in range(0, 360, 10)).encode()
    assert sniff.kind_of(angles, "x.csv") == "cut"
    assert sniff.kind_of(b"time,lat,lon,rssi,freq\n1,57.9,-11.2,-60,868\n2,57.9,-11.2,-61,868\n", "x.csv") == "log"


@given(st.lists(st.tuples(st.floats(-0.9, 0.9), st.floats(-0.4, 0.4)), min_size=3, max_size=20))
def test_what_is_written_is_read_back_to_the_last_digit(pairs):
    gamma = np.array([complex(a, b) for a, b in pairs])
    frequency = np.linspace(1.1e6, 7.7e9, len(gamma))
    read = sweep_table.read(sweep_table.write(frequency, gamma).encode(), "x.csv")
    np.testing.assert_array_equal(read.reflection.gamma, gamma)
    np.testing.assert_array_equal(read.reflection.frequency_hz, frequency)


@given(st.data())
def test_mutated_tables_are_read_or_refused_never_worse(data):
    raw = bytearray(text("MHz,re,im", GAMMA.real, GAMMA.imag))
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(raw) - 1))
        raw[at : at + data.draw(st.integers(0, 4))] = data.draw(st.binary(max_size=4))
        if not raw:
            break
    try:
        read = sweep_table.read(bytes(raw), "x.csv")
    except FormatError as error:
        assert str(error).startswith("x.csv")
    else:
        assert np.isfinite(read.reflection.gamma).all()
        assert (np.diff(read.reflection.frequency_hz) > 0).all()


def test_a_frequency_column_without_a_number_is_told():
    with pytest.raises(FormatError, match="line 2"):
        sweep_table.read(b"frequency MHz,SWR\nnan,1.2\nnan,1.3\nnan,1.4\n", "x.csv")
