"""The climb: a rung's finding is lent only while everything that it rests on is the same."""

import pytest

from tallmast.demo import campaign
from tallmast.findings.aims import Aims
from tallmast.findings.climb import RESTS_ON, RUNGS, Climb
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import (
    KINDS,
    Antenna,
    CableSweep,
    Calibration,
    Comparison,
    Conditions,
    Connector,
    Craft,
    Design,
    DisplayRun,
    Emitter,
    Fixture,
    GainTable,
    Heard,
    MeterReading,
    Neighbour,
    NoiseSite,
    Obstacle,
    PadCheck,
    Piece,
    Place,
    Qualification,
    Radio,
    RangeGain,
    ReadingsInTurn,
    Recording,
    StandardCheck,
    Sweep,
    Trial,
    Turn,
)

AIMS = Aims("antenna-shed-yagi")

END = Connector(family="N", body="plug", contact="pin")
NEW = {
    "fixture": Fixture(name="Plate B"),
    "calibration": Calibration(series_id="standards"),
    "standard check": StandardCheck(calibration_id="none", standard="load", series_id="new"),
    "qualification": Qualification(fixture_id="none", series_id="new"),
    "piece": Piece(name="elbow", first=END, second=END),
    "cable sweep": CableSweep(name="blue", series_id="new"),
    "radio": Radio(name="new"),
    "emitter": Emitter(name="new", frequency_hz=100e6, field_v_per_m=1.0),
    "noise": NoiseSite(bandwidth_hz=1e4, receiver_figure_db=6.0),
    "display run": DisplayRun(receiver="new", series_id="new"),
    "comparison": Comparison(what="new", spells=[ReadingsInTurn(label=k, minute=0, values=[1.0]) for k in "AB"]),
    "pad check": PadCheck(piece_id="none", frequency_hz=1e8, series_id="new"),
    "obstacle": Obstacle(from_m=800.0, height_m=20.0),
    "neighbour": Neighbour(name="other", power_w=0.01, distance_m=900.0),
    "trial": Trial(neighbour_id="none", antenna_id="none", broke_m=[300.0, 320.0]),
    "conditions": Conditions(rain_mm_h=5.0),
    "gain table": GainTable(antenna_id="none", series_id="new"),
    "recording": Recording(run_id="run-1", series_id="new"),
    "design": Design(antenna_id="none", series_id="new"),
    "craft": Craft(antenna_id="antenna-shed-yagi"),
    "range gain": RangeGain(antenna_id="none", state_id="", readings=[ReadingsInTurn(label="AA", values=[-40.0])]),
    "turn": Turn(antenna_id="none", state_id="", readings=[Heard(at_deg=a, values=[-60.0]) for a in (0, 90, 180, 270)]),
}
"""Of kinds that the demo has none of, one to add."""


@pytest.fixture(scope="module")
def evidence():
    return campaign.evidence()[1]


class Watched(Evidence):
    """Notes every kind of record that is asked for."""

    def __init__(self, other: Evidence) -> None:
        super().__init__(other._records, other._series, other.head)
        self.asked: set[type] = set()

    def all(self, model):
        self.asked.add(model)
        return super().all(model)

    def get(self, model, record_id):
        self.asked.add(model)
        return super().get(model, record_id)


@pytest.mark.parametrize("rung", RESTS_ON)
def test_a_rung_reads_no_kind_of_record_but_those_it_says_it_rests_on(evidence, rung):
    watched = Watched(evidence)
    Climb(watched, AIMS).of(rung)
    assert watched.asked <= set(RESTS_ON[rung])


@pytest.mark.parametrize("rung", RESTS_ON)
@pytest.mark.parametrize("kind", sorted(KINDS))
def test_a_changed_record_is_never_answered_with_an_old_finding(evidence, rung, kind):
    model = KINDS[kind]
    mine = evidence.all(model)
    record = mine[0].revised() if mine else NEW[kind]
    series = {**evidence._series, "new": evidence.series(evidence.all(Sweep)[0].series_id)}
    f = series["new"]["frequency_hz"]
    parts = {"open_re": 1.0, "short_re": -1.0, "load_re": 0.0, "open_im": 0.0, "short_im": 0.0, "load_im": 0.0}
    series["standards"] = {"frequency_hz": f, **{name: 0 * f + value for name, value in parts.items()}}
    changed = Evidence({**evidence._records, record.id: record}, series, evidence.head + 1)
    before = Climb(evidence, AIMS)
    old = before.of(rung)
    lent = Climb(changed, AIMS, before).of(rung) is old
    assert lent == (model not in RESTS_ON[rung])


def test_nothing_is_lent_when_something_else_is_looked_at(evidence):
    before = Climb(evidence, AIMS)
    old = [before.of(rung) for rung in RUNGS]
    after = Climb(evidence, Aims("antenna-flat-panel"), before)
    assert all(after.of(rung) is not finding for rung, finding in zip(RUNGS, old, strict=True))


def test_lent_findings_say_what_fresh_ones_would(evidence):
    before = Climb(evidence, AIMS)
    for rung in RUNGS:
        before.of(rung)
    more = Evidence(
        {**evidence._records, "new": Place(id="new", name="New", latitude_deg=57.91, longitude_deg=-11.2)},
        evidence._series,
        evidence.head + 1,
    )
    lent, fresh = Climb(more, AIMS, before), Climb(more, AIMS)
    for rung in RUNGS:
        assert lent.of(rung).sentence == fresh.of(rung).sentence
        assert [c.text for c in lent.of(rung).checks] == [c.text for c in fresh.of(rung).checks]


def test_the_same_records_in_another_evidence_are_the_same(evidence):
    other = Evidence(evidence._records, evidence._series, evidence.head + 5)
    assert other.same(evidence, (Antenna, MeterReading))
    gone = dict(evidence._records)
    gone.pop(evidence.all(MeterReading)[0].id)
    assert not Evidence(gone, evidence._series).same(evidence, (Antenna, MeterReading))
    assert Evidence(gone, evidence._series).same(evidence, (Antenna,))


@pytest.mark.parametrize("fallen", ["shelf", "bench", "pattern", "field", "levels", "link"])
def test_a_finding_that_fails_takes_no_other_rung_down(monkeypatch, fallen):
    from tallmast.demo import campaign
    from tallmast.findings import climb as module

    def fault(*_):
        raise OverflowError("made to fail")

    monkeypatch.setattr(Climb, "fails_loudly", False)
    monkeypatch.setattr(getattr(module, fallen), "find", fault)
    _, evidence = campaign.evidence()
    climbed = Climb(evidence, Aims("antenna-shed-yagi"))
    for rung in RUNGS:
        found = climbed.of(rung)
        assert found.sentence
        assert ("could not be worked out" in found.sentence) == (rung == fallen)


def test_whatever_is_taken_out_of_the_demo_no_rung_fails():
    """Records refer to each other: runs to antennas, readings to places, cuts to antennas. One that is gone leaves the rest
    to stand, and what was noted of it is still told."""
    _, demo = campaign.evidence()
    records = demo._records
    whole = Climb(demo, Aims("antenna-shed-yagi"))
    assert all(whole.of(rung).sentence for rung in RUNGS)
    for gone, record in records.items():
        rest = Evidence({k: v for k, v in records.items() if k != gone}, demo._series, 1)
        climb = Climb(
            rest, Aims("antenna-shed-yagi"), whole
        )  # as in the window: what rests on nothing that is gone is lent
        for rung in RUNGS:
            assert climb.of(rung).sentence, (record.kind, gone)
        if gone == "antenna-corkscrew":
            assert "n antenna taken out" in climb.field.sentence + climb.field.detail


def test_what_rests_on_a_rung_that_failed_says_so_and_the_next_climb_is_told_anew(monkeypatch):
    """No rung's fault changes another's sentence without a word."""
    _, evidence = campaign.evidence()
    whole = Climb(evidence, AIMS)
    monkeypatch.setattr(Climb, "fails_loudly", False)
    monkeypatch.setattr("tallmast.findings.link.find", lambda *_: 1 / 0)
    broken = Climb(evidence, AIMS, whole)
    broken.__dict__.pop("link", None)
    said = [check.text for check in broken.verdict.checks]
    assert "Link could not be worked out, so this is without it" in said
    assert broken.verdict.detail.startswith("Link could not be worked out.")
    assert broken.link.standing.words == "not worked out"
    assert not any("could not be worked out" in check.text for check in (*broken.bench.checks, *broken.field.checks))
    monkeypatch.undo()
    mended = Climb(evidence, AIMS, broken)
    assert mended.verdict.sentence == whole.verdict.sentence
    assert [c.text for c in mended.verdict.checks] == [c.text for c in whole.verdict.checks]
