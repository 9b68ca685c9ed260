"""A question of several bands: what is typed is of the band that is looked at, or of the run's own."""

import pytest

from tallmast.notebook.records import Reading
from tallmast.notebook.store import Notebook

from .hands import Hands


@pytest.fixture
def two_bands(window, qtbot, tmp_path):
    Notebook.create(tmp_path / "bands.tallmast").close()
    assert window.open_notebook(tmp_path / "bands.tallmast")
    hands = Hands(qtbot, window)
    hands.settle()
    hands.write("q", {"text": "Which?", "band": "14-14.35 MHz", "further": "144-146 MHz 2"}, "ask question")
    hands.write("a", {"name": "Wire"}, "add antenna")
    hands.write("l", {"name": "ford", "position": "57.9000, -11.2000"}, "place")
    return hands


def look_at_the_next_band(hands) -> None:
    hands.press_on("bench", ";")
    hands.settle()


def test_a_run_is_on_the_band_that_is_looked_at_and_an_s_unit_is_what_it_is_there(two_bands):
    session = two_bands.window.session
    two_bands.write("r", {}, "run")
    two_bands.write("n", {"what": "S7"}, "reading")
    look_at_the_next_band(two_bands)
    two_bands.write("r", {}, "run")
    two_bands.write("n", {"what": "S7"}, "reading")
    assert [run.channel_hz for run in session.evidence.runs] == [pytest.approx(14.175e6), pytest.approx(145e6)]
    # IARU Region 1 R.1: S9 is -73 dBm below 30 MHz and -93 dBm from 144 MHz on; a unit is 6 dB.
    assert [r.level_dbm for r in session.evidence.all(Reading)] == [-85.0, -105.0]
    assert len(session.climb.evidence.runs) == 1, "the other band's run is the other band's"
    two_bands.write("n", {"what": "S7", "run": "1"}, "reading")
    assert session.evidence.all(Reading)[-1].level_dbm == -85.0, "what S9 is goes by the run that was chosen"


def test_the_question_of_the_band_looked_at_is_what_instruments_go_by(two_bands):
    session = two_bands.window.session
    assert session.question.centre_hz == pytest.approx(14.175e6)
    look_at_the_next_band(two_bands)
    assert session.question.centre_hz == pytest.approx(145e6) and session.question.swr_limit == 2.0
    assert len(session.evidence.question.bands) == 2, "what is written back is the whole question"
