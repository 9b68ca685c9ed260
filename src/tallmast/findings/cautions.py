"""What can hurt somebody, and what to mind: every hazard a row, under the activity that has it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from typing import Literal

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Craft, Emitter, RunKind

from .levels.clear import NEAR_M, Radiated

Activity = Literal[
    "transmit",
    "fly",
    "drive",
    "climb",
    "boat",
    "range by laser",
    "cut and solder",
    "work beside high power",
    "carry lithium",
    "connect an analyzer",
    "be outdoors",
]
CLIMBED_M = 3.0
"""An antenna that stands higher than this is climbed to."""
HIGH_POWER_W = 50.0
STRONG_V_PER_M = 10.0
OUT_OF_DOORS = ("pattern", "field", "link")


class Caution(Frozen, eq=True):
    """One hazard of one activity."""

    activity: Activity
    hazard: str
    words: str


CAUTIONS = (
    Caution("transmit", "no load", "never without an antenna or a load"),
    Caution("transmit", "licence", "band, power and duty as your licence says"),
    Caution("fly", "lost craft", "return-home tried, a third of the battery in reserve"),
    Caution("fly", "people", "a spotter, permission, never over people"),
    Caution("fly", "failing craft", "land at vibration, heat or a lost link"),
    Caution("drive", "attention", "whoever drives does not log"),
    Caution("climb", "live sender", "nobody beside a live sender"),
    Caution("climb", "fall", "trained, secured, not alone, clear of power lines"),
    Caution("boat", "water", "life jackets, two people, mind tide and weather"),
    Caution("range by laser", "eyes", "never into eyes, windows or aircraft"),
    Caution("cut and solder", "eyes and lungs", "eyes covered, fumes drawn off"),
    Caution("cut and solder", "live sender", "nothing sends into what is worked on"),
    Caution("work beside high power", "field", "have it switched off, or keep its owner’s distance"),
    Caution("work beside high power", "burns", "leads, loads and pads grow hot"),
    Caution("carry lithium", "fire", "terminals covered, out of heat, leave a swollen one"),
    Caution("connect an analyzer", "static", "drain static from the antenna first"),
    Caution("be outdoors", "lightning", "at thunder the day ends"),
    Caution("be outdoors", "alone", "two people where help is far"),
)
WHO_DECIDES = "Local rules and licensed people decide."
TITLES: dict[Activity, str] = {
    "transmit": "On the air",
    "fly": "Before flying",
    "drive": "Driving",
    "climb": "Climbing",
    "boat": "On the water",
    "range by laser": "Laser",
    "cut and solder": "Cutting, soldering",
    "work beside high power": "Beside high power",
    "carry lithium": "Lithium packs",
    "connect an analyzer": "Analyzer",
    "be outdoors": "Outdoors",
}


class Situation(Frozen):
    """What is done on a rung, as far as the notebook shows it."""

    rung: str
    evidence: Evidence
    reworked: bool = False
    """Whether the Bench advises to trim or match."""

    def manner(self, *kinds: RunKind) -> bool:
        return any(run.manner in kinds for run in self.evidence.runs)

    def noted(self, pattern: str) -> bool:
        return self.evidence.once(f"noted {pattern}", lambda evidence: _noted(evidence, pattern))

    @property
    def own_power_w(self) -> float:
        home = self.evidence.home_end
        return (home.most_w or 0.0) if home is not None else 0.0


def _noted(evidence: Evidence, pattern: str) -> bool:
    """Whether any words that somebody wrote mention it."""
    return re.search(pattern, evidence.once("words", _words), re.IGNORECASE) is not None


def _words(evidence: Evidence) -> str:
    """All that somebody wrote, each once, a line each."""
    names = ("note", "handling", "fixture", "name", "other", "weather", "what")
    every = (getattr(record, name, "") for record in evidence.records() for name in names)
    return "\n".join(dict.fromkeys(value for value in every if isinstance(value, str)))


def _near(emitter: Emitter) -> bool:
    """Whether people are in a strong field of it, or so near that they may come to be."""
    if emitter.field_v_per_m is not None:
        return emitter.field_v_per_m >= STRONG_V_PER_M
    return emitter.distance_m is not None and emitter.distance_m <= NEAR_M


def _flies(at: Situation) -> bool:
    return at.manner("flight") or bool(at.evidence.all(Craft))


def _high_up(at: Situation) -> bool:
    heights = [place.height_m for place in at.evidence.places]
    heights += [run.height_m for run in at.evidence.runs if run.height_m is not None and run.manner != "flight"]
    return max(heights, default=0.0) >= CLIMBED_M


class _Row(Frozen):
    """Of an activity: on which rungs it is minded, and how the notebook shows that it is done."""

    rungs: tuple[str, ...]
    shown: Callable[[Situation], bool]


ACTIVITIES: dict[Activity, _Row] = {
    "transmit": _Row(("bench", "levels", "pattern", "field", "link", "verdict"), lambda at: True),
    "fly": _Row(OUT_OF_DOORS, _flies),
    "drive": _Row(("field", "link"), lambda at: at.manner("drive")),
    "climb": _Row((*OUT_OF_DOORS, "verdict"), _high_up),
    "boat": _Row(OUT_OF_DOORS, lambda at: at.manner("boat")),
    "range by laser": _Row(OUT_OF_DOORS, lambda at: at.noted(r"laser|range-?finder")),
    "cut and solder": _Row(("bench",), lambda at: at.reworked or at.noted(r"solder")),
    "work beside high power": _Row(
        ("bench", "levels", "field", "link"),
        lambda at: at.own_power_w >= HIGH_POWER_W or any(map(_near, at.evidence.all(Emitter))),
    ),
    "carry lithium": _Row(
        OUT_OF_DOORS,
        lambda at: (
            _flies(at) or any(run.battery for run in at.evidence.runs) or at.noted(r"\bli-?(?:ion|po)\b|lithium")
        ),
    ),
    "connect an analyzer": _Row(("bench",), lambda at: True),
    "be outdoors": _Row(("pattern", "field"), lambda at: bool(at.evidence.runs or at.evidence.places)),
}
BY_MANNER: dict[RunKind, tuple[Activity, ...]] = {
    "flight": ("fly", "carry lithium"),
    "drive": ("drive",),
    "boat": ("boat",),
}
"""What a run is, beside being outdoors and on the air."""


def cautions(at: Situation, radiated: Callable[[], Radiated | None]) -> tuple[str, ...]:
    """What to mind on a rung, line by line; how far to stand away first. None on a rung where nothing is done."""
    done = [activity for activity, row in ACTIVITIES.items() if at.rung in row.rungs and row.shown(at)]
    if not done:
        return ()
    distance: tuple[str, ...] = ()
    if "transmit" in done:
        known = radiated()
        distance = known.words if known is not None else ("Keep clear of the antenna.",)
    return (*distance, *_of(done), WHO_DECIDES)


def for_activity(activity: Activity) -> str:
    """What to mind of one activity."""
    return " ".join(_of((activity,)))


def for_manner(manner: RunKind) -> str:
    """What to mind of a run before it is made; empty of one that is but walked."""
    return " ".join(_of(BY_MANNER.get(manner, ())))


def _of(activities: Sequence[Activity]) -> Iterator[str]:
    """A line for each."""
    for activity in activities:
        yield f"{TITLES[activity]}: {'; '.join(row.words for row in CAUTIONS if row.activity == activity)}."
