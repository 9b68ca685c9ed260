"""The model of the day: from the notes as they stand to its answer for the two best, warm from the day before the last note."""

from __future__ import annotations

import resource
import time
from collections.abc import Sequence

import numpy as np

from tallmast.findings.field.model.day import day_of
from tallmast.findings.field.model.noted import Note, RunOfDay, Spot
from tallmast.physics.design import Change

LIMITS_S = {
    "100 grades": 0.15,
    "100 grades and levels": 0.15,
    "300 of four kinds, six antennas": 0.5,
    "5 000 levels": 4.0,
}
MOST_MB = 600.0
"""Of memory at the peak, over what the process had before."""


def _day(antennas: int, runs: int, places: int, kinds: Sequence[str]) -> tuple[list[RunOfDay], list[Note]]:
    """Levels that scatter as a day's do, read in several ways; always the same."""
    rng = np.random.default_rng(2)
    names = [chr(65 + i) for i in range(antennas)]
    order = [names[i % antennas] if (i // antennas) % 2 == 0 else names[-1 - i % antennas] for i in range(runs)]
    made = [RunOfDay(i + 1, {"antenna": a}, {"antenna": "compared"}) for i, a in enumerate(order)]
    place = rng.normal(0.0, 8.0, places)
    gain = dict(zip(names, rng.normal(0.0, 4.0, antennas), strict=True))
    meets = {name: rng.normal(0.0, 2.0, places) for name in names}
    said = []
    for i, name in enumerate(order):
        level = place + gain[name] + meets[name] + rng.normal(0.0, 0.7) + rng.normal(0.0, 1.5, places)
        for k in range(places):
            spot, here = Spot(f"s{k}"), float(level[k])
            grade = float(np.clip(3 + here / 5, 0, 5) // 1)
            read = {
                "level": float(round(here - 80.0)),
                "readability": grade,
                "bit rate": round(54.0 / (1.0 + np.exp(-here / 4.0)), 1),
                "dropouts": float(rng.poisson(np.exp(1.5 - 0.2 * here))),
            }
            for kind in kinds:
                lost = kind == "readability" and not grade
                said.append(Note(i, spot, "heard" if lost else kind, 0.0 if lost else read[kind]))
    return made, said


def run() -> tuple[str, bool]:
    days = {
        "100 grades": _day(2, 10, 10, ["readability"]),
        "100 grades and levels": _day(2, 5, 10, ["readability", "level"]),
        "300 of four kinds, six antennas": _day(6, 12, 6, ["readability", "level", "bit rate", "dropouts"]),
        "5 000 levels": _day(5, 10, 500, ["level"]),
    }
    words, good = [], True
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    for name, (runs, said) in days.items():
        day_of(runs, said)  # what is made once in a process is made
        start = time.perf_counter()
        day = day_of(runs, said)
        assert day is not None
        day.here([Change("antenna", "A", "B")])
        took = time.perf_counter() - start
        good &= took <= LIMITS_S[name]
        words.append(f"{name} {1e3 * took:.0f} ms (limit {1e3 * LIMITS_S[name]:.0f})")
    used = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024.0
    words.append(f"{used:.0f} MB more at the peak (limit {MOST_MB:.0f})")
    return "model of the day: " + ", ".join(words), good and used <= MOST_MB
