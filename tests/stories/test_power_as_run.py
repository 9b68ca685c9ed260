"""Somebody notes the power of each run and never opens the sheet of power and pads: what the runs say counts."""

import pytest

from . import day

PLACES = {"Camp": "57.9, -11.2", "Stile": "400 m N", "Ford": "900 m N", "Top": "1.6 km NE", "Gate": "2.4 km N"}
NOTED = (
    ("0.5 W", ("-78", "-90", "-99", "nothing")),
    ("5 W", ("-68", "-80", "-90", "-96")),
    ("5 W", ("-69", "-81", "-89", "-95")),
    ("0.5 W", ("-79", "-91", "-100", "nothing")),
)


@pytest.fixture
def walked(hands):
    day.ask(hands, "Does the handheld reach the gate?", "446 MHz", ["Stock"])
    day.places(hands, PLACES)
    for power, heard in NOTED:
        day.run(hands, dict(zip(list(PLACES)[1:], heard, strict=True)), antenna="Stock", power=power)
    return hands


def test_levels_go_by_the_runs_and_say_so(walked):
    walked.press("3")
    detail = walked.window.views["levels"].detail.text()
    assert "at full power expect 1.9" in walked.sentence, "ten times the power, where the level falls with d³·⁵"
    assert "those of most runs" in detail and "not noted" in detail
    walked.press("p")
    walked.sheet_opens()
    assert walked.window.sheet.texts()["power"] == "500 mW" and walked.window.sheet.texts()["full_power"] == "5 W"
    walked.keep()
    assert "those of most runs" not in walked.window.views["levels"].detail.text()


def test_the_verdict_asks_for_no_power_and_means_the_farthest_place(walked, tmp_path):
    walked.press("6")
    assert "power and pads" not in walked.window.views["link"].detail.text()
    walked.write("e", {"name": "other handheld", "sensitivity": "-112 dBm", "gain": "0 dBi"}, "far end")
    walked.press("6")
    told = walked.sentence
    assert told.startswith("Stock reaches Gate with ")
    assert told in walked.window.session.climb.verdict.detail
    assert day.verdict(walked) in day.report(walked, tmp_path)
    walked.write("q", {"wanted_place": "Top"}, "ask question")
    assert day.verdict(walked).startswith("Put Stock on Camp: it reaches Top with ")


def test_what_a_pad_bears_is_no_limit_where_nobody_said_it(hands):
    day.ask(hands, "Does the handheld reach the gate?", "446 MHz", ["Stock"])
    day.places(hands, PLACES)
    day.run(hands, {"Gate": "-95"}, antenna="Stock", power="5 W", pad="20 dB")
    hands.press("3")
    levels = hands.window.session.climb.levels
    assert not any("bears" in met.limit.name for met in levels.out.met), "nobody said what it bears"
    assert not [c for c in levels.checks if "20 dB" in c.text]


def test_a_cable_that_is_noted_leaves_the_runs_power_as_it_was(walked):
    walked.write("p", {"power": "", "full_power": "", "cable_loss": "1.5 dB"}, "power and pads")
    near = walked.window.session.evidence.home_end
    assert (near.power_w, near.full_power_w, near.cable_loss_db) == (0.5, 5.0, 1.5)
    walked.press("3")
    assert walked.sentence.startswith("The test radiates "), "the power of the runs still counts"
    assert "The power is that of most runs" in walked.window.views["levels"].detail.text()
