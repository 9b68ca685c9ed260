"""Spoken reports on a band on which nobody knows what level an S9 is: how strong they were counts all the same."""

import pytest

from . import day

PLACES = {"Home": "57.9, -11.2", "Ferry": "8 km north", "Chapel": "12 km NE", "Quarry": "15 miles E"}
NOTED = (
    ("Dipole", ("59", "55", "nothing")),
    ("Halo", ("57", "53", "31")),
    ("Halo", ("58", "five four", "no copy")),
    ("Dipole", ("59", "5/6", "S1")),
)


@pytest.fixture
def called(hands):
    day.ask(hands, "Dipole or halo on the lower band?", "50.0-50.5 MHz", ["Dipole", "Halo"])
    day.places(hands, PLACES)
    for antenna, heard in NOTED:
        day.run(hands, dict(zip(list(PLACES)[1:], heard, strict=True)), antenna=antenna, power="10 W")
    return hands


def test_s_units_are_six_decibels_each_wherever_their_zero_lies(called, tmp_path):
    """Dipole over Halo: S9, S9 against S7, S8 at the ferry, S5, S6 against S3, S4 at the chapel: 1.5 and 2 units."""
    assert day.alarms(called) == []
    difference = called.window.session.climb.field.headline
    low, high = difference.interval
    assert difference.unit == "dB" and difference.value > 3.0 and low < 9.0 < high, "at the quarry they were alike"
    assert day.verdict(called).startswith("Dipole looks better than Halo by ")
    assert "Dipole looks better than Halo by " in day.report(called, tmp_path)


def test_no_level_is_made_up_of_them(called):
    """Between 30 and 144 MHz an S9 may be −73 or −93 dBm: the link is told nothing."""
    evidence = called.window.session.evidence
    assert all(r.level_dbm is None for run in evidence.runs for r in evidence.readings(run.id))
    called.press("5")
    assert "dBm" not in called.sentence + called.window.views["field"].detail.text()
