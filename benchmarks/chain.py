"""A link of thirty steps climbed again with ten thousand draws, as while a hand drags one: against a frame of 16 ms."""

from __future__ import annotations

import time
from statistics import median

from msgspec.structs import replace

from tallmast.findings.levels.staircase import Limit, Plan, Planned, climb
from tallmast.physics.statistics import DRAWS

LIMIT_MS = 16.0
STEPS = 30


def plan() -> Plan:
    steps = [Planned("power", "radio", 14.0, 0.3, least_db=-40.0, most_db=60.0)]
    for i in range(STEPS - 2):
        limits = (Limit(f"limit {i}", 10.0, "under", "before"),)
        steps.append(Planned(f"step {i}", f"step {i}", -2.0, 0.1, 0.3, "near", 0.5, limits, -60.0, 0.0))
    steps.append(
        Planned("end", "receiver", 3.0, 0.5, part="far", limits=(Limit("sensitivity", -120.0, "over", u_db=1.0),))
    )
    return Plan("out", tuple(steps))


def run() -> tuple[str, bool]:
    made = plan()
    climb(made)  # the draws are made once
    taken = []
    for k in range(60):
        moved = replace(made, changed={"step 7": -0.5 * k})
        began = time.perf_counter()
        climb(moved)
        taken.append((time.perf_counter() - began) * 1e3)
    typical, worst = median(taken), max(taken)
    line = f"{STEPS} steps with {DRAWS} draws in {typical:.1f} ms, {worst:.1f} ms at worst (limit {LIMIT_MS:g})"
    return line, typical <= LIMIT_MS


if __name__ == "__main__":
    print(run()[0])
