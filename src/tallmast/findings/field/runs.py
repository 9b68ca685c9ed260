"""The factors of runs, and what changed between them: against a baseline one thing may, two are told as one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from functools import partial
from typing import Literal

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Branch, Run
from tallmast.notebook.records.lists import Treatment
from tallmast.units import show

ALSO_ON, POSE = "also on", "pose"
"""Of a branch without a port: one that stayed on beside the antenna compared; and how that one itself was held."""
FactorKind = Literal["compared", "known step", "block", "left out"]
"""Its effect is wanted; it is known in dB and taken out; comparisons are made within it and pooled; or it does nothing."""
Verdict = Literal["baseline", "one thing", "same", "several things", "taken in", "another manner"]


Tried = tuple[str, str]
"""What a run tried: an antenna's id and that of its state. A trimmed antenna is no repeat of the one that it was."""


def tried(evidence: Evidence, run: Run) -> Tried:
    """The antenna of a run in the state of that day; where none was noted, in its present one."""
    antenna = evidence.antenna(run.antenna_id)
    return run.antenna_id, run.state_id or (antenna.state.id if antenna else "")


class Factor(Frozen):
    """Something that may differ from run to run; `level` tells how it was, in short words, empty where nobody noted it."""

    name: str
    kind: FactorKind
    level: Callable[[Evidence, Run], str]


def _antenna(evidence: Evidence, run: Run) -> str:
    antenna = evidence.antenna(run.antenna_id)
    if antenna is None:
        return "unknown"
    other = run.state_id and run.state_id != antenna.state.id
    return antenna.name + (f", {antenna.state_name(run.state_id)}" if other else "")


def _far_antenna(evidence: Evidence, run: Run) -> str:
    antenna = evidence.antenna(run.far_antenna_id)
    return antenna.name if antenna else ""


def branches_of(evidence: Evidence, run: Run) -> list[Branch]:
    """As they were in a run: as it says, else as its ends are noted."""
    if run.branches:
        return run.branches
    home, far = evidence.home_end, evidence.far_end
    return [*(home.branches if home else ()), *(b.revised(end="away") for b in (far.branches if far else ()))]


def others_on(evidence: Evidence, run: Run) -> list[Branch]:
    """Those of home that took what there was beside the antenna compared."""
    mine = [b for b in branches_of(evidence, run) if b.end == "home" and b.antenna_id != run.antenna_id]
    return [b for b in mine if b.connected and not b.covered]


def _branch_name(run: Run, branch: Branch) -> str:
    """What is the same of a branch from run to run: its port; without one, whether it is the one compared."""
    where = "far " if branch.end == "away" else ""
    if branch.port:
        # “Left” and “left” are one port, and so are “a” and “A”.
        return f"{where}port {branch.port.upper() if len(branch.port) == 1 else branch.port.lower()}"
    compared = run.far_antenna_id if branch.end == "away" else run.antenna_id
    return where + (POSE if branch.antenna_id == compared else ALSO_ON)


def _branches(name: str, evidence: Evidence, run: Run) -> str:
    """How the branches of a name were: which antenna, where that is not the one compared, and how it was held."""
    words = []
    for branch in branches_of(evidence, run):
        if _branch_name(run, branch) == name:
            compared = branch.antenna_id == (run.far_antenna_id if branch.end == "away" else run.antenna_id)
            held = branch.held or (("on",) if compared else ())
            words.append(", ".join([*([] if compared else [evidence.title(branch.antenna_id)]), *held]))
    return " and ".join(sorted(words))


def _place(evidence: Evidence, run: Run) -> str:
    place = evidence.place(run.place_id)
    return place.name if place else ""


def _own(name: str, evidence: Evidence, run: Run) -> str:
    return run.other.get(name, "")


FACTORS = (
    Factor("antenna", "compared", _antenna),
    Factor("far antenna", "compared", _far_antenna),
    Factor("power", "known step", lambda evidence, run: show.power(run.power_w) if run.power_w else ""),
    Factor("pad", "known step", lambda evidence, run: f"{run.pad_db:g} dB"),
    Factor("rate", "compared", lambda evidence, run: run.rate),
    Factor("mode", "block", lambda evidence, run: run.mode),
    Factor("channel", "block", lambda evidence, run: show.frequency(run.channel_hz) if run.channel_hz else ""),
    Factor("place", "block", _place),
    Factor("path", "compared", lambda evidence, run: run.path),
    Factor("height", "compared", lambda evidence, run: f"{run.height_m:g} m" if run.height_m is not None else ""),
    Factor("battery", "compared", lambda evidence, run: run.battery),
    Factor("weather", "block", lambda evidence, run: run.weather),
    Factor("day", "block", lambda evidence, run: run.day),
    Factor("listener", "block", lambda evidence, run: run.listener),
)
ANTENNA, FAR_ANTENNA = (factor.name for factor in FACTORS[:2])
OWN = "own "
"""Before a user's own name of a factor that every run has under the same name."""
NAMES = frozenset((*(factor.name for factor in FACTORS), ALSO_ON, POSE))


def factors_of(evidence: Evidence, runs: Iterable[Run]) -> tuple[Factor, ...]:
    """Every factor: those that every run has, its branches, those by the user's own names."""
    runs = list(runs)
    own = dict.fromkeys(name for run in runs for name in run.other)
    branches = dict.fromkeys(_branch_name(run, branch) for run in runs for branch in branches_of(evidence, run))
    held = tuple(Factor(name, "compared", partial(_branches, name)) for name in branches)
    return FACTORS + held + tuple(Factor(own_name(name), "compared", partial(_own, name)) for name in own)


def own_name(name: str) -> str:
    """Of a factor by the user's own name, apart from those that every run has."""
    return OWN + name if name.lower() in NAMES else name


class RunRow(Frozen):
    """One run in the what-changed table."""

    run: Run
    antenna: str
    factors: dict[str, str]
    """Level by factor."""
    kinds: dict[str, FactorKind]
    """Of those that count: what was another in every run does not."""
    changed: tuple[str, ...]
    """Factors that differ from the baseline of its manner."""
    verdict: Verdict
    baseline: int
    """Number of the run that it is held against."""

    @property
    def compared(self) -> bool:
        """Whether it takes part in the comparison of antennas, whatever it was read on."""
        return self.verdict in ("baseline", "same", "taken in") or (
            self.verdict == "one thing" and self.changed == (ANTENNA,)
        )

    @property
    def same_in_db(self) -> bool:
        """Whether it differs in nothing but the antenna once known steps of power and pads are taken out of its levels."""
        unknown = [name for name in self.changed if self.kinds[name] != "known step"]
        return self.compared or unknown in ([], [ANTENNA])

    @property
    def setting(self) -> dict[str, str]:
        """Its levels without the known steps, as they count in a comparison of levels."""
        return {name: self.factors[name] for name, kind in self.kinds.items() if kind != "known step"}

    @property
    def words(self) -> str:
        if self.verdict == "several things":
            return f"{show.count(len(self.changed), 'thing')} changed"
        if self.verdict == "one thing" and self.changed != (ANTENNA,):
            return f"{self.changed[0]} changed"
        if self.verdict == "same" and self.run.manner in ("flight", "orbit"):
            return "same setting"  # a climb after an orbit is another way, and no repeat
        return {"same": "repeats it", "one thing": "one thing", "baseline": "baseline", "taken in": "taken in"}.get(
            self.verdict, self.verdict
        )


HAPPENS = ("battery", "weather", "day", "listener")
"""What nobody sets, but finds."""
STRAYS, NEARLY_EVERY = 4, 0.75
"""Runs from which on something that is another in more than such a share of them is no factor."""


def incidental(factors: Mapping[str, Mapping[str, str]]) -> set[str]:
    """What happened to be another in every run, or nearly, while antennas came again (a battery's volts, degrees): nothing can
    be told of it, and it belongs to what makes runs differ. What somebody sets, such as a height, is never among them.
    `factors`: levels by run."""
    runs = list(factors.values())
    tries = Counter(run[ANTENNA] for run in runs)
    if len(runs) < STRAYS or len(tries) < 2 or min(tries.values()) < 2:
        return set()
    return {name for name in HAPPENS if len({run[name] for run in runs}) > NEARLY_EVERY * len(runs)}


def treated(evidence: Evidence, factors: Iterable[Factor]) -> dict[str, Treatment]:
    """How the question says that factors are meant, by their names; the antenna is always compared."""
    said = {name.lower(): how for name, how in evidence.question.treated.items()} if evidence.question else {}
    names = [factor.name for factor in factors if factor.name != ANTENNA]
    return {name: said[plain] for name in names if (plain := name.removeprefix(OWN).lower()) in said}


def what_changed(evidence: Evidence) -> tuple[RunRow, ...]:
    """Every run against the baseline of its manner (boat with boat, flight with flight).

    The baseline is the earliest run whose factors other than the antenna are the commonest of its manner; for a run that
    differs from it in antenna and one thing more, a run of the same antenna in the baseline's setting.
    """
    runs = evidence.runs
    every = factors_of(evidence, runs)
    factors = {run.id: {factor.name: factor.level(evidence, run) for factor in every} for run in runs}
    said = treated(evidence, every)
    stray = incidental(factors) - set(said)
    kinds = {factor.name: said.get(factor.name, factor.kind) for factor in every if factor.name not in stray}
    kinds = {name: kind for name, kind in kinds.items() if kind != "left out"}
    baselines: dict[str, Run] = {}
    for manner in {run.manner for run in runs}:
        mine = [run for run in runs if run.manner == manner]
        setting = {run.id: tuple(factors[run.id][k] for k in kinds if k != ANTENNA) for run in mine}
        commonest = Counter(setting.values()).most_common(1)[0][0]
        baselines[manner] = next(run for run in mine if setting[run.id] == commonest)

    def differing(own: dict[str, str], theirs: dict[str, str]) -> tuple[str, ...]:
        return tuple(name for name in kinds if own[name] != theirs[name])

    rows = []
    for run in runs:
        base = baselines[run.manner]
        own, theirs = factors[run.id], factors[base.id]
        changed = differing(own, theirs)
        if len(changed) == 2 and ANTENNA in changed:
            alike = {**theirs, ANTENNA: own[ANTENNA]}
            same = next(
                (
                    other
                    for other in runs
                    if other.manner == run.manner and all(factors[other.id][k] == alike[k] for k in kinds)
                ),
                None,
            )
            if same is not None:
                base, theirs = same, alike
                changed = differing(own, theirs)
        verdict: Verdict
        if run.id == base.id:
            verdict = "baseline"
        elif not changed:
            verdict = "same"
        elif len(changed) == 1:
            verdict = "one thing"
        else:
            verdict = "taken in" if run.taken_in_reason else "several things"
        rows.append(RunRow(run, own[ANTENNA], own, kinds, changed, verdict, base.number))
    return tuple(rows)
