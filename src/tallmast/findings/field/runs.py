"""What changed between runs, against a baseline: one thing may, two make a run incomparable."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import Literal

from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Run
from tallmast.units import show

FACTORS = ("antenna", "power", "pad", "rate", "channel", "place", "path", "height", "battery", "weather")
Verdict = Literal["baseline", "one thing", "same", "several things", "taken in", "another manner"]


@dataclass(frozen=True, eq=False, repr=False)
class RunRow:
    """One run in the what-changed table."""

    run: Run
    antenna: str
    factors: dict[str, str]
    changed: tuple[str, ...]
    """Factors that differ from the baseline of its manner."""
    verdict: Verdict
    baseline: int
    """Number of the run that it is held against."""

    @property
    def compared(self) -> bool:
        """Whether it takes part in the comparison of antennas."""
        return self.verdict in ("baseline", "same", "taken in") or (
            self.verdict == "one thing" and self.changed == ("antenna",)
        )

    @property
    def words(self) -> str:
        if self.verdict == "several things":
            return f"{show.count(len(self.changed), 'thing')} changed"
        if self.verdict == "one thing" and self.changed != ("antenna",):
            return f"{self.changed[0]} changed"
        return {"same": "repeats it", "one thing": "one thing", "baseline": "baseline", "taken in": "taken in"}.get(
            self.verdict, self.verdict
        )


def factors_of(evidence: Evidence, run: Run) -> dict[str, str]:
    """The run's factors as short words; empty where nothing was noted."""
    antenna = evidence.antenna(run.antenna_id)
    place = evidence.place(run.place_id)
    name = antenna.name if antenna else "unknown"
    if antenna and run.state_id and run.state_id != antenna.state.id:
        name += f", {antenna.state_name(run.state_id)}"
    return {
        "antenna": name,
        "power": show.power(run.power_w),
        "pad": f"{run.pad_db:g} dB",
        "rate": run.rate,
        "channel": show.frequency(run.channel_hz) if run.channel_hz else "",
        "place": place.name if place else "",
        "path": run.path,
        "height": f"{run.height_m:g} m" if run.height_m is not None else "",
        "battery": run.battery,
        "weather": run.weather,
    }


def _differing(own: dict[str, str], theirs: dict[str, str]) -> tuple[str, ...]:
    return tuple(name for name in FACTORS if own[name] != theirs[name])


def what_changed(evidence: Evidence) -> tuple[RunRow, ...]:
    """Every run against the baseline of its manner (boat with boat, flight with flight).

    The baseline is the earliest run whose factors other than the antenna are the commonest of its manner; for a run that
    differs from it in antenna and one thing more, a run of the same antenna in the baseline's setting.
    """
    runs = evidence.runs
    factors = {run.id: factors_of(evidence, run) for run in runs}
    baselines: dict[str, Run] = {}
    for manner in {run.manner for run in runs}:
        mine = [run for run in runs if run.manner == manner]
        setting = {run.id: tuple(v for k, v in factors[run.id].items() if k != "antenna") for run in mine}
        commonest = Counter(setting.values()).most_common(1)[0][0]
        baselines[manner] = next(run for run in mine if setting[run.id] == commonest)
    rows = []
    for run in runs:
        base = baselines[run.manner]
        own, theirs = factors[run.id], factors[base.id]
        changed = _differing(own, theirs)
        if len(changed) == 2 and "antenna" in changed:
            alike = {**theirs, "antenna": own["antenna"]}
            same = next((other for other in runs if other.manner == run.manner and factors[other.id] == alike), None)
            if same is not None:
                base, theirs = same, alike
                changed = _differing(own, theirs)
        verdict: Verdict
        if run.id == base.id:
            verdict = "baseline"
        elif not changed:
            verdict = "same"
        elif len(changed) == 1:
            verdict = "one thing"
        else:
            verdict = "taken in" if run.taken_in_reason else "several things"
        rows.append(RunRow(run, own["antenna"], own, changed, verdict, base.number))
    return tuple(rows)
