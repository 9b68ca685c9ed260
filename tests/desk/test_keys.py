"""Single keys by rung: what is on a button works there, what is pressed elsewhere says where it works, the card fits."""

import re

import pytest
from PySide6.QtWidgets import QLabel, QScrollArea

from tallmast.desk.frame import keys
from tallmast.desk.frame.finder import KeyCard
from tallmast.desk.frame.help import HELP
from tallmast.findings.climb import RUNGS
from tallmast.procedures.analyzer import Analyzer
from tallmast.procedures.run_by_keys import RunByKeys

PANELS = {"bench": [Analyzer], "field": [RunByKeys]}
SHARED = set("QAVOWT?.,;1234567")
"""The same on every rung."""


def test_every_key_does_an_act_that_there_is_and_none_is_one_of_the_shared(hands):
    acts = hands.window.acts
    assert set(keys.BY_RUNG) == set(RUNGS)
    for mine in keys.BY_RUNG.values():
        assert set(mine.values()) <= set(acts)
        assert not set(mine) & SHARED
        assert len(set(mine.values())) == len(mine), "one key an act"
    assert {act.key for act in acts.values() if len(act.key) == 1} == SHARED


@pytest.mark.parametrize("number", range(1, 8))
def test_the_key_on_a_button_does_what_the_button_does(hands, number):
    window = hands.window
    hands.press(str(number))
    done = []
    window.act = done.append
    for part in window.views[window.rung].act_row.parts:
        words, _, key = part.text().rpartition("  ")
        if len(key) == 1:
            hands.press(key.lower())
            assert window.acts[done[-1]].words == words


def test_a_key_of_another_rung_says_where_it_is(hands):
    hands.press("7")
    hands.press("m")
    assert hands.window.sheet is None
    assert (
        hands.trouble
        == "M does nothing here. Elsewhere it is: Meter reading (Bench, 2) or Where it reaches, on the map (Link, 6)."
    )
    hands.press("l")
    assert "Place (Field, 5) or Place (Link, 6)" in hands.trouble


def test_the_same_letter_means_what_the_front_rung_says(hands):
    window = hands.window
    hands.press("3")
    hands.press("n")
    assert window.sheet.form.title == "A transmitter in the neighbourhood"
    window.sheet.leave()
    hands.press("5")
    hands.press("n")
    assert window.sheet.form.title == "A reading"


@pytest.mark.parametrize("rung", RUNGS)
def test_help_names_no_key_that_does_nothing_there(rung):
    panel = {key for procedure in PANELS.get(rung, ()) for key, _ in procedure.key_words()}
    page = HELP[rung]
    named = set(re.findall(r"\b([A-Z])(?=\)|, [A-Z]\)| in the panel| here\))", page.text))
    assert named <= set(keys.BY_RUNG[rung]) | SHARED | panel
    assert len(page.steps) >= 3 and all(step.endswith(".") for step in page.steps)
    own = set(keys.BY_RUNG[rung]) & named
    assert own, "the steps name the keys of the rung"


@pytest.mark.parametrize("number", range(1, 8))
def test_the_card_opens_at_the_front_rung_and_fits_a_small_window(hands, number):
    window = hands.window
    window.resize(1024, 700)
    hands.press(str(number))
    hands.press("?")
    card = next(c for c in window.findChildren(KeyCard) if c.isVisible())
    area = card.findChild(QScrollArea)
    assert area.horizontalScrollBar().maximum() == 0
    assert card.height() <= 700
    heads = [part.text() for part in card.findChildren(QLabel) if part.objectName() == "sideTitle"]
    assert heads[0] == f"Here, on {window.rung.capitalize()}"
    card.reject()
