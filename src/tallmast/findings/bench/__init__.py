"""Bench: is it matched, where, and can the reading be believed."""

from .bands import BandBench, by_band
from .cables import CableReading
from .ladder import LadderRung
from .match import MatchProposal
from .meter import MeterJudgement
from .reading import SweepReading
from .swr import judge_limit, swr_figure
from .tell import AntennaBench, BenchFinding, find

__all__ = [
    "AntennaBench",
    "BandBench",
    "BenchFinding",
    "CableReading",
    "LadderRung",
    "MatchProposal",
    "MeterJudgement",
    "SweepReading",
    "by_band",
    "find",
    "judge_limit",
    "swr_figure",
]
