"""The chance that an antenna is the best of those that can be ranked."""

from __future__ import annotations

import math

from tallmast.physics.statistics import coverage_factor, normal_cdf

from .field import FieldFinding
from .gain import GainEvidence
from .link import Margin


def chances_of(rankable: list[Margin], field: FieldFinding, gains: dict[str, GainEvidence]) -> dict[str, float]:
    """Chance of each to be the best, by antenna.

    What is common to all (path, sensitivity, power) does not change the order. Two that were run over the same places
    differ by as much as that comparison leaves open, with its few degrees of freedom; others by what is known of each
    alone. From the pairs, as if they were told apart one after the other; exact for two.
    """

    def better(a: Margin, b: Margin) -> float:
        ahead = a.figure.value - b.figure.value
        seen = field.difference(a.antenna.id, b.antenna.id)
        if seen is not None and seen.u > 0 and a.basis == b.basis == "measured":
            return float(normal_cdf(ahead / seen.u))
        return float(normal_cdf(ahead / math.hypot(*(_own_u(m, field, gains) for m in (a, b)))))

    shares = {a.antenna.id: math.prod(better(a, b) for b in rankable if b is not a) for a in rankable}
    whole = sum(shares.values())
    return {antenna_id: share / whole for antenna_id, share in shares.items()}


def _own_u(margin: Margin, field: FieldFinding, gains: dict[str, GainEvidence]) -> float:
    """The part of a margin's uncertainty that is the antenna's own, dB."""
    group = field.main
    tried = group.walked(margin.antenna.id) if group else None
    if group and group.fit and tried is not None:
        runs = group.fit.runs[tried]
        widen = coverage_factor(group.spread.degrees) / coverage_factor(float("inf"))
        return float(max(widen * group.spread.s_db / runs**0.5, 0.1))
    return max(gains[margin.antenna.id].working_value().u, 0.1)
