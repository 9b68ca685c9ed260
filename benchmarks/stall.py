"""The longest that the event loop stood still while the whole story is driven by keys: at most 100 ms."""

from __future__ import annotations

import os
import re
import statistics
import subprocess
import sys

LIMIT_MS = 100.0
TIMES = 3
STORY = "tests/desk/test_story.py::test_from_question_to_report_by_keys_alone"


def run() -> tuple[str, bool]:
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    longest, own = [], []
    for _ in range(TIMES):
        told = subprocess.run(
            [sys.executable, "-m", "pytest", "-q", "-s", "-n0", STORY],
            check=True,
            capture_output=True,
            text=True,
            env=environment,
        ).stdout
        found = re.search(r"longest stall (\d+) ms, own work (\d+) ms", told)
        assert found is not None, told
        longest.append(float(found[1]))
        own.append(float(found[2]))
    middle = statistics.median(longest)
    each = ", ".join(f"{ms:.0f}" for ms in longest)
    return (
        f"{middle:.0f} ms at the longest in the story by keys (limit {LIMIT_MS:.0f}; runs: {each};"
        f" the window's own work: {statistics.median(own):.0f})",
        middle <= LIMIT_MS,
    )
