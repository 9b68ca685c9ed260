"""A loop on foot under glass and iron with antennas at both ends; bit rate as the link logs it, marks at the corners. Traces laid
over each other by their marks, shares below what is usable, which dies faster."""

import numpy as np
import pytest

from ..findings.build import told
from . import day

CORNERS = ("door", "iron", "far corner", "palms", "back")
BEST = {"Patch": 6.0, "Left": 0.0, "Right": 0.3, "Stock": -3.0}
POINTED = {"door": 1.0, "iron": 0.2, "far corner": -1.6, "palms": -1.4, "back": 1.0}
"""The patch is not turned on the way: what it gains at the door it loses behind."""


def recorded(random, antenna: str, path, start: float) -> str:
    """A log of bit rate twice a second, its clock started anywhere; the marks where this walk had its corners."""
    lengths = random.normal(14.0, 1.5, len(CORNERS))
    edges = np.concatenate([[0.0], np.cumsum(lengths)])
    time = np.arange(0.0, edges[-1], 0.5)
    at = np.clip(np.searchsorted(edges, time, side="right") - 1, 0, len(CORNERS) - 1)
    base = np.array([14.0, 4.0, 9.0, 1.0, 12.0])[at]
    gain = np.array([BEST[antenna] * (POINTED[CORNERS[k]] if antenna == "Patch" else 1.0) for k in at])
    fading = np.convolve(random.normal(0, 4.0, len(time) + 8), np.ones(9) / 3.0, mode="valid")
    rate = np.clip(10.0 + base + 1.5 * gain + fading + random.normal(0, 1.0), 0.0, 50.0)
    path.write_text(
        "elapsed s,bit rate Mbit/s\n" + "\n".join(f"{start + t:.1f},{r:.1f}" for t, r in zip(time, rate, strict=True))
    )
    return "; ".join(f"{e:.1f} {name}" for e, name in zip(edges, CORNERS, strict=False))


@pytest.fixture
def walked(hands, tmp_path):
    random = np.random.default_rng(4)
    day.ask(hands, "Which pair for the glasshouse?", "5700-5900 MHz", tuple(BEST))
    for number, antenna in enumerate([*BEST, *list(BEST)[::-1]], 1):
        hands.write("r", {"antenna": antenna, "power": "", "manner": "loop"}, "run")
        path = tmp_path / f"loop-{number}.csv"
        marks = recorded(random, antenna, path, float(random.uniform(0, 5000)))
        hands.drop(path)
        hands.sheet_opens()
        hands.fill({"marks": marks, "usable": "12"})
        hands.keep()
    return hands


def test_left_and_right_cant_be_told_apart_and_the_patch_loses_where_it_is_not_pointed(walked, tmp_path):
    assert day.alarms(walked) == []
    field = walked.window.session.climb.field
    rate = told(field.contrasts, field.names)
    pair = next(c for both, c in rate.items() if set(both) == {"Left", "Right"})
    low, high = pair.size.interval
    assert pair.open and pair.scale == "bit rate" and low < 0.0 < high
    assert rate["Left", "Stock"].chance > 0.85
    usable = told([c for c in field.dying if c.scale == "usable"], field.names)
    assert usable["Left", "Stock"].size.value > 0, "percent of the time"
    by_stretch = {(t.tried[0], s.name): s.mean for t in field.traces for s in t.stretches}
    ids = {a.name: a.id for a in walked.window.session.evidence.antennas}
    assert by_stretch[ids["Patch"], "palms"] < by_stretch[ids["Left"], "palms"]
    assert by_stretch[ids["Patch"], "door"] > by_stretch[ids["Left"], "door"]
    sentence = day.verdict(walked)
    assert "at 4 of 5 spots" in sentence
    text = day.report(walked, tmp_path)
    assert "Recordings, stretch by stretch" in text and "far corner" in text


def test_traces_lie_over_each_other_by_their_marks(walked):
    from tallmast.findings.field.laid import aligned

    laid = aligned(walked.window.session.climb.field.traces)
    assert laid.names == CORNERS and len(laid.traces) == 8
    for trace, u in laid.traces:
        for stretch, edge in zip(trace.stretches, laid.edges_s, strict=False):
            i = int(np.argmax(trace.time_s >= stretch.from_s))
            assert abs(u[i] - edge) < 1.0, "what happened at a mark is drawn at the mark"


def test_a_recording_is_opened_again_and_its_marks_corrected(walked):
    session = walked.window.session
    from tallmast.notebook.records import Recording

    recording = session.evidence.all(Recording)[0]
    walked.window.open_record(recording)
    walked.fill({"marks": "0 all the way"})
    walked.keep()
    assert [m.name for m in session.evidence.all(Recording)[0].marks] == ["all the way"]
    assert "recordings have different marks" in day.checks(walked)
