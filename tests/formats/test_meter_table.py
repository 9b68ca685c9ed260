"""An SWR meter's readings as tables: a reading a row, or a column an antenna."""

import pytest

from tallmast.formats import meter_table, sniff, sweep_table
from tallmast.formats.errors import FormatError


def read(text: str, **columns: str):
    return meter_table.read(text.encode(), "meter.csv", columns or None)


def kind(text: str) -> str:
    return sniff.kind_of(text.encode(), "meter.csv")


LONG = "antenna,MHz,SWR,plate\nStub,144,1.8,car\n,145,1:1.5,car\nWhip,144 MHz,2.1,roof\nWhip,0.145 GHz,14 dB,roof\n"
WIDE = "MHz,Stub,Whip\n144.0,1.8,2.1\n144.5,,1.7\n145.0,1.5,1.3\n"
POWERS = "Antenna;Channel;Freq (kHz);Forward mW;Reflected mW\nStub;12;144000;500;20\n;14;145000;500;10\n"


def test_a_reading_a_row():
    found = read(LONG)
    assert [(n.antenna, n.frequency_hz, n.swr, n.fixture) for n in found.rows] == [
        ("Stub", 144e6, "1.8", "car"),
        ("Stub", 145e6, "1:1.5", "car"),
        ("Whip", 144e6, "2.1", "roof"),
        ("Whip", 145e6, "14 dB", "roof"),
    ]
    assert found.rows[-1].line == 5 and found.notes == ("one blank cell taken from the row above",)


def test_a_column_for_each_antenna_and_blanks_are_no_readings():
    found = read(WIDE)
    assert [(n.antenna, n.frequency_hz, n.swr) for n in found.rows] == [
        ("Stub", 144e6, "1.8"),
        ("Whip", 144e6, "2.1"),
        ("Whip", 144.5e6, "1.7"),
        ("Stub", 145e6, "1.5"),
        ("Whip", 145e6, "1.3"),
    ]


def test_columns_that_all_say_swr_are_antennas_and_a_dash_is_no_reading():
    """The second was dropped without a word, as a sweep of the first."""
    text = "MHz,Stub SWR,SWR (Long Whip)\n144,1.8,2.1\n145,1.5,-\n146,1.9,n/a\n"
    assert kind(text) == "meter table"
    assert [(n.antenna, n.swr) for n in read(text).rows] == [
        ("Stub", "1.8"),
        ("Long Whip", "2.1"),
        ("Stub", "1.5"),
        ("Stub", "1.9"),
    ]


def test_a_frequency_written_once_is_that_of_the_rows_below():
    found = read("MHz,antenna,SWR\n144,Stub,1.8\n,Whip,2.1\n145,Stub,1.5\n,Whip,1.3\n")
    assert [(n.antenna, n.frequency_hz) for n in found.rows][1::2] == [("Whip", 144e6), ("Whip", 145e6)]


def test_both_powers_with_their_unit_and_the_channel():
    first, second = read(POWERS).rows
    assert (first.forward, first.reflected, first.channel, first.swr) == ("500 mW", "20 mW", "12", "")
    assert (second.antenna, second.frequency_hz) == ("Stub", 145e6)


def test_a_return_loss_is_in_decibels():
    assert [n.swr for n in read("antenna,MHz,return loss dB\nA,144,14\nB,144,-20\n").rows] == ["14 dB", "-20 dB"]
    assert [n.swr for n in read("antenna,MHz,S11\nA,144,-14\nB,144,-20\n").rows] == ["-14 dB", "-20 dB"]


def test_what_is_not_used_is_said():
    assert read("antenna,MHz,SWR,mood\nA,144,1.2,good\nB,144,1.3,bad\n").notes == ("not used: mood",)


@pytest.mark.parametrize("text", [LONG, WIDE, POWERS, "MHz;fwd W;refl W\n144;5;0,2\n145;5;0,1\n"])
def test_they_are_recognised(text):
    assert kind(text) == "meter table"


@pytest.mark.parametrize(
    ("text", "other"),
    [
        ("MHz,SWR\n144,1.8\n145,1.5\n146,1.9\n", "sweep table"),
        ("MHz,re,im\n860,.1,.2\n865,.2,.1\n870,.3,.1\n", "sweep table"),
        ("MHz,a,b\n860,.1,.2\n865,.2,.1\n870,.3,.1\n", "sweep table"),
        ("MHz,R,X\n860,50,2\n865,48,1\n870,52,3\n", "sweep table"),
        ("MHz,return loss dB,phase\n860,14,20\n865,18,10\n870,12,5\n", "sweep table"),
        ("frequency MHz,gain dBi\n100,2\n200,3\n", "gain table"),
    ],
)
def test_what_is_none_stays_what_it_was(text, other):
    assert kind(text) == other


def test_two_columns_above_one_are_no_parts_of_a_reflection():
    with pytest.raises(FormatError, match="no column looks like a frequency"):
        sweep_table.read(WIDE.replace(",,", ",1.6,").encode(), "x.csv")


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("antenna,SWR\nA,1.8\nB,1.5\n", "no column looks like a frequency"),
        ("antenna,MHz,mood\nA,144,good\nB,145,bad\n", "no column holds an SWR"),
        ("antenna,MHz,SWR\nA,soon,1.8\nB,145,1.5\n", "line 2: “soon” is no frequency"),
        ("antenna,MHz,SWR\nA,-144,1.8\nB,145,1.5\n", "line 2: “-144” is no frequency"),
        ("antenna,MHz,SWR\nA,144,\nB,145,\n", "no reading is in it"),
    ],
)
def test_what_is_wrong_is_told(text, words):
    with pytest.raises(FormatError, match=words):
        read(text)
