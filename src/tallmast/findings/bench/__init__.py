"""Bench: is it matched, where, and can the reading be believed."""

from .cables import CableReading
from .ladder import LadderRung
from .match import MatchProposal
from .meter import MeterJudgement
from .reading import SweepReading
from .swr import judge_limit, swr_figure
from .tell import AntennaBench, BenchFinding, find

__all__ = [
    "AntennaBench",
    "BenchFinding",
    "CableReading",
    "LadderRung",
    "MatchProposal",
    "MeterJudgement",
    "SweepReading",
    "find",
    "judge_limit",
    "swr_figure",
]
