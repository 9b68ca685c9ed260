"""Two sensor boards: walk away with the reader until it can't be reached, twice with each, then once behind the barn."""

import numpy as np
import pytest

from tallmast.report.write import write

N = 3.0
PLACES_M = (15, 20, 26, 34, 44, 58, 75, 98, 127)


class Meadow:
    """How far each board reaches: a level that falls with d³, places that scatter, a barn that takes 8 dB."""

    def __init__(self) -> None:
        self.random = np.random.default_rng(21)

    def fails_at(self, board: str, barn: bool) -> float:
        level_db = {"Short": 0.0, "Long": 14.0}[board] - (8.0 if barn else 0.0)
        return 30.0 * 10 ** ((level_db + self.random.normal(0, 1.5)) / (10 * N))


@pytest.fixture
def walked(hands):
    """The day, by keys: places as paced off, each run with what was heard at the last good one and the first lost."""
    hands.write("q", {"text": "Which board is heard farther?", "band": "868 MHz"}, "ask question")
    for name in ("Short", "Long"):
        hands.write("a", {"name": name}, "add antenna")
    hands.write("l", {"name": "Board", "position": "57.9000, -11.2000"}, "place")
    for metres in PLACES_M:
        hands.write("l", {"name": f"{metres} m", "position": f"{metres} m north"}, "place")
    meadow = Meadow()
    for board, path in (("Short", ""), ("Long", ""), ("Long", ""), ("Short", ""), ("Long", "behind the barn")):
        fails = meadow.fails_at(board, bool(path))
        run = {"antenna": board, "power": "10 mW", "pad": "0", "path": path}
        hands.write("r", run, "run")
        for metres in (max(m for m in PLACES_M if m < fails), min(m for m in PLACES_M if m > fails)):
            said = "heard" if metres < fails else "nothing"
            hands.write("n", {"what": said, "place": f"{metres} m", "end": "far end"}, "reading")
    return hands


def test_lost_at_the_ratio_and_what_it_is_worth(walked, tmp_path):
    walked.press("5")
    assert walked.sentence.startswith("Long reaches ") and " times as far " in walked.sentence
    field = walked.window.session.climb.field
    (boards,) = (c for c in field.contrasts if c.change.factor == "antenna")
    low, high = boards.farther.interval
    assert low < 10 ** (14.0 / (10 * N)) < high, "the truth is inside"
    low, high = boards.figure.interval
    assert low < 14.0 < high
    assert f"It stands for {boards.figure.text}." in walked.window.views["field"].detail.text()
    walked.press("7")
    assert walked.sentence == field.sentence, "Field and Verdict say the same"
    write(walked.window.session.climb, tmp_path / "report.html")
    assert field.sentence in (tmp_path / "report.html").read_text()


def test_the_barn_is_told_apart_from_the_boards(walked):
    """Caught: the run behind the barn is no third try with the long board."""
    walked.press("5")
    field = walked.window.session.climb.field
    (barn,) = (c for c in field.contrasts if c.change.factor == "path")
    assert (barn.change.since, len(barn.changes), barn.scale) == ("behind the barn", 1, "reach")
    low, high = barn.farther.interval
    assert low < 10 ** (8.0 / (10 * N)) < high
