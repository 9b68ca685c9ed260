"""Touchstone in every number format and unit, and every way in which a file can be wrong."""

import io
import re
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from skrf.io.touchstone import Touchstone

from tallmast.formats import touchstone
from tallmast.formats.errors import FormatError

GAMMA = np.array([0.3 + 0.1j, 0.05 - 0.02j, -0.2 + 0.25j])
FREQ = np.array([860e6, 869e6, 878e6])


def written(unit: str, number: str, reference: str = "50", option: str | None = None) -> bytes:
    scale = {"Hz": 1, "kHz": 1e3, "MHz": 1e6, "GHz": 1e9}[unit]
    lines = ["! made by hand", option or f"# {unit} S {number} R {reference}"]
    for f, g in zip(FREQ, GAMMA, strict=True):
        a, b = {
            "RI": (g.real, g.imag),
            "MA": (abs(g), np.degrees(np.angle(g))),
            "DB": (20 * np.log10(abs(g)), np.degrees(np.angle(g))),
        }[number]
        lines.append(f"{f / scale:.9g} {a:.12g} {b:.12g} ! remark")
    return ("\r\n".join(lines) + "\r\n").encode()


@pytest.mark.parametrize("unit", ["Hz", "kHz", "MHz", "GHz"])
@pytest.mark.parametrize("number", ["RI", "MA", "DB"])
def test_every_unit_and_number_format(unit, number):
    read = touchstone.read(written(unit, number), "x.s1p")
    np.testing.assert_allclose(read.frequency_hz, FREQ)
    np.testing.assert_allclose(read.gamma, GAMMA, atol=1e-9)
    assert read.notes == ()


@pytest.mark.parametrize("unit", ["Hz", "kHz", "MHz", "GHz"])
@pytest.mark.parametrize("number", ["RI", "MA", "DB"])
@pytest.mark.parametrize("odd", ["", "\n", "! a remark\n"], ids=["plain", "a blank line", "a remark"])
def test_a_long_file_is_what_scikit_rf_reads_to_the_last_digit(unit, number, odd):
    """Plain ones are read in one piece, all others row by row."""
    f = np.linspace(800.0, 950.0, 401)
    rows = [f"{a:.6f} {0.1 + 0.001 * k:.15f} {(k * 37) % 360 - 180.5:.13f}\n" for k, a in enumerate(f)]
    text = f"! swept\n# {unit} S {number} R 50\n" + "".join((*rows[:300], odd, *rows[300:]))
    stream = io.StringIO(text)
    stream.name = "x.s1p"
    frequency, s = Touchstone(stream).get_sparameter_arrays()
    read = touchstone.read(text.encode(), "x.s1p")
    np.testing.assert_array_equal(read.gamma, s[:, 0, 0])
    np.testing.assert_allclose(read.frequency_hz, frequency, rtol=1e-15)
    with pytest.raises(FormatError) as refused:
        touchstone.read(text.replace("801.500000", "80-1.5").encode(), "x.s1p")
    assert "Touchstone data" in str(refused.value) or "80-1.5" in str(refused.value)


def test_a_complex_reference_is_turned_into_50_ohm_by_power_waves():
    read = touchstone.read(written("MHz", "RI", "(30+10j)"), "x.s1p")
    z = (np.conj(30 + 10j) + GAMMA * (30 + 10j)) / (1 - GAMMA)  # Kurokawa 1965: Γ = (Z − Z₀*)/(Z + Z₀)
    np.testing.assert_allclose(read.gamma, (z - 50) / (z + 50), atol=1e-9)
    assert "(30+10j) Ω" in read.notes[0]


def test_another_reference_is_turned_into_50_ohm():
    read = touchstone.read(written("MHz", "RI", "75"), "x.s1p")
    z = 75 * (1 + GAMMA) / (1 - GAMMA)
    np.testing.assert_allclose(read.gamma, (z - 50) / (z + 50), atol=1e-9)
    assert "75 Ω" in read.notes[0]


VERSION_2 = """[Version] 2.0
# MHz S RI R 50
[Number of Ports] 2
[Two-Port Data Order] {order}
[Number of Frequencies] 3
[Reference] 50 50
[Network Data]
860 0.1 0.0 0.2 0.0 0.3 0.0 0.4 0.0
869 0.1 0.1 0.2 0.0 0.3 0.0 0.4 0.1
878 0.1 0.2 0.2 0.0 0.3 0.0 0.4 0.2
[End]
"""


@pytest.mark.parametrize("order", ["12_21", "21_12"])
@pytest.mark.parametrize(("port", "real"), [(1, 0.1), (2, 0.4)])
def test_version_2_with_a_choice_of_port(order, port, real):
    read = touchstone.read(VERSION_2.format(order=order).encode(), "x.ts", port)
    assert read.ports == 2
    np.testing.assert_allclose(read.gamma.real, real)


def test_two_ports_of_version_1_with_noise_data():
    text = (
        "# GHz S MA R 50\n"
        + "".join(f"{f} .1 0 .5 0 .5 0 .3 90\n" for f in (0.86, 0.87, 0.88))
        + "0.86 1 .2 30 .5\n0.87 1 .2 30 .5\n"
    )
    read = touchstone.read(text.encode(), "x.s2p", 2)
    np.testing.assert_allclose(read.gamma, 0.3j, atol=1e-9)


def test_out_of_order_and_repeated_frequencies_are_noted():
    text = "# MHz S RI R 50\n878 .1 0\n860 .2 0\n869 .3 0\n869 .9 0\n"
    read = touchstone.read(text.encode(), "x.s1p")
    assert read.frequency_hz.tolist() == [860e6, 869e6, 878e6]
    assert read.gamma.real.tolist() == [0.2, 0.3, 0.1]
    assert any("out of order" in n for n in read.notes)
    assert any("one repeated" in n or "1 repeated" in n for n in read.notes)


def test_a_missing_option_line_is_the_standards_default_and_noted():
    read = touchstone.read(b"0.86 0.1 0\n0.87 0.2 0\n0.88 0.1 0\n", "x.s1p")
    assert read.frequency_hz[0] == 860e6
    assert "no option line" in read.notes[0]


@pytest.mark.parametrize("encoding", ["utf-8-sig", "utf-16", "utf-16-le", "cp1252"])
def test_encodings(encoding):
    data = written("MHz", "RI").decode().replace("made by hand", "Höhe 3 m").encode(encoding)
    np.testing.assert_allclose(touchstone.read(data, "x.s1p").gamma, GAMMA)


@pytest.mark.parametrize(
    ("data", "words", "line"),
    [
        (b"", "empty", None),
        (b"\n \n", "empty", None),
        (bytes(range(256)) * 4, "binary", None),
        (b"# MHz S RI R 50\n860 .1 .1\n869 .1\n878 .1 .1\n", "2 numbers where 3", 3),
        (b"# MHz S RI R 50\n860 .1 .1\n869 nan .1\n878 .1 .1\n", "not a finite number", 3),
        (b"# MHz S RI R 50\n860 .1 inf\n", "not a finite number", 2),
        (b"# MHz S RI R 50\n860 .1 abc\n", "not a number", 2),
        (b"! only remarks\n# MHz S RI R 50\n", "no data lines", None),
        (b"# MHz Z RI R 50\n860 1 1\n", "holds Z parameters", 1),
        (b"# furlongs S RI\n860 1 1\n", "not known in the option line", 1),
        (b"# MHz S RI R 50\n860 .1 .1\n869 .1 .1\n", "only 2 frequencies", None),
        (b"# MHz S RI R 50\n-1 .1 .1\n869 .1 .1\n870 .1 .1\n", "zero or less", None),
    ],
)
def test_what_is_wrong_is_told_with_its_line(data, words, line):
    with pytest.raises(FormatError) as caught:
        touchstone.read(data, "x.s1p")
    message = str(caught.value)
    assert message.startswith("x.s1p")
    assert words in message
    assert "Nothing of it was taken in" in message
    assert caught.value.line == line


def test_there_is_no_such_port():
    with pytest.raises(FormatError, match="no port 2"):
        touchstone.read(written("MHz", "RI"), "x.s1p", 2)


@pytest.mark.parametrize("version", ["1.1", "2.0"])
@given(st.lists(st.tuples(st.floats(-1, 1), st.floats(-1, 1)), min_size=3, max_size=12))
def test_what_is_written_is_read_back_to_the_last_digit(version, pairs):
    import skrf

    gamma = np.array([complex(a, b) for a, b in pairs])
    f = np.linspace(1.1e6, 7.7e9, len(gamma))
    text = touchstone.write(f, gamma, "a remark\nof two lines", version)
    stream = io.StringIO(text)
    stream.name = "x.s1p"
    frequency, s = skrf.io.touchstone.Touchstone(stream).get_sparameter_arrays()
    np.testing.assert_array_equal(s[:, 0, 0], gamma)
    np.testing.assert_allclose(frequency, f, rtol=1e-15)
    np.testing.assert_array_equal(touchstone.read(text.encode(), "x.s1p").gamma, gamma)


def test_version_2_that_was_cut_off_is_told():
    f = np.linspace(860e6, 880e6, 9)
    text = touchstone.write(f, np.full(9, 0.1 + 0j), version="2.0")
    cut_off = "\n".join(text.splitlines()[:-3])
    with pytest.raises(FormatError, match="says it holds 9 frequencies, and holds 7"):
        touchstone.read(cut_off.encode(), "x.ts")


@given(st.data())
@settings(max_examples=150)
def test_mutated_files_are_read_or_refused_never_worse(data):
    raw = bytearray(written(data.draw(st.sampled_from(["MHz", "GHz"])), data.draw(st.sampled_from(["RI", "DB"]))))
    for _ in range(data.draw(st.integers(1, 8))):
        at = data.draw(st.integers(0, len(raw) - 1))
        change = data.draw(st.sampled_from(["byte", "cut", "double"]))
        if change == "byte":
            raw[at] = data.draw(st.integers(0, 255))
        elif change == "cut":
            del raw[at : at + data.draw(st.integers(1, 20))]
        else:
            raw[at:at] = raw[at : at + 15]
        if not raw:
            break
    try:
        read = touchstone.read(bytes(raw), "x.s1p")
    except FormatError as error:
        assert str(error).startswith("x.s1p")
    else:
        assert np.isfinite(read.gamma).all()
        assert (np.diff(read.frequency_hz) > 0).all()


def _corpus() -> list[Path]:
    """The measured and simulated files that scikit-rf's own tests read, as it installs them."""
    import skrf

    return sorted(p for p in (Path(skrf.__file__).parent / "data").iterdir() if re.fullmatch(r"\.s\d+p", p.suffix))


@pytest.mark.parametrize("path", _corpus(), ids=lambda p: p.name)
def test_scikit_rfs_own_files_are_read_as_it_reads_them(path):
    import skrf

    expected = skrf.Network(str(path))
    expected.renormalize(50)
    for port in range(1, expected.nports + 1):
        read = touchstone.read(path.read_bytes(), path.name, port)
        np.testing.assert_allclose(read.gamma, expected.s[:, port - 1, port - 1], atol=1e-12)
        np.testing.assert_array_equal(read.frequency_hz, expected.f)


def test_a_million_lines_are_read():
    rows = "\n".join(f"{800 + i * 1e-4:.4f} 0.1 0.1" for i in range(1_000_000))
    assert len(touchstone.read(f"# MHz S RI R 50\n{rows}\n".encode(), "x.s1p").gamma) == 1_000_000
