"""Ctrl K: what practitioners call things, where a record belongs, and how quickly it is found among thousands."""

import pytest

from tallmast.demo import campaign
from tallmast.desk.frame import index
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Place, Reading


@pytest.fixture
def things(hands):
    window = hands.window
    known = [(act.name, act.words, act.menu, act.key) for act in window.acts.values()]
    return [*index.acts(known), *index.records(window.session.evidence), *index.help_pages()]


@pytest.mark.parametrize(
    ("query", "act"),
    [
        ("vswr", "meter reading"),
        ("standing wave", "meter reading"),
        ("vna", "analyzer"),
        ("s11", "analyzer"),
        ("touchstone", "bring in"),
        ("import", "bring in"),
        ("pdf", "report"),
        ("export", "report"),
        ("dark", "night"),
        ("feet", "units"),
        ("eirp", "power and pads"),
        ("attenuator", "power and pads"),
        ("insertion loss", "verify pad"),
        ("lna", "noise"),
        ("rst", "reading"),
        ("coordinates", "place"),
        ("convert", "in units"),
        ("range test", "run"),
        ("shortcuts", "keys"),
    ],
)
def test_an_act_is_found_by_what_people_call_it(things, query, act):
    found = [thing.payload for thing in index.search(query, things)]
    assert act in found[:4], found[:6]


def test_every_act_is_known_by_other_words_too(hands):
    left = {name for name in hands.window.acts if name not in index.ALSO_CALLED and not name.startswith("climb ")}
    assert left <= {"quit", "find", "keep tried", "zoom in", "zoom out", "whole", "next antenna", "previous antenna"}
    assert set(index.ALSO_CALLED) <= set(hands.window.acts), "no words for what can't be done"


def test_a_record_says_what_it_belongs_to_and_on_which_rung(things):
    reading = next(t for t in things if isinstance(t.payload, Reading))
    assert reading.where == "run 1, Inner Holm, Field"
    found = index.search("kelp rock", things)[0]
    assert isinstance(found.payload, Place)
    found = index.search("run 3 ness reading", things)
    assert found
    assert {t.where for t in found} == {"run 3, Ness Head, Field"}


def test_what_is_called_so_comes_before_what_only_has_it_in_its_words(things):
    found = index.search("noise", things)
    assert found[0].payload == "noise"
    assert index.search("verdict", things)[0].payload == "climb verdict"
    assert isinstance(index.search("reverse-polarity", things)[0].payload, index.HelpPage)
    assert index.search("no such thing anywhere", things) == []


def test_five_thousand_records_are_found_quickly():
    """As many as a long season gives: ten times the records of the demo cost no more than ten times the time."""
    _, small = campaign.evidence()
    readings = small.all(Reading)
    many = {f"{r.id}-{i}": r.revised(id=f"{r.id}-{i}") for i in range(5000 // len(readings)) for r in readings}
    evidence = Evidence({**small._records, **many}, small._series)
    things = index.records(evidence)
    assert len(things) > 4500
    assert index.records(evidence) is things, "worked out once"
    assert len(index.search("run 3 holm", things)) == index.MOST
