"""The Verdict: the question that was asked, answered from whatever evidence there is."""

from .claims import judge_claims
from .finding import ClaimFate, Ranked, VerdictFinding
from .tell import find

__all__ = ["ClaimFate", "Ranked", "VerdictFinding", "find", "judge_claims"]
