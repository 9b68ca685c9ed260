"""Every kind of reading tells the same difference of 8 dB, each on its own scale."""

import numpy as np
import pytest

from tallmast.findings.field.model.day import day_of
from tallmast.findings.field.model.kinds import KINDS
from tallmast.findings.field.model.noted import Note, RunOfDay, Spot
from tallmast.physics.design import Change

CHANGE = [Change("antenna", "A", "B")]
AHEAD_DB, PLACES, ORDER = 8.0, 6, "ABBA"

SHOWN = {
    "level": lambda level: float(round(level)),
    "cell": lambda level: level,
    "S units": lambda level: float(round(9.0 + (level + 73.0) / 6.0)),
    "readability": lambda level: float(np.clip((level + 100.0) // 6.0, 0, 5)),
    "picture grade": lambda level: float(np.clip((level + 100.0) // 6.0, 0, 5)),
    "bars": lambda level: float(np.clip((level + 98.0) // 6.0, 0, 5)),
    "bit rate": lambda level: round(50.0 / (1.0 + np.exp(-(level + 82.0) / 4.5)), 1),
    "packet rate": lambda level: round(100.0 / (1.0 + np.exp(-(level + 82.0) / 4.5))),
    "usable": lambda level: round(100.0 / (1.0 + np.exp(-(level + 82.0) / 4.5))),
    "delay": lambda level: round(40.0 * np.exp(-(level + 82.0) / 5.0), 1),
    "dropouts": lambda level: float(round(6.0 * np.exp(-0.2 * (level + 82.0)))),
    "counts": lambda level: float(round(2.0 * (level + 120.0))),
    "warning": lambda level: round(0.3 * (level + 120.0), 1),
    "fade depth": lambda level: round(30.0 - 0.5 * (level + 100.0), 1),
    "heard": lambda level: float(level > -83.0),
}


def noted(kind: str, power_db: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0)) -> tuple[list[RunOfDay], list[Note]]:
    rng = np.random.default_rng(8)
    place, meets = rng.normal(-82.0, 5.0, PLACES), rng.normal(0.0, 1.0, (2, PLACES))
    kinds = {"antenna": "compared", "power": "known step"}
    runs = [
        RunOfDay(i + 1, {"antenna": a, "power": f"{p:g}"}, kinds, power_db=p)
        for i, (a, p) in enumerate(zip(ORDER, power_db, strict=True))
    ]
    said = []
    for i, (name, power) in enumerate(zip(ORDER, power_db, strict=True)):
        mine = "AB".index(name)
        level = (
            place
            + (0.0 if mine else AHEAD_DB)
            + power
            + meets[mine]
            + rng.normal(0.0, 0.5)
            + rng.normal(0.0, 1.0, PLACES)
        )
        for k in range(PLACES):
            value = SHOWN[kind](float(level[k]))
            lost = kind in ("readability", "picture grade") and value == 0.0
            said.append(Note(i, Spot(f"s{k}"), "heard" if lost else kind, 0.0 if lost else value))
    return runs, said


def test_every_row_is_tried():
    assert set(SHOWN) == set(KINDS)


@pytest.mark.parametrize("kind", KINDS)
def test_a_kind_tells_which_is_better_and_by_how_much(kind):
    day = day_of(*noted(kind))
    told = day.change(CHANGE)
    low, high = told.quantile([0.05, 0.95])
    assert told.chance_above(0.0) > 0.95
    assert low < AHEAD_DB < high


@pytest.mark.parametrize("kind", ["readability", "bars", "bit rate", "delay"])
def test_a_known_step_of_power_says_what_a_step_of_the_scale_is_worth(kind):
    """Two runs with 10 dB less: the same answer, nearer, though none of the four is a repeat any more."""

    def width(power_db: tuple[float, ...]) -> float:
        low, high = day_of(*noted(kind, power_db)).here(CHANGE).quantile([0.05, 0.95])
        assert low < AHEAD_DB + 1.0
        assert high > AHEAD_DB - 1.0
        return float(high - low)

    assert width((0.0, 0.0, -10.0, -10.0)) < width((0.0, 0.0, 0.0, 0.0))


def test_a_step_that_is_known_is_no_factor():
    day = day_of(*noted("level", (0.0, 0.0, -10.0, -10.0)))
    assert day.model.factors == ["antenna"]


def test_nothing_noted_is_no_day():
    assert day_of([], []) is None


def test_nothing_that_came_back_beside_grades_is_the_longest_delay():
    """A delay without end is no step of any scale, and binds as the worst there is."""
    runs, said = noted("readability")
    spot = Spot("beside")
    said += [Note(i, spot, "delay", 30.0 if run.levels["antenna"] == "A" else np.inf) for i, run in enumerate(runs)]
    assert day_of(runs, said).here(CHANGE).chance_above(0.0) > 0.95
