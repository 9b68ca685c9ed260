"""What the demo says, rung by rung, each antenna in focus as little as it matters."""

from tallmast.findings.aims import Aims
from tallmast.findings.climb import Climb
from tallmast.notebook.store import Notebook

from .. import golden


def test_the_demo_says_what_its_file_holds(demo_copy, qapp, new_words):
    notebook = Notebook.open(demo_copy)
    try:
        golden.hold("demo", golden.spoken(Climb(notebook.evidence(), Aims())), new_words)
    finally:
        notebook.close()
