"""Every story begins with an empty notebook, and ends with a window, a report and a writer that say the same."""

import pytest

from tallmast.findings.aims import Aims, as_text, of_text
from tallmast.findings.climb import RUNGS, Climb
from tallmast.notebook.store import Notebook
from tallmast.report.content import compose

from .. import golden
from ..desk.hands import Hands

OTHER_FOCI = 3
"""Antennas that a verdict is asked about once more with each of them in focus."""


@pytest.fixture
def hands(window, qtbot, tmp_path, request, new_words) -> Hands:
    Notebook.create(tmp_path / "story.tallmast").close()
    made = Hands(qtbot, window)
    assert window.open_notebook(tmp_path / "story.tallmast")
    made.settle()
    yield made
    report_and_window_agree(made)
    story, day = request.path.stem.removeprefix("test_"), request.node.name.removeprefix("test_")
    said = golden.spoken(Climb(window.session.notebook.evidence(), of_text(as_text(window.session.aims))))
    golden.hold(f"stories/{story}/{day}", said, new_words)


def report_and_window_agree(hands: Hands) -> None:
    """Each rung's sentence on the screen is that of a report written elsewhere from the same file; and a verdict is the same whatever
    is in focus."""
    session = hands.window.session
    assert session.notebook is not None
    hands.settle()
    shown = {}
    for rung in RUNGS:
        hands.window.climb_to(rung)
        hands.settle()
        shown[rung] = hands.sentence
    other = Notebook.open(session.notebook.path)
    try:
        evidence = other.evidence()
        report = compose(Climb(evidence, of_text(as_text(session.aims))))
        said = {chapter.key: chapter.sentence for chapter in report.chapters}
        assert said == {rung: shown[rung] for rung in said}
        assert report.verdict == shown["verdict"]
        for antenna in evidence.antennas[:OTHER_FOCI]:
            aims = Aims(antenna.id, band=session.aims.band)
            assert Climb(evidence, aims).verdict.sentence == report.verdict, antenna.name
    finally:
        other.close()
