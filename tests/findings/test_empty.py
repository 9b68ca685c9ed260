"""A notebook in which hardly anything stands yet: the next thing to do is the right one."""

from tallmast.findings.aims import Aims
from tallmast.findings.climb import Climb
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Question


def test_the_bench_asks_for_what_lacks():
    antenna, question = Antenna(id="a", name="Whip"), Question(band_low_hz=868e6, band_high_hz=870e6)
    bare = Climb(Evidence({"a": antenna}, {}), Aims()).bench
    assert "Ask the question first" in bare.detail and "Shelf" not in bare.detail
    assert "Put an antenna on the Shelf first" in Climb(Evidence({question.id: question}, {}), Aims()).bench.detail
