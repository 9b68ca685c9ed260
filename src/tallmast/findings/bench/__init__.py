"""Bench: is it matched, where, and can the reading be believed."""

from .meter import MeterJudgement
from .reading import SweepReading, judge_limit, swr_figure
from .tell import AntennaBench, BenchFinding, find

__all__ = ["AntennaBench", "BenchFinding", "MeterJudgement", "SweepReading", "find", "judge_limit", "swr_figure"]
